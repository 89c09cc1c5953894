"""Children that are made by forking, so that what is loaded once serves thousands of them."""

from __future__ import annotations

import os
import resource
import signal
import sys
import traceback
from collections.abc import Callable


def forked(work: Callable[[], None], memory_mb: int = 0, quiet: bool = True) -> int:
    """Run work in a child; its process id. The child ends with 0, or 1 after an error nobody caught."""
    sys.stdout.flush()
    sys.stderr.flush()
    child = os.fork()
    if child:
        return child
    status = 1
    try:
        signal.signal(signal.SIGINT, signal.SIG_DFL)
        os.setpgid(0, 0)
        if quiet:
            nowhere = os.open(os.devnull, os.O_WRONLY)
            os.dup2(nowhere, 1)
            os.dup2(nowhere, 2)
        if memory_mb:
            most = memory_mb * 1_000_000
            resource.setrlimit(resource.RLIMIT_DATA, (most, most))
        work()
        status = 0
    except BaseException:  # noqa: BLE001
        traceback.print_exc()
    finally:
        os._exit(status)


def kill(child: int) -> None:
    """End a child and all that it started, and take note of its death."""
    for target in (os.killpg, os.kill):
        try:
            target(child, signal.SIGKILL)
        except ProcessLookupError:
            continue
    os.waitpid(child, 0)
