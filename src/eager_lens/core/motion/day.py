"""A day in front of a rule: what was there, what was caught, missed and falsely told, by cause; and the clips of it.

A quick look takes stretches spread over the day for the false alarms, and a sample of visits for the misses, and tells its
own sampling error; the whole day takes every picture.
"""

from __future__ import annotations

import math
from collections.abc import Generator, Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from eager_lens.core.motion.detector import Area, Detector
from eager_lens.core.motion.rule import MovementRule
from eager_lens.core.motion.scene import HIGH, WIDE, Box, Scene, Visit
from eager_lens.core.motion.view import Cause, View

FPS = 5.0

WARM_UP_S = 12.0
"""A detector looks so long before what it says counts."""

ONE_ALARM_S = 10.0
"""False triggers nearer than this are one alarm."""

NEAR_PX = 4.0

QUICK_STRETCHES, QUICK_STRETCH_S, QUICK_VISITS = 48, 30.0, 60


class Trigger(NamedTuple):
    """A moment at which an area counted: when, the area, whose it is (None: nobody's), and else the cause."""

    at_s: float
    area: Area
    visit: Visit | None
    cause: Cause | None


class Alarm(NamedTuple):
    """False triggers that are one alarm: from, to, cause, and where it began."""

    begins_s: float
    ends_s: float
    cause: Cause
    box: Box


@dataclass(frozen=True)
class Outcome:
    """What a rule did.

    Attributes:
        watched_s: seconds looked at for false alarms.
        visits, caught: visits that count and were looked at, and those of them that were caught.
        alarms: false alarms. triggers: all moments at which something counted.
        stretches: what was looked at, as from and to.
    """

    watched_s: float
    visits: tuple[Visit, ...]
    caught: frozenset[Visit]
    alarms: tuple[Alarm, ...]
    triggers: tuple[Trigger, ...]
    stretches: tuple[tuple[float, float], ...]

    @property
    def missed(self) -> tuple[Visit, ...]:
        """Visits that count and were not caught."""
        return tuple(visit for visit in self.visits if visit not in self.caught)

    @property
    def missed_share(self) -> float:
        """Share of the visits that was missed; 0 when nobody came."""
        return len(self.missed) / len(self.visits) if self.visits else 0.0

    @property
    def missed_error(self) -> float:
        """Standard error of the missed share (Wilson's centre, so that it is not 0 at the ends)."""
        n = len(self.visits)
        share = (len(self.missed) + 2) / (n + 4)
        return math.sqrt(share * (1 - share) / (n + 4))

    @property
    def false_per_h(self) -> float:
        """False alarms an hour."""
        return len(self.alarms) * 3600 / self.watched_s if self.watched_s else 0.0

    @property
    def false_error(self) -> float:
        """Standard error of the false alarms an hour, from how stretches differ."""
        if len(self.stretches) < 2:
            return math.sqrt(max(1, len(self.alarms))) * 3600 / max(1.0, self.watched_s)
        counts = np.zeros(len(self.stretches))
        for alarm in self.alarms:
            for at, (begins, ends) in enumerate(self.stretches):
                if begins <= alarm.begins_s < ends:
                    counts[at] += 1
                    break
        whole_h = self.watched_s / 3600
        return float(counts.std(ddof=1) * math.sqrt(len(counts)) / whole_h)

    def by_cause(self) -> dict[Cause, int]:
        """False alarms by what caused them, most first."""
        times: dict[Cause, int] = {}
        for alarm in self.alarms:
            times[alarm.cause] = times.get(alarm.cause, 0) + 1
        return dict(sorted(times.items(), key=lambda one: -one[1]))

    def clips(self, pre_s: float, post_s: float) -> list[tuple[float, float]]:
        """The recorded clips, with seconds before and after; those that touch run together."""
        found: list[tuple[float, float]] = []
        for trigger in self.triggers:
            begins, ends = trigger.at_s - pre_s, trigger.at_s + 1 / FPS + post_s
            if found and begins <= found[-1][1]:
                found[-1] = (found[-1][0], max(found[-1][1], ends))
            else:
                found.append((begins, ends))
        return found


def whole_day(
    view: View, rule: MovementRule, seed: int, hours: tuple[float, float] = (0.0, 24.0)
) -> Generator[float, None, Outcome]:
    """Every picture of a day, or of some of its hours; yields how far it is."""
    scene = Scene(view, seed)
    stretch = (hours[0] * 3600, hours[1] * 3600)
    triggers: list[Trigger] = []
    steps = _looked(scene, Detector(rule, scene.lens, FPS), stretch)
    whole = max(1.0, stretch[1] - stretch[0])
    for at, (at_s, found) in enumerate(steps):
        triggers += found
        if at % 1000 == 0:
            yield (at_s - stretch[0]) / whole
    return outcome_of(triggers, [stretch], [visit for visit in scene.visits if _is_seen(visit, stretch)])


def quick_look(view: View, rule: MovementRule, seed: int) -> Generator[float, None, Outcome]:
    """A sample of a day; yields how far it is."""
    scene = Scene(view, seed)
    stretches, visits = sample_of(scene, seed)
    triggers: list[Trigger] = []
    every = [*stretches, *((visit.begins_s, visit.ends_s) for visit in visits)]
    of_visits: list[Trigger] = []
    for at, stretch in enumerate(every):
        found = [one for _, some in _looked(scene, Detector(rule, scene.lens, FPS), stretch) for one in some]
        (triggers if at < len(stretches) else of_visits).extend(found)
        yield (at + 1) / len(every)
    hit = frozenset(one.visit for one in (*triggers, *of_visits) if one.visit is not None)
    base = outcome_of(triggers, stretches, visits)
    return Outcome(base.watched_s, tuple(visits), hit & frozenset(visits), base.alarms, base.triggers, base.stretches)


def sample_of(scene: Scene, seed: int) -> tuple[list[tuple[float, float]], list[Visit]]:
    """Stretches spread evenly over a day, each at a random moment of its part, and a random sample of visits that count."""
    chance = np.random.default_rng(seed + 77)
    part = 86_400 / QUICK_STRETCHES
    begins = [at * part + float(chance.uniform(WARM_UP_S, part - QUICK_STRETCH_S)) for at in range(QUICK_STRETCHES)]
    counting = [visit for visit in scene.visits if visit.counts and visit.begins_s > WARM_UP_S]
    if len(counting) > QUICK_VISITS:
        chosen = chance.choice(len(counting), QUICK_VISITS, replace=False)
        counting = [counting[at] for at in sorted(chosen)]
    return [(one, one + QUICK_STRETCH_S) for one in begins], counting


def _looked(
    scene: Scene, detector: Detector, stretch: tuple[float, float]
) -> Generator[tuple[float, list[Trigger]], None, None]:
    """Every picture of a stretch and what counted in it; the detector looks a while before."""
    begins, ends = stretch
    for at in range(-round(min(WARM_UP_S, begins) * FPS), round((ends - begins) * FPS)):
        at_s = begins + at / FPS
        areas = detector.counting(detector.step(scene.picture(at_s)))
        if at >= 0:
            yield at_s, [judged(scene, at_s, area) for area in areas]


def judged(scene: Scene, at_s: float, area: Area) -> Trigger:
    """Whose an area is: a visit's, or nobody's and then what caused it."""
    for visit, box in scene.active(at_s):
        if _touch(area.box, box):
            return Trigger(at_s, area, visit, None) if visit.counts else Trigger(at_s, area, None, "small animal")
    for one in scene.causes(at_s):
        if one.cause != "insect" and _touch(area.box, Box(*one.box)):
            return Trigger(at_s, area, None, one.cause)
        if one.cause == "insect":
            return Trigger(at_s, area, None, "insect")
    for left, top, right, bottom in scene.view.foliage:
        if _touch(area.box, Box(left * WIDE, top * HIGH, right * WIDE, bottom * HIGH)):
            return Trigger(at_s, area, None, "foliage")
    weather = scene.view.weather
    cause: Cause = "rain" if weather.rain else "shake" if weather.shake_px else "noise"
    return Trigger(at_s, area, None, cause)


def _touch(one: Box, other: Box) -> bool:
    return (
        one.left < other.right + NEAR_PX
        and one.right > other.left - NEAR_PX
        and one.top < other.bottom + NEAR_PX
        and one.bottom > other.top - NEAR_PX
    )


def _is_seen(visit: Visit, stretch: tuple[float, float]) -> bool:
    """Whether a visit counts and is in the picture within a stretch."""
    return visit.counts and visit.begins_s < stretch[1] and visit.ends_s > stretch[0]


def outcome_of(
    triggers: Sequence[Trigger], stretches: Sequence[tuple[float, float]], visits: Iterable[Visit]
) -> Outcome:
    """What triggers come to."""
    alarms: list[Alarm] = []
    for one in triggers:
        if one.visit is not None or one.cause is None:
            continue
        if alarms and one.at_s - alarms[-1].ends_s <= ONE_ALARM_S:
            alarms[-1] = alarms[-1]._replace(ends_s=one.at_s)
        else:
            alarms.append(Alarm(one.at_s, one.at_s, one.cause, one.area.box))
    counted = tuple(visits)
    caught = frozenset(one.visit for one in triggers if one.visit is not None) & frozenset(counted)
    watched_s = sum(ends - begins for begins, ends in stretches)
    return Outcome(watched_s, counted, caught, tuple(alarms), tuple(triggers), tuple(stretches))
