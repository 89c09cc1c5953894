"""One choice for each of several things, the best sum of values under limits: a mixed-integer programme.

Solved by HiGHS through ``scipy.optimize.milp``. Every limit grows with the same cost of a choice (a stream's rate), so
when the cheapest choices break a limit, nothing keeps it: that is told limit by limit.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, OptimizeResult, milp
from scipy.sparse import csr_array

from eager_lens.core.pauses import pause, with_pauses

GAP = 0.003
TIME_LIMIT_S = 20.0
TOLERANCE = 1e-9
PART = 1e-7
"""Less than so much of an option is none of it."""


class Option(NamedTuple):
    """A choice: what it costs (a rate in Mb/s) and what it is worth."""

    cost: float
    worth: float


class Limit(NamedTuple):
    """A limit: at most ``most`` of the sum of cost times ``weights`` (by the number of the thing)."""

    name: str
    weights: dict[int, float]
    most: float
    unit: str


class Broken(NamedTuple):
    """A limit that cannot be kept: the least that comes of it, and what it allows."""

    limit: Limit
    least: float


class Selected(NamedTuple):
    """The option's number for each thing, the sum of worth, and by how much (a share) a better one might exceed it."""

    options: tuple[int, ...]
    worth: float
    gap: float


def broken(things: Sequence[Sequence[Option]], limits: Sequence[Limit]) -> list[Broken]:
    """The limits that even the cheapest options break, the worst first."""
    cheapest = [min(option.cost for option in options) for options in things]
    found = []
    for limit in limits:
        least = sum(weight * cheapest[at] for at, weight in limit.weights.items())
        if least > limit.most * (1 + TOLERANCE) + TOLERANCE:
            found.append(Broken(limit, least))
    return sorted(found, key=lambda one: -one.least / max(one.limit.most, TOLERANCE))


def best_choice(things: Sequence[Sequence[Option]], limits: Sequence[Limit], gap: float = GAP) -> Selected | None:
    """The options that are worth most within the limits, to a share of ``gap`` where the time limit lets it; None when there are
    none.

    First without the demand that each thing has one whole option: few are then in parts, and taking the cheaper of their parts
    keeps every limit. For many things that is near enough at once; else the whole programme is solved, and where it takes too long
    the first answer stands, with its gap.
    """
    if broken(things, limits):
        return None
    if not things:
        return Selected((), 0.0, 0.0)
    programme = _Programme(things, limits)
    first = programme.rounded()
    if first.gap <= gap:
        return first
    return max(first, programme.whole(gap) or first, key=lambda one: one.worth)


class _Programme:
    """The matrices of one choice."""

    def __init__(self, things: Sequence[Sequence[Option]], limits: Sequence[Limit]) -> None:
        self._things, self._limits = things, [limit for limit in limits if limit.weights]
        self._starts = np.cumsum([0, *(len(options) for options in things)])
        cost = np.array([option.cost for options in things for option in options])
        self._worth = np.array([option.worth for options in things for option in options])
        owner = np.repeat(np.arange(len(things)), np.diff(self._starts))
        one_each = csr_array((np.ones(cost.size), (owner, np.arange(cost.size))), shape=(len(things), cost.size))
        self._constraints = [LinearConstraint(one_each, 1, 1)]
        if self._limits:
            rows, columns, values = [], [], []
            for row, limit in enumerate(self._limits):
                for thing, weight in with_pauses(limit.weights.items(), 200):
                    for column in range(self._starts[thing], self._starts[thing + 1]):
                        rows.append(row)
                        columns.append(column)
                        # In shares of the limit, so that terabytes and megabits are numbers of one size.
                        values.append(weight * cost[column] / max(limit.most, TOLERANCE))
            shares = csr_array((values, (rows, columns)), shape=(len(self._limits), cost.size))
            self._constraints.append(LinearConstraint(shares, -np.inf, 1.0))

    def _solved(self, whole: bool, options: dict[str, float]) -> OptimizeResult:
        integrality = np.full(self._worth.size, float(whole))
        return milp(
            -self._worth,
            constraints=self._constraints,
            integrality=integrality,
            bounds=Bounds(0, 1),
            options=options,
        )

    def rounded(self) -> Selected:
        """Parts of options taken as the cheapest of them, then each that was in parts as far up as the limits let it."""
        relaxed = self._solved(False, {})
        taken = [relaxed.x[begins:ends] for begins, ends in pairwise(self._starts)]
        picked = [
            min((int(option) for option in np.flatnonzero(parts > PART)), key=lambda option: own[option].cost)
            for parts, own in zip(taken, self._things, strict=True)
        ]
        pause()
        left = [limit.most * (1 + TOLERANCE) + TOLERANCE for limit in self._limits]
        for at, option in enumerate(picked):
            self._take(left, at, self._things[at][option].cost)
        for at, parts in enumerate(taken):
            if np.count_nonzero(parts > PART) > 1:
                picked[at] = self._as_far_up(left, at, picked[at])
        worth = self._sum(picked)
        return Selected(tuple(picked), worth, max(0.0, -float(relaxed.fun) - worth) / max(abs(worth), TOLERANCE))

    def whole(self, gap: float) -> Selected | None:
        """One whole option for each thing; None when the time limit ends before any was found."""
        result = self._solved(True, {"mip_rel_gap": gap, "time_limit": TIME_LIMIT_S})
        if result.x is None:
            return None
        picked = tuple(int(np.argmax(result.x[begins:ends])) for begins, ends in pairwise(self._starts))
        return Selected(picked, self._sum(picked), float(result.mip_gap or 0.0))

    def _as_far_up(self, left: list[float], at: int, now: int) -> int:
        """The best option of a thing that what is left allows instead of that of now."""
        own = self._things[at]
        for option in sorted(range(len(own)), key=lambda one: -own[one].worth):
            more = own[option].cost - own[now].cost
            rooms = zip(left, self._limits, strict=True)
            if option == now or all(room >= limit.weights.get(at, 0.0) * more for room, limit in rooms):
                self._take(left, at, more)
                return option
        return now

    def _take(self, left: list[float], at: int, cost: float) -> None:
        for number, limit in enumerate(self._limits):
            left[number] -= limit.weights.get(at, 0.0) * cost

    def _sum(self, picked: Sequence[int]) -> float:
        return sum(options[at].worth for options, at in zip(self._things, picked, strict=True))
