"""Python's cyclic garbage collector, run on the window's thread when it has time.

Left to itself it runs whenever enough objects were made, on whichever thread made the last: in the middle of an edit of a large job
that takes half a second, and on another thread it would end timers and widgets that are not its own, which ends the process.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer

EVERY_MS = 1000
YOUNG, WHOLE = 5_000, 20
"""New objects before a collection, and collections before a full one (of everything not frozen)."""

OPENINGS, MOST_FROZEN = 8, 500_000
"""Jobs after which everything is searched, unless there are more objects than that, which would take too long. It takes a
sixth of a second; without it, 24 openings of the demo job left 390 MB instead of 320."""


class GuiThreadCollector(QObject):
    """Takes over from Python's own collector for as long as it lives."""

    opened = 0
    """Jobs opened since all was looked through."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        gc.disable()
        self._looks = 0
        self._timer = QTimer(self, interval=EVERY_MS)
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def look(self) -> None:
        """Look through what is new, if there is much of it; after some jobs through all."""
        if GuiThreadCollector.opened >= OPENINGS:
            GuiThreadCollector.opened = 0
            if gc.get_freeze_count() < MOST_FROZEN:
                gc.unfreeze()
                gc.collect()
                gc.freeze()
        if gc.get_count()[0] < YOUNG:
            return
        self._looks += 1
        gc.collect(1 if self._looks % WHOLE else 2)


def freeze_long_lived() -> None:
    """What lives now will live for long (a job was opened): it is not looked through again soon."""
    GuiThreadCollector.opened += 1
    gc.freeze()
