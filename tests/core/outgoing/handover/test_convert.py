"""A job that goes out and comes back: in each format all that it can hold, and a word for the rest."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.file import write_job
from eager_lens.core.job.model import Camera, NetworkDevice, Recorder
from eager_lens.core.outgoing.formats.reader import Reader
from eager_lens.core.outgoing.handover.convert import Options, convert, load
from tests.properties import tried
from tests.support import FolderCase, demo_job

NO_COLUMN = {
    "cameras": {"subnet", "schedule", "motion_rule", "tried_in", "tried_weather", "tried_clip", "seen", "measured_at"}
    | {"measured_low_mbps", "measured_high_mbps", "measured_from", "events_from"},
    "recorders": {"subnet", "camera_interface_subnet"},
    "network": {"subnet"},
}
"""What a table of devices has no column for, or names what stands in another list of the job."""


def held(job, name):
    parts = getattr(job, name)
    return [{key: value for key, value in dict(one).items() if key not in NO_COLUMN[name]} for one in parts]


@st.composite
def jobs(draw):
    """The demo with fields of some devices changed."""
    job = demo_job()
    texts = (
        st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), min_size=1, max_size=10)
        .map(str.strip)
        .filter(bool)
    )
    for one in draw(st.lists(st.sampled_from([*job.cameras, *job.recorders, *job.network]), unique=True, max_size=5)):
        fields = {"name": draw(texts), "note": draw(st.one_of(st.just(""), texts)), "serial": draw(texts)}
        if isinstance(one, Camera):
            fields |= {"fps": draw(st.integers(1, 30)), "cable_m": draw(st.one_of(st.none(), st.integers(0, 900)))}
        elif isinstance(one, Recorder):
            fields |= {
                "drives": draw(st.integers(0, 4)),
                "erase_after_days": draw(st.one_of(st.none(), st.integers(1, 90))),
            }
        elif isinstance(one, NetworkDevice):
            fields |= {
                "ports": draw(st.integers(1, 48)),
                "upload_mbps": draw(st.one_of(st.none(), st.integers(1, 900))),
            }
        job = set_fields([one.id], "x", **fields).apply(job)
    return job


class ThereAndBack(FolderCase):
    def there_and_back(self, job, ending):
        source, out = self.folder / "job.lens.json", self.folder / f"out{ending}"
        write_job(source, job, None, force=True)
        convert(source, out, Reader(), Options(replace=True))
        return load(out)

    @tried(12)
    @given(jobs())
    def test_a_job_file_holds_all(self, job):
        loaded = self.there_and_back(job, ".lens.json")
        self.assertEqual((loaded.job, loaded.troubles), (job, ()))

    @tried(6)
    @given(jobs())
    def test_a_workbook_holds_devices_with_their_ids_and_the_rest_is_told(self, job):
        loaded = self.there_and_back(job, ".xlsx")
        for name in ("cameras", "recorders", "network"):
            self.assertEqual(held(loaded.job, name), held(job, name))
        self.assertTrue(loaded.is_whole)
        columns = {sentence.partition(", ")[2].partition(":")[0] for sentence in loaded.troubles}
        self.assertEqual(columns, {"Subnet", "Schedule"})

    @tried(25)
    @given(jobs())
    def test_a_csv_holds_cameras_and_the_rest_is_told(self, job):
        loaded = self.there_and_back(job, ".csv")
        bare = [{**one, "registered": ()} for one in held(job, "cameras")]
        self.assertEqual(held(loaded.job, "cameras"), bare)
        self.assertTrue(any("Recorder" in sentence for sentence in loaded.troubles))


if __name__ == "__main__":
    unittest.main()
