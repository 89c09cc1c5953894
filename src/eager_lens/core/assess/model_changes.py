"""By which model figures are made, and what to say where those in a file were made by an earlier one."""

from __future__ import annotations

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.kept_figures import HandedOver, KeptFigures, RecorderKept
from eager_lens.core.units import days_figure

MODEL = 4
"""The number of today's model. It goes up whenever figures of an unchanged job come out otherwise, with a line below."""

CHANGES = {
    2: ("0.2", "bit rates are estimated from scene, events and light, and days are those of the year's worst day"),
    3: ("0.3", "a maximum bit rate now limits smart codecs too"),
    4: (
        "0.3",
        "a maximum bit rate now limits day and night, busy and quiet hours separately; nights are estimated lower; motion "
        "events have a range and include false alarms; a UPS gives less energy the faster it is discharged",
    ),
}
"""By the number of a model, since which version it holds and what is otherwise."""

ALIKE_SHARE = 0.02
"""Days that differ by less are the same to a person."""
MOST_NAMED = 3


def figures_of(assessment: Assessment) -> KeptFigures:
    """The figures of a job as its file keeps them."""
    return KeptFigures(model=MODEL, recorders=_recorders(assessment))


def handed_over(assessment: Assessment, what: str, at: str, by: str) -> HandedOver:
    """The figures of a job as they stand on papers that are handed over."""
    return HandedOver(
        model=MODEL,
        recorders=_recorders(assessment),
        what=what,
        at=at,
        by=by,
        asked_days=assessment.job.retention.least_days,
    )


def _recorders(assessment: Assessment) -> tuple[RecorderKept, ...]:
    found = []
    for recorder in assessment.job.recorders:
        got = assessment.recorder(recorder.id)
        found.append(
            RecorderKept(
                id=recorder.id,
                name=recorder.name,
                promised_days=got.promised_days,
                mean_days=got.mean_days,
                usable_tb=got.usable_tb,
                gb_per_day=got.gb_per_day,
            )
        )
    return tuple(found)


def since_then(kept: KeptFigures | None, assessment: Assessment) -> str:
    """What to say when a file is opened whose figures were made by an earlier model: what differs, and why; empty where nothing
    does. A file without figures was saved before files held them."""
    model = 1 if kept is None else kept.model
    if model >= MODEL or not assessment.job.cameras:
        return ""
    why = "; ".join(
        f"since {version} {words}" for number, (version, words) in sorted(CHANGES.items()) if number > model
    )
    if kept is None:
        return f"This file was saved without its figures. Those shown are calculated by today's version: {why}."
    now = {recorder.id: assessment.recorder(recorder.id).promised_days for recorder in assessment.job.recorders}
    told = [
        f"{one.name or one.id} promised {_days(one.promised_days)} then, {_days(now[one.id])} now"
        for one in kept.recorders
        if one.id in now and not _alike(one.promised_days, now[one.id])
    ]
    if not told:
        return ""
    more = f" and {len(told) - MOST_NAMED} more" if len(told) > MOST_NAMED else ""
    return f"Some figures have changed since this file was saved: {'; '.join(told[:MOST_NAMED])}{more}. Why: {why}."


def _days(days: float | None) -> str:
    return "nothing" if days is None else f"{days_figure(days)} days"


def _alike(then: float | None, now: float | None) -> bool:
    if then is None or now is None:
        return then is now
    return abs(then - now) <= ALIKE_SHARE * max(then, now)
