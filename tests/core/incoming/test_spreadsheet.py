"""A spreadsheet program that nobody here wrote, without a screen: what it makes of what is written, and what it writes comes in."""

import csv
import io
import shutil
import subprocess
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.incoming.camera_import import guess_mapping, read_cameras
from eager_lens.core.incoming.table_in import read_table
from eager_lens.core.job.fields import CAMERA_FIELDS
from eager_lens.core.outgoing.formats.table_out import camera_table, csv_bytes, job_tables, spoiled_in_csv, xlsx_bytes
from eager_lens.core.outgoing.handover.modes import sheets_of
from eager_lens.core.outgoing.handover.number_tables import handover_tables
from tests.support import FolderCase, camera, demo_job, job_with

NAMES = (
    *(
        "Tür",
        "門",
        "=1+1",
        "+2",
        "@x",
        "-3",
        "'quoted'",
        '"double"',
        "a,b;c",
        "line\ttab",
        "000",
        "1e5",
        "3-4",
        "\u200bhidden",
    ),
    *(
        "NULL",
        "A" * 190,
        "<b>&amp;</b>",
        "Straße",
        "emoji \N{GRINNING FACE}",
        "inner  space",
        "1.2.2026",
        "TRUE",
        "#N/A",
        "#REF!",
    ),
    *("0x1F", "=cmd|' /C'!A0"),
)
SERIALS = ("000123", "0,50", "1E5", "12345678901234567890", "3-4", "QU-3100", "+41", "1.10")


def hostile_job():
    cameras = [
        camera(n, name=name, serial=SERIALS[n % len(SERIALS)], cable_m=n + 0.25, note=name)
        for n, name in enumerate(NAMES, 1)
    ]
    return job_with(cameras)


@unittest.skipUnless(shutil.which("ssconvert"), "ssconvert (gnumeric) is not installed")
class Spreadsheet(FolderCase):
    def converted(self, name, data, ending):
        """A file as the program writes it after it has read it."""
        source, target = self.folder / name, self.folder / f"out-{name}{ending}"
        source.write_bytes(data)
        command = ["ssconvert", str(source), str(target)]
        done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)
        self.assertEqual(done.returncode, 0, done.stderr[-500:])
        return target

    def test_a_workbook_goes_through_it_and_comes_back_whole(self):
        job = hostile_job()
        target = self.converted("cameras.xlsx", xlsx_bytes([camera_table(job)]), ".xlsx")
        table = read_table(target)
        result = read_cameras(table, guess_mapping(table), job.model_copy(update={"cameras": ()}))
        self.assertEqual(result.problems, ())
        back = result.edit().apply(job.model_copy(update={"cameras": ()})).cameras
        for field in CAMERA_FIELDS:
            if field.id == "recorder":
                continue
            with self.subTest(field.id):
                self.assertEqual([field.show(one, job) for one in back], [field.show(one, job) for one in job.cameras])
        self.assertEqual(read_cameras(table, guess_mapping(table), job).changed, ())

    def test_no_cell_of_a_csv_is_run(self):
        target = self.converted("cameras.csv", csv_bytes(camera_table(hostile_job())), ".csv")
        with target.open(encoding="utf-8", newline="") as file:
            cells = {cell for row in csv.reader(file) for cell in row}
        for formula in ("=1+1", "=cmd|' /C'!A0"):
            self.assertTrue({formula, f"'{formula}"} & cells, "it is a text there, with its mark or without")

    def test_what_is_said_to_be_spoiled_in_a_csv_is_spoiled(self):
        table = camera_table(job_with([camera(1, serial="000123"), camera(2, serial="QU-1")]))
        target = self.converted("serials.csv", csv_bytes(table), ".csv")
        cells = {cell for row in csv.reader(io.StringIO(target.read_text("utf-8"))) for cell in row}
        self.assertEqual(spoiled_in_csv(table), (1, "000123"))
        self.assertIn("123", cells)
        self.assertNotIn("000123", cells)

    def test_figures_of_a_pack_are_numbers_for_it(self):
        tables = [*job_tables(demo_job()), *handover_tables(sheets_of("as built", assess(demo_job()), "x"))]
        storage = next(table for table in tables if "Days promised" in table.headings)
        target = self.converted("storage.xlsx", xlsx_bytes([storage]), ".csv")
        rows = list(csv.DictReader(io.StringIO(target.read_text("utf-8"))))
        at = storage.headings.index("Days promised")
        self.assertEqual([float(row["Days promised"]) for row in rows], [row[at] for row in storage.rows])


if __name__ == "__main__":
    unittest.main()
