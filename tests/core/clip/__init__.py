"""Clips: measured, looked into, encoded again."""
