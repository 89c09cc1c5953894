"""A rule tried on a clip with marked truth, what it comes to, and seconds after from the gaps."""

import shutil
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

from eager_lens.core.errors import EagerLensError, RefusedInput
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import changed
from eager_lens.core.motion.detector import Area
from eager_lens.core.motion.lens import GroundBox, lens_with
from eager_lens.core.motion.outcome import Trigger, outcome_of
from eager_lens.core.motion.places import presets
from eager_lens.core.motion.scene import DrawnScene
from eager_lens.core.motion.source import Visit
from eager_lens.core.motion.view import Passage
from eager_lens.core.progress import finished, part_of
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.tried_rule.after import after_times, events_of, gaps_of, sensible_after_s
from eager_lens.core.tried_rule.in_words import causes, headline, recorded
from eager_lens.core.tried_rule.moving import moved
from eager_lens.core.tried_rule.recorded import Clip, halves, read_clip, whole_clip
from eager_lens.core.tried_rule.small_pictures import frame_of
from eager_lens.core.tried_rule.tried import CLIP, LIKE_SCENE, TriedRule, tried_rule_of
from eager_lens.core.values.marks import Mark, TriedClip
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.core.values.weather import Weather
from tests.clips import write_scene
from tests.support import camera, job_with, takes_long

BUSY = presets()["yard"]._replace(
    passages=(Passage("person", (-8, 10), (8, 10), 120, 120),),
    foliage=(),
    weather=Weather(wind_m_per_s=0, cloud=0, noise_day=1.5),
)

LENS = lens_with(70, 0.3, 4.5)

AREA = Area(GroundBox(10, 10, 20, 30), 1.7, 0.6, 9)

NOON_S = 43_200.0


def marks_of(scene, begins_s, lasts_s):
    """The truth of a stretch, as somebody would mark it."""
    marks = []
    for visit in scene.visits:
        begins, ends = max(0.0, visit.begins_s - begins_s), min(lasts_s, visit.ends_s - begins_s)
        if ends > begins:
            marks.append(Mark(begins_s=begins, ends_s=ends))
    return tuple(marks)


class ClipCase(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = Path(tempfile.mkdtemp())
        cls.addClassCleanup(shutil.rmtree, cls.folder)
        cls.scene = DrawnScene(BUSY, 7)
        cls.path = write_scene(cls.folder / "yard.mp4", cls.scene, NOON_S, 180.0)
        cls.marks = marks_of(cls.scene, NOON_S, 180.0)
        cls.clip = finished(read_clip(cls.path, LENS, cls.marks))


class Recorded(ClipCase):
    def test_a_clip_is_tried_with_its_marked_truth(self):
        self.assertAlmostEqual(self.clip.duration_s, 180, delta=1)
        trial = TriedRule(BUSY, TriedClip(path=str(self.path), marks=self.marks), 70, 4.5)
        looked = finished(trial.look(self.clip, MotionRule(), "sample"))
        self.assertGreater(len(looked.outcome.visits), 2)
        self.assertEqual(looked.outcome.missed, ())
        self.assertEqual(looked.outcome.alarms, ())
        self.assertIn("0 ±", headline(looked).replace("0.0", "0"))

    def test_what_is_not_marked_is_false(self):
        clip = finished(read_clip(self.path, LENS))
        looked = finished(TriedRule(BUSY, TriedClip(path=str(self.path)), 70, 4.5).look(clip, MotionRule(), "day"))
        self.assertGreater(len(looked.outcome.alarms), 1)
        self.assertEqual(set(looked.outcome.by_cause()), {"not marked"})
        self.assertIn("by not marked", causes(looked.outcomes))

    def test_other_marks_need_no_second_reading(self):
        trial = TriedRule(BUSY, TriedClip(path=str(self.path), marks=self.marks[:1]), 70, 4.5)
        with mock.patch("eager_lens.core.tried_rule.recorded.read_clip", side_effect=AssertionError("read again")):
            again = finished(trial.source(self.clip))
        self.assertEqual(len(again.visits), 1)
        np.testing.assert_array_equal(again.picture(5.0), self.clip.picture(5.0))

    def test_a_rule_is_chosen_on_one_half_and_proved_on_the_other(self):
        first, second = halves(self.clip)
        self.assertEqual(first.stretches[0][1], second.stretches[0][0])
        trial = TriedRule(BUSY, TriedClip(path=str(self.path), marks=self.marks), 70, 4.5)
        proposal = finished(trial.suggest(self.clip, MotionRule()))
        self.assertAlmostEqual(proposal.after.watched_s, second.stretches[0][1] - second.stretches[0][0], delta=0.5)

    def test_a_camera_that_turns_is_told(self):
        turning = write_scene(self.folder / "turning.mp4", self.scene, NOON_S, 30.0, pan_px_per_s=4)
        with self.assertRaises(RefusedInput) as caught:
            finished(read_clip(turning, LENS))
        self.assertIn("its camera moves", str(caught.exception))
        self.assertIn("fixed mount", str(caught.exception))

    def test_a_pole_in_the_wind_is_no_turning_camera(self):
        windy = BUSY._replace(weather=Weather(wind_m_per_s=9, shake_deg=0.25, noise_night=5))
        scene = DrawnScene(windy, 1)
        pictures = np.stack([scene.picture(3600 + at / 5) for at in range(300)]).astype(np.uint8)
        self.assertFalse(moved(pictures).moves)

    def test_clips_that_cannot_be_used_are_told(self):
        short = write_scene(self.folder / "short.mp4", self.scene, NOON_S, 8.0)
        none = self.folder / "none.mp4"
        none.write_bytes(b"not a video at all")
        for path, words in ((short, "it lasts 8 s"), (none, "not a video"), (self.folder / "gone.mp4", "no such file")):
            with self.subTest(words=words), self.assertRaises(EagerLensError) as caught:
                finished(read_clip(path, LENS))
            self.assertIn(words, str(caught.exception))

    def test_whatever_decodes_will_do(self):
        # Recorders export in many ways; only measuring a rate needs the stream as it was sent.
        for name, codec in (("a.avi", "mpeg4"), ("b.wmv", "wmv2"), ("c.mpg", "mpeg2video"), ("d.avi", "msmpeg4v2")):
            with self.subTest(codec=codec):
                rate = {"mpeg2video": 25}.get(codec)
                path = write_scene(self.folder / name, self.scene, NOON_S, 30.0, codec=codec, rate=rate)
                clip = finished(read_clip(path, LENS))
                self.assertAlmostEqual(clip.duration_s, 30.0, delta=0.6)
                self.assertLess(np.abs(clip.picture(10.0) - self.scene.picture(NOON_S + 10.0)).mean(), 6)

    def test_a_picture_of_another_shape_keeps_its_own(self):
        self.assertEqual(frame_of(1920, 1080), (0, 0, 160, 90))
        self.assertEqual(frame_of(4000, 3000), (20, 0, 120, 90))
        self.assertEqual(frame_of(2560, 720), (0, 22, 160, 45))
        square = write_scene(self.folder / "square.mp4", self.scene, NOON_S, 30.0, crop_px=120)
        clip = finished(read_clip(square, LENS))
        self.assertFalse(clip.picture(5.0)[:, :20].any() or clip.picture(5.0)[:, 140:].any())
        self.assertTrue(clip.picture(5.0)[:, 22:138].all())
        self.assertAlmostEqual(clip.lens.focal_px, 0.75 * LENS.focal_px)
        tall_m = (clip.lens.box("person", 0, 9).bottom - clip.lens.box("person", 0, 9).top) * 9 / clip.lens.focal_px
        self.assertAlmostEqual(tall_m, 1.75)

    def test_a_mark_that_ends_before_it_begins_is_refused(self):
        with self.assertRaises(RefusedInput) as caught:
            changed(Mark(begins_s=3, ends_s=9), ends_s=2)
        self.assertIn("must end after it begins", str(caught.exception))


class Trials(unittest.TestCase):
    def test_a_camera_says_what_it_is_tried_in(self):
        self.assertEqual(tried_rule_of(camera(1, scene="yard-dark")).view.name, "yard")
        for scene in stream_assumptions().scenes:
            self.assertIn(LIKE_SCENE[scene], presets(), "each scene of a bit rate has one to be tried in")
        self.assertEqual(tried_rule_of(camera(1, tried_in="halt")).view.name, "halt")
        gale = Weather(wind_m_per_s=20)
        self.assertEqual(tried_rule_of(camera(1, tried_in="halt", tried_weather=gale)).view.weather, gale)
        clip = TriedClip(path="/clips/yard.mp4", horizon=0.4)
        tried = tried_rule_of(camera(1, tried_in=CLIP, tried_clip=clip, mount_height_m=6))
        self.assertEqual((tried.clip, tried.height_m, tried.words), (clip, 6, "yard.mp4"))

    def test_clip_and_weather_go_through_the_job_file(self):
        clip = TriedClip(path="/clips/yard.mp4", marks=(Mark(begins_s=3, ends_s=9, kind="tram"),))
        job = job_with([camera(1, tried_in=CLIP, tried_clip=clip, tried_weather=Weather(snow_mm_per_h=2))])
        self.assertEqual(job_from_text(job_text(job)).cameras, job.cameras)

    @takes_long
    def test_a_windy_week_has_seven_days_of_different_wind(self):
        from unittest import mock

        with (
            mock.patch("eager_lens.core.motion.day.QUICK_STRETCHES", 4),
            mock.patch("eager_lens.core.motion.day.QUICK_VISITS", 2),
        ):
            trial = TriedRule(presets()["yard"])
            looked = finished(trial.look(finished(trial.source()), MotionRule(), "schedule"))
        self.assertEqual([day.weekday for day in looked.days], list(range(7)))
        self.assertEqual(len({day.wind_m_per_s for day in looked.days}), 7)
        self.assertIn("over a windy week", headline(looked))
        day = looked.days[3]
        self.assertEqual(day.scene(trial.view).view.weather.wind_m_per_s, day.wind_m_per_s)

    def test_part_of_longer_work_tells_its_share(self):
        def steps():
            yield 0.5
            yield 1.0
            return "done"

        steps_done = []
        part = part_of(steps(), 0.2, 0.6)
        while True:
            try:
                steps_done.append(next(part))
            except StopIteration as end:
                self.assertEqual(end.value, "done")
                break
        np.testing.assert_allclose(steps_done, [0.4, 0.6])


class AfterTimes(unittest.TestCase):
    def outcome(self, gap_s):
        """Ten visits, each seen twice, so many seconds apart."""
        visits = [Visit("person", 300.0 * at, 300.0 * at + 60, (0, 9), (1, 9), True) for at in range(10)]
        triggers = [
            Trigger(visit.begins_s + later, AREA, visit, None)
            for visit in visits
            for later in (0.0, 0.2, gap_s, gap_s + 0.2)
        ]
        return outcome_of(triggers, [(0.0, 3000.0)], visits)

    def test_gaps_are_those_within_a_visit(self):
        for gaps in gaps_of(self.outcome(25.0)):
            np.testing.assert_allclose(gaps, [0.2, 24.8, 0.2])

    def test_the_shortest_that_leaves_visits_whole_is_sensible(self):
        times = after_times(self.outcome(25.0), 5.0, 12.0, 20.0)
        by_s = {one.post_s: one for one in times}
        self.assertEqual((by_s[10.0].fragments, by_s[10.0].in_one_clip), (2.0, 0.0))
        self.assertEqual((by_s[20.0].fragments, by_s[20.0].in_one_clip), (1.0, 1.0))
        self.assertEqual(sensible_after_s(times).post_s, 20.0)
        shares = [one.recorded for one in times]
        self.assertEqual(shares, sorted(shares), "more seconds after never record less")

    def test_never_under_five_seconds_and_the_longest_where_none_joins(self):
        self.assertEqual(sensible_after_s(after_times(self.outcome(0.4), 5.0, 12, 20)).post_s, 5.0)
        self.assertEqual(sensible_after_s(after_times(self.outcome(59.0), 0.0, 12, 20)).post_s, 45.0)

    def test_events_are_counted_with_their_length(self):
        per_h, event_s = events_of(self.outcome(25.0))
        self.assertAlmostEqual(per_h, 24.0)
        self.assertAlmostEqual(event_s, 0.4)

    def test_of_a_sample_visits_count_at_the_rate_at_which_they_come(self):
        visits = [Visit("person", 300.0 * at, 300.0 * at + 60, (0, 9), (1, 9), True) for at in range(4)]
        of_visits = [Trigger(visit.begins_s + later, AREA, visit, None) for visit in visits[:3] for later in (0.0, 9.8)]
        false = [Trigger(5000.0 + at, AREA, None, "foliage") for at in (0.0, 0.2, 60.0)]
        outcome = outcome_of(false, [(4900.0, 5100.0), (9000.0, 9700.0)], visits, of_visits, 8.0)
        per_h, event_s = events_of(outcome)
        self.assertAlmostEqual(per_h, 8 * 0.75 + 2 * 4, msg="three of four caught, and two events in 15 minutes")
        self.assertAlmostEqual(event_s, (6 * 10 + 8 * 0.3) / 14)

    def test_clips_and_formula_are_told_side_by_side(self):
        words = recorded(self.outcome(25.0), 5.0, 15.0, 4.0)
        self.assertRegex(
            words, r"^20 clips, 13.\d* % recorded, .* GB. The formula gives 12.* % for 24 random events an hour"
        )


class ClosedFormula(unittest.TestCase):
    def test_simulation_and_formula_agree_on_arrivals_at_random(self):
        """Visits that each trigger while they last, at random over many hours: the recorded share of the clips is that of
        the formula within its own sampling error, taken from how stretches of an hour differ."""
        from eager_lens.core.recording.clips import event_clips

        chance = np.random.default_rng(5)
        hours, per_h, event_s, pre_s, post_s = 200, 30.0, 8.0, 5.0, 15.0
        triggers = []
        for begins in sorted(chance.uniform(0, hours * 3600, chance.poisson(per_h * hours))):
            lasts = chance.exponential(event_s)
            for at_s in np.arange(begins, begins + lasts, 0.2):
                triggers.append(Trigger(float(at_s), AREA, None, "noise"))
        triggers.sort(key=lambda one: one.at_s)
        outcome = outcome_of(triggers, [(0.0, hours * 3600.0)], [])
        clips = outcome.clips(pre_s, post_s)
        by_hour = np.zeros(hours)
        for begins, ends in clips:
            for at in range(max(0, int(begins // 3600)), min(hours - 1, int(ends // 3600)) + 1):
                by_hour[at] += max(0.0, min(ends, 3600 * (at + 1)) - max(begins, 3600 * at)) / 3600
        # A trigger lasts a fifth of a second, so that an event is drawn out by half of that on average.
        wanted = event_clips(per_h, event_s + 0.1, pre_s, post_s)
        error = by_hour.std(ddof=1) / hours**0.5
        self.assertLess(abs(by_hour.mean() - wanted.recorded_share), 3 * error)
        self.assertLess(abs(len(clips) / hours - wanted.clips_per_h), 3 * (wanted.clips_per_h / hours) ** 0.5)

    @takes_long
    def test_so_do_people_who_walk_through_a_scene_and_the_detector(self):
        """Three quarters of an hour of a still scene with arrivals at random: clips of what the detector caught, beside the
        formula for the true rate and for the time that somebody is seen."""
        from eager_lens.core.motion.day import whole_day
        from eager_lens.core.recording.clips import event_clips

        view = BUSY._replace(passages=(Passage("person", (-8, 10), (8, 10), 80, 80),))
        hours = 0.75
        outcome = finished(whole_day(view, MotionRule(), 11, (10.0, 10.0 + hours)))
        self.assertEqual(outcome.missed, ())
        seen_s = [sum(gaps) + 0.2 for gaps in gaps_of(outcome)]
        pre_s, post_s = 2.0, 10.0
        wanted = event_clips(80.0, sum(seen_s) / len(seen_s), pre_s, post_s)
        share = sum(ends - begins for begins, ends in outcome.clips(pre_s, post_s)) / outcome.watched_s
        # The number of arrivals is what is uncertain: its standard error carries over in proportion.
        error = wanted.recorded_share / (80.0 * hours) ** 0.5
        self.assertLess(abs(share - wanted.recorded_share), 3 * error)


class Clips(unittest.TestCase):
    def test_nobody_is_seen_on_a_clip_only_known_to_be_there(self):
        pictures = np.zeros((200, 90, 160), np.uint8)
        clip = Clip("still", pictures, LENS, (Mark(begins_s=10, ends_s=20, counts=False, kind="animal"),))
        self.assertEqual(clip.seen(15.0), [])
        self.assertEqual(clip.blame(15.0, AREA.box), (None, "small animal"))
        self.assertEqual(clip.blame(30.0, AREA.box), (None, "not marked"))
        self.assertEqual(whole_clip(clip).stretches, ((10.0, 40.0),))


if __name__ == "__main__":
    unittest.main()
