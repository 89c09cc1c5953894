"""How the best picture came about."""

from __future__ import annotations

from typing import TYPE_CHECKING

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.present.workings.base import Working, WorkingLine, rates_origin
from eager_lens.core.units import figure

if TYPE_CHECKING:
    from eager_lens.core.options.best.picture import Allowed, Best

FORMULA = (
    "best sum of importance x (log2(width / 640) + 1 - exp(-fps / 4) + quality step / 2), pixels beyond the purpose's need "
    "counting half; one setting for each camera; bytes of the days x caution <= space, rates <= what recorders take and "
    "links carry; caution raised until the promise holds"
)


def working_of_best(best: Best, allowed: Allowed, recorder_id: str, assessment: Assessment) -> Working:
    """The working of an answer."""
    recorder, got = assessment.facts.recorders[recorder_id], assessment.recorder(recorder_id)
    origin = rates_origin(assessment)
    promised = (
        "not worked out: a point of the curve" if best.promised_days is None else f"{figure(best.promised_days)} days"
    )
    lines = (
        WorkingLine("asked", f"{figure(assessment.job.retention.least_days)} days in 95 of 100 years", "plan"),
        WorkingLine("space", f"{figure(got.usable_tb)} TB", "worked out"),
        WorkingLine("allowed", f"{figure(allowed.least_fps)} to {figure(allowed.most_fps)} fps", "plan"),
        WorkingLine("lower resolution, H.265", f"{_yes(allowed.smaller_pictures)}, {_yes(allowed.h265)}", "plan"),
        WorkingLine(
            "settings of now take", f"{figure(best.now_tb)} TB, worth {figure(100 * best.now_share)} %", origin
        ),
        WorkingLine("these take", f"{figure(best.needed_tb)} TB, worth {figure(100 * best.quality_share)} %", origin),
        WorkingLine("a better answer might gain", f"at most {figure(100 * best.gap_share)} %", "worked out"),
        WorkingLine("promise", promised, "worked out"),
        WorkingLine("used up", ", ".join(best.tight) or "nothing", "worked out"),
    )
    value = f"{figure(100 * best.quality_share)} % of the best picture"
    source = "mixed-integer programme, HiGHS; 0 % is everything at its least, 100 % at its best"
    return Working(f"Best picture, {recorder.name}", value, FORMULA, lines, source)


def _yes(allowed: bool) -> str:
    return "yes" if allowed else "no"
