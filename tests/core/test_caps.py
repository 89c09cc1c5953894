"""Maximum bit rates: the usual ones, how they are kept on a camera, and what comes first where days or loads are short."""

import math
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.cap_cost import cap_cost, coarser
from eager_lens.core.job.cap_edit import cap_each, cap_values
from eager_lens.core.job.capping import usual_cap_of
from eager_lens.core.job.edits import add_cameras, set_fields
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.options.levers import CAP, levers
from eager_lens.core.options.remedies.choices import remedies
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.reference.caps import usual_cap_mbps
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.capped import AtCap
from tests.support import camera, codes, demo_job, finding_of, job_with, recorder

YARD = {"scene": "yard-dark", "codec": "h265"}


class Usual(unittest.TestCase):
    def test_they_are_what_practice_plans_with(self):
        for size, least, most in (((1920, 1080), 1, 2), ((2688, 1520), 2, 4), ((3840, 2160), 4, 8)):
            for scene in stream_assumptions().scenes:
                with self.subTest(size=size, scene=scene):
                    cap = usual_cap_mbps(*size, 12, "h265", scene)
                    self.assertTrue(least <= cap <= most, cap)
                    self.assertAlmostEqual(usual_cap_mbps(*size, 12, "h264", scene) / cap, 1.5, delta=0.25)

    def test_more_pixels_more_frames_and_livelier_views_have_more(self):
        for more in ({"width_px": 3840, "height_px": 2160}, {"fps": 25}, {"scene": "yard-dark"}, {"codec": "h264"}):
            with self.subTest(more):
                plain = camera(1, codec="h265", scene="corridor-lit")
                self.assertGreater(usual_cap_of(plain.model_copy(update=more)), usual_cap_of(plain))
        self.assertIsNone(usual_cap_of(camera(1, codec="mjpeg")))
        self.assertEqual(usual_cap_of(camera(1, scene="no such")), usual_cap_of(camera(1, scene="yard-dark")))

    def test_a_usual_night_is_not_spoiled(self):
        """No more than two fifths of the night at it, and then no coarser than the next lower quality."""
        for scene in stream_assumptions().scenes:
            for size in ((1920, 1080), (2688, 1520), (3840, 2160)):
                fields = {"width_px": size[0], "height_px": size[1], "fps": 15, "scene": scene, "codec": "h265"}
                job = cap_each([camera(1, **fields)]).apply(job_with([camera(1, **fields)]))
                at = assess(job).camera("cam-1").at_cap
                with self.subTest(scene=scene, size=size):
                    self.assertLess(at.night_share, 0.4)
                    self.assertLess(at.night_steps, 3)


class OnACamera(unittest.TestCase):
    def added(self, **fields):
        return add_cameras([{"name": "Yard", **fields}]).apply(job_with()).cameras[0]

    def test_a_new_camera_gets_one_that_is_marked_as_assumed(self):
        one = self.added(**YARD)
        self.assertEqual((one.rate_control, one.cap_mbps, one.cap_assumed), ("capped VBR", 2.0, True))
        self.assertEqual(self.added(rate_control="VBR").cap_mbps, None)
        self.assertEqual(self.added(measured_mbps=5).cap_mbps, None)
        given = self.added(cap_mbps=3)
        self.assertEqual((given.rate_control, given.cap_mbps, given.cap_assumed), ("capped VBR", 3, False))
        self.assertEqual(self.added(codec="mjpeg").rate_control, "VBR")
        self.assertEqual(job_from_text(job_text(job_with([one]))).cameras[0], one)

    def test_an_assumed_one_follows_its_settings_until_one_is_typed(self):
        job = job_with([self.added(**YARD).model_copy(update={"id": "cam-1"})])
        larger = set_fields(["cam-1"], "x", width_px=3840, height_px=2160).apply(job).cameras[0]
        self.assertEqual((larger.cap_mbps, larger.cap_assumed), (8.0, True))
        typed = set_fields(["cam-1"], "x", cap_mbps=2.0).apply(job)
        self.assertFalse(typed.cameras[0].cap_assumed)
        kept = set_fields(["cam-1"], "x", width_px=3840, height_px=2160).apply(typed).cameras[0]
        self.assertEqual((kept.cap_mbps, kept.cap_assumed), (2.0, False))
        free = set_fields(["cam-1"], "x", rate_control="VBR").apply(job)
        self.assertIn("uncapped", codes(free))

    def test_a_mode_that_needs_one_gets_the_usual_one(self):
        job = set_fields(["cam-1"], "x", rate_control="CBR").apply(job_with([camera(1, **YARD)]))
        self.assertEqual((job.cameras[0].cap_mbps, job.cameras[0].cap_assumed), (2.0, True))

    def test_only_cameras_without_one_are_capped_and_none_that_was_read_below_it(self):
        free, read, fast = camera(1, **YARD), camera(2, measured_mbps=1, **YARD), camera(3, measured_mbps=5, **YARD)
        vbr = {"rate_control": "VBR", "cap_mbps": None}
        some = [free, *(one.model_copy(update=vbr) for one in (read, fast)), camera(4, rate_control="CBR", cap_mbps=9)]
        self.assertEqual(set(cap_values(some)), {"cam-1", "cam-3"})
        self.assertIsNone(cap_each(some[3:]))

    def test_a_rate_that_was_read_is_held_by_a_cap_that_comes_later(self):
        free = camera(1, measured_mbps=5, rate_control="VBR", cap_mbps=None, **YARD)
        job = cap_each([free]).apply(job_with([free]))
        got = assess(job).camera("cam-1")
        self.assertLessEqual(got.rate_mbps, 2.0)
        self.assertLessEqual(got.high_mbps, 2.0 + 1e-9)
        self.assertEqual(got.rate_origin, "assumed")

    def test_its_working_says_what_it_takes(self):
        job = job_with([self.added(**YARD).model_copy(update={"id": "cam-1"})])
        lines = {line.label: line for line in working_of(FigureRef("rate", "cam-1"), assess(job)).lines}
        self.assertEqual(lines["at 2 Mb/s"].origin, "assumed")
        self.assertRegex(
            lines["at 2 Mb/s"].value,
            "^at its cap \\d+ % of the time by day, and then about \\d steps coarser; at its cap",
        )
        self.assertEqual(
            cap_cost(AtCap(0.0, 0.3, 0.0, 2.2)), "at its cap 30 % of the time by night, and then about 2 steps coarser"
        )
        self.assertEqual(cap_cost(AtCap(0.0, 0.0, 0.0, 0.0)), "almost never at its cap")


class AtTheEnds(unittest.TestCase):
    def test_tiny_pictures_under_huge_caps_and_huge_ones_under_tiny_caps_have_figures(self):
        tiny = {"width_px": 16, "height_px": 16, "fps": 0.05, "key_frame_s": 60}
        huge = {"width_px": 20_000, "height_px": 4320, "fps": 120, "quality": "high", "scene": "yard-dark"}
        for fields in (tiny, huge):
            for cap_mbps in (0.001, 9000):
                for control in ("capped VBR", "CBR", "smart codec"):
                    for codec in ("h264", "h265", "mjpeg"):
                        one = camera(1, **fields, codec=codec, rate_control=control, cap_mbps=cap_mbps)
                        with self.subTest(fields=fields, cap_mbps=cap_mbps, control=control, codec=codec):
                            got = assess(job_with([one])).camera("cam-1")
                            self.assertTrue(0 < got.rate_mbps <= min(cap_mbps, 100.0) + 1e-9)
                            self.assertLessEqual(got.peak_mbps, min(cap_mbps, 100.0) + 1e-9)


class First(unittest.TestCase):
    """Where something is short, a cap comes before drives and before anything that a picture loses."""

    def test_of_the_demo_it_is_the_fix_the_first_choice_and_the_first_lever(self):
        job, now = demo_job(), assess(demo_job())
        finding = finding_of(job, "days-doubtful")
        self.assertIn("That is enough and needs no new drives", finding.action)
        found = remedies(finding, now)
        self.assertEqual(found[0].edit.label, finding.fix.label)
        self.assertTrue(any("promises 23 → 3" in line for line in found[0].changes), found[0].changes)
        self.assertEqual(next(iter(levers(now, "rec-1"))).id, CAP)

    def test_where_it_is_not_enough_drives_come_with_it(self):
        cameras = [camera(n, width_px=2688, height_px=1520, fps=25, **YARD) for n in range(1, 9)]
        job = job_with(cameras, [recorder(drive_tb=4, bays=4)])
        job = job.model_copy(update={"retention": job.retention.model_copy(update={"least_days": 31})})
        finding = finding_of(job, "days-short")
        self.assertRegex(finding.fix.label, r"^Cap at 5 Mb/s on 8 cameras; (add|fit) ")
        after = assess(finding.fix.apply(job))
        self.assertGreaterEqual(after.recorder("rec-1").promised_days, 31)

    def test_too_much_for_a_recorder_is_capped(self):
        cameras = [camera(n, width_px=3840, height_px=2160, fps=25, **YARD) for n in range(1, 5)]
        job = job_with(cameras, [recorder(incoming_limit_mbps=36)])
        finding = finding_of(job, "incoming-over")
        self.assertIn("Cap at 10 Mb/s on 4 cameras", [one.edit.label for one in remedies(finding, assess(job))])

    def test_certain_days_are_those_of_the_caps(self):
        cameras = [camera(n, **YARD, rate_control="capped VBR", cap_mbps=2) for n in range(1, 5)]
        got = assess(job_with(cameras)).recorder("rec-1")
        self.assertAlmostEqual(got.certain_days, 9500 / (4 * 2 * 10.8))
        self.assertTrue(got.certain_days <= got.promised_days <= got.mean_days)
        free = assess(job_with([*cameras, camera(5)])).recorder("rec-1")
        self.assertIsNone(free.certain_days)

    def test_a_cap_that_costs_more_says_so(self):
        at = [
            assess(job_with([camera(1, **YARD, rate_control="CBR", cap_mbps=cap)])).camera("cam-1").at_cap
            for cap in (4, 2, 1)
        ]
        costs = [coarser(each) for each in at]
        self.assertEqual(costs, sorted(costs))
        self.assertTrue(all(math.isfinite(each) for each in costs))


if __name__ == "__main__":
    unittest.main()
