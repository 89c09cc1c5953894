"""How far the sum of many streams may lie from the sum of their rates, as a mixture of log-normal distributions.

What is not known of a stream's rate is two half normal distributions in the logarithm, one below and one above the rate.
Streams of one group have a share of its variance in common, since the same is assumed of their encoders. For each value of
what is common the streams are independent; their sum is then taken as log-normal of the same mean and variance (L. Fenton,
"The sum of log-normal probability distributions", IRE Trans. Commun. Syst. 8, 1960), shifted so that the skewness holds too.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

from eager_lens.core.sizing.nodes import NODES, NORMAL, mean_of

_cdf = NORMAL.cdf

FINE_POINTS = 21
FINE_WIDTH = 8 / FINE_POINTS
FINE = tuple(
    ((low + high) / 2, _cdf(high) - _cdf(low))
    for low, high in pairwise(-4 + 8 * at / FINE_POINTS for at in range(FINE_POINTS + 1))
)
"""Values of a normal variable, so far apart, with their chances."""

Z_OF_RANGE = 1.2815515655446004
"""Standard deviations on either side of a range that holds 80 % of cases."""

TAIL = 1.645
"""The normal score at which the tails are taken: 95 %."""

NO_GROUP = ""


def rounded(value: float) -> float:
    """A value to six digits, so that streams nearly alike are worked out once; what is small stays what it is."""
    return float(f"{value:.6g}")


class HeldRate(NamedTuple):
    """An estimated rate under a cap: what the picture asks for at the middle of what is not known over the cap, with the share of
    the time that it does; and what is sent on the mean over the cap."""

    levels: tuple[tuple[float, float], ...]
    mean: float

    @property
    def most(self) -> float:
        """The most that can be sent over the mean: the cap, whenever anything is."""
        return sum(share for share, level in self.levels if level > 0) / self.mean

    def factor(self, log_away: float) -> float:
        """What is sent over the mean, where so much more is asked for than at the middle (logarithm)."""
        times = math.exp(log_away)
        return sum(share * min(level * times, 1.0) for share, level in self.levels) / self.mean


class ByMotion(NamedTuple):
    """How much of the time is stored where clips start at random, over the mean: a part that is steady, and one in proportion to
    the share that clips cover, ``rho`` being the starts in a clip's length at the middle of what is not known. The logarithm of
    the starts is normal."""

    steady: float
    moving: float
    rho: float
    deviation: float

    def factor(self, score: float) -> float:
        """What is stored over the mean at a normal score."""
        return self.steady - self.moving * math.expm1(-self.rho * math.exp(self.deviation * score))

    def moments(self) -> tuple[float, float, float]:
        """The first three moments, of which the first is 1."""
        if self.deviation == 0:
            return 1.0, 1.0, 1.0
        factors = [(self.factor(score), chance) for score, chance in FINE]
        first, second, third = (sum(chance * factor**times for factor, chance in factors) for times in (1, 2, 3))
        return 1.0, second / first**2, third / first**3


NOT_BY_MOTION = ByMotion(1.0, 0.0, 0.0, 0.0)


class UncertainRate(NamedTuple):
    """A stream: what it stores, deviations of the rate's logarithm below and above its middle, and what it shares them with;
    where it is held under a cap, how; and how much of the time is stored, which it shares with nobody."""

    gb_per_day: float
    log_down: float
    log_up: float
    group: str = NO_GROUP
    held: HeldRate | None = None
    by_motion: ByMotion = NOT_BY_MOTION


@lru_cache(maxsize=20_000)
def _cumulants(
    log_down: float, log_up: float, shared: float, held: HeldRate | None, by_motion: ByMotion
) -> tuple[tuple[float, float, float], ...]:
    """Mean, variance and third central moment of a stream's factor at each node of what it has in common with its group. The
    factor is over the stream's mean."""
    own = math.sqrt(1 - shared)
    mean = mean_of_halves(Z_OF_RANGE * log_down, Z_OF_RANGE * log_up)
    of_motion = by_motion.moments()
    found = []
    for node in NODES:
        common = math.sqrt(shared) * node
        if held is None:
            first, second, third = (
                (_side(common, own, times * log_up) + _side(-common, own, -times * log_down)) / mean**times
                for times in (1, 2, 3)
            )
        else:
            scores = [(common + own * at, chance) for at, chance in FINE]
            factors = [(held.factor(z * (log_up if z > 0 else log_down)), chance) for z, chance in scores]
            first, second, third = (sum(chance * factor**times for factor, chance in factors) for times in (1, 2, 3))
        # Moments of a product of what knows nothing of each other.
        second, third = second * of_motion[1], third * of_motion[2]
        found.append((first, max(0.0, second - first**2), third - 3 * first * second + 2 * first**3))
    return tuple(found)


def _side(mean: float, deviation: float, slope: float) -> float:
    """Mean of exp(slope x), counted where x > 0, of a normal x."""
    if deviation < 1e-9:
        return math.exp(slope * mean) if mean > 0 else 0.5 * (mean == 0)
    shifted = mean + slope * deviation**2
    return math.exp(slope * mean + (slope * deviation) ** 2 / 2) * _cdf(shifted / deviation)


def mean_of_halves(log_down: float, log_up: float) -> float:
    """Mean over middle of a variable whose logarithm is two half normal distributions: both ends of 8 in 10 cases are given."""
    return _side(0.0, 1.0, log_up / Z_OF_RANGE) + _side(0.0, 1.0, -log_down / Z_OF_RANGE)


class RateFactor(NamedTuple):
    """One of the values of what is common: its chance, and of the logarithm of the sum over that of the rates the middle
    and the deviations above and below it."""

    chance: float
    middle: float
    above: float
    below: float


def rate_factors(streams: Iterable[UncertainRate], shared: float) -> tuple[RateFactor, ...]:
    """What the streams' sum may be over the sum of their rates, for each of some values of what is common.

    Args:
        streams: at least one that stores something.
        shared: share of the variance, in logarithms, that a group has in common.
    """
    whole = most = 0.0
    groups: dict[str, list[list[float]]] = {}
    weight_of: dict[str, float] = {}
    for gb, log_down, log_up, group, held, by_motion in streams:
        whole += gb
        most += gb * _most(log_up, held, by_motion)
        cumulants = _cumulants(log_down, log_up, shared if group else 0.0, held, by_motion)
        sums = groups.setdefault(group, [[0.0, 0.0, 0.0] for _ in NODES])
        weight_of[group] = weight_of.get(group, 0.0) + gb
        square = gb * gb
        for own, (mean, variance, third) in zip(sums, cumulants, strict=True):
            own[0] += gb * mean
            own[1] += square * variance
            own[2] += square * gb * third
    # The group that stores most is taken value by value, the others as one more independent stream each.
    leading = max(weight_of, key=lambda group: (group != NO_GROUP, weight_of[group]))
    others = [_unconditional(sums) for group, sums in groups.items() if group != leading]
    rest = [sum(each[order] for each in others) for order in range(3)]
    at_nodes = []
    for mean, variance, third in groups[leading]:
        at_nodes.append(
            _in_logarithms(
                (mean + rest[0]) / whole, (variance + rest[1]) / whole**2, (third + rest[2]) / whole**3, most / whole
            )
        )
    if shared <= 0 or leading == NO_GROUP:
        return (RateFactor(1.0, *at_nodes[0]),)
    return tuple(RateFactor(chance, *_read(at_nodes, at)) for at, chance in FINE)


def _most(log_up: float, held: HeldRate | None, by_motion: ByMotion) -> float:
    """The most that a stream stores over its mean: at its cap, or without one hardly ever more than that, and all the time."""
    if held is None and by_motion.deviation == 0:
        return math.inf
    return (math.exp(HARDLY_EVER * log_up) if held is None else held.most) * (by_motion.steady + by_motion.moving)


HARDLY_EVER = 2.33
"""One case in a hundred lies more deviations than this above the middle."""


def _unconditional(at_nodes: Sequence[Sequence[float]]) -> tuple[float, float, float]:
    """Mean, variance and third central moment of a mixture over the nodes."""
    means, variances, thirds = zip(*at_nodes, strict=True)
    mean = mean_of(means)
    away = [each - mean for each in means]
    variance = mean_of(variances) + mean_of([each**2 for each in away])
    third = mean_of([t + 3 * a * v + a**3 for t, a, v in zip(thirds, away, variances, strict=True)])
    return mean, variance, third


def _in_logarithms(mean: float, variance: float, third: float, most: float) -> tuple[float, float, float]:
    """Middle of the logarithm and deviations above and below it, of a shifted log-normal with this mean, variance and skewness;
    it does not rise above the most that caps let through."""
    deviation = math.sqrt(variance)
    if deviation < 1e-6 * mean:
        return math.log(mean), 0.0, 0.0
    above, middle, below = (
        math.log(min(most, max(mean + deviation * skewed(z, third / deviation**3), 1e-6 * mean)))
        for z in (TAIL, 0.0, -TAIL)
    )
    return middle, max(above - middle, 0.0) / TAIL, max(middle - below, 0.0) / TAIL


def skewed(z: float, skewness: float) -> float:
    """The standardised value of a shifted log-normal variable of a skewness (either sign) at a normal score."""
    if abs(skewness) < 1e-3:
        return z
    sign, half = math.copysign(1.0, skewness), skewness * skewness / 2
    root = (1 + half + abs(skewness) * math.sqrt(1 + half / 2)) ** (1 / 3)
    w = root + 1 / root - 1
    square = math.log(w)
    return sign * math.expm1(sign * math.sqrt(square) * z - square / 2) / math.sqrt(w - 1)


def _read(at_nodes: Sequence[tuple[float, float, float]], at: float) -> tuple[float, float, float]:
    """The three figures of one of the values that are close together."""
    right = min(max(bisect_right(NODES, at), 1), len(NODES) - 1)
    apart = NODES[right] - NODES[right - 1]
    part = (at - NODES[right - 1]) / apart
    middle, above, below = (
        low + (high - low) * part for low, high in zip(at_nodes[right - 1], at_nodes[right], strict=True)
    )
    # A value stands for a range of values, over which the middle moves on.
    moves = (at_nodes[right][0] - at_nodes[right - 1][0]) / apart * FINE_WIDTH / math.sqrt(12)
    return middle, math.hypot(above, moves), math.hypot(below, moves)
