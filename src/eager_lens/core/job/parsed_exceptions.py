"""Exceptions that were said in words, with a schedule that fits them."""

from __future__ import annotations

from eager_lens.core.job.edits import Edit, add_exception, add_schedule, with_parts
from eager_lens.core.job.model import Job, Schedule, changed
from eager_lens.core.recording.opening_hours import ON_MOTION, every_day, open_day
from eager_lens.core.recording.typed_exceptions import ParsedException
from eager_lens.core.recording.week import clock_of


def add_parsed_exception(said: ParsedException, instead_of: str) -> Edit:
    """Add an exception that was said in words. Where nobody is there, it is recorded on motion all day; at other hours,
    continuously in these; a schedule of the job that does so is taken, or one is added. Of anything else the first other
    schedule is proposed."""

    def apply(job: Job) -> Job:
        job, schedule = _fitting(job, said, instead_of)
        fields = {"yearly": said.yearly, "instead_of": instead_of, "schedule": schedule}
        return add_exception(said.name, said.first, said.last, **fields).apply(job)

    return Edit(f"Add the exception “{said.name}”", apply)


def _fitting(job: Job, said: ParsedException, instead_of: str) -> tuple[Job, str]:
    """The job with a schedule that fits, and its id."""
    if said.is_closed:
        plan, name = every_day(ON_MOTION), "Closed"
    elif said.hours is not None:
        plan, name = every_day(open_day(*said.hours)), f"Open {clock_of(said.hours[0])} to {clock_of(said.hours[1])}"
    else:
        return job, next((one.id for one in job.schedules if one.id != instead_of), instead_of)
    had = next((one.id for one in job.schedules if one.plan == plan), None)
    if had is not None:
        return job, had
    job = add_schedule(name).apply(job)
    made: Schedule = changed(job.schedules[-1], plan=plan)
    return with_parts(job, schedules=(*job.schedules[:-1], made)), made.id
