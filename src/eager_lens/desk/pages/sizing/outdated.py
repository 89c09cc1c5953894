"""What a view shows of an earlier plan, while the answer for the present one is worked out."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from eager_lens.desk.session import Session

PATIENCE_MS = 250
"""So long an answer may stay that an edit made out of date. Emptying a view at once would make it flicker at each edit."""


class Outdated(QTimer):
    """Empties a view when what it shows is another's, or when its new answer takes more than a moment: two answers on one
    screen never stand side by side."""

    def __init__(self, session: Session, view: QWidget, clear: Callable[[], None]) -> None:
        super().__init__(view, singleShot=True, interval=PATIENCE_MS)
        self._session, self._clear = session, clear
        self._whose: tuple[str, int] | None = None
        self.timeout.connect(clear)

    def begin(self, subject: str) -> None:
        """Work on an answer for a subject begins: one of another subject or another job goes at once."""
        whose = (subject, self._session.times_opened)
        if whose == self._whose:
            self.start()
        else:
            self._whose = whose
            self.stop()
            self._clear()

    def end(self) -> None:
        """The answer is there, or there will be none."""
        self.stop()
