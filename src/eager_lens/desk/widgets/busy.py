"""What shows that a view's work runs: a thin bar, a button that stops it, and the one task that they are about."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QProgressBar, QWidget

from eager_lens.desk.background import Task, Work, start
from eager_lens.desk.session import Session
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.basics import button


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
        self.stop_button = button("Stop", self.stop)
        self._show()

    @property
    def is_running(self) -> bool:
        """Whether work runs."""
        return self._task is not None

    def begin(self, work: Callable[[Task], Work[Any]], done: Callable[[Any], None]) -> None:
        """Run work off the window's thread; ``done`` gets its result, an error becomes a notice."""
        self.stop()
        task = self._task = start(work, self)
        self.bar.setValue(0)
        task.progressed.connect(lambda share: self.bar.setValue(round(100 * share)))
        task.done.connect(done)
        task.failed.connect(lambda text: self._session.notice(text, needs=True))
        for ended in (task.done, task.failed, task.cancelled):
            ended.connect(lambda *_: self._ended(task))
        self._show()

    def stop(self) -> None:
        """Stop the work that runs, if any; its result is dropped."""
        if self._task is not None:
            self._task.cancel()
            self._task = None
            self._show()

    def _ended(self, task: Task) -> None:
        if task is self._task:
            self._task = None
            self._show()

    def _show(self) -> None:
        self.bar.setVisible(self.is_running)
        self.stop_button.setVisible(self.is_running)
        self.changed.emit()
