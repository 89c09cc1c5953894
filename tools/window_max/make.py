"""Makes ``core/reference/window_max.json``: how high and how low the window sums of a year's days go.

A day's activity is log-normal, and the logarithms of one day and the next correlate (AR(1)). For each window length, memory
and shape, many years are drawn, and the quantiles of each year's greatest and least standardised window sum are kept. Takes a
minute or two:

    .venv/bin/python tools/window_max/make.py
"""

import json
import math
from pathlib import Path

import numpy as np
from scipy.signal import lfilter

TABLE = Path(__file__).parents[2] / "src/eager_lens/core/reference/window_max.json"
DAYS = (1, 2, 4, 8, 16, 32, 64, 128, 256, 512)
MEMORY = (0.0, 0.5, 0.75, 0.9, 0.95)
SHAPES = (0.0, 0.15, 0.3, 0.5, 0.75, 1.1)
"""Deviations of the logarithm; 0 is the normal distribution."""
CHANCES = (0.001, 0.01, 0.05, 0.2, 0.5, 0.8, 0.95, 0.99, 0.999)
YEARS, BATCH = 16_000, 2_000
DAYS_A_YEAR = 365


def skewness(shape: float) -> float:
    """Skewness of a log-normal variable."""
    w = math.exp(shape * shape)
    return (w + 2) * math.sqrt(w - 1)


def variance(days: int, memory: float, shape: float) -> float:
    """Variance of a window's sum of standardised days."""
    lags = np.arange(1, days)
    alike = memory**lags if shape == 0 else np.expm1(shape**2 * memory**lags) / math.expm1(shape**2)
    return float(days + 2 * np.sum((days - lags) * alike))


def standardised(days: np.ndarray, shape: float) -> np.ndarray:
    """Days of mean 0 and variance 1 from normal ones."""
    if shape == 0:
        return days
    return (np.exp(shape * days - shape**2 / 2) - 1) / math.sqrt(math.expm1(shape**2))


def quantiles(memory: float) -> list[list[list[list[float]]]]:
    """By shape and window length, quantiles of the greatest, the least with its sign turned, one, and one turned."""
    random = np.random.default_rng([7, round(1000 * memory)])
    kept: list[list[tuple[list[float], ...]]] = [[([], [], [], []) for _ in DAYS] for _ in SHAPES]
    for _ in range(YEARS // BATCH):
        steps = random.standard_normal((BATCH, DAYS_A_YEAR + DAYS[-1] - 1))
        steps[:, 1:] *= math.sqrt(1 - memory**2)
        normal = lfilter([1], [1, -memory], steps, axis=1)
        for by_days, shape in zip(kept, SHAPES, strict=True):
            run = np.cumsum(np.concatenate((np.zeros((BATCH, 1)), standardised(normal, shape)), axis=1), axis=1)
            for sides, days in zip(by_days, DAYS, strict=True):
                sums = (run[:, days:] - run[:, :-days])[:, :DAYS_A_YEAR] / math.sqrt(variance(days, memory, shape))
                some = sums[:, ::46].ravel()
                for side, more in zip(sides, (sums.max(axis=1), -sums.min(axis=1), some, -some), strict=True):
                    side.extend(more)
    return [
        [[[round(float(z), 3) for z in np.quantile(side, CHANCES)] for side in sides] for sides in by_days]
        for by_days in kept
    ]


def main() -> None:
    """Write the table."""
    table = {
        "source": "years drawn day by day by tools/window_max/make.py",
        "memory": MEMORY,
        "skewness": [round(skewness(shape), 4) for shape in SHAPES],
        "days": DAYS,
        "chances": CHANCES,
        "z_of_memory_skewness_days_side": [quantiles(memory) for memory in MEMORY],
    }
    rows = json.dumps(table, separators=(", ", ": ")).replace("]], [[", "]],\n [[").replace(', "', ',\n "')
    TABLE.write_text(rows + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
