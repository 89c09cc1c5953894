"""Working of what can be promised."""

from __future__ import annotations

from typing import TYPE_CHECKING

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.present.workings.base import Working, WorkingLine, rates_origin
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.units import figure

if TYPE_CHECKING:
    from eager_lens.core.options.promise import Promise

FORMULA = (
    "each year every stream's rate is its mean times exp(z x spread); each day all events times a gamma number; the "
    "day's bytes from mean and variance of Poisson coverage; kept = the days back whose bytes fit the space; promised = "
    "what holds on the worst day in 95 of 100 years"
)


def working_of_promise(found: Promise, assessment: Assessment) -> Working:
    """How the days that can be promised came about. The promise was simulated before, off the window's thread."""
    recorder_id = found.recorder_id
    name, got = assessment.facts.recorders[recorder_id].name, assessment.recorder(recorder_id)
    title = f"Days to promise, {name}"
    activity, assumed = assessment.job.activity, assessment.job.assumed
    origin = rates_origin(assessment)
    season = f"{activity.busy_days} days a year, {figure(activity.busy_factor)} times the events"
    lines = (
        WorkingLine("usable", f"{figure(got.usable_tb)} TB", "worked out"),
        WorkingLine("stored on a mean day", f"{figure(got.gb_per_day)} GB by {got.cameras} cameras", origin),
        WorkingLine("years simulated", f"{found.years}, seed {activity.seed}", "plan"),
        WorkingLine("a day's events vary by", f"{figure(100 * activity.day_spread)} %", "assumed"),
        WorkingLine("busy season", season if activity.busy_days else "none", "assumed"),
        WorkingLine(
            "of a rate's spread, common to all", f"{figure(100 * stream_assumptions().shared_share)} %", "assumed"
        ),
        WorkingLine("H.265 saves", f"{figure(100 * assumed.h265_saved_share)} %", "assumed"),
        *(
            WorkingLine(reason.words, f"{figure(100 * reason.share)} % of the variance", "worked out")
            for reason in found.reasons[:3]
        ),
        WorkingLine("on a typical day", f"{figure(found.typical_days)} days", "worked out"),
        WorkingLine("oldest, in 95 of 100 years", f"{figure(found.longest_days)} days", "worked out"),
    )
    value = f"{figure(found.promised_days)} days in 95 of 100 years"
    return Working(title, value, FORMULA, lines, "Monte Carlo simulation; ranges as in each bit rate's working")
