"""The way back: from limits to settings."""
