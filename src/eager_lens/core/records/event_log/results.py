"""Results of tests, walks, readings and snags out of a log: what somebody recorded who worked on another copy of the job."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, TypeVar

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import with_parts
from eager_lens.core.job.model import Job
from eager_lens.core.job.proof import Check, FillReading, Snag, Walk
from eager_lens.core.records.event_log.entry import LogEntry
from eager_lens.core.validation import Plain, read_as

P = TypeVar("P", bound=Plain)


def with_results(job: Job, entries: Iterable[LogEntry]) -> tuple[Job, Job]:
    """The job as it would be before and after what a log records, for merging: without any record, and with the log's alone.

    A result that was withdrawn in the log does not count there; devices that the job does not have are passed over.
    """
    checks: dict[tuple[str, str, str, str], Check] = {}
    walks, readings, snags = list[Walk](), list[FillReading](), dict[str, Snag]()
    here = {"site", *(device.id for device in job.devices())}
    for entry in entries:
        kind, values = entry.event.kind, dict(entry.event.values)
        if kind == "check" and (check := _part(Check, values, entry)) is not None and check.device in here:
            checks[check.device, check.check, check.at, check.by] = check
        elif kind == "snag" and (snag := _part(Snag, values, entry)) is not None and snag.device in here:
            snags[snag.id] = snag
        elif kind == "measurement" and "camera" in values and (walk := _part(Walk, values, entry)) is not None:
            walks += [walk] if walk.camera in here else []
        elif kind == "measurement" and "recorder" in values and (read := _part(FillReading, values, entry)) is not None:
            readings += [read] if read.recorder in here else []
    bare = with_parts(job, checks=(), walks=(), fill_readings=(), snags=())
    # Snags that a test opened or closed follow from its result when it is taken.
    typed = tuple(one for one in snags.values() if not one.check)
    there = with_parts(
        job, checks=tuple(checks.values()), walks=tuple(walks), fill_readings=tuple(readings), snags=typed
    )
    return bare, there


def _part(model: type[P], values: dict[str, Any], entry: LogEntry) -> P | None:
    fields = {name: value for name, value in values.items() if name in model.model_fields}
    if "photos" in model.model_fields:
        fields["photos"] = list(entry.event.photos)
    try:
        return read_as(model, fields)
    except RefusedInput:
        return None  # an entry of a later program may say more than is known here
