"""The best picture of a job: within its limits, better than without searching, and its reasons when there is none."""

import itertools
import math
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.devices import misses_purpose
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import set_retention
from eager_lens.core.job.measured import settings_of
from eager_lens.core.job.model import Link, Retention
from eager_lens.core.options.best.picture import NoneFits, best_picture, task_of, trade_curve
from eager_lens.core.options.best.reasons import reasons_of
from eager_lens.core.options.best.settings import LEFT_OF_PIXELS, Allowed, Weights, as_it_is, settings_for, worth_of
from eager_lens.core.recording.week import schedule_hours
from eager_lens.core.reference.resolutions import sizes_like
from eager_lens.core.reference.streams import QUALITIES
from eager_lens.core.units import figure
from tests.support import camera, demo_job, finding_of, job_with, recorder, switch, week_of


class Settings(unittest.TestCase):
    def settings(self, one, **allowed):
        return [each for kind in settings_for(one, recorder(), Allowed(**allowed), 4.0).by_given for each in kind]

    def test_each_costs_more_and_is_worth_more_than_the_one_before(self):
        one = camera(1, width_px=2688, height_px=1520, fps=12)
        for found in settings_for(one, recorder(), Allowed(), 4.0).by_given:
            self.assertGreater(len(found), 3)
            for less, more in itertools.pairwise(found):
                self.assertLess(less.rate_mbps, more.rate_mbps)
                self.assertLess(less.worth, more.worth)

    def test_what_loses_nothing_may_improve_and_what_gives_up_may_not(self):
        one = camera(1, codec="h264", width_px=2688, height_px=1520, fps=15, quality="medium")
        lossless, quality, frames, less = settings_for(one, recorder(), Allowed(most_fps=25), 4.0).by_given
        self.assertEqual({setting.width_px for setting in lossless}, {2688})
        self.assertNotIn("low", {setting.quality for setting in lossless})
        self.assertGreaterEqual(min(setting.fps for setting in lossless), 15)
        self.assertIn("high", {setting.quality for setting in lossless})
        self.assertLessEqual(max(setting.fps for setting in less), 15)
        self.assertNotIn("high", {setting.quality for setting in less})
        # Quality first, then frames, resolution last; and all of them under a cap.
        self.assertEqual({(one.width_px, one.fps) for one in quality}, {(2688, 15)})
        self.assertIn("low", {one.quality for one in quality})
        self.assertEqual({one.width_px for one in frames}, {2688})
        self.assertLess(min(one.fps for one in frames), 15)
        self.assertLess(min(one.width_px for one in less), 2688)
        for one in (*quality, *frames, *less):
            self.assertTrue(one.rate_control == "capped VBR" and one.cap_mbps, one)

    def test_a_cap_is_offered_where_there_is_none_and_where_it_is_allowed(self):
        one = camera(1, scene="yard-dark", codec="h265")
        self.assertIn((None, "VBR"), {(each.cap_mbps, each.rate_control) for each in self.settings(one)})
        self.assertIn("capped VBR", {each.rate_control for each in self.settings(one)})
        self.assertEqual({each.rate_control for each in self.settings(one, caps=False)}, {"VBR"})
        typed = camera(1, scene="yard-dark", codec="h265", rate_control="capped VBR", cap_mbps=9)
        self.assertEqual({each.cap_mbps for each in self.settings(typed)}, {9})

    def test_key_frames_and_smart_codecs_save_and_cost_a_little_worth(self):
        one = camera(1, fps=12, key_frame_s=2, scene="store")
        found = self.settings(one, longest_key_frame_s=8, smart_codec=True)
        self.assertEqual(max(setting.key_frame_s for setting in found), 8)
        self.assertIn("smart codec", {setting.rate_control for setting in found})
        self.assertEqual(
            {(each.key_frame_s, each.rate_control) for each in self.settings(one, longest_key_frame_s=2)},
            {(2, "VBR"), (2, "capped VBR")},
        )
        # Clips that begin at a key frame get longer by half an interval, which counts where clips are recorded.
        clips = week_of("motion")
        longer = settings_for(one, recorder(), Allowed(), 4.0, hours=schedule_hours(clips.plan)).lossless
        plain = settings_for(one, recorder(), Allowed(), 4.0).lossless
        stretched, as_before = (next(each for each in kind if each.key_frame_s == 4) for kind in (longer, plain))
        self.assertGreater(stretched.rate_mbps, 1.01 * as_before.rate_mbps)

    def test_what_compression_leaves_serves_the_purpose(self):
        """A fifth more pixels than recognising needs, at medium quality: low quality is never offered, nor a smaller picture."""
        one = camera(1, width_px=2688, height_px=1520, focal_mm=8, target_m=14, purpose="observe", quality="medium")
        for setting in self.settings(one):
            seen = one.model_copy(update={"width_px": math.floor(LEFT_OF_PIXELS[setting.quality] * setting.width_px)})
            self.assertFalse(misses_purpose(seen), setting)
        told_apart = camera(1, fps=12, purpose="recognise", target_m=5, focal_mm=8)
        self.assertGreaterEqual(min(setting.fps for setting in self.settings(told_apart, least_fps=2)), 6)

    def test_weights_change_what_is_worth_more(self):
        wide, fast = Weights(width=5, frames=0.1), Weights(width=0.1, frames=5)
        one = camera(1, width_px=2688, height_px=1520, fps=15)
        half = {}
        for weights in (wide, fast):
            less = settings_for(one, recorder(), Allowed(weights=weights), 4.0).less
            half[weights] = next(each for each in less if each.rate_mbps > 0.4 * less[-1].rate_mbps)
        self.assertGreater(half[wide].width_px, half[fast].width_px)
        self.assertGreater(half[fast].fps, half[wide].fps)

    def test_floors_hold(self):
        found = self.settings(camera(1, fps=12, least_fps=8), least_fps=4)
        self.assertEqual(min(one.fps for one in found), 8)
        for one in (camera(1, fps=3), camera(1, fps=3, least_fps=10)):
            self.assertGreaterEqual(min(setting.fps for setting in self.settings(one)), 3)
        identify = camera(1, width_px=2688, height_px=1520, focal_mm=8, target_m=14, purpose="identify")
        self.assertFalse(misses_purpose(identify))
        for setting in self.settings(identify):
            self.assertFalse(misses_purpose(identify.model_copy(update={"width_px": setting.width_px})))

    def test_pictures_and_codecs_only_as_allowed(self):
        one = camera(1, codec="h264", width_px=2688, height_px=1520)
        kept = self.settings(one, smaller_pictures=False, h265=False)
        self.assertEqual({(setting.width_px, setting.codec) for setting in kept}, {(2688, "h264")})
        self.assertIn("h265", {setting.codec for setting in self.settings(one)})
        without = settings_for(one, recorder(codecs=("h264",)), Allowed(), 4.0).by_given
        self.assertEqual({setting.codec for kind in without for setting in kind}, {"h264"})

    def test_a_measured_rate_is_carried_by_the_model_s_ratio(self):
        one = camera(1, fps=12)
        free = Allowed(caps=False)
        once, twice = (settings_for(one, recorder(), free, rate).less for rate in (2.0, 4.0))
        self.assertEqual([2 * a.rate_mbps for a in once], [b.rate_mbps for b in twice])

    def test_worth_is_as_stated(self):
        plain = camera(1)
        base = worth_of(plain, 1280, 8, "low")
        self.assertAlmostEqual(worth_of(plain, 2560, 8, "low") - base, 1)
        self.assertAlmostEqual(worth_of(plain, 1280, 16, "low") - base, math.exp(-2) - math.exp(-4))
        more = worth_of(plain, 1280, 30, "low") - worth_of(plain, 1280, 12, "low")
        self.assertLess(more, 0.05, "beyond some 12 frames a second nothing is gained")
        self.assertAlmostEqual(worth_of(plain, 1280, 8, "high") - base, 1)
        served = camera(1, purpose="detect", target_m=5)
        self.assertAlmostEqual(worth_of(served, 2560, 8, "low") - worth_of(served, 1280, 8, "low"), 0.5)


DAYS = 75.0


class WhereCapsAreNotEnough(unittest.TestCase):
    """The demo, asked for more days than caps keep."""

    @classmethod
    def setUpClass(cls):
        cls.assessment = assess(set_retention(DAYS, None).apply(demo_job()))
        cls.best = best_picture(task_of(cls.assessment, "rec-1"))
        cls.after = assess(cls.best.edit.apply(cls.assessment.job))

    def test_it_keeps_the_days_in_the_space_and_says_so(self):
        self.assertGreaterEqual(self.after.recorder("rec-1").promised_days, DAYS)
        self.assertLessEqual(self.best.needed_tb, self.assessment.recorder("rec-1").usable_tb * 1.0001)
        self.assertGreater(self.best.needed_tb, 0.95 * self.assessment.recorder("rec-1").usable_tb)
        self.assertIn("space of Car hall recorder", self.best.tight)

    def test_the_space_it_takes_is_that_of_the_findings(self):
        for needed_tb, assessment in ((self.best.now_tb, self.assessment), (self.best.needed_tb, self.after)):
            self.assertAlmostEqual(needed_tb, assessment.facts.keeping["rec-1"].space_gb_for(DAYS) / 1000)
        self.assertIn(
            f"the promise needs {figure(self.best.now_tb)} TB", finding_of(self.assessment.job, "days-short").why
        )

    def test_only_sizes_that_cameras_offer_and_no_low_quality_for_who_must_be_told_apart(self):
        for one in self.after.job.cameras:
            if (one.width_px, one.height_px) not in [(c.width_px, c.height_px) for c in demo_job().cameras]:
                self.assertIn((one.width_px, one.height_px), sizes_like(one.width_px, one.height_px))
            if one.purpose in ("identify", "recognise"):
                self.assertNotEqual(one.quality, "low")

    def test_it_does_not_stop_far_above_the_days_asked(self):
        self.assertLess(self.best.promised_days, DAYS * 1.06)

    def test_it_gives_up_a_third_for_a_third_of_the_space(self):
        self.assertGreater(self.best.quality_share, 0.5 * self.best.now_share)
        self.assertLess(self.best.needed_tb, self.best.now_tb)
        self.assertLessEqual(self.best.gap_share, 0.011)

    def test_no_camera_falls_under_its_purpose_or_floor(self):
        missed = {camera.id for camera in self.assessment.job.cameras if misses_purpose(camera)}
        self.assertEqual({camera.id for camera in self.after.job.cameras if misses_purpose(camera)}, missed)
        self.assertGreaterEqual(min(camera.fps for camera in self.after.job.cameras), 5)

    def test_changes_are_told_with_what_they_store(self):
        figures = self.after.facts.camera_figures
        for change in self.best.changes:
            self.assertAlmostEqual(change.gb_then, figures[change.id].gb_per_day)
            self.assertAlmostEqual(change.gb_now, self.assessment.camera(change.id).gb_per_day)
        self.assertEqual([c.worth_change for c in self.best.changes], sorted(c.worth_change for c in self.best.changes))

    def test_where_something_must_be_given_up_nobody_gets_more(self):
        self.assertNotEqual(self.best.given, "nothing")
        self.assertIn("Caps alone do not keep the days", self.best.reasons[0])
        self.assertLessEqual(len(self.best.reasons), 7)
        before = {one.id: one for one in self.assessment.job.cameras}
        for one in self.after.job.cameras:
            old = before[one.id]
            self.assertTrue(
                one.fps <= old.fps and QUALITIES.index(one.quality) <= QUALITIES.index(old.quality), one.name
            )

    def test_reasons_name_two_cameras_and_count_more(self):
        cameras = [camera(at, codec="h264", fps=25) for at in range(1, 4)]
        settings = [as_it_is(one, 2.0)._replace(codec="h265") for one in cameras]
        first, line = reasons_of(list(zip(cameras, settings, strict=True)), "nothing", job_with())
        self.assertEqual((first, line), ("No camera gets worse.", "H.265 on 3 cameras: no loss."))
        fewer = [(cameras[0], settings[0]._replace(fps=12)), (cameras[1], settings[1]._replace(quality="high"))]
        lines = reasons_of(fewer, "nothing", job_with())
        self.assertIn("the space left improves some", lines[0])
        self.assertIn("Lower frame rate on Camera 1: 8 to 12 fps show nearly everything.", lines)
        self.assertIn("H.265 on Camera 1 and Camera 2: no loss.", lines)

    def test_where_nothing_must_be_given_up_nobody_loses(self):
        assessed = assess(demo_job())
        best = best_picture(task_of(assessed, "rec-1"))
        self.assertEqual(best.given, "nothing")
        self.assertGreater(best.quality_share, best.now_share)
        self.assertRegex(best.reasons[1], r"^Maximum bit rate on \d+ cameras: the softest picture is at its cap")
        after = best.edit.apply(assessed.job)
        for old, new in zip(assessed.job.cameras, after.cameras, strict=True):
            self.assertTrue(
                new.width_px >= old.width_px
                and QUALITIES.index(new.quality) >= QUALITIES.index(old.quality)
                and new.fps >= old.fps,
                new.name,
            )

    def test_a_measured_camera_says_that_its_rate_is_no_longer_measured_as_it_is(self):
        gate = next(camera for camera in self.after.job.cameras if camera.id == "cam-26")
        self.assertEqual(gate.measured_at, settings_of(next(one for one in demo_job().cameras if one.id == "cam-26")))
        self.assertEqual(self.after.camera("cam-26").rate_origin, "assumed")

    def test_important_cameras_keep_more(self):
        job = demo_job()
        cameras = tuple(one.model_copy(update={"importance": 5 if one.id == "cam-22" else 1}) for one in job.cameras)
        favoured = best_picture(task_of(assess(job.model_copy(update={"cameras": cameras})), "rec-1"))
        kept = {change.id: change.gb_then for change in favoured.changes}
        before = {change.id: change.gb_then for change in self.best.changes}
        self.assertGreater(kept.get("cam-22", 81.7), 1.3 * before["cam-22"])

    def test_the_curve_rises_with_the_space(self):
        points = list(trade_curve(task_of(self.assessment, "rec-1")))[-1][1]
        self.assertGreater(len(points), 6)
        spaces, shares = zip(*((one.needed_tb, one.quality_share) for one in points), strict=True)
        self.assertEqual(list(spaces), sorted(spaces))
        self.assertEqual(list(shares), sorted(shares))
        self.assertAlmostEqual(shares[-1], 1, delta=0.03)


class NoneIsThere(unittest.TestCase):
    def refused(self, job, kind=NoneFits):
        with self.assertRaises(kind) as caught:
            best_picture(task_of(assess(job), "rec-1"))
        return str(caught.exception)

    def test_too_little_space_names_terabytes_days_and_the_dearest_camera(self):
        refusal = self.refused(job_with([camera(1)], retention=Retention(least_days=30_000)))
        for words in ("space of", "TB, and there are", "add ", "ask for ", "lower settings for Camera 1"):
            self.assertIn(words, refusal)

    def test_a_link_that_is_too_slow_is_named(self):
        job = job_with(
            [camera(1, poe_class=3, power_w=6)],
            network=(switch(),),
            links=(
                Link(id="link-1", a="cam-1", b="net-1", b_port=1, capacity_mbps=0.05),
                Link(id="link-2", a="net-1", a_port=9, b="rec-1", b_port=1),
            ),
        )
        refusal = self.refused(job)
        self.assertIn("link Camera 1 to", refusal)
        self.assertIn("raise the limit by", refusal)

    def test_no_days_asked(self):
        refusal = self.refused(job_with([camera(1)], retention=Retention(least_days=0)), RefusedInput)
        self.assertIn("enter the days first", refusal)

    def test_nothing_recorded(self):
        self.assertIn("nothing can be improved", self.refused(job_with([camera(1, registered=())]), RefusedInput))
