"""Channels: which camera is on which channel of which recorder."""
