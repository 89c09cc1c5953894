"""Starting the window: an empty one at once, then the code and the job that fill it."""

from __future__ import annotations

import gc
import os
import signal
import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QWidget

from eager_lens.desk.shell import Shell
from eager_lens.desk.theme import look

OFFSCREEN_SECONDS = 5.0


def has_display() -> bool:
    """Whether there is a screen to show a window on, or the toolkit was told how to go without."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM"))


SWITCH_S = 0.0001
"""Most calls of the toolkit let other threads run and then wait for their turn: at Python's usual 5 ms a paint of a
thousand calls would take seconds while something is worked out in the background."""


def application() -> QApplication:
    """The application with fonts, palette and style sheet."""
    sys.setswitchinterval(SWITCH_S)
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("eager-lens")
    app.setApplicationDisplayName("Eager Lens")
    app.setDesktopFileName("eager-lens")
    look.apply()
    return app


def open_window(
    job_path: Path | None = None, demo: bool = False, seconds: float | None = None, tell: bool = False
) -> int:
    """Open the window and stay until it is closed; returns the exit status.

    ``seconds`` ends it by itself. With no display it runs offscreen, says so, and ends by itself too. ``tell`` prints
    a line when the window is in sight, and one when the job is.
    """
    if not has_display():
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        seconds = OFFSCREEN_SECONDS if seconds is None else seconds
        print(f"eager-lens: no display; running offscreen for {seconds:g} s", file=sys.stderr)
    # Loading makes tens of thousands of objects that all stay; looking through them for garbage is time lost.
    gc.disable()
    app = application()

    def load() -> QWidget:
        if tell:
            print("window painted", flush=True)
        return _loaded(job_path, demo, tell)

    words = "Opening the demo job…" if demo else f"Opening {job_path.name}…" if job_path else "Eager Lens"
    shell = Shell(words, load)
    shell.show()
    _end_on_signals(app)
    if seconds is not None:
        QTimer.singleShot(round(seconds * 1000), lambda: _end(app, shell))
    return app.exec()


def _loaded(job_path: Path | None, demo: bool, tell: bool) -> QWidget:
    """The window's content, with the job that was asked for."""
    from eager_lens.desk import autosave, preferences
    from eager_lens.desk.collector import GuiThreadCollector
    from eager_lens.desk.page_preloader import PagePreloader
    from eager_lens.desk.session import Session
    from eager_lens.desk.trouble import catch_troubles
    from eager_lens.desk.window import Window

    session = Session(preferences.folder(), autosave.folder())
    catch_troubles(autosave.folder().parent, lambda text: session.notice(text, needs=True))
    window = Window(session)
    if demo:
        window.open_demo()
    elif job_path is not None:
        window.open_path(job_path)
    # What was made since the job was opened stays too. To look for garbage now would take a tenth of the start.
    gc.freeze()
    GuiThreadCollector(window)
    PagePreloader(window)
    if tell:
        QTimer.singleShot(0, lambda: print("job drawn", flush=True))
    return window


def _end(app: QApplication, shell: Shell) -> None:
    """End by itself, asking nothing: what is open then was opened only to be looked at."""
    session = getattr(shell.centralWidget(), "session", None)
    if session is not None:
        session.close()
    app.quit()


def _end_on_signals(app: QApplication) -> None:
    """Let Ctrl+C end the program: Python sees signals only while it runs, so it is woken now and then."""
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    timer = QTimer(app, interval=400)
    timer.timeout.connect(lambda: None)
    timer.start()
