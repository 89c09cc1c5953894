"""Eager Lens: a commissioning desk for jobs of cameras and recorders."""

import os

# Looking for plugins of pydantic means reading the metadata of every installed package, at each start.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")

__version__ = "0.2.0"
