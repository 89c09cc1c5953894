"""Where a rule looks, pixel by pixel: a row of the detector's picture is a whole number whose bits are its pixels, the lowest at
the left. Without NumPy, which takes longer to load than all of a job to be judged."""

from __future__ import annotations

import math
from collections.abc import Sequence

from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.values.motion_rule import Corner, MotionRule

ALL = (1 << WIDE) - 1


def rows_looked_at(rule: MotionRule) -> list[int]:
    """The rows of the picture: inside a zone, if there are any, and in none that is left out."""
    looked = [zone for zone in rule.zones if not zone.leave_out]
    rows = [0 if looked else ALL] * HIGH
    for zone in looked:
        rows = [row | inside for row, inside in zip(rows, _inside(zone.corners), strict=True)]
    for zone in rule.zones:
        if zone.leave_out:
            rows = [row & ~inside for row, inside in zip(rows, _inside(zone.corners), strict=True)]
    return rows


def looked_at_share(rows: Sequence[int]) -> float:
    """The share of the picture that is looked at."""
    return sum(row.bit_count() for row in rows) / (WIDE * HIGH)


def is_looked_at(rows: Sequence[int], x: float, y: float) -> bool:
    """Whether a place is looked at; both from 0, left and top, to 1."""
    return bool(rows[min(HIGH - 1, int(y * HIGH))] >> min(WIDE - 1, int(x * WIDE)) & 1)


def _inside(corners: Sequence[Corner]) -> list[int]:
    """Which pixels lie inside a polygon, by the even-odd rule at their middles."""
    rows = [0] * HIGH
    for (x1, y1), (x2, y2) in zip(corners, (*corners[1:], corners[0]), strict=True):
        for at in range(HIGH):
            y = (at + 0.5) / HIGH
            if (y1 > y) != (y2 > y):
                rows[at] ^= (1 << _pixels_left_of((x2 - x1) * (y - y1) / (y2 - y1) + x1)) - 1
    return rows


def _pixels_left_of(x: float) -> int:
    """How many pixels of a row have their middles to the left of a place."""
    many = min(WIDE, max(0, math.ceil(x * WIDE - 0.5)))
    while many and (many - 0.5) / WIDE >= x:
        many -= 1
    while many < WIDE and (many + 0.5) / WIDE < x:
        many += 1
    return many
