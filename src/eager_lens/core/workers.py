"""Many pieces of work shared out over the computer's cores, in processes of their own: Python runs one thread at a time."""

from __future__ import annotations

import multiprocessing
import os
import threading
from collections.abc import Callable, Generator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from types import TracebackType
from typing import Any, Self, TypeVar

T = TypeVar("T")

MOST = 4
"""More processes take memory that the window may want."""

POLL_S = 0.05


class Workers:
    """Processes that wait for work, as many as there are cores; with one core, or where the work cannot be sent to another
    process, it is done right here. To be left by ``with``: whoever waits for nothing any more ends them."""

    def __init__(self, here: bool = False) -> None:
        many = min(MOST, len(os.sched_getaffinity(0)))
        self._pool: ProcessPoolExecutor | None = None
        if not here and many > 1:
            # Forked ones would take the window's threads and locks over as they stand.
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(many, context, _begun)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        if self._pool is None:
            return
        processes = list((self._pool._processes or {}).values())
        self._pool.shutdown(wait=False, cancel_futures=True)
        for process in processes:
            process.terminate()

    def each(self, function: Callable[..., T], arguments: Sequence[tuple[Any, ...]]) -> Generator[float, None, list[T]]:
        """What a function of a module returns for each of the arguments, in their order; yields the share that is done.

        Raises:
            Exception: whatever the function raises.
        """
        if self._pool is None:
            found: list[T] = []
            for one in arguments:
                yield len(found) / len(arguments)
                found.append(function(*one))
            return found
        futures: list[Future[T]] = [self._pool.submit(function, *one) for one in arguments]
        left = set(futures)
        while left:
            done, left = wait(left, POLL_S, FIRST_COMPLETED)
            for future in done:
                future.result()  # what went wrong is raised at once
            yield 1 - len(left) / len(futures)
        return [future.result() for future in futures]


BEHIND = 5
"""By so much workers stand behind the window that they work for, when the processors are short."""


def _begun() -> None:
    """A worker lets the window go first, and ends with its parent: it would wait for work for ever."""
    os.nice(BEHIND)
    parent = multiprocessing.parent_process()
    if parent is not None:

        def watch() -> None:
            parent.join()
            os._exit(1)

        threading.Thread(target=watch, daemon=True).start()
