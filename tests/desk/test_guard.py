"""No exception in a column, a model or a painter gets through to the toolkit, which would end the process."""

import importlib
import inspect
import json
import os
import pkgutil
import subprocess
import sys
import tempfile
import unittest
from datetime import UTC, datetime
from pathlib import Path

from PySide6.QtCore import QSize
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QApplication, QWidget

import eager_lens.desk
from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.records.event_log.entry import Event, line_of
from eager_lens.core.site_check.run_file import runs_beside
from eager_lens.desk.guard import kept_within
from eager_lens.desk.widgets.page import TabbedPage
from eager_lens.desk.widgets.record_model import CANNOT_BE_SHOWN, RecordModel, TableColumn
from tests.desk.base import SessionCase, WindowCase
from tests.support import camera, demo_job, job_with, repeats

DRAWN = ("paintEvent", "paint", "drawBackground", "drawForeground")
LATEST = "2200-12-31T23:59"
"""The last moment that a job may hold."""
LAST_MOMENT = datetime(9999, 12, 31, 23, 59, 59, tzinfo=UTC)

WORDS_FOR_DATES = ("9999-12-31T23:59:59", "0001-01-01T00:00", "2026-99-99", "-", "\u0669999-12-31", "9" * 190)


def desk_classes():
    for found in pkgutil.walk_packages(eager_lens.desk.__path__, "eager_lens.desk."):
        module = importlib.import_module(found.name)
        yield from (one for one in vars(module).values() if inspect.isclass(one) and one.__module__ == found.name)


class Guarded(unittest.TestCase):
    def test_whatever_draws_stands_behind_the_guard(self):
        drawn = {
            f"{one.__name__}.{name}": vars(one)[name] for one in desk_classes() for name in DRAWN if name in vars(one)
        }
        self.assertGreater(len(drawn), 25)
        self.assertEqual([name for name, method in drawn.items() if not hasattr(method, "__wrapped__")], [])


class Failing(QWidget):
    """A widget whose painter fails with the painter open."""

    @kept_within
    def paintEvent(self, event):
        painter = QPainter(self)  # noqa: F841  (held by the frame that fails)
        raise OverflowError("date value out of range")


class KeptWithin(SessionCase):
    def no_trouble(self, hook):
        sys.excepthook = hook

    def test_a_column_that_fails_says_so_in_its_cell(self):
        def fails(part, assessment):
            raise OverflowError

        model = RecordModel([TableColumn("a", "A", fails), TableColumn("b", "B", lambda part, a: part.name)])
        job = job_with([camera(1)])
        model.show(job.cameras, assess(job), {})
        self.assertEqual(model.data(model.index(0, 0)), CANNOT_BE_SHOWN)
        self.assertEqual(model.data(model.index(0, 1)), "Camera 1")
        model.sort_by(0)
        self.until(lambda: self.troubles)
        self.assertIsInstance(self.troubles[0], OverflowError)

    def test_a_painter_that_fails_is_let_go(self):
        widget = Failing()
        widget.resize(QSize(40, 40))
        picture = QPixmap(40, 40)
        for _ in range(3):
            widget.render(picture)
        self.until(lambda: len(self.troubles) == 3)


class HostileDates(WindowCase):
    """Dates that no calendar has, through all views, drawn."""

    paints = True

    def job(self, words):
        document = json.loads(job_text(demo_job()))
        for name in ("checks", "walks", "snags", "mounting"):
            for part in document.get(name) or ():
                for key in ("at", "opened_at", "closed_at"):
                    if key in part or key == "at":
                        part[key] = words[:190]
                if name == "snags":
                    part.pop("at", None)
                    part["due"] = "2200-12-31"
        for part in document.get("filling") or ():
            part["at"] = LATEST
        for part in document.get("exceptions") or ():
            part["first"] = part["last"] = "2200-12-31"
        document["rehearsal"] = {"begins": LATEST}
        for one in document["cameras"]:
            one["measured_from"] = words
        return job_from_text(json.dumps(document))

    def test_every_view_is_drawn(self):
        for words in WORDS_FOR_DATES[: repeats(1, 3)]:
            self.open_job(self.job(words))
            for stage in ("wiring", "sizing", "addresses", "bench", "schedule", "motion", "proof", "handover"):
                self.window.go(stage)
                page = self.window.pages[stage]
                views = page._stack.count() if isinstance(page, TabbedPage) else 1
                for at in range(views):
                    if views > 1:
                        page.show_view(at)
                    QApplication.processEvents()
                    self.assertEqual(self.troubles, [], (words, stage, at))


class InAProcess(unittest.TestCase):
    """The program as it is started: a log and kept checks with moments at the end of the calendar beside a job."""

    CODE = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from eager_lens.desk import start

loaded = start._loaded

def with_log(*words):
    window = loaded(*words)

    def look():
        window.go("proof")
        page = window.pages["proof"]
        page.show_view(page._stack.indexOf(page.log))
        window.go("bench")
        QTimer.singleShot(1500, seen)

    def seen():
        print("looked", flush=True)
        QApplication.quit()

    QTimer.singleShot(800, look)
    return window

start._loaded = with_log
sys.exit(start.open_window(job_path=Path(sys.argv[1]), seconds=100))
"""

    def test_it_lives(self):
        with tempfile.TemporaryDirectory() as folder:
            job = Path(folder) / "yard.lens.json"
            job.write_text(job_text(job_with([camera(1)])), "utf-8")
            # As somebody would write it who can make hashes.
            line = line_of(Event("log begun", "Begin"), 1, (), LAST_MOMENT, "W. Ash", "test")
            job.with_name("yard.log.jsonl").write_bytes(line + b"\n")
            runs_beside(job).write_text('{"at": "9999-12-31T23:59:59Z"}\n')
            environment = {
                **os.environ,
                "QT_QPA_PLATFORM": "offscreen",
                "TZ": "Europe/Berlin",
                "XDG_CONFIG_HOME": folder,
                "XDG_STATE_HOME": folder,
                "PYTHONPATH": os.pathsep.join(path for path in sys.path if path),
            }
            command = [sys.executable, "-c", self.CODE, str(job)]
            done = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=120, check=False)
        self.assertEqual((done.returncode, done.stdout.strip()), (0, "looked"), done.stderr)
