"""Without a mouse and without eyes: Tab reaches everything as one reads, and a screen reader has words for all of it."""

import itertools

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QPushButton,
    QScrollArea,
)
from tools.trial.windows import in_sight

from eager_lens.core.job.edits import set_fields
from eager_lens.core.present.stages import STAGES
from eager_lens.desk.pages.addresses.mosaic import Mosaic
from eager_lens.desk.pages.schedule.week_strip import WeekStrip
from eager_lens.desk.theme import look
from tests.desk.base import WindowCase
from tests.desk.test_look import contrast
from tests.desk.test_searching import tabs_of
from tests.support import one_in

NO_ROLE = (QAccessible.Role.NoRole, QAccessible.Role.Client)


def controls(root):
    """What the keyboard can be at, in sight; not the inside of fields that are one to the eye."""
    for one in in_sight(root):
        parent = one.parentWidget()
        inside = isinstance(parent, QAbstractSpinBox | QComboBox) or (
            isinstance(parent, QAbstractScrollArea) and parent.viewport() is one
        )
        takes_keys = bool(one.focusPolicy() & Qt.FocusPolicy.TabFocus) and one.isEnabled()
        if takes_keys and one.focusProxy() is None and not inside:
            yield one


def said(widget):
    """Name, role and description, as a screen reader asks for them."""
    interface = QAccessible.queryAccessibleInterface(widget)
    return (
        interface.text(QAccessible.Text.Name),
        interface.role(),
        interface.text(QAccessible.Text.Description),
    )


class AccessCase(WindowCase):
    paints = True

    watches_windows = True

    def views(self):
        """All pages and their tabs, one after the other."""
        for stage in STAGES:
            self.window.go(stage)
            QApplication.processEvents()
            page = self.window.pages[stage]
            for tab in one_in(3, tabs_of(page) or [None]):
                if tab is not None:
                    tab.click()
                    # A search that ends while the keyboard is on its Stop would take the place away under it.
                    self.wait_for_work()
                yield f"{stage} {tab.text() if tab else ''}", page


class EveryView(AccessCase):
    draws_curves = True

    def test_all_is_reached_by_tab_in_reading_order_shows_it_and_has_a_name_and_a_role(self):
        self.open_demo()
        for where, page in self.views():
            with self.subTest(where):
                self.is_reached_in_reading_order(page)
            self.shows_the_keyboard(where, page)
            for root in (page, self.window.side, self.window.header, self.window.readout):
                self.is_said(where, root)
            self.is_said_though_painted(where, page)
        name, role, stages = said(self.window.rail)
        self.assertEqual((name, role), ("Stages", QAccessible.Role.PageTabList))
        self.assertIn("Wiring, 13 findings", stages)

    def walk(self):
        """The controls that Tab comes to from the rail until it is round."""
        self.window.rail.setFocus()
        walked = []
        focus = self.app.focusWidget()
        for _ in range(150):
            self.assertIsNotNone(focus, "the keyboard is nowhere")
            QTest.keyClick(focus, Qt.Key.Key_Tab)
            focus = self.app.focusWidget()
            if focus is self.window.rail or focus in walked:
                return walked
            walked.append(focus)
        raise AssertionError("Tab does not come round")

    def is_reached_in_reading_order(self, page):
        wanted = [one for one in controls(page) if not (isinstance(one, QPushButton) and one.text() == "Stop")]
        walked = self.walk()
        missed = [said(one)[0] or type(one).__name__ for one in wanted if one not in walked]
        self.assertEqual(missed, [])
        for area in page.findChildren(QScrollArea):
            area.verticalScrollBar().setValue(0)
        order = [one for one in walked if one in wanted]
        for before, after in itertools.pairwise(order):
            above, below = (one.mapTo(self.window, QPoint(0, 0)) for one in (before, after))
            # Back up is right only for what stands beside it, farther to the right.
            goes_back = below.y() + after.height() <= above.y() and below.x() < above.x() + before.width()
            self.assertFalse(goes_back, f"from {said(before)[0]!r} up to {said(after)[0]!r}")

    def shows_the_keyboard(self, where, page):
        for one in controls(page):
            with self.subTest(where, control=said(one)[0]):
                one.setFocus(Qt.FocusReason.TabFocusReason)
                with_keys = one.grab().toImage()
                self.window.rail.setFocus(Qt.FocusReason.TabFocusReason)
                self.assertNotEqual(with_keys, one.grab().toImage())

    def is_said(self, where, root):
        for one in controls(root):
            name, role, _ = said(one)
            with self.subTest(where, control=type(one).__name__):
                self.assertTrue(name.strip())
                self.assertNotIn(role, NO_ROLE)

    def is_said_though_painted(self, where, page):
        for one in in_sight(page):
            if getattr(one, "accessible_role", None) is not None:
                with self.subTest(where, painted=type(one).__name__):
                    name, role, description = said(one)
                    self.assertEqual(role, one.accessible_role)
                    self.assertTrue(any(ch.isdigit() for ch in name) or description or not one.isEnabled(), name)


class Tab(AccessCase):
    def test_views_by_ctrl_page_down_and_regions_by_f6(self):
        self.open_demo("sizing")
        page = self.window.pages["sizing"]
        names = [one.text() for one in tabs_of(page)]

        def shown():
            return next(one.text() for one in tabs_of(page) if one.isChecked())

        for wanted in (*names[1:], names[0]):
            self.shortcut(Qt.Key.Key_PageDown)
            self.assertEqual(shown().split()[0], wanted.split()[0])
        self.shortcut(Qt.Key.Key_PageUp)
        self.assertEqual(shown(), names[-1])
        self.window.rail.setFocus()
        regions = []
        for _ in range(5):
            self.key(self.window.focusWidget(), Qt.Key.Key_F6)
            focus = self.window.focusWidget()
            parts = {
                "page": page,
                "findings": self.window.side,
                "readout": self.window.readout,
                "header": self.window.header,
            }
            regions.append(next((name for name, part in parts.items() if part.isAncestorOf(focus)), "rail"))
        self.assertEqual(regions, ["page", "findings", "readout", "header", "rail"])

    def test_a_findings_fix_by_keyboard_and_on_to_the_next(self):
        self.open_demo("addresses")
        faults = [f.title for f in self.session.assessment.of_stage("addresses")]
        self.window.rail.setFocus()
        for _ in range(2):
            self.key(self.window.focusWidget(), Qt.Key.Key_F6)
        fix = self.window.focusWidget()
        while not (isinstance(fix, QPushButton) and fix.text() == "New address"):
            self.key(fix, Qt.Key.Key_Tab)
            fix = self.window.focusWidget()
        self.key(fix, Qt.Key.Key_Space)
        left = [f.title for f in self.session.assessment.of_stage("addresses")]
        self.assertEqual(len(left), len(faults) - 1)
        self.assertTrue(
            self.window.side.isAncestorOf(self.window.focusWidget()), "the keyboard stays among the findings"
        )


class Said(AccessCase):
    draws_curves = True

    def test_what_is_painted_is_said_in_words(self):
        page = self.open_demo("addresses")
        _, _, held = said(page.findChild(Mosaic))
        self.assertIn("172.22.40.55 Fan of tracks north, Fan of tracks south", held)
        self.window.go("schedule", "week-3")
        QApplication.processEvents()
        _, _, week = said(self.window.pages["schedule"].findChild(WeekStrip))
        self.assertRegex(week, r"Monday .*\d\d:\d\d to \d\d:\d\d (continuous|motion)")
        self.window.go("sizing")
        self.wait_for_work()
        name, _, curve = said(self.window.pages["sizing"].curve.chart)
        self.assertIn("days over", name)
        self.assertIn("required: 31 days", curve)


class Notices(WindowCase):
    def test_a_notice_moves_nothing_and_says_itself(self):
        page = self.open_demo("schedule")
        QTest.qWait(150)
        before = [(one, one.mapTo(self.window, QPoint(0, 0)), one.size()) for one in page.findChildren(QAbstractButton)]
        self.session.notice("Something went wrong, and this is what to do about it", needs=True)
        QTest.qWait(30)
        self.assertTrue(self.window.notices.isVisible())
        for one, where, size in before:
            self.assertEqual((one.mapTo(self.window, QPoint(0, 0)), one.size()), (where, size))
        self.assertIn("Something went wrong", said(self.window.notices)[0])

    def test_errors_and_successes_stay_equally_long(self):
        self.open_demo()
        left = []
        for needs in (False, True):
            self.session.notice("Words", needs=needs)
            left.append(self.window.notices._timer.interval())
        self.assertEqual(left[0], left[1])
        self.assertTrue(self.window.notices._timer.isActive())

    def test_an_undo_takes_back_its_own_step_or_is_gone(self):
        page = self.open_demo("sizing")
        self.session.apply(set_fps("cam-1", 7))
        self.session.tell_step("Frame rate set")
        undo = self.window.notices._act
        self.assertTrue(undo.isVisible())
        self.session.apply(set_fps("cam-2", 9))
        self.assertFalse(undo.isVisible())
        self.assertEqual([camera.fps for camera in self.session.job.cameras[:2]], [7, 9])
        self.session.undo()
        self.assertTrue(undo.isVisible(), "what was made is the last step again")
        undo.click()
        self.assertNotEqual(self.session.job.cameras[0].fps, 7)
        self.assertTrue(page.isVisible())


def set_fps(camera_id, fps):
    return set_fields([camera_id], "Set frame rate", fps=fps)


class Seen(WindowCase):
    def test_the_pool_is_seen_in_both_themes(self):
        """Strokes of the hatching of the DHCP pool against the ground between them. The tile's own frame says where an
        address is; the hatching has to be told from paper, in the dark as well as in the light."""
        page = self.open_demo("addresses")
        seen = {}
        for theme in ("light", "dark"):
            if theme == "dark":
                self.window.run("dark")
            QApplication.processEvents()
            image = self.picture_of(page.mosaic).toImage()
            area = page.mosaic._rect(130).toRect().adjusted(3, 3, -3, -3)
            shades = {
                image.pixelColor(x, y).name()
                for x in range(area.left(), area.right())
                for y in range(area.top(), area.bottom())
            }
            seen[theme] = max(contrast(shade, look.palette.paper) for shade in shades)
        self.assertGreaterEqual(seen["light"], 1.8)
        self.assertGreaterEqual(seen["dark"], 3.0)
