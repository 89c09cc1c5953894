"""A benchmark's result, and timing."""

from __future__ import annotations

import math
import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Measurement:
    """One benchmark: what took how long, against which reference, and the ratio that it is to keep to (if any). A ``unit``
    other than ms is that of a figure which is no time.

    ``growth`` is the exponent by which the time grows with the size, between a quarter of it and the whole: 1 is in step
    with it, 2 with its square; None for what has no size.
    """

    name: str
    ms: float
    reference: str
    reference_ms: float
    ratio: float
    wanted: str
    unit: str = "ms"
    growth: float | None = None


def exponent(quarter_ms: float, whole_ms: float) -> float:
    """By which power of the size a time grew, from the times at a quarter of the size and at the whole."""
    return math.log(max(whole_ms, 1e-6) / max(quarter_ms, 1e-6)) / math.log(4)


def median_ms(work: Callable[[], object], runs: int) -> float:
    """The median time of some runs, in ms."""
    times = []
    for _ in range(runs):
        begun = time.perf_counter()
        work()
        times.append(1000 * (time.perf_counter() - begun))
    return statistics.median(times)


def in_turns_ms(one: Callable[[], object], other: Callable[[], object], rounds: int) -> tuple[float, float]:
    """The median times of two pieces of work that take turns, so that a slow moment of the machine meets both."""
    pairs = [(median_ms(one, 1), median_ms(other, 1)) for _ in range(rounds)]
    first, second = (statistics.median(column) for column in zip(*pairs, strict=True))
    return first, second
