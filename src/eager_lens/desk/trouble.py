"""What nobody foresaw: an error inside the program is told and kept, and the work goes on."""

from __future__ import annotations

import contextlib
import sys
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QTimer

from eager_lens import __version__

Tell = Callable[[str], None]


def catch_troubles(folder: Path, tell: Tell) -> None:
    """From now on, write what nobody caught to ``trouble.txt`` in a folder, and tell the person.

    The text holds the places in the program's code and the error, and nothing of the job. What comes again and again, as from
    a cell that is painted many times, is told once.
    """
    told: set[str] = set()

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        sys.__excepthook__(kind, error, trace)
        if not issubclass(kind, Exception):
            return
        text, where = trouble_text(kind, trace), folder / "trouble.txt"
        if text in told:
            return
        told.add(text)
        with contextlib.suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
            where.write_text(text, "utf-8")
        words = (
            f"An internal error occurred ({kind.__name__}). Your work is still here: save it under a new name. A report is in "
            f"{where}."
        )
        # Not at once: it may have happened while the window is painted, when nothing may be shown or moved.
        QTimer.singleShot(0, lambda: tell(words))

    sys.excepthook = hook


def trouble_text(kind: type[BaseException], trace: TracebackType | None) -> str:
    """The error's kind and its places. Its message is left out: it may hold a name or an address of the job."""
    places = [f"  {Path(frame.filename).name}:{frame.lineno} in {frame.name}" for frame in traceback.extract_tb(trace)]
    return "\n".join([f"Eager Lens {__version__}, Python {sys.version.split()[0]}", kind.__name__, *places]) + "\n"
