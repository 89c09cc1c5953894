"""What a promise would be with the usual maximum bit rates, worked out without making the change."""

from __future__ import annotations

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.figures import NO_HOURS, camera_figures
from eager_lens.core.assess.promised import keeping_of
from eager_lens.core.job.capping import lacks_cap, usual_cap_fields
from eager_lens.core.job.measured import with_settings
from eager_lens.core.job.model import Recorder
from eager_lens.core.sizing.promise import Keeping

WORKED_OUT = 300
"""In a job of so many cameras it is worked out whenever the promise is short."""


def capped_keeping(facts: Facts, recorder: Recorder) -> Keeping | None:
    """The years of a recorder with the usual caps on all of its cameras that have none; None where no camera lacks one, or nothing
    is recorded."""
    job, assumed = facts.job, facts.job.assumed.as_assumed()
    had = facts.cameras_on[recorder.id]
    if not any(lacks_cap(camera) for camera in had):
        return None
    cameras = [with_settings(one, usual_cap_fields(one)) if lacks_cap(one) else one for one in had]
    figures = [camera_figures(one, facts.schedule_hours.get(one.schedule, NO_HOURS), assumed) for one in cameras]
    usable_tb = facts.recorder_figures[recorder.id].usable_tb
    return keeping_of(facts.calendar, job.activity, usable_tb, cameras, figures)


def capped_need_tb(facts: Facts, recorder: Recorder) -> float | None:
    """The space in TB that the days asked need then; None likewise, and where no days are asked."""
    days = facts.job.retention.least_days
    keeping = capped_keeping(facts, recorder) if days > 0 else None
    return None if keeping is None else keeping.space_gb_for(days) / 1000
