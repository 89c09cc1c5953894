"""Where a simulated site stands in the commissioning: which step comes next, and whether it has to wait."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from eager_lens.core.runbook.steps import Step
from eager_lens.core.runbook.timing import Placed
from eager_lens.core.simulation.site import Site


class NextStep(NamedTuple):
    """The next step (None: all are done, or nothing can go on), how many are done, and the seconds that it still takes by
    itself: 0 for a step that a hand can do now."""

    step: Step | None
    done: int
    waits_s: float


def next_step(site: Site, placed: Sequence[Placed]) -> NextStep:
    """The first step by the schedule that a hand can do now; where there is none, the one that comes through first.

    A step counts as done when its check says so, or when one behind it is done: a laptop that has moved on was there.
    """
    done = _done(site, placed)
    waits: list[tuple[float, Step]] = []
    can_begin: list[Step] = []
    held: set[str] = set()
    freed = {(one.step.frees, one.step.device_id) for one in placed if one.step.frees and one.step.key in done}
    for one in placed:
        step = one.step
        left_s = step.left_s(site)
        is_done = step.key in done
        if step.takes and (is_done or left_s) and (step.takes, step.device_id) not in freed:
            held.add(step.takes)
        if is_done or any(key not in done for key in step.after):
            continue
        if left_s:
            waits.append((left_s, step))
        else:
            can_begin.append(step)
    for step in can_begin:
        if not step.takes or step.takes not in held:
            return NextStep(step, len(done), 0.0)
    if waits:
        left_s, step = min(waits, key=lambda one: one[0])
        return NextStep(step, len(done), left_s)
    return NextStep(None, len(done), 0.0)


def _done(site: Site, placed: Sequence[Placed]) -> set[str]:
    """Keys of the steps that are done."""
    done: set[str] = set()
    by_key = {one.step.key: one.step for one in placed}
    for one in sorted(placed, key=lambda one: -one.start_s):
        if one.step.shows_on_site and one.step.key not in done and not one.step.still_wrong(site):
            stack = [one.step.key]
            while stack:
                key = stack.pop()
                if key not in done:
                    done.add(key)
                    stack += by_key[key].after
    for one in placed:
        if not one.step.shows_on_site and not one.step.still_wrong(site) and all(key in done for key in one.step.after):
            done.add(one.step.key)
    return done
