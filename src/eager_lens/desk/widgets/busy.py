"""What shows that a view's work runs: a thin bar, a button that stops it, and the one task that they are about."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QProgressBar, QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.units import figure
from eager_lens.desk.background import Task, Work, start
from eager_lens.desk.session import Session
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.basics import button, label, row

T = TypeVar("T")

LEFT_AFTER_S, LEFT_FROM = 2.0, 0.05
"""How long work takes is told after some time, from some share on: before, it is a guess."""


class Busy(QObject):
    """Runs one piece of work at a time for a view, which lays ``bar`` and ``stop_button`` out. New work stops the old."""

    changed = Signal()
    """Work began or ended."""

    def __init__(self, session: Session, view: QWidget) -> None:
        super().__init__(view)
        self._session = session
        self._task: Task | None = None
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setFixedHeight(look.px(6))
        self.bar.setTextVisible(False)
        self.left = label("", "small")
        """How long the work will still take; of a view that lays it out."""
        self._begun_s = 0.0
        self.stop_button = button("Stop", self.stop)
        self._show()

    @property
    def is_running(self) -> bool:
        """Whether work runs."""
        return self._task is not None

    def begin(
        self,
        work: Callable[[Task], Work[Any]],
        done: Callable[[Any], None],
        stopped: Callable[[], None] = lambda: None,
    ) -> None:
        """Run work off the window's thread; ``done`` gets its result, an error becomes a notice, and ``stopped`` is called
        when it has stopped because that was asked for."""
        self.stop()
        task = self._task = start(work, self)
        self.bar.setValue(0)
        self.left.setText("")
        self._begun_s = time.monotonic()
        task.progressed.connect(self._show_share)
        task.done.connect(done)
        task.failed.connect(lambda text: self._session.notice(text, needs=True))
        task.cancelled.connect(stopped)
        task.over.connect(lambda: self._ended(task))
        self._show()

    def read(self, path: Path, read: Callable[[Path, Callable[[float], None]], T], done: Callable[[T], object]) -> None:
        """Read a file that somebody chose: ``read`` is given it and a step; ``done`` may refuse what was read."""

        def work(task: Task) -> Work[T]:
            yield 0.0
            try:
                return read(path, task.step)
            except EagerLensError as error:
                raise _of_file(path, error) from error

        def take(found: T) -> None:
            try:
                done(found)
            except EagerLensError as error:
                self._session.notice(str(_of_file(path, error)), needs=True)

        self.begin(work, take, lambda: self._session.notice(f"{path.name} was not read: stopped"))

    def stop(self) -> None:
        """Stop the work that runs, if any; its result is dropped."""
        if self._task is not None:
            self._task.cancel()
            self._task = None
            self._show()

    def line(self, words: str) -> QWidget:
        """What runs, its bar and the button, in sight while work runs."""
        whole = QWidget()
        layout = row(label(words, "small"), self.bar, self.stop_button)
        layout.setStretch(1, 1)
        whole.setLayout(layout)
        self.changed.connect(lambda: whole.setVisible(self.is_running))
        whole.hide()
        return whole

    def _show_share(self, share: float) -> None:
        self.bar.setValue(round(100 * share))
        gone_s = time.monotonic() - self._begun_s
        if gone_s >= LEFT_AFTER_S and share >= LEFT_FROM:
            self.left.setText(f"about {figure(max(1, round(gone_s * (1 - share) / share)))} s left")

    def _ended(self, task: Task) -> None:
        if task is self._task:
            self._task = None
            self._show()

    def _show(self) -> None:
        for part in (self.left, self.bar, self.stop_button):
            # A view may lay out neither: shown without a place they would be windows of their own.
            part.setVisible(self.is_running and part.parentWidget() is not None)
        self.changed.emit()


def _of_file(path: Path, error: EagerLensError) -> EagerLensError:
    """An error that names the file that it is about."""
    return error if path.name in str(error) else EagerLensError(f"{path.name}: {error}")
