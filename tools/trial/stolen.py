"""Time that a virtual machine's host took away: what the kernel tells of it ("steal time", proc(5)), or by how much a metronome
was late, whichever is more.

On a shared host it is seconds at once, and no program can do anything then: a trial that counted them would measure the
neighbours. A kernel that tells none (a machine of its own) has none.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from pathlib import Path

from tools.trial.metronome import Metronome

STEAL = 8
"""The field of ``/proc/stat`` that tells it, counted from the processor's name."""

PROCESSOR = 36
"""The field of a thread's ``stat`` that tells where it runs, counted from behind its name (39 in proc(5))."""


class Stolen:
    """What was taken from the processor that this thread was on, all told. Whoever watches asks often: between two questions
    the thread is taken to have stayed where it is found."""

    def __init__(self, late_s: Callable[[], dict[int, float]] | None = None) -> None:
        self._late_s = late_s or Metronome().late_s
        self._thread = Path(f"/proc/self/task/{threading.get_native_id()}/stat")
        self._tick_s = 1 / os.sysconf("SC_CLK_TCK")
        self._asking = threading.Lock()
        self._before = steal_ticks(Path("/proc/stat").read_text("ascii"))
        self._late_before = self._late_s()
        self._seconds = 0.0

    def seconds(self) -> float:
        """Seconds since this began, to a tick of the kernel."""
        with self._asking:
            now, late = steal_ticks(Path("/proc/stat").read_text("ascii")), self._late_s()
            at = int(self._thread.read_text("utf-8", "replace").rpartition(")")[2].split()[PROCESSOR])
            late_s = late.get(at, 0.0) - self._late_before.get(at, 0.0)
            self._seconds += max((now[at] - self._before[at]) * self._tick_s, late_s, 0.0)
            self._before, self._late_before = now, late
            return self._seconds


def steal_ticks(text: str) -> dict[int, int]:
    """Ticks taken from each processor, by its number, as ``/proc/stat`` tells them."""
    lines = (line.split() for line in text.splitlines() if line.startswith("cpu") and line[3].isdigit())
    return {int(fields[0][3:]): int(fields[STEAL]) for fields in lines}
