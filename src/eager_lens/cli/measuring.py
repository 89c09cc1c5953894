"""A benchmark's result, and timing."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Measurement:
    """One benchmark: what took how long, against which reference, and the ratio that it is to keep to (if any). A ``unit``
    other than ms is that of a figure which is no time."""

    name: str
    ms: float
    reference: str
    reference_ms: float
    ratio: float
    wanted: str
    unit: str = "ms"


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
