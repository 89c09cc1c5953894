"""What a lens sees."""
