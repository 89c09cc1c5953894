"""How late something wakes that does nothing but sleep: a machine that stands still lets nobody be in time.

Beside each processor's other work a process sleeps for some milliseconds at a time, before all others where the system lets it.
When that is late too, the machine was away: its host gave the processor to others, or was busy with the machine's memory, of
which the kernel tells nothing.

    python -m tools.trial.metronome FILE PLACE PROCESSOR
"""

from __future__ import annotations

import mmap
import os
import struct
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parents[2]
BEAT_S = 0.01
USUAL_S, USUAL_AMONG_OTHERS_S = 0.002, 0.02
"""So late it may be by itself: before all others, and as one of many."""

BEAT = struct.Struct("=ddd")
"""What each tells: seconds that it was late in all, when it woke last, and how late is usual."""


class Metronome:
    """Processes that beat, one a processor, for as long as this process lives."""

    def __init__(self) -> None:
        self._processors = sorted(os.sched_getaffinity(0))
        self.processes: list[subprocess.Popen[bytes]] = []
        with tempfile.NamedTemporaryFile(prefix="metronome-") as file:
            file.truncate(BEAT.size * len(self._processors))
            self._told = mmap.mmap(file.fileno(), 0)
            for place, processor in enumerate(self._processors):
                command = [sys.executable, "-m", "tools.trial.metronome", file.name, str(place), str(processor)]
                self.processes.append(subprocess.Popen(command, cwd=ROOT, stdin=subprocess.DEVNULL))
            self._wait_for_all()

    def _wait_for_all(self) -> None:
        """Until all beat: what is told before is nothing."""
        ends = time.monotonic() + 10
        while time.monotonic() < ends and not all(self._of(place)[1] for place in range(len(self._processors))):
            time.sleep(BEAT_S)

    def end(self) -> None:
        """Stop beating; by themselves they do when this process ends."""
        for process in self.processes:
            process.kill()
            process.wait()

    def _of(self, place: int) -> tuple[float, float, float]:
        late_s, woke_s, usual_s = BEAT.unpack_from(self._told, place * BEAT.size)
        return late_s, woke_s, usual_s

    def late_s(self) -> dict[int, float]:
        """How late each was in all, by the processor's number, with what one that should have woken is late by now."""
        now_s, found = time.monotonic(), {}
        for place, processor in enumerate(self._processors):
            late_s, woke_s, usual_s = self._of(place)
            pending_s = now_s - woke_s - BEAT_S if woke_s else 0.0
            found[processor] = late_s + (pending_s if pending_s > usual_s else 0.0)
        return found


def beat(told: mmap.mmap, place: int, processor: int) -> None:
    """Sleep and tell how late that was, until the process that asked for it is gone."""
    parent = os.getppid()
    os.sched_setaffinity(0, {processor})
    usual_s = USUAL_S
    try:
        os.sched_setscheduler(0, os.SCHED_FIFO, os.sched_param(1))
    except OSError:
        usual_s = USUAL_AMONG_OTHERS_S
    late_s, woke_s = 0.0, time.monotonic()
    while os.getppid() == parent:
        BEAT.pack_into(told, place * BEAT.size, late_s, woke_s, usual_s)
        time.sleep(BEAT_S)
        now_s = time.monotonic()
        over_s = now_s - woke_s - BEAT_S
        if over_s > usual_s:
            late_s += over_s
        woke_s = now_s


if __name__ == "__main__":
    with open(sys.argv[1], "r+b") as named:  # noqa: PTH123
        shared = mmap.mmap(named.fileno(), 0)
    beat(shared, int(sys.argv[2]), int(sys.argv[3]))
