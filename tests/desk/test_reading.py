"""Files that somebody chose are read off the window's thread, with progress and Stop; hostile ones are told in a sentence."""

import json
import os
import unittest

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from eager_lens.core.errors import DamagedFile, EagerLensError
from eager_lens.core.incoming.calendars.reading import calendar_rows, calendar_rows_of
from eager_lens.core.incoming.table_in import LARGEST_TABLE_BYTES, heading_parts, read_table, table_from_text
from eager_lens.core.outgoing.formats.table_out import Table, xlsx_bytes
from eager_lens.core.subprocess_reader import BeyondLimit, Limits, run_in_subprocess
from eager_lens.core.validation import MOST_OBJECTS, parse_json
from eager_lens.desk.panels.import_view import ImportView
from eager_lens.desk.widgets.record_table import RecordTable
from tests.desk.base import WindowCase
from tests.support import FolderCase, camera, job_with

LIST = "Name,Place,IP\n" + "".join(f"Gate {n},Yard,172.22.40.{n}\n" for n in range(1, 60))


class InTheWindow(WindowCase):
    def views(self):
        return self.window.findChildren(ImportView)

    def test_a_list_comes_in_after_a_moment_and_can_be_stopped(self):
        path = self.write("list.csv", LIST)
        self.window.open_path(path)
        self.assertTrue(self.window.lists.reading.is_running)
        self.wait_for_work()
        self.assertEqual(len(self.views()), 1)
        self.window.go("wiring")
        self.until(lambda: not self.views())
        self.window.open_path(path)
        self.window.lists.reading.stop()
        self.wait_for_work()
        self.assertEqual(self.views(), [])
        self.assertIn("list.csv was not read", self.last_notice())

    def test_a_long_list_is_read_row_by_row_off_the_windows_thread(self):
        rows = "".join(f"Gate {n},Yard,\n" for n in range(1, 2000))
        self.window.open_path(self.write("long.csv", "Name,Place,IP\n" + rows))
        self.until(lambda: self.views() and self.views()[0]._busy.is_running)
        view = self.views()[0]
        self.assertFalse(view._add.isEnabled())
        self.until(lambda: view._add.isEnabled())
        self.assertEqual(len(view._result.cameras), 1999)

    def test_what_bit_rates_are_is_asked(self):
        self.window.lists.paste("Name,IP,kb/s\nGate,172.22.40.50,2200\nDoor,172.22.40.51,1800\n")
        (view,) = self.views()
        self.assertTrue(view._when.isVisible())
        self.assertEqual(view._when.currentText(), "settings or data sheet figures")
        view._when.setFocus()
        for _ in range(2):
            self.key(view._when, Qt.Key.Key_Down)
        self.assertIn("by night", view._when.currentText())
        self.assertEqual(view._for.text(), "not stated")
        view._for.setFocus()
        QTest.keyClicks(view._for, "0")
        self.key(view._for, Qt.Key.Key_Return)
        self.assertIn("more than 0", self.last_notice())
        view._for.selectAll()
        QTest.keyClicks(view._for, "90")
        self.key(view._for, Qt.Key.Key_Return)
        self.press(view, "Import 2 cameras")
        read = [(one.measured_when, one.measured_min) for one in self.session.job.cameras[-2:]]
        self.assertEqual(read, [("night", 90)] * 2)
        self.window.lists.paste("Name,IP\nRoof,172.22.40.52\n")
        self.assertFalse(self.views()[0]._when.isVisible())

    def test_lists_that_were_not_taken_leave_nothing_behind(self):
        for _ in range(3):
            self.window.lists.paste(LIST)
            QTest.qWait(10)
        self.assertEqual(len(self.views()), 1)

    def test_what_cannot_be_read_is_told_with_its_name(self):
        os.mkfifo(self.folder / "pipe.csv")
        (self.folder / "bad.xlsx").write_bytes(b"PK\x03\x04 no workbook")
        for name, words in (("pipe.csv", "device or a pipe"), ("bad.xlsx", "cannot be read as an XLSX workbook")):
            self.window.open_path(self.folder / name)
            self.wait_for_work()
            self.assertIn(words, self.last_notice())
            self.assertIn(name, self.last_notice())

    def test_a_text_that_is_typed_while_rows_go_is_not_given_to_another_row(self):
        self.open_job(job_with([camera(1), camera(2)]), "sizing")
        page = self.window.pages["sizing"]
        table = next(one for one in page.findChildren(RecordTable) if one.records.row_of("cam-1") is not None)
        row = table.records.row_of("cam-1")
        table.setCurrentIndex(table.records.index(row, 0))
        table.setFocus()
        QTest.keyClick(table, Qt.Key.Key_F2)
        editor = table.findChild(QLineEdit)
        editor.setText("Renamed")
        table.itemDelegate()._for = ("part", "somebody else")
        table.itemDelegate().setModelData(editor, table.records, table.currentIndex())
        self.assertEqual(self.session.job.cameras[0].name, "Camera 1")
        table.itemDelegate()._for = table.records.key_of(row)
        table.itemDelegate().setModelData(editor, table.records, table.currentIndex())
        self.assertEqual(self.session.job.cameras[0].name, "Renamed")


class Hostile(FolderCase):
    def refused(self, read, words):
        with self.assertRaises(EagerLensError) as caught:
            read()
        self.assertIn(words, str(caught.exception))
        self.assertLess(len(str(caught.exception)), 700)

    def test_blank_lines_without_end(self):
        path = self.folder / "blank.csv"
        path.write_bytes(b"\n" * 20_000_000)
        self.refused(lambda: read_table(path), "rows")

    def test_a_table_that_is_too_large(self):
        path = self.folder / "large.csv"
        with path.open("wb") as file:
            file.truncate(LARGEST_TABLE_BYTES + 1)
        self.refused(lambda: read_table(path), "is larger than")
        self.refused(lambda: table_from_text("x" * (LARGEST_TABLE_BYTES + 1)), "is longer than")

    def test_headings_of_thousands_of_spaces(self):
        for heading in ("Name (" + " " * 4900, " " * 4900 + "x", "(" * 4900, ("a " * 2400) + "(", "," * 4900):
            heading_parts(heading)
        for heading, parts in (
            ("Price (EUR)", ("Price", "EUR")),
            ("Price, EUR", ("Price", "EUR")),
            ("Cable [ m ]", ("Cable", "m")),
            ("Price (EUR", ("Price", "EUR")),
            ("Rate (Mb/s) (measured)", ("Rate (Mb/s)", "measured")),
            ("Name", ("Name", "")),
            ("", ("", "")),
        ):
            self.assertEqual(heading_parts(heading), parts)

    def test_an_object_of_twenty_thousand_keys_and_a_twin(self):
        keys = [f'"k{at}": 1' for at in range(20_000)]
        self.refused(lambda: parse_json("{" + ",".join([*keys, '"k19999": 2']) + "}"), "k19999")

    def test_more_values_than_any_file(self):
        self.refused(lambda: parse_json("[" + "{}," * MOST_OBJECTS + "{}]"), "is not a file of this program")

    def test_a_workbook_that_unpacks_to_hundreds_of_megabytes(self):
        import io
        import zipfile

        data = io.BytesIO(xlsx_bytes([Table("T", ("Name",), (("Gate",),))]))
        with zipfile.ZipFile(data, "a", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("xl/more.xml", b" " * (200 * 2**20))
        path = self.folder / "bomb.xlsx"
        path.write_bytes(data.getvalue())
        self.refused(lambda: read_table(path), "unpacks to more than")

    def test_a_workbook_with_one_cell_in_its_far_corner(self):
        import io

        import openpyxl

        book = openpyxl.Workbook()
        book.active["A1"], book.active["XFD1048576"] = "Name", "far"
        data = io.BytesIO()
        book.save(data)
        path = self.folder / "far.xlsx"
        path.write_bytes(data.getvalue())
        self.refused(lambda: read_table(path), "far.xlsx")

    def test_a_calendar_that_takes_too_long(self):
        event = "BEGIN:VEVENT\r\nSUMMARY:x\r\nDTSTART:20260101T080000\r\nDURATION:PT1H\r\nRRULE:FREQ=WEEKLY\r\nEND:VEVENT\r\n"
        text = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + event * 4_900 + "END:VCALENDAR\r\n"
        with self.assertRaises(BeyondLimit):
            run_in_subprocess(
                "eager_lens.core.incoming.calendars.reading:calendar_rows",
                *(text.encode(), "UTC", 2026),
                limits=Limits(time_s=0.2),
            )

    def test_dates_at_both_ends_of_time(self):
        for start in ("00010101", "99991231"):
            text = f"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART;VALUE=DATE:{start}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
            path = self.folder / "ends.ics"
            path.write_text(text, "utf-8")
            try:
                calendar_rows_of(path, "Europe/London", 2026)
            except EagerLensError as error:
                self.assertNotIn("%", str(error))

    def test_a_time_zone_with_an_endless_name(self):
        start = f"DTSTART;TZID={'Mars' * 200}:20260101T080000"
        text = f"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n{start}\r\nRRULE:FREQ=WEEKLY\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
        try:
            rows = calendar_rows(text.encode(), "UTC", 2026)
        except EagerLensError as error:
            self.assertIn("calendar", str(error))
        else:
            self.assertEqual({row.kind for row in rows}, {"nothing"})

    def test_messages_say_little_of_long_input(self):
        document = {"format": "eager-lens-job", "version": 1, "cameras": [{"id": "x" * 100_000, "name": "n"}]}
        from eager_lens.core.job.file import job_from_text

        self.refused(lambda: job_from_text(json.dumps({**document, "y" * 100_000: 1})), "this key is unknown")
        with self.assertRaises(DamagedFile):
            raise DamagedFile("x" * 10_000)


if __name__ == "__main__":
    unittest.main()
