"""The job's values: what they take, what they refuse, and that they do not change."""

import unittest

from pydantic import ValidationError

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Camera, Job, Retention, Schedule, changed, fresh_ids
from eager_lens.core.validation import read_as
from tests.support import camera, job_with, lan, recorder, week_of


class Values(unittest.TestCase):
    def test_impossible_values_are_refused_by_field(self):
        good = {"id": "cam-1", "name": "Gate"}
        for field, value in (
            ("fps", 0),
            ("fps", -1),
            ("fps", 1000),
            ("fps", "12"),
            ("width_px", 0),
            ("height_px", 10**9),
            ("width_px", 1920.5),
            ("key_frame_s", 0),
            ("post_recording_s", -1),
            ("events_per_h", float("nan")),
            ("codec", "h266"),
            ("address", "300.1.1.1"),
            ("address", "172.22.040.1"),
            ("mac_address", "02:zz"),
            ("name", ""),
            ("name", 5),
            ("note", "x" * 5000),
            ("cable_m", -2),
            ("registered", [{"recorder": "rec-1", "channel": 0}]),
        ):
            with self.subTest(field=field, value=str(value)[:20]), self.assertRaises(RefusedInput) as caught:
                read_as(Camera, {**good, field: value})
            self.assertTrue(caught.exception.path.startswith(field), caught.exception.path)

    def test_a_mac_address_is_kept_in_one_spelling(self):
        self.assertEqual(camera(1, mac_address="02-5B-1E-00-00-40").mac_address, "02:5b:1e:00:00:40")

    def test_most_days_must_not_be_below_least(self):
        with self.assertRaises(RefusedInput) as caught:
            read_as(Retention, {"least_days": 31, "most_days": 30})
        self.assertIn("at most 30 days is less than at least 31", str(caught.exception))

    def test_values_are_frozen(self):
        with self.assertRaises(ValidationError):
            camera(1).fps = 5

    def test_a_changed_copy_is_checked_again(self):
        before = camera(1)
        after = changed(before, fps=5)
        self.assertEqual((before.fps, after.fps), (12, 5))
        with self.assertRaises(RefusedInput):
            changed(before, fps=0)

    def test_ids_are_unique_over_all_devices(self):
        for fields in (
            {"cameras": (camera(1), camera(1))},
            {"cameras": (camera(1, id="rec-1"),)},
            {"schedules": (week_of(), week_of())},
            {"subnets": (lan(), lan())},
        ):
            with self.subTest(fields=list(fields)), self.assertRaises(ValidationError) as caught:
                job_with(**fields)
            self.assertIn("ids must be unique", str(caught.exception))

    def test_a_billion_cameras_are_too_many(self):
        with self.assertRaises(RefusedInput) as caught:
            read_as(Job, {"cameras": [{"id": f"c{n}", "name": "x"} for n in range(20_001)]})
        self.assertIn("20000", str(caught.exception))

    def test_ids_go_on_behind_the_highest(self):
        self.assertEqual(fresh_ids("cam", ["cam-2", "cam-10", "other-99", "cam-x"], 2), ["cam-11", "cam-12"])
        self.assertEqual(fresh_ids("rec", [], 1), ["rec-1"])

    def test_devices_come_network_first(self):
        job = job_with([camera(1)], recorders=[recorder()])
        self.assertEqual([device.id for device in job.devices()], ["rec-1", "cam-1"])

    def test_an_empty_job_and_an_empty_week_can_be(self):
        self.assertEqual(Job().cameras, ())
        self.assertEqual(Schedule(id="w", name="W").plan.mon, ())


if __name__ == "__main__":
    unittest.main()
