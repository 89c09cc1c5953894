"""Quantiles of the beta distribution. By hand, because the library's take a quarter of a second to load, at every start with a
job in which a rate was read; a test holds them against it."""

from __future__ import annotations

import math

CLOSE, MOST_TERMS, MOST_STEPS = 1e-14, 400, 200
SMALL = 1e-300
"""In place of nought, by which the fraction would be divided."""


def beta_quantile(a: float, b: float, chance: float) -> float:
    """The value that a beta variable lies under with a chance.

    Args:
        a, b: the distribution's parameters, above 0. chance: between 0 and 1.
    """
    low, high, x = 0.0, 1.0, a / (a + b)
    for _ in range(MOST_STEPS):
        off = beta_share(a, b, x) - chance
        low, high = (x, high) if off < 0 else (low, x)
        if off == 0 or high - low <= CLOSE * high:
            break
        density = math.exp(_log_scale(a, b, x) - math.log(x) - math.log1p(-x)) if 0 < x < 1 else 0.0
        following = x - off / density if density else x
        if abs(following - x) <= CLOSE * x:
            break
        # Newton's step, where it stays between what is known; else half-way.
        x = following if low < following < high else (low + high) / 2
    return x


def beta_share(a: float, b: float, x: float) -> float:
    """The regularised incomplete beta function: the chance that a beta variable lies under x (0 to 1).

    Source: the continued fraction DLMF 8.17.22, which converges fast for x < (a + 1) / (a + b + 2); beyond, 1 less the same of
    the mirror image.
    """
    if x <= 0 or x >= 1:
        return float(x >= 1)
    if x > (a + 1) / (a + b + 2):
        return 1 - beta_share(b, a, 1 - x)
    return math.exp(_log_scale(a, b, x)) / (a * _fraction(a, b, x))


def _log_scale(a: float, b: float, x: float) -> float:
    """The logarithm of x^a (1 - x)^b / B(a, b)."""
    return math.lgamma(a + b) - math.lgamma(a) - math.lgamma(b) + a * math.log(x) + b * math.log1p(-x)


def _fraction(a: float, b: float, x: float) -> float:
    """1 + d1 / (1 + d2 / (1 + ...)), from the front (Lentz's method)."""
    value, upper, lower = 1.0, 1.0, 0.0
    for at in range(1, MOST_TERMS):
        m = at // 2
        if at % 2:
            d = -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1))
        else:
            d = m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m))
        lower = 1 / ((1 + d * lower) or SMALL)
        upper = (1 + d / upper) or SMALL
        value *= upper * lower
        if abs(upper * lower - 1) < CLOSE:
            break
    return value
