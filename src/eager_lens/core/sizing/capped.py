"""What a maximum bit rate does to a stream: what is sent on the mean, how much of the time it holds, and how much it softens.

A picture asks for a rate that changes with day and night and with what goes on (``Level``), and that is not known exactly: its
logarithm has two half normal distributions about a middle, as everywhere (``rate_spread``). Below the cap it is sent as it is;
above it the camera's quantiser grows until it fits. All means over what is not known are closed forms of the normal distribution.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

from eager_lens.core.sizing.nodes import NORMAL
from eager_lens.core.sizing.rate_spread import Z_OF_RANGE, HeldRate, mean_of_halves, rounded

_cdf, _density = NORMAL.cdf, NORMAL.pdf


class Level(NamedTuple):
    """What a picture asks for in some of the time: the share of the time, the mean in Mb/s, whether that is by night, and by how
    much, in logarithms, it falls for each step that the quantiser grows."""

    share: float
    mbps: float
    by_night: bool
    log_per_step: float


class Demand(NamedTuple):
    """All levels of a picture, whose shares come to 1, and how far 8 in 10 cases lie below and above the middle (logarithms)."""

    levels: tuple[Level, ...]
    log_down: float
    log_up: float

    @property
    def middle(self) -> float:
        """The middle of what is not known, over its mean."""
        return 1 / mean_of_halves(self.log_down, self.log_up)


NO_DEMAND = Demand((), 0.0, 0.0)


class AtCap(NamedTuple):
    """What a cap takes away: the share of the time (0 to 1) in which the picture asks for more, by day and by night, and by how
    many steps the quantiser is coarser then, on the mean. Six steps double the quantiser's step."""

    day_share: float
    night_share: float
    day_steps: float
    night_steps: float


def held_mbps(level: Level, demand: Demand, cap_mbps: float) -> float:
    """The mean that is sent in a level under a cap, over all that is not known."""
    if level.mbps <= 0:
        return 0.0
    middle_mbps = level.mbps * demand.middle
    down, up = demand.log_down / Z_OF_RANGE, demand.log_up / Z_OF_RANGE
    z = _score_of_cap(middle_mbps, cap_mbps, down, up)
    if z >= 0:
        under = _part(-down, 0.0, math.inf) + _part(up, 0.0, z)
    else:
        under = _part(-down, -z, math.inf)
    return middle_mbps * under + cap_mbps * _cdf(-z)


def held_under(demand: Demand, cap_mbps: float) -> HeldRate:
    """What a cap makes of a demand, for the sum of many streams. Rounded, so that streams alike are worked out once."""
    mean_mbps = sum(level.share * held_mbps(level, demand, cap_mbps) for level in demand.levels)
    levels = ((rounded(level.share), rounded(level.mbps * demand.middle / cap_mbps)) for level in demand.levels)
    return HeldRate(tuple(levels), rounded(mean_mbps / cap_mbps))


def held_in_case(levels: Iterable[Level], times: float, cap_mbps: float) -> float:
    """What is sent in one case: all levels so many times their means, over all the time."""
    return sum(level.share * min(level.mbps * times, cap_mbps) for level in levels)


def at_cap(demand: Demand, cap_mbps: float) -> AtCap:
    """How much of the time a cap holds, and how much coarser the picture is then."""
    found = []
    for by_night in (False, True):
        whole = share = steps = 0.0
        for level in demand.levels:
            if level.by_night is by_night and level.mbps > 0:
                over, log_over = _over(level, demand, cap_mbps)
                whole += level.share
                share += level.share * over
                steps += level.share * log_over / level.log_per_step
        found.append((share / whole if whole else 0.0, steps / share if share > 1e-9 else 0.0))
    (day_share, day_steps), (night_share, night_steps) = found
    return AtCap(day_share, night_share, day_steps, night_steps)


def _over(level: Level, demand: Demand, cap_mbps: float) -> tuple[float, float]:
    """The chance that a level asks for more than the cap, and that chance times by how much on the mean (logarithm)."""
    down, up = demand.log_down / Z_OF_RANGE, demand.log_up / Z_OF_RANGE
    middle_mbps = level.mbps * demand.middle
    z, log_cap = _score_of_cap(middle_mbps, cap_mbps, down, up), math.log(cap_mbps / middle_mbps)
    over = _cdf(-z)
    if z >= 0:
        return over, max(0.0, up * _density(z) - log_cap * over)
    return over, max(0.0, down * (_density(z) - _density(0.0)) + up * _density(0.0) - log_cap * over)


def _score_of_cap(middle_mbps: float, cap_mbps: float, down: float, up: float) -> float:
    """The normal score at which a level asks for exactly the cap."""
    log_cap = math.log(cap_mbps / middle_mbps)
    deviation = up if log_cap >= 0 else down
    return log_cap / deviation if deviation > 1e-9 else math.copysign(40.0, log_cap)


def _part(slope: float, low: float, high: float) -> float:
    """Mean of exp(slope x), counted where x lies between two values, of a normal x."""
    upper = 1.0 if high == math.inf else _cdf(high - slope)
    return math.exp(slope * slope / 2) * max(0.0, upper - _cdf(low - slope))
