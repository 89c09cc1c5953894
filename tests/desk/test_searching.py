"""Ctrl+K: commands, pages and views by any of their words, or by what else people call them."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from eager_lens.core.present.stages import RECORDS, STAGES
from eager_lens.desk.actions import ACTIONS, VIEWS
from eager_lens.desk.searching import search
from tests.desk.base import WindowCase


def tabs_of(page):
    return [one for one in page.findChildren(QPushButton) if one.property("kind") == "tab" and one.isVisible()]


class Synonyms(WindowCase):
    def first(self, text):
        hits = search(text, self.session)
        self.assertTrue(hits, f"nothing is found for {text!r}")
        return hits[0]

    def test_what_people_type(self):
        self.open_demo()
        for text, wanted in (
            ("night mode", "dark"),
            ("font size", "large"),
            ("theme", "dark"),
            ("camera add", "add-camera"),
            ("nvr", "add-recorder"),
            ("hotkeys", "shortcuts"),
            ("csv", "import"),
        ):
            with self.subTest(text):
                self.assertIn(wanted, [hit.action for hit in search(text, self.session)])

    def test_pages_and_views_by_other_words(self):
        self.open_demo()
        for text, stage, view in (
            ("dhcp", "addresses", ""),
            ("pdf", "handover", ""),
            ("retention", "sizing", ""),
            ("optimise", "sizing", "Best picture"),
            ("price", "wiring", "Parts list"),
            ("holidays", "schedule", ""),
            ("redundancy", "wiring", "What if it fails?"),
            ("login", "bench", "Passwords"),
        ):
            with self.subTest(text):
                hit = self.first(text)
                self.assertEqual((hit.stage, hit.view), (stage, view))

    def test_a_view_that_is_found_comes_into_sight(self):
        self.open_demo()
        self.shortcut(Qt.Key.Key_K)
        QTest.keyClicks(self.window.header.search, "lens focal")
        self.key(self.window.header.search, Qt.Key.Key_Return)
        self.assertEqual(next(one.text() for one in tabs_of(self.window.pages["sizing"]) if one.isChecked()), "Purpose")

    def test_after_a_command_the_keyboard_is_where_it_took_effect(self):
        self.open_demo("wiring")
        self.shortcut(Qt.Key.Key_K)
        QTest.keyClicks(self.window.header.search, "add a switch")
        self.key(self.window.header.search, Qt.Key.Key_Return)
        QApplication.processEvents()
        self.assertFalse(self.window.header.search.hasFocus())
        self.assertTrue(self.window.pages["wiring"].isAncestorOf(QApplication.focusWidget()))

    def test_views_are_the_tabs_of_the_window_and_nothing_lacks_other_words(self):
        self.open_demo()
        for stage, record in zip(STAGES, RECORDS, strict=True):
            self.window.go(stage)
            QApplication.processEvents()
            listed = [view.words for view in VIEWS if view.stage == stage]
            shown = [one.text() for one in tabs_of(self.window.pages[stage])]
            with self.subTest(stage):
                self.assertEqual(len(listed), len(shown))
                self.assertTrue(all(text.startswith(words) for text, words in zip(shown, listed, strict=True)))
                self.assertTrue(record.synonyms)
        self.assertTrue(all(action.synonyms for action in ACTIONS))

    def test_devices_and_findings_come_as_before(self):
        self.open_demo()
        self.assertEqual(self.first("Yard gate").subject, "cam-26")
        self.assertIn("fault", [hit.kind for hit in search("inside the DHCP pool", self.session)])
