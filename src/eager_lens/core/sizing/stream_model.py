"""Bits of a fixed camera's frames, from what can be measured in its picture. Fitted by ``tools/stream_rate/fit.py``.

A frame's bits per pixel are a sum of terms, picture detail, sensor noise and real motion, each of which grows like the
logarithm of its signal over the quantiser step: nothing while the signal is well below the step, one bit for each
doubling above it. What is particular to each:

- Encoders quantise smooth blocks finer and busy ones coarser, by the logarithm of their energy. Smooth and busy
  parts of the picture therefore have steps of their own.
- Noise that is correlated between neighbours, as a camera's processing leaves it, has its energy in the low
  frequencies of a block. Its term is the mean over the 8 x 8 frequencies of a blurred noise's spectrum.
- What moves between two frames depends on the time between them: by a power of it through the shares measured over
  1/15 s and 1 s. Changes are spread exponentially about their mean; noise adds to them in squares.

The functions take numbers, or arrays of equal length when ``xp`` is a namespace of array functions (the fit), so that
there is one model and not two.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache
from typing import Any, NamedTuple

LN2 = math.log(2)
BLOCK = 8
FLAT_GRADIENT = 0.27
"""Typical gradient of a block that counts as flat, in levels per pixel."""

SHORT_S = 1 / 15
"""The time apart over which motion is measured."""

AMPLITUDE_NODES = (
    (0.22284660417926, 0.45896467394996),
    (1.1889321016726, 0.41700083077212),
    (2.9927363260593, 0.11337338207404),
    (5.7751435691045, 0.010399197453149),
    (9.8374674183826, 0.00026101720281493),
    (15.982873980602, 8.9854790642962e-07),
)
"""Nodes and weights of Gauss-Laguerre quadrature: means over an exponential distribution."""


class Numbers:
    """The functions of one number that the model needs; the fit hands in those of arrays."""

    log1p = staticmethod(math.log1p)
    log2 = staticmethod(math.log2)
    minimum = staticmethod(min)
    maximum = staticmethod(max)


class Picture(NamedTuple):
    """What can be measured in a picture (luma levels, 8 bit): see ``tools/stream_rate/README.md`` for each."""

    detail_log: Any
    flat_share: Any
    noise_sigma: Any
    noise_corr: Any
    moving_share: Any
    motion_mad: Any
    moving_share_1s: Any


def _cosine_weights() -> tuple[tuple[float, ...], ...]:
    """For each frequency of a block's row: how much a covariance at each distance adds to its variance."""
    rows = []
    for u in range(BLOCK):
        scale = math.sqrt((1 if u == 0 else 2) / BLOCK)
        wave = [scale * math.cos(math.pi * (2 * x + 1) * u / (2 * BLOCK)) for x in range(BLOCK)]
        weights = [0.0] * BLOCK
        for i in range(BLOCK):
            for j in range(BLOCK):
                weights[abs(i - j)] += wave[i] * wave[j]
        rows.append(tuple(weights))
    return tuple(rows)


_WEIGHTS = _cosine_weights()

HIGHEST_SIGNAL = 1e9
"""Upper limit of a signal, in quantiser steps."""


def soft_log(x: Any, sharpness: float, xp: Any) -> Any:
    """Bits of a signal of ``x`` quantiser steps: log2(x) well above one, next to nothing below."""
    return xp.log1p(xp.minimum(x, HIGHEST_SIGNAL) ** sharpness) / (sharpness * LN2)


@lru_cache(maxsize=4096)
def _products(noise_corr: float, sharpness: float) -> tuple[tuple[float, int], ...]:
    """Products of two frequencies' deviations, to the power of the sharpness, with how often each comes; those of (u, v) and
    (v, u) are alike."""
    factors = spectrum(noise_corr, Numbers)
    pairs = ((u, v) for u in range(BLOCK) for v in range(u, BLOCK))
    return tuple(((factors[u] * factors[v]) ** sharpness, 1 if u == v else 2) for u, v in pairs)


def spectrum(noise_corr: Any, xp: Any) -> list[Any]:
    """Standard deviation of blurred noise of unit strength in each frequency of a row of eight.

    The correlation at a distance is that of a Gaussian blur: ``corr ** (distance ** 2)``.
    """
    corr = xp.minimum(xp.maximum(noise_corr, 1e-6), 0.85)
    powers = [corr ** (distance**2) for distance in range(BLOCK)]
    variances = (sum(weight * power for weight, power in zip(row, powers, strict=True)) for row in _WEIGHTS)
    return [xp.maximum(variance, 1e-4) ** 0.5 for variance in variances]


@lru_cache(maxsize=100_000)
def _noise_bits_of_numbers(signal: float, noise_corr: float, sharpness: float) -> float:
    """Most of the model's time is spent here, so that numbers go a short way; frame rates share what they have in common."""
    steps, most = signal**sharpness, HIGHEST_SIGNAL**sharpness
    bits = sum([often * math.log1p(min(steps * each, most)) for each, often in _products(noise_corr, sharpness)])
    return bits / (sharpness * LN2) / BLOCK**2


def _noise_bits(signal: Any, noise_corr: Any, sharpness: float, xp: Any) -> Any:
    """Mean bits over the frequencies of a block; those of (u, v) and (v, u) are alike."""
    if xp is Numbers:
        return _noise_bits_of_numbers(signal, noise_corr, sharpness)
    factors, total = spectrum(noise_corr, xp), 0.0
    for u in range(BLOCK):
        for v in range(u, BLOCK):
            bits = soft_log(signal * (factors[u] * factors[v]), sharpness, xp)
            total = total + (bits if u == v else 2 * bits)
    return total / BLOCK**2


def moving(picture: Picture, apart_s: Any, p: Mapping[str, float], xp: Any) -> tuple[Any, Any]:
    """Share of the picture that changes between frames so far apart, and by how many levels on the mean."""
    share = xp.maximum(picture.moving_share, 1e-5)
    later = xp.maximum(picture.moving_share_1s, share)
    level = xp.minimum(xp.maximum(xp.maximum(picture.motion_mad, 1e-5) / share, 2.5), 40.0)
    growth = xp.minimum(xp.log2(later / share) / math.log2(15), 1.0)
    times = apart_s / SHORT_S
    longer, shorter = xp.maximum(times, 1.0), xp.minimum(times, 1.0)
    # Small changes vanish under the threshold soon when frames come faster; large ones do not.
    fading = xp.minimum((p["fading_level"] / level) ** 2, 1.0)
    share = xp.minimum(share * longer**growth * shorter**fading, 1.0)
    return share, 2.0 + xp.minimum((level - 2.0) * longer ** p["level_growth"], 60.0)


def frame_bits(picture: Picture, fps: Any, quality: Any, others: Any, p: Mapping[str, float], xp: Any = Numbers) -> Any:
    """Bits per pixel of a key frame and of the other frames.

    Args:
        picture: the picture's properties.
        fps: frames a second. quality: crf, or the scale of MJPEG as a quantiser (``mjpeg_quantiser``).
        others: how many other frames follow each key frame.
        p: the codec's coefficients.
        xp: where the functions come from.
    """
    flat = xp.minimum(xp.maximum(picture.flat_share, 0.0), 0.985)
    noise = xp.maximum(picture.noise_sigma, 0.2)
    busy_log = (picture.detail_log - math.log2(1 + FLAT_GRADIENT) * flat) / (1 - flat)
    gradient = 2.0 ** xp.minimum(xp.maximum(busy_log, 0.1), 4.5) - 1
    share, level = moving(picture, 1 / fps, p, xp)

    def step(energy: Any) -> Any:
        """Quantiser step of blocks of this variance, after adaptive quantisation."""
        offset = p["adaptive"] * (xp.log2(256 * energy) - 14.43)
        return 2.0 ** ((quality - 4 + xp.minimum(xp.maximum(offset, -12.0), 12.0)) / 6)

    texture = (p["texture"] * gradient) ** 2 + noise**2
    flat_step, busy_step = step(p["flat_energy"] + noise**2), step(texture)
    moving_step = step(texture + (p["level_energy"] * level) ** 2)
    finer = 2.0 ** (p["key_offset"] / 6)

    def detail_bits(signal: Any, at_step: Any) -> Any:
        return p["detail_gain"] * soft_log(p["detail_scale"] * signal * finer / at_step, p["detail_sharpness"], xp)

    def key_noise(at_step: Any) -> Any:
        signal = p["key_noise_scale"] * noise * finer / at_step
        return p["key_noise_gain"] * _noise_bits(signal, picture.noise_corr, p["key_noise_sharpness"], xp)

    def other_noise(at_step: Any) -> Any:
        signal = p["noise_scale"] * noise / at_step
        return p["noise_gain"] * _noise_bits(signal, picture.noise_corr, p["noise_sharpness"], xp)

    key = (
        (1 - flat) * (detail_bits(gradient, busy_step) + key_noise(busy_step))
        + flat * (detail_bits(p["flat_gradient"], flat_step) + key_noise(flat_step))
        + p["key_floor"]
    )
    own_detail = p["motion_scale"] * (p["motion_own"] + gradient) / (p["motion_own"] + 2)
    noise_there = (p["motion_noise"] * noise) ** 2
    motion: Any = 0.0
    for node, weight in AMPLITUDE_NODES:
        change = 2.0 + (level - 2.0) * node
        signal = ((own_detail * change) ** 2 + noise_there) ** 0.5 / moving_step
        motion = motion + weight * soft_log(signal, p["motion_sharpness"], xp)
    still_busy = xp.maximum(1 - flat - share * min(p["moving_takes"], 1.0), 0.0)
    still = flat * other_noise(flat_step) + still_busy * other_noise(busy_step)
    first = 1 + p["first_after_key"] / xp.maximum(others, 1.0)
    return key, share * p["motion_gain"] * motion + still * first + p["other_floor"]


def mjpeg_quantiser(scale: Any, xp: Any = Numbers) -> Any:
    """The scale of MJPEG as a quantiser of the other codecs: its step is proportional to the scale."""
    return 4.0 + 6.0 * xp.log2(scale)
