"""What is selected stays selected until somebody means otherwise, and goes along from page to page."""

from operator import attrgetter

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desk.base import WindowCase
from tests.support import camera, job_with, week_of


class Walking(WindowCase):
    def setUp(self):
        super().setUp()
        page = self.open_job(job_with([camera(n) for n in range(1, 9)]), "sizing")
        self.table = page.cameras
        self.table.setFocus()
        self.table.setCurrentIndex(self.table.records.index(2, 0))
        for _ in range(2):
            self.key(self.table, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)

    def selected(self):
        return [part.id for part in self.table.selected_parts()]

    def test_arrows_go_to_the_column_and_one_text_counts_for_all(self):
        self.assertEqual(self.selected(), ["cam-2", "cam-3", "cam-4"])
        fps = [column.id for column in self.table.records.columns].index("fps")
        for _ in range(fps):
            self.key(self.table, Qt.Key.Key_Right)
        self.assertEqual(self.selected(), ["cam-2", "cam-3", "cam-4"])
        self.key(self.table, Qt.Key.Key_F2)
        editor = self.window.focusWidget()
        editor.setText("9")
        self.key(editor, Qt.Key.Key_Return)
        self.assertEqual([one.fps for one in self.session.job.cameras[:5]], [12, 9, 9, 9, 12])

    def test_escape_lets_go_and_shift_selects_anew(self):
        self.key(self.table, Qt.Key.Key_Down)
        self.assertEqual(self.selected(), ["cam-2", "cam-3", "cam-4"])
        self.key(self.table, Qt.Key.Key_Escape)
        self.assertEqual(self.selected(), ["cam-5"])
        self.key(self.table, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(self.selected(), ["cam-5", "cam-6"])

    def test_with_one_row_selected_arrows_select_as_ever(self):
        self.key(self.table, Qt.Key.Key_Escape)
        self.key(self.table, Qt.Key.Key_Down)
        self.assertEqual(self.selected(), ["cam-5"])


class GoingAlong(WindowCase):
    def test_what_was_chosen_on_one_page_is_in_sight_on_the_next(self):
        job = job_with([camera(n, registered=()) for n in range(1, 120)])
        page = self.open_job(job, "sizing")
        page.cameras.lead_to("cam-99")
        for stage, name in (("addresses", "devices"), ("proof", "acceptance.devices"), ("motion", "times.cameras")):
            with self.subTest(stage):
                self.window.go(stage)
                QApplication.processEvents()
                page = self.window.pages[stage]
                table = attrgetter(name)(page)
                self.assertEqual([part.id for part in table.selected_parts()], ["cam-99"])
                index = table.records.index(table.records.row_of("cam-99"), 0)
                self.assertTrue(table.viewport().rect().intersects(table.visualRect(index)))
                self.assertEqual(table.currentIndex().row(), index.row())

    def test_a_table_out_of_sight_takes_the_choice_when_it_is_seen(self):
        page = self.open_job(job_with([camera(n) for n in range(1, 9)]), "sizing")
        page.cameras.lead_to("cam-1")
        self.window.go("addresses")
        self.session.select(["cam-5", "cam-6"])
        self.assertEqual([one.id for one in page.cameras.selected_parts()], ["cam-1"])
        self.window.go("sizing")
        QApplication.processEvents()
        self.assertEqual([one.id for one in page.cameras.selected_parts()], ["cam-5", "cam-6"])
        self.assertEqual(self.session.selected, ("cam-5", "cam-6"))

    def test_what_was_searched_for_too(self):
        self.open_job(job_with([camera(n) for n in range(1, 120)]), "sizing")
        self.shortcut(Qt.Key.Key_K)
        QTest.keyClicks(self.window.header.search, "Camera 101")
        self.key(self.window.header.search, Qt.Key.Key_Return)
        self.assertEqual(self.window.stage, "sizing", "a page that shows the camera is not left for it")
        self.window.go("proof")
        QApplication.processEvents()
        self.assertEqual(
            [part.id for part in self.window.pages["proof"].acceptance.devices.selected_parts()], ["cam-101"]
        )


class FieldsOfTheSite(WindowCase):
    """What no device has: a finding leads to where it is set."""

    def test_a_finding_leads_to_the_field_and_typing_settles_it(self):
        job = job_with([camera(1)], schedules=(week_of(start_h=7, end_h=19),), site="")
        self.open_job(job, "schedule")
        self.press(self.window.side, "Go to Bench, Makes")
        bench = self.window.pages["bench"]
        self.assertIs(self.window.focusWidget(), bench.makes.zone)
        bench.makes.zone.setText("Europe/Lisbon")
        self.key(bench.makes.zone, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.time_zone, "Europe/Lisbon")
        self.assertNotIn("no-summer-time", [finding.code for finding in self.session.assessment.findings])
        self.window.go("handover")
        self.press(self.window.side, "Go to the cover sheet")
        self.assertEqual(self.window.focusWidget().accessibleName(), "Site")
