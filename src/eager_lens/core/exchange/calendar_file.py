"""Weeks and exceptions as iCalendar files (RFC 5545), out and in, so that opening hours can come from a calendar."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event, vRecur

from eager_lens.core.apart import run_apart
from eager_lens.core.clock.zones import zone_named
from eager_lens.core.errors import RefusedInput
from eager_lens.core.files import read_whole
from eager_lens.core.job.model import Job, Schedule, ScheduleException
from eager_lens.core.plain_text import cleaned
from eager_lens.core.recording.week import DAYS, MINUTES_A_DAY, Day, Mode, Span, WeekPlan, flat_spans

LARGEST_BYTES = 10 * 2**20

MOST_EVENTS = 5_000
"""The library reads a thousand or two in a second."""

BROKEN = (ValueError, KeyError, IndexError, AttributeError, TypeError, OverflowError, OSError)
"""What the library raises on calendars that are broken; a time zone with an endless name is looked for as a file."""

ICAL_DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")


def calendar_bytes(job: Job, year: int) -> bytes:
    """All weeks and exceptions of a job: hours as events that come back weekly from the year's first Monday on, exceptions as
    events of whole days."""
    calendar = Calendar()
    calendar.add("prodid", "-//Eager Lens//Recording schedules//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", job.name)
    stamp = datetime(year, 1, 1, tzinfo=UTC)
    for schedule in job.schedules:
        for event in _schedule_events(schedule, year, zone_named(job.time_zone), stamp):
            calendar.add_component(event)
    names = {schedule.id: schedule.name for schedule in job.schedules}
    for exception in job.exceptions:
        calendar.add_component(_exception_event(exception, names, stamp))
    return bytes(calendar.to_ical())


def _schedule_events(schedule: Schedule, year: int, zone: ZoneInfo, stamp: datetime) -> Iterable[Event]:
    """One event for all days with the same hours in the same mode."""
    alike: dict[Span, list[int]] = {}
    for at, day in enumerate(DAYS):
        for span in flat_spans(schedule.plan.of_day(day)):
            alike.setdefault(span, []).append(at)
    first = date(year, 1, 1)
    monday = first + timedelta(days=-first.weekday() % 7)
    for span, days in alike.items():
        begins = datetime.combine(monday + timedelta(days=days[0]), time(), zone)
        event = Event()
        event.add("uid", f"{schedule.id}-{span.start}-{span.end}-{span.mode}@eager-lens.invalid")
        event.add("dtstamp", stamp)
        event.add("summary", f"{schedule.name}: {span.mode}")
        event.add("categories", [span.mode])
        # Wall time counted by hand: the length of a day on which clocks change is no business of a weekly hour.
        event.add("dtstart", begins.replace(hour=span.start // 60, minute=span.start % 60))
        event.add("duration", timedelta(minutes=span.end - span.start))
        event.add("rrule", {"freq": "weekly", "byday": [ICAL_DAYS[at] for at in days]})
        yield event


def _exception_event(exception: ScheduleException, names: dict[str, str], stamp: datetime) -> Event:
    event = Event()
    event.add("uid", f"{exception.id}@eager-lens.invalid")
    event.add("dtstamp", stamp)
    event.add("summary", exception.name)
    instead = f" instead of {names.get(exception.instead_of, exception.instead_of)}" if exception.instead_of else ""
    event.add("description", f"{names.get(exception.schedule, exception.schedule)}{instead}")
    event.add("dtstart", exception.first)
    last = exception.last
    if exception.yearly and (last.month, last.day) < (exception.first.month, exception.first.day):
        last = last.replace(year=exception.first.year + 1)
    elif exception.yearly:
        last = last.replace(year=exception.first.year)
    event.add("dtend", last + timedelta(days=1))
    if exception.yearly:
        event.add("rrule", {"freq": "yearly"})
    return event


class WholeDays(NamedTuple):
    """An event of whole days: its name, first and last day, whether it comes back every year."""

    name: str
    first: date
    last: date
    yearly: bool


class CalendarRead(NamedTuple):
    """What was read: hours that come back weekly, events of whole days, and what was passed over, in words."""

    plan: WeekPlan
    whole_days: tuple[WholeDays, ...]
    passed_over: tuple[str, ...]


def calendar_of(path: Path, mode: Mode, zone: str, step: Callable[[float], None] = lambda share: None) -> CalendarRead:
    """As ``read_calendar``, of a file, read in a process of its own; ``step`` may raise to stop.

    Raises:
        FileTrouble: when it cannot be read. RefusedInput: when it is no calendar, or takes too long.
    """
    data = read_whole(path, LARGEST_BYTES, "calendar of opening hours")
    found: CalendarRead = run_apart(
        "eager_lens.core.exchange.calendar_file:read_calendar", data, mode, zone, step=step, what=path.name
    )
    return found


def read_calendar(
    data: bytes, mode: Mode, zone: str, step: Callable[[float], None] = lambda share: None
) -> CalendarRead:
    """The weekly hours of a calendar in a mode, and its whole days.

    Args:
        data: an iCalendar file.
        mode: what its hours are to mean.
        zone: the site's; times of other zones are turned into its wall time.

    Raises:
        RefusedInput: when it is no calendar, or nothing in it comes back weekly or is of whole days.
    """
    begun = data.upper().count(b"BEGIN:VEVENT")
    if begun > MOST_EVENTS:
        raise RefusedInput(
            "calendar",
            f"it holds {begun:,} events and may hold {MOST_EVENTS:,}; export the opening hours alone as .ics",
        )
    try:
        calendar = Calendar.from_ical(data)
        events = list(calendar.walk("VEVENT"))
    except (*BROKEN, RecursionError) as error:
        raise RefusedInput(
            "calendar", f"this is no iCalendar file that can be read ({error}); export it anew as .ics"
        ) from None
    spans: dict[Day, list[Span]] = {day: [] for day in DAYS}
    whole: list[WholeDays] = []
    passed: list[str] = []
    for at, event in enumerate(events):
        step(at / len(events))
        name = cleaned(str(event.get("summary", "an event without a name"))[:80])
        try:
            why = _take(event, name, mode, zone, spans, whole)
        except BROKEN as error:
            why = f"cannot be read ({error})"
        if why:
            passed.append(f"“{name}” {why}")
    if not whole and not any(spans.values()):
        what = passed[0] if passed else "it holds no event"
        raise RefusedInput("calendar", f"no hours that come back weekly and no whole days are in it: {what}")
    plan = WeekPlan(**{day: flat_spans(spans[day]) for day in DAYS})
    return CalendarRead(plan, tuple(whole), tuple(passed))


def _take(event: Any, name: str, mode: Mode, zone: str, spans: dict[Day, list[Span]], whole: list[WholeDays]) -> str:
    """Take one event into hours or whole days; why it was passed over, or nothing."""
    begins = event.decoded("dtstart")
    rule: vRecur | dict[str, Any] = event.get("rrule") or {}
    frequency = str((rule.get("FREQ") or [""])[0]).upper()
    ends = _end_of(event, begins)
    if not isinstance(begins, datetime):
        last = (ends if not isinstance(ends, datetime) else ends.date()) - timedelta(days=1)
        whole.append(WholeDays(name, begins, max(begins, last), frequency == "YEARLY"))
        return ""
    if frequency not in ("WEEKLY", "DAILY"):
        return "is no hour that comes back every week"
    if str((rule.get("INTERVAL") or [1])[0]) not in ("1", ""):
        return "comes back only every other week"
    local = begins if begins.tzinfo is None else begins.astimezone(zone_named(zone))
    minutes = round((ends - begins).total_seconds() / 60)
    if not 0 < minutes <= MINUTES_A_DAY:
        return "is not between a minute and a day long"
    named = [str(one)[-2:].upper() for one in rule.get("BYDAY") or ()]
    days = [ICAL_DAYS.index(one) for one in named if one in ICAL_DAYS]
    if frequency == "DAILY":
        days = list(range(7))
    start = local.hour * 60 + local.minute
    for at in days or [local.weekday()]:
        end = start + minutes
        spans[DAYS[at]].append(Span(start, min(end, MINUTES_A_DAY), mode))
        if end > MINUTES_A_DAY:
            spans[DAYS[(at + 1) % 7]].append(Span(0, end - MINUTES_A_DAY, mode))
    return ""


def _end_of(event: Any, begins: date | datetime) -> Any:
    """When an event ends: told, or by its duration; a day after an all-day one that says nothing."""
    if event.get("dtend") is not None:
        return event.decoded("dtend")
    if event.get("duration") is not None:
        return begins + event.decoded("duration")
    return begins + timedelta(days=1) if not isinstance(begins, datetime) else begins
