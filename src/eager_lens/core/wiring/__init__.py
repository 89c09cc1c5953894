"""What a link carries."""
