"""Who does which step when: list scheduling of the commissioning for one or two people, with the waits overlapped."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from heapq import heappop, heappush
from typing import NamedTuple

from eager_lens.core.runbook.steps import Step


class Placed(NamedTuple):
    """A step in time, in seconds from the start: begun, hands free again, through; and by which person (from 0). ``way_s``: so
    long that person was on the way to it before."""

    step: Step
    start_s: float
    hands_end_s: float
    end_s: float
    person: int
    way_s: float = 0.0


NOBODY = -1
"""In place of a person for what the program does by itself."""

Way = Callable[[str, str], float]
"""Seconds from one place to another."""


def no_way(a: str, b: str) -> float:
    """All is in one place, as on a bench."""
    return 0.0


_Entry = tuple[float, int, Step]
"""A step that can begin: urgency (negative, for the heap), its place in the list, and itself."""


def scheduled(
    steps: Sequence[Step],
    people: int,
    on_progress: Callable[[float], None] = lambda share: None,
    way: Way = no_way,
) -> list[Placed]:
    """Place all steps, each as early as people, tools and addresses out of the box allow.

    Serial list scheduling: whenever somebody is free, the most urgent step that can begin is taken. Urgent is what sets an
    address free that others wait for, then what has the longest chain of work and waits behind it. Such schedules are
    never longer than twice the best one for the people (R. L. Graham, "Bounds on multiprocessing timing anomalies", 1969);
    the bound does not count tools and addresses. Devices of one address out of the box come one after the other.

    Args:
        steps: any order in which ``after`` leads back only.
        people: 1 or more. on_progress: told the share that is placed; may raise to stop. way: how long somebody is on the way
            from the place of a step to that of the next.
    """
    return _Placing(steps, people, on_progress, way).placed_all()


class _Placing:
    """A schedule in the making: what can begin, who and what is busy, and what is due."""

    def __init__(self, steps: Sequence[Step], people: int, on_progress: Callable[[float], None], way: Way) -> None:
        self._way, self._at = way, [""] * people
        self._total, self._on_progress = len(steps), on_progress
        self._urgency = _urgency(steps)
        self._order = {step.key: at for at, step in enumerate(steps)}
        self._waiting_for = {step.key: set(step.after) for step in steps}
        self._behind: dict[str, list[Step]] = {}
        for step in steps:
            for key in step.after:
                self._behind.setdefault(key, []).append(step)
        self._ready: list[_Entry] = []
        self._parked: dict[str, list[_Entry]] = {}
        self._free_people = list(range(people))
        self._busy: set[str] = set()
        """Tools in hand, and addresses out of the box that somebody has."""
        self._due: list[tuple[float, int, str, Placed]] = []
        self._placed: list[Placed] = []
        for step in steps:
            self._if_ready(step)

    def placed_all(self) -> list[Placed]:
        """Place one after the other; what can never begin is left out."""
        now_s = 0.0
        while True:
            while self._ready and self._free_people:
                self._begin(heappop(self._ready), now_s)
            if not self._due:
                return self._placed
            now_s, _, what, one = heappop(self._due)
            if what == "hands":
                self._hands_free(one)
            else:
                self._through(one.step)

    def _if_ready(self, step: Step) -> None:
        if not self._waiting_for[step.key]:
            heappush(self._ready, (-self._urgency[step.key], self._order[step.key], step))

    def _begin(self, entry: _Entry, now_s: float) -> None:
        """Begin a step, or park it at what it lacks."""
        step = entry[2]
        wants = _wants(step)
        lacking = next((name for name in wants if name in self._busy), None)
        if lacking is not None:
            heappush(self._parked.setdefault(lacking, []), entry)
            for name in wants:
                if name not in self._busy:
                    self._release(name)  # it does not take this one after all: the next that waits for it may try
            return
        if step.by == "program":
            # No person is busy with it, nor has to be there.
            self._due_of(Placed(step, now_s, now_s, now_s + step.wait_s, NOBODY), wants)
            return
        # Who is nearest goes.
        person = min(self._free_people, key=lambda one: (self._way(self._at[one], step.place), one))
        way_s = self._way(self._at[person], step.place)
        self._at[person] = step.place or self._at[person]
        self._free_people.remove(person)
        begun_s = now_s + way_s
        self._due_of(
            Placed(step, begun_s, begun_s + step.hands_s, begun_s + step.hands_s + step.wait_s, person, way_s), wants
        )

    def _due_of(self, one: Placed, wants: tuple[str, ...]) -> None:
        step = one.step
        self._busy.update(wants)
        self._placed.append(one)
        if len(self._placed) % 200 == 0:
            self._on_progress(len(self._placed) / self._total)
        heappush(self._due, (one.hands_end_s, self._order[step.key], "hands", one))

    def _release(self, name: str) -> None:
        """A tool or an address is free: the most urgent step that waits for it may try."""
        self._busy.discard(name)
        if self._parked.get(name):
            heappush(self._ready, heappop(self._parked[name]))

    def _hands_free(self, one: Placed) -> None:
        if one.person != NOBODY:
            self._free_people.append(one.person)
        for tool in one.step.tools:
            self._release(tool)
        heappush(self._due, (one.end_s, self._order[one.step.key], "through", one))

    def _through(self, step: Step) -> None:
        if step.frees:
            self._release(step.frees)
        for later in self._behind.get(step.key, ()):
            self._waiting_for[later.key].discard(step.key)
            self._if_ready(later)


def _wants(step: Step) -> tuple[str, ...]:
    """What a step takes besides a person: tools, and an address out of the box."""
    return (*step.tools, step.takes) if step.takes else step.tools


def _urgency(steps: Sequence[Step]) -> dict[str, float]:
    """Seconds of work and waits that hang on each step: its longest chain, and the queue for the address that it holds."""
    tail: dict[str, float] = {}
    behind: dict[str, list[str]] = {}
    for step in steps:
        for key in step.after:
            behind.setdefault(key, []).append(step.key)
    for step in reversed(steps):
        longest = max((tail[key] for key in behind.get(step.key, ())), default=0.0)
        tail[step.key] = step.hands_s + step.wait_s + longest
    queue: dict[str, float] = {}
    for step in steps:
        if step.takes:
            queue[step.takes] = queue.get(step.takes, 0.0) + step.hands_s + step.wait_s
    holding = {step.frees: queue.get(step.frees, 0.0) for step in steps if step.frees}
    return {step.key: tail[step.key] + queue.get(step.takes, 0.0) + 2 * holding.get(step.frees, 0.0) for step in steps}


def duration_s(placed: Sequence[Placed]) -> float:
    """When the last step is through."""
    return max((one.end_s for one in placed), default=0.0)
