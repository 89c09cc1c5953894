"""How high the sums over a sliding window of days rise within a year, when days remember the one before.

The greatest of a year's standardised window sums has no closed distribution. It depends on three numbers: the window's length,
the days' memory and their skewness. So its quantiles were drawn once (``tools/window_max``), and are read between here.
"""

from __future__ import annotations

import json
import math
from bisect import bisect_right
from collections.abc import Sequence
from functools import cache, lru_cache
from itertools import product
from pathlib import Path
from typing import NamedTuple

from eager_lens.core.sizing.nodes import NORMAL

DAYS_A_YEAR = 365
LEAST_CHANCE = 1e-300


class _Table(NamedTuple):
    """Quantiles z[memory][skewness][days][side] at ``scores``, the normal scores of the probabilities."""

    memory: tuple[float, ...]
    skewness: tuple[float, ...]
    log_days: tuple[float, ...]
    scores: tuple[float, ...]
    z: list[list[list[list[list[float]]]]]


@cache
def _table() -> _Table:
    data = json.loads((Path(__file__).parent.parent / "reference" / "window_max.json").read_text("utf-8"))
    return _Table(
        tuple(data["memory"]),
        tuple(data["skewness"]),
        tuple(math.log(each) for each in data["days"]),
        tuple(NORMAL.inv_cdf(each) for each in data["chances"]),
        data["z_of_memory_skewness_days_side"],
    )


def window_variance(days: float, memory: float) -> float:
    """Variance of the sum over a window, in variances of a day, when days that lie h apart correlate by memory^h.

    A part of a day counts as that part of the oldest day's sum.
    """
    whole = math.floor(days)
    part = days - whole
    shorter, longer = _whole_days(whole, memory), _whole_days(whole + 1, memory)
    return (1 - part) ** 2 * shorter + part**2 * longer + part * (1 - part) * (shorter + longer - 1)


def _whole_days(days: int, memory: float) -> float:
    left = 1 - memory
    return days * (1 + memory) / left - 2 * memory * (1 - memory**days) / left**2


FROM_Z, TO_Z, STEPS_A_UNIT = -4.0, 12.0, 6
"""What is read at each window is kept at these z, for it is read very often."""


class Extreme:
    """A year's greatest (or least) standardised window sum, and a single one: quantiles z of both at normal scores."""

    def __init__(self, greatest_z: Sequence[float], single_z: Sequence[float], scores: Sequence[float]) -> None:
        self._single_z, self._scores = single_z, scores
        # Where it is asked for how high a year goes: at the quantiles, and below them for years in which few days are high.
        ends = {z for score, z in zip(scores, greatest_z, strict=True) if abs(score) < 2.5}
        self.levels = sorted({z for z in (-2.0, 0.0, 1.0) if z < min(ends) - 0.2} | ends)
        self._more = _MoreADay(greatest_z, single_z, scores)

    def single(self, z: float) -> float:
        """Minus the logarithm of the chance that one window does not lie beyond z."""
        return _against(self._single_z, self._scores, z)

    def more_a_day(self, z: float) -> float:
        """What each further day of windows adds to that.

        Windows of several kinds each take their days' part of it: clumps of windows that are too high come independently.
        """
        place = (min(max(z, FROM_Z), TO_Z - 1e-9) - FROM_Z) * STEPS_A_UNIT
        at = int(place)
        low = self._more[at]
        return low + (self._more[at + 1] - low) * (place - at)


class _MoreADay(dict[int, float]):
    """What each further day adds at the steps of z, worked out when it is first asked for: half of them never are."""

    def __init__(self, greatest_z: Sequence[float], single_z: Sequence[float], scores: Sequence[float]) -> None:
        super().__init__()
        self._of = greatest_z, single_z, scores

    def __missing__(self, at: int) -> float:
        greatest_z, single_z, scores = self._of
        z = FROM_Z + at / STEPS_A_UNIT
        self[at] = max(0.0, _against(greatest_z, scores, z) - _against(single_z, scores, z)) / DAYS_A_YEAR
        return self[at]


def _against(quantiles: Sequence[float], scores: Sequence[float], z: float) -> float:
    """Minus the logarithm of a chance of which some quantiles are known: straight lines between, and on beyond them."""
    at = min(max(bisect_right(quantiles, z), 1), len(quantiles) - 1)
    low, high = quantiles[at - 1], quantiles[at]
    score = scores[at - 1] + (scores[at] - scores[at - 1]) * (z - low) / (high - low)
    return -math.log(max(NORMAL.cdf(score), LEAST_CHANCE))


@lru_cache(maxsize=4096)
def extreme_of_year(days: float, memory: float, skewness: float, upward: bool) -> Extreme:
    """The greatest window sum of a year, or the least with its sign turned; beyond the ends of the table as there.

    Args:
        days: length of the window.
        memory: correlation of one day's activity with the next one's, 0 to 1.
        skewness: that of a day's sum. A negative one is the mirror image of a positive one.
        upward: the greatest; else the least.
    """
    table = _table()
    side = 0 if upward == (skewness >= 0) else 1
    places = (
        _between(table.memory, memory),
        _between(table.skewness, abs(skewness)),
        _between(table.log_days, math.log(max(days, 1e-9))),
    )
    greatest, single = [0.0] * len(table.scores), [0.0] * len(table.scores)
    for corner in product((0, 1), repeat=3):
        weight = math.prod(part if on else 1 - part for on, (_, part) in zip(corner, places, strict=True))
        if weight:
            row, column, cell = (at + on for on, (at, _) in zip(corner, places, strict=True))
            sides = table.z[row][column][cell]
            for at in range(len(table.scores)):
                greatest[at] += weight * sides[side][at]
                single[at] += weight * sides[side + 2][at]
    return Extreme(greatest, single, table.scores)


def _between(marks: Sequence[float], value: float) -> tuple[int, float]:
    """The mark to the left of a value, and how far it is on to the next one (0 to 1)."""
    at = min(max(bisect_right(marks, value) - 1, 0), len(marks) - 2)
    return at, min(max((value - marks[at]) / (marks[at + 1] - marks[at]), 0.0), 1.0)
