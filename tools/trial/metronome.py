"""How late something wakes that does nothing but sleep: a machine that stands still lets nobody be in time.

Beside each processor's other work a process sleeps for some milliseconds at a time, before all others where the system lets it.
When that is late too, the machine was away: its host gave the processor to others, or was busy with the machine's memory, of
which the kernel tells nothing.

    python -m tools.trial.metronome FILE PLACE PROCESSOR
"""

from __future__ import annotations

import mmap
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parents[2]
BEAT_S = 0.01
USUAL_S, USUAL_AMONG_OTHERS_S = 0.002, 0.02
"""So late it may be by itself: before all others, and as one of many."""

LATE, WOKE, USUAL, FIELDS = 0, 1, 2, 3
"""Where each tells seconds that it was late in all, when it woke last, and how late is usual. Each is written at once, so that
nobody reads half of it."""


class Metronome:
    """Processes that beat, one a processor, for as long as this process lives."""

    def __init__(self) -> None:
        self._processors = sorted(os.sched_getaffinity(0))
        self.processes: list[subprocess.Popen[bytes]] = []
        with tempfile.NamedTemporaryFile(prefix="metronome-") as file:
            file.truncate(8 * FIELDS * len(self._processors))
            self._told = _numbers_in(file.fileno())
            for place, processor in enumerate(self._processors):
                command = [sys.executable, "-m", "tools.trial.metronome", file.name, str(place), str(processor)]
                self.processes.append(subprocess.Popen(command, cwd=ROOT, stdin=subprocess.DEVNULL))
            self._wait_for_all()

    def _wait_for_all(self) -> None:
        """Until all beat: what is told before is nothing."""
        ends = time.monotonic() + 10
        while time.monotonic() < ends and not all(self._told[WOKE::FIELDS]):
            time.sleep(BEAT_S)

    def end(self) -> None:
        """Stop beating; by themselves they do when this process ends."""
        for process in self.processes:
            process.kill()
            process.wait()

    def late_s(self) -> dict[int, float]:
        """How late each was in all, by the processor's number, with what one that should have woken is late by now."""
        now_s, found = time.monotonic(), {}
        for place, processor in enumerate(self._processors):
            own = self._told[FIELDS * place : FIELDS * (place + 1)]
            # In this order: what wakes in between is told a moment later, and never twice.
            late_s, woke_s = own[LATE], own[WOKE]
            pending_s = now_s - woke_s - BEAT_S if woke_s else 0.0
            found[processor] = late_s + (pending_s if pending_s > own[USUAL] else 0.0)
        return found


def _numbers_in(file: int) -> memoryview:
    return memoryview(mmap.mmap(file, 0)).cast("d")


def beat(told: memoryview, place: int, processor: int) -> None:
    """Sleep and tell how late that was, until the process that asked for it is gone."""
    parent = os.getppid()
    os.sched_setaffinity(0, {processor})
    usual_s = USUAL_S
    try:
        os.sched_setscheduler(0, os.SCHED_FIFO, os.sched_param(1))
    except OSError:
        usual_s = USUAL_AMONG_OTHERS_S
    own = told[FIELDS * place : FIELDS * (place + 1)]
    own[USUAL], own[WOKE] = usual_s, time.monotonic()
    while os.getppid() == parent:
        time.sleep(BEAT_S)
        now_s = time.monotonic()
        over_s = now_s - own[WOKE] - BEAT_S
        own[WOKE] = now_s
        if over_s > usual_s:
            own[LATE] += over_s


if __name__ == "__main__":
    with open(sys.argv[1], "r+b") as named:  # noqa: PTH123
        shared = _numbers_in(named.fileno())
    beat(shared, int(sys.argv[2]), int(sys.argv[3]))
