"""What a rule did: visits caught and missed, false alarms by cause, and the clips of it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from eager_lens.core.motion.detector import Area
from eager_lens.core.motion.lens import GroundBox
from eager_lens.core.motion.small import FPS
from eager_lens.core.motion.source import Visit
from eager_lens.core.motion.view import Cause

ONE_ALARM_S = 10.0
"""False triggers nearer than this are one alarm."""

Stretch = tuple[float, float]


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
    box: GroundBox


@dataclass(frozen=True)
class Outcome:
    """What a rule did.

    Attributes:
        visits, caught: visits that are to be caught and were looked at, and those of them that were caught.
        alarms: false alarms. triggers: all moments of the stretches at which something counted.
        of_visits: moments at which something counted while a visit was watched on its own.
        stretches: what was looked at, as from and to.
        visits_per_h: how many such visits come in an hour of the whole time, where they were watched on their own.
    """

    visits: tuple[Visit, ...]
    caught: frozenset[Visit]
    alarms: tuple[Alarm, ...]
    triggers: tuple[Trigger, ...]
    stretches: tuple[Stretch, ...]
    of_visits: tuple[Trigger, ...] = ()
    visits_per_h: float = 0.0

    @property
    def watched_s(self) -> float:
        """Seconds looked at for false alarms."""
        return sum(ends - begins for begins, ends in self.stretches)

    @property
    def is_whole(self) -> bool:
        """Whether every picture was looked at, so that clips and gaps are those of the whole time."""
        return len(self.stretches) == 1

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
        """Standard error of the false alarms an hour, from how stretches differ; with none, that of a single one."""
        if len(self.stretches) < 2 or not self.alarms:
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

    def clips(self, pre_s: float, post_s: float) -> list[Stretch]:
        """The recorded clips, with seconds before and after; those that touch run together."""
        return clips_of(self.triggers, pre_s, post_s)


def clips_of(triggers: Iterable[Trigger], pre_s: float, post_s: float) -> list[Stretch]:
    """Clips of triggers in the order of time."""
    found: list[Stretch] = []
    for trigger in triggers:
        begins, ends = trigger.at_s - pre_s, trigger.at_s + 1 / FPS + post_s
        if found and begins <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], ends))
        else:
            found.append((begins, ends))
    return found


def outcome_of(
    triggers: Sequence[Trigger],
    stretches: Sequence[Stretch],
    visits: Iterable[Visit],
    of_visits: Sequence[Trigger] = (),
    visits_per_h: float = 0.0,
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
    hit = {one.visit for several in (triggers, of_visits) for one in several if one.visit is not None}
    caught = frozenset(visit for visit in counted if visit in hit)
    return Outcome(counted, caught, tuple(alarms), tuple(triggers), tuple(stretches), tuple(of_visits), visits_per_h)
