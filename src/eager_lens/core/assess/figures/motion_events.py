"""How often a camera's motion rule starts a recording: events, false alarms by the kind of rule, and the doubt in both."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

from eager_lens.core.job.model import Camera
from eager_lens.core.reference.false_alarms import RuleClass, false_alarms
from eager_lens.core.sizing.nodes import NODES, WEIGHTS
from eager_lens.core.sizing.rate_spread import Z_OF_RANGE
from eager_lens.core.values.motion_rule import MotionRule

OFTEN_PER_H = 20.0
"""False alarms an hour above which the rule decides how many days are kept."""


class MotionEvents(NamedTuple):
    """What starts a recording on motion.

    Attributes:
        per_h: starts an hour, events and false alarms together. seconds: how long one lasts on the mean, without the seconds
            before and after.
        false_per_h: the false alarms among them. times: by so many times it may be more or less, in 8 of 10 cases.
    """

    per_h: float
    seconds: float
    false_per_h: float
    times: float


def rule_class_of(camera: Camera) -> RuleClass:
    """What kind of rule is planned: one that tells people and vehicles apart, pixel motion that was tuned to its view, or
    pixel motion as it comes out of the box."""
    rule = camera.motion_rule
    if rule is not None and rule.kinds:
        return "detection"
    return "untuned" if rule is None or rule == _OUT_OF_THE_BOX else "tuned"


_OUT_OF_THE_BOX = MotionRule()


def motion_events_of(camera: Camera) -> MotionEvents:
    """What starts recordings on motion of a camera. Events that were counted, or tried with its rule, hold the rule's false alarms
    already, and are taken as they are: how they change from day to day stands elsewhere (``Activity``)."""
    if camera.events_from:
        return MotionEvents(camera.events_per_h, camera.event_s, 0.0, 1.0)
    return motion_events_with(camera, rule_class_of(camera))


def motion_events_with(camera: Camera, rule: RuleClass) -> MotionEvents:
    """The same with a rule of another kind."""
    false = false_alarms(camera.scene, rule)
    per_h = camera.events_per_h + false.per_h
    seconds = (camera.events_per_h * camera.event_s + false.per_h * false.seconds) / per_h if per_h else 0.0
    return MotionEvents(per_h, seconds, false.per_h, false.times)


@lru_cache(maxsize=20_000)
def is_often_false(camera: Camera) -> bool:
    """Whether pixel motion is planned as it comes out of the box, where foliage, light and insects start it again and again."""
    if camera.events_from or rule_class_of(camera) != "untuned":
        return False
    return false_alarms(camera.scene, "untuned").per_h >= OFTEN_PER_H


def covered_share(per_h: float, clip_s: float, times: float) -> float:
    """The share of the time that clips cover, over all that starts an hour may be: log-normal, 8 of 10 cases within so many
    times the figure either way."""
    rho, sigma = per_h * clip_s / 3600, math.log(times) / Z_OF_RANGE
    if sigma == 0:
        return -math.expm1(-rho)
    return sum(-weight * math.expm1(-rho * math.exp(sigma * node)) for node, weight in zip(NODES, WEIGHTS, strict=True))


def covered_in_case(per_h: float, clip_s: float, times: float) -> float:
    """The same where so many times the starts come."""
    return -math.expm1(-per_h * times * clip_s / 3600)
