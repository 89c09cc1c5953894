"""Nine points that stand for a normal variable (Gauss and Hermite), and the log-normal activity of a day at them.

Source: M. Abramowitz, I. Stegun, "Handbook of Mathematical Functions", 25.4.46, for the weight exp(-x^2 / 2).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from statistics import NormalDist

NORMAL = NormalDist()

_HALF = (
    (0.0, 0.40634920634920635),
    (1.0232556637891326, 0.24409750289493953),
    (2.07684797867783, 0.04991640676521782),
    (3.20542900285647, 0.0027891413212317692),
    (4.512745863399783, 2.2345844007746607e-05),
)
NODES = tuple(sorted({sign * at for at, _ in _HALF for sign in (-1, 1)}))
WEIGHTS = tuple(dict(_HALF)[abs(at)] for at in NODES)

HERMITE = tuple((at, (at * at - 1) / math.sqrt(2), (at**3 - 3 * at) / math.sqrt(6)) for at in NODES)
"""At each node the first three Hermite polynomials, each of variance 1."""

HIGHEST_LEVEL = 60.0
"""Highest activity of a day, as a multiple of the mean."""


@lru_cache(maxsize=64)
def activity_levels(day_spread: float, factor: float = 1.0) -> tuple[float, ...]:
    """Activity of a day at each node, over the mean: log-normal with mean ``factor`` and deviation ``day_spread`` times that."""
    sigma = math.sqrt(math.log1p(day_spread**2))
    return tuple(min(HIGHEST_LEVEL, factor * math.exp(sigma * at - sigma * sigma / 2)) for at in NODES)


def mean_of(values: Sequence[float]) -> float:
    """The mean of a function of a normal variable from its values at the nodes."""
    return sum(weight * value for weight, value in zip(WEIGHTS, values, strict=True))
