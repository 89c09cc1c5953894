"""What six usual jobs come out at, held against what an installer would buy by hand."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.devices import life_of
from eager_lens.core.enquiry.build import job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted
from eager_lens.core.options.best.picture import best_picture, task_of
from eager_lens.core.options.levers import CAP, levers
from eager_lens.core.sizing.drives import DRIVE_SIZES_TB


def place(name, distance_m=0, **views):
    return PlaceWanted(
        name=name,
        distance_m=distance_m,
        other_building=distance_m > 0,
        views={kind.replace("_", "-"): many for kind, many in views.items()},
    )


JOBS = {
    "corner shop": {"places": (place("Shop", door=1, till=2, room=2, store=1),)},
    "school": {
        "places": (
            place("Main", door=4, corridor=14, room=4, yard=4, gate=2),
            place("Gym", 80, door=2, corridor=6, room=3, yard=3),
            place("Annex", 150, door=3, corridor=10, room=2, car_park=3),
        )
    },
    "forecourt": {"places": (place("Kiosk", till=2, door=2, store=1, gate=4, car_park=5),), "record": "continuous"},
    "warehouse": {"places": (place("Hall", store=25, door=6, room=4, yard=6, gate=4),), "record": "continuous"},
    "farm": {"places": (place("House", yard=3, gate=1, door=1, store=1),), "record": "motion"},
    "flats": {"places": (place("House", door=3, corridor=4, car_park=2, store=1),), "least_days": 14, "most_days": 30},
}
SMALLEST_TB = 2.0  # two mirrored drives of 1 TB


def built(name, **fields):
    return job_for(Enquiry(**{"name": name, "least_days": 31, **JOBS[name], **fields}))


def by_hand_tb(job, assessment):
    """Caps as every practitioner sets them (2 Mb/s for 1080p, 4 for 4 MP, 8 above), times the hours that are recorded."""
    gb = 0.0
    for one in job.cameras:
        cap = 2 if one.megapixels < 2.5 else 4 if one.megapixels < 6 else 8
        gb += cap * (1.5 if one.codec == "h264" else 1.0) * 0.45 * assessment.camera(one.id).stored_h_per_day
    return gb * job.retention.least_days / 1000


class SixJobs(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.jobs = {name: built(name) for name in JOBS}
        cls.assessed = {name: assess(job) for name, job in cls.jobs.items()}

    def test_the_drives_are_those_that_caps_give_by_hand(self):
        for name, job in self.jobs.items():
            with self.subTest(name):
                usable = sum(self.assessed[name].recorder(one.id).usable_tb for one in job.recorders)
                hand = by_hand_tb(job, self.assessed[name])
                raw = sum(one.drives * one.drive_tb for one in job.recorders)
                self.assertGreater(usable, 0.8 * hand)
                self.assertTrue(usable < 1.5 * hand or raw <= SMALLEST_TB, (usable, hand))

    def test_every_camera_is_held_to_an_assumed_maximum_and_some_days_are_certain(self):
        for name, job in self.jobs.items():
            with self.subTest(name):
                self.assertTrue(all(one.rate_control == "capped VBR" and one.cap_assumed for one in job.cameras))
                for one in job.recorders:
                    got = self.assessed[name].recorder(one.id)
                    self.assertGreater(got.certain_days, 0.6 * job.retention.least_days)
                    self.assertTrue(got.certain_days <= got.promised_days <= got.mean_days)
                    self.assertGreaterEqual(got.promised_days, job.retention.least_days)

    def test_one_recorder_common_drives_and_no_risky_rebuild(self):
        for name, job in self.jobs.items():
            with self.subTest(name):
                self.assertEqual(len(job.recorders), 1)
                for one in job.recorders:
                    self.assertIn(one.drive_tb, DRIVE_SIZES_TB)
                    self.assertLessEqual(life_of(one, self.assessed[name].recorder(one.id)).unreadable_share, 0.1)

    def test_pictures_are_erased_after_what_was_answered(self):
        for fields, after in (({}, 31), ({"most_days": 60}, 60), ({"erase": False}, None)):
            with self.subTest(fields):
                self.assertEqual(built("corner shop", **fields).recorders[0].erase_after_days, after)
        self.assertEqual(self.jobs["flats"].recorders[0].erase_after_days, 30)

    def test_nothing_lowers_a_picture_while_a_cap_suffices(self):
        for name in JOBS:
            with self.subTest(name):
                job = self.jobs[name]
                free = job_for(Enquiry(name=name, **{"least_days": 31, **JOBS[name]}, capped=False))
                drives = {
                    field: getattr(job.recorders[0], field) for field in ("drives", "drive_tb", "raid_level", "bays")
                }
                free = free.model_copy(
                    update={"recorders": (free.recorders[0].model_copy(update=drives), *free.recorders[1:])}
                )
                assessed, recorder_id = assess(free), free.recorders[0].id
                self.assertEqual(next(iter(levers(assessed, recorder_id))).id, CAP)
                best = best_picture(task_of(assessed, recorder_id))
                self.assertEqual(best.given, "nothing")
                before = {one.id: one for one in free.cameras}
                for one in best.edit.apply(free).cameras:
                    old = before[one.id]
                    self.assertGreaterEqual((one.width_px, one.fps), (old.width_px, old.fps), one.name)

    def test_without_caps_more_drives_are_bought(self):
        free = {name: built(name, capped=False) for name in JOBS}
        self.assertTrue(all(one.cap_mbps is None for job in free.values() for one in job.cameras))
        raw = [
            {name: sum(one.drives * one.drive_tb for one in job.recorders) for name, job in jobs.items()}
            for jobs in (self.jobs, free)
        ]
        self.assertTrue(all(raw[1][name] >= raw[0][name] for name in JOBS), raw)
        self.assertGreater(sum(raw[1].values()), 1.05 * sum(raw[0].values()))


if __name__ == "__main__":
    unittest.main()
