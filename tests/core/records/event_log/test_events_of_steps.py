"""What a step of work is in the log."""

import unittest

from eager_lens.core.job.edits import remove_devices, set_fields, set_job
from eager_lens.core.job.proof import Check, FillReading, Walk
from eager_lens.core.job.proving import add_fill_reading, add_walks, record_checks
from eager_lens.core.records.event_log.events_of_steps import changed_devices, events_of
from tests.support import camera, job_with, recorder


class EventsOfSteps(unittest.TestCase):
    def setUp(self):
        self.job = job_with([camera(1), camera(2)], recorders=(recorder(1),))

    def events(self, edit, kind="edit"):
        return list(events_of(kind, edit.label, self.job, edit.apply(self.job)))

    def test_an_edit_names_the_devices_that_it_changed(self):
        (event,) = self.events(set_fields(["cam-2"], "Set the frame rate", fps=5))
        self.assertEqual((event.kind, event.what, event.about), ("edit", "Set the frame rate", ("cam-2",)))
        self.assertEqual(changed_devices(self.job, remove_devices(["cam-1"], "x").apply(self.job)), ("cam-1",))
        self.assertEqual(self.events(set_job("name", name="Yard"))[0].about, ())

    def test_a_failed_test_is_three_entries(self):
        check = Check(
            device="cam-1", check="density", outcome="failed", measured=40.5, by="WA", at="2026-11-20T10:00:00"
        )
        step, test, snag = self.events(record_checks([check], "Pixel density failed: Camera 1"))
        self.assertEqual((step.kind, test.kind, snag.kind), ("edit", "check", "snag"))
        self.assertEqual(test.what, "Pixel density failed: Camera 1")
        self.assertEqual((test.values["measured"], test.values["unit"], test.values["by"]), (40.5, "px/m", "WA"))
        self.assertEqual(snag.what, "Snag open: Camera 1")

    def test_walks_and_readings_are_measurements(self):
        walk = self.events(add_walks([Walk(camera="cam-1", caught=False, route="from the gate")]))[1]
        self.assertEqual((walk.kind, walk.what), ("measurement", "Walk missed: Camera 1"))
        reading = FillReading(recorder="rec-1", at="2026-11-20T10:00", used_tb=2.5)
        noted = self.events(add_fill_reading(reading))[1]
        self.assertEqual((noted.what, noted.values["used_tb"]), ("Read the drives of Recorder 1", 2.5))

    def test_a_step_taken_back_is_told_as_such(self):
        after = record_checks([Check(device="cam-1", check="clip", outcome="passed")]).apply(self.job)
        events = list(events_of("undo", "Record 1 test", after, self.job))
        self.assertEqual([(one.kind, one.what) for one in events], [("undo", "Record 1 test")])


if __name__ == "__main__":
    unittest.main()
