"""How long the event loop stands still, and where."""

from __future__ import annotations

import ctypes
import faulthandler
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtCore import QObject, QTimer

BEAT_MS = 10


class Watchdog:
    """Beats on the window's thread and is listened to on another; what stands longer than ``reported_s`` is told with its
    place in the code."""

    def __init__(self, parent: QObject, reported_s: float) -> None:
        self.worst_s = 0.0
        self.worst_at = ""
        self.stalls = 0
        self._reported_s = reported_s
        self._beat_s = time.monotonic()
        self._reported, self._looks = False, True
        self._timer = QTimer(parent, interval=BEAT_MS)
        self._timer.timeout.connect(self._beat)
        self._timer.start()
        # Not through Python's own frames: whoever holds those keeps painters alive beyond their paint.
        self._dump = tempfile.TemporaryFile("w+")  # noqa: SIM115
        threading.Thread(target=self._listen, daemon=True).start()

    def reset(self) -> None:
        """Measure anew from now on."""
        self.worst_s, self.worst_at, self._beat_s = 0.0, "", time.monotonic()

    @contextmanager
    def looking_away(self) -> Iterator[None]:
        """While something lasts that the trial does and no window would."""
        self._looks = False
        try:
            yield
        finally:
            self._beat()
            self._looks = True

    def _beat(self) -> None:
        self._beat_s = time.monotonic()
        self._reported = False

    def _listen(self) -> None:
        while True:
            time.sleep(0.05)
            stood_s = time.monotonic() - self._beat_s if self._looks else 0.0
            if stood_s > self.worst_s:
                self.worst_s = stood_s
                if stood_s > self._reported_s:
                    self.worst_at = self._place()
            if stood_s > self._reported_s and not self._reported:
                self._reported = True
                self.stalls += 1
                print(f"stands still: {self._place()}", file=sys.stderr, flush=True)

    def _place(self) -> str:
        self._dump.seek(0)
        self._dump.truncate()
        faulthandler.dump_traceback(self._dump)
        self._dump.seek(0)
        lines = self._dump.read().strip().split("\n\n")[-1].splitlines()[1:7]
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
