"""The retention that can be promised: days kept on the worst day of a year 19 times in 20, in semi-closed form.

A recorder keeps d days on every evening of a year when no window of d days stores more than its space. Three things are
at random: what is not known of the rates, the same all the year (``rate_spread``); how much goes on, log-normal from day to
day with a memory; and what a day's events come to on each camera. For each value of the rates the sums over windows are
standardised by their own mean and variance, the calendar's exceptions and seasons in them, and the chance that none of a year
rises too high is read off ``window_max``. The promise is where that chance, over all values of the rates, is 95 %.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from itertools import accumulate
from typing import NamedTuple

from eager_lens.core.sizing.nodes import HERMITE, NORMAL, WEIGHTS, mean_of
from eager_lens.core.sizing.rate_spread import TAIL, RateFactor
from eager_lens.core.sizing.window_max import DAYS_A_YEAR, extreme_of_year, window_variance

PROMISED_SHARE = 0.95

MEAN_OF_HALVES = 1 / math.sqrt(2 * math.pi)
"""Mean of the positive half of a normal variable: by so much of their difference two unequal halves move the mean."""

KINDS_APART, DEVIATIONS_APART = 0.004, 0.25
"""Windows whose means differ by less than this share, or by less than this number of standard deviations, are merged."""
FAR_BELOW = 4.5
"""Windows this many standard deviations below the highest are almost never the worst of a year."""

LEAST_SCORE, MOST_SCORE = -8.0, 8.0
CLOSE, MOST_STEP, MOST_STEPS = 3e-4, 1.5, 60
"""In logarithms: when a root is near enough, and how far one step may go."""

STEADY = 1e-6
"""Share of the mean: a day that varies by less does not vary."""


class DayKind(NamedTuple):
    """What is stored on a day of one kind, all rates as they are thought to be.

    Attributes:
        mean_gb: the mean. spread: coefficients of the first three Hermite polynomials of the day's activity.
        noise: variance by the chance of single events. third: third central moment, both together.
    """

    mean_gb: float
    spread: tuple[float, float, float]
    noise: float
    third: float


def day_kind(gb: Sequence[float], noise: Sequence[float], noise_third: float) -> DayKind:
    """A kind of day from the nodes of activity: what it stores there, and the variance of that by the chance of single events.

    ``noise_third`` is the third central moment of that chance alone.
    """
    mean = mean_of(gb)
    # What a day stores is a function of one normal variable, known at the quadrature's nodes. Projected on the Hermite
    # polynomials it falls into parts whose memory from day to day is memory, memory² and memory³ (Mehler's formula).
    away = [each - mean for each in gb]
    if max(map(abs, away)) < STEADY * mean:
        return DayKind(mean, (0.0, 0.0, 0.0), mean_of(noise), noise_third)
    spread = tuple(
        sum(weight * each * row[order] for weight, each, row in zip(WEIGHTS, away, HERMITE, strict=True))
        for order in range(3)
    )
    third = sum(
        weight * (each**3 + 3 * each * chance) for weight, each, chance in zip(WEIGHTS, away, noise, strict=True)
    )
    return DayKind(mean, (spread[0], spread[1], spread[2]), mean_of(noise), third + noise_third)


class Year(NamedTuple):
    """A calendar year of a recorder: the kind of each of its days, and a factor on what it stores (dark hours)."""

    kinds: tuple[DayKind, ...]
    day: tuple[int, ...]
    factor: tuple[float, ...]


class _Window(NamedTuple):
    """Windows alike: how many of a year's there are, mean and standard deviation."""

    days: float
    mean: float
    deviation: float


class Keeping:
    """One recorder's years, from which days and chances are read.

    Args:
        years: calendars, equally likely (a busy season that may begin at several dates).
        rates: what the rates may be over what they are thought to be.
        space_gb: usable space; 0: no drives that hold together, and no days.
        memory: correlation of one day's activity with the next day's.
        most_gb: what is stored a day when every camera sends its maximum; None where one has none.
    """

    def __init__(
        self,
        years: Sequence[Year],
        rates: Sequence[RateFactor],
        space_gb: float,
        memory: float,
        most_gb: float | None = None,
    ) -> None:
        self.most_gb = most_gb
        self.rates = rates
        self.space_gb = space_gb
        # Findings ask these at every edit, of recorders that no edit has touched.
        self._longest: dict[float, float] = {}
        self._space_gb_for: dict[tuple[float, float], float] = {}
        self._years = [_Sums(year) for year in years]
        self._orders = [sum(year.orders[at] for year in self._years) for at in range(3)]
        noise, active = (sum(getattr(year, name) for year in self._years) for name in ("noise_sum", "active_sum"))
        self._noise_share = noise / (noise + active) if noise + active > 0 else 0.0
        self._memory = memory
        third = sum(year.third_sum for year in self._years)
        variance = (noise + active) / len(years) / DAYS_A_YEAR
        self.mean_gb = sum(year.mean_gb for year in self._years) / len(years)
        steady = variance <= (STEADY * self.mean_gb) ** 2
        self._skewness = 0.0 if steady else third / len(years) / DAYS_A_YEAR / variance**1.5

    def share(self, days: float) -> float:
        """The share of years in which every evening at least so many days are kept."""
        if self.space_gb <= 0:
            return 0.0
        return self._fits([self._calm_year(year, days, 1) for year in self._years], math.log(self.space_gb), 1)

    def certain(self) -> float | None:
        """The days that are kept if every camera sends its maximum whenever it records; None where one has none."""
        return None if not self.most_gb else self.space_gb / self.most_gb

    def promised(self, share: float = PROMISED_SHARE) -> float:
        """The days that are kept on the worst day of the year in this share of years."""
        return self._days_for(share, 1)

    def longest(self, share: float = PROMISED_SHARE) -> float:
        """The days that are not exceeded on any day of the year in this share of years."""
        if share not in self._longest:
            self._longest[share] = self._days_for(share, -1)
        return self._longest[share]

    def space_gb_for(self, days: float, share: float = PROMISED_SHARE) -> float:
        """The usable space in GB that keeps so many days on the worst day of the year in this share of years."""
        if (days, share) not in self._space_gb_for:
            self._space_gb_for[days, share] = math.exp(self._log_space_for(days, share, 1))
        return self._space_gb_for[days, share]

    def _days_for(self, share: float, sign: int) -> float:
        """Days whose need of space is the space that there is."""
        if self.space_gb <= 0:
            return 0.0
        log_space = math.log(self.space_gb)

        def missing(log_days: float) -> float:
            return log_space - self._log_space_for(math.exp(log_days), share, sign)

        return math.exp(_root(missing, math.log(self.space_gb / self.mean_gb), 1.0))

    def _log_space_for(self, days: float, share: float, sign: int) -> float:
        calm = [self._calm_year(year, days, sign) for year in self._years]
        wanted = NORMAL.inv_cdf(share)
        middle = sum(each for each, _, _ in calm) / len(calm)

        def missing(log_space: float) -> float:
            return sign * (wanted - _score(self._fits(calm, log_space, sign)))

        return _root(missing, middle, 0.3)

    def log_variance_of_days(self) -> float:
        """Variance of the logarithm of the days kept on the year's worst day, were all rates known: what goes on alone."""
        days = self.promised(0.5)
        calm = [self._calm_year(year, days, 1) for year in self._years]
        middle = sum(each for each, _, _ in calm) / len(calm)
        between = sum((each - middle) ** 2 for each, _, _ in calm) / len(calm)
        return between + sum(((outer + inner) / 2) ** 2 for _, outer, inner in calm) / len(calm)

    def _fits(self, calm: Sequence[tuple[float, float, float]], log_space: float, sign: int) -> float:
        """The chance that a year's most fits into the space, or that its least (sign -1) does not fit."""
        found = 0.0
        for middle, outer, inner in calm:
            to_mean = sign * MEAN_OF_HALVES * (outer - inner)
            for rate in self.rates:
                square = (rate.above if sign > 0 else rate.below) ** 2
                # The more the rates spread, the less the year's own tail counts, and the more its mean and variance do.
                blend = square / (square + outer * outer)
                own = outer * outer * (1 - blend / 2) + inner * inner * blend / 2
                z = (log_space - rate.middle - middle - blend * to_mean) / math.sqrt(own + square)
                found += rate.chance * NORMAL.cdf(sign * z)
        return min(1.0, found / len(calm))

    def _calm_year(self, year: _Sums, days: float, sign: int) -> tuple[float, float, float]:
        """The most (or least) that a window of a year stores: middle of the logarithm, and deviations away from the mean and
        towards it."""
        # The distribution of a year's most is not normal. It is described by three of its quantiles: the middle, one in
        # the tail that decides the promise, and one on the other side; _fits puts the two halves together with the
        # rates.
        inflation, memory = self._remembered(days)
        extreme = extreme_of_year(round(max(days, 1.0), 2), round(memory, 3), round(self._skewness, 2), sign > 0)
        windows = _alike(*year.windows(days), inflation, sign)
        top = max(windows, key=lambda window: sign * window.mean)
        points, more_a_day = [], extreme.more_a_day
        for z in extreme.levels:
            level = top.mean + sign * top.deviation * z
            against, nearest = 0.0, math.inf
            for days_alike, mean, deviation in windows:
                # Windows of unlike mean add their rates as if independent (Poisson). Overlap is already in
                # more_a_day, which is fitted to the greatest of a whole year of overlapping windows.
                z = sign * (level - mean) / deviation
                if z < nearest:
                    nearest = z
                against += days_alike * more_a_day(z)
            points.append((_score(math.exp(-against - extreme.single(nearest))), level))
        middle, outer, inner = (
            math.log(max(_level_at(points, score), 1e-9 * top.mean)) for score in (0.0, TAIL, -TAIL)
        )
        return middle, max(abs(outer - middle) / TAIL, 1e-9), max(abs(inner - middle) / TAIL, 1e-9)

    def _remembered(self, days: float) -> tuple[float, float]:
        """Variance of a window's sum over the sum of its days' variances, and the correlation of one day with the next."""
        whole = sum(self._orders)
        if whole <= 0:
            return 1.0, 0.0
        active = 1 - self._noise_share
        variance = correlation = 0.0
        for order, part in enumerate(self._orders, 1):
            memory = self._memory**order
            variance += part / whole * window_variance(days, memory)
            correlation += part / whole * memory
        alone = window_variance(days, 0.0)
        return (active * variance + self._noise_share * alone) / days, active * correlation


class _Sums:
    """A calendar year with its running sums."""

    def __init__(self, year: Year) -> None:
        mean, active, noise, third = ([0.0] * DAYS_A_YEAR for _ in range(4))
        self.orders = [0.0, 0.0, 0.0]
        actives = [sum(part * part for part in kind.spread) for kind in year.kinds]
        counts = [0.0] * len(year.kinds)
        for at, (number, factor) in enumerate(zip(year.day, year.factor, strict=True)):
            kind, square = year.kinds[number], factor * factor
            mean[at] = factor * kind.mean_gb
            active[at] = square * actives[number]
            noise[at] = square * kind.noise
            third[at] = square * factor * kind.third
            counts[number] += square
        for kind, times in zip(year.kinds, counts, strict=True):
            for order in range(3):
                self.orders[order] += times * kind.spread[order] ** 2
        self.mean_gb = sum(mean) / DAYS_A_YEAR
        self.active_sum, self.noise_sum, self.third_sum = sum(active), sum(noise), sum(third)
        variance = [one + other for one, other in zip(active, noise, strict=True)]
        # Laid out twice, so that a window that ends in January can begin in the year before.
        self._mean, self._variance = mean + mean, variance + variance
        self._run_mean = [0.0, *accumulate(self._mean)]
        self._run_variance = [0.0, *accumulate(self._variance)]
        self._even = len(set(mean)) == 1 and len(set(variance)) == 1

    def windows(self, days: float) -> tuple[list[float], list[float]]:
        """Of the windows that end on the evenings of a year: means, and sums of the variances of their days."""
        rounds, rest = divmod(days, DAYS_A_YEAR)
        whole = int(rest)
        part = rest - whole
        # Where every day is alike, one window stands for all 365.
        first, last = DAYS_A_YEAR, DAYS_A_YEAR + 1 if self._even else 2 * DAYS_A_YEAR
        found = []
        for run, by_day in ((self._run_mean, self._mean), (self._run_variance, self._variance)):
            all_rounds = rounds * run[DAYS_A_YEAR]
            found.append(
                [
                    all_rounds + end - begin + part * oldest
                    for end, begin, oldest in zip(
                        run[first:last],
                        run[first - whole : last - whole],
                        by_day[first - whole - 1 : last - whole - 1],
                        strict=True,
                    )
                ]
            )
        return found[0], found[1]


def _alike(means: list[float], variances: list[float], inflation: float, sign: int) -> list[_Window]:
    """Windows of nearly one mean taken together; those that can hardly be the year's worst left out."""
    times = DAYS_A_YEAR / len(means)
    top = max(means) if sign > 0 else min(means)
    widest = math.sqrt(inflation * max(variances))
    reach = FAR_BELOW * widest + 1e-9 * top
    apart = max(KINDS_APART * top, DEVIATIONS_APART * widest, 1e-300)
    bins: dict[int, list[float]] = {}
    for mean, variance in zip(means, variances, strict=True):
        away = sign * (top - mean)
        if away <= reach:
            at = int(away / apart)
            if at in bins:
                sums = bins[at]
                sums[0] += 1
                sums[1] += mean
                sums[2] += variance
            else:
                bins[at] = [1.0, mean, variance]
    return [
        _Window(count * times, mean / count, math.sqrt(inflation * variance / count) + STEADY * mean / count)
        for count, mean, variance in bins.values()
    ]


def _root(missing: Callable[[float], float], start: float, step: float) -> float:
    """Where a falling function is nought: secants, inside a bracket once there is one. ``step``: the first, per unit of it."""
    low, high = -math.inf, math.inf
    x, value = start, missing(start)
    slope = -1 / step
    for _ in range(MOST_STEPS):
        if value > 0:
            low = max(low, x)
        else:
            high = min(high, x)
        # A secant may leave the bracket or take a wild step where the curve is flat; then the bracket is halved
        # instead.
        following = x - max(-MOST_STEP, min(MOST_STEP, value / slope))
        if not low <= following <= high:
            following = (low + high) / 2
        if abs(following - x) < CLOSE:
            return following
        new = missing(following)
        found = (new - value) / (following - x)
        slope = found if found < -1e-3 else slope
        x, value = following, new
    return x


def _score(chance: float) -> float:
    if chance <= 1e-15:
        return LEAST_SCORE
    return MOST_SCORE if chance >= 1 - 1e-15 else NORMAL.inv_cdf(chance)


def _level_at(points: Sequence[tuple[float, float]], score: float) -> float:
    """The level at a score: straight lines between points, and on beyond both ends. Scores rise from point to point."""
    at = 1
    while at < len(points) - 1 and points[at][0] < score:
        at += 1
    (low, left), (high, right) = points[at - 1], points[at]
    return left + (right - left) * (score - low) / max(high - low, 1e-9)
