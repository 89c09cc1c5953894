"""Which of many settings to propose: one that still holds when it is a little off, not one at an edge.

Sensitivity, smallest and largest size and shortest time are tried in all their pairings. A setting is judged together with
its neighbours on that grid: the days to come will be a little different, and so will the camera's own detector.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.motion.tuning.scores import Evidence, Score, looked_share
from eager_lens.core.values.motion_rule import MotionRule, Zone

SENSITIVITIES = (25.0, 37.0, 50.0, 56.0, 62.0, 75.0)
SMALLEST_M = (0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.85)
LARGEST_M = (2.2, 2.7, 3.2, 3.6, 4.2)
SHORTEST_S = (0.6, 0.8, 1.2, 1.6, 2.0, 2.4)
"""Settings that are tried besides those of the rule."""

FIELDS = ("sensitivity", "smallest_m", "largest_m", "shortest_s")

MISS_COSTS_PER_H = 150.0
"""One in a hundred missed weighs as much as 1.5 false alarms an hour (assumed)."""

TOLERATED_SHARE = 0.02
"""A proposal may miss so much more of adults, of children and of others than the rule as it is ..."""

NEIGHBOURS_SHARE = 0.02
"""... and together with its neighbours so much: where a step to the side misses more, the next day will."""


class Grid(NamedTuple):
    """Settings in all their pairings, with the same zones: values of each, and what each pairing comes to.

    Attributes:
        values: of each of ``FIELDS``, in order. false_per_h: by the four. missed: by the four and by group.
    """

    zones: tuple[Zone, ...]
    values: tuple[tuple[float, ...], ...]
    false_per_h: NDArray[np.float64]
    missed: NDArray[np.int64]

    def rule(self, rule: MotionRule, at: tuple[int, ...]) -> MotionRule:
        """The rule at a place of the grid."""
        fields = {name: values[here] for name, values, here in zip(FIELDS, self.values, at, strict=True)}
        return rule.model_copy(update={**fields, "zones": self.zones})

    def place_of(self, rule: MotionRule) -> tuple[int, ...]:
        """Where a rule is on the grid whose values were made around it."""
        return tuple(values.index(getattr(rule, name)) for values, name in zip(self.values, FIELDS, strict=True))

    def places(self) -> Iterator[tuple[int, ...]]:
        """All places of the grid."""
        return itertools.product(*(range(len(values)) for values in self.values))


class Steady(NamedTuple):
    """The place of a grid that is best, and by what: false alarms an hour and misses, with its neighbours'."""

    grid: Grid
    at: tuple[int, ...]
    cost: float


def values_of(rule: MotionRule) -> tuple[tuple[float, ...], ...]:
    """The values to try around a rule: only longer times and lower largest sizes than its own can help."""
    smallest = sorted({*(one for one in SMALLEST_M if one < rule.largest_m), rule.smallest_m})
    largest = sorted({*(one for one in LARGEST_M if smallest[-1] < one < rule.largest_m), rule.largest_m})
    shortest = sorted({*(one for one in SHORTEST_S if one > rule.shortest_s), rule.shortest_s})
    return tuple(sorted({*SENSITIVITIES, rule.sensitivity})), tuple(smallest), tuple(largest), tuple(shortest)


def grid_of(
    evidence: Evidence, rule: MotionRule, zones: tuple[Zone, ...], values: tuple[tuple[float, ...], ...]
) -> Grid:
    """What all pairings come to with these zones."""
    shape = tuple(len(one) for one in values)
    false_per_h, missed = np.zeros(shape), np.zeros((*shape, 3), dtype=np.int64)
    zoned = rule.model_copy(update={"zones": zones})
    grid = Grid(zones, values, false_per_h, missed)
    for first, sensitivity in enumerate(values[0]):
        table_at = evidence.at(sensitivity)
        share = looked_share(evidence.tables[table_at], zoned)
        for at in itertools.product((first,), *(range(length) for length in shape[1:])):
            found = evidence.of_rule(grid.rule(rule, at), table_at, share)
            false_per_h[at], missed[at] = found.false_per_h, found.missed
    return grid


def selected_of(grid: Grid, now: Score, come: Sequence[int]) -> Steady | None:
    """The place whose cost with its neighbours' is least, of those that miss hardly more of anybody and tell no more falsely
    than the rule as it is; None where there is none."""
    came, most = np.array(come), np.array(now.missed)
    own = grid.false_per_h + MISS_COSTS_PER_H * grid.missed.sum(axis=-1) / max(1, came.sum())
    allowed = (grid.missed <= most + np.rint(TOLERATED_SHARE * came)).all(axis=-1)
    allowed &= grid.false_per_h <= now.false_per_h
    for axis, length in enumerate(own.shape):
        ends = [slice(None)] * own.ndim
        for step, end in ((-1, 0), (1, length - 1)):
            if length > 1 and not _may_end(axis, step):
                ends[axis] = slice(end, end + 1)
                allowed[tuple(ends)] = False
    beside = np.stack([_with_neighbours(grid.missed[..., group]) for group in range(len(came))], axis=-1)
    allowed &= (beside <= most + NEIGHBOURS_SHARE * came).all(axis=-1)
    cost = np.where(allowed, _with_neighbours(own), np.inf)
    at = tuple(int(one) for one in np.unravel_index(int(np.argmin(cost)), cost.shape))
    return Steady(grid, at, float(cost[at])) if np.isfinite(cost[at]) else None


def _with_neighbours(values: NDArray[Any]) -> NDArray[np.float64]:
    """The mean of each place, counted twice, and its neighbours along all axes."""
    total, weight = 2.0 * values, np.full(values.shape, 2.0)
    for axis in range(values.ndim):
        for one, other in ((np.s_[1:], np.s_[:-1]), (np.s_[:-1], np.s_[1:])):
            here: list[slice] = [slice(None)] * values.ndim
            there = list(here)
            here[axis], there[axis] = one, other
            total[tuple(here)] += values[tuple(there)]
            weight[tuple(here)] += 1
    mean: NDArray[np.float64] = total / weight
    return mean


def _may_end(axis: int, step: int) -> bool:
    """Whether a grid may end at the place that is taken: only towards settings that let more count, and of the sensitivity at
    neither end."""
    return (FIELDS[axis], step) in (("smallest_m", -1), ("largest_m", 1), ("shortest_s", -1))
