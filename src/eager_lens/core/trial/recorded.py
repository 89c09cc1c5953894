"""A recorded clip of a fixed camera to try a rule on, with truth marked by hand. Needs PyAV.

The clip is brought to the detector's small grey pictures, five a second, and kept as those: 14 kB a picture, an hour at most.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Generator, Sequence
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

from eager_lens.core.clip.container import opened, refused
from eager_lens.core.motion.day import WARM_UP_S, Sample, whole_of
from eager_lens.core.motion.lens import HIGH, WIDE, Box, Lens, Picture
from eager_lens.core.motion.marks import Mark
from eager_lens.core.motion.source import FPS, Blame, Source, Visit

LONGEST_S = 3600.0

LEAST_S = 20.0

NEAR_S = 1.0
"""A trigger so shortly before or after a mark is taken for it: marks are set by hand."""

COMPARED_S = 2.0
"""Pictures so far apart are compared to see whether the camera itself moves."""

AGREES_PX = 2.0

Spectrum = NDArray[np.complex128]

COARSE = 0.15
"""Periods of some seven pixels and more are compared."""

STILL_PX, DRIFT_PX, MOVES_SHARE = 1.5, 3.0, 0.2
"""A camera moves when more than this share of the comparisons shows a shift by more than so many pixels of 160: from one
picture to the next, or from the first."""


class Clip:
    """A clip as small pictures, with its marks as visits."""

    def __init__(self, name: str, pictures: NDArray[np.uint8], lens: Lens, marks: Sequence[Mark]) -> None:
        self.name, self.lens = name, lens
        self._pictures = pictures
        self.duration_s = len(pictures) / FPS
        self.visits: Sequence[Visit] = [
            Visit(one.kind, one.begins_s, one.ends_s, (0.0, 0.0), (0.0, 0.0), one.counts)
            for one in sorted(marks, key=lambda one: one.begins_s)
        ]

    def marked(self, marks: Sequence[Mark], lens: Lens) -> Clip:
        """The same pictures with other marks."""
        return Clip(self.name, self._pictures, lens, marks)

    def picture(self, at_s: float) -> Picture:
        """The picture of a moment."""
        at = min(len(self._pictures) - 1, max(0, round(at_s * FPS)))
        picture: Picture = self._pictures[at].astype(np.float32)
        return picture

    def seen(self, at_s: float) -> list[tuple[Visit, Box]]:
        """Nobody: marks tell when somebody is there, not where."""
        return []

    def blame(self, at_s: float, box: Box) -> Blame:
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
    """A half of a clip to choose a rule on, and a half to prove it on."""
    begins, ends = _judged(source)
    middle = (begins + ends) / 2
    return whole_of(source, (begins, middle)), whole_of(source, (middle, ends))


def read_clip(path: Path, lens: Lens, marks: Sequence[Mark] = ()) -> Generator[float, None, Clip]:
    """Read a clip; yields how far it is.

    Raises:
        RefusedInput: when it cannot be read, is shorter than 20 s, or its camera moves.
    """
    kept: list[NDArray[np.uint8]] = []
    with opened(path) as (container, stream):
        stream.thread_type = "AUTO"
        whole_s = float(container.duration or 0) / av.time_base or LONGEST_S
        first: float | None = None
        try:
            for frame in container.decode(stream):
                if frame.time is None:
                    continue
                first = frame.time if first is None else first
                at_s = frame.time - first
                if at_s > LONGEST_S:
                    break
                if at_s * FPS < len(kept):
                    continue
                small = frame.reformat(WIDE, HIGH, "gray8").to_ndarray().astype(np.uint8)
                # A camera that sends fewer pictures than are looked at shows the last one again.
                kept += [small] * max(1, int(at_s * FPS) - len(kept) + 1)
                if len(kept) % 50 == 0:
                    yield min(0.9, at_s / whole_s)
        except av.error.FFmpegError as error:
            if not kept:
                raise refused(path, "its pictures cannot be decoded") from error
    if len(kept) < LEAST_S * FPS:
        raise refused(path, f"it lasts {len(kept) / FPS:.0f} s; a rule needs at least {LEAST_S:.0f} s to be tried on")
    pictures = np.stack(kept)
    shift = moved(pictures)
    if shift.moves:
        raise refused(
            path,
            f"its camera moves (by {shift.worst_px:.0f} of {WIDE} px at {shift.at_s:.0f} s); a rule is tried on a camera "
            "that stands still. Record it again from the fixed mount, without turning or zooming",
        )
    return Clip(path.name, pictures, lens, marks)


class Shift(NamedTuple):
    """Whether a camera moves, by how much at most between two pictures, and when."""

    moves: bool
    worst_px: float
    at_s: float


def moved(pictures: NDArray[np.uint8]) -> Shift:
    """How the whole picture shifts between pictures some seconds apart, by phase correlation.

    The peak of the inverse transform of the cross spectrum's phase lies at the shift (C. D. Kuglin and D. C. Hines, "The
    phase correlation image alignment method", Proc. IEEE Conf. Cybernetics and Society, 1975).
    """
    step, averaged = round(COMPARED_S * FPS), round(FPS)
    halves = [
        [_spectrum(pictures[at : at + averaged].mean(axis=0), left) for left in (0, WIDE // 2)]
        for at in range(0, len(pictures) - averaged + 1, step)
    ]
    if len(halves) < 2:
        return Shift(False, 0.0, 0.0)
    # From one to the next a turning camera shows; from the first on, one that drifts, or was turned once.
    stepwise = [_shift_px(one, other) for one, other in itertools.pairwise(halves)]
    in_all = [_shift_px(halves[0], one) for one in halves[1:]]
    worst = int(np.argmax(np.maximum(in_all, stepwise)))
    moves = any(
        sum(one > least_px for one in several) > MOVES_SHARE * len(several)
        for several, least_px in ((stepwise, STILL_PX), (in_all, DRIFT_PX))
    )
    return Shift(moves, max(in_all[worst], stepwise[worst]), (worst + 1) * COMPARED_S)


def _spectrum(picture: NDArray[np.float64], left: int) -> Spectrum:
    """The coarse part of the spectrum of a half of a picture: fine detail is mostly noise by night, and would hide that a
    place stands still."""
    half = picture[:, left : left + WIDE // 2]
    window = np.outer(np.hanning(HIGH), np.hanning(WIDE // 2))
    coarse = np.hypot(np.fft.fftfreq(HIGH)[:, None], np.fft.rfftfreq(WIDE // 2)[None, :]) < COARSE
    spectrum: Spectrum = np.fft.rfft2((half - half.mean()) * window) * coarse
    return spectrum


def _shift_px(one: list[Spectrum], other: list[Spectrum]) -> float:
    """By how many pixels a picture is shifted against another: what both its halves agree on, else nothing. Somebody who
    walks through moves in one half only."""
    shifts = []
    for before, after in zip(one, other, strict=True):
        cross = after * np.conj(before)
        peak = np.fft.irfft2(cross / np.maximum(np.abs(cross), 1e-9), s=(HIGH, WIDE // 2))
        down, across = np.unravel_index(int(np.argmax(peak)), peak.shape)
        shifts.append((_signed(int(down), HIGH), _signed(int(across), WIDE // 2)))
    left, right = shifts
    if math.dist(left, right) > AGREES_PX:
        return 0.0
    return math.hypot((left[0] + right[0]) / 2, (left[1] + right[1]) / 2)


def _signed(at: int, length: int) -> int:
    """A place in a cyclic transform as a shift to either side."""
    return at - length if at > length // 2 else at
