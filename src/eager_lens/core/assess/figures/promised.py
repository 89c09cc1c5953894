"""The years of each recorder: what its cameras store on each date, and how far their rates may be off."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import date, timedelta
from functools import lru_cache
from typing import NamedTuple

from eager_lens.core.assess.figures.devices import CameraFigures, Kept, alarm_clip_s, around_s, kept, thin_share
from eager_lens.core.assess.figures.motion_events import motion_events_of
from eager_lens.core.clock.daylight import dark_swing
from eager_lens.core.job.model import Activity, Camera, Job
from eager_lens.core.job.place import latitude_of
from eager_lens.core.recording.week import DAYS, MODES, Mode, day_hours
from eager_lens.core.recording.year import Dates, schedule_on
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.disk import GB_PER_MBPS_HOUR
from eager_lens.core.sizing.nodes import NODES, WEIGHTS, activity_levels
from eager_lens.core.sizing.promise import DayKind, Keeping, Year, day_kind
from eager_lens.core.sizing.rate_spread import NO_GROUP, Z_OF_RANGE, ByMotion, UncertainRate, rate_factors
from eager_lens.core.sizing.window_max import DAYS_A_YEAR

FIRST_DAY = date(2018, 1, 1)
"""A year without a leap day that begins on a Monday stands for all years."""

BUSY_BEGINS = (0, 91, 182, 273)
"""Days of the year on which the busy season is taken to begin, where it matters: nobody knows when it will."""

Hours = tuple[float, ...]
"""Hours of each of ``MODES``."""


class Calendar(NamedTuple):
    """The year of a job: by schedule the hours of its seven days, and which schedule holds in its place on each date.

    ``dark`` is by how much each day's dark share lies above the mean of the year.
    """

    hours: dict[str, tuple[Hours, ...]]
    in_force: dict[str, tuple[str, ...]]
    dark: tuple[float, ...]


def calendar_of(job: Job) -> Calendar:
    """The calendar of a job's schedules and exceptions. An exception counts once a year, whichever year its dates name."""
    hours = {
        schedule.id: tuple(
            tuple(by_mode[mode] for mode in MODES) for by_mode in (day_hours(schedule.plan.of_day(day)) for day in DAYS)
        )
        for schedule in job.schedules
    }
    stretches = [_every_year(one.as_dates()) for one in job.exceptions]
    days = [FIRST_DAY + timedelta(days=at) for at in range(DAYS_A_YEAR)]
    in_force = {
        schedule.id: tuple(schedule_on(day, schedule.id, stretches) for day in days)
        if stretches
        else (schedule.id,) * DAYS_A_YEAR
        for schedule in job.schedules
    }
    latitude = latitude_of(job)
    dark = (0.0,) * DAYS_A_YEAR if latitude is None else dark_swing(latitude)
    return Calendar(hours, in_force, dark)


def _every_year(dates: Dates) -> Dates:
    """The dates as those of any year; what lasts a year or longer holds on all of them."""
    if not dates.yearly and (dates.last - dates.first).days >= DAYS_A_YEAR - 1:
        return dates._replace(first=FIRST_DAY, last=FIRST_DAY + timedelta(days=DAYS_A_YEAR - 1), yearly=True)
    return dates._replace(yearly=True)


class _Sums:
    """What the cameras of one schedule store in an hour of each mode, at each node of activity, calm or busy."""

    def __init__(self, levels: tuple[float, ...]) -> None:
        self.levels = levels
        self.gb = [[0.0] * len(NODES) for _ in MODES]
        self.noise = [[0.0] * len(NODES) for _ in MODES]
        self.noise_third = [0.0 for _ in MODES]

    def add(self, camera: Camera, figures: CameraFigures, modes: Iterable[Mode]) -> None:
        """Add a camera; only the modes that some day has are worked out."""
        gb_per_h = figures.rate_mbps * GB_PER_MBPS_HOUR
        between = thin_share(camera, camera.kept_between_events, figures.rate_mbps, figures.key_share)
        for mode in modes:
            at = MODES.index(mode)
            sums = self.gb[at]
            if mode in ("continuous", "off"):
                share = 1.0 if mode == "continuous" else _idle_share(camera, figures)
                for node in range(len(NODES)):
                    sums[node] += gb_per_h * share
                continue
            per_h, seconds, times = _arrivals(camera, mode)
            shares, variances, third = _recorded(per_h, seconds, times, self.levels)
            gained = gb_per_h * (1 - between)
            square, noise = gained * gained, self.noise[at]
            for node in range(len(NODES)):
                sums[node] += gb_per_h * between + gained * shares[node]
                noise[node] += square * variances[node]
            self.noise_third[at] += square * gained * third


def _idle_share(camera: Camera, figures: CameraFigures) -> float:
    return thin_share(camera, camera.kept_when_off, figures.rate_mbps, figures.key_share)


def _arrivals(camera: Camera, mode: Mode) -> tuple[float, float, float]:
    """Starts an hour that record in a mode, the seconds around one, and by how many times they may be more or less. Of both kinds,
    a clip of the mean length."""
    starts, input_s = motion_events_of(camera), alarm_clip_s(camera)
    motion_s = starts.seconds + around_s(camera)
    if mode == "motion":
        return starts.per_h, motion_s, starts.times
    if mode == "alarm input":
        return float(camera.inputs_per_h), input_s, 1.0
    both = starts.per_h + camera.inputs_per_h
    return both, (starts.per_h * motion_s + camera.inputs_per_h * input_s) / both if both else 0.0, starts.times


@lru_cache(maxsize=20_000)
def _recorded(
    per_h: float, seconds: float, times: float, levels: tuple[float, ...]
) -> tuple[tuple[float, ...], tuple[float, ...], float]:
    """Of an hour in which clips start at random: recorded share and its variance at each level of activity, and about its
    third central moment.

    With rate a and length d, a moment is not recorded with probability exp(-a d), two that lie u apart with
    exp(-a (d + min(u, d))); the variance of long hours is the mean of that over all pairs of moments, less the square. Both are
    means over how often clips may start (``covered_share``).
    """
    sigma = math.log(times) / Z_OF_RANGE
    starts = [(math.exp(sigma * node), weight) for node, weight in zip(NODES, WEIGHTS, strict=True)]
    if sigma == 0:
        starts = [(1.0, 1.0)]
    shares, variances = [], []
    for level in levels:
        share = variance = 0.0
        for factor, weight in starts:
            a = per_h * level * factor / 3600
            rho = min(a * seconds, 700.0)
            unseen = math.exp(-rho)
            share += weight * (1 - unseen)
            spread_s = (unseen * (1 - unseen) / a - seconds * unseen * unseen) if rho > 1e-12 else 0.0
            variance += weight * max(0.0, 2 * spread_s) / 3600
        shares.append(share)
        variances.append(variance)
    rho = min(per_h * seconds / 3600, 200.0)
    return tuple(shares), tuple(variances), per_h * (seconds / 3600) ** 3 * math.exp(-3 * rho)


def keeping_of(
    calendar: Calendar,
    activity: Activity,
    usable_tb: float,
    cameras: Sequence[Camera],
    figures: Sequence[CameraFigures],
) -> Keeping | None:
    """The years of a recorder; None where nothing is stored in some whole year.

    Args:
        calendar: the job's. activity: how much goes on.
        usable_tb: usable space in TB; with none, no days are kept, but what they would need is known.
        cameras, figures: those registered on it, in one order.
    """
    groups: dict[str, list[tuple[Camera, CameraFigures]]] = {}
    for camera, own in zip(cameras, figures, strict=True):
        if camera.schedule in calendar.hours and own.rate_mbps > 0:
            groups.setdefault(camera.schedule, []).append((camera, own))
    if not groups:
        return None
    years = _Years(calendar, activity, groups)
    made = years.made()
    if not any(kind.mean_gb > 0 for kind in made[0].kinds):
        return None
    weights = years.weights()
    uncertain = [_uncertain(stored, camera, own) for stored, camera, own in weights if stored.gb_per_day > 0]
    rates = rate_factors(uncertain, stream_assumptions().shared_share)
    return Keeping(made, rates, usable_tb * 1000, activity.day_memory, _most_gb(weights))


class Stored(NamedTuple):
    """What a camera stores a day: on the mean, with how much goes on; and at its cap with as much as is assumed at most."""

    gb_per_day: float
    by_motion: ByMotion
    most_gb_per_day: float | None


def _stored(own: CameraFigures, week: CameraFigures | Kept) -> Stored:
    most_mbps = own.rate_mbps if own.rate_origin == "plan" else own.cap_mbps and max(own.cap_mbps, own.rate_mbps)
    most = None if most_mbps is None else most_mbps * GB_PER_MBPS_HOUR * week.stored_high_h_per_day
    return Stored(own.rate_mbps * GB_PER_MBPS_HOUR * week.stored_h_per_day, week.by_motion, most)


def _most_gb(weights: Sequence[tuple[Stored, Camera, CameraFigures]]) -> float | None:
    """What is stored a day with every camera at its cap; None where one that stores has none."""
    most = 0.0
    for stored, _, _ in weights:
        if stored.gb_per_day > 0:
            if stored.most_gb_per_day is None:
                return None
            most += stored.most_gb_per_day
    return most


def _uncertain(stored: Stored, camera: Camera, own: CameraFigures) -> UncertainRate:
    group = camera.codec if own.rate_origin == "assumed" else NO_GROUP
    if own.under_cap is not None:
        under = own.under_cap
        return UncertainRate(stored.gb_per_day, under.log_down, under.log_up, group, under.held, stored.by_motion)
    down, up = _log_spread(own.rate_mbps, own.low_mbps), _log_spread(own.high_mbps, own.rate_mbps)
    return UncertainRate(stored.gb_per_day, down, up, group, None, stored.by_motion)


def _log_spread(more: float, less: float) -> float:
    return round(math.log(more / less) / Z_OF_RANGE, 9) if less > 0 else 0.0


class _Years:
    """The calendar years of one recorder, from its cameras by schedule."""

    def __init__(
        self, calendar: Calendar, activity: Activity, groups: dict[str, list[tuple[Camera, CameraFigures]]]
    ) -> None:
        self.calendar, self.activity, self.groups = calendar, activity, groups
        self.in_force = list(zip(*(calendar.in_force[schedule] for schedule in groups), strict=True))
        self.empty = tuple((0.0,) * len(MODES) for _ in DAYS)
        self.calm = _DayKinds(self, 1.0)

    def made(self) -> list[Year]:
        """The years: one, or where a busy season falls on days that differ, one for each date on which it may begin."""
        activity, calm = self.activity, self.calm
        numbers = [calm.number((held, at % 7)) for at, held in enumerate(self.in_force)]
        factors = self._dark_factors()
        if not activity.busy_days or activity.busy_factor == 1:
            return [Year(tuple(calm.kinds), tuple(numbers), factors)]
        busy = _DayKinds(self, activity.busy_factor)
        busy_numbers = [busy.number((held, at % 7)) + len(calm.kinds) for at, held in enumerate(self.in_force)]
        even = len(set(self.in_force)) == 1 and len(set(factors)) == 1
        kinds = (*calm.kinds, *busy.kinds)
        return [
            Year(
                kinds,
                tuple(
                    busy_numbers[at] if (at - begins) % DAYS_A_YEAR < activity.busy_days else number
                    for at, number in enumerate(numbers)
                ),
                factors,
            )
            for begins in (BUSY_BEGINS[:1] if even else BUSY_BEGINS)
        ]

    def _dark_factors(self) -> tuple[float, ...]:
        """On each date, what is stored over what a day of mean darkness would: the night's rate has more or less of it."""
        stored = more = 0.0
        for members in self.groups.values():
            for _, own in members:
                stored += own.gb_per_day
                more += own.gb_per_day * (own.night_mbps - own.day_mbps) / own.rate_mbps
        slope = more / stored if stored > 0 else 0.0
        if abs(slope) < 1e-9 or not any(self.calendar.dark):
            return (1.0,) * DAYS_A_YEAR
        return tuple(max(0.05, round(1 + slope * dark, 4)) for dark in self.calendar.dark)

    def weights(self) -> list[tuple[Stored, Camera, CameraFigures]]:
        """Cameras with what each stores a day: in the time in which most is stored, for that is when space runs out."""
        held = self._heaviest()
        found = []
        for (schedule, members), in_place in zip(self.groups.items(), held, strict=True):
            days = self.calendar.hours.get(in_place, self.empty)
            hours: dict[Mode, float] = {mode: sum(day[at] for day in days) for at, mode in enumerate(MODES)}
            for camera, own in members:
                week = own if in_place == schedule else kept(camera, hours, own.rate_mbps, own.key_share)
                found.append((_stored(own, week), camera, own))
        return found

    def _heaviest(self) -> tuple[str, ...]:
        """The schedules in force on the days that store most; they must last a week to count."""
        own = tuple(self.groups)
        times = Counter(self.in_force)
        lasting = [held for held, days in times.items() if days >= len(DAYS)]
        if len(times) == 1:
            return own

        def stored(held: tuple[str, ...]) -> float:
            return sum(self.calm.kinds[self.calm.number((held, day))].mean_gb for day in range(len(DAYS)))

        return max(lasting, key=lambda held: (stored(held), held == own), default=own)


class _DayKinds:
    """The kinds of days of a recorder at one level of activity, made as they are asked for."""

    def __init__(self, years: _Years, factor: float) -> None:
        calendar = years.calendar
        used = {
            mode
            for held in {held for each in years.in_force for held in each}
            for day in calendar.hours.get(held, years.empty)
            for mode, hours in zip(MODES, day, strict=True)
            if hours
        }
        self._modes = tuple(mode for mode in MODES if mode in used)
        self._hours, self._empty = calendar.hours, years.empty
        self._sums = []
        for members in years.groups.values():
            sums = _Sums(activity_levels(years.activity.day_spread, factor))
            for camera, own in members:
                sums.add(camera, own, self._modes)
            self._sums.append(sums)
        self._numbers: dict[tuple[tuple[str, ...], int], int] = {}
        self.kinds: list[DayKind] = []

    def number(self, key: tuple[tuple[str, ...], int]) -> int:
        """The number of the kind of a day on which these schedules hold, in the groups' order; and its day of the week."""
        if key not in self._numbers:
            self._numbers[key] = len(self.kinds)
            self.kinds.append(self._made(*key))
        return self._numbers[key]

    def _made(self, held: tuple[str, ...], weekday: int) -> DayKind:
        gb, noise, third = [0.0] * len(NODES), [0.0] * len(NODES), 0.0
        for schedule, sums in zip(held, self._sums, strict=True):
            for at, hours in enumerate(self._hours.get(schedule, self._empty)[weekday]):
                if hours:
                    third += hours * sums.noise_third[at]
                    for node in range(len(NODES)):
                        gb[node] += hours * sums.gb[at][node]
                        noise[node] += hours * sums.noise[at][node]
        return day_kind(gb, noise, third)
