"""Work off the window's thread: one helper for all of it.

Work is a generator, given its task. Each ``yield`` gives its progress (0 to 1) and is a place to stop; what it returns is
the result. Inside a call that cannot yield, ``task.step`` does the same, and ``core.pauses`` where nobody passes that on.
Work must touch nothing of the window. A task's signals are sent on the window's thread. An error that nobody foresaw fails
the task with a sentence, and goes on to the program's own record of troubles; it is never dropped.
"""

from __future__ import annotations

import queue
import sys
import threading
import time
from collections.abc import Callable, Generator, Iterator
from contextlib import contextmanager, suppress
from functools import cache, partial
from typing import Any, TypeVar

import shiboken6
from PySide6.QtCore import QCoreApplication, QEvent, QEventLoop, QObject, QRunnable, Qt, QThreadPool, QTimer, Signal
from PySide6.QtWidgets import QApplication, QLabel, QProgressDialog

from eager_lens.core.errors import EagerLensError
from eager_lens.core.pauses import pausing

T = TypeVar("T")
Work = Generator[float, None, T]


class Stopped(Exception):
    """The work was asked to stop, and does."""


class RightOfWay:
    """The window goes first: while it has something to do, work in the background waits at its next step.

    Python runs one thread at a time, so work that goes on would take half of the window's time, and each call of the
    toolkit would wait for its turn. While an edit is worked out and while the window is painted it is known that the window
    is busy; at other times work asks now and then, by an event that comes up once all others are done.
    """

    LONGEST_S = 0.5
    AFTER_MS = 40
    """So long after the last edit it holds, so that it is painted too."""

    ASKED_EVERY_S = 0.02
    """So long work goes on without asking again."""

    def __init__(self) -> None:
        # Set means: background work may go on.
        self._free = threading.Event()
        self._free.set()
        self._release: QTimer | None = None
        self._idle: _IdleProbe | None = None
        self._heard_s = 0.0

    def take(self) -> None:
        """Hold others until the window has nothing to do any more. On the window's thread."""
        if self._release is None:
            self._release = QTimer(singleShot=True, interval=self.AFTER_MS)
            self._release.timeout.connect(self._free.set)
        self._free.clear()
        self._release.start()

    @contextmanager
    def held(self) -> Iterator[None]:
        """Hold others for as long as something lasts: painting a window is thousands of calls of the toolkit."""
        was_free = self._free.is_set()
        self._free.clear()
        try:
            yield
        finally:
            if was_free:
                self._free.set()

    @property
    def is_free(self) -> bool:
        """Whether nobody holds it."""
        return self._free.is_set()

    def listen(self) -> None:
        """Answer those who ask from now on. On the window's thread."""
        if self._idle is None:
            self._idle = _IdleProbe()

    def wait(self) -> None:
        """Let the window go first. On any other thread."""
        if not self._free.is_set():
            # With a limit: a window that is busy for long must not starve the work that it waits for.
            self._free.wait(self.LONGEST_S)
        if self._idle is not None and time.monotonic() - self._heard_s > self.ASKED_EVERY_S:
            self._idle.ask(self.LONGEST_S)
            self._heard_s = time.monotonic()


class _IdleProbe(QObject):
    """Lives on the window's thread, and answers when its event loop comes to the end of what there was to do."""

    QUESTION = QEvent.Type(QEvent.registerEventType())

    def __init__(self) -> None:
        super().__init__()
        self._answered = threading.Event()

    def ask(self, longest_s: float) -> None:
        """Wait for the answer, with a limit. On any other thread."""
        self._answered.clear()
        # Low priority puts the event behind everything that is already waiting, so its arrival means "idle".
        QCoreApplication.postEvent(self, QEvent(self.QUESTION), Qt.EventPriority.LowEventPriority.value)
        self._answered.wait(longest_s)

    def event(self, event: QEvent) -> bool:
        """Answer all who ask."""
        if event.type() != self.QUESTION:
            return super().event(event)
        self._answered.set()
        return True


RIGHT_OF_WAY = RightOfWay()


def painted_first(event: QEvent, handle: Callable[[QEvent], bool]) -> bool:
    """Handle a window's event; work in the background waits while that is the one in which all of the window is painted."""
    if event.type() != QEvent.Type.UpdateRequest:
        return handle(event)
    with RIGHT_OF_WAY.held():
        return handle(event)


class _MainThreadCalls(QObject):
    """Brings to the window's thread what work has to say, and lives as long as the program.

    A task may be deleted with its window at the very moment at which its work would send one of its signals, which ends the
    process. So work sends nothing by itself: it leaves a letter here.
    """

    ARRIVED = QEvent.Type(QEvent.registerEventType())

    def __init__(self) -> None:
        super().__init__()
        self._waiting: queue.SimpleQueue[Callable[[], None]] = queue.SimpleQueue()

    def send(self, act: Callable[[], None]) -> None:
        """Have something done on the window's thread, in the order in which it was sent. On any thread."""
        self._waiting.put(act)
        # Work that outlives the program's end finds nobody left who reads.
        with suppress(RuntimeError):
            QCoreApplication.postEvent(self, QEvent(self.ARRIVED))

    def event(self, event: QEvent) -> bool:
        """Do the next."""
        if event.type() != self.ARRIVED:
            return super().event(event)
        self._waiting.get_nowait()()
        return True


@cache
def main_thread_calls() -> _MainThreadCalls:
    """The one for all; it is asked for first on the window's thread."""
    return _MainThreadCalls()


class Task(QObject):
    """A piece of work that runs, or ran. Exactly one of ``done``, ``failed`` and ``cancelled`` is sent, once, and then
    ``over``, for what has to end however the work did."""

    progressed = Signal(float)
    done = Signal(object)
    failed = Signal(str)
    cancelled = Signal()
    over = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._stop = False

    def tell(self, how: str, what: object) -> None:
        """Tell how the work came to its end. On the window's thread, once control is back at the event loop: work that ends before
        whoever started it has connected is still told."""
        if not shiboken6.isValid(self):
            return  # deleted with its window: nobody is left who waits for it
        if isinstance(what, BaseException):
            sys.excepthook(type(what), what, what.__traceback__)
            what = f"an internal error occurred ({type(what).__name__})"
        if self._stop:
            self.cancelled.emit()  # what ended while it was being stopped is dropped too
        elif how == "done":
            self.done.emit(what)
        elif how == "failed":
            self.failed.emit(str(what))
        else:
            self.cancelled.emit()
        self.over.emit()
        self.deleteLater()  # a view that lives for a day starts thousands

    def cancel(self) -> None:
        """Ask the work to stop at its next place to stop."""
        self._stop = True

    def pause(self) -> None:
        """Let the window go first, and stop here if that was asked for.

        Raises:
            Stopped: to be let through by the work.
        """
        if not self._stop:
            RIGHT_OF_WAY.wait()
        # A task that was deleted with its window has nobody left who waits for it.
        if self._stop or not shiboken6.isValid(self):
            raise Stopped

    def step(self, share: float) -> None:
        """Pause, and tell progress.

        Raises:
            Stopped: to be let through by the work.
        """
        self.pause()
        main_thread_calls().send(partial(self._tell_share, share))

    def _tell_share(self, share: float) -> None:
        if shiboken6.isValid(self):
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
        task, work = self._task, self._work
        # The binding keeps a runner for good that ended before its start was over. It shall hold nothing then.
        del self._task, self._work
        main_thread_calls().send(partial(task.tell, *_outcome(task, work)))


def _outcome(task: Task, work: Callable[[Task], Work[Any]]) -> tuple[str, object]:
    try:
        with pausing(task.pause):
            generator = work(task)
            while True:
                if task.stopping:
                    generator.close()
                    return "cancelled", None
                task.step(next(generator))
    except StopIteration as end:
        return "done", end.value
    except Stopped:
        return "cancelled", None
    except EagerLensError as error:
        return "failed", str(error)
    except MemoryError:
        return "failed", "there is not enough memory; close other programs, or try with less"
    except Exception as error:  # noqa: BLE001  (a mistake in the program: told where the task was made)
        return "failed", error


def start(work: Callable[[Task], Work[Any]], parent: QObject | None = None, pool: QThreadPool | None = None) -> Task:
    """Start work in a thread pool, the application's own unless another is given; its end is told once control is back
    at the event loop."""
    RIGHT_OF_WAY.listen()
    main_thread_calls()
    # The task is made on the window's thread, so its signals belong there.
    task = Task(parent)
    (pool or QThreadPool.globalInstance()).start(_Runner(task, work))
    return task


def stop_tasks_of(part: QObject) -> None:
    """Ask all work of a window, or of a part of one, to stop, so that closing it waits for none of it."""
    for task in part.findChildren(Task):
        task.cancel()


SLOW_AFTER_S = 0.2


def waited_for(act: Callable[[], T], words: str) -> T:
    """Do something that must be done before anything else may happen (saving), without standing still: where it takes
    longer than a moment, a line says what is waited for, and the window goes on being painted.

    Raises:
        Exception: whatever ``act`` raises.
    """
    outcome: list[T] = []
    trouble: list[BaseException] = []
    over = threading.Event()

    def run() -> None:
        try:
            outcome.append(act())
        except BaseException as error:  # noqa: BLE001  (raised again where it was asked for)
            trouble.append(error)
        finally:
            over.set()

    # A plain thread, not the pool: waiting must not queue behind background work that pauses for this very window.
    threading.Thread(target=run, name=words, daemon=True).start()
    if not over.wait(SLOW_AFTER_S):
        _show_until(over, words)
        over.wait()  # the program may have been told to end meanwhile, which ends every loop
    if trouble:
        raise trouble[0]
    return outcome[0]


def _show_until(over: threading.Event, words: str) -> None:
    dialog = QProgressDialog("", "", 0, 0, QApplication.activeWindow())
    # Its own label would take a job's name for markup, and fetch what an image tag in it names.
    caption = QLabel(words)
    caption.setTextFormat(Qt.TextFormat.PlainText)
    dialog.setLabel(caption)
    dialog.setCancelButton(None)
    dialog.setWindowModality(Qt.WindowModality.ApplicationModal)
    dialog.setMinimumDuration(0)
    dialog.show()
    loop = QEventLoop()
    timer = QTimer(interval=20)
    timer.timeout.connect(lambda: loop.quit() if over.is_set() else None)
    timer.start()
    loop.exec()
    timer.stop()
    if shiboken6.isValid(dialog):  # a window that is on its way out takes its dialogs along while they are shown
        dialog.close()
        dialog.deleteLater()
