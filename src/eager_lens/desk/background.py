"""Work off the window's thread: one helper for all of it.

Work is a generator, given its task. Each ``yield`` gives its progress (0 to 1) and is a place to stop; what it returns is
the result. Inside a call that cannot yield, ``task.step`` does the same. Work must touch nothing of the window. Signals
arrive on the thread that made the task.
"""

from __future__ import annotations

from collections.abc import Callable, Generator
from typing import Any, TypeVar

from PySide6.QtCore import QObject, QRunnable, Qt, QThreadPool, Signal

from eager_lens.core.errors import EagerLensError

T = TypeVar("T")
Work = Generator[float, None, T]


class Stopped(Exception):
    """The work was asked to stop, and does."""


class Task(QObject):
    """A piece of work that runs, or ran. Exactly one of ``done``, ``failed`` and ``cancelled`` is sent, once."""

    progressed = Signal(float)
    done = Signal(object)
    failed = Signal(str)
    cancelled = Signal()
    ended = Signal(str, object)
    """How the work came to its end, from its own thread; only this class listens to it."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._stop = False
        # Through the event loop of the thread that made the task: work that ends at once, before whoever started it
        # has connected, is still told.
        self.ended.connect(self._tell, Qt.ConnectionType.QueuedConnection)

    def _tell(self, how: str, what: object) -> None:
        if self._stop:
            self.cancelled.emit()  # what ended while it was being stopped is dropped too
        elif how == "done":
            self.done.emit(what)
        elif how == "failed":
            self.failed.emit(str(what))
        else:
            self.cancelled.emit()

    def cancel(self) -> None:
        """Ask the work to stop at its next place to stop."""
        self._stop = True

    def step(self, share: float) -> None:
        """Tell progress, and stop here if that was asked for.

        Raises:
            Stopped: to be let through by the work.
        """
        if self._stop:
            raise Stopped
        self.progressed.emit(share)

    @property
    def stopping(self) -> bool:
        """Whether it was asked to stop."""
        return self._stop


class _Runner(QRunnable):
    def __init__(self, task: Task, work: Callable[[Task], Work[Any]]) -> None:
        super().__init__()
        self._task, self._work = task, work

    def run(self) -> None:
        """Run the work to its end, or until it is asked to stop."""
        try:
            self._run()
        except RuntimeError:
            # The task was deleted with its window while the work ran: there is nobody left to tell.
            return

    def _run(self) -> None:
        task = self._task
        try:
            generator = self._work(task)
            while True:
                if task.stopping:
                    generator.close()
                    raise Stopped
                task.progressed.emit(next(generator))
        except StopIteration as end:
            task.ended.emit("done", end.value)
        except Stopped:
            task.ended.emit("cancelled", None)
        except EagerLensError as error:
            task.ended.emit("failed", str(error))
        except Exception:
            # A mistake in the program: whoever waits is told that nothing comes, and the error goes its own way.
            task.ended.emit("cancelled", None)
            raise


def start(work: Callable[[Task], Work[Any]], parent: QObject | None = None) -> Task:
    """Start work in the application's thread pool; its end is told once control is back at the event loop."""
    task = Task(parent)
    QThreadPool.globalInstance().start(_Runner(task, work))
    return task
