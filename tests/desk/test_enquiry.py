"""A new job by questions in the window: typed, worked out as it is typed, built as one step; and the offer as a file."""

import unittest

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from eager_lens.core.enquiry.enquiry import view_kinds
from eager_lens.desk.panels.enquiry_view import DISTANCE, FIRST_KIND, NAME, EnquiryView
from tests.desk.base import WindowCase

KINDS = list(view_kinds())


class Questions(WindowCase):
    def setUp(self):
        super().setUp()
        self.shortcut(Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        (self.view,) = self.window.findChildren(EnquiryView)

    def worked_out(self):
        self.until(lambda: not self.view._timer.isActive())
        self.wait_for_work()

    def type_in(self, row, column, text):
        """Go to a cell and type over it, as a hand does."""
        self.view.places.setFocus()
        self.view.places.setCurrentCell(row, column)
        QTest.keyClicks(self.view.places, text[0])
        QTest.keyClicks(self.window.focusWidget(), text[1:])
        self.key(self.window.focusWidget(), Qt.Key.Key_Return)

    def test_from_nothing_to_a_whole_job_by_the_keyboard(self):
        self.assertTrue(self.view.isVisible())
        self.assertFalse(self.view._build.isEnabled() and self.view.outcome is not None)
        self.view._name.setFocus()
        QTest.keyClicks(self.view._name, "Dairy")
        self.type_in(0, FIRST_KIND + KINDS.index("door"), "2")
        self.press(self.view, "Add place")
        self.type_in(1, NAME, "Yard")
        self.type_in(1, DISTANCE, "120")
        self.type_in(1, FIRST_KIND + KINDS.index("yard"), "3")
        self.worked_out()
        self.assertIn("5 cameras at 2 places", self.view._result.text())
        self.assertIn("No fault. To settle: 3 runs leave the building", self.view._result.text())
        self.type_in(1, DISTANCE, "130")
        self.assertFalse(self.view._build.isEnabled(), "what stands there now is not calculated yet")
        self.worked_out()
        self.view._build.setFocus()
        self.key(self.view._build, Qt.Key.Key_Space)
        self.assertEqual((self.session.job.name, len(self.session.job.cameras)), ("Dairy", 5))
        self.assertEqual(self.window.stage, "wiring")
        self.assertEqual(self.session.undo_label, "Create Dairy from the enquiry")
        self.session.undo()
        self.assertEqual(self.session.job.cameras, ())

    def test_what_cannot_be_taken_is_told_where_it_stands(self):
        door = FIRST_KIND + KINDS.index("door")
        for row, column, text, words in (
            (0, door, "many", "Main building, doors: 'many' was given"),
            (0, door, "999", "from 0 to 200"),
        ):
            self.type_in(row, column, text)
            self.worked_out()
            self.assertIn(words, self.view._trouble.text())
            self.assertFalse(self.view._build.isEnabled())
        self.type_in(0, door, "2")
        self.view.places.item(0, NAME).setText("x" * 150)
        self.worked_out()
        self.assertIn("100", self.view._trouble.text())
        self.view.places.item(0, NAME).setText("Hall\x00 \ud83d")
        self.worked_out()
        self.assertTrue(self.view._build.isEnabled())
        for field, text, words in (
            (self.view._opens, "25:00", "Opening time"),
            (self.view._days, "Xyz", "is no day"),
            (self.view._closed, "32 May", "25 December"),
        ):
            had = field.text()
            field.setText(text)
            self.worked_out()
            self.assertIn(words, self.view._trouble.text())
            field.setText(had)
        self.worked_out()
        self.assertTrue(self.view._build.isEnabled())
        self.assertFalse(self.view._trouble.isVisible())

    def test_cancel_leaves_everything_as_it_was(self):
        self.press(self.view, "Cancel")
        self.assertFalse(self.session.is_open)
        self.assertIs(self.window.stack.currentWidget(), self.window.start)
        self.open_demo()
        before = self.session.job
        self.window.run("enquiry")
        self.press(self.window.findChildren(EnquiryView)[-1], "Cancel")
        self.assertIs(self.session.job, before)
        self.assertTrue(self.window.pages["sizing"].isVisible())

    def test_the_offer_is_written(self):
        self.window.run("offer")
        self.assertIn("Open or create a job first", self.last_notice())
        self.open_demo()
        self.asker.files.append(self.folder / "offer.pdf")
        self.window.run("offer")
        self.assertEqual((self.folder / "offer.pdf").read_bytes()[:5], b"%PDF-")


if __name__ == "__main__":
    unittest.main()
