"""Days kept as a distribution: a recorder through many simulated years, all of them at once.

Three things are at random. What is not known of each stream's rate is drawn once a year and camera: two half normal
distributions in the logarithm, one below and one above the median, part of it common to cameras of one group. How much
goes on is drawn for each day, for all cameras together (gamma distribution). What the day's events then come to on each
camera is drawn by the exact mean and variance of the recorded share of Poisson arrivals; the cameras' sum is taken as
normal, which is off by least where cameras are many or clips short.

Every day of a year ends with so many days kept: those whose pictures fit into the space. A promise is what holds on the
worst day of 95 years in 100.

This module needs NumPy; nothing that the start page needs may import it.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

DAYS_A_YEAR = 365
GRID = 40
"""Levels of activity at which the streams are worked out; between them, straight lines."""

Z_OF_RANGE = 1.2815515655446004
"""A range that holds 80 of 100 cases reaches so many standard deviations to either side."""

HIGHEST_LEVEL = 60.0
"""No day has more than so many times the mean activity."""


class Streams(NamedTuple):
    """The streams of one recorder; C cameras.

    Attributes:
        gb_per_h: (C,) what an hour of recording stores.
        log_down, log_up: (C,) standard deviations of the logarithm of the rate, below and above its median.
        group: (C,) number of the group that shares a part of its deviation, or -1 for none.
        always_h, movement_h, input_h, either_h, idle_h: (C, 7) hours of each mode by day of the week.
        events_per_h, inputs_per_h: (C,) arrivals in motion and input hours on a day of mean activity.
        clip_s, input_clip_s: (C,) seconds recorded around one event or input that stands alone.
        between, idle: (C,) what is stored between events, and while off, over what the full stream would store.
    """

    gb_per_h: Array
    log_down: Array
    log_up: Array
    group: NDArray[np.int64]
    always_h: Array
    motion_h: Array
    input_h: Array
    either_h: Array
    idle_h: Array
    events_per_h: Array
    inputs_per_h: Array
    clip_s: Array
    input_clip_s: Array
    between: Array
    idle: Array


class Years(NamedTuple):
    """Days kept through Y simulated years: on the worst and the best day of each, and the median of its days."""

    worst: Array
    best: Array
    median: Array


def share_moments(per_h: Array, clip_s: Array, hours: Array) -> tuple[Array, Array]:
    """Mean and variance of the recorded share of ``hours`` in which clips of fixed length start at random.

    With rate a and length d, a moment is not recorded with probability exp(-a d), two that lie u apart with
    exp(-a (d + min(u, d))). The variance is the mean of that over all pairs of moments, less the square.
    """
    rate = np.maximum(per_h, 1e-12) / 3600
    length = np.maximum(clip_s, 1e-9)
    whole = np.maximum(hours * 3600, 1e-6)
    near = np.minimum(length, whole)
    rho = np.minimum(rate * length, 700.0)
    decay = np.exp(-np.minimum(rate * near, 700.0))
    apart = (whole * (1 - decay) - (1 - decay * (1 + rate * near)) / rate) / rate
    far = np.exp(-rho) * (whole - near) ** 2 / 2
    unseen = np.exp(-rho)
    variance = np.maximum(2 * unseen * (apart + far) / whole**2 - unseen**2, 0.0)
    return 1 - unseen, variance


def _day_gb(streams: Streams, levels: Array) -> tuple[Array, Array]:
    """Mean (C, 7, G) and variance of what each camera stores on a day, by day of the week and level of activity.

    Where motion and inputs both record, events of both kinds arrive at the sum of their rates; a clip then has the mean
    length, which leaves the recorded share exact and makes the variance an approximation.
    """
    watched = streams.motion_h + streams.input_h + streams.either_h
    sure = streams.always_h + streams.between[:, None] * watched + streams.idle[:, None] * streams.idle_h
    mean = np.broadcast_to(sure[:, :, None], (*sure.shape, levels.size)).copy()
    variance = np.zeros_like(mean)
    level = levels[None, None, :]
    both_per_h = streams.events_per_h + streams.inputs_per_h
    both_s = streams.events_per_h * streams.clip_s + streams.inputs_per_h * streams.input_clip_s
    kinds = (
        (streams.events_per_h, streams.clip_s, streams.motion_h),
        (streams.inputs_per_h, streams.input_clip_s, streams.input_h),
        (both_per_h, both_s / np.maximum(both_per_h, 1e-12), streams.either_h),
    )
    for per_h, clip_s, hours in kinds:
        if not np.any(per_h) or not np.any(hours):
            continue
        at_work = np.flatnonzero((per_h > 0) & hours.any(axis=1))
        spans = hours[at_work, :, None]
        share, spread = share_moments(per_h[at_work, None, None] * level, clip_s[at_work, None, None], spans)
        gained = 1 - streams.between[at_work, None, None]
        mean[at_work] += gained * spans * share
        variance[at_work] += (gained * spans) ** 2 * spread
    gb = streams.gb_per_h[:, None, None]
    return mean * gb, variance * gb**2


def _factors(streams: Streams, years: int, shared_share: float, random: np.random.Generator) -> Array:
    """(Y, C): what each camera's rate is in each year, over its median."""
    z = random.standard_normal((years, streams.gb_per_h.size))
    for group in np.unique(streams.group[streams.group >= 0]):
        members = streams.group == group
        common = random.standard_normal((years, 1))
        z[:, members] = math.sqrt(shared_share) * common + math.sqrt(1 - shared_share) * z[:, members]
    factors: Array = np.exp(np.where(z < 0, z * streams.log_down, z * streams.log_up))
    return factors


def levels_of_days(
    years: int, day_spread: float, busy_days: int, busy_factor: float, random: np.random.Generator
) -> Array:
    """(Y, 365): how much goes on, over the mean of a day outside the busy season, which begins on any day."""
    shape = (years, DAYS_A_YEAR)
    shape_k = 1 / max(day_spread, 1e-6) ** 2
    levels = random.gamma(shape_k, 1 / shape_k, shape) if day_spread > 0 else np.ones(shape)
    if busy_days:
        begin = random.integers(0, DAYS_A_YEAR, (years, 1))
        in_season = (np.arange(DAYS_A_YEAR)[None, :] - begin) % DAYS_A_YEAR < busy_days
        levels = np.where(in_season, levels * busy_factor, levels)
    held: Array = np.minimum(levels, HIGHEST_LEVEL)
    return held


def stored_a_day(streams: Streams, factors: Array, levels: Array, random: np.random.Generator) -> Array:
    """(Y, 365): GB stored on each day."""
    grid = np.concatenate(([0.0], np.geomspace(0.02, max(float(levels.max()), 0.04) * 1.0001, GRID - 1)))
    mean, variance = _day_gb(streams, grid)
    count = mean.shape[0]
    by_year = (factors @ mean.reshape(count, -1)).reshape(len(factors), 7, GRID)
    spread = np.sqrt((factors**2 @ variance.reshape(count, -1)).reshape(len(factors), 7, GRID))
    left = np.clip(np.searchsorted(grid, levels, side="right") - 1, 0, GRID - 2)
    part = (levels - grid[left]) / (grid[left + 1] - grid[left])
    year = np.arange(len(levels))[:, None] if len(factors) > 1 else np.zeros((1, 1), dtype=np.int64)
    weekday = np.arange(DAYS_A_YEAR)[None, :] % 7
    gb = by_year[year, weekday, left] * (1 - part) + by_year[year, weekday, left + 1] * part
    chance = spread[year, weekday, left] * (1 - part) + spread[year, weekday, left + 1] * part
    stored: Array = np.maximum(gb + chance * random.standard_normal(levels.shape), 0.0)
    return stored


def kept_each_day(gb: Array, space_gb: float) -> Array:
    """(Y, 365): at the end of each day, for how many days back the pictures fit into the space. Years repeat."""
    years, days = gb.shape
    whole = gb.sum(axis=1)
    if not np.all(whole > 0):
        raise ValueError("nothing is stored in some year")
    rounds = np.floor(space_gb / whole)
    # Of very many rounds the difference is lost in rounding, and may come out on either side of nothing.
    rest = np.clip(space_gb - rounds * whole, 0.0, whole)
    running = np.zeros((years, 2 * days + 1))
    np.cumsum(np.concatenate((gb, gb), axis=1), axis=1, out=running[:, 1:])
    ends = np.arange(days + 1, 2 * days + 1)
    kept: Array = np.empty_like(gb)
    for year in range(years):
        line = running[year]
        from_gb = line[ends] - rest[year]
        # Where the space ends with a year nothing lies behind the last evening.
        at = np.minimum(np.searchsorted(line, from_gb, side="right"), 2 * days)
        # Within the day in which the oldest picture lies, it lies where its share of the day's bytes is reached.
        step = np.maximum(line[at] - line[at - 1], 1e-12)
        kept[year] = ends - (at - 1 + (from_gb - line[at - 1]) / step)
    kept += (rounds * days)[:, None]
    return kept


def simulated_years(
    streams: Streams,
    space_gb: float,
    *,
    years: int,
    shared_share: float,
    day_spread: float,
    busy_days: int,
    busy_factor: float,
    seed: int,
    rates_known: bool = False,
) -> Years:
    """Days kept through so many years.

    Args:
        streams: the recorder's streams.
        space_gb: usable space in GB.
        shared_share: share of the rates' variance that a group has in common.
        day_spread, busy_days, busy_factor: activity, see ``levels_of_days``.
        seed: the same seed gives the same years.
        rates_known: take every rate at its median, so that only the days differ.

    Raises:
        ValueError: when nothing is stored.
    """
    # Rates, activity and the chance of the day have streams of their own, so that one more camera changes no other's draw.
    rates, activity, chance = (np.random.default_rng([seed, at]) for at in range(3))
    if rates_known:
        factors = np.ones((1, streams.gb_per_h.size))
    else:
        factors = _factors(streams, years, shared_share, rates)
    levels = levels_of_days(years, day_spread, busy_days, busy_factor, activity)
    kept = kept_each_day(stored_a_day(streams, factors, levels, chance), space_gb)
    return Years(kept.min(axis=1), kept.max(axis=1), np.median(kept, axis=1))
