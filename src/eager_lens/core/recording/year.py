"""A year of recording: which week holds on which date, and the hours that a day really has when the clocks change."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from typing import NamedTuple

from eager_lens.core.clock.zones import zone_named
from eager_lens.core.recording.week import DAYS, MINUTES_A_DAY, MODES, Day, Mode, Span, WeekPlan, day_hours, flat_spans


class Dates(NamedTuple):
    """A stretch of dates on which another week holds.

    Attributes:
        id: what it is known by.
        first, last: both days belong to it; of a yearly one only month and day count, and it may go over new year.
        yearly: whether it comes back every year.
        days: the days of the week that it is about; empty: all.
        instead_of: the week in whose place it stands; empty: any.
        week: the week that holds then.
    """

    id: str
    first: date
    last: date
    yearly: bool
    days: tuple[Day, ...]
    instead_of: str
    schedule: str

    def holds_on(self, day: date) -> bool:
        """Whether a date belongs to it."""
        if self.days and DAYS[day.weekday()] not in self.days:
            return False
        if not self.yearly:
            return self.first <= day <= self.last
        first, last, here = _in_year(self.first), _in_year(self.last), _in_year(day)
        return first <= here <= last if first <= last else here >= first or here <= last


def _in_year(day: date) -> tuple[int, int]:
    return (day.month, day.day)


def dates_on(day: date, schedule: str, stretches: Iterable[Dates]) -> list[Dates]:
    """The stretches that take the place of a week on a date, in their order; the last one wins."""
    return [one for one in stretches if one.instead_of in ("", schedule) and one.holds_on(day)]


def schedule_on(day: date, schedule: str, stretches: Iterable[Dates]) -> str:
    """The week that holds on a date for cameras that have a week."""
    found = dates_on(day, schedule, stretches)
    return found[-1].schedule if found else schedule


def days_of(year: int) -> list[date]:
    """All dates of a year."""
    first = date(year, 1, 1)
    return [first + timedelta(days=at) for at in range((date(year + 1, 1, 1) - first).days)]


@lru_cache(maxsize=32)
def overlaps(stretches: tuple[Dates, ...], year: int) -> tuple[tuple[Dates, Dates, date], ...]:
    """Pairs of stretches that both want one date for one week, and the first such date of a year. Kept, since it is asked
    at each edit and exceptions seldom change."""
    found: dict[tuple[str, str], tuple[Dates, Dates, date]] = {}
    for day in days_of(year):
        here = [one for one in stretches if one.holds_on(day)]
        for at, one in enumerate(here):
            for other in here[at + 1 :]:
                same = one.instead_of == other.instead_of or not one.instead_of or not other.instead_of
                if same and one.schedule != other.schedule:
                    found.setdefault((one.id, other.id), (one, other, day))
    return tuple(found.values())


def hours_on(day: date, spans: Iterable[Span], zone: str) -> dict[Mode, float]:
    """Hours of each mode on a date in a zone; together 24, or what the day has when the clocks change.

    A recorder goes by what its clock shows: an hour that comes twice is recorded twice, one that is left out not at all.
    """
    laid = flat_spans(spans)
    length = minutes_on(day, zone)
    if length == MINUTES_A_DAY:
        return day_hours(laid)
    info = zone_named(zone)
    moment = datetime(day.year, day.month, day.day, tzinfo=info).astimezone(UTC)
    minutes: dict[Mode, int] = dict.fromkeys(MODES, 0)
    for _ in range(length):
        local = moment.astimezone(info)
        at = local.hour * 60 + local.minute
        minutes[next((span.mode for span in laid if span.start <= at < span.end), "off")] += 1
        moment += timedelta(minutes=1)
    return {mode: minutes[mode] / 60 for mode in MODES}


@lru_cache(maxsize=4096)
def minutes_on(day: date, zone: str) -> int:
    """How many minutes a date has in a zone: 1440, or other than that when its clocks change."""
    info = zone_named(zone)
    following = day + timedelta(days=1)
    begins, ends = (datetime(one.year, one.month, one.day, tzinfo=info).astimezone(UTC) for one in (day, following))
    return round((ends - begins).total_seconds() / 60)


def year_hours(
    year: int, schedule: str, plans: dict[str, WeekPlan], stretches: Sequence[Dates], zone: str
) -> dict[Mode, float]:
    """Hours of each mode over a year for cameras that have a week; together the hours of that year, clock changes in."""
    sums: dict[Mode, float] = dict.fromkeys(MODES, 0.0)
    plain: dict[tuple[str, Day], dict[Mode, float]] = {}
    for day in days_of(year):
        here, of_week = schedule_on(day, schedule, stretches), DAYS[day.weekday()]
        plan = plans.get(here, WeekPlan())
        if minutes_on(day, zone) == MINUTES_A_DAY:
            if (here, of_week) not in plain:
                plain[here, of_week] = day_hours(plan.of_day(of_week))
            hours = plain[here, of_week]
        else:
            hours = hours_on(day, plan.of_day(of_week), zone)
        for mode in MODES:
            sums[mode] += hours[mode]
    return sums
