"""Events of an iCalendar file (RFC 5545) as what they could be here: weekly hours, hours for a time, dates of an exception.

The library works out on which days an event comes: its rule, further dates, dates left out, single ones moved or cancelled, in the
time zone in which it was entered; what comes is then looked at in the site's wall time. What can be neither said nor is certain is
listed with the reason, and nothing is applied here (``taking``).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any, Literal, NamedTuple

import recurring_ical_events
from icalendar import Calendar

from eager_lens.core.clock.zones import zone_named
from eager_lens.core.errors import RefusedInput
from eager_lens.core.files import read_whole
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
from eager_lens.core.plain_text import cleaned
from eager_lens.core.recording.week import DAYS, MINUTES_A_DAY, MODES, Day, Mode, Span, WeekPlan, flat_spans
from eager_lens.core.subprocess_reader import run_in_subprocess

LARGEST_BYTES = 10 * 2**20

MOST_EVENTS = 5_000
"""The library reads a thousand or two in a second."""

YEARS_AHEAD = 5
"""Years for which endless events are read, from the year asked for."""

MOST_STRETCHES = 40
"""An event that comes in more separate stretches than this is no exception."""

USUAL_SHARE = 0.75
"""Hours that come in this share of all weeks are the weekly ones; others of the same day are told."""

BROKEN = (ValueError, KeyError, IndexError, AttributeError, TypeError, OverflowError, OSError)
"""What the libraries raise on calendars that are broken; a time zone with an endless name is looked for as a file."""

FOR_EVER = ("DAILY", "WEEKLY", "MONTHLY", "YEARLY")

Kind = Literal["schedule", "weekly hours", "hours for a time", "dates", "nothing"]


class Stretch(NamedTuple):
    """Dates of an exception, as the job has them. ``days``: of the week; empty: all."""

    first: date
    last: date
    yearly: bool = False
    days: tuple[Day, ...] = ()


class CalendarRow(NamedTuple):
    """What a calendar's event could be.

    Attributes:
        id: its own. name: its summary. kind: ``schedule``: hours that this program wrote; ``weekly hours``: they come every week;
            ``hours for a time``: on some dates; ``dates``: whole days; ``nothing``: see ``note``.
        stretches: of whole days and of hours for a time. plan: of hours, else None. note: what was left out of it and why.
        schedule, instead_of: the schedules' names, where this program wrote it. is_over: it lies before the year asked for.
    """

    id: str
    name: str
    kind: Kind
    stretches: tuple[Stretch, ...] = ()
    plan: WeekPlan | None = None
    note: str = ""
    schedule: str = ""
    instead_of: str = ""
    is_over: bool = False


def calendar_rows_of(
    path: Path, zone: str, year: int, step: Callable[[float], None] = lambda share: None
) -> tuple[CalendarRow, ...]:
    """As ``calendar_rows``, of a file, read in a process of its own; ``step`` may raise to stop.

    Raises:
        FileTrouble: when it cannot be read. RefusedInput: when it is no calendar, or takes too long.
    """
    data = read_whole(path, LARGEST_BYTES, "calendar of opening hours")
    target = "eager_lens.core.incoming.calendars.reading:calendar_rows"
    found: tuple[CalendarRow, ...] = run_in_subprocess(target, data, zone, year, step=step, what=path.name)
    return found


def calendar_rows(
    data: bytes, zone: str, year: int, step: Callable[[float], None] = lambda share: None
) -> tuple[CalendarRow, ...]:
    """The events of a calendar, each as what it could be.

    Args:
        data: an iCalendar file. zone: the site's. year: from this one on dates are looked for.

    Raises:
        RefusedInput: when it is no calendar, or holds no event.
    """
    upper = data.upper()
    if b"BEGIN:VCALENDAR" not in upper:  # the library takes seconds to find that out of a long text
        raise RefusedInput("calendar", "this is not an iCalendar file; export it again as .ics")
    begun = upper.count(b"BEGIN:VEVENT")
    if begun > MOST_EVENTS:
        raise RefusedInput(
            "calendar",
            f"it has {begun:,} events, more than {MOST_EVENTS:,}; export only the opening hours as .ics",
        )
    try:
        calendar = Calendar.from_ical(data)
        events = list(calendar.walk("VEVENT"))
    except (*BROKEN, RecursionError) as error:
        raise RefusedInput(
            "calendar", f"this iCalendar file cannot be read ({error}); export it again as .ics"
        ) from None
    if not events:
        raise RefusedInput("calendar", "it has no events; export the opening hours and holidays as .ics")
    is_own = str(calendar.get("prodid", "")) == PRODUCT
    rows: list[CalendarRow] = list(_own_schedules(events)) if is_own else []
    groups = list(_series([one for one in events if not (is_own and "schedule" in _own(one, OWN_KIND))]))
    for at, (event, further) in enumerate(groups):
        step(at / len(groups))
        if is_own and _own(event, OWN_KIND).startswith("further"):
            continue
        name = cleaned(str(event.get("summary", "an event without a name"))[:80]) or "an event without a name"
        row = CalendarRow(f"event-{at}", name, "nothing")
        try:
            rows.append(_own_exception(event, row) if is_own else _row(event, further, row, zone, year))
        except BROKEN:
            rows.append(
                row._replace(note="It cannot be read: its dates or its rule do not follow iCalendar (RFC 5545).")
            )
    return tuple(rows)


# ---- what this program wrote ---------------------------------------------------------------------------------------


def _own(event: Any, name: str) -> str:
    return str(event.get(name, ""))


def _own_schedules(events: Iterable[Any]) -> Iterator[CalendarRow]:
    """The schedules of a calendar that this program wrote: hours of one name together, each in its own mode."""
    spans: dict[str, dict[Day, list[Span]]] = {}
    broken: set[str] = set()
    for event in events:
        if "schedule" not in _own(event, OWN_KIND):
            continue
        name = cleaned(_own(event, OWN_SCHEDULE))[:200]
        days = spans.setdefault(name, {day: [] for day in DAYS})
        mode = next((one for one in MODES if f"{name}: {one}" == str(event.get("summary", ""))), None)
        if mode is None or not event.get("rrule"):
            continue
        try:
            begins = event.decoded("dtstart")
            start, minutes = begins.hour * 60 + begins.minute, round(event.decoded("duration").total_seconds() / 60)
            weekdays = [DAYS[ICAL_DAYS.index(str(one)[-2:])] for one in event["rrule"]["BYDAY"]]
            span = Span(start, start + minutes, mode)
        except BROKEN:
            broken.add(name)
            continue
        for day in weekdays:
            days[day].append(span)
    for at, (name, days) in enumerate(spans.items()):
        note = "Some of its hours cannot be read." if name in broken else ""
        try:
            plan = WeekPlan(**{day: flat_spans(found) for day, found in days.items()})
        except BROKEN:
            plan, note = WeekPlan(), "Its hours cannot be read."
        yield CalendarRow(
            f"schedule-{at}", name or "Schedule", "schedule", plan=plan, note=note, schedule=name or "Schedule"
        )


def _own_exception(event: Any, row: CalendarRow) -> CalendarRow:
    first, last = (date.fromisoformat(_own(event, name)) for name in (OWN_FIRST, OWN_LAST))
    days = tuple(day for day in DAYS if day in _own(event, OWN_DAYS).split())
    stretch = Stretch(first, last, _own(event, OWN_YEARLY) == "yes", days)
    return row._replace(
        kind="dates",
        stretches=(stretch,),
        schedule=cleaned(_own(event, OWN_SCHEDULE)),
        instead_of=cleaned(_own(event, OWN_INSTEAD_OF)),
    )


# ---- what others wrote ---------------------------------------------------------------------------------------------


def _series(events: Iterable[Any]) -> Iterator[tuple[Any, list[Any]]]:
    """Each event with the single ones that were changed or cancelled of it (RECURRENCE-ID)."""
    heads, changed = [], dict[str, list[Any]]()
    for event in events:
        if event.get("recurrence-id") is None:
            heads.append(event)
        else:
            changed.setdefault(str(event.get("uid", "")), []).append(event)
    for event in heads:
        yield event, changed.pop(str(event.get("uid", "")), [])
    for left in changed.values():
        yield from ((event, []) for event in left)


class _Occurrence(NamedTuple):
    """One time that an event comes: its begin and its end, in the site's wall time; dates of whole days."""

    begins: date | datetime
    ends: date | datetime


def _row(event: Any, changed: list[Any], row: CalendarRow, zone: str, year: int) -> CalendarRow:
    if str(event.get("status", "")).upper() == "CANCELLED":
        return row._replace(note="It is cancelled.")
    begins, rule = event.decoded("dtstart"), _rule(event)
    if _ends_before(event, begins):
        return row._replace(note="It ends before it begins.")
    if rule and rule["FREQ"] not in FOR_EVER:
        return row._replace(note="It repeats within a day.")
    endless = bool(rule) and "UNTIL" not in rule and "COUNT" not in rule
    first = begins.date() if isinstance(begins, datetime) else begins
    since = max(first, date(year, 1, 1)) if endless else first
    until = date(max(since.year, year) + YEARS_AHEAD, 1, 1)
    came = _times(event, changed, since, until, zone)
    if not came:
        return row._replace(note="It has no date.", is_over=True)
    last = came[-1].ends if isinstance(came[-1].ends, datetime) else came[-1].ends - timedelta(days=1)
    is_over = not endless and (last.date() if isinstance(last, datetime) else last) < date(year, 1, 1)
    row = row._replace(is_over=is_over, note="It is over." if is_over else _zone_note(event, begins))
    if isinstance(begins, datetime):
        return _hours(came, row, endless)
    return _dates(came, row, endless, rule, since, until)


def _ends_before(event: Any, begins: date) -> bool:
    """The library turns such an event round."""
    try:
        return bool(event.decoded("dtend", begins) < begins)
    except TypeError:  # a date and a time, or times with and without a zone
        return False


def _zone_note(event: Any, begins: date) -> str:
    zone = str(event["dtstart"].params.get("TZID", ""))
    if not zone or not isinstance(begins, datetime) or begins.tzinfo is not None:
        return ""
    return f"Its time zone, {cleaned(zone[:40])}, is unknown, so its hours are taken as local time of the site."


def _rule(event: Any) -> dict[str, Any]:
    rule = event.get("rrule")
    if not rule:
        return {}
    if isinstance(rule, list):
        raise ValueError("it has several rules")
    return {**rule, "FREQ": str(rule["FREQ"][0]).upper()}


def _times(event: Any, changed: list[Any], since: date, until: date, zone: str) -> list[_Occurrence]:
    """All times that an event comes between two dates, in order, in the site's wall time."""
    alone = Calendar()
    for part in (event, *changed):
        alone.add_component(part)
    info = zone_named(zone)
    found = []
    for one in recurring_ical_events.of(alone).between(since - timedelta(days=1), until):
        if str(one.get("status", "")).upper() == "CANCELLED":
            continue
        came = _Occurrence(one.start, one.end)
        if isinstance(came.begins, datetime):
            came = _Occurrence(*(_local(moment, info) for moment in came))
        found.append(came)
    found.sort(key=lambda one: one.begins)
    low: date | datetime = since
    if found and isinstance(found[0].begins, datetime):
        low = datetime.combine(since, time())
    return [one for one in found if one.begins >= low]


def _local(moment: Any, info: Any) -> datetime:
    """A moment as the site's clock shows it; one without a zone is meant so already."""
    bare: datetime = moment if moment.tzinfo is None else moment.astimezone(info).replace(tzinfo=None)
    return bare


def _dates(
    came: list[_Occurrence], row: CalendarRow, endless: bool, rule: dict[str, Any], since: date, until: date
) -> CalendarRow:
    """Whole days as stretches of dates."""
    days = sorted({one.begins + timedelta(days=n) for one in came for n in range(max(1, (one.ends - one.begins).days))})
    if endless and rule["FREQ"] == "YEARLY":
        same = {(one.begins.month, one.begins.day) for one in came}
        yearly = Stretch(came[0].begins, came[0].ends - timedelta(days=1), True)
        leap_day = same == {(2, 29)}
        if len(same) == 1 and (leap_day or len(came) == until.year - came[0].begins.year):
            return row._replace(kind="dates", stretches=(yearly,))
    weekly = _weekly(days, until if endless else days[-1] + timedelta(days=1))
    if weekly and endless:
        all_year = Stretch(date(since.year, 1, 1), date(since.year, 12, 31), True, weekly if len(weekly) < 7 else ())
        return row._replace(kind="dates", stretches=(all_year,), note="It repeats every week and applies all year.")
    if weekly and len(days) > len(weekly):
        only = weekly if len(weekly) < 7 else ()
        return row._replace(kind="dates", stretches=(Stretch(days[0], days[-1], False, only),))
    stretches = tuple(_in_a_row(days))
    if len(stretches) > MOST_STRETCHES:
        return row._replace(note=f"It has {len(stretches)} separate dates until {days[-1]}, without a rule.")
    note = row.note or (
        f"Its dates differ from year to year, so those until {until.year - 1} are used." if endless else ""
    )
    return row._replace(kind="dates", stretches=stretches, note=note)


def _weekly(days: list[date], until: date) -> tuple[Day, ...]:
    """The days of the week, where dates are all of these between the first of them and an end; else none."""
    wanted = {day.weekday() for day in days}
    span = (until - days[0]).days
    full = [days[0] + timedelta(days=n) for n in range(span) if (days[0].weekday() + n) % 7 in wanted]
    return tuple(DAYS[at] for at in sorted(wanted)) if full == days else ()


def _in_a_row(days: list[date]) -> Iterator[Stretch]:
    first = last = days[0]
    for day in days[1:]:
        if (day - last).days > 1:
            yield Stretch(first, last)
            first = day
        last = day
    yield Stretch(first, last)


def _hours(came: list[_Occurrence], row: CalendarRow, endless: bool) -> CalendarRow:
    """Times of day as the hours of a week."""
    usual: dict[int, Counter[tuple[int, int]]] = {}
    dates: dict[int, set[date]] = {}
    for one in came:
        assert isinstance(one.begins, datetime) and isinstance(one.ends, datetime)
        minutes = round((one.ends - one.begins).total_seconds() / 60)
        if not 0 < minutes <= MINUTES_A_DAY:
            return row._replace(note="It must last between a minute and a day.")
        day = one.begins.weekday()
        usual.setdefault(day, Counter())[one.begins.hour * 60 + one.begins.minute, minutes] += 1
        dates.setdefault(day, set()).add(one.begins.date())
    left_out: list[date] = []
    for found in dates.values():
        weeks = (max(found) - min(found)).days // 7 + 1
        missing = sorted({min(found) + timedelta(days=7 * n) for n in range(weeks)} - found)
        if len(missing) > (1 - USUAL_SHARE) * weeks:
            return row._replace(note="It does not repeat every week.")
        left_out += missing
    plan, notes = _plan(usual, {day: len(found) for day, found in dates.items()})
    if left_out:
        listed = ", ".join(str(day) for day in sorted(left_out)[:4])
        notes.append(
            f"It does not apply on {listed}{' and more' if len(left_out) > 4 else ''}: add exceptions for these dates."
        )
    note = " ".join(filter(None, (row.note, *notes)))
    if endless:
        return row._replace(kind="weekly hours", plan=plan, note=note)
    first, last = came[0].begins, came[-1].begins
    assert isinstance(first, datetime) and isinstance(last, datetime)
    stretch = Stretch(first.date(), last.date())
    return row._replace(kind="hours for a time", stretches=(stretch,), plan=plan, note=note)


def _plan(usual: dict[int, Counter[tuple[int, int]]], weeks: dict[int, int]) -> tuple[WeekPlan, list[str]]:
    """The week of the hours that usually come, and what else came on some dates."""
    spans: dict[Day, list[Span]] = {day: [] for day in DAYS}
    others: list[str] = []
    mode: Mode = "continuous"
    for day, counted in sorted(usual.items()):
        kept = [hours for hours, times in counted.items() if times >= USUAL_SHARE * weeks[day]]
        if not kept:
            kept = [counted.most_common(1)[0][0]]
        if len(counted) > len(kept):
            others.append(DAYS[day].capitalize())
        for start, minutes in kept:
            end = start + minutes
            spans[DAYS[day]].append(Span(start, min(end, MINUTES_A_DAY), mode))
            if end > MINUTES_A_DAY:
                spans[DAYS[(day + 1) % 7]].append(Span(0, end - MINUTES_A_DAY, mode))
    notes = []
    if others:
        days = ", ".join(others)
        notes = [f"On some {days} it has other hours: an exception, or daylight saving that changes on other dates."]
    return WeekPlan(**{day: flat_spans(found) for day, found in spans.items()}), notes
