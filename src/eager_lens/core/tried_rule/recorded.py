"""A recorded clip of a fixed camera to try a rule on, with truth marked by hand: the detector's small pictures of it."""

from __future__ import annotations

from collections.abc import Generator, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.clip.container import refused
from eager_lens.core.motion.day import WARM_UP_S, Sample, whole_of
from eager_lens.core.motion.lens import GroundBox, Lens, Picture
from eager_lens.core.motion.small import FPS, HIGH, WIDE
from eager_lens.core.motion.source import Blame, Source, Visit
from eager_lens.core.subprocess_reader import Limits, running_in_subprocess
from eager_lens.core.tried_rule.moving import moved
from eager_lens.core.tried_rule.small_pictures import FULL, Frame
from eager_lens.core.values.marks import Mark

LEAST_S = 20.0

NEAR_S = 1.0
"""A trigger so shortly before or after a mark is taken for it: marks are set by hand."""


def _lens_in(frame: Frame, whole: Lens) -> Lens:
    """The geometry of a camera whose picture lies so, from that of one whose picture fills all."""
    scale = frame.wide / WIDE
    return Lens(whole.focal_px * scale, frame.top + whole.horizon_px * frame.high / HIGH, whole.height_m)


class Clip:
    """A clip as small pictures, with its marks as visits."""

    def __init__(
        self, name: str, pictures: NDArray[np.uint8], lens: Lens, marks: Sequence[Mark], frame: Frame = FULL
    ) -> None:
        self.name, self.lens = name, _lens_in(frame, lens)
        self._pictures, self._frame = pictures, frame
        self.duration_s = len(pictures) / FPS
        self.visits: Sequence[Visit] = [
            Visit(one.kind, one.begins_s, one.ends_s, (0.0, 0.0), (0.0, 0.0), one.counts)
            for one in sorted(marks, key=lambda one: one.begins_s)
        ]

    def marked(self, marks: Sequence[Mark], lens: Lens) -> Clip:
        """The same pictures with other marks."""
        return Clip(self.name, self._pictures, lens, marks, self._frame)

    def picture(self, at_s: float) -> Picture:
        """The picture of a moment."""
        at = min(len(self._pictures) - 1, max(0, round(at_s * FPS)))
        picture: Picture = self._pictures[at].astype(np.float32)
        return picture

    def seen(self, at_s: float) -> list[tuple[Visit, GroundBox]]:
        """Nobody: marks tell when somebody is there, not where."""
        return []

    def blame(self, at_s: float, box: GroundBox) -> Blame:
        """A mark's that is there at the moment, of several the one that came last, since marks tell no place; else nobody's."""
        for visit in reversed(self.visits):
            if visit.begins_s - NEAR_S <= at_s <= visit.ends_s + NEAR_S:
                return Blame(visit, None) if visit.counts else Blame(None, "small animal")
        return Blame(None, "not marked")


def _judged(source: Source) -> tuple[float, float]:
    """From when on a detector knows the place, to the end."""
    return min(WARM_UP_S, source.duration_s / 4), source.duration_s


def whole_clip(source: Source) -> Sample:
    """All of a clip but what the detector learns from."""
    return whole_of(source, _judged(source))


def halves(source: Source) -> tuple[Sample, Sample]:
    """A half of a clip to select a rule on, and a half to prove it on."""
    begins, ends = _judged(source)
    middle = (begins + ends) / 2
    return whole_of(source, (begins, middle)), whole_of(source, (middle, ends))


def read_clip(path: Path, lens: Lens, marks: Sequence[Mark] = ()) -> Generator[float, None, Clip]:
    """Read a clip, in a process of its own; yields how far it is.

    Raises:
        RefusedInput: when it cannot be read, is shorter than 20 s, or its camera moves.
    """
    lies, parts = FULL, []

    def take(part: tuple[Frame, NDArray[np.uint8]]) -> None:
        nonlocal lies
        lies = part[0]
        parts.append(part[1])

    yield from running_in_subprocess(
        "eager_lens.core.tried_rule.small_pictures:small_pictures",
        path,
        limits=Limits(time_s=None),
        what=path.name,
        part=take,
    )
    length = sum(len(part) for part in parts)
    if length < LEAST_S * FPS:
        raise refused(path, f"it lasts {length / FPS:.0f} s; trying a rule needs at least {LEAST_S:.0f} s")
    pictures = np.zeros((length, HIGH, WIDE), dtype=np.uint8)
    inside = pictures[:, lies.top : lies.top + lies.high, lies.left : lies.left + lies.wide]
    at = 0
    for part in parts:
        inside[at : at + len(part)] = part
        at += len(part)
    shift = moved(inside)
    if shift.moves:
        raise refused(
            path,
            f"its camera moves (by {shift.worst_px:.0f} of {WIDE} px at {shift.at_s:.0f} s). Record it again from the fixed "
            "mount, without turning or zooming",
        )
    return Clip(path.name, pictures, lens, marks, lies)
