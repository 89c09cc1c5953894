"""Eager Lens: a commissioning desk for jobs of cameras and recorders."""

__version__ = "0.1.0"
