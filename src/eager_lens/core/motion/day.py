"""A rule over a day of a drawn scene, a windy week of it, or a recorded clip.

A quick look takes stretches spread over the day for the false alarms, and a sample of visits for the misses, and tells its
own sampling error; the whole day takes every picture.
"""

from __future__ import annotations

from collections.abc import Generator, Sequence
from typing import NamedTuple, Protocol, TypeVar

import numpy as np

from eager_lens.core.motion.detector import Area, Detector
from eager_lens.core.motion.lens import Picture
from eager_lens.core.motion.outcome import Outcome, Stretch, Trigger, outcome_of
from eager_lens.core.motion.scene import DAY_S, THURSDAY, DrawnScene
from eager_lens.core.motion.small import FPS, HIGH, WIDE
from eager_lens.core.motion.source import Source, Visit
from eager_lens.core.motion.view import View
from eager_lens.core.progress import part_of
from eager_lens.core.values.motion_rule import MotionRule

F = TypeVar("F", covariant=True)

WARM_UP_S = 12.0
"""A detector looks so long before what it says counts."""

QUICK_STRETCHES, QUICK_STRETCH_S, QUICK_VISITS = 48, 30.0, 60

TOLD_EACH_S = 200.0
"""Progress of a long stretch is told each time so much of it was looked at."""


class Sample(NamedTuple):
    """What is looked at of a source.

    Attributes:
        stretches: for false alarms, in the order of time.
        visits: who is to be caught.
        apart: whether the visits lie outside the stretches and are watched on their own.
        visits_per_h: how many come in an hour of the whole time, where they are watched on their own.
    """

    source: Source
    stretches: tuple[Stretch, ...]
    visits: tuple[Visit, ...]
    apart: bool
    visits_per_h: float = 0.0

    @property
    def watched(self) -> list[tuple[Stretch, bool]]:
        """All that is looked at, and whether it is a visit on its own."""
        each = [(stretch, False) for stretch in self.stretches]
        return each + [((one.begins_s, one.ends_s), True) for one in self.visits if self.apart]


def sample_of(scene: DrawnScene, seed: int) -> Sample:
    """Stretches spread evenly over a day, each at a random moment of its part, and a random sample of visits that count."""
    chance = np.random.default_rng(seed + 77)
    part = DAY_S / QUICK_STRETCHES
    begins = [at * part + float(chance.uniform(WARM_UP_S, part - QUICK_STRETCH_S)) for at in range(QUICK_STRETCHES)]
    counting = [visit for visit in scene.visits if visit.counts and visit.begins_s > WARM_UP_S]
    per_h = len(counting) * 3600 / DAY_S
    if len(counting) > QUICK_VISITS:
        selected = chance.choice(len(counting), QUICK_VISITS, replace=False)
        counting = [counting[at] for at in sorted(selected)]
    return Sample(scene, tuple((one, one + QUICK_STRETCH_S) for one in begins), tuple(counting), True, per_h)


def whole_of(source: Source, stretch: Stretch | None = None) -> Sample:
    """Every picture of a stretch, or of all there is, and who comes in it."""
    begins, ends = stretch = stretch or (0.0, source.duration_s)
    visits = [one for one in source.visits if one.counts and one.begins_s < ends and one.ends_s > begins]
    return Sample(source, (stretch,), tuple(visits), False)


def wanted(visits: Sequence[Visit], rule: MotionRule, source: Source) -> tuple[Visit, ...]:
    """Those of the visits that a rule is there for: of its kinds, and over its line the way that counts.

    Of a marked visit nobody knows the way, so that a line takes none of them from the list. Zones take nobody from it: who
    walks outside them is missed, and somebody should know it.
    """
    kept = []
    for visit in visits:
        if rule.kinds and visit.kind not in rule.kinds:
            continue
        if rule.line is not None and visit.start != visit.end:
            feet = [source.lens.foot(*visit.at(at_s)) for at_s in (visit.begins_s, visit.ends_s)]
            first, last = ((x / WIDE, y / HIGH) for x, y in feet)
            if not rule.line.is_crossed_by(first, last):
                continue
        kept.append(visit)
    return tuple(kept)


def looked_at(sample: Sample, rule: MotionRule) -> Generator[float, None, Outcome]:
    """What a rule does with a sample; yields how far it is."""
    triggers: list[Trigger] = []
    of_visits: list[Trigger] = []
    every = sample.watched
    for number, (stretch, is_visit) in enumerate(every):
        (detector,) = detectors = [Detector(rule, sample.source.lens, FPS)]
        told_s = stretch[0]
        for at_s, (areas,) in pictures(sample.source, stretch, detectors):
            found = of_visits if is_visit else triggers
            found += [judged(sample.source, at_s, area) for area in detector.counting(areas)]
            if at_s - told_s >= TOLD_EACH_S:
                told_s = at_s
                yield (number + (at_s - stretch[0]) / (stretch[1] - stretch[0])) / len(every)
        yield (number + 1) / len(every)
    visits = wanted(sample.visits, rule, sample.source)
    per_h = sample.visits_per_h * len(visits) / max(1, len(sample.visits))
    return outcome_of(triggers, sample.stretches, visits, of_visits, per_h)


def judged(source: Source, at_s: float, area: Area) -> Trigger:
    """An area that counted, and whose it was."""
    blame = source.blame(at_s, area.box)
    return Trigger(at_s, area, blame.visit, blame.cause)


class Steps(Protocol[F]):
    """What looks at picture after picture: a detector, or several at once."""

    def step(self, picture: Picture) -> F:
        """Look at the next picture; what it found there."""


def pictures(
    source: Source, stretch: Stretch, detectors: Sequence[Steps[F]]
) -> Generator[tuple[float, list[F]], None, None]:
    """Every picture of a stretch looked at by each detector, which look a while before; moments and what moves then."""
    begins, ends = stretch
    for at in range(-round(min(WARM_UP_S, begins) * FPS), round((ends - begins) * FPS)):
        picture = source.picture(begins + at / FPS)
        found = [detector.step(picture) for detector in detectors]
        if at >= 0:
            yield begins + at / FPS, found


def quick_look(view: View, rule: MotionRule, seed: int, weekday: int = THURSDAY) -> Generator[float, None, Outcome]:
    """A sample of a day; yields how far it is."""
    scene = DrawnScene(view, seed, weekday)
    return (yield from looked_at(sample_of(scene, seed), rule))


def whole_day(
    view: View, rule: MotionRule, seed: int, hours: tuple[float, float] = (0.0, 24.0), weekday: int = THURSDAY
) -> Generator[float, None, Outcome]:
    """Every picture of a day, or of some of its hours; yields how far it is."""
    scene = DrawnScene(view, seed, weekday)
    return (yield from looked_at(whole_of(scene, (hours[0] * 3600, hours[1] * 3600)), rule))


class DayOfWeek(NamedTuple):
    """A day of a windy week: Monday is 0, its seed and mean wind, and what the rule did."""

    weekday: int
    seed: int
    wind_m_per_s: float
    outcome: Outcome

    def scene(self, view: View) -> DrawnScene:
        """The day's pictures again."""
        return DrawnScene(_windy(view, self.wind_m_per_s), self.seed, self.weekday)


def windy_week(view: View, rule: MotionRule, seed: int) -> Generator[float, None, tuple[DayOfWeek, ...]]:
    """A quick look at each day of a week; the wind varies about the view's own as wind does (Rayleigh, of the same mean)."""
    winds = np.random.default_rng(seed + 55).rayleigh(view.weather.wind_m_per_s * (2 / np.pi) ** 0.5, 7)
    days = []
    for weekday, wind in enumerate(winds):
        steps = quick_look(_windy(view, float(wind)), rule, seed + weekday, weekday)
        outcome = yield from part_of(steps, weekday / 7, (weekday + 1) / 7)
        days.append(DayOfWeek(weekday, seed + weekday, float(wind), outcome))
    return tuple(days)


def _windy(view: View, wind_m_per_s: float) -> View:
    return view._replace(weather=view.weather.model_copy(update={"wind_m_per_s": wind_m_per_s}))
