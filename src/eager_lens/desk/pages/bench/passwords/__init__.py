"""Passwords of devices, in the sealed file."""
