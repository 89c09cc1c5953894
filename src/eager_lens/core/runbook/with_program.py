"""A commissioning of which the program does what it can over the network: who does each step, and what hands are left."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from eager_lens.core.runbook.steps import Step

AT_ONCE = 8
"""So many devices the program sets at the same time."""


def with_program(steps: Iterable[Step]) -> tuple[Step, ...]:
    """The steps with those that the program can do given to it. Devices that share an address out of the box may then all be
    plugged in: the program tells them apart."""
    each = tuple(steps)
    by_program = {step.device_id for step in each if step.program_s and step.frees}
    return tuple(_step(step, by_program) for step in each)


def _step(step: Step, by_program: set[str]) -> Step:
    if step.program_s:
        return step._replace(hands_s=0.0, wait_s=step.program_s, by="program", tools=(), frees="", caution="", place="")
    if step.takes and step.device_id in by_program:
        return step._replace(takes="", caution="")
    return step._replace(by="nobody") if not step.hands_s else step


class Effort(NamedTuple):
    """What a commissioning takes: hands alone; hands beside the program; and the program's own time, eight devices at once. In
    seconds."""

    hands_s: float
    hands_left_s: float
    program_s: float


def effort(steps: Sequence[Step]) -> Effort:
    """What the steps of a plan take."""
    left = sum(step.hands_s for step in steps if not step.program_s)
    return Effort(sum(step.hands_s for step in steps), left, sum(step.program_s for step in steps) / AT_ONCE)
