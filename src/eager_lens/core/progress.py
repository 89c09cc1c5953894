"""Long work as a generator that yields how far it is, 0 to 1, and returns its result."""

from __future__ import annotations

import threading
from collections.abc import Callable, Generator, Iterator
from contextlib import contextmanager
from typing import TypeVar

T = TypeVar("T")

Steps = Generator[float, None, T]


def finished(steps: Generator[float, None, T]) -> T:
    """Go through steps without listening; their result."""
    while True:
        try:
            next(steps)
        except StopIteration as end:
            result: T = end.value
            return result


def part_of(steps: Generator[float, None, T], begins: float, ends: float) -> Generator[float, None, T]:
    """The same steps as a part of longer work, which goes from one share of it to another."""
    while True:
        try:
            share = next(steps)
        except StopIteration as end:
            result: T = end.value
            return result
        yield begins + (ends - begins) * share


@contextmanager
def turn(lock: threading.Lock, step: Callable[[float], None]) -> Iterator[None]:
    """Have a library to oneself that only one thread may be in; ``step`` is told while that is waited for, and may raise."""
    while not lock.acquire(timeout=0.05):
        step(0.0)
    try:
        yield
    finally:
        lock.release()
