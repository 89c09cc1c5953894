"""Events of a calendar taken into a job: which schedule each is to mean, by proposal and by choice, and the edit."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from eager_lens.core.incoming.calendars.reading import CalendarRow, Stretch
from eager_lens.core.job.edits import Edit, add_exception, add_schedule, set_schedule, with_parts
from eager_lens.core.job.model import Job, Schedule, ScheduleException, changed
from eager_lens.core.recording.week import DAYS, WeekPlan
from eager_lens.core.units import count

LEFT_OUT, NEW, KNOWN = "left out", "a new schedule", "in the job already"
"""What may become of an event besides a schedule of the job."""

CLOSED_WORDS = frozenset(
    [
        "closed",
        "shut",
        "closure",
        "holiday",
        "holidays",
        "christmas",
        "easter",
        "boxing",
        "vacation",
        "bank",
        "off",
        "empty",
    ]
)
"""Words of events and of schedules for days on which nobody is there."""


def proposals(rows: Sequence[CalendarRow], job: Job) -> dict[str, str]:
    """By row, what it is proposed to become: one of the texts above, or the id of a schedule. By words only: an event without a
    word that leads to a schedule is left out until somebody chooses."""
    return {row.id: _proposal(row, job) for row in rows}


def _proposal(row: CalendarRow, job: Job) -> str:
    own = {schedule.name: schedule for schedule in job.schedules}
    if row.kind == "nothing" or row.is_over:
        return LEFT_OUT
    if row.kind == "schedule":
        return KNOWN if row.name in own and own[row.name].plan == row.plan else NEW
    if row.kind == "weekly hours":
        return NEW
    if row.kind == "hours for a time":
        # A single meeting is no opening hour; whether these dates are is for the reader to say.
        return LEFT_OUT
    if _is_known(row, job):
        return KNOWN
    if row.schedule:
        return own[row.schedule].id if row.schedule in own else NEW
    return _by_words(row.name, job.schedules) or LEFT_OUT


def _is_known(row: CalendarRow, job: Job) -> bool:
    """Whether the job has an exception of this name on these dates, as it has after the same calendar was taken once."""
    names = {schedule.id: schedule.name for schedule in job.schedules}
    held = {(one.name, _stretch_of(one)): names.get(one.schedule, "") for one in job.exceptions}
    return bool(row.stretches) and all(
        (row.name, stretch) in held and row.schedule in ("", held[row.name, stretch]) for stretch in row.stretches
    )


def _stretch_of(one: ScheduleException) -> Stretch:
    return Stretch(one.first, one.last, one.yearly, one.days)


def _words(text: str) -> set[str]:
    return set(re.findall(r"\w+", text.casefold()))


def _by_words(name: str, schedules: Sequence[Schedule]) -> str:
    """The schedule whose name has most words of an event's; else one for closed days, for an event that says so."""
    said = _words(name)
    shared = {schedule.id: len(said & _words(schedule.name)) for schedule in schedules}
    best = max(shared, key=lambda one: shared[one], default="")
    if best and shared[best]:
        return best
    if said & CLOSED_WORDS:
        return next((one.id for one in schedules if _words(one.name) & CLOSED_WORDS), "")
    return ""


def choices(row: CalendarRow, job: Job) -> list[str]:
    """What a row may become: texts above, and ids of schedules."""
    if row.kind == "nothing":
        return [LEFT_OUT]
    if row.kind == "dates":
        of_its_own = [NEW] if row.schedule and row.schedule not in {one.name for one in job.schedules} else []
        return [LEFT_OUT, *of_its_own, *(schedule.id for schedule in job.schedules)]
    if row.kind == "schedule":
        return [LEFT_OUT, NEW, *(schedule.id for schedule in job.schedules)]
    return [LEFT_OUT, NEW]


def taking(rows: Sequence[CalendarRow], chosen: Mapping[str, str], name: str, base: str) -> Edit:
    """The one step that takes a calendar in.

    Args:
        rows: its events. chosen: by row, what it becomes. name: of the calendar. base: the id of the schedule in whose place
            exceptions hold that do not say it themselves; empty: any.
    """
    taken = [row for row in rows if chosen.get(row.id, LEFT_OUT) not in (LEFT_OUT, KNOWN)]

    def apply(job: Job) -> Job:
        new: dict[str, str] = {}
        for row in (one for one in taken if one.kind == "schedule"):
            job, new[row.name] = _schedule(job, row, chosen[row.id])
        weekly = [row for row in taken if row.kind == "weekly hours"]
        if weekly:
            job = add_schedule((weekly[0].name if len(weekly) == 1 else name)[:100] or "Calendar").apply(job)
            job = _with_plan(job, *weekly)
        for row in taken:
            if row.kind == "hours for a time":
                job = add_schedule(row.name[:100]).apply(job)
                job = _with_plan(job, row)
                holds = job.schedules[-1].id
            elif row.kind == "dates":
                holds = chosen[row.id]
                if holds == NEW:
                    if row.schedule not in new:
                        job = add_schedule(row.schedule[:100]).apply(job)
                        new[row.schedule] = job.schedules[-1].id
                    holds = new[row.schedule]
            else:
                continue
            instead = next((one.id for one in job.schedules if row.instead_of and one.name == row.instead_of), "")
            place = instead if row.instead_of or row.schedule else base
            for stretch in row.stretches:
                fields = {**stretch._asdict(), "instead_of": "" if place == holds else place, "schedule": holds}
                job = add_exception(row.name, fields.pop("first"), fields.pop("last"), **fields).apply(job)
        return job

    return Edit(f"Import {count(len(taken), 'event')} of “{name[:60]}”", apply)


def _with_plan(job: Job, *rows: CalendarRow) -> Job:
    """The newest schedule with the hours of these rows."""
    plan = job.schedules[-1].plan
    for row in rows:
        if row.plan is not None:
            plan = WeekPlan(**{day: (*plan.of_day(day), *row.plan.of_day(day)) for day in DAYS})
    return with_parts(job, schedules=(*job.schedules[:-1], changed(job.schedules[-1], plan=plan)))


def _schedule(job: Job, row: CalendarRow, choice: str) -> tuple[Job, str]:
    """A schedule that this program wrote: made, or written over one of the job. Also its id."""
    if choice != NEW:
        return set_schedule(choice, f"Set {row.name}", plan=row.plan).apply(job), choice
    job = add_schedule(row.name).apply(job)
    job = _with_plan(job, row)
    return job, job.schedules[-1].id
