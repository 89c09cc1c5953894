"""Tables are sorted by their headings, and remember which columns somebody wants and how wide."""

import unittest

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from eager_lens.core.job.edits import set_fields
from eager_lens.desk.preferences import ColumnSet, load_preferences
from eager_lens.desk.widgets.record_model import NOTHING, natural_key
from tests.desk.base import WindowCase
from tests.support import camera, job_with


class NaturalKey(unittest.TestCase):
    def test_figures_by_value_addresses_by_parts_names_by_letters(self):
        for ordered in (
            ("172.22.40.9", "172.22.40.10", "172.22.41.2"),
            ("0.9 of 100", "7 of 100", "12.5 of 100"),
            ("−2.5", "−1", "0", "3"),
            ("Camera 2", "Camera 10", "gate", "Yard"),
            ("998", "1\u2009296", "12\u2009000"),
        ):
            with self.subTest(ordered):
                self.assertEqual(tuple(sorted(set(ordered), key=natural_key)), ordered)

    def test_what_is_empty_is_known_as_such(self):
        for text in ("", "–", "—", "none", " "):
            self.assertEqual(natural_key(text), NOTHING)


class Headings(WindowCase):
    def setUp(self):
        super().setUp()
        names = {1: "Gate", 2: "arch", 3: "Zoo", 4: "Barn"}
        cameras = [
            camera(n, name=name, place="", address="" if n == 2 else f"172.22.40.{50 - n}") for n, name in names.items()
        ]
        self.page = self.open_job(job_with(cameras), "addresses")
        self.table = self.page.devices
        self.header = self.table.horizontalHeader()

    def names(self, table=None):
        table = table or self.table
        return [table.records.index(row, 0).data() for row in range(table.records.rowCount())]

    def click_heading(self, heading):
        at = [column.id for column in self.table.records.columns].index(heading)
        where = QPoint(self.header.sectionViewportPosition(at) + 10, self.header.height() // 2)
        QTest.mouseClick(self.header.viewport(), Qt.MouseButton.LeftButton, pos=where)
        QApplication.processEvents()

    def test_a_click_sorts_a_second_turns_round_a_third_leaves_the_jobs_order(self):
        as_job = self.names()
        self.click_heading("name")
        upward = self.names()
        self.assertEqual(self.table.records.headerData(0, Qt.Orientation.Horizontal), "↑ Device")
        self.assertEqual(upward, sorted(upward, key=str.casefold))
        self.click_heading("name")
        self.assertEqual(self.names(), upward[::-1])
        self.click_heading("name")
        self.assertEqual(self.names(), as_job)

    def test_what_has_no_address_stands_last_either_way(self):
        self.click_heading("address")
        self.assertEqual(self.names()[-1], "arch")
        first = self.names()[0]
        self.click_heading("address")
        self.assertEqual(self.names()[-1], "arch")
        self.assertEqual(self.names()[-2], first)

    def test_the_selection_stays_on_its_device_and_rows_keep_their_places_while_edited(self):
        self.table.lead_to("cam-3")
        self.click_heading("name")
        self.assertEqual([part.id for part in self.table.selected_parts()], ["cam-3"])
        before = self.names()
        self.session.apply(set_fields(["cam-3"], "Name", name="Aardvark house"))
        self.assertEqual([name.replace("Aardvark house", "Zoo") for name in self.names()], before)

    def test_another_job_begins_in_its_own_order(self):
        self.click_heading("name")
        self.session.start_job(job_with([camera(n, name=name) for n, name in ((1, "Zebra"), (2, "Ape"))]))
        QApplication.processEvents()
        self.assertEqual(self.names(), ["Recorder 1", "Zebra", "Ape"])
        self.assertEqual(self.table.records.headerData(0, Qt.Orientation.Horizontal), "Device")

    def test_a_width_that_was_just_dragged_outlives_sorting(self):
        self.header.resizeSection(0, 199)
        self.click_heading("address")
        self.assertEqual(self.header.sectionSize(0), 199)

    def test_a_hidden_column_is_hidden_next_time_and_a_width_is_kept(self):
        at = [column.id for column in self.table.records.columns].index("mac_address")
        next(a for a in self.table.column_sets.menu().actions() if a.text() == "MAC address").trigger()
        self.assertTrue(self.header.isSectionHidden(at))
        self.header.resizeSection(0, 233)
        self.until(lambda: load_preferences(self.folder / "config").columns)
        self.until(lambda: any(one.widths for one in load_preferences(self.folder / "config").columns.values()))
        (kept,) = load_preferences(self.folder / "config").columns.values()
        self.assertEqual(kept, ColumnSet(hidden=("mac_address",), widths={"name": 233}))
        again = type(self.page)(self.session, self.asker)
        self.addCleanup(again.deleteLater)
        self.assertTrue(again.devices.horizontalHeader().isSectionHidden(at))
        self.assertEqual(again.devices.horizontalHeader().sectionSize(0), 233)
        self.window.run("large")
        self.assertEqual(self.header.sectionSize(0), round(233 * 1.25))

    def test_all_columns_come_back_by_the_menu(self):
        sets = self.table.column_sets
        next(a for a in sets.menu().actions() if a.text() == "MAC address").trigger()
        next(a for a in sets.menu().actions() if a.text().startswith("All columns")).trigger()
        self.assertFalse(any(map(self.header.isSectionHidden, range(self.header.count()))))
        self.assertEqual(self.session.preferences.columns, {})

    def test_by_keyboard_from_the_menu_of_a_cell(self):
        self.table.lead_to("cam-1")
        menu = self.table.cell_menu(self.table.currentIndex())
        inner = next(action.menu() for action in menu.actions() if action.text() == "Columns and order")
        next(action for action in inner.actions() if action.text().startswith("Sort by")).trigger()
        self.assertEqual(self.names(), sorted(self.names(), key=str.casefold))

    def test_copied_rows_are_in_the_order_that_is_seen(self):
        self.click_heading("name")
        self.table.selectAll()
        self.table.copy()
        lines = self.clipboard().splitlines()[1:]
        self.assertEqual([line.split("\t")[0] for line in lines], self.names())
