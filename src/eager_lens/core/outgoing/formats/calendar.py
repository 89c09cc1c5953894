"""Schedules and exceptions of a job as an iCalendar file (RFC 5545).

Other programs read hours that come back weekly and whole days. What they cannot hold (modes, which schedule holds instead of which)
stands in properties of this program's own, by which its own calendars come back as they were. Hours of pop-up alarms are left out.
"""

from __future__ import annotations

import calendar as months
from collections.abc import Iterable, Iterator
from datetime import UTC, date, datetime, time, timedelta
from typing import NamedTuple
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event

from eager_lens.core.clock.zones import zone_named
from eager_lens.core.incoming.calendars.own_names import (
    ICAL_DAYS,
    OWN_DAYS,
    OWN_FIRST,
    OWN_INSTEAD_OF,
    OWN_KIND,
    OWN_LAST,
    OWN_SCHEDULE,
    OWN_YEARLY,
    PRODUCT,
)
from eager_lens.core.job.model import Job, Schedule, ScheduleException
from eager_lens.core.recording.week import DAYS, Span, flat_spans

MonthDay = tuple[int, int]

ZONES_AFTER_YEARS = 10
"""Years after the calendar's own for which its time zone is described."""


def calendar_bytes(job: Job, year: int) -> bytes:
    """All schedules and exceptions of a job: hours as events that come back weekly from the year's first Monday on, exceptions as
    events of whole days."""
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", job.name)
    stamp = datetime(year, 1, 1, tzinfo=UTC)
    for schedule in job.schedules:
        for event in _schedule_events(schedule, year, zone_named(job.time_zone), stamp):
            calendar.add_component(event)
    names = {schedule.id: schedule.name for schedule in job.schedules}
    for exception in job.exceptions:
        for event in _exception_events(exception, names, stamp):
            calendar.add_component(event)
    calendar.add_missing_timezones(first_date=date(year - 1, 1, 1), last_date=date(year + ZONES_AFTER_YEARS, 1, 1))
    return bytes(calendar.to_ical())


def _schedule_events(schedule: Schedule, year: int, zone: ZoneInfo, stamp: datetime) -> Iterable[Event]:
    """One event for all days with the same hours in the same mode; of a schedule without hours one that says so."""
    alike: dict[Span, list[int]] = {}
    for at, day in enumerate(DAYS):
        for span in flat_spans(schedule.plan.of_day(day)):
            alike.setdefault(span, []).append(at)
    first = date(year, 1, 1)
    monday = first + timedelta(days=-first.weekday() % 7)
    for span, days in alike.items():
        begins = datetime.combine(monday + timedelta(days=days[0]), time(), zone)
        event = _event(f"{schedule.id}-{span.start}-{span.end}-{span.mode}", f"{schedule.name}: {span.mode}", stamp)
        event.add("categories", [span.mode])
        # Wall time counted by hand: the length of a day on which clocks change is no business of a weekly hour.
        event.add("dtstart", begins.replace(hour=span.start // 60, minute=span.start % 60))
        event.add("duration", timedelta(minutes=span.end - span.start))
        event.add("rrule", {"freq": "weekly", "byday": [ICAL_DAYS[at] for at in days]})
        event.add(OWN_KIND, "schedule")
        event.add(OWN_SCHEDULE, schedule.name)
        yield event
    if not alike:
        event = _event(f"{schedule.id}-off", f"{schedule.name}: off", stamp)
        event.add("dtstart", monday)
        event.add(OWN_KIND, "schedule without hours")
        event.add(OWN_SCHEDULE, schedule.name)
        yield event


class _Stretch(NamedTuple):
    """Days that one event can say: the first of them, how many in a row, and its rule. ``on_no_date``: none of its days of the week
    lies between its dates, so that others are told that it is cancelled."""

    first: date
    days: int
    rule: dict[str, object]
    on_no_date: bool = False


def _exception_events(exception: ScheduleException, names: dict[str, str], stamp: datetime) -> Iterator[Event]:
    instead = f" instead of {names.get(exception.instead_of, exception.instead_of)}" if exception.instead_of else ""
    for at, stretch in enumerate(_stretches(exception)):
        event = _event(f"{exception.id}-{at}" if at else exception.id, exception.name, stamp)
        event.add("description", f"{names.get(exception.schedule, exception.schedule)}{instead}")
        event.add("dtstart", stretch.first)
        event.add("dtend", stretch.first + timedelta(days=stretch.days))
        if stretch.rule:
            event.add("rrule", stretch.rule)
        event.add("transp", "TRANSPARENT")
        if stretch.on_no_date:
            event.add("status", "CANCELLED")
        event.add(OWN_KIND, "further part of an exception" if at else "exception")
        event.add(OWN_SCHEDULE, names.get(exception.schedule, ""))
        event.add(OWN_INSTEAD_OF, names.get(exception.instead_of, ""))
        event.add(OWN_FIRST, exception.first.isoformat())
        event.add(OWN_LAST, exception.last.isoformat())
        event.add(OWN_YEARLY, "yes" if exception.yearly else "no")
        event.add(OWN_DAYS, " ".join(exception.days))
        yield event


def _stretches(exception: ScheduleException) -> Iterator[_Stretch]:
    """An exception as events of whole days: in one where that says it, else in several."""
    first, last = exception.first, exception.last
    if not exception.yearly:
        if not exception.days:
            yield _Stretch(first, (last - first).days + 1, {})
            return
        wanted = [at for at, day in enumerate(DAYS) if day in exception.days]
        held = next(
            (first + timedelta(days=n) for n in range(7) if (first + timedelta(days=n)).weekday() in wanted), first
        )
        if held > last:
            yield _Stretch(first, 1, {}, on_no_date=True)
        else:
            byday = [ICAL_DAYS[at] for at in wanted]
            yield _Stretch(held, 1, {"freq": "weekly", "byday": byday, "until": last})
        return
    for begins, ends in _within_years(first, last):
        if exception.days:
            yield from _by_weekday(exception, begins, ends)
            continue
        # A stretch over the end of February is a day longer in leap years, which a length in days cannot say.
        for begin, end in _apart_at_leap_day(begins, ends):
            start = _first_such(first.year, begin)
            leap_day: dict[str, object] = {"bymonth": 2, "bymonthday": 29} if begin == (2, 29) else {}
            yield _Stretch(start, (date(start.year, *end) - start).days + 1, {"freq": "yearly", **leap_day})


def _by_weekday(exception: ScheduleException, begins: MonthDay, ends: MonthDay) -> Iterator[_Stretch]:
    """Days of the week between two days of each year: a month in a rule, by its days."""
    byday = [ICAL_DAYS[at] for at, day in enumerate(DAYS) if day in exception.days]
    for month in range(begins[0], ends[0] + 1):
        low = begins[1] if month == begins[0] else 1
        high = ends[1] if month == ends[0] else months.monthrange(2028, month)[1]
        dates = _dates(exception.first.year, month, low, high)
        held = next((day for day in dates if DAYS[day.weekday()] in exception.days), None)
        if held is not None:
            days = list(range(low, high + 1))
            yield _Stretch(held, 1, {"freq": "yearly", "bymonth": month, "bymonthday": days, "byday": byday})


def _within_years(first: date, last: date) -> Iterator[tuple[MonthDay, MonthDay]]:
    """First and last month and day; one that goes over new year in two parts."""
    begins, ends = (first.month, first.day), (last.month, last.day)
    if begins <= ends:
        yield begins, ends
    else:
        yield begins, (12, 31)
        yield (1, 1), ends


def _apart_at_leap_day(begins: MonthDay, ends: MonthDay) -> Iterator[tuple[MonthDay, MonthDay]]:
    if not begins <= (2, 29) <= ends:
        yield begins, ends
        return
    if begins < (2, 29):
        yield begins, (2, 28)
    yield (2, 29), (2, 29)
    if ends > (2, 29):
        yield (3, 1), ends


def _first_such(year: int, month_day: MonthDay) -> date:
    """The first date with this month and day from a year on."""
    while month_day == (2, 29) and not months.isleap(year):
        year += 1
    return date(year, *month_day)


def _dates(year: int, month: int, low: int, high: int) -> Iterator[date]:
    """The dates of so many years that every day of the week comes on one of them."""
    for later in range(28):
        longest = months.monthrange(year + later, month)[1]
        yield from (date(year + later, month, day) for day in range(low, min(high, longest) + 1))


def _event(uid: str, summary: str, stamp: datetime) -> Event:
    event = Event()
    event.add("uid", f"{uid}@eager-lens.invalid")
    event.add("dtstamp", stamp)
    event.add("summary", summary)
    return event
