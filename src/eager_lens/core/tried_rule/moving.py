"""Whether the camera of a clip moves, by phase correlation of both halves of the picture.

The peak of the inverse transform of the cross spectrum's phase lies at the shift (C. D. Kuglin and D. C. Hines, "The phase
correlation image alignment method", Proc. IEEE Conf. Cybernetics and Society, 1975).
"""

from __future__ import annotations

import itertools
import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.motion.small import FPS

COMPARED_S = 2.0
"""Pictures so far apart are compared."""

AGREES_PX = 2.0
"""Both halves have to agree on a shift to within so many pixels: somebody who walks through moves in one of them only."""

COARSE = 0.15
"""Periods of some seven pixels and more are compared: fine detail is mostly noise by night, and would hide that a place
stands still."""

STILL_PX, DRIFT_PX, MOVES_SHARE = 1.5, 3.0, 0.2
"""A camera moves when more than this share of the comparisons shows a shift by more than so many pixels of 160: from one
picture to the next, or from the first."""

Spectrum = NDArray[np.complex128]


class Shift(NamedTuple):
    """Whether a camera moves, by how much at most between two pictures, and when."""

    moves: bool
    worst_px: float
    at_s: float


def moved(pictures: NDArray[np.uint8]) -> Shift:
    """How the whole picture shifts; pictures are (N, H, W), five a second."""
    step, averaged = round(COMPARED_S * FPS), round(FPS)
    middle = pictures.shape[2] // 2
    halves = []
    for at in range(0, len(pictures) - averaged + 1, step):
        picture = pictures[at : at + averaged].mean(axis=0)
        halves.append([_spectrum(half) for half in (picture[:, :middle], picture[:, middle : 2 * middle])])
    if len(halves) < 2:
        return Shift(False, 0.0, 0.0)
    # From one to the next a turning camera shows; from the first on, one that drifts, or was turned once.
    shape = (pictures.shape[1], middle)
    stepwise = [_shift_px(one, other, shape) for one, other in itertools.pairwise(halves)]
    in_all = [_shift_px(halves[0], one, shape) for one in halves[1:]]
    worst = int(np.argmax(np.maximum(in_all, stepwise)))
    moves = any(
        sum(one > least_px for one in several) > MOVES_SHARE * len(several)
        for several, least_px in ((stepwise, STILL_PX), (in_all, DRIFT_PX))
    )
    return Shift(moves, max(in_all[worst], stepwise[worst]), (worst + 1) * COMPARED_S)


def _spectrum(half: NDArray[np.float64]) -> Spectrum:
    """The coarse part of the spectrum of a half of a picture."""
    high, wide = half.shape
    window = np.outer(np.hanning(high), np.hanning(wide))
    coarse = np.hypot(np.fft.fftfreq(high)[:, None], np.fft.rfftfreq(wide)[None, :]) < COARSE
    spectrum: Spectrum = np.fft.rfft2((half - half.mean()) * window) * coarse
    return spectrum


def _shift_px(one: list[Spectrum], other: list[Spectrum], shape: tuple[int, int]) -> float:
    """By how many pixels a picture is shifted against another: what both its halves agree on, else nothing."""
    shifts = []
    for before, after in zip(one, other, strict=True):
        cross = after * np.conj(before)
        peak = np.fft.irfft2(cross / np.maximum(np.abs(cross), 1e-9), s=shape)
        down, across = np.unravel_index(int(np.argmax(peak)), peak.shape)
        shifts.append((_signed(int(down), shape[0]), _signed(int(across), shape[1])))
    left, right = shifts
    if math.dist(left, right) > AGREES_PX:
        return 0.0
    return math.hypot((left[0] + right[0]) / 2, (left[1] + right[1]) / 2)


def _signed(at: int, length: int) -> int:
    """A place in a cyclic transform as a shift to either side."""
    return at - length if at > length // 2 else at
