"""What is looked at to judge rules: stretches of days for false alarms, and people who walk in one after the other."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from eager_lens.core.motion.conditions import Condition, conditions
from eager_lens.core.motion.day import WARM_UP_S, Sample, wanted
from eager_lens.core.motion.looks import drawn
from eager_lens.core.motion.outcome import Stretch
from eager_lens.core.motion.scene import DAY_S, DrawnScene
from eager_lens.core.motion.small import FPS
from eager_lens.core.motion.source import Source, Visit
from eager_lens.core.motion.view import Cause, Passage, View
from eager_lens.core.values.motion_rule import MotionRule

PAUSE_S = 3.0
"""Between two that walk in one after the other nobody is in sight for so long."""

AT_A_TIME = 9

EACH_OTHER = 9
"""Cyclists, cars and trams are one in this many visits; a rule is for people first."""

EVENTS: tuple[tuple[str, Cause, float], ...] = (
    ("insects_per_h", "insect", 60.0),
    ("headlights_per_h", "headlight", 40.0),
    ("lamp_switches_per_h", "light", 8.0),
)
"""What comes now and then is let come so often in stretches for false alarms, and each counts for as much less."""

ANIMALS_PER_H = 10.0
"""So do animals."""

MOST_TIMES = 8.0

GROUPS = ("adults", "children", "others")
ADULTS, CHILDREN, OTHERS = range(3)


class DrawnDay(NamedTuple):
    """A day of a drawn scene in so many words: what another process needs to draw it; ``visits`` in place of its own."""

    view: View
    condition: Condition
    visits: tuple[Visit, ...] | None = None

    def source(self) -> DrawnScene:
        """Its pictures."""
        scene = _scene(self.view, self.condition)
        return scene if self.visits is None else scene.with_visits(self.visits)


@lru_cache(maxsize=8)
def _scene(view: View, condition: Condition) -> DrawnScene:
    return condition.scene(view)


class Take(NamedTuple):
    """A stretch that is looked at in one go.

    Attributes:
        place: where its pictures come from. stretch: from and to, in s.
        visits: who is to be caught in it. tells_false: whether false alarms in it count.
        stands_for: of some causes, for how many one false alarm stands; of others for one.
    """

    place: DrawnDay | Source
    stretch: Stretch
    visits: tuple[Visit, ...]
    tells_false: bool
    stands_for: tuple[tuple[Cause, float], ...] = ()

    def source(self) -> Source:
        """Its pictures."""
        return self.place.source() if isinstance(self.place, DrawnDay) else self.place

    @property
    def watched_s(self) -> float:
        """For how long false alarms are watched for in it."""
        return self.stretch[1] - self.stretch[0] if self.tells_false else 0.0


class Plan(NamedTuple):
    """How much is looked at: days, stretches of a day and how long each is, and how many people walk in on a day."""

    days: int
    stretches: int
    stretch_s: float
    visits: int


def takes_of(view: View, rule: MotionRule, seed: int, plan: Plan) -> list[Take]:
    """Takes of several days of a view in several weathers: as many children as adults among the people who walk in."""
    found: list[Take] = []
    chance = np.random.default_rng((seed, 3))
    for condition in conditions(view, seed, plan.days):
        found += _quiet_takes(view, condition, plan, chance)
        found += _walked_in(view, rule, condition, plan.visits, chance)
    return found


def takes_of_sample(sample: Sample, rule: MotionRule) -> list[Take]:
    """A sample of a clip as takes: its marks are who is to be caught."""
    visits = wanted(sample.visits, rule, sample.source)
    return [Take(sample.source, stretch, visits, True) for stretch in sample.stretches]


def _quiet_takes(view: View, condition: Condition, plan: Plan, chance: np.random.Generator) -> Iterator[Take]:
    """Stretches spread over a day, each at a random moment of its part; what comes now and then comes oftener."""
    weather, stands_for = condition.weather, []
    for field, cause, least_per_h in EVENTS:
        per_h = getattr(weather, field)
        if 0 < per_h < least_per_h:
            times = min(MOST_TIMES, least_per_h / per_h)
            weather = weather.model_copy(update={field: per_h * times})
            stands_for.append((cause, 1 / times))
    view, times = _with_more_animals(view)
    if times > 1:
        stands_for.append(("small animal", 1 / times))
    day = DrawnDay(view, condition._replace(weather=weather))
    part = DAY_S / plan.stretches
    for at in range(plan.stretches):
        begins = at * part + float(chance.uniform(WARM_UP_S, part - plan.stretch_s))
        yield Take(day, (begins, begins + plan.stretch_s), (), True, tuple(stands_for))


def _with_more_animals(view: View) -> tuple[View, float]:
    """The view with more of those who come and are not to be caught, and how many times more."""
    often = max((max(one.per_h_by_day, one.per_h_by_night) for one in view.passages if not one.counts), default=0.0)
    times = min(MOST_TIMES, max(1.0, ANIMALS_PER_H / often)) if often else 1.0

    def more(one: Passage) -> Passage:
        if one.counts:
            return one
        return one._replace(per_h_by_day=times * one.per_h_by_day, per_h_by_night=times * one.per_h_by_night)

    return view._replace(passages=tuple(more(one) for one in view.passages)), times


def _walked_in(
    view: View, rule: MotionRule, condition: Condition, many: int, chance: np.random.Generator
) -> Iterator[Take]:
    """Those that come on a day, of the rule's kinds, but one after the other: nothing is looked at while nobody is there.

    At the hours of the day's own visits, along their ways.
    """
    scene = _scene(view, condition)
    counting = wanted([one for one in scene.visits if one.counts and one.begins_s > WARM_UP_S], rule, scene)
    people = [one for one in counting if one.kind == "person"]
    others = [one for one in counting if one.kind != "person"]
    if not counting:
        return
    for at in range(0, many, AT_A_TIME):
        # All at about the hour of one that came.
        some = min(AT_A_TIME, many - at)
        around = float(counting[int(chance.integers(len(counting)))].begins_s)
        mixed = [others if others and (not people or n % EACH_OTHER == 0) else people for n in range(some)]
        each, child = [], bool(chance.integers(2))
        for several in mixed:
            near = sorted(several, key=lambda one: abs(one.begins_s - around))[: max(3, some)]
            one = near[int(chance.integers(len(near)))]
            if one.kind == "person":
                child = not child
            each.append(one.there()._replace(looks=drawn(one.kind, chance, is_child=child)))
        visits, ends_s = _in_turn(scene, each, around)
        yield Take(DrawnDay(view, condition, visits), (around, min(ends_s, DAY_S)), visits, False)


def _in_turn(scene: DrawnScene, visits: Sequence[Visit], begins_s: float) -> tuple[tuple[Visit, ...], float]:
    """Visits moved so that each is in sight when the one before has been out of sight for a moment; and when all are over."""
    moved, free_s = [], begins_s
    for one in visits:
        seen = [at_s for at_s in np.arange(one.begins_s, one.ends_s, 1 / FPS) if scene.box_of(one, at_s) is not None]
        first, last = (float(seen[0]), float(seen[-1])) if seen else (one.begins_s, one.ends_s)
        later = free_s - first
        moved.append(one._replace(begins_s=one.begins_s + later, ends_s=one.ends_s + later))
        free_s = last + later + PAUSE_S
    return tuple(moved), free_s
