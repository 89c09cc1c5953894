"""Rules on days that they were not selected on, all on the same pictures, each by a detector of its own."""

from __future__ import annotations

import math
from collections.abc import Generator, Sequence
from typing import NamedTuple

from eager_lens.core.motion.day import judged, pictures
from eager_lens.core.motion.detector import Detector
from eager_lens.core.motion.outcome import ONE_ALARM_S
from eager_lens.core.motion.small import FPS
from eager_lens.core.motion.tuning.scores import group_of
from eager_lens.core.motion.tuning.takes import GROUPS, Take
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.core.workers import Workers


class Gain(NamedTuple):
    """What a rule does on pictures that were not used to select it.

    Attributes:
        false_per_h: mean false alarms an hour. watched_s: of so many seconds.
        come, missed: how many adults, children and others came, and were missed.
    """

    false_per_h: float
    watched_s: float
    come: tuple[int, int, int]
    missed: tuple[int, int, int]

    @property
    def visits(self) -> int:
        """All who came."""
        return sum(self.come)

    @property
    def missed_share(self) -> float:
        """The share of all who came that was missed; 0 when nobody came."""
        return sum(self.missed) / self.visits if self.visits else 0.0

    def missed_of(self, group: int) -> float:
        """The share of a group that was missed; 0 when none of it came."""
        return self.missed[group] / self.come[group] if self.come[group] else 0.0


class RuleResult(NamedTuple):
    """What a rule did in a take: false alarms, and which of the visits it caught."""

    alarms: float
    caught: frozenset[int]


def rule_result_in(take: Take, rules: tuple[MotionRule, ...]) -> list[RuleResult]:
    """What rules do in a take."""
    source = take.source()
    detectors = [Detector(rule, source.lens, FPS) for rule in rules]
    which = {visit: at for at, visit in enumerate(take.visits)}
    stands_for = dict(take.stands_for)
    alarms, last_s = [0.0] * len(rules), [-math.inf] * len(rules)
    caught: list[set[int]] = [set() for _ in rules]
    for at_s, several in pictures(source, take.stretch, detectors):
        for at, (detector, areas) in enumerate(zip(detectors, several, strict=True)):
            for one in (judged(source, at_s, area) for area in detector.counting(areas)):
                if one.visit is not None:
                    if one.visit in which:
                        caught[at].add(which[one.visit])
                elif take.tells_false and one.cause is not None:
                    if at_s - last_s[at] > ONE_ALARM_S:
                        alarms[at] += stands_for.get(one.cause, 1.0)
                    last_s[at] = at_s
    return [RuleResult(alarms[at], frozenset(caught[at])) for at in range(len(rules))]


def proved(
    takes: Sequence[Take], rules: tuple[MotionRule, ...], workers: Workers
) -> Generator[float, None, tuple[Gain, ...]]:
    """What rules do in takes; yields how far it is."""
    did = yield from workers.each(rule_result_in, [(take, rules) for take in takes])
    watched_s = sum(take.watched_s for take in takes)
    gains = []
    for at in range(len(rules)):
        come, missed = [0] * len(GROUPS), [0] * len(GROUPS)
        for take, several in zip(takes, did, strict=True):
            for number, visit in enumerate(take.visits):
                group = group_of(visit)
                come[group] += 1
                missed[group] += number not in several[at].caught
        alarms = sum(several[at].alarms for several in did)
        per_h = alarms * 3600 / watched_s if watched_s else math.nan
        gains.append(Gain(per_h, watched_s, (come[0], come[1], come[2]), (missed[0], missed[1], missed[2])))
    return tuple(gains)


def tolerated(before: Gain, after: Gain, points: float) -> bool:
    """Whether of adults, children and others hardly more were missed than before: so many points, and what may be chance, a
    standard error of the difference (it is of few people)."""
    more = [after.missed[group] - before.missed[group] for group in range(len(GROUPS))]
    return all(one <= points * come + math.sqrt(max(1.0, one)) for one, come in zip(more, before.come, strict=True))
