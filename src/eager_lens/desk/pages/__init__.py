"""One folder a stage. A page is made when it is first asked for, and no page imports another."""

from __future__ import annotations

from importlib import import_module
from types import ModuleType

from PySide6.QtCore import QObject, QTimer

from eager_lens.core.assess.finding import STAGES, Stage
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.page import Page


def _code_of(stage: Stage) -> ModuleType:
    return import_module(f"eager_lens.desk.pages.{stage}")


def make_page(stage: Stage, session: Session) -> Page:
    """Make the page of a stage."""
    page: Page = _code_of(stage).PAGE(session)
    return page


class LoadAhead(QObject):
    """Loads the pages' code one by one when the window has nothing to do, so that their first look does not wait for it."""

    EVERY_MS = 200

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._left = list(STAGES)
        self._timer = QTimer(self, interval=self.EVERY_MS)
        self._timer.timeout.connect(self._load)
        self._timer.start()

    def _load(self) -> None:
        _code_of(self._left.pop(0))
        if not self._left:
            self._timer.stop()
