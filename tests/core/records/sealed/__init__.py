"""Secrets and their sealed file."""
