"""What a camera's rate control makes of the rate that its picture asks for: mean, range and peak."""

from __future__ import annotations

from typing import Literal, NamedTuple

from eager_lens.core.sizing.rate import StreamRate

RateControl = Literal["VBR", "capped VBR", "CBR", "smart codec"]
RATE_CONTROLS: tuple[RateControl, ...] = ("VBR", "capped VBR", "CBR", "smart codec")
"""VBR holds the quality and lets the bit rate vary; a cap cuts its peaks; CBR holds the bit rate; a smart codec saves while
nothing moves, mostly by longer GOPs, and can be capped."""

CAPPED: frozenset[RateControl] = frozenset(("capped VBR", "CBR", "smart codec"))
"""The modes in which a maximum that is set holds; constant quality has none."""

QUIET_STRETCH = 4.0
"""Key frames come so many times rarer while nothing moves, in modes that save then. Assumed: makers differ, from two to ten."""

CONSTANT_SPREAD = 0.03
"""A constant rate is held to within a few per cent by the camera's buffer."""


class Sent(NamedTuple):
    """What is sent in Mb/s: the mean with its range, the highest that is held for minutes (a busy scene by day or night), and
    the means by day and by night."""

    mean_mbps: float
    low_mbps: float
    high_mbps: float
    peak_mbps: float
    day_mbps: float
    night_mbps: float


def sent(rate: StreamRate, control: RateControl, cap_mbps: float | None, moving_share: float) -> Sent:
    """Apply a rate control.

    Args:
        rate: what the picture asks for at its quality.
        control: the mode. Without a cap, the modes that need one send what the picture asks for.
        cap_mbps: the cap, or the constant rate; of no effect on constant quality.
        moving_share: share of the time in which something moves, for the mode that saves on quiet scenes.
    """
    if control == "CBR" and cap_mbps is not None:
        return Sent(
            cap_mbps, cap_mbps * (1 - CONSTANT_SPREAD), cap_mbps * (1 + CONSTANT_SPREAD), cap_mbps, cap_mbps, cap_mbps
        )
    # The highest is what is sent while something moves, which no saving on quiet scenes lowers.
    peak_mbps = max(rate.day_mbps, rate.night_mbps) * rate.high_mbps / rate.rate_mbps
    left = 1.0
    if control == "smart codec":
        still = 1 - min(max(moving_share, 0.0), 1.0)
        left = (rate.other_part_mbps + rate.key_part_mbps * (1 - still + still / QUIET_STRETCH)) / rate.rate_mbps
    mean, low, high, day, night = (
        left * mbps for mbps in (rate.rate_mbps, rate.low_mbps, rate.high_mbps, rate.day_mbps, rate.night_mbps)
    )
    if control not in CAPPED or cap_mbps is None:
        return Sent(mean, low, high, peak_mbps, day, night)
    # Day and night each by themselves: a cap that only the night reaches takes nothing from the day.
    by_day, by_night = min(day, cap_mbps), min(night, cap_mbps)
    held = by_day + (by_night - by_day) * _share_between(day, night, mean)
    return Sent(held, min(held, low), min(held * high / mean, cap_mbps), min(peak_mbps, cap_mbps), by_day, by_night)


def _share_between(a: float, b: float, mean: float) -> float:
    """The share of ``b`` in a mean of two rates; a half where they are equal."""
    return 0.5 if a == b else min(max((mean - a) / (b - a), 0.0), 1.0)
