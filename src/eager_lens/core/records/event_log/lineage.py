"""What follows what in a log, with merges: what an anchor covers, whether lines stand where they were put, and whose they are."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime

from eager_lens.core.records.event_log.entry import LogEntry


class Lineage:
    """The entries of a log by what they follow.

    Attributes:
        line: by the hash of each entry its line, in the order of lines.
    """

    def __init__(self) -> None:
        self.line: dict[str, int] = {}
        self._previous: dict[str, tuple[str, ...]] = {}
        self._at: dict[str, datetime] = {}
        self._states: dict[str, tuple[str, ...]] = {}

    def put(self, entry: LogEntry, number: int) -> None:
        """Take an entry in, with its line."""
        self.line[entry.hash], self._previous[entry.hash], self._at[entry.hash] = number, entry.previous, entry.at
        if states := job_states(entry):
            self._states[entry.hash] = states

    def up_to(self, hashes: Iterable[str]) -> set[str]:
        """These entries and all that they follow, however far back."""
        reached: set[str] = set()
        waiting = list(hashes)
        while waiting:
            one = waiting.pop()
            if one not in reached and one in self._previous:
                reached.add(one)
                waiting += self._previous[one]
        return reached

    def aside_of(self, heads: list[str]) -> list[int]:
        """The lines of entries that are dated before the latest of these, and neither come before any of them nor after: what
        a merge brought in beside them."""
        if not heads:
            return []
        latest = max(self._at[one] for one in heads)
        known = self.up_to(heads)
        after = set(heads)
        aside = []
        for one, number in self.line.items():
            if after.intersection(self._previous[one]):
                after.add(one)  # a clock that was put back may date it earlier; that is noted by itself
            elif one not in known and self._at[one] < latest:
                aside.append(number)
        return aside

    def out_of_order(self, last: str) -> Iterator[str]:
        """A sentence where the lines do not stand as they were put: each entry behind all of the log that it follows first,
        and what a merge brought in between the two. The hashes alone would let merged blocks be put about."""
        order: list[str] = []
        known: set[str] = set()
        waiting = [last]
        while waiting:
            one = waiting[-1]
            missing = next((other for other in self._previous[one] if other not in known), None)
            if one not in known and missing is not None:
                waiting.append(missing)
                continue
            waiting.pop()
            if one not in known:
                known.add(one)
                order.append(one)
        wrong = next((at for at, one in enumerate(order, 1) if self.line[one] != at), None)
        if wrong is not None:
            yield f"line {wrong}: from here on the lines are not in their original order"

    def of_another_job(self) -> Iterator[str]:
        """A sentence for each merge of a log that shares neither an entry nor a saved state of the job with this one."""
        for merge, previous in self._previous.items():
            if len(previous) < 2:
                continue
            own, *others = (self.up_to([one]) for one in previous)
            for other in others:
                if not own & other and not self._states_in(own) & self._states_in(other):
                    yield f"line {self.line[merge]}: it merges the log of another job"

    def _states_in(self, entries: set[str]) -> set[str]:
        return {state for one in entries for state in self._states.get(one, ())}


def job_states(entry: LogEntry) -> tuple[str, ...]:
    """The saved states of the job (SHA-256 of its file) that an entry names."""
    state = entry.event.values.get("sha256") if entry.event.kind in ("job opened", "saved") else None
    return (state,) if isinstance(state, str) and state else ()
