"""Every page and tab in narrow and wide windows, at both type sizes: no words are cut off, no two parts overlap."""

import os
import subprocess
import sys
import unittest

from PySide6.QtCore import QPoint, QRect
from PySide6.QtWidgets import (
    QAbstractScrollArea,
    QApplication,
    QCheckBox,
    QLabel,
    QPushButton,
    QSplitterHandle,
    QWidget,
)
from tools.trial.windows import in_sight

from eager_lens.core.job.edits import set_fields
from eager_lens.core.present.stages import STAGES
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import WIDTH
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.window import Window
from tests.desk.base import WindowCase
from tests.support import one_in, takes_long

STATES = (
    ((1280, 800), ()),
    ((1024, 700), ("dark",)),
    ((1280, 800), ("large", "dark")),
    ((1024, 700), ("large",)),
)
"""Window sizes, each with what is switched on: both type sizes and both themes at both sizes."""

SCALED = "EAGER_LENS_TEST_SCALED"
"""Set for a run of this module at another scale factor, which goes through half of the states."""
LONG = "The very long name of a camera behind the second gate of the yard"


def cut_off(root):
    """Words that are wider than the room that they have, where no tool tip gives them whole."""
    for widget in in_sight(root):
        if not isinstance(widget, QPushButton | QLabel | QCheckBox):
            continue
        if isinstance(widget, QLabel) and (widget.wordWrap() or (widget.pixmap() and not widget.pixmap().isNull())):
            continue
        text = max(widget.text().replace("&", "").split("\n"), key=len, default="")
        wide = widget.fontMetrics().horizontalAdvance(text)
        room = widget.contentsRect().width()
        if text and wide > room + 2 and text not in widget.toolTip():
            yield f"{type(widget).__name__} {text[:50]!r} is {wide} px wide and has {room}"


def overlapping(root):
    """Pairs of parts of one parent that share more than a seam."""
    for parent in in_sight(root):
        if isinstance(parent, QAbstractScrollArea):
            continue
        parts = [
            one
            for one in parent.children()
            if isinstance(one, QWidget)
            and one.isVisible()
            and not one.isWindow()
            and not isinstance(one, QSplitterHandle)
        ]
        rects = [(one, QRect(one.mapTo(root, QPoint(0, 0)), one.size())) for one in parts]
        for at, (one, rect) in enumerate(rects):
            for other, second in rects[at + 1 :]:
                shared = rect.intersected(second)
                if shared.width() > 3 and shared.height() > 3:
                    yield f"{words_of(one)} overlaps {words_of(other)} by {shared.width()} x {shared.height()} px"


def words_of(widget):
    text = widget.text()[:40] if hasattr(widget, "text") and callable(widget.text) else widget.accessibleName()
    return f"{type(widget).__name__} {text!r}"


class Layout(WindowCase):
    draws_curves = True
    watches_windows = True
    paints = True

    def views(self):
        """Each page, and each tab of it, in sight one after the other."""
        for stage in STAGES:
            self.window.go(stage)
            page = self.window.pages[stage]
            tabs = [
                one
                for one in page.findChildren(QPushButton)
                if one.isVisible() and one.property("kind") == "tab" and one.isEnabled()
            ]
            if not tabs:
                self.wait_for_work()
                yield stage, "", page
            for tab in tabs:
                if tab.isVisible():
                    tab.click()
                    self.wait_for_work()
                    yield stage, tab.text(), page

    def test_no_words_are_cut_off_and_nothing_overlaps(self):
        self.open_demo()
        self.session.apply(set_fields(["cam-1", "rec-1"], "Long names", name=LONG))
        self.window.setUpdatesEnabled(False)  # what counts is where things are, not their picture
        for size, on in STATES[::2] if SCALED in os.environ else one_in(len(STATES), STATES):
            self.session.set_preferences(
                self.session.preferences.model_copy(update={"dark": "dark" in on, "large_type": "large" in on})
            )
            self.window.resize(*size)
            for stage, tab, page in self.views():
                with self.subTest(stage=stage, tab=tab, size=size, on=on):
                    self.assertEqual([*cut_off(page), *overlapping(page)], [])


class Scaled(unittest.TestCase):
    """The same walk on screens of other densities: the factor is set before the toolkit starts."""

    def at(self, factor):
        environment = {**os.environ, "QT_SCALE_FACTOR": str(factor), SCALED: "1"}
        walk = [sys.executable, "-m", "unittest", "tests.desk.test_layout.Layout"]
        ended = subprocess.run(walk, env=environment, capture_output=True, text=True, timeout=300, check=False)
        self.assertEqual(ended.returncode, 0, ended.stderr[-3000:])
        self.assertIn("Ran 1 test", ended.stderr)

    @takes_long
    def test_at_one_and_a_half(self):
        self.at(1.5)

    @takes_long
    def test_at_two(self):
        self.at(2)


class OnASmallScreen(unittest.TestCase):
    def test_the_window_is_never_larger_than_the_screen(self):
        code = (
            "from eager_lens.desk.start import application\n"
            "from eager_lens.desk.shell import Shell\n"
            "from PySide6.QtWidgets import QWidget\n"
            "app = application(); shell = Shell('', QWidget); shell.show(); room = app.primaryScreen().availableSize()\n"
            "print(shell.width() <= room.width() and shell.height() <= room.height(), room.toTuple())"
        )
        for factor, room in ((1, "(800, 800)"), (1.5, "(533, 533)")):
            environment = {**os.environ, "QT_SCALE_FACTOR": str(factor), "QT_QPA_PLATFORM": "offscreen"}
            got = subprocess.run(
                [sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=True
            )
            self.assertEqual(got.stdout.strip(), f"True {room}")


class Dressed(WindowCase):
    paints = True

    def test_fields_grow_with_the_type_and_a_narrow_window_stays_narrow(self):
        self.open_demo("motion").show_view(1)
        bar = self.window.pages["motion"].trying.bar
        field = next(one for one in in_sight(bar) if isinstance(one, NumberField))
        before = field.width()
        self.session.apply(set_fields(["cam-1"], "Any step, so that undo has words", name=LONG))
        self.session.set_preferences(self.session.preferences.model_copy(update={"large_type": True}))
        self.window.resize(1024, 700)
        QApplication.processEvents()
        self.assertEqual(field.width(), look.px(before))
        self.assertGreater(field.width(), field.fontMetrics().horizontalAdvance(field.text()))
        for stage in STAGES:
            self.window.go(stage)
            QApplication.processEvents()
            with self.subTest(stage):
                self.assertEqual(self.window.width(), 1024)

    def test_a_window_that_begins_in_large_type_is_as_wide_in_its_parts_as_one_that_was_changed(self):
        def widths():
            page = self.open_demo("schedule")
            return [one.width() for one in in_sight(page) if one.property(WIDTH) is not None]

        normal = widths()
        self.session.set_preferences(self.session.preferences.model_copy(update={"large_type": True}))
        changed = widths()
        self.assertGreater(changed[0], normal[0])
        self.close_window()
        self.window = Window(self.new_session(), self.asker)
        self.session = self.window.session
        self.assertTrue(self.session.preferences.large_type)
        self.window.resize(1280, 800)
        self.window.show()
        self.assertEqual(widths(), changed)

    def test_a_tab_out_of_sight_is_in_the_look_of_now_when_it_comes_into_sight(self):
        page = self.open_demo("sizing")
        self.press(page, "Recorders")
        self.press(page, "Cameras")

        def size():
            return page.recorders.font().pixelSize()

        before = size()
        self.window.run("large")
        self.assertEqual(size(), before, "what is out of sight waits")
        self.press(page, "Recorders")
        self.assertEqual(size(), look.px(13))
        self.assertGreater(size(), before)
