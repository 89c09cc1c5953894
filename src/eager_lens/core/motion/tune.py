"""A better rule: sensitivities and sizes tried on one day, exclusion zones where false alarms come from and nobody walks, and
the best of them proved on pictures that it was not selected on."""

from __future__ import annotations

import itertools
import math
from collections.abc import Generator, Sequence
from typing import NamedTuple

import numpy as np
from scipy import ndimage

from eager_lens.core.motion.day import Sample, judged, looked_at, pictures, sample_of, wanted
from eager_lens.core.motion.detector import Detector, counts, zone_mask
from eager_lens.core.motion.lens import HIGH, WIDE, GroundBox
from eager_lens.core.motion.outcome import Outcome, Trigger, outcome_of
from eager_lens.core.motion.rule import MotionRule, Zone
from eager_lens.core.motion.scene import DrawnScene
from eager_lens.core.motion.source import FPS, Visit
from eager_lens.core.motion.tracks import Tracks
from eager_lens.core.motion.view import View
from eager_lens.core.progress import part_of

SENSITIVITIES = (10.0, 25.0, 40.0, 55.0, 70.0)
SMALLEST_M = (0.2, 0.4, 0.6, 0.9, 1.2, 1.5)
LARGEST_M = (2.3, 3.0, 4.0)
SHORTEST_S = (0.8, 1.2)
"""Sizes and times that are tried besides those of the rule."""

TOLERATED_MISSES = 0.05
"""A proposal may miss this share, or what is missed now if that is more."""

WORTH_PER_H, WORTH_SHARE = 0.3, 0.8
"""From so many false alarms an hour on a change is worth it, if it leaves no more than this share of them."""

FAR = {"sensitivity": 100.0, "smallest_m": 1.0, "largest_m": 8.0, "shortest_s": 2.0}
"""Between rules that do the same the nearest is taken: differences that weigh as one."""

CELL_PX = 10

LEAST_FALSE = 10
"""With fewer false triggers than this no part is proposed to be left out."""

QUIET_CELL, QUIET_ZONE = 0.02, 0.12
"""Shares of all moments of visits that a cell and a zone may hold. Whether visits are missed for it is tried afterwards."""

STILL_SEEN = 0.3
"""An area still counts when so much of it is left to be looked at."""

UNSEEN_DAYS = 2


class TuningPoint(NamedTuple):
    """A rule and what it does: false alarms an hour, missed share; and whether the parts proposed are left out in it."""

    rule: MotionRule
    left_out: bool
    false_per_h: float
    missed_share: float


class Gain(NamedTuple):
    """What a rule does on pictures that were not used to select it: mean false alarms an hour and missed share, and how
    many visits and seconds that is of."""

    false_per_h: float
    missed_share: float
    visits: int
    watched_s: float


class Proposal(NamedTuple):
    """A tuned rule.

    Attributes:
        rule: as proposed.
        now: the rule as it is, on the day that it was selected on.
        points: the settings tried on that day. zones: the parts that are proposed to be left out.
        before, after: both rules on pictures not seen before.
    """

    rule: MotionRule
    now: TuningPoint
    points: tuple[TuningPoint, ...]
    zones: tuple[Zone, ...]
    before: Gain
    after: Gain

    @property
    def is_better(self) -> bool:
        """Whether it is worth taking: clearly fewer false alarms on unseen days, with misses that are tolerated; or clearly
        fewer misses where too many were missed, without more false alarms."""
        tolerated = max(TOLERATED_MISSES, self.before.missed_share)
        false, less_false = self.before.false_per_h, self.after.false_per_h
        if (
            self.before.missed_share > TOLERATED_MISSES
            and self.after.missed_share <= WORTH_SHARE * self.before.missed_share
        ):
            return less_false <= false
        return false >= WORTH_PER_H and less_false <= WORTH_SHARE * false and self.after.missed_share <= tolerated


def tuned(view: View, rule: MotionRule, seed: int) -> Generator[float, None, Proposal]:
    """A proposal for a rule in a drawn scene, proved on other days of it; yields how far it is."""
    unseen = (seed + 1000 + day for day in range(UNSEEN_DAYS))
    select = sample_of(DrawnScene(view, seed), seed)
    return (yield from proposal(select, [sample_of(DrawnScene(view, one), one) for one in unseen], rule))


def proposal(select: Sample, unseen: Sequence[Sample], rule: MotionRule) -> Generator[float, None, Proposal]:
    """A proposal selected on one sample and proved on others; yields how far it is.

    Sensitivity, smallest size and parts left out are tried in all their pairings; largest size and shortest time on the
    best of those.
    """
    visits = wanted(select.visits, rule, select.source)
    found = yield from part_of(_all_found(select, rule), 0.0, 0.6)

    def tried(changes: dict[str, object], left_out: bool) -> TuningPoint:
        one = rule.model_copy(update=changes)
        did = _outcome(_nearest(found, one), one, select, visits)
        return TuningPoint(one, left_out, did.false_per_h, did.missed_share)

    now = tried({}, False)
    zones = leave_out(_nearest(found, rule), rule)
    points = [
        tried({"sensitivity": sensitivity, "smallest_m": smallest_m, "zones": (*rule.zones, *out)}, bool(out))
        for sensitivity in found
        for smallest_m in sorted({*SMALLEST_M, rule.smallest_m})
        for out in ((), zones)[: 1 + bool(zones)]
        if smallest_m < rule.largest_m
    ]
    best = selected_of(points, now)
    finer = [
        tried({**best.rule.__dict__, "largest_m": largest_m, "shortest_s": shortest_s}, best.left_out)
        for largest_m in (rule.largest_m, *(one for one in LARGEST_M if best.rule.smallest_m < one < rule.largest_m))
        for shortest_s in (rule.shortest_s, *(one for one in SHORTEST_S if one > rule.shortest_s))
    ]
    best = selected_of([best, *finer], now)
    before = yield from part_of(_proved(unseen, rule), 0.6, 0.8)
    after = yield from part_of(_proved(unseen, best.rule), 0.8, 1.0)
    return Proposal(best.rule, now, (*points, *finer), zones if best.left_out else (), before, after)


class _Moved(NamedTuple):
    """What moved on one picture for long enough, of whatever size: which of the watched it was in, and whose it was."""

    watched: int
    triggers: list[Trigger]


def _all_found(sample: Sample, rule: MotionRule) -> Generator[float, None, dict[float, list[_Moved]]]:
    """Everything that moves, by sensitivity."""
    mask, least = zone_mask(rule), max(1, round(rule.shortest_s * FPS))
    found: dict[float, list[_Moved]] = {sensitivity: [] for sensitivity in SENSITIVITIES}
    every = sample.watched
    for number, (stretch, _) in enumerate(every):
        detectors = [
            Detector(rule.model_copy(update={"sensitivity": one}), sample.source.lens, FPS, mask) for one in found
        ]
        for at_s, several in pictures(sample.source, stretch, detectors):
            for some, areas in zip(found.values(), several, strict=True):
                kept = [judged(sample.source, at_s, area) for area in areas if area.pictures >= least]
                if kept:
                    some.append(_Moved(number, kept))
        yield (number + 1) / len(every)
    return found


def _nearest(found: dict[float, list[_Moved]], rule: MotionRule) -> list[_Moved]:
    return found[min(found, key=lambda one: abs(one - rule.sensitivity))]


def _outcome(found: Sequence[_Moved], rule: MotionRule, sample: Sample, visits: Sequence[Visit]) -> Outcome:
    """What a rule of these sizes and this time, with these parts left out, would have made of what was found."""
    least = max(1, round(rule.shortest_s * FPS))
    looked = _Looked(rule)
    of_stretches: list[Trigger] = []
    of_visits: list[Trigger] = []
    tracks, before = None, -1
    for moved in found:
        if rule.line is not None and moved.watched != before:
            tracks, before = Tracks(rule.line, FPS), moved.watched
        kept = [
            one
            for one in moved.triggers
            if one.area.pictures >= least and counts(one.area, rule) and looked.at(one.area.box) >= STILL_SEEN
        ]
        if tracks is not None:
            kept = list(itertools.compress(kept, tracks.crossed([one.area.box for one in kept])))
        (of_stretches if moved.watched < len(sample.stretches) else of_visits).extend(kept)
    return outcome_of(of_stretches, sample.stretches, visits, of_visits)


class _Looked:
    """How much of a box a rule's zones leave to be looked at; by sums over the mask, since it is asked very often."""

    def __init__(self, rule: MotionRule) -> None:
        sums = np.zeros((HIGH + 1, WIDE + 1))
        sums[1:, 1:] = zone_mask(rule).cumsum(axis=0).cumsum(axis=1)
        self._sums = sums.tolist()

    def at(self, box: GroundBox) -> float:
        left, top, right, bottom = (int(edge) for edge in box)
        upper, lower = self._sums[top], self._sums[bottom]
        share: float = (lower[right] - lower[left] - upper[right] + upper[left]) / ((right - left) * (bottom - top))
        return share


def selected_of(points: Sequence[TuningPoint], now: TuningPoint) -> TuningPoint:
    """Of those that miss little enough the one with the fewest false alarms, and of several the one nearest to the rule as
    it is; where all miss too much, the one that misses least."""

    def far(one: TuningPoint) -> float:
        return math.fsum(abs(getattr(one.rule, field) - getattr(now.rule, field)) / much for field, much in FAR.items())

    allowed = [one for one in points if one.missed_share <= max(TOLERATED_MISSES, now.missed_share)]
    if not allowed or now.missed_share > TOLERATED_MISSES:
        quieter = [one for one in points if one.false_per_h <= now.false_per_h] or points
        return min(quieter, key=lambda one: (one.missed_share, one.false_per_h, far(one)))
    return min(allowed, key=lambda one: (one.false_per_h, one.missed_share, one.left_out, far(one)))


def front_of(points: Sequence[TuningPoint], left_out: bool) -> list[TuningPoint]:
    """The settings that none of the others beats in both: fewer and fewer misses with more and more false alarms."""
    front: list[TuningPoint] = []
    for one in sorted(
        (one for one in points if one.left_out == left_out), key=lambda one: (one.false_per_h, one.missed_share)
    ):
        if not front or one.missed_share < front[-1].missed_share:
            front.append(one)
    return front


def leave_out(found: Sequence[_Moved], rule: MotionRule) -> tuple[Zone, ...]:
    """Rectangles from which false alarms come and visits hardly do: where cells of the picture are noisy, the boxes of the
    areas there, all but their outermost tenth."""
    rows, columns = HIGH // CELL_PX, WIDE // CELL_PX
    alarm_count, visit_count = np.zeros((rows, columns)), np.zeros((rows, columns))
    boxes: list[tuple[int, int, GroundBox]] = []
    for moved in found:
        for one in moved.triggers:
            if counts(one.area, rule):
                x, y = one.area.box.middle
                cell = min(rows - 1, int(y // CELL_PX)), min(columns - 1, int(x // CELL_PX))
                (visit_count if one.visit is not None else alarm_count)[cell] += 1
                if one.visit is None:
                    boxes.append((*cell, one.area.box))
    total, visits = alarm_count.sum(), max(1.0, visit_count.sum())
    if total < LEAST_FALSE:
        return ()
    noisy = (alarm_count >= max(2.0, 0.01 * total)) & (visit_count <= QUIET_CELL * visits)
    labels, many = ndimage.label(noisy, structure=np.ones((3, 3), dtype=int))
    zones = []
    for at in range(1, many + 1):
        inside = labels == at
        if alarm_count[inside].sum() >= 0.15 * total and visit_count[inside].sum() <= QUIET_ZONE * visits:
            here = np.array([box for row, column, box in boxes if inside[row, column]])
            left, top = np.quantile(here[:, :2], 0.1, axis=0) / (WIDE, HIGH)
            right, bottom = np.quantile(here[:, 2:], 0.9, axis=0) / (WIDE, HIGH)
            corners = tuple(
                (float(x), float(y)) for x, y in ((left, top), (right, top), (right, bottom), (left, bottom))
            )
            zones.append(Zone(corners=corners, leave_out=True))
    return tuple(zones[:3])


def _proved(unseen: Sequence[Sample], rule: MotionRule) -> Generator[float, None, Gain]:
    """A rule on pictures that it was not selected on."""
    outcomes = []
    for at, sample in enumerate(unseen):
        outcomes.append((yield from part_of(looked_at(sample, rule), at / len(unseen), (at + 1) / len(unseen))))
    watched_s = sum(one.watched_s for one in outcomes)
    visits, missed = sum(len(one.visits) for one in outcomes), sum(len(one.missed) for one in outcomes)
    false = sum(len(one.alarms) for one in outcomes)
    return Gain(
        false * 3600 / watched_s if watched_s else math.nan, missed / visits if visits else 0.0, visits, watched_s
    )
