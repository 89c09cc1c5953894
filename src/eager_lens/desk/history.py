"""The steps that can be taken back, and done again."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from eager_lens.core.job.model import Job

MOST_STEPS = 500


class _Step(NamedTuple):
    before: Job
    label: str
    gesture: str | None


class History:
    """Remembers the job before each step. Steps of one gesture (a drag) are one."""

    def __init__(self) -> None:
        self._undo: list[_Step] = []
        self._redo: list[_Step] = []

    def remember(self, before: Job, label: str, gesture: str | None = None) -> None:
        """A step was made; what was taken back cannot be done again any more."""
        last = self._undo[-1] if self._undo else None
        if not (gesture and last and last.gesture == gesture):
            self._undo.append(_Step(before, label, gesture))
            del self._undo[:-MOST_STEPS]
        self._redo.clear()

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


def _moved(from_: list[_Step], to: list[_Step], now: Job) -> Job | None:
    if not from_:
        return None
    step = from_.pop()
    to.append(_Step(now, step.label, None))
    return step.before
