"""What a search for a better rule comes to: settings with what they do, and the one that is proposed with its proof."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from eager_lens.core.motion.tuning.exclusions import left_out_share
from eager_lens.core.motion.tuning.other_days import Gain, tolerated
from eager_lens.core.motion.tuning.selecting import TOLERATED_SHARE
from eager_lens.core.values.motion_rule import MotionRule, Zone

WORTH_PER_H, WORTH_SHARE = 0.3, 0.8
"""From so many false alarms an hour on a change is worth it, if it leaves no more than this share of them."""

TOO_MANY_MISSED = 0.05


class TuningPoint(NamedTuple):
    """A rule and what it does: false alarms an hour, missed share; and whether the parts proposed are left out in it."""

    rule: MotionRule
    left_out: bool
    false_per_h: float
    missed_share: float


class Proposal(NamedTuple):
    """A tuned rule.

    Attributes:
        rule: as proposed; the rule as it is where nothing was better.
        now: the rule as it is, on the days that the proposal was selected on.
        points: the settings tried on those days. zones: the parts that are proposed to be left out.
        before, after: both rules on pictures not seen before; None before they are proved.
    """

    rule: MotionRule
    now: TuningPoint
    points: tuple[TuningPoint, ...]
    zones: tuple[Zone, ...]
    before: Gain | None = None
    after: Gain | None = None

    @property
    def best(self) -> TuningPoint:
        """The proposed rule, on the days that it was selected on."""
        return next(one for one in self.points if one.rule == self.rule)

    @property
    def left_out_share(self) -> float:
        """The share of the picture that the proposed zones take."""
        return left_out_share(self.zones)

    @property
    def is_refuted(self) -> bool:
        """Whether there is nothing to propose, or other days spoke against it."""
        return self.rule == self.now.rule or (self.after is not None and not self.is_better)

    @property
    def is_better(self) -> bool:
        """Whether it is worth taking: clearly fewer false alarms on unseen days, with misses that are tolerated; or clearly
        fewer misses where too many were missed, without more false alarms."""
        before, after = self.before, self.after
        if before is None or after is None or self.rule == self.now.rule:
            return False
        if not tolerated(before, after, TOLERATED_SHARE):
            return False
        fewer = after.false_per_h <= WORTH_SHARE * before.false_per_h
        if before.missed_share > TOO_MANY_MISSED and after.missed_share <= WORTH_SHARE * before.missed_share:
            return after.false_per_h <= before.false_per_h
        return before.false_per_h >= WORTH_PER_H and fewer


def front_of(points: Sequence[TuningPoint], left_out: bool) -> list[TuningPoint]:
    """The settings that none of the others beats in both: fewer and fewer misses with more and more false alarms."""
    front: list[TuningPoint] = []
    for one in sorted(
        (one for one in points if one.left_out == left_out), key=lambda one: (one.false_per_h, one.missed_share)
    ):
        if not front or one.missed_share < front[-1].missed_share:
            front.append(one)
    return front
