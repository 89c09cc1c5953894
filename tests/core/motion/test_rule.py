"""Lines that have to be crossed, kinds, tracks, and what the detector looks at step by step."""

import unittest

import numpy as np

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import changed
from eager_lens.core.motion.day import wanted, whole_day
from eager_lens.core.motion.detector import Area, counts
from eager_lens.core.motion.kinds import kind_of
from eager_lens.core.motion.lens import GroundBox
from eager_lens.core.motion.places import presets
from eager_lens.core.motion.scene import DrawnScene
from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.motion.source import Visit
from eager_lens.core.motion.stages import begins_at, stages_at
from eager_lens.core.motion.tracks import Tracks
from eager_lens.core.motion.view import SIZES_M, Passage
from eager_lens.core.progress import finished
from eager_lens.core.values.motion_rule import CrossingLine, MotionRule, Zone
from eager_lens.core.values.weather import Weather
from tests.support import takes_long

UPRIGHT = CrossingLine(begins=(0.5, 0.9), ends=(0.5, 0.1))
"""Up the middle; to its right is to the right of the picture."""

STILL = Weather(wind_m_per_s=0, cloud=0, noise_day=1.5, noise_night=1.5)

ACROSS = presets()["yard"]._replace(
    passages=(Passage("person", (-8, 10), (8, 10), 30, 30),), foliage=(), weather=STILL, houses=(), rails_m=()
)


class Lines(unittest.TestCase):
    def test_a_line_without_length_is_refused(self):
        with self.assertRaises(RefusedInput) as caught:
            changed(UPRIGHT, ends=(0.5, 0.89))
        self.assertIn("too short to be crossed", str(caught.exception))

    def test_the_way_across_is_that_of_somebody_who_looks_along_it(self):
        left, right = (0.4, 0.5), (0.6, 0.5)
        for direction, to_right, to_left in (
            ("either way", True, True),
            ("to the right", True, False),
            ("to the left", False, True),
        ):
            line = changed(UPRIGHT, direction=direction)
            with self.subTest(direction=direction):
                self.assertEqual(line.is_crossed_by(left, right), to_right)
                self.assertEqual(line.is_crossed_by(right, left), to_left)

    def test_a_step_beside_the_line_does_not_cross_it(self):
        self.assertFalse(UPRIGHT.is_crossed_by((0.4, 0.95), (0.6, 0.95)))
        self.assertFalse(UPRIGHT.is_crossed_by((0.2, 0.5), (0.4, 0.5)))

    def test_a_track_counts_when_it_has_crossed_and_for_a_second(self):
        tracks = Tracks(UPRIGHT, 5)
        counted = []
        for at in range(30):
            x = 40 + 3 * at
            counted += tracks.crossed([GroundBox(x - 3, 30, x + 3, 50)])
        crossed = next(at for at, one in enumerate(counted) if one)
        self.assertEqual(crossed, 14, "the feet pass the middle at x = 80")
        self.assertEqual(sum(counted), 5)

    def test_two_that_walk_apart_are_not_taken_for_one_that_crosses(self):
        tracks = Tracks(UPRIGHT, 5)
        for _ in range(10):
            near, far = GroundBox(20, 30, 26, 50), GroundBox(120, 30, 126, 50)
            self.assertEqual(tracks.crossed([near]) + tracks.crossed([far]), [False, False])

    def test_who_goes_the_other_way_is_not_wanted(self):
        scene = DrawnScene(ACROSS, 1)
        rule = MotionRule(line=changed(UPRIGHT, direction="to the right"))
        kept = wanted(scene.visits, rule, scene)
        self.assertTrue(0 < len(kept) < len(scene.visits))
        self.assertTrue(all(visit.start[0] < visit.end[0] for visit in kept))

    @takes_long
    def test_over_a_day_one_way_is_caught_and_the_other_is_not_told(self):
        rule = MotionRule(line=changed(UPRIGHT, direction="to the right"))
        outcome = finished(whole_day(ACROSS, rule, 5, (12.0, 12.6)))
        self.assertGreaterEqual(len(outcome.visits), 5)
        self.assertLess(outcome.missed_share, 0.3)
        both = finished(whole_day(ACROSS, MotionRule(), 5, (12.0, 12.6)))
        self.assertLess(len(outcome.triggers), 0.5 * len(both.triggers))


class Kinds(unittest.TestCase):
    def test_each_kind_is_told_by_its_own_size(self):
        for kind, (wide_m, tall_m) in SIZES_M.items():
            with self.subTest(kind=kind):
                self.assertEqual(kind_of(tall_m, wide_m), kind)

    def test_what_has_no_kind_counts_only_where_all_do(self):
        odd = Area(GroundBox(0, 0, 9, 9), 0.85, 3.0, 9)
        self.assertIsNone(kind_of(odd.tall_m, odd.wide_m))
        self.assertTrue(counts(odd, MotionRule()))
        self.assertFalse(counts(odd, MotionRule(kinds=("person",))))

    def test_only_people_leaves_the_trams_out(self):
        tram = Passage("tram", (-20, 20), (20, 20), 20, 20)
        view = ACROSS._replace(passages=(*ACROSS.passages, tram))
        rule = MotionRule(kinds=("person",))
        outcome = finished(whole_day(view, rule, 5, (12.0, 12.3)))
        self.assertEqual({visit.kind for visit in outcome.visits}, {"person"})
        self.assertLess(outcome.missed_share, 0.3)


class Stages(unittest.TestCase):
    def test_every_step_is_a_picture_and_says_what_it_is(self):
        scene = DrawnScene(ACROSS, 3)
        visit = next(one for one in scene.visits if one.begins_s > 40_000)
        at_s = (visit.begins_s + visit.ends_s) / 2
        steps, reasons = stages_at(scene, MotionRule(), at_s, at_s - 30)
        self.assertEqual(len({step.name for step in steps}), 5)
        for step in steps:
            self.assertEqual(step.picture.shape, (HIGH, WIDE))
            self.assertTrue(step.words)
        self.assertTrue(any(one.is_counted for one in reasons))

    def test_why_an_area_does_not_count(self):
        scene = DrawnScene(ACROSS, 3)
        visit = next(one for one in scene.visits if one.begins_s > 40_000)
        at_s = (visit.begins_s + visit.ends_s) / 2
        for rule, words in (
            (MotionRule(smallest_m=3), "too small"),
            (MotionRule(smallest_m=0.1, largest_m=0.5), "too large"),
            (MotionRule(shortest_s=29), "too short"),
            (MotionRule(kinds=("tram",)), "taken for"),
            (MotionRule(line=CrossingLine(begins=(0.0, 0.05), ends=(0.1, 0.05))), "has not crossed"),
        ):
            with self.subTest(words=words):
                reasons = stages_at(scene, rule, at_s, at_s - 30)[1]
                self.assertTrue(any(words in one.words for one in reasons), reasons)
                self.assertFalse(any(one.is_counted for one in reasons))

    def test_it_looks_from_where_the_stretch_was_watched_from(self):
        self.assertEqual(begins_at(((100.0, 130.0),), 120.0), 88.0)
        self.assertEqual(begins_at(((0.0, 86_400.0),), 40_000.0), 39_940.0, "a minute back at most")
        self.assertEqual(begins_at((), 5.0), 0.0)


class Weathers(unittest.TestCase):
    def change(self, weather, at_s=3600.0, **view):
        scene = DrawnScene(ACROSS._replace(passages=(), weather=weather, **view), 1)
        pictures = np.stack([scene.picture(at_s + at / 5) for at in range(20)])
        return float(np.abs(np.diff(pictures, axis=0)).mean())

    def test_each_knob_disturbs_the_picture(self):
        calm = self.change(STILL)
        for fields in (
            {"rain_mm_per_h": 8.0},
            {"snow_mm_per_h": 3.0},
            {"noise_night": 8.0},
            {"shake_deg": 1.5, "wind_m_per_s": 14.0},
        ):
            with self.subTest(**fields):
                self.assertGreater(self.change(STILL.model_copy(update=fields)), 1.1 * calm)

    def test_a_flag_flutters_in_wind_and_hangs_in_calm(self):
        flags = ((0.5, 0.3, 0.7, 0.5),)
        windy = self.change(STILL.model_copy(update={"wind_m_per_s": 9.0}), flags=flags)
        self.assertGreater(windy, 1.1 * self.change(STILL, flags=flags))

    def test_a_knob_beyond_reason_is_refused(self):
        with self.assertRaises(RefusedInput):
            changed(STILL, wind_m_per_s=400)

    def test_what_disturbs_is_named(self):
        for name, field, cause in (("hall", "lamp_switches_per_h", "light"), ("yard", "insects_per_h", "insect")):
            view = presets()[name]
            scene = DrawnScene(view._replace(weather=STILL.model_copy(update={field: 60.0})), 2)
            one = next(one for one in scene.disturbances if one.cause == cause and one.begins_s < 18_000)
            middle = (one.begins_s + one.ends_s) / 2
            self.assertEqual(scene.blame(middle, one.box), (None, cause))

    def test_clouds_cross_the_ground(self):
        scene = DrawnScene(ACROSS._replace(passages=(), weather=Weather(cloud=1.0, noise_day=0)), 4)
        rows = [scene.picture(40_000.0 + 20 * at)[80].reshape(10, 16).mean(axis=1) for at in range(40)]
        spread = np.abs(np.diff(rows, axis=0)).max()
        self.assertGreater(spread, 3)


class Visits(unittest.TestCase):
    def test_who_comes_back_is_away_in_between(self):
        visit = Visit("person", 100.0, 150.0, (-8, 10), (8, 10), True, 10.0)
        self.assertEqual(visit.at(100.0), (-8, 10))
        self.assertEqual(visit.at(125.0), (8, 10), "waiting out of sight")
        self.assertEqual(visit.at(150.0), (-8, 10))
        self.assertAlmostEqual(visit.at(110.0)[0], visit.at(140.0)[0])

    def test_arrivals_follow_the_hours_and_the_days_of_the_week(self):
        way = Passage("tram", (-9, 9), (9, 9), 1, 0, hours=((9, 18, 6),), days=(5, 6))
        self.assertEqual(way.arrivals_per_h(10, 5, 1.0), 6)
        self.assertEqual(way.arrivals_per_h(10, 2, 1.0), 1)
        self.assertEqual(way.arrivals_per_h(20, 5, 0.0), 0)
        view = ACROSS._replace(passages=(way,))
        saturday, monday = DrawnScene(view, 1, weekday=5), DrawnScene(view, 1, weekday=0)
        self.assertGreater(len(saturday.visits), 2 * len(monday.visits))

    def test_zones_take_nobody_from_those_who_are_wanted(self):
        scene = DrawnScene(ACROSS, 1)
        corner = Zone(corners=((0.0, 0.0), (0.1, 0.0), (0.1, 0.1)))
        self.assertEqual(len(wanted(scene.visits, MotionRule(zones=(corner,)), scene)), len(scene.visits))


if __name__ == "__main__":
    unittest.main()
