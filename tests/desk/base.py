"""The real window, without a screen: a session in a temporary folder, answers instead of dialogs, and helpers."""

import sys
import time
import traceback
from functools import cache
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt, QThreadPool
from PySide6.QtGui import QGuiApplication, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton, QWidget
from tools.trial.windows import work_ended

from eager_lens.core.assess.assessment import assess
from eager_lens.core.records.sealed.vault import Costs
from eager_lens.desk.session import Session
from eager_lens.desk.shell import Shell
from eager_lens.desk.start import application
from eager_lens.desk.theme import look
from eager_lens.desk.window import Window
from tests.support import FolderCase, demo_job


class FakeAsker:
    """Answers questions from lists, and remembers what was asked."""

    def __init__(self):
        self.files, self.answers, self.asked = [], [], []

    def open_file(self, title, kinds, start=None):
        self.asked.append(title)
        return self.files.pop(0) if self.files else None

    def save_file(self, title, kind, proposed):
        self.asked.append(title)
        return self.files.pop(0) if self.files else None

    def ask(self, title, text, answers, safe):
        self.asked.append(text)
        return self.answers.pop(0) if self.answers else safe


GRAB = QWidget.grab


def no_picture(widget, *_):
    """Where nothing is painted, a picture would be an empty one."""
    raise AssertionError(f"{type(widget).__name__} is not painted: ask for picture_of it, or set paints = True")


def no_style(*_):
    """In place of the style: the window works without."""


def no_curve(*_):
    """In place of the days over a setting: nothing to draw."""
    return
    yield


@cache
def assessed_demo():
    """The demo job's figures: half of the tests open it."""
    return assess(demo_job())


def assess_once(job, before=None):
    """Assess a job; the demo job, opened anew, once a process."""
    return assessed_demo() if before is None and job is demo_job() else assess(job, before)


class SessionCase(FolderCase):
    """A session of its own, with what it said."""

    def setUp(self):
        super().setUp()
        self.app = application()
        # At full cost each key takes half a second; what that costs is a matter of tests.core.records.sealed.
        self.replace("eager_lens.core.records.sealed.vault.COSTS", Costs(2**14, 8, 1))
        # Looking through everything for garbage at each opening is for long sessions; here it would be a fifth of the time.
        self.replace("eager_lens.desk.session.freeze_long_lived", mock.Mock())
        self.replace("eager_lens.desk.session.assess", assess_once)
        self.notices = []
        # An error in a slot reaches nobody: it is collected, and fails the test at its end.
        self.troubles = []
        hook, sys.excepthook = sys.excepthook, lambda kind, error, trace: self.troubles.append(error)
        self.addCleanup(self.no_trouble, hook)
        self.session = self.new_session()

    def replace(self, name, what):
        """Have something else in a name's place until the test ends."""
        patched = mock.patch(name, what)
        patched.start()
        self.addCleanup(patched.stop)

    def no_trouble(self, hook):
        sys.excepthook = hook
        for error in self.troubles:
            raise error

    def new_session(self):
        session = Session(self.folder / "config", self.folder / "state")
        session.noticed.connect(self.notices.append)
        self.addCleanup(session.close)
        return session

    def until(self, holds, seconds=300):
        """Let the event loop run until something holds. Not by the toolkit's own wait, which keeps other threads from
        running in it."""
        begun = time.monotonic()
        while not holds():
            self.assertLess(time.monotonic() - begun, seconds, "it never came to pass")
            QApplication.processEvents()
            time.sleep(0.005)

    def wait_for_work(self):
        """Let work on other threads come to its end, and what it sends arrive."""
        for _ in range(3):
            work_ended(QThreadPool.globalInstance(), 20)
            work_ended(self.session._copying, 20)
            QApplication.processEvents()


class TopLevels(QObject):
    """Notes every window of its own that comes into sight besides those that are meant to: a widget without a parent that
    is shown for a moment flashes at the corner of the screen."""

    MEANT = (Qt.WindowType.Popup, Qt.WindowType.ToolTip, Qt.WindowType.Dialog)

    def __init__(self):
        super().__init__()
        self.strays = []

    def eventFilter(self, watched, event):
        if event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and self._is_stray(watched):
            where = " < ".join(f"{one.name}:{one.lineno}" for one in traceback.extract_stack()[-2:-6:-1])
            self.strays.append(f"{type(watched).__name__} {watched.accessibleName()!r}, shown in {where}")
        return False

    def _is_stray(self, widget):
        meant = isinstance(widget, Window | Shell) or widget.windowType() in self.MEANT
        return widget.isWindow() and not meant


class WindowCase(SessionCase):
    """A window in sight."""

    watches_windows = False
    """Whether every event is looked at for windows that nobody asked for, which takes a fifth more time."""
    draws_curves = False
    """Whether the Sizing page works its curve out, which for each job that is opened there takes as long as all the rest."""

    paints = False
    """Whether the window has its style and paints what changes at once, which takes twice the time; what there is at the end
    is painted in any case. Who looks at pictures, places or sizes needs it."""

    def setUp(self):
        super().setUp()
        if not self.draws_curves:
            self.replace("eager_lens.desk.pages.sizing.curve_view.days_curve", no_curve)
        if self.watches_windows:
            self.top_levels = TopLevels()
            QApplication.instance().installEventFilter(self.top_levels)
            self.addCleanup(self.no_stray_window)
        look.set_to(dark=False, large=False)
        self.asker = FakeAsker()
        self._bare = mock.patch.object(type(look), "apply_style", no_style)
        if not self.paints:
            self._bare.start()
            self.addCleanup(self._bare.stop)
        self.window = Window(self.session, self.asker)
        self.window.resize(1280, 800)
        if not self.paints:
            self.window.setUpdatesEnabled(False)
            self.replace("PySide6.QtWidgets.QWidget.grab", no_picture)
        self.window.show()
        self.be_active()
        self.addCleanup(self.close_window)

    def be_active(self):
        """Give the window the keyboard again after a dialog, as a window manager would; without a screen there is none. A
        dialog of progress comes unasked, when the machine is slow."""
        another = QApplication.activeModalWidget() or QApplication.activePopupWidget()
        if QApplication.activeWindow() is None and not another and self.window.isVisible():
            self.window.activateWindow()
            self.assertTrue(QTest.qWaitForWindowActive(self.window))

    def close_window(self):
        self.window.setUpdatesEnabled(True)
        QApplication.processEvents()
        self.session.close()
        self.window.close()
        self.wait_for_work()
        self.window.deleteLater()
        # Outside an event loop, only this deletes it; windows left over would be restyled in every later test.
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def no_stray_window(self):
        QApplication.instance().removeEventFilter(self.top_levels)
        self.assertEqual(self.top_levels.strays, [], "windows of their own that nobody required for")

    def open_demo(self, stage="sizing"):
        return self.open_job(demo_job(), stage)

    def open_job(self, job, stage="sizing"):
        self.session.start_job(job)
        self.window.go(stage)
        QApplication.processEvents()
        self.be_active()
        return self.window.pages[stage]

    def picture_of(self, widget):
        """What a widget looks like; from now on the window has its style and is painted."""
        self._bare.stop()
        look.apply_style(self.window)
        self.window.setUpdatesEnabled(True)
        QApplication.processEvents()
        return GRAB(widget)

    # ---- hands ---------------------------------------------------------------------------------------------------

    def key(self, widget, key, modifier=Qt.KeyboardModifier.NoModifier):
        self.be_active()
        QTest.keyClick(widget, key, modifier)
        QApplication.processEvents()

    def shortcut(self, key, modifier=Qt.KeyboardModifier.ControlModifier):
        self.be_active()
        QTest.keyClick(self.window.focusWidget() or self.window, key, modifier)
        QApplication.processEvents()

    def click(self, widget, point=None):
        self.be_active()
        where = QPoint(*point) if point else widget.rect().center()
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=where)
        QApplication.processEvents()

    def drag(self, widget, start, end, button=Qt.MouseButton.LeftButton):
        QTest.mousePress(widget, button, pos=QPoint(*start))
        steps = 8
        for step in range(1, steps + 1):
            at = [a + (b - a) * step / steps for a, b in zip(start, end, strict=True)]
            self._move(widget, QPoint(round(at[0]), round(at[1])), button)
        QTest.mouseRelease(widget, button, pos=QPoint(*end))
        QApplication.processEvents()

    def _move(self, widget, point, button):
        position = QPointF(point)
        event = QMouseEvent(
            QEvent.Type.MouseMove,
            position,
            QPointF(widget.mapToGlobal(point)),
            button,
            button,
            Qt.KeyboardModifier.NoModifier,
        )
        QApplication.sendEvent(widget, event)

    def press(self, parent, text):
        """Press the visible button whose words begin so."""
        QApplication.processEvents()
        for one in parent.findChildren(QPushButton):
            if one.isVisible() and one.text().startswith(text):
                self.click(one)
                return one
        shown = [one.text() for one in parent.findChildren(QPushButton) if one.isVisible()]
        raise AssertionError(f"no button {text!r}; there are {shown}")

    def put_cell(self, table, row, heading, text):
        """Type a text into a cell of a table, as a hand does: go there, Return, type, Return."""
        columns = [column.id for column in table.records.columns]
        index = table.records.index(row, columns.index(heading))
        table.setCurrentIndex(index)
        table.setFocus()
        self.key(table, Qt.Key.Key_F2)
        editor = self.window.focusWidget()
        line = editor.lineEdit() if isinstance(editor, QComboBox) else editor
        assert isinstance(line, QLineEdit), f"no editor opened, the keyboard is at {editor}"
        line.clear()
        QTest.keyClicks(editor, text)
        self.key(editor, Qt.Key.Key_Return)

    def cell(self, table, row, heading):
        columns = [column.id for column in table.records.columns]
        return table.records.index(row, columns.index(heading)).data()

    def row_named(self, table, name):
        for row in range(table.records.rowCount()):
            if table.records.index(row, 0).data() == name:
                return row
        raise AssertionError(f"no row {name!r}")

    def clipboard(self, text=None):
        if text is not None:
            QGuiApplication.clipboard().setText(text)
        return QGuiApplication.clipboard().text()

    def last_notice(self):
        return self.notices[-1].text if self.notices else ""

    def write(self, name, text):
        path = Path(self.folder) / name
        path.write_text(text, "utf-8")
        return path
