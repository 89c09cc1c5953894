"""Tables and sheets going out: harmless in a spreadsheet, complete, and without a secret."""

import csv
import io
import re
import unittest
from dataclasses import replace

import openpyxl
import pypdfium2

from eager_lens.core.assess.assessment import assess
from eager_lens.core.incoming.cells import harmless
from eager_lens.core.job.model import EMPTY_JOB
from eager_lens.core.outgoing.formats.html import handover_html
from eager_lens.core.outgoing.formats.pdf import handover_pdf
from eager_lens.core.outgoing.formats.print_look import PRINT
from eager_lens.core.outgoing.formats.sheets import RulePicture, Sheet, SheetTable, WeekStrip
from eager_lens.core.outgoing.formats.table_out import (
    Table,
    camera_table,
    csv_bytes,
    job_tables,
    spoiled_in_csv,
    spoiled_words,
    xlsx_bytes,
)
from eager_lens.core.outgoing.handover.modes import sheets_of
from eager_lens.core.outgoing.handover.number_tables import handover_tables
from eager_lens.core.outgoing.handover.plan_sheets import CAUTIONS
from eager_lens.core.outgoing.handover.rule_sheet import rule_card
from eager_lens.core.recording.week import Span
from tests.support import camera, demo_job, job_with, takes_long

DATE = "25 November 2026"


def pdf_text(data):
    document = pypdfium2.PdfDocument(data)
    try:
        return [page.get_textpage().get_text_range() for page in document]
    finally:
        document.close()


class Spoiled(unittest.TestCase):
    def test_what_a_spreadsheet_would_change_is_said(self):
        for serial, spoiled in (
            ("000123", True), ("1234567890123456", True), ("3-4", True), ("12E5", True), ("2.10", True), ("1.2.2026", True),
            ("QU-3100", False), ("0", False), ("172.22.40.40", False), ("1.2", False), ("", False), ("A012", False),
        ):  # fmt: skip
            table = camera_table(job_with([camera(1, serial=serial)]))
            with self.subTest(serial):
                self.assertEqual(spoiled_in_csv(table), (1, serial) if spoiled else (0, ""))
        self.assertIn(
            "changes 1 cell of this CSV, such as 000123",
            spoiled_words(camera_table(job_with([camera(1, serial="000123")]))),
        )
        self.assertEqual(spoiled_words(camera_table(demo_job())), "")


class Harmless(unittest.TestCase):
    NASTY = (
        "=1+1",
        "+2",
        "-3",
        "@SUM(A1)",
        "\tx",
        '=HYPERLINK("x")',
        "\n=1+1",
        "\uff1d1+1",
        "\uff0b1",
        "\uff20A1",
        " =1+1",
        "\u200b=1",
    )

    def test_formulas_are_made_texts(self):
        for text in self.NASTY:
            with self.subTest(text):
                self.assertEqual(harmless(text), f"'{text}")
        for cell in ("Gate", "", "a=b", -3, -2.5, 0):
            self.assertEqual(harmless(cell), cell)

    def test_in_both_formats(self):
        table = Table("T", ("=head",), tuple((text,) for text in self.NASTY))
        rows = list(csv.reader(io.StringIO(csv_bytes(table).decode("utf-8-sig"))))
        self.assertTrue(all(row[0].startswith("'") for row in rows))
        sheet = openpyxl.load_workbook(io.BytesIO(xlsx_bytes([table]))).active
        self.assertTrue(
            all(cell.data_type == "s" and cell.value.startswith("'") for (cell,) in sheet.iter_rows(min_row=2))
        )

    def test_names_with_formulas_come_back_as_they_were(self):
        from eager_lens.core.incoming.camera_import import guess_mapping, read_cameras
        from eager_lens.core.incoming.table_in import table_from_bytes

        job = job_with([camera(1, name="=cmd|' /C calc'!A0")])
        table = table_from_bytes(csv_bytes(camera_table(job)), "x")
        self.assertEqual(read_cameras(table, guess_mapping(table), job_with()).cameras[0]["name"], job.cameras[0].name)

    def test_control_characters_do_not_break_the_workbook(self):
        job = job_with([camera(1, note="bell\x07 and more")])
        sheet = openpyxl.load_workbook(io.BytesIO(xlsx_bytes([camera_table(job)]))).active
        self.assertIn("bell and more", [cell.value for cell in sheet[2]])


class Tables(unittest.TestCase):
    def test_numbers_stay_numbers_and_headings_carry_units(self):
        sheet = openpyxl.load_workbook(io.BytesIO(xlsx_bytes([camera_table(demo_job())]))).active
        headings = [cell.value for cell in sheet[1]]
        self.assertIn("Frame rate (fps)", headings)
        self.assertEqual(sheet.cell(2, headings.index("Frame rate (fps)") + 1).value, 12)
        self.assertEqual(sheet.max_row, 37)

    def test_all_devices(self):
        names = [table.name for table in job_tables(demo_job())]
        self.assertEqual(names, ["Cameras", "Recorders", "Network"])


class Sheets(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.assessment = assess(demo_job())
        cls.sheets = sheets_of("as built", cls.assessment, DATE)
        cls.html = handover_html(cls.sheets)
        cls.pages = pdf_text(handover_pdf(cls.sheets))

    def test_the_set_is_whole(self):
        titles = [sheet.title for sheet in self.sheets.sheets]
        for wanted in (
            "Cameras",
            "Addresses",
            "Storage and bandwidth",
            "Schedules",
            "Still open",
            "Cautions",
            "Acceptance tests",
            "Port by port",
            "Parts",
            "Motion",
        ):
            self.assertIn(wanted, titles)

    def test_every_camera_and_every_finding_is_on_it_in_both_formats(self):
        text = re.sub(r"\s+", " ", " ".join(self.pages))
        for name in [one.name for one in self.assessment.job.cameras]:
            with self.subTest(name):
                self.assertIn(name.replace("'", "&#39;"), self.html)
                self.assertIn(name, text)
        for finding in self.assessment.findings:
            with self.subTest(finding.title):
                self.assertIn(finding.title.split(":")[0][:20], text)

    def test_ports_and_parts_stand_on_it(self):
        text = re.sub(r"\s+", " ", " ".join(self.pages))
        for wanted in ("Yard switch, Depot yard", "24 AWG, CCA, 96 m", "16-port PoE switch"):
            with self.subTest(wanted):
                self.assertIn(wanted, text)
                self.assertIn(wanted, self.html)
        names = [table.name for table in handover_tables(self.sheets)]
        self.assertIn("Parts", names)

    def test_storage_is_shown_with_its_working(self):
        storage = next(sheet for sheet in self.sheets.sheets if sheet.title == "Storage and bandwidth")
        tables = [block for block in storage.blocks if isinstance(block, SheetTable)]
        self.assertTrue(
            any(
                "days, with 95 % probability" in table.caption and "drive × (1 - reserve)" in table.note
                for table in tables
            )
        )
        origins = {
            row[2] for block in storage.blocks if isinstance(block, SheetTable) for row in block.rows if len(row) == 3
        }
        self.assertTrue({"plan", "assumed", "calculated"} <= origins)

    def test_rows_fit_their_columns(self):
        for sheet in self.sheets.sheets:
            for block in sheet.blocks:
                if isinstance(block, SheetTable):
                    with self.subTest(sheet.title):
                        self.assertTrue(all(len(row) == len(block.columns) for row in block.rows))
                        self.assertAlmostEqual(sum(column.share for column in block.columns), 1, places=6)

    def test_the_html_stands_by_itself(self):
        self.assertNotRegex(
            self.html, r"(src|href)\s*=(?!.data:image/png;base64,|.#)|url\(\s*['\"]?http|@import|<script"
        )
        self.assertIn('lang="en"', self.html)

    def test_texts_are_not_taken_for_markup(self):
        job = job_with([camera(1, name='<b>&"Gate"</b>', place="</td><script>alert(1)</script>")], name="<i>Job</i>")
        sheets = sheets_of("as built", assess(job), DATE)
        html = handover_html(sheets)
        self.assertNotIn("<script>", html)
        self.assertIn("&lt;b&gt;", html)
        self.assertIn('<b>&"Gate"</b>', " ".join(pdf_text(handover_pdf(sheets))))

    def test_cautions_defer_to_those_who_know(self):
        text = re.sub(r"\s+", " ", " ".join(self.pages[-3:]))
        for caution in CAUTIONS:
            self.assertIn(caution[:40], text)

    def test_pages_are_numbered_and_dated(self):
        for number, page in enumerate(self.pages, 1):
            self.assertIn(f"page {number}", page)
            self.assertIn(DATE, page)

    def test_one_job_and_one_day_give_one_document(self):
        self.assertEqual(handover_pdf(self.sheets), handover_pdf(self.sheets))

    def test_weeks_are_drawn(self):
        schedules = next(sheet for sheet in self.sheets.sheets if sheet.title == "Schedules")
        self.assertEqual(sum(isinstance(block, WeekStrip) for block in schedules.blocks), 5)
        self.assertEqual(self.html.count('<div class="strip">'), 35)

    def test_each_mode_is_filled_on_paper_by_its_own_pattern(self):
        fills = {"continuous": {PRINT.deep}, "motion": {"h"}, "alarm input": {"d"}, "motion or alarm": {"h", "d"}}
        for mode, wanted in fills.items():
            with self.subTest(mode):
                strip = WeekStrip("Week", (("Monday", (Span(60, 120, mode),)),), "")
                html = handover_html(replace(self.sheets, sheets=(Sheet("Schedules", "", (strip,)),)))
                drawn = re.findall(r'<rect x="60" width="60" height="40" fill="(?:url\(#([hd])\d+\)|(#\w+))"', html)
                self.assertEqual({pattern or color for pattern, color in drawn}, wanted)

    def test_rules_stand_on_it_with_the_picture_of_their_place(self):
        motion = next(sheet for sheet in self.sheets.sheets if sheet.title == "Motion")
        rules = [block for block in motion.blocks if isinstance(block, RulePicture)]
        self.assertEqual(len(rules), 3)
        fence = next(block for block in rules if block.name.startswith("Fences and yards in wind"))
        self.assertIn("Substation fence north, Substation fence south", fence.name)
        halt = next(block for block in rules if "Halt platform" in block.name)
        self.assertEqual((len(halt.grey), len(halt.zones)), (halt.wide * halt.high, 2))
        self.assertIn("2 exclusion zones", halt.caption)
        gate = next(block for block in rules if "Yard gate" in block.name)
        self.assertIn("only person, vehicle; crosses the line to the right", gate.caption)
        self.assertIsNotNone(gate.line)
        self.assertEqual(self.html.count("<polygon"), 2)
        self.assertEqual(self.html.count("data:image/png"), 3)
        self.assertIn("moves for 0.8 s", re.sub(r"\s+", " ", " ".join(self.pages)))

    def test_a_card_for_the_ladder_fits_on_one_page(self):
        for name in ("Yard gate", "Workshop door", "Yard throat"):
            one = next(camera for camera in self.assessment.job.cameras if camera.name == name)
            pages = pdf_text(handover_pdf(rule_card(self.assessment, one, DATE)))
            text = re.sub(r"\s+", " ", pages[0])
            self.assertEqual(len(pages), 1)
            self.assertIn("Ladder secured", text)
            self.assertIn("sensitivity", text)
            self.assertEqual("BROKEN" in text, name == "Workshop door")

    @takes_long
    def test_an_empty_job_and_a_very_long_one(self):
        for job in (EMPTY_JOB, job_with([camera(n, address="", name="Long " * 30 + str(n)) for n in range(1, 300)])):
            with self.subTest(len(job.cameras)):
                pages = pdf_text(handover_pdf(sheets_of("as built", assess(job), DATE)))
                self.assertGreaterEqual(len(pages), 8)

    def test_tables_for_a_spreadsheet(self):
        names = [table.name for table in handover_tables(self.sheets)]
        self.assertIn("Cameras", names)
        self.assertEqual(len(names), len(set(names)))


if __name__ == "__main__":
    unittest.main()
