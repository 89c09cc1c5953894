"""Looking for rubbish (objects that only hold each other) on the window's thread, when it has time.

Left to itself Python looks whenever enough objects were made, on whichever thread made the last: in the middle of an edit
of a large job that takes half a second, and on another thread it would end timers and widgets that are not its own, which
ends the process.
"""

from __future__ import annotations

import ctypes
import gc

from PySide6.QtCore import QObject, QTimer

_C = ctypes.CDLL(None)
M_ARENA_MAX = -8  # malloc.h

EVERY_MS = 1000
YOUNG, WHOLE = 5_000, 20
"""So many new objects are worth a look, and every so many looks one goes through everything that is not kept out."""

OPENINGS, MOST_KEPT_OUT = 8, 500_000
"""After so many jobs all is looked through again, unless there are more objects than that, which would take too long. It takes a
sixth of a second, and finds some hundred objects: what a job leaves behind goes by itself, but for what holds itself."""


class Rubbish(QObject):
    """Takes over from Python's own collector for as long as it lives."""

    opened = 0
    """Jobs opened since all was looked through."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        gc.disable()
        _few_arenas()
        self._looks = 0
        self._timer = QTimer(self, interval=EVERY_MS)
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def look(self) -> None:
        """Look through what is new, if there is much of it; after some jobs through all."""
        if Rubbish.opened >= OPENINGS:
            Rubbish.opened = 0
            if gc.get_freeze_count() < MOST_KEPT_OUT:
                gc.unfreeze()
                gc.collect()
                gc.freeze()
        if gc.get_count()[0] < YOUNG:
            return
        self._looks += 1
        if self._looks % WHOLE:
            gc.collect(1)
        else:
            gc.collect(2)
            _give_back()


def _give_back() -> None:
    """Have the C library hand memory that nobody uses any more back to the system, where it can."""
    trim = getattr(_C, "malloc_trim", None)
    if trim is not None:
        trim(0)


def _few_arenas() -> None:
    """Have the C library keep few stores of free memory: by itself it keeps eight a processor, and large pictures that come
    and go on many threads leave all of them full of holes."""
    option = getattr(_C, "mallopt", None)
    if option is not None:
        option(M_ARENA_MAX, 2)


def keep_out() -> None:
    """What lives now will live for long (a job was opened): it is not looked through again soon."""
    Rubbish.opened += 1
    gc.freeze()
