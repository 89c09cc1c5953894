"""What exceptions do to recorders: GB a day and days kept while each of them lasts."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from eager_lens.core.assess.figures.devices import NO_HOURS, erased, kept
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.job.model import Recorder, ScheduleException
from eager_lens.core.sizing.disk import days_kept, disk_space_gb


class ExceptionFigures(NamedTuple):
    """A recorder while an exception lasts: GB a day, and days that it would keep if the exception never ended; None: nothing is
    recorded."""

    exception: ScheduleException
    recorder: Recorder
    gb_per_day: float
    days: float | None


def exception_figures(facts: Facts, recorders: Iterable[Recorder] | None = None) -> list[ExceptionFigures]:
    """For each exception and each recorder (all, or some) that it touches: what is stored while it lasts.

    An exception changes hours only, so that rates are taken as they were worked out already.
    """
    found = []
    wanted = facts.job.recorders if recorders is None else tuple(recorders)
    for exception in facts.job.exceptions:
        hours = facts.schedule_hours.get(exception.schedule, NO_HOURS)
        for recorder in wanted:
            gb, touched = 0.0, False
            for camera in facts.cameras_on[recorder.id]:
                figures = facts.camera_figures[camera.id]
                if (
                    camera.schedule in facts.schedules
                    and exception.instead_of in ("", camera.schedule)
                    and camera.schedule != exception.schedule
                ):
                    then = kept(camera, hours, figures.rate_mbps, figures.key_share)
                    gb += disk_space_gb(figures.rate_mbps, then.stored_h_per_day, 1)
                    touched = True
                else:
                    gb += figures.gb_per_day
            if touched:
                usable_tb = facts.recorder_figures[recorder.id].usable_tb
                found.append(
                    ExceptionFigures(
                        exception, recorder, gb, erased(days_kept(usable_tb, gb), recorder) if gb else None
                    )
                )
    return found
