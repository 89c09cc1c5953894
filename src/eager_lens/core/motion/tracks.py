"""Areas followed from picture to picture by their feet, so that a line can be crossed."""

from __future__ import annotations

import math
from collections.abc import Sequence

from eager_lens.core.motion.lens import GroundBox
from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.values.motion_rule import Corner, CrossingLine

REACH = 0.09
"""Feet that are no farther from where some were than this share of the picture are the same ones."""

KEEPS_S = 2.0
"""So long a track is kept that nothing follows, since an area may break up for some pictures."""

TELLS_S = 1.0
"""So long after it crossed a track counts: a fifth of a second would be easy to miss."""


class _Track:
    def __init__(self, foot: Corner) -> None:
        self.foot = foot
        self.quiet = 0
        self.crossed = 0


class Tracks:
    """The tracks of one stretch of pictures and the line that they may cross."""

    def __init__(self, line: CrossingLine, fps: float) -> None:
        self._line = line
        self._keeps, self._tells = round(KEEPS_S * fps), round(TELLS_S * fps)
        self._tracks: list[_Track] = []

    def crossed(self, boxes: Sequence[GroundBox]) -> list[bool]:
        """For each box of the next picture whether its feet crossed the line, now or shortly before."""
        for track in self._tracks:
            track.quiet += 1
            track.crossed = max(0, track.crossed - 1)
        counted = []
        free = list(self._tracks)
        for box in boxes:
            x, y = box.foot
            foot = (x / WIDE, y / HIGH)
            known = _nearest(free, foot)
            if known is None or math.dist(known.foot, foot) > REACH * (1 + known.quiet / 2):
                track = _Track(foot)
                self._tracks.append(track)
            else:
                track = known
                free.remove(track)
                if self._line.is_crossed_by(track.foot, foot):
                    track.crossed = self._tells
                track.foot, track.quiet = foot, 0
            counted.append(track.crossed > 0)
        self._tracks = [track for track in self._tracks if track.quiet <= self._keeps]
        return counted


def _nearest(tracks: list[_Track], foot: Corner) -> _Track | None:
    return min(tracks, key=lambda one: math.dist(one.foot, foot), default=None)
