"""Everything that moved in takes, at several sensitivities at once, as columns: what any rule would have made of it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple, get_args

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.motion.day import pictures
from eager_lens.core.motion.detector import Area, Lasting, Mask, Memory, opened, threshold_of, zone_mask
from eager_lens.core.motion.kinds import kind_of
from eager_lens.core.motion.lens import Lens, Picture
from eager_lens.core.motion.small import FPS
from eager_lens.core.motion.tuning.takes import Take
from eager_lens.core.motion.view import Cause
from eager_lens.core.values.kinds import KINDS
from eager_lens.core.values.motion_rule import MotionRule

CAUSES: tuple[Cause, ...] = get_args(Cause)

COLUMNS = np.dtype(
    [
        ("take", np.int32),
        ("at_s", np.float64),
        ("box", np.int16, 4),
        ("tall_m", np.float32),
        ("pictures", np.int16),
        ("kind", np.int8),  # -1: of no kind
        ("visit", np.int16),  # which of the take's; -1: nobody's
        ("cause", np.int8),
    ]
)

NOBODY = -1


class Sensitivities:
    """The detector at several sensitivities with one memory: that of the middle one.

    A detector of its own for each would remember a little otherwise what is under those who move; what is proposed is proved
    by detectors of their own.
    """

    def __init__(self, rule: MotionRule, sensitivities: Sequence[float], lens: Lens) -> None:
        self._least = max(1, round(rule.shortest_s * FPS))
        self._mask = zone_mask(rule)
        self._memory = Memory()
        self._thresholds = [np.float32(threshold_of(one)) for one in sensitivities]
        self._lasting = [Lasting(lens) for _ in sensitivities]
        self._middle = len(sensitivities) // 2

    def step(self, picture: Picture) -> list[list[Area]]:
        """Look at the next picture; the areas that move at each sensitivity, for as long as the rule asks."""
        change, difference = self._memory.change(picture)
        size = np.abs(difference)
        masks: list[Mask] = []
        for threshold in reversed(self._thresholds):
            over = size > threshold * self._memory.deviation
            over &= self._mask
            masks.append(opened(over))
            if not masks[-1].any():  # then nothing moves for the less sensitive either
                break
        masks += masks[-1:] * (len(self._thresholds) - len(masks))
        masks.reverse()
        self._memory.follow(change, size, masks[self._middle])
        return [lasting.areas(mask, self._least) for lasting, mask in zip(self._lasting, masks, strict=True)]


class Moved(NamedTuple):
    """What moved in a take: a table (``COLUMNS``) for each sensitivity, in the order of time."""

    tables: tuple[NDArray[np.void], ...]


def moved_in(take: Take, number: int, rule: MotionRule, sensitivities: tuple[float, ...]) -> Moved:
    """Everything that moved in a take for as long as the rule asks, of whatever size."""
    source = take.source()
    detector = Sensitivities(rule, sensitivities, source.lens)
    which = {visit: at for at, visit in enumerate(take.visits)}
    rows: list[list[tuple[object, ...]]] = [[] for _ in sensitivities]
    for at_s, (several,) in pictures(source, take.stretch, [detector]):
        for some, areas in zip(rows, several, strict=True):
            for area in areas:
                blame = source.blame(at_s, area.box)
                visit = NOBODY if blame.visit is None else which.get(blame.visit, NOBODY)
                if blame.visit is not None and visit == NOBODY:
                    continue  # somebody whom the rule is not there for: neither caught nor a false alarm
                kind = kind_of(area.tall_m, area.wide_m)
                kind_at = NOBODY if kind is None else KINDS.index(kind)
                cause_at = NOBODY if blame.cause is None else CAUSES.index(blame.cause)
                some.append((number, at_s, area.box, area.tall_m, area.pictures, kind_at, visit, cause_at))
    return Moved(tuple(np.array(some, dtype=COLUMNS) for some in rows))
