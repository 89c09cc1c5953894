"""How long a recorder will keep, from how full its drives were on several days."""

from __future__ import annotations

import math
from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple

import numpy as np

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.proof import FillReading
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_least

FULL_SHARE = 0.98
"""From here on drives count as full: they erase what is oldest, and fill no further."""
CONFIDENCE = 0.9
LEAST_SPAN_DAYS = 0.5
"""Readings nearer to one another tell nothing of days."""


class FillProjection(NamedTuple):
    """What the readings say.

    Attributes:
        days: that will be kept. low_days, high_days: between which they lie in 9 of 10 cases by the readings' scatter
            about a straight line; None for fewer than three readings. high_days may be infinite.
        tb_per_day: what is written a day. readings: how many it comes from. seen: the oldest recording was read off full
            drives: then nothing is projected.
    """

    days: float
    low_days: float | None
    high_days: float | None
    tb_per_day: float
    readings: int
    seen: bool = False

    @property
    def words(self) -> str:
        """In words."""
        if self.seen:
            return f"{figure(self.days, 3)} days: full, age of its oldest recording"
        much = (
            f"{figure(self.days, 3)} days from {count(self.readings, 'reading')}, {figure(self.tb_per_day, 3)} TB a day"
        )
        if self.low_days is None or self.high_days is None:
            return f"{much}; a third reading gives the range"
        high = "no end" if math.isinf(self.high_days) else figure(self.high_days, 3)
        return f"{much}; in 9 of 10 cases {figure(self.low_days, 3)} to {high}"


def projected_days(readings: Iterable[FillReading], usable_tb: float) -> FillProjection:
    """The days that drives of this size will hold.

    A straight line through used space over time (least squares); its slope, with the interval of Student's t at n - 2 degrees
    of freedom, divides the usable space. The weekdays differ, so readings should span a week or more.

    Args:
        readings: of one recorder. usable_tb: what its drives hold.

    Raises:
        RefusedInput: when there are too few readings, they lie too near to one another, or nothing is written.
    """
    if usable_tb <= 0:
        raise RefusedInput("drives", "the planned drives give no space; correct them on the Sizing page first")
    # What tells the oldest picture alone says nothing of how full the drives are.
    known = [(one, one.used_tb) for one in sorted(readings, key=lambda one: one.at) if one.used_tb is not None]
    full = [one for one, used_tb in known if at_least(used_tb, FULL_SHARE * usable_tb)]
    aged = [one.oldest_days for one in full if one.oldest_days is not None]
    if aged:
        return FillProjection(aged[-1], None, None, usable_tb / aged[-1] if aged[-1] else 0.0, len(aged), True)
    filling = [(one, used_tb) for one, used_tb in known if one not in full]
    if len(filling) < 2:
        more = "; the drives are full, so note the age of the oldest recording" if full else ""
        raise RefusedInput(
            "readings", f"{count(len(filling), 'reading')} while the drives fill; two or more are needed{more}"
        )
    moments = [datetime.fromisoformat(one.at) for one, _ in filling]
    days = [(moment - moments[0]).total_seconds() / 86_400 for moment in moments]
    if days[-1] < LEAST_SPAN_DAYS:
        raise RefusedInput("readings", "they are less than half a day apart; read the drives again tomorrow")
    used = [used_tb for _, used_tb in filling]
    slope = float(np.polyfit(days, used, 1)[0])
    if slope <= 0:
        raise RefusedInput(
            "readings", "the drives are not filling; check whether anything is recorded, and what was erased"
        )
    low = high = None
    if len(filling) > 2:
        from scipy.special import stdtrit  # heavy, and wanted only here

        _, covariance = np.polyfit(days, used, 1, cov=True)
        off = float(stdtrit(len(filling) - 2, (1 + CONFIDENCE) / 2) * math.sqrt(covariance[0, 0]))
        low = usable_tb / (slope + off)
        high = usable_tb / (slope - off) if slope > off else math.inf
    return FillProjection(usable_tb / slope, low, high, slope, len(filling))
