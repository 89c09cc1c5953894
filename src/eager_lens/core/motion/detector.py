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
from eager_lens.core.motion.lens import HIGH, WIDE, GroundBox, Lens, Picture
from eager_lens.core.motion.rule import Corner, MotionRule
from eager_lens.core.motion.tracks import Tracks

FOLLOWS, FOLLOWS_UNDER = 0.03, 0.004
"""Shares by which the background takes over a new picture, and under what moves."""

NOISE_FOLLOWS = 0.01

LEARNS = 60
"""So many pictures a detector learns the place from before its memory is that of a running one."""

LEAST_NOISE = 1.2

LEAST_PIXELS = 4

NEIGHBOURS = 5
"""Of the nine pixels around one, so many have to agree."""

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


class Detector:
    """The detector's memory. One is used for one stretch of pictures in order.

    Attributes:
        threshold: how many times the noise a change has to be.
        background, difference, over, moving: what it looked at on the last picture, step by step.
    """

    def __init__(self, rule: MotionRule, lens: Lens, fps: float, looked_at: Mask | None = None) -> None:
        self.rule, self._lens = rule, lens
        self.threshold = np.float32(threshold_of(rule.sensitivity))
        self._mask = zone_mask(rule) if looked_at is None else looked_at
        self._least = max(1, round(rule.shortest_s * fps))
        self._deviation = np.full((HIGH, WIDE), 3.0, dtype=np.float32)
        self._lasting = np.zeros((HIGH, WIDE), dtype=np.int16)
        self._tracks = Tracks(rule.line, fps) if rule.line is not None else None
        self.seen = 0
        self.background: Picture = np.zeros((HIGH, WIDE), dtype=np.float32)
        self.difference: Picture = np.zeros((HIGH, WIDE), dtype=np.float32)
        self.over: Mask = np.zeros((HIGH, WIDE), dtype=bool)
        self.moving: Mask = self.over

    def step(self, picture: Picture) -> list[Area]:
        """Look at the next picture; the areas that move, of whatever size and for however long."""
        self.seen += 1
        if self.seen == 1:
            self.background = picture.copy()
            return []
        difference = picture - self.background
        difference -= np.partition(difference[::6, ::6], MIDDLE, axis=None)[MIDDLE]
        size = np.abs(difference)
        over = size > self.threshold * self._deviation
        over &= self._mask
        moving = _opened(over) if over.any() else over
        self.difference, self.over, self.moving = difference, over, moving
        # A running mean at first, so that the place is known after some seconds instead of some minutes.
        first = 1.0 / self.seen
        under = max(FOLLOWS_UNDER, first) if self.seen <= LEARNS else FOLLOWS_UNDER
        follows = np.where(moving, np.float32(under), np.float32(max(FOLLOWS, first)))
        self.background += follows * (picture - self.background)
        np.minimum(size, (8 if self.seen <= LEARNS else 3) * self._deviation, out=size)
        # 1.25 times the mean deviation is the standard deviation of normal noise.
        self._deviation += np.float32(max(NOISE_FOLLOWS, first)) * (1.25 * size - self._deviation)
        np.maximum(self._deviation, np.float32(LEAST_NOISE), out=self._deviation)
        return self._areas(moving)

    def _areas(self, moving: Mask) -> list[Area]:
        if not moving.any():
            self._lasting[:] = 0
            return []
        near = ndimage.maximum_filter(self._lasting, size=7) if self._lasting.any() else self._lasting
        self._lasting = np.where(moving, near + 1, 0).astype(np.int16)
        labels, many = ndimage.label(moving, structure=np.ones((3, 3), dtype=int))
        areas = []
        for at, place in enumerate(ndimage.find_objects(labels, many), 1):
            rows, columns = place
            part = labels[place] == at
            if part.sum() < LEAST_PIXELS:
                continue
            box = GroundBox(columns.start, rows.start, columns.stop, rows.stop)
            m_per_px = self._lens.away_m(box.bottom) / self._lens.focal_px
            tall_m, wide_m = (box.bottom - box.top) * m_per_px, (box.right - box.left) * m_per_px
            areas.append(Area(box, tall_m, wide_m, int(self._lasting[place][part].max())))
        return areas

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


def _opened(moving: Mask) -> Mask:
    """Only where enough of the nine pixels around agree."""
    padded = np.zeros((HIGH + 2, WIDE + 2), dtype=np.uint8)
    padded[1:-1, 1:-1] = moving
    across = padded[:, :-2] + padded[:, 1:-1] + padded[:, 2:]
    around = across[:-2] + across[1:-1] + across[2:]
    opened: Mask = moving & (around >= NEIGHBOURS)
    return opened


def zone_mask(rule: MotionRule) -> Mask:
    """Where a rule looks, as a mask of the picture."""
    looked = [zone for zone in rule.zones if not zone.leave_out]
    mask: Mask = np.full((HIGH, WIDE), not looked)
    for zone in looked:
        mask |= _inside(zone.corners)
    for zone in rule.zones:
        if zone.leave_out:
            mask &= ~_inside(zone.corners)
    return mask


def _inside(corners: tuple[Corner, ...]) -> Mask:
    """Which pixels lie inside a polygon, by the even-odd rule at their middles."""
    xs = (np.arange(WIDE) + 0.5) / WIDE
    ys = ((np.arange(HIGH) + 0.5) / HIGH)[:, None]
    inside: Mask = np.zeros((HIGH, WIDE), dtype=bool)
    for (x1, y1), (x2, y2) in zip(corners, (*corners[1:], corners[0]), strict=True):
        if y1 != y2:
            straddles = (y1 > ys) != (y2 > ys)
            inside ^= straddles & (xs[None, :] < (x2 - x1) * (ys - y1) / (y2 - y1) + x1)
    return inside
