"""Camera lists as people keep them: other delimiters, encodings, headings, units, and mistakes told by row and column."""

import io
import random
import unittest
from dataclasses import replace
from unittest import mock

import openpyxl

from eager_lens.core.errors import DamagedFile, EagerLensError, FileTrouble, RefusedInput
from eager_lens.core.incoming import table_in
from eager_lens.core.incoming.camera_import import guess_mapping, read_cameras, targets
from eager_lens.core.incoming.table_in import read_table, table_from_bytes, table_from_text
from eager_lens.core.incoming.workbook import workbook_rows
from eager_lens.core.job.fields import CAMERA_FIELDS
from eager_lens.core.job.model import Registration
from eager_lens.core.outgoing.formats.table_out import camera_table, csv_bytes, xlsx_bytes
from eager_lens.core.subprocess_reader import run_in_subprocess
from tests.support import FolderCase, camera, demo_job, job_with, recorder, repeats


def imported(text, job=None):
    table = table_from_text(text) if isinstance(text, str) else table_from_bytes(text, "list")
    return read_cameras(table, guess_mapping(table), job or job_with(recorders=[recorder(1, name="Hall NVR")]))


def xlsx(rows):
    book = openpyxl.Workbook()
    for row in rows:
        book.active.append(row)
    data = io.BytesIO()
    book.save(data)
    return data.getvalue()


class Reading(unittest.TestCase):
    ROWS = (("Name", "Place", "Frame rate"), ("Gate", "Yard, north", "12,5"), ("Tür", "Halle", "10"))

    def test_delimiters_are_found_out(self):
        for delimiter, words in ((",", "comma"), (";", "semicolon"), ("\t", "tab")):
            lines = [delimiter.join(f'"{cell}"' for cell in row) for row in self.ROWS]
            table = table_from_text("\r\n".join(lines))
            with self.subTest(words):
                self.assertEqual(table.rows, self.ROWS)
                self.assertIn(words, table.reading)

    def test_encodings_are_found_out(self):
        text = "\n".join(";".join(row) for row in self.ROWS)
        for encoding in ("utf-8", "utf-8-sig", "utf-16", "cp1252"):
            with self.subTest(encoding):
                self.assertEqual(table_from_bytes(text.encode(encoding), "list").rows, self.ROWS)

    def test_blank_rows_are_left_out_and_row_numbers_stay_those_of_the_file(self):
        table = table_from_text("Name,Place\n\nGate,Yard\n,,\nDoor,Hall\n")
        self.assertEqual(table.numbers, (1, 3, 5))

    def test_a_cell_over_two_lines(self):
        table = table_from_text('Name,Note\nGate,"first\nsecond"\nDoor,x\n')
        self.assertEqual(table.rows[1], ("Gate", "first\nsecond"))

    def test_short_rows_are_filled_up(self):
        self.assertEqual(table_from_text("a,b,c\nd\n").rows[1], ("d", "", ""))

    def test_workbooks(self):
        table = table_from_bytes(xlsx([["Name", "fps", "Place"], ["Gate", 12.5, None], ["Door", 10, "Hall"]]), "x.xlsx")
        self.assertEqual(table.rows, (("Name", "fps", "Place"), ("Gate", "12.5", ""), ("Door", "10", "Hall")))

    def test_what_is_no_table(self):
        for label, data in (
            ("empty", b""),
            ("blank", b" \n\n , , \n"),
            ("zero bytes", b"a\0b,c"),
            ("a broken workbook", xlsx([["Name"]])[:400]),
            ("another archive", b"PK\x03\x04" + b"\0" * 100),
        ):
            with self.subTest(label), self.assertRaises(DamagedFile):
                table_from_bytes(data, "list")

    def test_too_many_rows_are_refused(self):
        with self.assertRaises(DamagedFile) as caught:
            table_from_text("Name\n" + "x\n" * 30_000)
        self.assertIn("20,000", str(caught.exception))


class Guessing(unittest.TestCase):
    def targets(self, *headings, second=("x",) * 12):
        table = table_from_text("\n".join("\t".join(row) for row in (headings, second[: len(headings)])))
        return [column.target for column in guess_mapping(table).columns]

    def test_headings_that_people_use(self):
        for heading, target in (
            ("Camera", "name"),
            ("LOCATION", "place"),
            ("IP Address", "address"),
            ("MAC", "mac_address"),
            ("S/N", "serial"),
            ("Resolution", "picture"),
            ("Resolution (MP)", "megapixels"),
            ("Megapixels", "megapixels"),
            ("FPS", "fps"),
            ("frames per second", "fps"),
            ("Compression", "codec"),
            ("GOP", "key_frame_s"),
            ("Key frame (s)", "key_frame_s"),
            ("GOP (frames)", "key_frame_frames"),
            ("Bitrate [kb/s]", "measured_mbps"),
            ("Bitrate kbps", "measured_mbps"),
            ("Rate, measured (Mb/s)", "measured_mbps"),
            ("Post-event, min", "post_recording_s"),
            ("Events per day", ""),
            ("Events (per day)", "events_per_h"),
            ("Cable (ft)", "cable_m"),
            ("Schedule", "schedule"),
            ("Colour of the housing", ""),
        ):
            with self.subTest(heading):
                self.assertEqual(self.targets("Name" if heading != "Camera" else "Place", heading)[1], target)

    def test_every_heading_that_is_exported_is_understood(self):
        headings = [field.heading_with_unit for field in CAMERA_FIELDS]
        self.assertEqual(self.targets(*headings, second=("x",) * 40), [field.id for field in CAMERA_FIELDS])

    def test_the_first_of_two_columns_of_one_meaning_is_taken(self):
        self.assertEqual(self.targets("Name", "Title"), ["name", ""])

    def test_without_headings_position_counts(self):
        table = table_from_text("Gate\tYard\tTarnvale\nDoor\tHall\tQuillmark")
        mapping = guess_mapping(table)
        self.assertFalse(mapping.has_headings)
        self.assertEqual([column.target for column in mapping.columns], ["name", "place", "make"])
        result = read_cameras(table, mapping, job_with())
        self.assertEqual([fields["name"] for fields in result.cameras], ["Gate", "Door"])

    def test_a_guess_can_be_put_right(self):
        mapping = guess_mapping(table_from_text("Name,Where it hangs\nGate,Yard"))
        mapping = mapping.with_target(1, "place")
        self.assertEqual([column.target for column in mapping.columns], ["name", "place"])
        moved = mapping.with_target(1, "name")
        self.assertEqual([column.target for column in moved.columns], ["", "name"])
        self.assertIn("name", targets())


class Importing(unittest.TestCase):
    def test_good_rows_come_in_and_bad_ones_are_told_by_row_and_column(self):
        result = imported(
            "Name,IP,FPS,Resolution\n"
            "Gate,172.22.40.50,12,1920x1080\n"
            "Door,300.1.1.1,10,1080p\n"
            "Till,172.22.40.052,10,1080p\n"
            "Safe,172.22.40.53,0,1080p\n"
            "Roof,172.22.40.54,fast,big\n"
            "Yard,,,\n"
        )
        self.assertEqual([fields["name"] for fields in result.cameras], ["Gate", "Yard"])
        cells = [(problem.row, problem.column) for problem in result.problems]
        self.assertEqual(cells, [(3, "IP"), (4, "IP"), (5, "FPS"), (6, "FPS"), (6, "Resolution")])
        self.assertEqual([row[0] for row in result.left_out], ["Door", "Till", "Safe", "Roof"])
        self.assertIn("Row 3, IP: '300.1.1.1' is not an IPv4 address", result.problems[0].sentence())

    def test_units_in_headings_are_turned(self):
        result = imported(
            "Name,FPS,GOP (frames),Bitrate (kb/s),Post-event (min),Events (per day),Cable (ft)\nGate,12.5,25,2200,0.5,48,100\n"
        )
        fields = result.cameras[0]
        self.assertEqual(result.problems, ())
        for key, value in (
            ("key_frame_s", 2),
            ("measured_mbps", 2.2),
            ("post_recording_s", 30),
            ("events_per_h", 2),
            ("cable_m", 30.48),
        ):
            with self.subTest(key):
                self.assertAlmostEqual(fields[key], value)

    def test_width_and_height_in_columns_of_their_own(self):
        fields = imported("Name,Width,Height\nGate,2688,1520\n").cameras[0]
        self.assertEqual((fields["width_px"], fields["height_px"]), (2688, 1520))

    def test_megapixels_are_the_size_that_cameras_offer(self):
        rows = {"2": (1920, 1080), "4 MP": (2688, 1520), "5,0": (2592, 1944), "8": (3840, 2160), "12": (4000, 3000)}
        listed = "".join(f"Camera {at};{text}\n" for at, text in enumerate(rows))
        fields = imported("Name;MP\n" + listed).cameras
        self.assertEqual([(one["width_px"], one["height_px"]) for one in fields], list(rows.values()))
        (problem,) = imported("Name,MP\nGate,9.5\n").problems
        self.assertIn("no usual resolution has 9.5 MP", problem.problem)
        self.assertEqual(imported("Name,Resolution\nGate,4 MP\n").cameras[0]["width_px"], 2688)

    def test_bit_rates_are_entered_until_somebody_says_that_they_were_measured(self):
        table = table_from_text("Name,kb/s\nGate,2200\nDoor,\n")
        mapping = guess_mapping(table)
        self.assertTrue(mapping.asks_when)
        for when in ("", "night"):
            gate, door = read_cameras(table, replace(mapping, measured_when=when), job_with()).cameras
            self.assertEqual((gate["measured_mbps"], gate["measured_when"]), (2.2, when))
            self.assertNotIn("measured_when", door)
        guessed = guess_mapping(table_from_text("Name,kb/s,Measured when\nGate,2200,by day\n"))
        self.assertFalse(guessed.asks_when)
        (gate, _) = read_cameras(table, replace(mapping, measured_when="day", measured_min=5.0), job_with()).cameras
        self.assertEqual(gate["measured_min"], 5)
        (gate,) = imported("Name,kb/s,Measured when,Measured for (h)\nGate,2200,by day,2\n").cameras
        self.assertEqual(gate["measured_min"], 120)
        self.assertFalse(guess_mapping(table_from_text("Name,FPS\nGate,12\n")).asks_when)

    def test_decimal_commas(self):
        fields = imported("Name;FPS;Rate (Mb/s)\nGate;12,5;1,250\nDoor;6,25;0,5\n").cameras
        self.assertEqual([camera["fps"] for camera in fields], [12.5, 6.25])
        self.assertAlmostEqual(fields[0]["measured_mbps"], 1.25)

    def test_what_the_job_does_not_know_is_told_but_costs_no_row(self):
        result = imported("Name,Schedule,Recorder,Scene\nGate,Sundays,Attic,moon\n")
        self.assertEqual([fields["name"] for fields in result.cameras], ["Gate"])
        self.assertEqual({problem.column for problem in result.problems}, {"Schedule", "Recorder", "Scene"})
        self.assertTrue(all(problem.row_kept for problem in result.problems))

    def test_recorders_and_channels(self):
        job = job_with([camera(1)], recorders=[recorder(1, name="Hall NVR")])
        result = imported("Name,Recorder,Channel\nGate,Hall NVR,7\nDoor,hall nvr,\nYard,Hall NVR,x\n", job)
        places = [fields.get("registered") for fields in result.cameras]
        self.assertEqual(places[0], (Registration(recorder="rec-1", channel=7),))
        self.assertEqual(places[1], (Registration(recorder="rec-1", channel=2),))
        self.assertIsNone(places[2])
        self.assertEqual(result.problems[0].column, "Channel")

    def test_one_edit_adds_all_of_them(self):
        job = job_with([camera(1)])
        edit = imported("Name\nGate\nDoor\n").edit()
        self.assertEqual(edit.label, "Import 2 cameras")
        self.assertEqual([c.name for c in edit.apply(job).cameras], ["Camera 1", "Gate", "Door"])

    def test_no_more_than_a_job_holds(self):
        result = imported("Name\n" + "Gate\n" * 20_500)
        self.assertEqual(len(result.cameras), 20_000)
        self.assertEqual(len(result.left_out), 500)

    def test_a_name_is_given_where_there_is_none(self):
        self.assertEqual(imported("Place,FPS\nYard,10\n").edit().apply(job_with()).cameras[0].place, "Yard")


class ThereAndBack(FolderCase):
    def test_an_exported_list_comes_back_the_same(self):
        job = demo_job()
        empty = job.model_copy(update={"cameras": ()})
        for name, data in (("csv", csv_bytes(camera_table(job))), ("xlsx", xlsx_bytes([camera_table(job)]))):
            with self.subTest(name):
                path = self.folder / f"list.{name}"
                path.write_bytes(data)
                table = read_table(path)
                result = read_cameras(table, guess_mapping(table), empty)
                self.assertEqual(result.problems, ())
                back = result.edit().apply(empty)
                # A motion rule is drawn on a picture: it has no column.
                flat = tuple(one.model_copy(update={"motion_rule": None, "tried_in": ""}) for one in job.cameras)
                self.assertEqual(back.cameras, flat)

    def test_a_file_that_is_not_there(self):
        with self.assertRaises(FileTrouble):
            read_table(self.folder / "none.csv")


def read_here(target, data, *limits, step, what):
    """A workbook read in this process; a panic of the library is what a process of its own makes a refusal of."""
    try:
        return workbook_rows(data, *limits, step=step)
    except DamagedFile:
        raise
    except BaseException as error:
        if type(error).__name__ == "PanicException":
            raise RefusedInput(f"{what} made the library fail") from error
        raise


class Fuzz(unittest.TestCase):
    def test_two_thousand_mangled_lists(self):
        """Bytes of a CSV and of a workbook spoiled at random: a result or one clear error, and nothing else.

        A few workbooks are read in a process of its own, as all are in use; a process for each would take a minute.
        """
        source = random.Random(11)
        text = csv_bytes(camera_table(demo_job()))[:1800]
        book = xlsx([["Name", "IP", "FPS"], *([f"Camera {n}", f"172.22.40.{n}", n] for n in range(6))])
        job = job_with(recorders=[recorder(1)])
        read = 0
        for number in range(repeats(400, 2000)):
            data = bytearray(book if number % 8 == 0 else text)
            for _ in range(source.randint(1, 6)):
                at = source.randrange(len(data))
                if source.random() < 0.5:
                    data[at] = source.randrange(256)
                else:
                    data[at : at + source.randint(0, 30)] = source.choice(
                        [b'"', b"\n", b",", b";", b"\t", b"1e400", b"\x00", b"="]
                    )
            try:
                with mock.patch.object(table_in, "run_in_subprocess", run_in_subprocess if number < 64 else read_here):
                    table = table_from_bytes(bytes(data), "list")
                result = read_cameras(table, guess_mapping(table), job)
                if result.cameras:
                    result.edit().apply(job)
                read += 1
            except EagerLensError as error:
                self.assertTrue(str(error))
        self.assertGreater(read, repeats(200, 1000))


if __name__ == "__main__":
    unittest.main()
