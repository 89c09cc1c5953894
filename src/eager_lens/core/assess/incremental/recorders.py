"""The year and the figures of recorders, taken over from before where nothing of what they rest on changed."""

from __future__ import annotations

from collections.abc import Sequence
from operator import is_

from eager_lens.core.assess.figures.devices import RecorderFigures, erased, recorder_figures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.promised import Calendar, calendar_of, keeping_of
from eager_lens.core.assess.incremental.groups import Groups
from eager_lens.core.job.model import Job, Recorder
from eager_lens.core.sizing.promise import Keeping


def known_calendar(job: Job, before: Facts | None) -> Calendar:
    """The year of a job; that of ``before`` where nothing of it changed."""
    if (
        before is not None
        and before.job.schedules is job.schedules
        and before.job.exceptions is job.exceptions
        and before.job.time_zone == job.time_zone
        and before.job.assumed.latitude_deg == job.assumed.latitude_deg
    ):
        return before.calendar
    return calendar_of(job)


def known_recorder(
    recorder: Recorder, job: Job, groups: Groups, calendar: Calendar, before: Facts | None
) -> tuple[RecorderFigures, Keeping | None]:
    """A recorder's figures and its years; those of ``before`` where neither it nor any of its cameras changed."""
    cameras, streams = groups.cameras_on[recorder.id], groups.streams_on[recorder.id]
    if (
        before is not None
        and before.recorders.get(recorder.id) is recorder
        and before.calendar is calendar
        and before.job.activity == job.activity
        and _very_same(before.cameras_on[recorder.id], cameras)
        and _very_same(before.streams_on[recorder.id], streams)
    ):
        return before.recorder_figures[recorder.id], before.keeping[recorder.id]
    figures = recorder_figures(recorder, streams, sum(camera.substream_mbps for camera in cameras))
    if figures.mean_days is None:
        return figures, None
    keeping = keeping_of(calendar, job.activity, figures.usable_tb, cameras, streams)
    if keeping is None:
        return figures._replace(mean_days=None, keeps="nothing recorded"), None
    promised, certain = keeping.promised(), keeping.certain()
    return figures._replace(
        promised_days=erased(promised, recorder),
        certain_days=None if certain is None else erased(min(certain, promised), recorder),
    ), keeping


def _very_same(some: Sequence[object], others: Sequence[object]) -> bool:
    """Whether two lists hold the very same objects."""
    return some is others or (len(some) == len(others) and all(map(is_, some, others)))
