"""The levers: each is one honest edit, and its days are those that the job then keeps."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.options.levers import CAP, levers, missing
from tests.support import camera, demo_job, job_with, recorder


def found(job, recorder_id="rec-1"):
    return {lever.id: lever for lever in levers(assess(job), recorder_id)}


class Levers(unittest.TestCase):
    def test_the_days_told_are_those_of_the_job_after_the_edit(self):
        job = demo_job()
        now = assess(job).recorder("rec-1").promised_days
        by_name = found(job)
        self.assertGreaterEqual(len(by_name), 7)
        for lever in by_name.values():
            with self.subTest(lever.words):
                after = assess(lever.edit.apply(job)).recorder("rec-1").promised_days
                self.assertAlmostEqual(lever.days, after)
                self.assertAlmostEqual(lever.gained, after - now)
                self.assertTrue(lever.price)

    def test_where_one_more_drive_is_not_enough_those_that_are_stand_in_the_list(self):
        by_name = found(demo_job())
        enough = [lever.id for lever in by_name.values() if lever.days >= 31]
        self.assertEqual(enough, ["cap", "drive", "quality", "picture"])

    def test_caps_come_first_with_what_they_take_from_the_picture(self):
        first = next(iter(found(demo_job()).values()))
        self.assertEqual(first.id, CAP)
        self.assertRegex(first.words, r"^Cap at 1.25 to 8 Mb/s \(\d+ cameras\)$")
        self.assertRegex(
            first.price,
            "^the softest picture is at its cap \\d+ % of the time by day, and then about \\d steps coarser; at its cap",
        )
        for one in first.edit.apply(demo_job()).cameras:
            if one.cap_mbps is not None:
                self.assertTrue(one.cap_assumed and one.rate_control == "capped VBR")

    def test_nothing_is_offered_that_changes_nothing(self):
        lean = {"fps": 4, "quality": "low", "key_frame_s": 4, "width_px": 1280, "height_px": 720, "post_recording_s": 2}
        lean |= {"rate_control": "capped VBR", "cap_mbps": 0.25}
        job = job_with([camera(1, codec="h265", **lean)], recorders=[recorder(drives=2, bays=2, drive_tb=24)])
        self.assertEqual(found(job), {})

    def test_a_constant_rate_is_left_as_it_is_and_the_list_says_why(self):
        job = job_with([camera(1, measured_mbps=2, fps=25, quality="high")], recorders=[recorder(bays=1)])
        self.assertEqual(set(found(job)), {"larger"})
        reasons = " ".join(missing(assess(job), "rec-1", set(found(job))))
        self.assertIn("No bay is free.", reasons)
        self.assertIn("1 camera at a constant bit rate", reasons)
        self.assertNotIn("Quality", reasons)

    def test_a_measured_rate_is_carried_to_the_lower_settings(self):
        vbr = {"rate_control": "VBR", "cap_mbps": None}
        job = job_with([camera(1, measured_mbps=4, fps=25, quality="high", **vbr)], recorders=[recorder(bays=1)])
        by_name = found(job)
        self.assertTrue({"fps", "quality", "key-frame"} <= set(by_name))
        after = by_name["quality"].edit.apply(job)
        self.assertEqual((after.cameras[0].measured_mbps, after.cameras[0].measured_at.quality), (4, "high"))
        self.assertAlmostEqual(by_name["quality"].days, assess(after).recorder("rec-1").promised_days)
        self.assertIn("No resolution is wider", " ".join(missing(assess(job), "rec-1", set(by_name))))

    def test_only_what_changes_is_counted_in_its_words(self):
        job = job_with([camera(1, width_px=3840, height_px=2160), camera(2)])
        lever = found(job)["picture"]
        self.assertIn("(1 camera)", lever.words)
        self.assertEqual(
            (lever.edit.apply(job).cameras[0].width_px, lever.edit.apply(job).cameras[0].height_px), (1920, 1080)
        )
        self.assertIs(lever.edit.apply(job).cameras[1], job.cameras[1])

    def test_h265_is_offered_only_where_the_recorder_takes_it(self):
        for codecs, offered in ((("h264", "h265"), True), (("h264",), False)):
            job = job_with([camera(1, codec="h264")], recorders=[recorder(codecs=codecs)])
            self.assertEqual("codec" in found(job), offered)


if __name__ == "__main__":
    unittest.main()
