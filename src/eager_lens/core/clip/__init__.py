"""Clips of real cameras: what they were sent as, what is in them, and what other settings would make of them."""
