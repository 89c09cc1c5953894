"""How long the event loop stands still, and where."""

from __future__ import annotations

import ctypes
import faulthandler
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from PySide6.QtCore import QObject, QTimer

BEAT_MS = 10


class Stopwatch:
    """Time that passed, but no more than this process worked in it: what other processes, or the host of a virtual machine, took
    of the processor is not the program's. So what only waits for a disk is not seen."""

    def __init__(self) -> None:
        self._begun_s, self._used_s = time.monotonic(), time.process_time()

    def seconds(self) -> float:
        """Seconds since this began."""
        return min(time.monotonic() - self._begun_s, time.process_time() - self._used_s)


class Watchdog:
    """Beats on the window's thread; what stood longer than ``reported_s`` is told with its place in the code, which another
    thread looks up meanwhile, with how long the window's thread worked in it (the rest it waited for others) and where
    those were."""

    def __init__(self, parent: QObject, reported_s: float, after: Callable[[], str] = str) -> None:
        """``after`` says what came before a stall, for the middle of a sentence."""
        self._after = after
        self.worst_s = 0.0
        self.worst_at = ""
        self.told: list[str] = []
        """What was told of each stall."""
        self._reported_s = reported_s
        self._looks, self._stands_at = True, ""
        self._since_beat, self._worked_s = Stopwatch(), time.thread_time()
        self._timer = QTimer(parent, interval=BEAT_MS)
        self._timer.timeout.connect(self.beat)
        self._timer.start()
        # Not through Python's own frames: whoever holds those keeps painters alive beyond their paint.
        self._dump = tempfile.TemporaryFile("w+")  # noqa: SIM115
        threading.Thread(target=self._listen, daemon=True).start()

    def reset(self) -> None:
        """Measure anew from now on."""
        self.beat()
        self.worst_s, self.worst_at = 0.0, ""

    @contextmanager
    def looking_away(self) -> Iterator[None]:
        """While something lasts that the trial does and no window would."""
        self.beat()
        self._looks = False
        try:
            yield
        finally:
            self.beat()
            self._looks = True

    def beat(self) -> None:
        """Reckon how long the event loop stood until now. On the window's thread."""
        stood_s, own_s = self._since_beat.seconds(), time.thread_time() - self._worked_s
        at, self._stands_at = self._stands_at, ""
        self._since_beat, self._worked_s = Stopwatch(), time.thread_time()
        if not self._looks:
            return
        if stood_s > self.worst_s:
            self.worst_s, self.worst_at = stood_s, at
        if stood_s > self._reported_s:
            self.told.append(f"stood still for {stood_s:.2f} s, {own_s:.2f} of them its own work{self._after()}: {at}")
            print(self.told[-1], file=sys.stderr, flush=True)

    def _listen(self) -> None:
        while True:
            time.sleep(0.05)
            if self._since_beat.seconds() > self._reported_s and self._looks and not self._stands_at:
                self._stands_at = self._place()

    def _place(self) -> str:
        self._dump.seek(0)
        self._dump.truncate()
        faulthandler.dump_traceback(self._dump)
        self._dump.seek(0)
        *others, window = self._dump.read().strip().split("\n\n")
        beside = [_frames(one) for one in others if "in _listen" not in one and "in wait" not in one]
        return "; beside it ".join([_frames(window), *beside])


def _frames(thread: str) -> str:
    """The innermost frames of a thread as it is told."""
    lines = thread.splitlines()[1:7]
    return " < ".join(line.split("/")[-1].replace('", line ', ":").replace(" in ", " ") for line in lines)


def resident_mb() -> float:
    """What the process holds in memory."""
    with open("/proc/self/statm", encoding="ascii") as file:  # noqa: PTH123
        return int(file.read().split()[1]) * 4096 / 1e6


def trim() -> None:
    """Give back to the system what the C library holds and nobody uses, where it can."""
    give_back = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if give_back is not None:
        give_back(0)
