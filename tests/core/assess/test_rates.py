"""A camera's bit rate: measured, entered, by day or by night, and carried to other settings."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.rates import MEASURED_SPREAD, rate_of
from eager_lens.core.job.edits import set_fields
from tests.support import camera, codes, job_with

DARK = {"scene": "forecourt-dark", "rate_control": "VBR", "cap_mbps": None}


class Read(unittest.TestCase):
    def test_one_read_over_day_and_night_is_what_it_is(self):
        rate = rate_of(camera(1, measured_mbps=4, **DARK))
        self.assertEqual((rate.sent.mean_mbps, rate.origin), (4, "measured"))
        self.assertAlmostEqual(rate.sent.low_mbps, 4 * MEASURED_SPREAD[0], 1)
        self.assertAlmostEqual(rate.sent.high_mbps, 4 * MEASURED_SPREAD[1], 1)
        self.assertGreater(rate.sent.night_mbps, rate.sent.day_mbps)
        self.assertAlmostEqual((rate.sent.day_mbps + rate.sent.night_mbps) / 2, 4, msg="half of the day is dark")

    def test_one_read_by_day_has_its_night_from_the_model_and_is_less_certain(self):
        by_model = rate_of(camera(1, **DARK))
        day, night, both = (
            rate_of(camera(1, measured_mbps=4, **{**DARK, "measured_when": when}))
            for when in ("day", "night", "day and night")
        )
        self.assertAlmostEqual(day.sent.day_mbps, 4)
        self.assertAlmostEqual(night.sent.night_mbps, 4)
        self.assertAlmostEqual(day.sent.night_mbps, 4 * by_model.sent.night_mbps / by_model.sent.day_mbps)
        self.assertGreater(day.sent.mean_mbps, both.sent.mean_mbps)
        self.assertLess(night.sent.mean_mbps, both.sent.mean_mbps)
        self.assertGreater(day.sent.high_mbps / day.sent.mean_mbps, both.sent.high_mbps / both.sent.mean_mbps)

    def test_the_longer_it_was_read_the_surer_it_is(self):
        till = {"scene": "counter", "events_per_h": 30, "measured_when": "day", "rate_control": "VBR", "cap_mbps": None}

        def range_of(minutes, **more):
            sent = rate_of(camera(1, measured_mbps=2.3, measured_min=minutes, **{**till, **more})).sent
            self.assertEqual(sent.day_mbps, 2.3)
            return sent.high_mbps / sent.low_mbps

        ranges = [range_of(minutes) for minutes in (0.2, 1, 10, 60, 1440)]
        self.assertEqual(ranges, sorted(ranges, reverse=True))
        self.assertGreater(ranges[1], 3 * ranges[-1], "a minute at a busy till says little")
        self.assertEqual(range_of(None), ranges[1], "a look at a page, while nobody says how long")
        self.assertEqual(range_of(None, measured_when="day and night"), range_of(1440, measured_when="day and night"))
        self.assertAlmostEqual(range_of(0.2, events_per_h=0), range_of(1440, events_per_h=0))

    def test_a_constant_rate_is_the_same_however_long_it_is_read(self):
        fields = {"measured_mbps": 4, "rate_control": "CBR", "cap_mbps": 4, "measured_when": "day"}
        short, long = (
            rate_of(camera(1, events_per_h=30, measured_min=minutes, **fields)).sent for minutes in (0.5, 900)
        )
        self.assertEqual(short, long)

    def test_one_of_which_nobody_says_when_is_entered_and_as_wide_as_a_guess(self):
        rate = rate_of(camera(1, measured_mbps=4, **{**DARK, "measured_when": ""}))
        self.assertEqual(rate.origin, "entered")
        self.assertLess(rate.sent.low_mbps, 0.65 * 4)
        self.assertGreater(rate.sent.high_mbps, 1.7 * 4)
        self.assertIn("entered-rates", codes(job_with([camera(1, measured_mbps=4, measured_when="")])))
        self.assertNotIn("entered-rates", codes(job_with([camera(1, measured_mbps=4)])))

    def test_loads_go_by_the_worse_of_day_and_night(self):
        cameras = [camera(n, measured_mbps=4, **DARK) for n in (1, 2)]
        got = assess(job_with(cameras))
        night = got.camera("cam-1").night_mbps
        self.assertGreater(night, 4.2)
        self.assertAlmostEqual(got.recorder("rec-1").incoming_mbps, 2 * night)


class Carried(unittest.TestCase):
    def job(self, **fields):
        return job_with([camera(1, measured_mbps=4, **{**DARK, **fields})])

    def test_at_other_settings_it_follows_the_model_and_is_an_estimate(self):
        after = set_fields(["cam-1"], "x", fps=24.0).apply(self.job(fps=12.0)).cameras[0]
        self.assertEqual((after.measured_mbps, after.measured_at.fps), (4, 12))
        rate, model = rate_of(after), [rate_of(camera(1, fps=fps, **DARK)) for fps in (12.0, 24.0)]
        self.assertAlmostEqual(rate.sent.mean_mbps, 4 * model[1].sent.mean_mbps / model[0].sent.mean_mbps)
        self.assertEqual(rate.origin, "assumed")
        self.assertGreater(rate.sent.high_mbps / rate.sent.mean_mbps, MEASURED_SPREAD[1])

    def test_set_back_it_is_measured_again(self):
        job = self.job(fps=12.0)
        for fps in (24.0, 8.0, 12.0):
            job = set_fields(["cam-1"], "x", fps=fps).apply(job)
        rate = rate_of(job.cameras[0])
        self.assertEqual((rate.sent.mean_mbps, rate.origin), (4, "measured"))

    def test_a_new_reading_holds_for_the_settings_of_now(self):
        job = set_fields(["cam-1"], "x", fps=24.0).apply(self.job(fps=12.0))
        camera_now = set_fields(["cam-1"], "x", measured_mbps=6.5).apply(job).cameras[0]
        self.assertIsNone(camera_now.measured_at)
        self.assertEqual(rate_of(camera_now).sent.mean_mbps, 6.5)

    def test_what_the_rate_does_not_depend_on_changes_nothing(self):
        after = set_fields(["cam-1"], "x", name="Gate", pre_recording_s=9.0).apply(self.job()).cameras[0]
        self.assertIsNone(after.measured_at)


if __name__ == "__main__":
    unittest.main()
