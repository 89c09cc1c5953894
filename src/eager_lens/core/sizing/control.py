"""What a camera's rate control makes of the rate that its picture asks for: mean, range and peak."""

from __future__ import annotations

from typing import Literal, NamedTuple

from eager_lens.core.sizing.rate import StreamRate

RateControl = Literal["VBR", "capped VBR", "CBR", "smart codec"]
RATE_CONTROLS: tuple[RateControl, ...] = ("VBR", "capped VBR", "CBR", "smart codec")
"""VBR holds the quality and lets the bit rate vary; a cap cuts its peaks; CBR holds the bit rate; a smart codec saves while
nothing moves, mostly by longer GOPs."""

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
        cap_mbps: the cap, or the constant rate.
        moving_share: share of the time in which something moves, for the mode that saves on quiet scenes.
    """
    up, down = rate.high_mbps / rate.rate_mbps, rate.low_mbps / rate.rate_mbps
    peak = max(rate.day_mbps, rate.night_mbps) * up
    if control == "CBR" and cap_mbps is not None:
        return Sent(
            cap_mbps, cap_mbps * (1 - CONSTANT_SPREAD), cap_mbps * (1 + CONSTANT_SPREAD), cap_mbps, cap_mbps, cap_mbps
        )
    if control == "capped VBR" and cap_mbps is not None:
        # Day and night each by themselves: a cap that only the night reaches takes nothing from the day.
        by_day, by_night = min(rate.day_mbps, cap_mbps), min(rate.night_mbps, cap_mbps)
        dark = _share_between(rate.day_mbps, rate.night_mbps, rate.rate_mbps)
        mean = by_day + (by_night - by_day) * dark
        return Sent(mean, min(mean, rate.low_mbps), min(mean * up, cap_mbps), min(peak, cap_mbps), by_day, by_night)
    if control == "smart codec":
        still = 1 - min(max(moving_share, 0.0), 1.0)
        mean = rate.other_part_mbps + rate.key_part_mbps * (1 - still + still / QUIET_STRETCH)
        left = mean / rate.rate_mbps
        return Sent(mean, mean * down, mean * up, peak, rate.day_mbps * left, rate.night_mbps * left)
    return Sent(rate.rate_mbps, rate.low_mbps, rate.high_mbps, peak, rate.day_mbps, rate.night_mbps)


def _share_between(a: float, b: float, mean: float) -> float:
    """The share of ``b`` in a mean of two rates; a half where they are equal."""
    return 0.5 if a == b else min(max((mean - a) / (b - a), 0.0), 1.0)
