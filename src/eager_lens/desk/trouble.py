"""What nobody foresaw: an error inside the program is told and kept, and the work goes on."""

from __future__ import annotations

import contextlib
import sys
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from eager_lens import __version__

Tell = Callable[[str], None]


def catch_troubles(folder: Path, tell: Tell) -> None:
    """From now on, write what nobody caught to ``trouble.txt`` in a folder, and tell the person.

    The text holds the places in the program's code and the error, and nothing of the job.
    """

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        sys.__excepthook__(kind, error, trace)
        if not issubclass(kind, Exception):
            return
        where = folder / "trouble.txt"
        with contextlib.suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
            where.write_text(trouble_text(kind, trace), "utf-8")
        tell(
            f"Something went wrong inside the program ({kind.__name__}). Your work is still here: save it under a new name. "
            f"What to report is in {where}."
        )

    sys.excepthook = hook


def trouble_text(kind: type[BaseException], trace: TracebackType | None) -> str:
    """The error's kind and its places. Its message is left out: it may hold a name or an address of the job."""
    places = [f"  {Path(frame.filename).name}:{frame.lineno} in {frame.name}" for frame in traceback.extract_tb(trace)]
    return "\n".join([f"Eager Lens {__version__}, Python {sys.version.split()[0]}", kind.__name__, *places]) + "\n"
