"""What trying a rule shows: rows of the time line, measures on the ground, and the picture of a moment with its marks."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

from eager_lens.core.job.model import Camera
from eager_lens.core.tried_rule.tried import Looked
from eager_lens.core.units import figure
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.desk.pages.motion.day_line import LineRow
from eager_lens.desk.pages.motion.scene_shapes import LineShown, Marked, Stick, ZoneShown

if TYPE_CHECKING:
    from eager_lens.core.motion.outcome import Outcome
    from eager_lens.core.motion.source import Source
    from eager_lens.core.motion.tuning.proposal import Proposal

SHOWN_NEAR_S = 0.15

STICKS_TIMES = (1.0, 1.7, 3.2)
"""Distances at which the sizes of a rule are drawn, as multiples of that at the lower edge of the picture."""

TRUTH_LEGEND = "White: true detection. Orange: false alarm, with its cause."

DARK_LEVEL, BRIGHTEST = 105, 2.6
"""By night a picture is lifted for the eye up to such a mean; the detector sees it as it is."""


def outcome_rows(outcome: Outcome, camera: Camera) -> list[LineRow]:
    """The time line of an outcome: truth, what was caught, what was false, and for a whole day what is recorded."""
    caught = tuple((one.begins_s, one.ends_s) for one in outcome.visits if one in outcome.caught)
    rows = [
        LineRow("Truth", "ink", tuple((one.begins_s, one.ends_s) for one in outcome.visits)),
        LineRow("Caught", "accent", caught),
        LineRow("False", "need", tuple((one.begins_s, one.ends_s + 1) for one in outcome.alarms)),
    ]
    if outcome.is_whole:
        clips = tuple(outcome.clips(camera.pre_recording_s, camera.post_recording_s))
        rows.append(LineRow("Recorded", "muted", clips))
    return rows


def week_rows(looked: Looked) -> list[LineRow]:
    """A row for each day of a windy week, with its false alarms."""
    from eager_lens.core.tried_rule.in_words import day_name

    return [
        LineRow(
            f"{day_name(day.weekday)} {figure(day.wind_m_per_s, 2)} m/s",
            "need",
            tuple((one.begins_s, one.ends_s + 1) for one in day.outcome.alarms),
        )
        for day in looked.days
    ]


def shapes(rule: MotionRule, proposal: Proposal | None) -> tuple[list[ZoneShown], LineShown | None]:
    """The zones of a rule, with those that are proposed, and its line."""
    zones = [ZoneShown(zone.corners, zone.leave_out) for zone in rule.zones]
    if proposal is not None and proposal.is_better:
        zones += [ZoneShown(zone.corners, True, True) for zone in proposal.zones if zone not in rule.zones]
    line = rule.line
    return zones, None if line is None else LineShown(line.begins, line.ends, line.direction)


def sticks(source: Source, rule: MotionRule) -> list[Stick]:
    """How high the sizes of a rule stand on the ground near, farther and far off."""
    from eager_lens.core.motion.small import HIGH, WIDE

    lens, found = source.lens, []
    for number, times in enumerate(STICKS_TIMES):
        away_m = times * lens.away_m(HIGH * 0.95)
        far = f"{figure(away_m, 2)} m away"
        for across, tall_m in ((-0.1, rule.smallest_m), (0.02, rule.largest_m)):
            x, y = lens.foot(0.0, away_m)
            share = x / WIDE + (number - 1) * 0.28 + across
            words = f"{figure(tall_m)} m" + (f", {far}" if across > 0 else "")
            found.append(Stick((share, y / HIGH), lens.focal_px * tall_m / away_m / HIGH, words))
    return found


class Moment(NamedTuple):
    """A picture (grey levels row by row, its size in pixels), what is marked on it, and a sentence about it."""

    grey: bytes
    wide: int
    high: int
    marks: Sequence[Marked]
    caption: str


def moment(source: Source, outcome: Outcome | None, rule: MotionRule, at_s: float, step: int) -> Moment:
    """The picture of a moment with who is there and what counted (step 0), or what the detector makes of it."""
    from eager_lens.core.motion.small import HIGH, WIDE
    from eager_lens.core.motion.stages import begins_at, stages_at

    if step == 0:
        picture = source.picture(at_s)
        picture = picture * min(BRIGHTEST, DARK_LEVEL / max(1.0, float(picture.mean())))
        marks, caption = _truth(source, outcome, at_s), TRUTH_LEGEND if outcome is not None else ""
    else:
        since_s = begins_at(outcome.stretches if outcome is not None else (), at_s)
        steps, reasons = stages_at(source, rule, at_s, since_s)
        picture = steps[step].picture
        marks = [Marked(_shares(one.box), one.words, not one.is_counted) for one in reasons]
        caption = steps[step].words + ("" if reasons else " Nothing moves here.")
    return Moment(picture.clip(0, 255).astype("uint8").tobytes(), WIDE, HIGH, marks, caption)


def _truth(source: Source, outcome: Outcome | None, at_s: float) -> list[Marked]:
    marks = [Marked(_shares(box), visit.kind, False) for visit, box in source.seen(at_s)]
    named: set[str] = set()
    for one in outcome.triggers if outcome is not None else ():
        if abs(one.at_s - at_s) <= SHOWN_NEAR_S and one.cause is not None:
            marks.append(Marked(_shares(one.area.box), "" if one.cause in named else one.cause, True))
            named.add(one.cause)
    return marks


def _shares(box: Any) -> tuple[float, float, float, float]:
    from eager_lens.core.motion.small import HIGH, WIDE

    return box.left / WIDE, box.top / HIGH, box.right / WIDE, box.bottom / HIGH
