"""A documented, generic motion detector: running background, threshold by noise, opening, connected areas, persistence.

What it looks at, picture by picture: the difference to a background that follows slowly, less the change of the whole
picture's brightness; where that is larger than so many times the noise there; only where several neighbours agree; joined to
areas; of a size and kind that counts at their place on the ground; for long enough; and, where the rule has a line, with feet
that crossed it.
"""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from eager_lens.core.motion.kinds import kind_of
from eager_lens.core.motion.lens import GroundBox, Lens, Picture
from eager_lens.core.motion.raster import rows_looked_at
from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.motion.tracks import Tracks
from eager_lens.core.values.motion_rule import MotionRule

FOLLOWS, FOLLOWS_UNDER = 0.03, 0.004
"""Shares by which the background takes over a new picture, and under what moves."""

NOISE_FOLLOWS = 0.01

LEARNS = 60
"""So many pictures a detector learns the place from before its memory is that of a running one."""

LEAST_NOISE = 1.2

LEAST_PIXELS = 4

NEIGHBOURS = 5
"""How many of the nine pixels around one have to agree."""

CARRIED_PX = 3
"""What moves carries the count of its pictures on from so many pixels around."""

ONE = np.int16(1)

MIDDLE = (HIGH // 6) * (-(-WIDE // 6)) // 2
"""The median of every sixth point of every sixth row tells by how much the whole picture became brighter."""

Mask = NDArray[np.bool_]


class Area(NamedTuple):
    """A connected area that moves: where, how tall and wide in metres if it stands on the ground, and for how many
    pictures."""

    box: GroundBox
    tall_m: float
    wide_m: float
    pictures: int


def threshold_of(sensitivity: float) -> float:
    """How many times the noise a change has to be: 11 at sensitivity 0, 2.2 at 100, falling evenly on a logarithm."""
    return float(11 * (2.2 / 11) ** (sensitivity / 100))


class Memory:
    """What usually is at each point, and how much it varies there: in the picture's grey levels.

    Attributes:
        background, deviation: both as they are now. seen: pictures so far.
    """

    def __init__(self) -> None:
        self.seen = 0
        self.background: Picture = np.zeros((HIGH, WIDE), dtype=np.float32)
        self.deviation: Picture = np.full((HIGH, WIDE), 3.0, dtype=np.float32)

    def change(self, picture: Picture) -> tuple[Picture, Picture]:
        """The next picture less what usually is there; and the same less the change of the whole picture's brightness. Of
        the first picture nothing is known: both are nothing."""
        self.seen += 1
        if self.seen == 1:
            self.background = picture.copy()
        change = picture - self.background
        some = change[::6, ::6].ravel()
        some.partition(MIDDLE)
        return change, change - some[MIDDLE]

    def follow(self, change: Picture, size: Picture, moving: Mask) -> None:
        """Take over what was there, slowly, and hardly where something moves. Uses ``change`` and ``size`` up."""
        if self.seen == 1:
            return
        # In place: this is most of the work of a trial. A running mean at first, so that the place is known after some
        # seconds instead of some minutes.
        first, learns = 1.0 / self.seen, self.seen <= LEARNS
        follows = np.float32(max(FOLLOWS, first))
        under = np.float32(max(FOLLOWS_UNDER, first) if learns else FOLLOWS_UNDER)
        change *= np.where(moving, under, follows) if moving.any() else follows
        self.background += change
        np.minimum(size, (8 if learns else 3) * self.deviation, out=size)
        # 1.25 times the mean deviation is the standard deviation of normal noise.
        size *= np.float32(1.25)
        size -= self.deviation
        size *= np.float32(max(NOISE_FOLLOWS, first))
        self.deviation += size
        np.maximum(self.deviation, np.float32(LEAST_NOISE), out=self.deviation)


class Lasting:
    """For how long what moves has moved: areas, picture by picture."""

    def __init__(self, lens: Lens) -> None:
        self._lens = lens
        self._pictures = np.zeros((HIGH, WIDE), dtype=np.int16)

    def areas(self, moving: Mask, least: int = 1) -> list[Area]:
        """The areas of the next picture that have moved for so many pictures, of whatever size."""
        rows, columns = np.flatnonzero(moving.any(axis=1)), np.flatnonzero(moving.any(axis=0))
        if not rows.size:
            self._pictures[:] = 0
            return []
        # Only where something moves, with the points around it from which a count is carried on.
        top, left = max(0, int(rows[0]) - CARRIED_PX), max(0, int(columns[0]) - CARRIED_PX)
        here = np.s_[top : rows[-1] + 1 + CARRIED_PX, left : columns[-1] + 1 + CARRIED_PX]
        moving, before = moving[here], self._pictures[here]
        if before.any():
            before = ndimage.maximum_filter(before, size=2 * CARRIED_PX + 1)
        lasting = (before + ONE) * moving
        self._pictures[:] = 0
        self._pictures[here] = lasting
        if lasting.max() < least:
            return []
        labels, many = ndimage.label(moving, structure=np.ones((3, 3), dtype=int))
        areas = []
        for at, place in enumerate(ndimage.find_objects(labels, many), 1):
            part = labels[place] == at
            if np.count_nonzero(part) < LEAST_PIXELS:
                continue
            down, across = place
            box = GroundBox(left + across.start, top + down.start, left + across.stop, top + down.stop)
            m_per_px = self._lens.away_m(box.bottom) / self._lens.focal_px
            tall_m, wide_m = (box.bottom - box.top) * m_per_px, (box.right - box.left) * m_per_px
            pictures = int(lasting[place][part].max())
            if pictures >= least:
                areas.append(Area(box, tall_m, wide_m, pictures))
        return areas


class Detector:
    """The detector's memory. One is used for one stretch of pictures in order.

    Attributes:
        threshold: how many times the noise a change has to be.
        background, difference, over, moving: what it looked at on the last picture, step by step.
    """

    def __init__(self, rule: MotionRule, lens: Lens, fps: float) -> None:
        self.rule = rule
        self.threshold = np.float32(threshold_of(rule.sensitivity))
        self._mask = zone_mask(rule)
        self._least = max(1, round(rule.shortest_s * fps))
        self._memory, self._lasting = Memory(), Lasting(lens)
        self._tracks = Tracks(rule.line, fps) if rule.line is not None else None
        self.difference: Picture = np.zeros((HIGH, WIDE), dtype=np.float32)
        self.over: Mask = np.zeros((HIGH, WIDE), dtype=bool)
        self.moving: Mask = self.over

    @property
    def background(self) -> Picture:
        """What usually is there."""
        return self._memory.background

    def step(self, picture: Picture) -> list[Area]:
        """Look at the next picture; the areas that move, of whatever size and for however long."""
        change, self.difference = self._memory.change(picture)
        size = np.abs(self.difference)
        self.over = size > self.threshold * self._memory.deviation
        self.over &= self._mask
        self.moving = opened(self.over)
        self._memory.follow(change, size, self.moving)
        return self._lasting.areas(self.moving)

    def counting(self, areas: list[Area]) -> list[Area]:
        """Those of the areas that the rule lets count; to be asked once for each picture."""
        counted = [one for one in areas if counts(one, self.rule) and one.pictures >= self._least]
        if self._tracks is None:
            return counted
        crossed = self._tracks.crossed([one.box for one in counted])
        return list(itertools.compress(counted, crossed))


def counts(area: Area, rule: MotionRule) -> bool:
    """Whether an area is of a size and kind that the rule lets count."""
    if not rule.smallest_m <= area.tall_m <= rule.largest_m:
        return False
    return not rule.kinds or kind_of(area.tall_m, area.wide_m) in rule.kinds


def opened(moving: Mask) -> Mask:
    """Only where enough of the nine pixels around agree."""
    if not moving.any():
        return moving
    padded = np.zeros((HIGH + 2, WIDE + 2), dtype=np.uint8)
    padded[1:-1, 1:-1] = moving
    across = padded[:, :-2] + padded[:, 1:-1] + padded[:, 2:]
    around = across[:-2] + across[1:-1] + across[2:]
    agreed: Mask = moving & (around >= NEIGHBOURS)
    return agreed


def zone_mask(rule: MotionRule) -> Mask:
    """Where a rule looks, as a mask of the picture."""
    octets = np.array([list(row.to_bytes(WIDE // 8, "little")) for row in rows_looked_at(rule)], dtype=np.uint8)
    return np.unpackbits(octets, axis=1, bitorder="little").astype(bool)
