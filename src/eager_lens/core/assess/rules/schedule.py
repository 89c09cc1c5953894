"""Findings about when cameras record."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from itertools import pairwise

from eager_lens.core.assess.figures.devices import CameraFigures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed, on_makes
from eager_lens.core.assess.incremental.kept import reads
from eager_lens.core.assess.incremental.traits import trait
from eager_lens.core.job.edits import remove_exceptions, remove_schedule, set_fields
from eager_lens.core.job.model import Camera, ScheduleException
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.recording.week import DAY_WORDS, DAYS, MINUTES_A_DAY, WeekPlan, clock_of, flat_spans
from eager_lens.core.recording.year import overlaps
from eager_lens.core.units import count

NO_WEEK = FindingKind("no-schedule", "schedule", of_what_is_missing=True, button="Apply schedule")


@trait
def is_never_recorded(_: Camera, figures: CameraFigures) -> bool:
    """Whether none of its hours is recorded."""
    return figures.stored_h_per_day == 0


def no_schedule(facts: Facts) -> Iterator[Finding]:
    """A camera without a schedule records nothing."""
    # Without a week nothing is recorded, so these are among the few that record nothing.
    lost = [camera for camera in facts.having(is_never_recorded) if camera.schedule not in facts.schedules]
    if not lost:
        return
    ids = tuple(camera.id for camera in lost)
    fix = None
    if len(facts.job.schedules) == 1:
        schedule = facts.job.schedules[0]
        fix = set_fields(ids, f"Apply schedule “{schedule.name}”", schedule=schedule.id)
    yield Finding(
        NO_WEEK,
        facts.when_missing(Severity.FAULT),
        f"{count(len(lost), 'camera')} without a schedule",
        f"{names_listed([camera.name for camera in lost])}: without a schedule they never record.",
        "Select a schedule for each." if facts.job.schedules else "Add a schedule, then apply it to the cameras.",
        ids,
        fix,
    )


NO_SUMMER_TIME = FindingKind("no-summer-time", "schedule")


@reads("time_zone", "exceptions", "schedules", "cameras.id")
def no_summer_time(facts: Facts) -> Iterator[Finding]:
    """A clock that never changes, where people's clocks may: hours of the schedule would be an hour off for half a year."""
    zone = facts.job.time_zone
    if facts.job.cameras and (zone == "UTC" or zone.startswith("Etc/")) and _has_hours(facts):
        yield Finding(
            NO_SUMMER_TIME,
            Severity.NOTE,
            f"Time zone {zone} has no daylight saving time",
            "If the place has daylight saving time, schedules are an hour off for half of the year.",
            "On the Bench page, under Makes, enter the time zone of the place, for example Europe/Lisbon.",
            set_at=on_makes("time_zone"),
        )


def _has_hours(facts: Facts) -> bool:
    """Whether any schedule tells hours of the day apart."""
    days = (getattr(schedule.plan, day) for schedule in facts.job.schedules for day in DAYS)
    return any(len(spans) > 1 or any(span.end - span.start < MINUTES_A_DAY for span in spans) for spans in days)


EMPTY_WEEK = FindingKind("empty-schedule", "schedule")
RECORDS_NOTHING = FindingKind("records-nothing", "schedule")


def records_nothing(facts: Facts) -> Iterator[Finding]:
    """A week without an hour of recording, or motion hours in which nothing is expected to move."""
    idle = [schedule for schedule in facts.job.schedules if facts.schedule_hours[schedule.id]["off"] == 168]
    used = {camera.schedule for camera in facts.job.cameras} if idle else set()
    for schedule in (schedule for schedule in idle if schedule.id in used):
        yield Finding(
            EMPTY_WEEK,
            Severity.FAULT,
            f"The schedule “{schedule.name}” records nothing",
            "All 168 hours of the week are off.",
            "Paint the hours in which they record.",
            (schedule.id,),
        )
    silent = [
        camera
        for camera in facts.having(is_never_recorded)
        if camera.schedule in facts.schedules and facts.schedule_hours[camera.schedule]["off"] < 168
    ]
    if silent:
        yield Finding(
            RECORDS_NOTHING,
            Severity.FAULT,
            f"{names_listed([camera.name for camera in silent])} would record nothing",
            "The schedule records events only, and no events are expected.",
            "Enter the events expected per hour, or paint continuous hours.",
            tuple(camera.id for camera in silent),
        )


UNUSED_WEEK = FindingKind("unused-schedule", "schedule")


@reads("schedules", "exceptions", "cameras.schedule")
def unused_schedule(facts: Facts) -> Iterator[Finding]:
    """A week that no camera has."""
    used = {camera.schedule for camera in facts.job.cameras} | {
        exception.schedule for exception in facts.job.exceptions
    }
    for schedule in facts.job.schedules:
        if schedule.id not in used and facts.job.cameras:
            yield Finding(
                UNUSED_WEEK,
                Severity.NOTE,
                f"No camera has the schedule “{schedule.name}”",
                "It would appear on the handover sheet for nothing.",
                "Apply it to cameras, or remove it.",
                (schedule.id,),
                remove_schedule(schedule.id),
            )


EXCEPTION_WITHOUT_WEEK = FindingKind("exception-without-schedule", "schedule")
EXCEPTIONS_OVERLAP = FindingKind("exceptions-overlap", "schedule")


def exceptions_wrong(facts: Facts) -> Iterator[Finding]:
    """Exceptions that lead to a week that is not there, and exceptions that want one date."""
    exceptions = facts.job.exceptions
    lost = [one for one in exceptions if one.schedule not in facts.schedules]
    for exception in lost:
        yield Finding(
            EXCEPTION_WITHOUT_WEEK,
            Severity.FAULT,
            f"Exception “{exception.name}” has no schedule",
            "Its cameras would record nothing on those dates.",
            "Select the schedule for those dates, or remove the exception.",
            (exception.id,),
            remove_exceptions([exception.id]),
        )
    years = {day.year for one in exceptions for day in (one.first, one.last)}
    names = {exception.id: exception.name for exception in exceptions}
    seen_pairs: set[tuple[str, str]] = set()
    for year in sorted(years)[:10]:
        for one, other, day in overlaps(tuple(exception.as_dates() for exception in exceptions), year):
            if (one.id, other.id) not in seen_pairs:
                seen_pairs.add((one.id, other.id))
                yield Finding(
                    EXCEPTIONS_OVERLAP,
                    Severity.NOTE,
                    f"Exceptions “{names[one.id]}” and “{names[other.id]}” overlap",
                    f"Both apply from {day.day} {day:%B}. The later one in the list, “{names[other.id]}”, wins.",
                    "Change the dates, or leave it if this is intended.",
                    (one.id, other.id),
                )


EXCEPTION_IDLE = FindingKind("exception-idle", "schedule")


@reads("schedules", "exceptions", "cameras.schedule")
def idle_exceptions(facts: Facts) -> Iterator[Finding]:
    """Exceptions that change nothing: no day of theirs is meant, no camera has the schedule, or both schedules are alike."""
    used = {camera.schedule for camera in facts.job.cameras}
    for exception in facts.job.exceptions:
        words = _why_idle(facts, exception, used) if exception.schedule in facts.schedules and used else ""
        if words:
            yield Finding(
                EXCEPTION_IDLE,
                Severity.NOTE,
                f"Exception “{exception.name}” changes nothing",
                f"{sentence_case(words)}.",
                "Correct its dates, days or schedule, or remove it.",
                (exception.id,),
                remove_exceptions([exception.id]),
            )


def _why_idle(facts: Facts, exception: ScheduleException, used: set[str]) -> str:
    span = (exception.last - exception.first).days
    if exception.days and 0 <= span < 6 and not exception.yearly:
        dates = (exception.first + timedelta(days=at) for at in range(span + 1))
        if not any(DAYS[date.weekday()] in exception.days for date in dates):
            return "none of its dates falls on one of its days of the week"
    replaced = {exception.instead_of} & used if exception.instead_of else used
    if not replaced:
        return "no camera has the schedule that it replaces"
    plan = facts.schedules[exception.schedule].plan
    # Over another exception it may well change something, though its hours are the usual ones.
    alone = len(facts.job.exceptions) == 1
    if alone and all(one in facts.schedules and facts.schedules[one].plan == plan for one in replaced):
        return "it has the same hours as the schedule that it replaces"
    return ""


SCHEDULE_SLIP = FindingKind("schedule-slip", "schedule")


@reads("schedules", "cameras.schedule")
def slips(facts: Facts) -> Iterator[Finding]:
    """Gaps that look like slips: an hour or less between two stretches of one mode, one day of seven without any recording."""
    used = {camera.schedule for camera in facts.job.cameras}
    for schedule in facts.job.schedules:
        found = list(_slips_of(schedule.plan)) if schedule.id in used else []
        if found:
            yield Finding(
                SCHEDULE_SLIP,
                Severity.NOTE,
                f"Schedule “{schedule.name}” has a gap",
                f"{names_listed(found)}.",
                "Fill the gap, or leave it if this is intended.",
                (schedule.id,),
            )


SLIP_MINUTES = 60
"""A gap between two stretches of one mode that is no longer is likely a slip of the brush."""


def _slips_of(plan: WeekPlan) -> Iterator[str]:
    by_day = {day: flat_spans(plan.of_day(day)) for day in DAYS}
    bare = [day for day, spans in by_day.items() if not spans]
    if len(bare) == 1:
        yield f"nothing is recorded on {DAY_WORDS[bare[0]]}, unlike all other days"
    for day, spans in by_day.items():
        for one, other in pairwise(spans):
            if one.mode == other.mode and other.start - one.end <= SLIP_MINUTES:
                yield f"{DAY_WORDS[day]} {clock_of(one.end)} to {clock_of(other.start)} is off, before and after is {one.mode}"


RULES = (no_schedule, records_nothing, unused_schedule, exceptions_wrong, idle_exceptions, slips, no_summer_time)
