"""The pack: for each reader the right sheets, whole and in his own numbers and paper; labels; sums."""

import hashlib
import io
import re
import unittest
import zipfile
from datetime import date

import cv2
import numpy as np
import pypdfium2

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.firm.label_stock import STOCKS
from eager_lens.core.incoming.money import AmbiguousMarks, Money, reading_of
from eager_lens.core.incoming.price_list import part_prices
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.job.edits import set_charges, set_fields, set_price, set_prices
from eager_lens.core.job.model import DriveOffer, changed
from eager_lens.core.job.prices import PartPrice
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import open_snag, record_checks
from eager_lens.core.outgoing.formats.pdf import handover_pdf
from eager_lens.core.outgoing.formats.reader import reader_of
from eager_lens.core.outgoing.formats.sheets import Bullets, SheetTable
from eager_lens.core.outgoing.handover.labels import labels_of, labels_pdf
from eager_lens.core.outgoing.handover.modes import MODES, Extras, sheets_of
from eager_lens.core.outgoing.handover.pack import SUMS, PackPlan, pack_files, zipped
from eager_lens.core.outgoing.handover.proof_sheets import LogState
from eager_lens.core.outgoing.handover.sums import hours_of, price_of, prices_of, sums_of, sums_sheets
from eager_lens.core.present.parts import parts_list
from tests.support import camera, demo_job, job_with

DAY = date(2026, 11, 20)
ADDRESS = re.compile(r"\b(?:\d{1,3}\.){3}\d{1,3}\b|\b(?:[0-9a-f]{2}:){5}[0-9a-f]{2}\b")
LOG = LogState("yard.log.jsonl", 412, "ab" * 32, ("1234 5678 9abc def0, up to entry 400",))


def text_of(pdf):
    pages = pypdfium2.PdfDocument(pdf)
    return [page.get_textpage().get_text_bounded().replace("\u2009", " ") for page in pages]


def words_of(sheets):
    for sheet in sheets.sheets:
        yield from (sheet.title, sheet.intro)
        for block in sheet.blocks:
            if isinstance(block, SheetTable):
                yield from (block.caption, block.note, *(cell for row in block.rows for cell in row))
            elif isinstance(block, Bullets):
                yield from block.items


class Modes(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.assessment = assess(demo_job())

    def sheets(self, mode, assessment=None):
        return sheets_of(mode, assessment or self.assessment, "20 November 2026", Extras((), LOG))

    def titles(self, mode):
        return [sheet.title for sheet in self.sheets(mode).sheets]

    def test_each_reader_has_what_he_needs(self):
        first = ["For the customer", "Finding and exporting a clip", "Every month", "Text for the signs"]
        self.assertEqual(self.titles("customer")[:4], first)
        self.assertEqual(self.titles("as built")[1], "For the customer")
        self.assertIn("Mounting", self.titles("crew"))
        self.assertIn("History of the tests", self.titles("auditor"))
        for mode in ("customer", "auditor", "offer"):
            self.assertNotIn("Addresses", self.titles(mode))
            self.assertNotIn("Port by port", self.titles(mode))
        for mode in ("customer", "auditor", "as built"):
            self.assertEqual(self.titles(mode)[-1], "Handed over")

    def test_no_address_leaves_in_copies_without_whoever_typed_it(self):
        job = open_snag("cam-1", "answers at 172.22.40.99 / 02:5B:1E:00:00:99 too", "WA", "x").apply(demo_job())
        job = set_fields(["cam-2"], "x", name="Door 172.22.40.41", place="02:5b:1e:00:00:41").apply(job)
        check = Check(device="cam-1", check="clip", outcome="passed", value="from http://172.22.40.20/")
        assessment = assess(record_checks([check]).apply(job))
        for mode in ("offer", "customer", "auditor"):
            found = [text for text in words_of(self.sheets(mode, assessment)) if ADDRESS.search(text.lower())]
            self.assertEqual(found, [], mode)
            files = pack_files(assessment, PackPlan(mode, DAY, extras=Extras((), LOG)))
            for name, data in files.items():
                if name.endswith((".html", ".csv", ".ics")):
                    self.assertIsNone(ADDRESS.search(data.decode("utf-8-sig").lower()), (mode, name))
        self.assertTrue(any(ADDRESS.search(text) for text in words_of(self.sheets("as built"))))

    def test_the_anchor_is_on_the_sheet_to_be_signed(self):
        last = text_of(handover_pdf(self.sheets("as built")))[-1]
        self.assertIn("412", last)
        self.assertIn("abababab abababab", last)
        self.assertIn("1234 5678 9abc def0", last)
        self.assertIn("does not prove that an entry was true", last.replace("\r\n", " "))
        for who in ("For the installer: Wren Alderholt", "For the customer: Brindlemoor Tramway Trust"):
            self.assertIn(who, last)

    def test_workings_are_in_words(self):
        for text in words_of(self.sheets("as built")):
            found = re.search(r"\b[a-z]+_[a-z_]+\b", text)
            self.assertIsNone(found, text)

    def test_tests_stand_with_plan_and_value(self):
        rows = next(s for s in self.sheets("as built").sheets if s.title == "Acceptance tests").blocks[0].rows
        row = next(row for row in rows if row[:2] == ("Hall doors east", "Pixel density, px/m"))
        self.assertIn("62.5 or more to observe", row[2])
        self.assertIn("passed 168.2 px/m, folding rule", row[3])


class Pdf(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        sheets = sheets_of("as built", assess(demo_job()), "20 November 2026", Extras((), LOG))
        cls.titles = [sheet.title for sheet in sheets.sheets]
        cls.pdf = {paper: handover_pdf(sheets, paper=paper) for paper in ("A4", "Letter")}

    def test_every_page_says_of_how_many_it_is(self):
        for pdf in self.pdf.values():
            pages = text_of(pdf)
            for at, page in enumerate(pages, 1):
                self.assertIn(f"page {at} of {len(pages)}", page)

    def test_contents_and_bookmarks_lead_to_the_sheets(self):
        document = pypdfium2.PdfDocument(self.pdf["A4"])
        marks = [(mark.get_title(), mark.get_dest().get_index()) for mark in document.get_toc()]
        self.assertEqual([title for title, _ in marks], self.titles)
        pages = text_of(self.pdf["A4"])
        for title, at in marks:
            self.assertIn(title, pages[at])
            self.assertRegex(pages[0].replace("\r\n", " "), rf"{re.escape(title)}\s*{at + 1}\b")

    def test_paper_and_what_the_file_says_of_itself(self):
        for paper, size in (("A4", (595, 842)), ("Letter", (612, 792))):
            document = pypdfium2.PdfDocument(self.pdf[paper])
            self.assertEqual(tuple(round(side) for side in document[0].get_size()), size)
            self.assertEqual(document.get_metadata_value("Title"), "Brindlemoor Tramway: as built")
            self.assertIn(b"/Lang (en)", self.pdf[paper])

    def test_nothing_runs_over_the_edge(self):
        """Long names wrap: every letter stands between the margins."""
        job = job_with([camera(1, name="Unbroken" * 20, place="a place with a long name " * 7)])
        for paper, wide in (("A4", 595), ("Letter", 612)):
            document = pypdfium2.PdfDocument(handover_pdf(sheets_of("as built", assess(job), "x"), paper=paper))
            for page in document:
                text = page.get_textpage()
                boxes = [text.get_charbox(at) for at in range(text.count_chars())]
                self.assertLess(max(box[2] for box in boxes), wide - 30)


class Readers(unittest.TestCase):
    def test_numbers_dates_and_paper_are_the_readers(self):
        files = pack_files(assess(demo_job()), PackPlan("as built", DAY, reader_of("de_AT.UTF-8")))
        pdf = next(data for name, data in files.items() if name.endswith("as built.pdf"))
        text = " ".join(text_of(pdf))
        self.assertIn("20. November 2026", text)
        self.assertIn("15,2", text)
        self.assertNotIn("15.2", text)
        self.assertIn(b"/Lang (de-AT)", pdf)

    def test_locales(self):
        self.assertEqual(reader_of("en_US").paper, "Letter")
        self.assertEqual((reader_of("en_US").style.group, reader_of("de").style.decimal), (",", ","))
        self.assertEqual(reader_of("fr_FR").date_words(DAY), "20 novembre 2026")
        for none in ("C", "POSIX", "", "nonsense_XX", "C.UTF-8"):
            self.assertEqual(reader_of(none), reader_of("C"), none)
        self.assertEqual(reader_of("C").date_words(DAY), "20 November 2026")


class Pack(unittest.TestCase):
    def test_its_files_can_be_checked_and_come_out_the_same(self):
        plan = PackPlan("as built", DAY, extras=Extras((), LOG), beside={"yard.log.jsonl": b"{}\n"})
        files = pack_files(assess(demo_job()), plan)
        sums = dict(reversed(line.split("  ", 1)) for line in files[SUMS].decode().splitlines())
        self.assertEqual(sums.keys(), files.keys() - {SUMS})
        for name, digest in sums.items():
            self.assertEqual(hashlib.sha256(files[name]).hexdigest(), digest)
        for wanted in ("labels.pdf", "schedules.ics", "yard.log.jsonl", "Brindlemoor Tramway.lens.json"):
            self.assertIn(wanted, files)
        archive = zipfile.ZipFile(io.BytesIO(zipped(files, DAY)))
        self.assertIsNone(archive.testzip())
        self.assertEqual(zipped(files, DAY), zipped(files, DAY))
        self.assertLess(len(next(data for name, data in files.items() if name.endswith("as built.pdf"))), 5 * 10**6)

    def test_every_mode_of_an_empty_job(self):
        for mode in MODES:
            self.assertIn(SUMS, pack_files(assess(job_with([], recorders=())), PackPlan(mode, DAY)))

    def test_it_can_be_stopped(self):
        def stop(share):
            if share > 0.2:
                raise InterruptedError

        with self.assertRaises(InterruptedError):
            pack_files(assess(demo_job()), PackPlan("as built", DAY), stop)


class Labels(unittest.TestCase):
    def test_a_telephone_reads_every_code(self):
        """Each label of the demo, drawn and read by a decoder that nobody here wrote."""
        labels = labels_of(demo_job())
        stock = STOCKS[0]
        pages = [page.render(scale=3).to_numpy() for page in pypdfium2.PdfDocument(labels_pdf(labels, stock))]
        detector = cv2.QRCodeDetector()
        for at in (0, 5, stock.on_sheet, len(labels) - 1):
            page, place = divmod(at, stock.on_sheet)
            row, column = divmod(place, stock.across)
            mm = 72 / 25.4 * 3
            left, top = column * stock.pitch_x_mm * mm, (stock.top_mm + row * stock.pitch_y_mm) * mm
            cut = np.ascontiguousarray(
                pages[page][round(top) : round(top + 37 * mm), round(left) : round(left + 34 * mm)]
            )
            self.assertEqual(detector.detectAndDecode(cut)[0], labels[at].code)

    def test_what_stands_on_them(self):
        label = labels_of(job_with([camera(1, mac_address="02:00:00:00:00:01")]))[-1]
        self.assertEqual(label.lines, ("Camera 1", "Hall", "172.22.40.40", "02:00:00:00:00:01"))
        self.assertEqual(label.code, "Camera 1\nIP 172.22.40.40\nMAC 02:00:00:00:00:01")

    def test_a_sheet_that_was_begun_goes_on(self):
        labels = labels_of(demo_job())[:3]
        stock = STOCKS[0]
        for first, pages in ((1, 1), (stock.on_sheet, 2), (stock.on_sheet - 2, 1)):
            self.assertEqual(len(pypdfium2.PdfDocument(labels_pdf(labels, stock, first))), pages, first)

    def test_every_stock_fits_its_paper(self):
        from eager_lens.core.outgoing.formats.pdf import SIZES

        for stock in STOCKS:
            wide, high = (side * 25.4 / 72 for side in SIZES[stock.paper])
            right = stock.left_mm + (stock.across - 1) * stock.pitch_x_mm + stock.width_mm
            bottom = stock.top_mm + (stock.down - 1) * stock.pitch_y_mm + stock.height_mm
            self.assertLessEqual(right, wide + 0.5, stock.name)
            self.assertLessEqual(bottom, high + 0.5, stock.name)


class Sums(unittest.TestCase):
    def setUp(self):
        job = job_with([camera(1, cable_m=50, make="Quill 4"), camera(2, cable_m=50, make="Quill 4")])
        job = set_charges("x", currency="EUR", rate_per_h=60, tax_name="VAT", tax_share=0.2).apply(job)
        self.job = set_prices([PartPrice(what="network cable", price=0.5), PartPrice(what="Quill 4", price=100)]).apply(
            job
        )

    def test_the_sum_is_that_of_its_lines(self):
        assessment = assess(self.job)
        sums = sums_of(assessment)
        totals = {line.what: line.total for line in sums.lines}
        cable = next(part for part in parts_list(assessment.facts) if part.group == "Cable")
        self.assertEqual(cable.quantity, 110, "100 m and a tenth of waste")
        self.assertEqual(totals[cable.what], 55)
        self.assertEqual(totals["Quill 4, 1920 × 1080 px"], 200)
        mounting_h, bench_h = hours_of(assessment)
        self.assertEqual(totals["Mounting and connecting"], mounting_h * 60)
        self.assertEqual(list(sums.net), ["EUR"])
        self.assertAlmostEqual(sums.net["EUR"], 255 + 60 * (mounting_h + bench_h))
        self.assertAlmostEqual(sums.gross("EUR"), 1.2 * sums.net["EUR"])
        self.assertTrue(any(what.startswith("Recorder") for what in sums.unpriced), "none is invented")

    def test_a_price_is_that_of_the_longest_beginning(self):
        prices = {"recorder": Money(1), "recorder, 16 channels": Money(2), "drive, 8 tb": Money(3)}
        self.assertEqual(price_of("Recorder, 16 channels, 2 bays", prices).amount, 2)
        self.assertEqual(price_of("Recorder, 8 channels", prices).amount, 1)
        self.assertEqual(price_of("Drive, 8 TB", prices).amount, 3)
        self.assertIsNone(price_of("Recorders' shelf", prices))

    def test_without_prices_there_are_no_sums(self):
        self.assertEqual(sums_sheets(assess(job_with([camera(1)]))), ())

    def test_options_side_by_side(self):
        sheet = sums_sheets(assess(self.job))[1]
        options = {row[1]: row for row in sheet.blocks[0].rows}
        self.assertIn("spanned, no redundancy (as planned)", options)
        self.assertEqual(options["RAID 6"][2:3], ("not possible",))
        self.assertEqual(options["RAID 6"][4], "—")
        self.assertRegex(options["spanned, no redundancy (as planned)"][4], r"^\d+\.\d\d$")

    def test_a_price_list_comes_from_a_table(self):
        def read(*rows):
            return part_prices(RawTable(rows, tuple(range(1, len(rows) + 1)), ""))

        found = read(
            ("What", "Price (EUR)", "Unit"),
            ("Network cable", "0,45 EUR", "m"),
            ("Switch", "", ""),
            ("Plug", "dear", ""),
        )
        self.assertEqual([(one.what, one.price) for one in found.prices], [("Network cable", 0.45)])
        self.assertEqual(found.currency, "EUR")
        self.assertIn("Row 4 was left out", found.problems[0])
        for rows in ((("What", "Size"), ("a", "1")), (("What", "Price"), ("a", ""))):
            with self.assertRaises(RefusedInput):
                read(*rows)

    def test_a_list_in_another_currency_leaves_the_jobs_and_is_summed_apart(self):
        found = part_prices(RawTable((("What", "Price"), ("Quill 4", "$ 1,200.50")), (1, 2), ""))
        self.assertEqual([(one.price, one.currency) for one in found.prices], [(1200.5, "$")])
        job = set_prices(found.prices, found.currency).apply(self.job)
        self.assertEqual(job.charges.currency, "EUR")
        sums = sums_of(assess(job))
        self.assertEqual(list(sums.net), ["EUR", "$"])
        self.assertEqual(sums.net["$"], 2401)
        self.assertAlmostEqual(sums.net["EUR"], sums_of(assess(self.job)).net["EUR"] - 200)
        text = "\n".join(" ".join(row) for sheet in sums_sheets(assess(job)) for row in sheet.blocks[0].rows)
        self.assertIn("2401.00 $", text.replace("\u2009", ""))
        self.assertIn("2881.20 $", text.replace("\u2009", ""), "with tax")

    def test_a_job_without_a_currency_takes_the_lists(self):
        job = set_prices([PartPrice(what="Quill 4", price=9, currency="GBP")], "GBP").apply(
            job_with([camera(1, make="Quill 4")])
        )
        self.assertEqual((job.charges.currency, list(sums_of(assess(job)).net)), ("GBP", ["GBP"]))

    def test_drives_count_in_their_own_currency(self):
        offers = (
            DriveOffer(name="A", tb=8, price=200, currency="USD"),
            DriveOffer(name="B", tb=8, price=300, currency="EUR"),
        )
        self.assertEqual(prices_of(changed(self.job, drive_offers=offers))["drive, 8 tb"], Money(300, "EUR"))
        self.assertEqual(prices_of(changed(self.job, drive_offers=offers[:1]))["drive, 8 tb"], Money(200, "USD"))

    def test_amounts_as_lists_have_them(self):
        def read(*prices, decimal=None):
            rows = (("What", "Price"), *((f"Part {n}", price) for n, price in enumerate(prices)))
            table = RawTable(rows, tuple(range(1, len(rows) + 1)), "")
            return [(one.price, one.currency) for one in part_prices(table, decimal).prices]

        self.assertEqual(read("1.299,00", "€ 99", "12,5 EUR", "7,-"), [(1299, ""), (99, "EUR"), (12.5, "EUR"), (7, "")])
        self.assertEqual(read("1,299.00", "£99", "1 500"), [(1299, ""), (99, "GBP"), (1500, "")])
        with self.assertRaises(AmbiguousMarks) as caught:
            read("1.299")
        self.assertIn("1.299 or 1299", str(caught.exception))
        self.assertEqual(read("1.299", decimal=","), [(1299, "")])
        self.assertEqual(read("1.299", decimal="."), [(1.299, "")])

    def test_what_one_amount_is_taken_for(self):
        self.assertEqual(reading_of(("1.299,00 EUR", "4"), ","), "1.299,00 EUR is 1299.00")
        self.assertEqual(reading_of(("1,299", "x"), "."), "1,299 is 1299.00")
        self.assertEqual(reading_of(("99.90", "1299"), "."), "")

    def test_a_price_is_replaced_and_taken_away(self):
        job = set_price("Network cable", 0.7).apply(self.job)
        self.assertEqual({one.what: one.price for one in job.prices}["Network cable"], 0.7)
        self.assertEqual(len(job.prices), 2)
        self.assertEqual(len(set_price("NETWORK CABLE", None).apply(job).prices), 1)


if __name__ == "__main__":
    unittest.main()
