"""Tuning a rule: misses against false alarms over its settings, zones to leave out, and the gain on days not seen.

Several detectors look at the same pictures, one for each sensitivity; sizes and zones are then tried on what they found.
What is proposed is run once more as it is, on days that the choice has not seen.
"""

from __future__ import annotations

from collections.abc import Generator, Sequence
from typing import NamedTuple

import numpy as np
from scipy import ndimage

from eager_lens.core.motion.day import FPS, WARM_UP_S, Outcome, Trigger, judged, outcome_of, quick_look, sample_of
from eager_lens.core.motion.detector import Area, Detector, zone_mask
from eager_lens.core.motion.rule import MovementRule, Zone
from eager_lens.core.motion.scene import HIGH, WIDE, Scene, Visit
from eager_lens.core.motion.view import View

SENSITIVITIES = (10.0, 25.0, 40.0, 55.0)
SMALLEST_M = (0.3, 0.6, 0.9, 1.2)

TOLERATED_MISSES = 0.05
"""A proposal may miss this share, or what is missed now if that is more."""

WORTH_PER_H, WORTH_SHARE = 0.5, 0.7
"""From so many false alarms an hour on a change is worth it, if it leaves no more than this share of them."""

CELL_PX = 10

UNSEEN_DAYS = 2


class Point(NamedTuple):
    """A setting and what it does: false alarms an hour, missed share."""

    sensitivity: float
    smallest_m: float
    left_out: bool
    false_per_h: float
    missed_share: float


class Gain(NamedTuple):
    """What a rule does on days that were not used to choose it: mean false alarms an hour and missed share."""

    false_per_h: float
    missed_share: float


class Proposal(NamedTuple):
    """A tuned rule: the points that it was chosen from, the zones to leave out, and both rules on unseen days."""

    rule: MovementRule
    points: tuple[Point, ...]
    zones: tuple[Zone, ...]
    before: Gain
    after: Gain

    @property
    def is_better(self) -> bool:
        """Whether it is worth taking: clearly fewer false alarms on unseen days, with misses that are tolerated."""
        tolerated = max(TOLERATED_MISSES, self.before.missed_share)
        fewer = (
            self.before.false_per_h >= WORTH_PER_H and self.after.false_per_h <= WORTH_SHARE * self.before.false_per_h
        )
        return fewer and self.after.missed_share <= tolerated


class _Found(NamedTuple):
    """All areas of one sensitivity: those of the stretches, and those of the sampled visits."""

    stretches: list[Trigger]
    visits: list[Trigger]


def tuned(view: View, rule: MovementRule, seed: int) -> Generator[float, None, Proposal]:
    """A proposal for a rule in a view; yields how far it is (0 to 1)."""
    scene = Scene(view, seed)
    stretches, visits = sample_of(scene, seed)
    found = yield from _all_found(scene, rule, stretches, visits)
    zones = leave_out(_nearest(found, rule.sensitivity), rule)
    points: list[Point] = []
    for sensitivity, some in found.items():
        for smallest in SMALLEST_M:
            if smallest < rule.largest_m:
                for left_out in (False, True) if zones else (False,):
                    tried = _tried(some, rule, smallest, zones if left_out else (), stretches, visits)
                    points.append(Point(sensitivity, smallest, left_out, tried.false_per_h, tried.missed_share))
    yield 0.7
    now = _tried(_nearest(found, rule.sensitivity), rule, rule.smallest_m, (), stretches, visits)
    best = _best(points, rule, now.missed_share)
    changed = {"sensitivity": best.sensitivity, "smallest_m": best.smallest_m}
    proposed = rule.model_copy(update={**changed, "zones": (*rule.zones, *(zones if best.left_out else ()))})
    before, after = yield from _compared(view, rule, proposed, seed)
    return Proposal(proposed, tuple(points), zones if best.left_out else (), before, after)


def _all_found(
    scene: Scene, rule: MovementRule, stretches: Sequence[tuple[float, float]], visits: Sequence[Visit]
) -> Generator[float, None, dict[float, _Found]]:
    """Everything that moves, by sensitivity; whatever its size, for the time that the rule asks."""
    mask = zone_mask(rule)
    found = {sensitivity: _Found([], []) for sensitivity in SENSITIVITIES}
    every = [*stretches, *((visit.begins_s, visit.ends_s) for visit in visits)]
    least = max(1, round(rule.shortest_s * FPS))
    for number, (begins, ends) in enumerate(every):
        detectors = [
            (found[one], Detector(rule.model_copy(update={"sensitivity": one}), scene.lens, FPS, mask))
            for one in SENSITIVITIES
        ]
        for at in range(-round(min(WARM_UP_S, begins) * FPS), round((ends - begins) * FPS)):
            picture = scene.picture(begins + at / FPS)
            for some, detector in detectors:
                areas = detector.step(picture)
                if at >= 0:
                    kept = [judged(scene, begins + at / FPS, one) for one in areas if one.pictures >= least]
                    (some.stretches if number < len(stretches) else some.visits).extend(kept)
        yield 0.65 * (number + 1) / len(every)
    return found


def _nearest(found: dict[float, _Found], sensitivity: float) -> _Found:
    return found[min(found, key=lambda one: abs(one - sensitivity))]


def _tried(
    some: _Found,
    rule: MovementRule,
    smallest_m: float,
    zones: Sequence[Zone],
    stretches: Sequence[tuple[float, float]],
    visits: Sequence[Visit],
) -> Outcome:
    """What a rule of this smallest size, with these zones left out, would have made of what was found."""
    boxes = [_box_of(zone) for zone in zones]

    def counts(one: Trigger) -> bool:
        x, y = _middle(one.area)
        inside = any(left <= x <= right and top <= y <= bottom for left, top, right, bottom in boxes)
        return smallest_m <= one.area.tall_m <= rule.largest_m and not inside

    base = outcome_of([one for one in some.stretches if counts(one)], stretches, visits)
    hit = frozenset(one.visit for one in (*some.stretches, *some.visits) if one.visit is not None and counts(one))
    return Outcome(base.watched_s, tuple(visits), hit & frozenset(visits), base.alarms, base.triggers, base.stretches)


def _middle(area: Area) -> tuple[float, float]:
    box = area.box
    return (box.left + box.right) / 2 / WIDE, (box.top + box.bottom) / 2 / HIGH


def _box_of(zone: Zone) -> tuple[float, float, float, float]:
    xs, ys = [x for x, _ in zone.corners], [y for _, y in zone.corners]
    return min(xs), min(ys), max(xs), max(ys)


def _best(points: Sequence[Point], rule: MovementRule, missed_now: float) -> Point:
    """Of those that miss little enough the one with the fewest false alarms, and of several the one nearest to the rule as
    it is; where all miss too much, the one that misses least."""

    def far(one: Point) -> float:
        return abs(one.sensitivity - rule.sensitivity) / 100 + abs(one.smallest_m - rule.smallest_m)

    allowed = [one for one in points if one.missed_share <= max(TOLERATED_MISSES, missed_now)]
    if not allowed:
        return min(points, key=lambda one: (one.missed_share, one.false_per_h, far(one)))
    return min(allowed, key=lambda one: (one.false_per_h, one.missed_share, one.left_out, far(one)))


def leave_out(some: _Found, rule: MovementRule) -> tuple[Zone, ...]:
    """Rectangles from which false alarms come and visits do not."""
    rows, columns = HIGH // CELL_PX, WIDE // CELL_PX
    false, true = np.zeros((rows, columns)), np.zeros((rows, columns))
    for one in (*some.stretches, *some.visits):
        if rule.smallest_m <= one.area.tall_m <= rule.largest_m:
            x, y = _middle(one.area)
            cell = min(rows - 1, int(y * rows)), min(columns - 1, int(x * columns))
            (true if one.visit is not None else false)[cell] += 1
    total, visits = false.sum(), max(1.0, true.sum())
    if total < 10:
        return ()
    noisy = (false >= max(2.0, 0.01 * total)) & (true <= 0.01 * visits)
    labels, many = ndimage.label(noisy, structure=np.ones((3, 3), dtype=int))
    zones = []
    for place in ndimage.find_objects(labels, many):
        ys, xs = place
        if false[place].sum() >= 0.15 * total and true[place].sum() <= 0.03 * visits:
            left, right = xs.start / columns, xs.stop / columns
            top, bottom = ys.start / rows, ys.stop / rows
            corners = ((left, top), (right, top), (right, bottom), (left, bottom))
            zones.append(Zone(corners=corners, leave_out=True))
    return tuple(zones[:3])


def _compared(
    view: View, rule: MovementRule, proposed: MovementRule, seed: int
) -> Generator[float, None, tuple[Gain, Gain]]:
    """Both rules on days that neither was chosen on."""
    gains = []
    for which, one in enumerate((rule, proposed)):
        outcomes = []
        for day in range(UNSEEN_DAYS):
            steps = quick_look(view, one, seed + 1000 + day)
            while True:
                try:
                    share = next(steps)
                except StopIteration as end:
                    outcomes.append(end.value)
                    break
                yield 0.7 + 0.3 * (which * UNSEEN_DAYS + day + share) / (2 * UNSEEN_DAYS)
        visits = sum(len(one.visits) for one in outcomes)
        missed = sum(len(one.missed) for one in outcomes)
        false = sum(one.false_per_h for one in outcomes) / UNSEEN_DAYS
        gains.append(Gain(false, missed / visits if visits else 0.0))
    return gains[0], gains[1]
