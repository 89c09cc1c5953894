"""Clocks that drift apart."""
