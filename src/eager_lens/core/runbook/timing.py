"""Who does which step when: list scheduling of the commissioning for one or two people, with the waits overlapped."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from heapq import heappop, heappush
from typing import NamedTuple

from eager_lens.core.runbook.steps import Step


class Placed(NamedTuple):
    """A step in time, in seconds from the start: begun, hands free again, through; and by which person (from 0)."""

    step: Step
    start_s: float
    hands_end_s: float
    end_s: float
    person: int


_Entry = tuple[float, int, Step]
"""A step that can begin: urgency (negative, for the heap), its place in the list, and itself."""


def scheduled(
    steps: Sequence[Step], people: int, step_told: Callable[[float], None] = lambda share: None
) -> list[Placed]:
    """Place all steps, each as early as people, tools and addresses out of the box allow.

    Serial list scheduling: whenever somebody is free, the most urgent step that can begin is taken. Urgent is what sets an
    address free that others wait for, then what has the longest chain of work and waits behind it. Such schedules are
    never longer than twice the best one for the people (R. L. Graham, "Bounds on multiprocessing timing anomalies", 1969);
    the bound does not count tools and addresses. Devices of one address out of the box come one after the other.

    Args:
        steps: any order in which ``after`` leads back only.
        people: 1 or more. step_told: told the share that is placed; may raise to stop.
    """
    urgency = _urgency(steps)
    waiting_for = {step.key: set(step.after) for step in steps}
    behind: dict[str, list[Step]] = {}
    for step in steps:
        for key in step.after:
            behind.setdefault(key, []).append(step)
    ready: list[_Entry] = []
    order = {step.key: at for at, step in enumerate(steps)}

    def is_ready(step: Step) -> None:
        heappush(ready, (-urgency[step.key], order[step.key], step))

    for step in steps:
        if not waiting_for[step.key]:
            is_ready(step)
    free_people = list(range(people))
    busy: set[str] = set()  # tools in hand, and addresses out of the box that somebody has
    parked: dict[str, list[_Entry]] = {}
    placed: list[Placed] = []
    due: list[tuple[float, int, str, Placed]] = []
    now_s = 0.0

    def release(name: str) -> None:
        """A tool or an address is free: the most urgent step that waits for it may try."""
        busy.discard(name)
        if parked.get(name):
            heappush(ready, heappop(parked[name]))

    while ready or due:
        while ready and free_people:
            entry = heappop(ready)
            step = entry[2]
            wants = _wants(step)
            lacking = next((name for name in wants if name in busy), None)
            if lacking is not None:
                heappush(parked.setdefault(lacking, []), entry)
                for name in wants:
                    if name not in busy:
                        release(name)  # it does not take this one after all: the next that waits for it may try
                continue
            person = min(free_people)
            free_people.remove(person)
            busy.update(wants)
            one = Placed(step, now_s, now_s + step.hands_s, now_s + step.hands_s + step.wait_s, person)
            placed.append(one)
            if len(placed) % 200 == 0:
                step_told(len(placed) / len(steps))
            heappush(due, (one.hands_end_s, order[step.key], "hands", one))
        if not due:
            break
        now_s, _, what, one = heappop(due)
        if what == "hands":
            free_people.append(one.person)
            for tool in one.step.tools:
                release(tool)
            heappush(due, (one.end_s, order[one.step.key], "through", one))
        else:
            if one.step.frees:
                release(one.step.frees)
            for step in behind.get(one.step.key, ()):
                waiting_for[step.key].discard(one.step.key)
                if not waiting_for[step.key]:
                    is_ready(step)
    return placed


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
