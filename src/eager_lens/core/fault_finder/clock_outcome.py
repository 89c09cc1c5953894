"""How far a clock is off, as an answer to the table's test of it."""

from __future__ import annotations

from eager_lens.core.assess.limits import CLOCK_WITHIN_S

HOUR_S, DAY_S = 3600.0, 86_400.0
HOUR_NEAR_S = 60.0
"""What is so near to whole hours is a zone, not a drift."""


def clock_outcome(off_s: float) -> str:
    """The outcome of the test *clock* for an offset in seconds."""
    off_s = abs(off_s)
    if off_s <= CLOCK_WITHIN_S:
        return "right"
    if off_s >= DAY_S:
        return "off by days or years"
    hours = round(off_s / HOUR_S)
    return "off by whole hours" if hours and abs(off_s - hours * HOUR_S) < HOUR_NEAR_S else "off by seconds or minutes"
