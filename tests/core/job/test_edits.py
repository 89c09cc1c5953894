"""Edits: each gives a new job, leaves the old one alone, and refuses as a whole what it cannot do."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job import edits
from eager_lens.core.job.most import MOST_CAMERAS
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import record_checks
from eager_lens.core.recording.week import Span
from tests.support import camera, job_with, switch, week_of


class Cameras(unittest.TestCase):
    def setUp(self):
        self.job = job_with([camera(1), camera(2)])

    def test_added_cameras_get_new_ids(self):
        after = edits.add_cameras([{"name": "Gate"}, {"name": "Yard", "fps": 5}]).apply(self.job)
        self.assertEqual([c.id for c in after.cameras], ["cam-1", "cam-2", "cam-3", "cam-4"])
        self.assertEqual(after.cameras[3].fps, 5)
        self.assertEqual(len(self.job.cameras), 2)

    def test_one_bad_camera_refuses_the_whole_and_is_named(self):
        with self.assertRaises(RefusedInput) as caught:
            edits.add_cameras([{"name": "Gate"}, {"name": "Yard", "fps": 0}]).apply(self.job)
        self.assertEqual(caught.exception.path, "cameras[1].fps")

    def test_a_billion_more_are_refused_with_the_room_that_is_left(self):
        for how_many in (10**9, MOST_CAMERAS, 0, -5):
            with self.subTest(how_many), self.assertRaises(RefusedInput) as caught:
                edits.add_like("cam-1", how_many).apply(self.job)
            self.assertIn("19,998", str(caught.exception))

    def test_twelve_like_this_one_stand_behind_it_with_names_of_their_own(self):
        job = edits.set_fields(["cam-1"], "x", name="Yard 3", serial="A1", fps=7, measured_mbps=2).apply(self.job)
        after = edits.add_like("cam-1", 12).apply(job)
        self.assertEqual([c.name for c in after.cameras[:4]], ["Yard 3", "Yard 4", "Yard 5", "Yard 6"])
        self.assertEqual(after.cameras[-1].id, "cam-2")
        twin = after.cameras[1]
        self.assertEqual((twin.fps, twin.place, twin.schedule), (7, "Hall", "week-1"))
        self.assertEqual((twin.serial, twin.address, twin.registered, twin.measured_mbps), ("", "", (), None))

    def test_names_in_use_are_passed_over(self):
        self.assertEqual(edits.numbered_names("Gate", {"Gate", "Gate 2"}, 2), ["Gate 3", "Gate 4"])

    def test_a_camera_that_is_gone_cannot_be_copied(self):
        with self.assertRaises(RefusedInput):
            edits.add_like("cam-9", 1).apply(self.job)

    def test_several_devices_are_set_at_once(self):
        after = edits.set_fields(["cam-1", "rec-1", "gone"], "Move", place="Yard").apply(self.job)
        self.assertEqual((after.cameras[0].place, after.cameras[1].place), ("Yard", "Hall"))
        self.assertEqual(after.recorders[0].place, "Yard")

    def test_what_is_not_touched_stays_the_same_object(self):
        after = edits.set_fields(["cam-1"], "x", fps=5).apply(self.job)
        self.assertIs(after.cameras[1], self.job.cameras[1])
        self.assertIs(after.recorders, self.job.recorders)
        self.assertIs(after.schedules, self.job.schedules)

    def test_each_its_own_values(self):
        after = edits.set_each("x", {"cam-1": {"fps": 3}, "cam-2": {"fps": 4, "name": "B"}}).apply(self.job)
        self.assertEqual([(c.fps, c.name) for c in after.cameras], [(3, "Camera 1"), (4, "B")])

    def test_taking_a_recorder_out_frees_its_cameras(self):
        after = edits.remove_devices(["rec-1"], "x").apply(self.job)
        self.assertEqual(after.recorders, ())
        self.assertEqual([c.registered for c in after.cameras], [(), ()])

    def test_taking_a_camera_out_takes_what_was_proved_of_it(self):
        check = Check(device="cam-1", check="picture", outcome="failed")
        job = record_checks([check]).apply(self.job)
        self.assertEqual(len(job.snags), 1)
        after = edits.remove_devices(["cam-1"], "x").apply(job)
        self.assertEqual((after.checks, after.snags), ((), ()))


class JobItself(unittest.TestCase):
    def test_its_name_is_checked(self):
        job = job_with()
        self.assertEqual(edits.set_job("name", name="New").apply(job).name, "New")
        with self.assertRaises(RefusedInput):
            edits.set_job("name", name="").apply(job)

    def test_days(self):
        job = edits.set_retention(31, 90).apply(job_with())
        self.assertEqual((job.retention.least_days, job.retention.most_days), (31, 90))
        for least, most in ((-1, None), (31, 30), (40_000, None)):
            with self.subTest(least), self.assertRaises(RefusedInput):
                edits.set_retention(least, most).apply(job)

    def test_recorders_and_network_devices(self):
        job = edits.add_recorder(channels=8).apply(job_with())
        self.assertEqual((job.recorders[1].id, job.recorders[1].channels), ("rec-2", 8))
        job = edits.add_network_device("switch").apply(job_with(network=(switch(),)))
        self.assertEqual((job.network[1].name, job.network[1].role), ("Switch 2", "switch"))

    def test_subnets(self):
        job = edits.add_subnet("Yard", "10.44.8.0/24").apply(job_with())
        self.assertEqual(job.subnets[1].id, "lan-2")
        self.assertEqual(edits.remove_subnet("lan-2").apply(job).subnets, job_with().subnets)
        with self.assertRaises(RefusedInput) as caught:
            edits.set_subnet("lan-2", "x", cidr="10.44.8.1/24").apply(job)
        self.assertIn("10.44.8.0/24", str(caught.exception))


class Weeks(unittest.TestCase):
    def test_paint_copy_and_remove(self):
        job = edits.add_schedule("Night", like="week-1").apply(job_with([camera(1)]))
        self.assertEqual(job.schedules[1].plan, job.schedules[0].plan)
        job = edits.paint_schedule("schedule-1", {"mon": [Span(0, 360, "off")]}, "x").apply(job)
        self.assertEqual(job.schedules[1].plan.mon, (Span(360, 1440, "continuous"),))
        self.assertEqual(job.schedules[0].plan, week_of().plan)
        after = edits.remove_schedule("week-1").apply(job)
        self.assertEqual(after.cameras[0].schedule, "")

    def test_a_name_is_wanted(self):
        with self.assertRaises(RefusedInput):
            edits.set_schedule("week-1", "x", name="").apply(job_with())


if __name__ == "__main__":
    unittest.main()
