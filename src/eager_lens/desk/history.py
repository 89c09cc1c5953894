"""Undo and redo, bounded by a number of steps and by memory."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import accumulate
from typing import NamedTuple

from eager_lens.core.job.model import JOB_LISTS, Job

MOST_STEPS = 500
MOST_PARTS, LEAST_STEPS = 100_000, 10
"""So many devices and other parts of jobs are kept for steps alone, some 2 kB each; but so many steps in any case. A step that
changes all of 10,000 cameras keeps as many."""


class _Step(NamedTuple):
    before: Job
    label: str
    gesture: str | None
    parts: int = 0
    """Of the job before, those that the job after does not hold."""


class History:
    """Remembers the job before each step. Steps of one gesture (a drag) are one."""

    def __init__(self) -> None:
        self._undo: list[_Step] = []
        self._redo: list[_Step] = []

    def remember(self, before: Job, label: str, gesture: str | None = None) -> None:
        """A step was made; what was taken back cannot be done again any more."""
        last = self._undo[-1] if self._undo else None
        if not (gesture and last and last.gesture == gesture):
            if last is not None:
                self._undo[-1] = last._replace(parts=_parts_only_in(last.before, before))
            self._undo.append(_Step(before, label, gesture))
            del self._undo[: -self._most_steps()]
        self._redo.clear()

    def _most_steps(self) -> int:
        """How many of the last steps fit into the bounds."""
        kept = accumulate(step.parts for step in reversed(self._undo[-MOST_STEPS:]))
        return max(LEAST_STEPS, sum(parts <= MOST_PARTS for parts in kept))

    def undo(self, now: Job) -> Job | None:
        """The job before the last step; None when there is none."""
        return _moved(self._undo, self._redo, now)

    def redo(self, now: Job) -> Job | None:
        """The job after the step that was taken back last; None when there is none."""
        return _moved(self._redo, self._undo, now)

    def past(self) -> Iterator[Job]:
        """The job before each step, the last step first."""
        return (step.before for step in reversed(self._undo))

    @property
    def undo_label(self) -> str:
        """The name of the step that undo takes back; empty when there is none."""
        return self._undo[-1].label if self._undo else ""

    @property
    def redo_label(self) -> str:
        """The name of the step that redo does again; empty when there is none."""
        return self._redo[-1].label if self._redo else ""

    def offer(self, job: Job, label: str) -> None:
        """Have a job that was replaced from outside be the next to be done again."""
        self._redo.append(_Step(job, label, None))

    def clear(self) -> None:
        """Forget everything: another job is open."""
        self._undo.clear()
        self._redo.clear()


def _parts_only_in(job: Job, after: Job) -> int:
    """How many parts of a job another does not hold."""
    found = 0
    for name in JOB_LISTS:
        own, others = getattr(job, name), getattr(after, name)
        if own is not others:
            found += len(set(map(id, own)).difference(map(id, others)))
    return found


def _moved(from_: list[_Step], to: list[_Step], now: Job) -> Job | None:
    if not from_:
        return None
    step = from_.pop()
    to.append(_Step(now, step.label, None, step.parts))
    return step.before
