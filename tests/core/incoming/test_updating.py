"""An edited list comes back: its rows update the cameras that they are about, and nothing that they do not say is touched."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from eager_lens.core.incoming.camera_import import guess_mapping, read_cameras
from eager_lens.core.incoming.table_in import table_from_bytes, table_from_text
from eager_lens.core.job.edits import set_each
from eager_lens.core.job.fields import CAMERA_FIELDS
from eager_lens.core.job.model import Registration, changed
from eager_lens.core.outgoing.formats.table_out import camera_table, csv_bytes, xlsx_bytes
from tests.properties import tried
from tests.support import camera, demo_job, job_with, recorder


def read(text, job, **mapping):
    table = table_from_text(text) if isinstance(text, str) else table_from_bytes(text, "list")
    return read_cameras(table, replace(guess_mapping(table), **mapping), job)


JOB = job_with(
    [
        camera(1, name="Gate", mac_address="02:00:00:00:00:01", serial="000123", fps=12),
        camera(2, name="Door", serial="0,50"),
        camera(3, name="Door"),
    ]
)


class Updating(unittest.TestCase):
    def test_a_list_that_is_exported_changes_nothing(self):
        for job in (demo_job(), JOB):
            for data in (csv_bytes(camera_table(job)), xlsx_bytes([camera_table(job)])):
                result = read(data, job)
                self.assertEqual((result.problems, result.cameras, result.changed), ((), (), ()))
                self.assertEqual(result.known, len(job.cameras))
                self.assertEqual(result.words, "")

    def test_what_is_edited_in_it_is_all_that_changes(self):
        text = csv_bytes(camera_table(demo_job())).decode("utf-8-sig")
        name = demo_job().cameras[4].name
        result = read(text.replace(name, "Renamed"), demo_job())
        (update,) = result.changed
        self.assertEqual(
            (update.camera, update.known_by, update.fields), (demo_job().cameras[4].id, "its ID", {"name": "Renamed"})
        )
        self.assertEqual(update.words, (f"Name: {name} → Renamed",))
        self.assertEqual(result.words, "Update 1 camera")
        after = result.edit().apply(demo_job())
        self.assertEqual(len(after.cameras), len(demo_job().cameras))

    def test_what_a_row_is_known_by(self):
        for text, known_by in (
            ("ID,Frame rate\ncam-1,20\n", "its ID"),
            ("MAC,Name,Frame rate\n0-0-0-0-0-1,x,20\n", None),
            ("MAC,Name,Frame rate\n02-00-00-00-00-01,x,20\n", "its MAC address"),
            ("Serial,Frame rate\n000123,20\n", "its serial"),
            ("Name,Frame rate\ngate ,20\n", "its name"),
            ("Name,Frame rate\nDoor,20\n", None),
            ("Name,Frame rate\nGate,20\nGate,21\n", None),
        ):
            result = read(text, JOB)
            with self.subTest(text):
                self.assertEqual([one.known_by for one in result.updates], [known_by] if known_by else [])
                if known_by:
                    self.assertEqual(result.updates[0].fields["fps"], 20)

    def test_what_may_become_of_known_rows(self):
        text = "Name,Frame rate\nGate,20\nNew,20\n"
        self.assertEqual(read(text, JOB).words, "Import 1 camera, update 1 camera")
        self.assertEqual(read(text, JOB, known_rows="leave out").words, "Import 1 camera")
        self.assertEqual(read(text, JOB, known_rows="add").words, "Import 2 cameras")

    def test_an_empty_cell_leaves_what_is_there(self):
        result = read("Name,Place,Frame rate\nGate,,20\n", JOB)
        self.assertEqual(result.updates[0].fields, {"fps": 20})

    def test_a_rate_that_stays_keeps_what_has_no_column(self):
        one = camera(1, measured_mbps=2.5, measured_low_mbps=2.0, measured_high_mbps=3.0, measured_from="clip.mp4")
        job = job_with([one])
        text = csv_bytes(camera_table(job)).decode("utf-8-sig").replace("Hall", "Yard")
        self.assertEqual(read(text, job).edit().apply(job).cameras, (changed(one, place="Yard"),))

    def test_text_columns_never_take_a_decimal_comma(self):
        result = read("Name;Serial;Frame rate\nNew;0,75;12,5\n", JOB)
        self.assertEqual((result.cameras[0]["serial"], result.cameras[0]["fps"]), ("0,75", 12.5))


class Marks(unittest.TestCase):
    def test_small_units_have_thousands(self):
        fields = read("Name,Bitrate (kb/s)\nGate2,4.096\n", JOB).cameras[0]
        self.assertAlmostEqual(fields["measured_mbps"], 4.096)

    def test_another_column_decides_and_else_it_is_asked(self):
        table = table_from_text("Name;Rate (Mb/s);FPS\nA;4.096;12,5\n")
        mapping = guess_mapping(table)
        self.assertEqual(mapping.unsure, ())
        self.assertEqual(read_cameras(table, mapping, JOB).cameras[0]["measured_mbps"], 4096)
        mapping = guess_mapping(table_from_text("Name;Cable length\nA;1.296\n"))
        self.assertEqual([mapping.columns[at].marks.example for at in mapping.unsure], ["1.296"])

    def test_own_lists_and_workbooks_are_certain(self):
        job = job_with([camera(1, cable_m=1.296)])
        for data in (csv_bytes(camera_table(job)), xlsx_bytes([camera_table(job)])):
            table = table_from_bytes(data, "list")
            mapping = guess_mapping(table)
            self.assertEqual(mapping.unsure, ())
            empty = job.model_copy(update={"cameras": ()})
            self.assertEqual(read_cameras(table, mapping, empty).cameras[0]["cable_m"], 1.296)


class Twins(unittest.TestCase):
    def test_recorders_of_one_name_and_names_with_commas(self):
        names = ["NVR", "NVR", "Hall, left", "Hall", "left", "rec-1", "A [rec-2]", "nvr"]
        recorders = [recorder(n, name=name) for n, name in enumerate(names, 1)]
        places = [tuple(Registration(recorder=f"rec-{n}", channel=at) for at, n in enumerate(ns, 1)) for ns in (
            (1,), (2,), (3,), (4, 5), (3, 4, 5), (6,), (7, 1), (8, 2))]  # fmt: skip
        job = job_with([camera(n, registered=place) for n, place in enumerate(places, 1)], recorders=recorders)
        empty = job.model_copy(update={"cameras": ()})
        for data in (csv_bytes(camera_table(job)), xlsx_bytes([camera_table(job)])):
            result = read(data, empty)
            self.assertEqual(result.problems, ())
            self.assertEqual([one["registered"] for one in result.cameras], places)
            self.assertEqual(read(data, job).changed, ())

    def test_a_name_that_several_have_is_asked_back(self):
        job = job_with([], recorders=[recorder(1, name="NVR"), recorder(2, name="NVR")])
        (problem,) = read("Name,Recorder\nGate,NVR\n", job).problems
        self.assertIn("write which one: NVR [rec-1], NVR [rec-2]", problem.problem)


TEXTS = (
    st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), min_size=1, max_size=12)
    .map(str.strip)
    .filter(bool)
)
NUMBERS = st.floats(0.01, 5000).map(lambda value: float(f"{value:.6g}"))


@st.composite
def cameras(draw):
    return [
        camera(
            n,
            name=draw(TEXTS),
            place=draw(st.one_of(st.just(""), TEXTS)),
            serial=draw(st.one_of(st.just(""), st.from_regex(r"[0-9]{1,3}[,.]?[0-9]{1,6}", fullmatch=True), TEXTS)),
            cable_m=draw(st.one_of(st.none(), NUMBERS)),
            power_w=draw(st.floats(0, 90).map(lambda value: float(f"{value:.4g}"))),
            events_per_h=draw(NUMBERS),
            registered=tuple(
                Registration(recorder=one, channel=draw(st.integers(1, 64)))
                for one in draw(st.lists(st.sampled_from(["rec-1", "rec-2", "rec-3"]), unique=True, max_size=3))
            ),
        )
        for n in range(1, draw(st.integers(1, 4)) + 1)
    ]


class AnyList(unittest.TestCase):
    @tried(40)
    @given(cameras(), st.lists(TEXTS, min_size=3, max_size=3), st.booleans())
    def test_what_goes_out_comes_back(self, some, names, as_workbook):
        job = job_with(some, recorders=[recorder(n, name=name) for n, name in enumerate(names, 1)])
        table = camera_table(job)
        data = xlsx_bytes([table]) if as_workbook else csv_bytes(table)
        empty = job.model_copy(update={"cameras": ()})
        result = read(data, empty)
        self.assertEqual(result.problems, ())
        back = result.edit().apply(empty).cameras
        for field in CAMERA_FIELDS:
            self.assertEqual([field.show(one, job) for one in back], [field.show(one, job) for one in some], field.id)
        self.assertEqual([one.registered for one in back], [one.registered for one in some])
        again = read(data, job)
        self.assertEqual((again.problems, again.cameras, again.changed), ((), (), ()))

    @tried(40)
    @given(cameras(), cameras())
    def test_an_edited_list_makes_the_job_what_it_says(self, some, others):
        some, others = some[: len(others)], others[: len(some)]
        before = job_with(some, recorders=[recorder(n) for n in (1, 2, 3)])
        wanted = set_each("x", {one.id: {**dict(one), "id": one.id} for one in others}).apply(before)
        back = read(csv_bytes(camera_table(wanted)), before).edit().apply(before)
        for was, now, want in zip(before.cameras, back.cameras, wanted.cameras, strict=True):
            for name in ("name", "serial", "place", "cable_m", "power_w", "events_per_h", "registered"):
                # An empty cell says nothing, so that what was there stays.
                asked = getattr(want, name)
                self.assertEqual(getattr(now, name), getattr(was, name) if asked in ("", None, ()) else asked, name)


if __name__ == "__main__":
    unittest.main()
