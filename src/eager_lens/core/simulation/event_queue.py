"""Simulated time: what is due when. Plain values in a heap, so that a site can be copied and come out the same again.

SimPy would run its processes as generators; those can be neither copied nor compared, so a rehearsal could not be taken
back. What is kept here are happenings, which say what is due to whom.
"""

from __future__ import annotations

from heapq import heappop, heappush
from typing import NamedTuple


class QueuedEvent(NamedTuple):
    """Something that is due: when, to whom, what; ``mark`` tells its handler whether it is still wanted."""

    at_s: float
    order: int
    unit_id: str
    what: str
    mark: int


class EventQueue:
    """The clock, in seconds from the start, and what is due. Of two at one moment, the one asked for first comes first."""

    def __init__(self) -> None:
        self.now_s = 0.0
        self._due: list[QueuedEvent] = []
        self._order = 0
        self.happened = 0

    def after(self, delay_s: float, unit_id: str, what: str, mark: int = 0) -> None:
        """Queue an event for a number of seconds from now."""
        self._order += 1
        heappush(self._due, QueuedEvent(self.now_s + max(0.0, delay_s), self._order, unit_id, what, mark))

    @property
    def next_s(self) -> float | None:
        """When the next thing is due; None when nothing is."""
        return self._due[0].at_s if self._due else None

    def take(self, until_s: float) -> QueuedEvent | None:
        """The next thing that is due up to a moment, with the clock set to it; None when there is none: then the clock
        is set to that moment."""
        if self._due and self._due[0].at_s <= until_s:
            happening = heappop(self._due)
            self.now_s = max(self.now_s, happening.at_s)
            self.happened += 1
            return happening
        self.now_s = max(self.now_s, until_s)
        return None
