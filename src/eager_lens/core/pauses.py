"""Places where long work lets others go first, and may be told to stop.

What is worked out knows nothing of windows and threads. Whoever has it worked out in the background says by ``pausing`` what is
to be done at these places, of the work of that thread; without, they cost next to nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TypeVar

T = TypeVar("T")

EVERY = 50
"""So many parts of a job are gone through without a pause: about a hundredth of a second, where each has its figures worked out."""

_act: ContextVar[Callable[[], None] | None] = ContextVar("act", default=None)


@contextmanager
def pausing(act: Callable[[], None]) -> Iterator[None]:
    """Have something done at each pause of this thread's work; what it raises stops the work."""
    before = _act.set(act)
    try:
        yield
    finally:
        _act.reset(before)


def pause() -> None:
    """A place to let others go first.

    Raises:
        Exception: whatever is to be done here raises, for the work to let through.
    """
    act = _act.get()
    if act is not None:
        act()


def with_pauses(parts: Iterable[T], every: int = EVERY) -> Iterator[T]:
    """The parts, with a pause after every few of them."""
    for at, part in enumerate(parts):
        if at % every == 0:
            pause()
        yield part
