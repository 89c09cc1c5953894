"""Importing without the source of every module being read.

The toolkit's binding puts itself into ``import`` as soon as it is loaded, and has the source of each module that comes later
read, taken apart and kept, to find out whether it asks for other spellings of the toolkit's names (``from __feature__
import``). Nothing here does. It took a quarter of the time to load the window, and 45 MB.
"""

from __future__ import annotations

import builtins

import shiboken6  # noqa: F401  (from here on the binding has its hook in place)


def without_source_checks() -> None:
    """Give imports back to Python, if the binding took them."""
    plain = getattr(builtins, "__orig_import__", None)
    if plain is not None:
        builtins.__import__ = plain
