"""The real window without a screen, in a folder of its own, for children of the trial."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from PySide6.QtCore import QThreadPool
from PySide6.QtWidgets import QApplication, QWidget

from eager_lens.core.job.file import job_from_text
from eager_lens.core.job.model import Job
from eager_lens.desk.window import Window, demo_text


class Answers:
    """Answers every question by chance, or the safe one; files are in one folder."""

    def __init__(self, folder: Path, chance: Any = None) -> None:
        self._folder, self._chance = folder, chance

    def open_file(self, title: str, kinds: Sequence[Any], start: Path | None = None) -> Path | None:
        """A file to read: one that is there, of any kind."""
        files = sorted(path for path in self._folder.iterdir() if path.is_file())
        return self._chance.choice([None, *files]) if self._chance and files else None

    def save_file(self, title: str, kind: Any, proposed: Path) -> Path | None:
        """A file to write."""
        if self._chance is None or self._chance.random() < 0.2:
            return None
        return self._folder / f"out-{self._chance.randrange(6)}{self._chance.choice(['', *kind.endings])}"

    def ask(self, title: str, text: str, answers: Sequence[str], safe: int) -> int:
        """One of the answers."""
        return self._chance.randrange(len(answers)) if self._chance else safe


def demo_job() -> Job:
    """The demo job."""
    return job_from_text(demo_text())


def work_ended(pool: QThreadPool, seconds: float) -> bool:
    """Whether work in the background comes to its end within so long. The event loop runs meanwhile: work waits for it."""
    deadline = time.monotonic() + seconds
    while not pool.waitForDone(4):
        QApplication.processEvents()
        if time.monotonic() > deadline:
            return False
    return True


def in_sight(root: QWidget) -> Iterator[QWidget]:
    """A widget and all below it that are in sight, parents first. Most of a window is out of sight, and not looked at."""
    waiting = [root]
    while waiting:
        widget = waiting.pop()
        if widget.isVisible():
            yield widget
            waiting += [child for child in reversed(widget.children()) if isinstance(child, QWidget)]


def window_in(home: Path, answers: Any = None) -> tuple[Any, Window]:
    """A window whose preferences and copies lie in a folder."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from eager_lens.desk.collector import GuiThreadCollector
    from eager_lens.desk.page_preloader import PagePreloader
    from eager_lens.desk.session import Session
    from eager_lens.desk.start import application
    from eager_lens.desk.trouble import catch_troubles

    home.mkdir(parents=True, exist_ok=True)
    app = application()
    session = Session(home / "config", home / "state")
    catch_troubles(home, lambda text: session.notice(text, needs=True))
    window = Window(session, answers or Answers(home))
    GuiThreadCollector(window)
    PagePreloader(window)
    window.resize(1280, 800)
    window.show()
    sys.stdout.flush()
    return app, window
