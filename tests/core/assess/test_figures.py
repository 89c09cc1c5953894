"""Figures of cameras and recorders, against sums done by hand."""

import math
import unittest
from random import Random

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.devices import camera_figures, run_figures
from eager_lens.core.assess.figures.rates import MOST_DEMANDING, assumed_rate_of
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import set_assumed
from eager_lens.core.job.model import Registration, Retention
from eager_lens.core.options.promise import promise, share_with
from eager_lens.core.recording.clips import recorded_share
from eager_lens.core.recording.week import schedule_hours
from eager_lens.core.reference.stream_fit import stream_fit
from eager_lens.core.reference.streams import CODECS, QUALITIES, stream_assumptions
from eager_lens.core.sizing.rate import estimate
from eager_lens.core.sizing.rate_spread import mean_of_halves
from eager_lens.core.sizing.stream_rate import STREAM_RATE
from tests.support import camera, codes, finding_of, job_with, recorder, week_of


class Rates(unittest.TestCase):
    def rate(self, **change):
        given = {
            "width_px": 1920,
            "height_px": 1080,
            "fps": 10,
            "key_frame_s": 2,
            "codec": "h264",
            "quality": "medium",
            "scene_id": "yard-dark",
        }
        return estimate(**{**given, **change}).rate

    def test_it_is_the_fitted_model_over_all_that_may_be_assumed(self):
        """The calculator is asked for the same picture in all nine cases; by day and by night their mean says the same."""
        table, fit = stream_assumptions(), stream_fit().codecs["h264"]
        scene = table.scenes["yard-dark"]
        stream = {"width_px": 1920, "height_px": 1080, "fps": 10, "codec": "h264", "key_frame_s": 2, "detail": 0}
        low, middle, high = table.encoder_factor
        down = math.hypot(math.log(fit.low), math.log(table.low), math.log(low / middle))
        up = math.hypot(math.log(fit.high), math.log(table.high), math.log(high / middle))
        means = []
        for point in (scene.day, scene.night):
            mean = 0.0
            for scale, by_quality in ((29, 0.305), (27, 0.39), (25, 0.305)):
                for noise, by_noise in zip(table.noise_kept, (0.305, 0.39, 0.305), strict=True):
                    properties = point.at(1920)
                    properties["noise_sigma"] *= noise
                    for name in ("moving_share", "moving_share_1s", "motion_mad"):
                        properties[name] *= scene.moves
                    asked = STREAM_RATE.answer({**stream, "quality": scale, **properties})["mean_mbps"]
                    mean += by_quality * by_noise * asked
            means.append(mean * middle * mean_of_halves(down, up))
        got = self.rate()
        self.assertAlmostEqual(got.day_mbps, means[0])
        self.assertAlmostEqual(got.night_mbps, means[1])
        self.assertAlmostEqual(got.rate_mbps, sum(means) / 2)

    def test_the_mean_of_two_halves_is_that_of_many_drawn(self):
        random = Random(3)
        drawn = [random.gauss(0, 1) for _ in range(40_000)]
        values = [math.exp(z * (0.9 if z > 0 else 0.5) / 1.2816) for z in drawn]
        self.assertAlmostEqual(mean_of_halves(0.5, 0.9) / (sum(values) / len(values)), 1, delta=0.02)

    def test_the_parts_add_up_and_a_dark_view_is_less_certain_than_a_lit_one(self):
        got, lit = self.rate(), self.rate(scene_id="corridor-lit")
        self.assertAlmostEqual(got.key_part_mbps + got.other_part_mbps, got.rate_mbps)
        self.assertTrue(got.low_mbps < got.rate_mbps < got.high_mbps)
        self.assertGreater(got.high_mbps / got.low_mbps, 1.1 * lit.high_mbps / lit.low_mbps)

    def test_no_range_is_wider_than_eight_to_one_and_dark_views_are_believable(self):
        for scene_id in stream_assumptions().scenes:
            for width_px, height_px in ((1280, 720), (1920, 1080), (2688, 1520), (3840, 2160)):
                for quality in QUALITIES:
                    with self.subTest(scene=scene_id, width_px=width_px, quality=quality):
                        got = estimate(width_px, height_px, 15, 2, "h265", quality, scene_id).rate
                        self.assertLessEqual(got.high_mbps / got.low_mbps, 8.001)
        for scene_id in ("forecourt-dark", "yard-dark"):
            self.assertTrue(2 < estimate(2688, 1520, 15, 2, "h265", "medium", scene_id).rate.rate_mbps < 4)

    def test_the_level_is_what_practice_plans_with(self):
        """At 1080p, 12 fps, H.265: about 1 Mb/s for a lit hall by day; 1.5 to 3 for a busy or outdoor view."""
        hall, busy, yard = (
            self.rate(scene_id=scene, fps=12, codec="h265").day_mbps for scene in ("hall", "concourse", "yard-lit")
        )
        self.assertTrue(0.8 < hall < 1.6, hall)
        self.assertTrue(1.5 < busy < 3, busy)
        self.assertTrue(1.5 < yard < 3, yard)

    def test_what_makes_a_stream_larger(self):
        base = self.rate().rate_mbps
        for change in ({"width_px": 3840}, {"fps": 20}, {"key_frame_s": 1}, {"quality": "high"}, {"codec": "mjpeg"}):
            with self.subTest(change=change):
                self.assertGreater(self.rate(**change).rate_mbps, base)
        # A little above what it saves, since it may save less, and the mean counts that.
        self.assertAlmostEqual(self.rate(codec="h265").rate_mbps, base * 0.65, delta=0.01 * base)

    def test_never_more_key_frames_than_frames(self):
        got = self.rate(fps=0.5, key_frame_s=0.1)
        self.assertEqual(got.other_part_mbps, 0)

    def test_a_point_between_two_widths_lies_between_them(self):
        point = stream_assumptions().scenes["store"].day
        small, between, large = (point.at(width)["detail_log"] for width in (1280, 1600, 1920))
        self.assertTrue(large < between < small)
        self.assertEqual(point.at(160), point.at(640))
        self.assertEqual(point.at(20_000), point.at(3840))

    def test_a_busy_till_is_no_surprise(self):
        """Events move the picture: 2.3 Mb/s were measured where the kind of view alone says 0.57."""
        quiet, busy = (assumed_rate_of(camera(1, scene="counter", fps=12, events_per_h=many)) for many in (6, 30))
        self.assertGreater(busy.rate_mbps, 1.8 * quiet.rate_mbps)
        at = {"fps": 15, "quality": "high"}
        till = assumed_rate_of(camera(1, scene="counter", events_per_h=30, **at))
        self.assertTrue(till.low_mbps < 2.3 < till.high_mbps, till)
        # Leaves move without events, and a picture that is full of people cannot be fuller.
        yard = [assumed_rate_of(camera(1, scene="yard-lit", events_per_h=many)).rate_mbps for many in (0, 6, 30)]
        self.assertTrue(0.8 * yard[1] < yard[0] < yard[1] < yard[2] < 1.6 * yard[1], yard)
        full = [assumed_rate_of(camera(1, scene="counter", events_per_h=many)).rate_mbps for many in (60, 6000)]
        self.assertAlmostEqual(*full)
        usual = estimate(1920, 1080, 12, 2, "h265", "medium", "hall").rate
        self.assertAlmostEqual(assumed_rate_of(camera(1, scene="hall")).day_mbps, usual.day_mbps, places=4)

    def test_the_table_is_whole_and_plausible(self):
        table = stream_assumptions()
        self.assertEqual(set(table.codecs), set(CODECS))
        self.assertEqual(set(table.crf), set(QUALITIES))
        self.assertIn(MOST_DEMANDING, table.scenes)
        most = self.rate(scene_id=MOST_DEMANDING).rate_mbps
        for scene in table.scenes.values():
            with self.subTest(scene.id):
                rate = estimate(1920, 1080, 12, 2, "h265", "medium", scene.id).rate.rate_mbps
                self.assertTrue(0.3 < rate < 6, rate)
                self.assertLessEqual(self.rate(scene_id=scene.id).rate_mbps, most)


class CameraFigures(unittest.TestCase):
    def figures(self, schedule, **fields):
        return camera_figures(camera(1, **fields), schedule_hours(schedule.plan))

    def test_always(self):
        got = self.figures(week_of(), measured_mbps=1)
        self.assertAlmostEqual(got.gb_per_day, 10.8)
        self.assertEqual((got.rate_origin, got.recorded_h_per_day), ("measured", 24))

    def test_on_movement_by_the_formula(self):
        got = self.figures(
            week_of("motion"), measured_mbps=1, events_per_h=6, event_s=20, pre_recording_s=5, post_recording_s=10
        )
        # A clip begins at a key frame, which every 2 s comes half of that earlier on the mean.
        hours = 24 * recorded_share(6, 20, 5 + 1, 10)
        self.assertAlmostEqual(got.recorded_h_per_day, hours)
        self.assertAlmostEqual(got.gb_per_day, 0.45 * hours)

    def test_rarer_key_frames_make_clips_longer_and_mjpeg_has_one_in_every_picture(self):
        fields = {"measured_mbps": 1, "events_per_h": 0.01, "event_s": 20, "pre_recording_s": 5, "post_recording_s": 15}
        every = {
            interval_s: self.figures(week_of("motion"), key_frame_s=interval_s, **fields).recorded_h_per_day
            for interval_s in (2, 10)
        }
        bare = self.figures(week_of("motion"), codec="mjpeg", **fields).recorded_h_per_day
        self.assertAlmostEqual(every[2] / bare, 1.025, delta=0.001)
        self.assertAlmostEqual(every[10] / bare, 1.125, delta=0.001)

    def test_on_an_input_counts_inputs_not_movement(self):
        schedule = week_of("alarm input")
        quiet = self.figures(schedule, inputs_per_h=0, events_per_h=100)
        self.assertEqual(quiet.recorded_h_per_day, 0)
        self.assertGreater(self.figures(schedule, inputs_per_h=2).recorded_h_per_day, 0)

    def test_an_input_may_have_seconds_of_its_own(self):
        schedule = week_of("alarm input")
        same = self.figures(schedule, inputs_per_h=2, event_s=10, pre_recording_s=5, post_recording_s=15)
        longer = self.figures(
            schedule,
            inputs_per_h=2,
            event_s=10,
            pre_recording_s=5,
            post_recording_s=15,
            input_pre_recording_s=30,
            input_post_recording_s=60,
        )
        self.assertAlmostEqual(same.input_share, recorded_share(2, 10, 5 + 1, 15))
        self.assertAlmostEqual(longer.input_share, recorded_share(2, 10, 30 + 1, 60))

    def test_hours_on_either_keep_the_union(self):
        fields = {
            "events_per_h": 6,
            "inputs_per_h": 3,
            "event_s": 20,
            "pre_recording_s": 5,
            "post_recording_s": 10,
            "input_post_recording_s": 40,
        }
        got = self.figures(week_of("motion or alarm"), **fields)
        left_out = (1 - recorded_share(6, 20, 5 + 1, 10)) * (1 - recorded_share(3, 20, 5 + 1, 40))
        self.assertAlmostEqual(got.recorded_h_per_day, 24 * (1 - left_out))
        self.assertEqual((got.motion_h_per_day, got.input_h_per_day, got.either_h_per_day), (24, 0, 24))

    def test_key_frames_between_events_store_their_part_of_the_rate(self):
        fields = {"measured_mbps": 2, "events_per_h": 6, "event_s": 20, "pre_recording_s": 5, "post_recording_s": 10}
        bare = self.figures(week_of("motion"), **fields)
        thin = self.figures(week_of("motion"), kept_between_events="key frames", **fields)
        self.assertTrue(0 < thin.key_share < 1)
        more = 0.45 * 2 * (24 - bare.recorded_h_per_day) * thin.key_share
        self.assertAlmostEqual(thin.gb_per_day - bare.gb_per_day, more)
        self.assertEqual(thin.recorded_h_per_day, bare.recorded_h_per_day)

    def test_the_small_stream_in_idle_hours(self):
        got = self.figures(week_of("continuous", 0, 12), measured_mbps=2, substream_mbps=0.5, kept_when_off="substream")
        self.assertAlmostEqual(got.gb_per_day, 0.45 * (2 * 12 + 0.5 * 12))
        no_more = self.figures(
            week_of("continuous", 0, 12), measured_mbps=2, substream_mbps=9, kept_when_off="substream"
        )
        self.assertAlmostEqual(no_more.gb_per_day, 0.45 * 2 * 24, msg="never more than the full stream")

    def test_idle_stores_nothing(self):
        self.assertEqual(self.figures(week_of("off")).gb_per_day, 0)

    def test_part_of_the_day(self):
        self.assertAlmostEqual(self.figures(week_of("continuous", 8, 18), measured_mbps=2).gb_per_day, 2 * 10 * 0.45)

    def test_a_measured_rate_has_a_narrower_range(self):
        measured, assumed = self.figures(week_of(), measured_mbps=1), self.figures(week_of())
        spread = lambda got: got.gb_high_per_day / got.gb_low_per_day  # noqa: E731
        self.assertLess(spread(measured), spread(assumed))

    def test_a_scene_that_is_not_known_is_taken_for_the_most_demanding(self):
        known = [self.figures(week_of(), scene=scene).rate_mbps for scene in stream_assumptions().scenes]
        self.assertEqual(self.figures(week_of(), scene="moon").rate_mbps, max(known))


class Runs(unittest.TestCase):
    def test_volts_by_hand(self):
        """100 m of 24 AWG at 25 C: 8.42 ohm x 1.01965; 12.95 W from 44 V."""
        got = run_figures(camera(1, cable_m=100, poe_class=3, power_w=12.95))
        loop = 8.42 * (1 + 0.00393 * 5)
        self.assertAlmostEqual(got.loop_ohm, loop)
        current = 2 * 12.95 / (44 + (44**2 - 4 * loop * 12.95) ** 0.5)
        self.assertAlmostEqual(got.device_v, 44 - loop * current)
        self.assertTrue(got.voltage_ok and got.within_class)

    def test_what_is_not_known_or_not_powered_has_none(self):
        self.assertIsNone(run_figures(camera(1, cable_m=None)))
        self.assertIsNone(run_figures(camera(1, cable_m=50, poe_class=None)))

    def test_a_run_that_cannot_carry_it_at_all(self):
        got = run_figures(camera(1, cable_m=2000, poe_class=4, power_w=25, awg=28, cable_material="cca"))
        self.assertIsNone(got.device_v)
        self.assertFalse(got.voltage_ok)

    def test_outdoors_the_cable_is_warmer(self):
        inside, outside = (run_figures(camera(1, cable_m=90, outdoor=out)).device_v for out in (False, True))
        self.assertLess(outside, inside)


class RecorderFigures(unittest.TestCase):
    def test_days_by_hand(self):
        """Two cameras of 2 Mb/s round the clock are 43.2 GB a day; 10 TB less 5 % hold 219.9 days of them."""
        job = job_with([camera(n, measured_mbps=2) for n in (1, 2)])
        got = assess(job).recorder("rec-1")
        self.assertAlmostEqual(got.gb_per_day, 43.2)
        self.assertAlmostEqual(got.usable_tb, 9.5)
        self.assertAlmostEqual(got.mean_days, 9500 / 43.2)
        self.assertEqual((got.cameras, got.incoming_mbps), (2, 4))
        self.assertLess(got.promised_days, got.mean_days)
        self.assertGreater(got.promised_days, 0.85 * got.mean_days)

    def test_a_small_stream_that_is_kept_is_taken_in_too_and_only_once(self):
        fields = {"measured_mbps": 2, "substream_mbps": 0.5}
        for fetches_substreams, between, wanted in (
            (False, "nothing", 4.0),
            (False, "substream", 4.5),
            (True, "nothing", 5.0),
            (True, "substream", 5.0),
        ):
            with self.subTest(fetches_substreams=fetches_substreams, kept_between_events=between):
                cameras = [camera(1, kept_between_events=between, **fields), camera(2, **fields)]
                got = assess(
                    job_with(
                        cameras,
                        recorders=[recorder(fetches_substreams=fetches_substreams)],
                        schedules=(week_of("motion"),),
                    )
                )
                self.assertAlmostEqual(got.recorder("rec-1").incoming_mbps, wanted)

    def test_what_movement_leaves_out_is_told_without_what_is_kept_thinly(self):
        fields = {"measured_mbps": 2, "events_per_h": 6}
        bare = assess(job_with([camera(1, **fields)], schedules=(week_of("motion"),))).camera("cam-1")
        thin = assess(
            job_with([camera(1, kept_between_events="key frames", **fields)], schedules=(week_of("motion"),))
        ).camera("cam-1")
        self.assertAlmostEqual(bare.left_out_h_per_day, 24 - bare.recorded_h_per_day)
        self.assertAlmostEqual(thin.left_out_h_per_day, (24 - bare.recorded_h_per_day) * (1 - thin.key_share))
        on_input = assess(job_with([camera(1, **fields)], schedules=(week_of("alarm input"),))).camera("cam-1")
        self.assertEqual(on_input.left_out_h_per_day, 0)
        idle = assess(
            job_with([camera(1, kept_when_off="key frames", **fields)], schedules=(week_of("motion", 0, 12),))
        )
        self.assertAlmostEqual(idle.camera("cam-1").left_out_h_per_day, (24 - bare.recorded_h_per_day) / 2)

    def test_a_camera_on_two_recorders_counts_twice(self):
        both = tuple(Registration(recorder=f"rec-{n}", channel=1) for n in (1, 2))
        job = job_with([camera(1, measured_mbps=3, registered=both)], recorders=[recorder(1), recorder(2)])
        figures = assess(job)
        self.assertEqual([figures.recorder(f"rec-{n}").incoming_mbps for n in (1, 2)], [3, 3])

    def test_without_cameras_there_is_no_limit(self):
        got = assess(job_with()).recorder("rec-1")
        self.assertEqual((got.mean_days, got.promised_days), (None, None))
        self.assertEqual(got.trouble, "")

    def test_drives_that_make_no_array(self):
        for fields, words in (
            ({"drives": 0}, "no drives"),
            ({"drives": 2, "raid_level": "raid5"}, "at least 3"),
            ({"drives": 5, "raid_level": "raid10"}, "even"),
            ({"drives": 1, "hot_spares": 1}, "leaves 0"),
        ):
            with self.subTest(words):
                got = assess(job_with([camera(1)], recorders=[recorder(**fields)])).recorder("rec-1")
                self.assertIn(words, got.trouble)
                self.assertEqual(got.usable_tb, 0)


class Erased(unittest.TestCase):
    """A recorder's own limit: what is older is gone, however much room there is."""

    def job(self, erase_after_days, least=1, most=None):
        cameras = [camera(1, measured_mbps=1.0)]
        kept = Retention(least_days=least, most_days=most)
        return job_with(cameras, [recorder(erase_after_days=erase_after_days)], retention=kept)

    def test_days_are_no_more_than_it_lets_stand(self):
        free, held = (assess(self.job(days)).recorder("rec-1") for days in (None, 30.0))
        self.assertGreater(free.promised_days, 700)
        self.assertEqual((held.mean_days, held.promised_days), (30, 30))
        got = assess(self.job(30.0))
        self.assertEqual(promise(got, "rec-1").longest_days, 30)
        self.assertEqual([share_with(got, "rec-1", days) for days in (30, 31)], [1, 0])

    def test_it_settles_a_maximum_by_one_step(self):
        job = self.job(None, most=90)
        finding = finding_of(job, "days-over")
        after = finding.fix.apply(job)
        self.assertEqual(after.recorders[0].erase_after_days, 90)
        self.assertNotIn("days-over", codes(after))

    def test_one_that_erases_too_early_is_told_and_mended(self):
        job = self.job(20.0, least=31)
        after = finding_of(job, "erased-early").fix.apply(job)
        self.assertEqual(assess(after).recorder("rec-1").promised_days, 31)
        self.assertNotIn("erased-early", codes(after))
        self.assertNotIn("days-short", codes(job))


if __name__ == "__main__":
    unittest.main()


class Assumed(unittest.TestCase):
    """What a job assumes of all streams for itself."""

    def rate(self, job):
        return assess(job).camera("cam-1")

    def test_what_h265_saves_is_the_job_s(self):
        job = job_with([camera(1, codec="h265")])
        less = set_assumed("Save nothing", h265_saved_share=0.0).apply(job)
        self.assertAlmostEqual(self.rate(job).rate_mbps / self.rate(less).rate_mbps, 0.65, delta=0.03)
        self.assertEqual(less.assumed.h265_saved_least_share, 0)
        other = job_with([camera(1, codec="h264")])
        same = set_assumed("Save half", h265_saved_share=0.5).apply(other)
        self.assertEqual(self.rate(same), self.rate(other))

    def test_the_range_of_the_saving_widens_the_rate_s(self):
        h264, h265 = (self.rate(job_with([camera(1, codec=codec)])) for codec in ("h264", "h265"))
        self.assertGreater(h265.rate_mbps / h265.low_mbps, h264.rate_mbps / h264.low_mbps)

    def test_noise_and_dark_hours_are_the_job_s(self):
        job = job_with([camera(1, scene="forecourt-dark")])
        rates = [self.rate(set_assumed("", dark_share=share).apply(job)).rate_mbps for share in (0.0, 0.5, 1.0)]
        self.assertEqual(rates, sorted(rates))
        self.assertAlmostEqual(rates[1], (rates[0] + rates[2]) / 2)
        clean = set_assumed("", noise_kept_share=0.0).apply(job)
        self.assertLess(self.rate(clean).rate_mbps, self.rate(job).rate_mbps)

    def test_a_change_reaches_every_camera_of_an_earlier_assessment(self):
        job = job_with([camera(n) for n in range(1, 4)])
        after = set_assumed("", dark_share=1.0).apply(job)
        self.assertEqual(assess(after, assess(job)).facts.camera_figures, assess(after).facts.camera_figures)

    def test_a_range_the_wrong_way_round_is_refused(self):
        with self.assertRaises(RefusedInput):
            set_assumed("", h265_saved_share=0.4, h265_saved_least_share=0.5).apply(job_with())
