"""What a cap takes from a picture, in words."""

from __future__ import annotations

from collections.abc import Iterable

from eager_lens.core.sizing.capped import AtCap
from eager_lens.core.units import count

HARDLY = 0.005
"""A share of the time under this is told as none."""


def cap_cost(at: AtCap) -> str:
    """As ``by day 5 % of the time at its cap, about 2 steps coarser then; by night 30 %, about 4``."""
    halves = [
        f"at its cap {100 * share:.0f} % of the time by {name}, and then about {count(round(steps), 'step')} coarser"
        for name, share, steps in (("day", at.day_share, at.day_steps), ("night", at.night_share, at.night_steps))
        if share >= HARDLY
    ]
    return "; ".join(halves) or "almost never at its cap"


def short_cap_cost(at: AtCap) -> str:
    """As ``5 / 30 %``: the share of the time at the cap by day and by night."""
    return f"{100 * at.day_share:.0f} / {100 * at.night_share:.0f}"


def worst_of(costs: Iterable[AtCap]) -> AtCap | None:
    """Of many cameras the one whose picture softens most by night or by day; None of none."""
    return max(costs, key=coarser, default=None)


def coarser(at: AtCap) -> float:
    """By how many steps of the quantiser a picture is coarser on the mean of its worse half of the day."""
    return max(at.day_share * at.day_steps, at.night_share * at.night_steps)
