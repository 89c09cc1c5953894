"""What a camera's rate control makes of the rate that its picture asks for: mean, range and peak."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

from eager_lens.core.sizing.capped import Demand, Level, held_in_case, held_mbps
from eager_lens.core.sizing.rate import Estimated, StreamRate, joined

RateControl = Literal["VBR", "capped VBR", "CBR", "smart codec"]
RATE_CONTROLS: tuple[RateControl, ...] = ("VBR", "capped VBR", "CBR", "smart codec")
"""VBR holds the quality and lets the bit rate vary; a cap cuts its peaks; CBR holds the bit rate; a smart codec saves while
nothing moves, mostly by longer GOPs, and can be capped."""

CAPPED: frozenset[RateControl] = frozenset(("capped VBR", "CBR", "smart codec"))
"""The modes in which a maximum that is set holds; constant quality has none."""

CAMERA_PORT_MBPS = 100.0
"""The speed of cameras' ports, and of PoE ports of recorders (assumed). No stream is faster, whatever its picture asks for."""

QUIET_STRETCH = 4.0
"""How many times fewer key frames a smart codec sends while nothing moves (assumed; makers differ, from two to ten)."""

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


def sent(rate: StreamRate, control: RateControl, cap_mbps: float | None, demand: Demand) -> Sent:
    """Apply a rate control.

    Args:
        rate: what the picture asks for at its quality.
        control: the mode. Without a cap, the modes that need one send what the picture asks for.
        cap_mbps: the cap, or the constant rate; of no effect on constant quality.
        demand: the same over time, with what a smart codec saves on it (``demand_of``).
    """
    if control == "CBR" and cap_mbps is not None:
        cap_mbps = min(cap_mbps, CAMERA_PORT_MBPS)
        low_mbps, high_mbps = cap_mbps * (1 - CONSTANT_SPREAD), min(cap_mbps * (1 + CONSTANT_SPREAD), CAMERA_PORT_MBPS)
        return Sent(cap_mbps, low_mbps, high_mbps, cap_mbps, cap_mbps, cap_mbps)
    peak_mbps = free_peak_mbps(rate)
    day, night = (_mean_of(demand, by_night) for by_night in (False, True))
    mean = _together(demand, day, night)
    low, high = (end * mean / rate.rate_mbps for end in (rate.low_mbps, rate.high_mbps))
    free = Sent(mean, low, high, peak_mbps, day, night)
    if control in CAPPED and cap_mbps is not None:
        return _held(free, demand, min(cap_mbps, CAMERA_PORT_MBPS))
    return _held(free, demand, CAMERA_PORT_MBPS) if peak_mbps > CAMERA_PORT_MBPS else free


def free_peak_mbps(rate: StreamRate) -> float:
    """The highest that is asked for, while something moves: no saving on quiet scenes lowers it."""
    return max(rate.day_mbps, rate.night_mbps) * rate.high_mbps / rate.rate_mbps


def sent_freely(rate: StreamRate) -> Sent | None:
    """What constant quality sends, without a look at what goes on when; None where the camera's port bounds it."""
    peak_mbps = free_peak_mbps(rate)
    if peak_mbps > CAMERA_PORT_MBPS:
        return None
    return Sent(rate.rate_mbps, rate.low_mbps, rate.high_mbps, peak_mbps, rate.day_mbps, rate.night_mbps)


def _held(free: Sent, demand: Demand, cap_mbps: float) -> Sent:
    """What is sent of a rate under a cap, which holds day and night, quiet and busy times each by itself."""
    held = demand._replace(
        levels=tuple(level._replace(mbps=held_mbps(level, demand, cap_mbps)) for level in demand.levels)
    )
    day, night = (_mean_of(held, by_night) for by_night in (False, True))
    mean = _together(held, day, night)
    low, high = (
        held_in_case(demand.levels, demand.middle * math.exp(log), cap_mbps)
        for log in (-demand.log_down, demand.log_up)
    )
    return Sent(mean, min(mean, low), min(max(mean, high), free.high_mbps), min(free.peak_mbps, cap_mbps), day, night)


def _mean_of(demand: Demand, by_night: bool) -> float:
    """The mean by day or by night; of a half that has no time, that of the other."""
    own = [level for level in demand.levels if level.by_night is by_night and level.share > 0] or list(demand.levels)
    return sum(level.share * level.mbps for level in own) / sum(level.share for level in own)


def _together(demand: Demand, day: float, night: float) -> float:
    dark = sum(level.share for level in demand.levels if level.by_night)
    return day + (night - day) * dark


def demand_of(
    whole: Estimated, still: Estimated, busiest: Estimated, busy_share: float, dark_share: float, control: RateControl
) -> Demand:
    """What a picture asks for over time: by day and by night, while something goes on and while nothing does.

    Args:
        whole: the estimate with as much going on as does. still: the same picture while nothing does. busiest: while as much does
            as can.
        busy_share: share of the time in which something goes on. dark_share: that in which it is dark.
        control: a smart codec sends fewer key frames while nothing moves.
    """
    left = 1.0
    if control == "smart codec":
        key_mbps, other_mbps = still.rate.key_part_mbps, still.rate.other_part_mbps
        left = (other_mbps + key_mbps / QUIET_STRETCH) / (other_mbps + key_mbps)
    levels = []
    for by_night, time in ((False, 1 - dark_share), (True, dark_share)):
        mean, quiet, most = (one.rate.night_mbps if by_night else one.rate.day_mbps for one in (whole, still, busiest))
        lively, quiet = _apart(mean, min(quiet, mean), max(most, mean), busy_share)
        per_step = whole.log_per_step[by_night]
        levels.append(Level(time * busy_share, lively, by_night, per_step))
        levels.append(Level(time * (1 - busy_share), left * quiet, by_night, per_step))
    return Demand(tuple(levels), *joined(whole.doubts))


def _apart(mean: float, quiet: float, most: float, busy_share: float) -> tuple[float, float]:
    """The rates while something goes on and while nothing does, whose mean is given. The model's mean can only be had with more
    in between than it has for no motion at all, where events are few: then that is what is sent the rest of the time."""
    if busy_share <= 0 or busy_share >= 1:
        return mean, mean
    lively = min(most, (mean - (1 - busy_share) * quiet) / busy_share)
    return lively, (mean - busy_share * lively) / (1 - busy_share)
