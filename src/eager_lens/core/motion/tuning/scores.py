"""What rules would have made of everything that moved: false alarms an hour, and who was missed."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.motion.detector import zone_mask
from eager_lens.core.motion.lens import GroundBox
from eager_lens.core.motion.outcome import ONE_ALARM_S
from eager_lens.core.motion.small import FPS, HIGH, WIDE
from eager_lens.core.motion.source import Visit
from eager_lens.core.motion.tracks import KEEPS_S, TELLS_S, Tracks
from eager_lens.core.motion.tuning.moved import CAUSES, COLUMNS, Moved
from eager_lens.core.motion.tuning.takes import ADULTS, CHILDREN, GROUPS, OTHERS, Take
from eager_lens.core.values.kinds import KINDS
from eager_lens.core.values.motion_rule import MotionRule

STILL_SEEN = 0.3
"""An area still counts when so much of it is left to be looked at; somebody's is taken to be so much less tall, too."""

FORGOTTEN = round((KEEPS_S + TELLS_S) * FPS) + 1
"""Frames without an area after which a track ends."""

Table = NDArray[np.void]


class Score(NamedTuple):
    """False alarms an hour, and how many were missed of adults, children, and others."""

    false_per_h: float
    missed: tuple[int, int, int]


class Evidence:
    """What moved in takes, ready to be judged by rule after rule.

    Attributes:
        sensitivities: those that were looked at. come: how many came of adults, children and others.
        watched_s: for how long false alarms were watched for.
    """

    def __init__(self, takes: Sequence[Take], moved: Sequence[Moved], sensitivities: Sequence[float]) -> None:
        self.sensitivities = tuple(sensitivities)
        self.tables: list[Table] = [
            np.concatenate([one.tables[at] for one in moved]) if moved else np.zeros(0, dtype=COLUMNS)
            for at in range(len(sensitivities))
        ]
        self.watched_s = sum(one.watched_s for one in takes)
        self._first = np.cumsum([0, *(len(one.visits) for one in takes)])
        self._group = np.array([group_of(visit) for one in takes for visit in one.visits], dtype=np.int64)
        self.come = tuple(int(one) for one in np.bincount(self._group, minlength=len(GROUPS)))
        self._tells_false = np.array([one.tells_false for one in takes], dtype=bool)
        self._stands_for = np.ones((len(takes), len(CAUSES) + 1))
        for at, one in enumerate(takes):
            for cause, times in one.stands_for:
                self._stands_for[at, CAUSES.index(cause)] = times

    def at(self, sensitivity: float) -> int:
        """Which of the tables is nearest to a sensitivity."""
        return min(range(len(self.sensitivities)), key=lambda one: abs(self.sensitivities[one] - sensitivity))

    def false(self, table: Table) -> NDArray[np.bool_]:
        """Which rows of a table are false alarms."""
        false_events: NDArray[np.bool_] = (table["visit"] < 0) & self._tells_false[table["take"]]
        return false_events

    def counted(self, table: Table, rule: MotionRule, share: NDArray[np.float32]) -> NDArray[np.bool_]:
        """Which rows of a table a rule lets count, of whose boxes such a share is looked at."""
        least = max(1, round(rule.shortest_s * FPS))
        # An area that a zone cuts is smaller afterwards. Of somebody's the worse is taken, of false alarms as well.
        tall_m = np.where(table["visit"] >= 0, table["tall_m"] * share, table["tall_m"])
        kept = (table["pictures"] >= least) & (tall_m >= rule.smallest_m) & (table["tall_m"] <= rule.largest_m)
        kept &= share >= STILL_SEEN
        if rule.kinds:
            kept &= np.isin(table["kind"], [KINDS.index(kind) for kind in rule.kinds])
        if rule.line is not None:
            kept = _crossed(table, kept, rule)
        return kept

    def score(self, table: Table, kept: NDArray[np.bool_]) -> Score:
        """What it comes to when these rows count."""
        caught = np.zeros(len(self._group), dtype=bool)
        seen = table[kept & (table["visit"] >= 0)]
        caught[self._first[seen["take"]] + seen["visit"]] = True
        missed = np.bincount(self._group[~caught], minlength=len(GROUPS))
        false_events = table[kept & self.false(table)]
        alarms = 0.0
        if len(false_events):
            begins = np.ones(len(false_events), dtype=bool)
            begins[1:] = (np.diff(false_events["take"]) != 0) | (np.diff(false_events["at_s"]) > ONE_ALARM_S)
            alarms = float(self._stands_for[false_events["take"][begins], false_events["cause"][begins]].sum())
        per_h = alarms * 3600 / self.watched_s if self.watched_s else 0.0
        return Score(per_h, (int(missed[ADULTS]), int(missed[CHILDREN]), int(missed[OTHERS])))

    def of_rule(self, rule: MotionRule, table_at: int | None = None, share: NDArray[np.float32] | None = None) -> Score:
        """What a rule comes to, at the nearest sensitivity."""
        table = self.tables[self.at(rule.sensitivity) if table_at is None else table_at]
        looked = looked_share(table, rule) if share is None else share
        return self.score(table, self.counted(table, rule, looked))


def group_of(visit: Visit) -> int:
    """Adults, children, or others; of a marked person nobody knows which, and it is taken for an adult."""
    if visit.kind != "person":
        return OTHERS
    return CHILDREN if visit.looks is not None and visit.looks.is_child else ADULTS


def looked_share(table: Table, rule: MotionRule) -> NDArray[np.float32]:
    """How much of each row's box the rule's zones leave to be looked at."""
    if not rule.zones:
        return np.ones(len(table), dtype=np.float32)
    sums = np.zeros((HIGH + 1, WIDE + 1))
    sums[1:, 1:] = zone_mask(rule).cumsum(axis=0).cumsum(axis=1)
    left, top, right, bottom = table["box"].T.astype(np.intp)
    inside = sums[bottom, right] - sums[bottom, left] - sums[top, right] + sums[top, left]
    share: NDArray[np.float32] = (inside / ((right - left) * (bottom - top))).astype(np.float32)
    return share


def _crossed(table: Table, kept: NDArray[np.bool_], rule: MotionRule) -> NDArray[np.bool_]:
    """Of the rows that count those whose feet crossed the rule's line."""
    assert rule.line is not None
    crossed = np.zeros(len(table), dtype=bool)
    rows = np.flatnonzero(kept)
    tracks, take, last_s = Tracks(rule.line, FPS), -1, 0.0
    for (number, at_s), several in itertools.groupby(rows, key=lambda at: (table["take"][at], table["at_s"][at])):
        if number != take:
            tracks, take, last_s = Tracks(rule.line, FPS), number, at_s
        # Pictures on which nothing counts let tracks grow old, too.
        for _ in range(min(FORGOTTEN, round((at_s - last_s) * FPS) - 1)):
            tracks.crossed([])
        last_s = at_s
        at = list(several)
        boxes = [GroundBox(*(float(edge) for edge in table["box"][one])) for one in at]
        crossed[at] = tracks.crossed(boxes)
    return crossed
