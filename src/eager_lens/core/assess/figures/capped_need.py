"""What a promise would be with the usual maximum bit rates, worked out without making the change."""

from __future__ import annotations

from weakref import WeakKeyDictionary

from eager_lens.core.assess.figures.devices import NO_HOURS, camera_figures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.promised import keeping_of
from eager_lens.core.job.capping import lacks_cap, usual_cap_fields
from eager_lens.core.job.measured import with_settings
from eager_lens.core.job.model import Recorder
from eager_lens.core.sizing.promise import Keeping

WORKED_OUT = 300
"""Calculated only in jobs of up to this many cameras, because findings need it at each edit."""

# By a recorder's years: they stay the same object while nothing of it changes, so that an edit works out only what it touched.
_known: WeakKeyDictionary[Keeping, Keeping | None] = WeakKeyDictionary()


def capped_keeping(facts: Facts, recorder: Recorder) -> Keeping | None:
    """The years of a recorder with the usual caps on all of its cameras that have none; None where no camera lacks one, nothing is
    recorded, or the job is too large to ask."""
    keeping = facts.keeping[recorder.id]
    if keeping is None or len(facts.job.cameras) > WORKED_OUT:
        return None
    if keeping not in _known:
        _known[keeping] = _worked_out(facts, recorder)
    return _known[keeping]


def _worked_out(facts: Facts, recorder: Recorder) -> Keeping | None:
    job, assumed = facts.job, facts.job.assumed.as_assumed()
    had = facts.cameras_on[recorder.id]
    cameras = [with_settings(one, usual_cap_fields(one)) if lacks_cap(one) else one for one in had]
    if cameras == had:
        return None
    figures = [camera_figures(one, facts.schedule_hours.get(one.schedule, NO_HOURS), assumed) for one in cameras]
    usable_tb = facts.recorder_figures[recorder.id].usable_tb
    return keeping_of(facts.calendar, job.activity, usable_tb, cameras, figures)


def capped_need_tb(facts: Facts, recorder: Recorder) -> float | None:
    """The space in TB that the days asked need then; None likewise, and where no days are asked."""
    days = facts.job.retention.least_days
    keeping = capped_keeping(facts, recorder) if days > 0 else None
    return None if keeping is None else keeping.space_gb_for(days) / 1000
