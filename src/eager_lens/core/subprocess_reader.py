"""Reading what may be hostile in a process of its own, with a bound on memory and time.

Libraries that read workbooks, calendars and videos are large; a file made for it has them take hours, gigabytes, or the
whole process with them. Here they run in a child that is ended when it goes beyond a limit, or when somebody stops it, and
what goes wrong in it comes back as one sentence. What is called is named as ``module:function``; it takes plain values and
``step``, and returns plain values.

The child's standard input stays open as long as its parent lives; its end, however it comes, ends the child.

Frames from the child: length (8 bytes), then a pickle of ("step", share), ("done", result), ("refused", error) or
("broke", name of the error, where).
"""

from __future__ import annotations

import contextlib
import fcntl
import importlib
import os
import pickle
import queue
import resource
import select
import struct
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Generator
from typing import IO, Any, NamedTuple

from eager_lens.core.errors import EagerLensError, RefusedInput
from eager_lens.core.no_dumps import no_core_dumps

_LENGTH = struct.Struct(">Q")
POLL_S = 0.05


class Limits(NamedTuple):
    """What a child may take: memory, and time (None: until somebody stops it). With its start and its end on a slow machine, ten
    seconds are kept."""

    memory_mb: int = 480
    time_s: float | None = 8.0


LIMITS = Limits()


class BeyondLimit(RefusedInput):
    """Reading took more memory or time than it may."""


def run_in_subprocess(
    target: str,
    *arguments: Any,
    step: Callable[[float], None] = lambda share: None,
    limits: Limits = LIMITS,
    what: str = "the file",
) -> Any:
    """As ``running_in_subprocess``; ``step`` is told the share that is done, some times a second, and may raise to stop."""
    running = running_in_subprocess(target, *arguments, limits=limits, what=what)
    try:
        while True:
            step(next(running))
    except StopIteration as end:
        return end.value
    finally:
        running.close()


def running_in_subprocess(
    target: str,
    *arguments: Any,
    limits: Limits = LIMITS,
    what: str = "the file",
    part: Callable[[Any], None] = lambda part: None,
) -> Generator[float, None, Any]:
    """Call ``target`` (``module:function``) in a child process; yields the share that is done, some times a second.

    The child is ended when this is closed.

    Args:
        target, arguments: what to call, with what. limits: what it may take. what: what is read, for messages.
        part: is given each value that the function yields, where it is a generator.

    Raises:
        BeyondLimit: when it took more than it may. RefusedInput: when the library that reads it failed on it.
        EagerLensError: what the function raised.
    """
    command = [sys.executable, "-m", "eager_lens.core.subprocess_reader"]
    environment = {
        **os.environ,
        "PYTHONPATH": os.pathsep.join(path for path in sys.path if path),
        "OPENBLAS_NUM_THREADS": "1",  # each thread of it takes memory of its own
    }
    with subprocess.Popen(
        command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=environment
    ) as child:
        try:
            frames = _asked(child, pickle.dumps((target, arguments, limits)))
            return (yield from _outcome(child.pid, frames, limits, what, part))
        finally:
            child.kill()


def _asked(child: subprocess.Popen[bytes], call: bytes) -> queue.Queue[tuple[Any, ...]]:
    """What the child tells, once it was told what to call."""
    # A child that tells faster than it is listened to has to wait.
    frames: queue.Queue[tuple[Any, ...]] = queue.Queue(maxsize=8)
    assert child.stdin is not None and child.stdout is not None
    threading.Thread(target=_fetch, args=(child.stdout, frames), daemon=True).start()
    with contextlib.suppress(BrokenPipeError):
        child.stdin.write(_LENGTH.pack(len(call)) + call)
        child.stdin.flush()
    return frames


def _outcome(
    pid: int, frames: queue.Queue[tuple[Any, ...]], limits: Limits, what: str, part: Callable[[Any], None]
) -> Generator[float, None, Any]:
    begun, share = time.monotonic(), 0.0
    while True:
        yield share
        try:
            kind, *rest = frames.get(timeout=POLL_S)
        except queue.Empty:
            kind, rest = "", []
        if kind == "step":
            share = rest[0]
        elif kind == "part":
            part(rest[0])
        elif kind == "done":
            return rest[0]
        elif kind == "refused":
            raise rest[0]
        elif kind in ("broke", "ended"):
            if kind == "broke" and rest[0] == "MemoryError":
                raise _too_much_memory(what, limits)
            why = f" ({rest[0]})" if rest else ": the reader stopped, as it does on damaged or far too large files"
            raise RefusedInput("", f"{what} cannot be read{why}; save it again")
        if limits.time_s is not None and time.monotonic() - begun > limits.time_s:
            raise BeyondLimit("", f"{what} takes longer than {limits.time_s:g} s to read")
        if _resident_mb(pid) > limits.memory_mb:
            raise _too_much_memory(what, limits)


def _too_much_memory(what: str, limits: Limits) -> BeyondLimit:
    return BeyondLimit("", f"{what} takes more than {limits.memory_mb} MB to read")


def _fetch(source: IO[bytes], frames: queue.Queue[tuple[Any, ...]]) -> None:
    """Put what the child tells in a queue, and at its end that it ended."""
    with contextlib.suppress(OSError, ValueError):
        while len(head := source.read(_LENGTH.size)) == _LENGTH.size:
            body = source.read(_LENGTH.unpack(head)[0])
            # The child is this very program: its pickles are as good as its code.
            frames.put(pickle.loads(body))
    frames.put(("ended",))


def _resident_mb(pid: int) -> float:
    try:
        with open(f"/proc/{pid}/statm", encoding="ascii") as file:  # noqa: PTH123  (many times a second)
            return int(file.read().split()[1]) * resource.getpagesize() / 1e6
    except (OSError, ValueError, IndexError):
        return 0.0


# ---- in the child --------------------------------------------------------------------------------------------------


def _end_with_parent() -> None:
    """End as soon as the parent does, whatever this process does then: the kernel sends SIGIO when the other end of standard
    input is closed, and SIGIO ends a process that does not handle it. A thread could do it too, but what enters a user
    namespace must have none; a signal at the parent's death (prctl) would come with the end of the parent's thread."""
    fcntl.fcntl(0, fcntl.F_SETOWN, os.getpid())
    fcntl.fcntl(0, fcntl.F_SETFL, fcntl.fcntl(0, fcntl.F_GETFL) | os.O_ASYNC)
    if select.select([0], [], [], 0)[0]:  # it ended before the kernel was asked to tell
        os._exit(1)


def _serve() -> None:
    """Do the one thing that is asked for on standard input."""
    out = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what a library prints is no frame

    def tell(*frame: Any) -> None:
        body = pickle.dumps(frame)
        out.write(_LENGTH.pack(len(body)) + body)
        out.flush()

    told_s = 0.0

    def step(share: float) -> None:
        nonlocal told_s
        if time.monotonic() - told_s > POLL_S:
            told_s = time.monotonic()
            tell("step", share)

    given = sys.stdin.buffer
    target, arguments, limits = pickle.loads(given.read(_LENGTH.unpack(given.read(_LENGTH.size))[0]))
    _end_with_parent()
    no_core_dumps()
    # What is asked for and not used counts here; what is used is watched by the parent.
    most_bytes = int(limits.memory_mb * 1.2e6)
    resource.setrlimit(resource.RLIMIT_DATA, (most_bytes, most_bytes))
    if limits.time_s is not None:
        seconds = int(limits.time_s) + 5
        resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    module, _, name = target.partition(":")
    try:
        function = getattr(importlib.import_module(module), name)
        result = function(*arguments, step=step)
        if isinstance(result, Generator):
            for one in result:
                tell("part", one)
            result = None
        tell("done", result)
    except EagerLensError as error:
        tell("refused", error)
    except BrokenPipeError:
        return
    except BaseException as error:  # noqa: BLE001  (whatever a library raises on a hostile file is told in a sentence)
        with contextlib.suppress(MemoryError):
            tell("broke", type(error).__name__)


if __name__ == "__main__":
    _serve()
    os._exit(0)
