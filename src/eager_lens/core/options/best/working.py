"""How the best picture came about."""

from __future__ import annotations

from typing import TYPE_CHECKING

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.present.workings.base import Working, WorkingLine, rates_origin
from eager_lens.core.units import days_figure, figure

if TYPE_CHECKING:
    from eager_lens.core.options.best.picture import Best
    from eager_lens.core.options.best.settings import Allowed

FORMULA = (
    "best sum of importance × (width × log2(px / 640) + frames × (1 - exp(-fps / 4)) + quality × step); no camera worse than "
    "now if that fits, else none better than now; bytes × safety factor ≤ space, bit rates ≤ limits of recorders and links; "
    "safety factor raised until the promise holds"
)


def working_of_best(best: Best, allowed: Allowed, recorder_id: str, assessment: Assessment) -> Working:
    """The working of an answer."""
    recorder, got = assessment.facts.recorders[recorder_id], assessment.recorder(recorder_id)
    origin, w = rates_origin(assessment), allowed.weights
    promised = (
        "a point of the curve, without workings"
        if best.promised_days is None
        else f"{days_figure(best.promised_days)} days"
    )
    lines = (
        WorkingLine("asked", f"{figure(assessment.job.retention.least_days)} days, with 95 % probability", "plan"),
        WorkingLine("space", f"{figure(got.usable_tb)} TB", "calculated"),
        WorkingLine("allowed", f"{figure(allowed.least_fps)} to {figure(allowed.most_fps)} fps", "plan"),
        WorkingLine("lower resolution, H.265", f"{_yes(allowed.smaller_pictures)}, {_yes(allowed.h265)}", "plan"),
        WorkingLine(
            "key frames up to, smart codec",
            f"{figure(allowed.longest_key_frame_s)} s, {_yes(allowed.smart_codec)}",
            "plan",
        ),
        WorkingLine(
            "a doubling of the width counts",
            f"{figure(w.width)}, beyond need {figure(100 * w.beyond_need)} % of it",
            "plan",
        ),
        WorkingLine("frames, a step of quality", f"{figure(w.frames)}, {figure(w.quality)}", "plan"),
        WorkingLine("settings now", f"{figure(best.now_tb)} TB, {figure(100 * best.now_share)} %", origin),
        WorkingLine("settings found", f"{figure(best.needed_tb)} TB, {figure(100 * best.quality_share)} %", origin),
        WorkingLine("a better solution could gain", f"at most {figure(100 * best.gap_share)} %", "calculated"),
        WorkingLine("promise", promised, "calculated"),
        WorkingLine("used up", ", ".join(best.tight) or "nothing", "calculated"),
    )
    value = f"{figure(100 * best.quality_share)} % of the best picture"
    source = (
        "mixed-integer programme, HiGHS; 0 % is every setting at its minimum, 100 % at its maximum; pixels by purpose IEC "
        "62676-4, frames Keval and Sasse, ACM Multimedia 2008"
    )
    return Working(f"Best picture, {recorder.name}", value, FORMULA, lines, source)


def _yes(allowed: bool) -> str:
    return "yes" if allowed else "no"
