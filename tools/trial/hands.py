"""Random keys, clicks, drags and texts on every page of the real window, with a watchdog on its event loop."""

from __future__ import annotations

import faulthandler
import gc
import json
import os
import random
import re
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tools.trial.forked import forked, kill
from tools.trial.report import Row

STALL_S = 1.0
EVERY_MS = 30
MOST_GROWTH = 1.3
AT_REST_EVERY_S, REST_MS = 75.0, 1500
"""So often a fresh demo job is opened and left alone for a moment, and memory is measured: of a job that grows under random
hands it would tell how the job grew."""
SEGMENT_MIN = 30.0
"""Each process is used for so long."""
TEXTS = (
    *(
        "12",
        "0",
        "-5",
        "1e9",
        "Gate",
        "172.22.40.61",
        "02:4c:00:00:00:1f",
        "1920x1080",
        "",
        "x" * 300,
        "\0\ud800",
        "0,5",
    ),
    *("<img src='file:///dev/zero'>", "=1+1", "08:15", "Name\tPlace\nGate\tYard\n", "2026-02-30", "漢字\u202e"),
)


def random_use(minutes: float, seed: int, cameras: int = 0, progress: bool = False) -> list[Row]:
    """So many minutes of random use, in processes of their own, each with the next seed; with so many cameras more than the demo
    job has."""
    parts: list[dict[str, Any]] = []
    problems: list[str] = []
    left = minutes
    while left > 0:
        length = min(left, SEGMENT_MIN)
        part, ended = _segment(length, seed + len(parts), cameras, progress)
        for line in part.get("stalls", ()):
            print(f"seed {seed + len(parts)}: {line}", file=sys.stderr, flush=True)
        problems += [*part.get("errors", []), *([ended] if ended else [])]
        parts.append(part)
        left -= length
    acts = sum(part.get("acts", 0) for part in parts)
    stalls = sum(len(part.get("stalls", ())) for part in parts)
    worst = max(parts, key=lambda part: part.get("worst_s", 0.0))
    pages = {page for part in parts for page in part.get("pages", [])}
    growths = [_growth(part.get("memory_mb", [])) for part in parts]
    most = max(growths, key=lambda one: one[0])
    return [
        Row(
            "random use: errors and ends",
            acts,
            len(problems),
            problems[0] if problems else "",
            f"{minutes:g} min, {len(pages)} pages",
        ),
        Row(
            "random use: stalls over 1 s",
            acts,
            stalls,
            worst.get("worst_at", "") if stalls else "",
            f"worst {worst.get('worst_s', 0):.2f} s",
            timed=True,
        ),
        Row(
            "random use: memory grows over 1.3 times",
            len(parts),
            sum(one[0] > MOST_GROWTH for one in growths),
            "",
            f"most: {most[1]:.0f} to {most[2]:.0f} MB, {most[0]:.2f} times",
            timed=True,
        ),
    ]


def _growth(memory_mb: list[float]) -> tuple[float, float, float]:
    """The last third against the middle one, by their medians: pages are seen for the first time in the first."""
    third = max(1, len(memory_mb) // 3)
    middle, last = (
        sorted(part)[len(part) // 2] if part else 0.0 for part in (memory_mb[third : 2 * third], memory_mb[-third:])
    )
    return (last / middle if middle else 1.0), middle, last


def _segment(minutes: float, seed: int, cameras: int, progress: bool) -> tuple[dict[str, Any], str]:
    """What one process told, and how it ended if not by itself."""
    with tempfile.TemporaryDirectory(prefix="trial-") as name:
        folder = Path(name)
        result_file = folder / "told.json"
        child = forked(lambda: _use(minutes, seed, cameras, folder, result_file), quiet=not progress)
        # Twice the time, for a machine that does something else too.
        deadline = time.monotonic() + minutes * 120 + 120
        status = None
        while status is None and time.monotonic() < deadline:
            ended, code = os.waitpid(child, os.WNOHANG)
            status = code if ended else None
            time.sleep(0.2)
        if status is None:
            kill(child)
        found: dict[str, Any] = json.loads(result_file.read_text("utf-8")) if result_file.exists() else {}
        last = _read(folder / LAST_ACT).strip("\0 ")
        died_at = _read(folder / DIED_AT).rpartition("Current thread")[2]
        where = " < ".join(re.findall(r'([^/"]+", line \d+)', died_at)[:6]).replace('", line ', ":")
    if status == 0 and found.get("ended"):
        return found, ""
    return found, f"seed {seed}: the process ended by status {status}; last: {last}; at {where or 'no known place'}"


LAST_ACT, DIED_AT = "last-act.txt", "died-at.txt"


def _read(path: Path) -> str:
    return path.read_text("utf-8", "replace") if path.exists() else ""


def _use(minutes: float, seed: int, cameras: int, folder: Path, result_file: Path) -> None:
    from PySide6.QtCore import QTimer
    from tools.trial.watchdog import Watchdog, resident_mb, trim
    from tools.trial.windows import Answers, demo_job, window_in

    from eager_lens.core.job.edits import add_like
    from eager_lens.core.present.stages import STAGES
    from eager_lens.desk.background import stop_tasks_of
    from eager_lens.desk.theme import look

    chance = random.Random(seed)
    files = folder / "files"
    files.mkdir()
    app, window = window_in(folder / "home", Answers(files, chance))
    window.session.start_job(demo_job())
    window.go("wiring")
    errors: list[str] = []
    found: dict[str, Any] = {"acts": 0, "errors": errors, "memory_mb": [], "pages": [], "last": ""}

    def hook(kind: Any, error: Any, trace: Any) -> None:
        import traceback

        frames = traceback.extract_tb(trace)
        where = " < ".join(f"{Path(one.filename).name}:{one.lineno}" for one in frames[::-1][:5])
        errors.append(
            f"seed {seed}, act {found['acts']} ({found['last']}): {kind.__name__} {str(error)[:90]!r} at {where}"
        )
        print(errors[-1], file=sys.stderr, flush=True)

    sys.excepthook = hook
    died_at = (folder / DIED_AT).open("w")  # open for as long as the process lives
    faulthandler.enable(died_at)
    last_act = os.open(folder / LAST_ACT, os.O_WRONLY | os.O_CREAT)

    def tell(what: str) -> None:
        # At once: a process that is about to die has no later.
        os.pwrite(last_act, what.encode("utf-8", "replace")[:200].ljust(200), 0)
        found["last"] = what

    def after() -> str:
        job, large = window.session.job if window.session.is_open else None, " in large type" if look.large else ""
        return f", after {found['last']}{large}, {len(job.cameras) if job else 'no'} cameras"

    watch = Watchdog(app, STALL_S, after)
    begun = time.monotonic()
    hand = Hand(window, chance, tell)
    next_memory = next_page = 0.0
    rested_at = -1

    def save(ended: bool) -> None:
        found.update(worst_s=watch.worst_s, worst_at=watch.worst_at, stalls=watch.told, ended=ended)
        result_file.write_text(json.dumps(found), "utf-8")

    def rest() -> None:
        timer.stop()
        for _ in range(20):
            popup = app.activePopupWidget() or app.activeModalWidget()
            if popup is None:
                break
            popup.close()
        window.session.start_job(demo_job())
        window.go("wiring")
        stop_tasks_of(window)
        QTimer.singleShot(min(REST_MS, round(minutes * 6000)), rested)

    def rested() -> None:
        with watch.looking_away():
            gc.collect()
            trim()
        found["memory_mb"].append(resident_mb())
        save(False)
        if cameras and window.session.is_open:
            window.session.apply(add_like(window.session.job.cameras[0].id, cameras))
        timer.start()

    def act() -> None:
        nonlocal next_memory, next_page, rested_at
        passed = time.monotonic() - begun
        # On however slow a machine, something is done between two rests, and before the end.
        if passed > minutes * 60 and found["acts"]:
            timer.stop()
            save(True)
            window.session.close()
            app.exit(0)
            return
        if passed > next_memory and found["acts"] > rested_at:
            rested_at = found["acts"]
            next_memory = passed + min(AT_REST_EVERY_S, minutes * 8)
            rest()
            return
        if passed > next_page:
            next_page = passed + min(20.0, minutes * 6)
            stage = (
                STAGES[len(found["pages"]) % len(STAGES)]
                if len(found["pages"]) < len(STAGES)
                else chance.choice(STAGES)
            )
            if not window.session.is_open:
                window.session.start_job(demo_job())
            window.go(stage)
            if stage not in found["pages"]:
                found["pages"].append(stage)
        found["acts"] += 1
        hand.act()

    timer = QTimer(interval=EVERY_MS)
    timer.timeout.connect(act)
    timer.start()
    app.exec()


class Hand:
    """Does one thing at a time to whatever is in sight."""

    def __init__(self, window: Any, chance: random.Random, tell: Callable[[str], None] = lambda what: None) -> None:
        self._window, self._chance, self._tell = window, chance, tell

    def _told(self, what: str) -> str:
        """Tell what comes next; and what it was, for afterwards."""
        self._tell(f"{what} on {getattr(self._window, 'stage', '')}")
        return what

    def act(self) -> str:
        """One act; what it was."""
        from PySide6.QtWidgets import QApplication
        from tools.trial.windows import in_sight

        chance = self._chance
        popup = QApplication.activePopupWidget() or QApplication.activeModalWidget()
        root = popup or self._window
        seen = [one for one in in_sight(root) if one is not root and one.width() > 2 and one.height() > 2]
        if not seen:
            if popup is not None:
                popup.close()
            return "nothing in sight"
        how = chance.random()
        if popup is not None and how < 0.3:
            what = self._told(f"close {type(popup).__name__}")
            popup.close()
            return what
        if how < 0.06:
            return self._history()
        if how < 0.10:
            return self._shortcut()
        if how < 0.12:
            return self._resize()
        target = chance.choice(seen)
        if how < 0.55:
            return self._click(target)
        if how < 0.63:
            return self._drag(target)
        if how < 0.70:
            return self._wheel(target)
        if how < 0.82:
            return self._type(target)
        return self._key()

    def _history(self) -> str:
        session = self._window.session
        act = self._chance.choice((session.undo, session.undo, session.redo))
        what = self._told(act.__name__)
        act()
        return what

    def _shortcut(self) -> str:
        from eager_lens.desk.actions import ACTIONS

        action = self._chance.choice([one for one in ACTIONS if one.id not in ("quit", "start")])
        what = self._told(f"command {action.id}")
        self._window.run(action.id)
        return what

    def _resize(self) -> str:
        wide, tall = self._chance.randrange(860, 1500), self._chance.randrange(560, 1000)
        what = self._told(f"resize to {wide} x {tall}")
        self._window.resize(wide, tall)
        return what

    def _place(self, target: Any) -> Any:
        from PySide6.QtCore import QPoint

        return QPoint(self._chance.randrange(target.width()), self._chance.randrange(target.height()))

    def _click(self, target: Any) -> str:
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest

        none = Qt.KeyboardModifier.NoModifier
        keys = self._chance.choice(
            (none, none, none, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier)
        )
        button = self._chance.choice((Qt.MouseButton.LeftButton,) * 6 + (Qt.MouseButton.RightButton,))
        act = QTest.mouseDClick if self._chance.random() < 0.12 else QTest.mouseClick
        what = self._told(f"{act.__name__} {type(target).__name__}")
        act(target, button, keys, self._place(target))
        return what

    def _drag(self, target: Any) -> str:
        from PySide6.QtCore import QEvent, QPointF, Qt
        from PySide6.QtGui import QMouseEvent
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QAbstractItemView, QApplication

        if isinstance(target.parent(), QAbstractItemView):
            return "no drag out of a table: it would wait for a hand"
        what = self._told(f"drag on {type(target).__name__}")
        start, end = self._place(target), self._place(target)
        QTest.mousePress(target, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
        for share in (0.3, 0.7, 1.0):
            at = QPointF(start) + (QPointF(end) - QPointF(start)) * share
            left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
            event = QMouseEvent(QEvent.Type.MouseMove, at, QPointF(target.mapToGlobal(at)), left, left, none)
            QApplication.sendEvent(target, event)
        QTest.mouseRelease(target, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)
        return what

    def _wheel(self, target: Any) -> str:
        from PySide6.QtCore import QPoint, QPointF, Qt
        from PySide6.QtGui import QWheelEvent
        from PySide6.QtWidgets import QApplication

        at = QPointF(self._place(target))
        keys = self._chance.choice((Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier))
        turn = QPoint(0, self._chance.choice((-480, -120, 120, 480)))
        what = self._told(f"wheel on {type(target).__name__}")
        phase = Qt.ScrollPhase.NoScrollPhase
        none = Qt.MouseButton.NoButton
        QApplication.sendEvent(
            target, QWheelEvent(at, QPointF(target.mapToGlobal(at)), QPoint(), turn, none, keys, phase, False)
        )
        return what

    def _type(self, target: Any) -> str:
        from PySide6.QtCore import Qt
        from PySide6.QtGui import QGuiApplication
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit

        target = QApplication.focusWidget() or target
        text = self._chance.choice(TEXTS)
        what = self._told(f"type {text[:12]!r} into {type(target).__name__}")
        if isinstance(target, QLineEdit | QPlainTextEdit) or self._chance.random() < 0.3:
            QGuiApplication.clipboard().setText(text.encode("utf-8", "replace").decode())
            QTest.keyClick(target, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        else:
            QTest.keyClicks(
                target, "".join(letter for letter in text[:12] if letter.isascii() and letter.isprintable())
            )
        if self._chance.random() < 0.6:
            QTest.keyClick(target, self._chance.choice((Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape)))
        return what

    def _key(self) -> str:
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication

        keys = (
            *(Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Space),
            *(
                Qt.Key.Key_Tab,
                Qt.Key.Key_Delete,
                Qt.Key.Key_Escape,
                Qt.Key.Key_Home,
                Qt.Key.Key_End,
                Qt.Key.Key_PageDown,
            ),
            *(
                Qt.Key.Key_F2,
                Qt.Key.Key_F6,
                Qt.Key.Key_Plus,
                Qt.Key.Key_Minus,
                Qt.Key.Key_A,
                Qt.Key.Key_M,
                Qt.Key.Key_Backspace,
            ),
        )
        key = self._chance.choice(keys)
        none = Qt.KeyboardModifier.NoModifier
        modifier = self._chance.choice(
            (none, none, none, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier)
        )
        what = self._told(f"key {key.name}")
        QTest.keyClick(QApplication.focusWidget() or self._window, key, modifier)
        return what
