"""Tables of sheets in spreadsheets: figures are numbers, units stand in headings, texts stay texts."""

import io
import unittest

import openpyxl

from eager_lens.core.assess.assessment import assess
from eager_lens.core.outgoing.formats.reader import reader_of
from eager_lens.core.outgoing.formats.sheets import Sheet, SheetColumn, SheetSet, SheetTable
from eager_lens.core.outgoing.formats.table_out import xlsx_bytes
from eager_lens.core.outgoing.handover.modes import sheets_of
from eager_lens.core.outgoing.handover.number_tables import handover_tables
from eager_lens.core.units import PLAIN, numbers_as
from tests.support import demo_job


def table_of(heading, cells, align="right", style=PLAIN):
    block = SheetTable((SheetColumn(heading, 1, align),), tuple((cell,) for cell in cells))
    (table,) = handover_tables(SheetSet("t", "", "", (Sheet("S", "", (block,)),)), style)
    return table.headings, table.rows


class Numbers(unittest.TestCase):
    def test_what_cells_become(self):
        for heading, cells, headings, rows in (
            ("Cable, m", ["18", "1\u2009124.5", ""], ("Cable, m",), ((18,), (1124.5,), ("",))),
            (
                "Incoming, Mb/s",
                ["151 of 256", "—"],
                ("Incoming, Mb/s", "Incoming, Mb/s: limit"),
                ((151, 256), ("", "")),
            ),
            ("Usable, TB", ["15.2 (13.8 TiB)"], ("Usable, TB", "Usable, TiB"), ((15.2, 13.8),)),
            ("Quantity", ["176 m", "3 pieces"], ("Quantity", "Unit"), ((176, "m"), (3, "pieces"))),
            ("From the spread", ["37 %", "5 %"], ("From the spread, %",), ((37,), (5,))),
            ("Days promised", ["9.09", "0, no storage"], ("Days promised",), ((9.09,), ("0, no storage",))),
            ("Rate, %", ["64.9 to 100"], ("Rate, %",), (("64.9 to 100",),)),
        ):
            with self.subTest(heading):
                self.assertEqual(table_of(heading, cells), (headings, rows))

    def test_texts_stay_texts(self):
        self.assertEqual(table_of("Serial", ["000123", "0,50"], "left")[1], (("000123",), ("0,50",)))

    def test_as_the_reader_has_numbers(self):
        style = reader_of("de_AT").style
        self.assertEqual(table_of("Rate, Mb/s", ["9,09", f"1{style.group}296,5"], style=style)[1], ((9.09,), (1296.5,)))

    def test_the_demos_figures_are_numbers_in_the_workbook_of_every_reader(self):
        for name in ("C", "de_AT", "fr_FR", "en_US"):
            style = reader_of(name).style
            with numbers_as(style), self.subTest(name):
                sheets = sheets_of("as built", assess(demo_job()), "x")
            book = openpyxl.load_workbook(io.BytesIO(xlsx_bytes(handover_tables(sheets, style))))
            sheet = next(one for one in book if any(cell.value == "Days promised" for cell in one[1]))
            row = dict(zip((cell.value for cell in sheet[1]), (cell.value for cell in sheet[2]), strict=True))
            self.assertEqual(
                {key: row[key] for key in ("Days promised", "Incoming, Mb/s", "Incoming, Mb/s: limit", "Usable, TiB")},
                {"Days promised": 23, "Incoming, Mb/s": 72.2, "Incoming, Mb/s: limit": 256, "Usable, TiB": 13.8},
            )


if __name__ == "__main__":
    unittest.main()
