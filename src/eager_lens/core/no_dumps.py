"""No core dumps: what a process had in its memory when it died, passwords among it, would lie in a file for anybody to read."""

from __future__ import annotations

import contextlib
import ctypes
import resource

PR_SET_DUMPABLE = 4


def no_core_dumps() -> None:
    """Let this process and those that it starts leave no core dump (programs that collect dumps ask for this limit too)."""
    with contextlib.suppress(OSError, ValueError):
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def not_to_be_looked_into() -> None:
    """Besides, let no other process of this account read the memory of this one (prctl(2), PR_SET_DUMPABLE).

    Only for a process that has entered its namespaces already: the kernel asks for it there.
    """
    no_core_dumps()
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(PR_SET_DUMPABLE, 0, 0, 0, 0)
