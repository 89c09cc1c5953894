"""Pages are made one by one when the window has nothing to do, so that the first look at each does not wait for it."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer

from eager_lens.core.present.stages import STAGES
from eager_lens.desk.background import RIGHT_OF_WAY
from eager_lens.desk.window import Window


class PagePreloader(QObject):
    """Makes the pages of a window that has a job open."""

    EVERY_MS = 250

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self._left = list(STAGES)
        self._timer = QTimer(self, interval=self.EVERY_MS)
        self._timer.timeout.connect(self._make)
        self._timer.start()

    def _make(self) -> None:
        if self._window.session.is_open and RIGHT_OF_WAY.is_free:
            self._window.make_ready(self._left.pop(0))
            if not self._left:
                self._timer.stop()
