"""One choice for each of several things, the best sum of values under limits: a mixed-integer programme.

Solved by HiGHS through ``scipy.optimize.milp``. Every limit grows with the same cost of a choice (a stream's rate), so
when the cheapest choices break a limit, nothing keeps it: that is told limit by limit.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array

GAP = 0.003
TIME_LIMIT_S = 20.0
TOLERANCE = 1e-9


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
    """The options that are worth most within the limits, to a share of ``gap``; None when there are none.

    Raises:
        TimeoutError: when the time limit ends before anything was found.
    """
    if broken(things, limits):
        return None
    if not things:
        return Selected((), 0.0, 0.0)
    starts = np.cumsum([0, *(len(options) for options in things)])
    cost = np.array([option.cost for options in things for option in options])
    worth = np.array([option.worth for options in things for option in options])
    owner = np.repeat(np.arange(len(things)), np.diff(starts))
    one_each = csr_array((np.ones(cost.size), (owner, np.arange(cost.size))), shape=(len(things), cost.size))
    constraints = [LinearConstraint(one_each, 1, 1)]
    at_work = [limit for limit in limits if limit.weights]
    if at_work:
        rows, columns, values = [], [], []
        for row, limit in enumerate(at_work):
            for thing, weight in limit.weights.items():
                for column in range(starts[thing], starts[thing + 1]):
                    rows.append(row)
                    columns.append(column)
                    # In shares of the limit, so that terabytes and megabits are numbers of one size.
                    values.append(weight * cost[column] / max(limit.most, TOLERANCE))
        shares = csr_array((values, (rows, columns)), shape=(len(at_work), cost.size))
        constraints.append(LinearConstraint(shares, -np.inf, 1.0))
    result = milp(
        -worth,
        constraints=constraints,
        integrality=np.ones(cost.size),
        bounds=Bounds(0, 1),
        options={"mip_rel_gap": gap, "time_limit": TIME_LIMIT_S},
    )
    if result.x is None:
        raise TimeoutError("no choice was found in time")
    picked = tuple(int(np.argmax(result.x[starts[at] : starts[at + 1]])) for at in range(len(things)))
    total = sum(options[at].worth for options, at in zip(things, picked, strict=True))
    return Selected(picked, total, float(result.mip_gap or 0.0))
