"""Rules, drawn scenes, the detector, a day of both, and tuning."""

import random
import unittest

import numpy as np

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import changed
from eager_lens.core.motion.day import quick_look, whole_day
from eager_lens.core.motion.detector import Area, Detector, threshold_of, zone_mask
from eager_lens.core.motion.lens import GroundBox
from eager_lens.core.motion.outcome import Outcome, Trigger, outcome_of
from eager_lens.core.motion.places import presets
from eager_lens.core.motion.raster import looked_at_share, rows_looked_at
from eager_lens.core.motion.scene import DrawnScene, daylight, lens_of
from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.motion.source import Visit
from eager_lens.core.motion.view import Passage
from eager_lens.core.progress import finished
from eager_lens.core.values.motion_rule import MotionRule, Zone, area_of
from eager_lens.core.values.weather import Weather
from tests.support import camera, job_with, takes_long

LEFT_HALF = ((0.0, 0.0), (0.5, 0.0), (0.5, 1.0), (0.0, 1.0))

CALM = presets()["yard"]._replace(
    passages=(Passage("person", (-8, 10), (8, 10), 30, 30),),
    foliage=(),
    weather=Weather(wind_m_per_s=0, noise_day=1.5, noise_night=1.5),
)
"""People walking by in still air."""


class Rules(unittest.TestCase):
    def test_zones_that_are_none_are_refused_with_the_reason(self):
        for corners, words in (
            (((0, 0), (1, 1), (1, 0), (0, 1)), "crosses itself"),
            (((0.1, 0.1), (0.2, 0.1), (0.3, 0.1)), "has no area"),
            (((0.1, 0.1), (1.2, 0.1), (0.3, 0.9)), "1.2"),
        ):
            with self.subTest(words=words), self.assertRaises(RefusedInput) as caught:
                changed(Zone(corners=LEFT_HALF), corners=corners)
            self.assertIn(words, str(caught.exception))

    def test_sizes_in_the_wrong_order_are_refused(self):
        with self.assertRaises(RefusedInput) as caught:
            changed(MotionRule(), smallest_m=9)
        self.assertIn("is not under the largest", str(caught.exception))

    def test_area_by_the_shoelace_formula(self):
        self.assertAlmostEqual(area_of(LEFT_HALF), 0.5)
        self.assertAlmostEqual(area_of(((0, 0), (1, 0), (0, 1))), 0.5)

    def test_a_rule_goes_through_the_job_file(self):
        rule = MotionRule(sensitivity=35, zones=(Zone(corners=LEFT_HALF, leave_out=True),))
        job = set_fields(["cam-1"], "Rule", motion_rule=rule, tried_in="yard").apply(job_with([camera(1)]))
        self.assertEqual(job_from_text(job_text(job)).cameras[0].motion_rule, rule)

    def test_masks_of_zones(self):
        self.assertTrue(zone_mask(MotionRule()).all())
        here = zone_mask(MotionRule(zones=(Zone(corners=LEFT_HALF),)))
        self.assertEqual((here[:, : WIDE // 2].all(), here[:, WIDE // 2 :].any()), (True, False))
        without = zone_mask(MotionRule(zones=(Zone(corners=LEFT_HALF, leave_out=True),)))
        np.testing.assert_array_equal(without, ~here)

    def test_masks_are_those_of_the_even_odd_rule_at_the_middle_of_each_pixel(self):
        chance = random.Random(3)
        xs, ys = (np.arange(WIDE) + 0.5) / WIDE, ((np.arange(HIGH) + 0.5) / HIGH)[:, None]
        for _ in range(60):
            corners = [[round(chance.random(), chance.choice((1, 2, 6))) for _ in range(2)] for _ in range(5)]
            inside = np.zeros((HIGH, WIDE), dtype=bool)
            for (x1, y1), (x2, y2) in zip(corners, (*corners[1:], corners[0]), strict=True):
                if y1 != y2:
                    inside ^= ((y1 > ys) != (y2 > ys)) & (xs < (x2 - x1) * (ys - y1) / (y2 - y1) + x1)
            zone = Zone.model_construct(corners=corners, leave_out=chance.random() < 0.5)
            with self.subTest(zone=zone):
                rule = MotionRule.model_construct(zones=(zone,))
                np.testing.assert_array_equal(zone_mask(rule), inside != zone.leave_out)
                self.assertAlmostEqual(looked_at_share(rows_looked_at(rule)), float((inside != zone.leave_out).mean()))


class Scenes(unittest.TestCase):
    def test_the_same_seed_gives_the_same_day_and_another_another(self):
        one, same, other = (DrawnScene(presets()["yard"], seed) for seed in (1, 1, 2))
        np.testing.assert_array_equal(one.picture(40_000), same.picture(40_000))
        self.assertEqual(one.visits, same.visits)
        self.assertNotEqual(one.visits, other.visits)

    def test_arrivals_come_at_the_rate_of_their_way(self):
        days = [len(DrawnScene(CALM, seed).visits) for seed in range(8)]
        self.assertAlmostEqual(sum(days) / len(days), 720, delta=3 * (720 / 8) ** 0.5)

    def test_what_stands_farther_off_is_smaller_and_higher_up(self):
        lens = lens_of(CALM)
        near, far = lens.box("person", 0, 6), lens.box("person", 0, 20)
        self.assertGreater(near.bottom - near.top, far.bottom - far.top)
        self.assertGreater(near.bottom, far.bottom)
        self.assertAlmostEqual((near.bottom - near.top) * lens.away_m(near.bottom) / lens.focal_px, 1.75, places=2)

    def test_day_night_and_the_hours_between(self):
        self.assertEqual([daylight(hour) for hour in (0, 3, 12, 23)], [0, 0, 1, 0])
        self.assertAlmostEqual(daylight(6.0), 0.5)
        scene = DrawnScene(presets()["yard"], 1)
        self.assertGreater(scene.picture(12 * 3600).mean(), 1.8 * scene.picture(2 * 3600).mean())
        hall = DrawnScene(presets()["hall"], 1)
        self.assertAlmostEqual(hall.picture(12 * 3600).mean() / hall.picture(2 * 3600).mean(), 1, delta=0.1)

    def test_somebody_is_drawn_where_the_truth_says(self):
        scene = DrawnScene(CALM, 3)
        visit = next(one for one in scene.visits if one.begins_s > 40_000)
        at_s = (visit.begins_s + visit.ends_s) / 2
        box = next(box for one, box in scene.seen(at_s) if one is visit)
        rows, columns = slice(int(box.top) + 2, int(box.bottom) - 2), slice(int(box.left) + 2, int(box.right) - 1)
        self.assertLess(
            scene.picture(at_s)[rows, columns].mean(), scene.picture(visit.begins_s - 30)[rows, columns].mean() - 20
        )

    def test_wind_moves_leaves_and_calm_air_does_not(self):
        left, top, right, bottom = presets()["yard"].foliage[0]
        crown = slice(round(top * HIGH), round(bottom * HIGH)), slice(round(left * WIDE), round(right * WIDE))
        change = {}
        for name in ("yard", "yard-calm"):
            scene = DrawnScene(presets()[name], 1)
            moments = [scene.picture(40_000 + at * 7)[crown] for at in range(200)]
            change[name] = np.abs(np.diff(moments, axis=0)).mean()
        self.assertGreater(change["yard"], 2 * change["yard-calm"])

    def test_ten_presets_of_different_names(self):
        self.assertEqual(len(presets()), 10)
        for name, view in presets().items():
            self.assertEqual(view.name, name)
            self.assertEqual(DrawnScene(view, 1).picture(43_200).shape, (HIGH, WIDE))


class Detectors(unittest.TestCase):
    def looked(self, pictures, rule=None):
        detector = Detector(rule or MotionRule(), lens_of(CALM), 5)
        return [detector.counting(detector.step(one)) for one in pictures]

    def still(self, many, seed=1, noise=2.0):
        chance = np.random.default_rng(seed)
        return [
            np.full((HIGH, WIDE), 100, np.float32) + chance.normal(0, noise, (HIGH, WIDE)).astype(np.float32)
            for _ in range(many)
        ]

    def with_block(self, pictures, left=60, step=2, top=50, size=(14, 8)):
        for at, one in enumerate(pictures):
            one[top : top + size[0], left + step * at : left + step * at + size[1]] = 30
        return pictures

    def test_noise_alone_is_nothing(self):
        self.assertFalse(any(self.looked(self.still(120))))

    def test_what_moves_is_found_where_it_is(self):
        pictures = self.still(60) + self.with_block(self.still(12, 2))
        found = self.looked(pictures)
        self.assertFalse(any(found[:60]))
        (area,) = found[-1]
        self.assertAlmostEqual(area.box.left, 60 + 2 * 11, delta=3)
        self.assertAlmostEqual(area.box.bottom, 64, delta=2)

    def test_a_flash_is_too_short(self):
        pictures = self.still(60) + self.with_block(self.still(1, 2)) + self.still(5, 3)
        self.assertFalse(any(self.looked(pictures, MotionRule(shortest_s=0.6))))

    def test_too_small_and_too_large_do_not_count(self):
        pictures = self.still(60) + self.with_block(self.still(12, 2))
        tall_m = self.looked(pictures)[-1][0].tall_m
        self.assertFalse(any(self.looked(pictures, MotionRule(smallest_m=tall_m + 0.3))))
        self.assertFalse(any(self.looked(pictures, MotionRule(smallest_m=0.1, largest_m=tall_m - 0.3))))

    def test_what_is_left_out_is_not_looked_at(self):
        pictures = self.still(60) + self.with_block(self.still(12, 2), left=20, step=1)
        self.assertTrue(any(self.looked(pictures)))
        self.assertFalse(any(self.looked(pictures, MotionRule(zones=(Zone(corners=LEFT_HALF, leave_out=True),)))))

    def test_a_lamp_that_lights_everything_is_no_movement(self):
        pictures = self.still(60) + [one + 25 for one in self.still(30, 2)]
        self.assertFalse(any(self.looked(pictures)))

    def test_sensitivity_lowers_the_threshold_evenly(self):
        self.assertAlmostEqual(threshold_of(0), 11)
        self.assertAlmostEqual(threshold_of(100), 2.2)
        self.assertAlmostEqual(threshold_of(50), (11 * 2.2) ** 0.5)


class Days(unittest.TestCase):
    @takes_long
    def test_in_still_air_everybody_is_caught_and_nothing_else(self):
        outcome = finished(whole_day(CALM, MotionRule(), 5, (12.0, 12.5)))
        self.assertGreater(len(outcome.visits), 5)
        self.assertEqual((outcome.missed, outcome.alarms), ((), ()))

    @takes_long
    def test_insensitive_it_misses_and_the_share_says_so(self):
        faint = CALM._replace(weather=Weather(wind_m_per_s=0, noise_day=14, noise_night=14))
        outcome = finished(whole_day(faint, MotionRule(sensitivity=0, smallest_m=1.6), 5, (12.0, 12.5)))
        self.assertEqual(outcome.missed_share, len(outcome.missed) / len(outcome.visits))
        self.assertGreater(outcome.missed_share, 0.5)

    def test_wind_tells_falsely_and_the_tree_is_named(self):
        yard = presets()["yard"]
        gale = yard._replace(weather=yard.weather.model_copy(update={"wind_m_per_s": 11.0}))
        outcome = finished(whole_day(gale, MotionRule(), 1, (1.0, 1.5)))
        self.assertGreater(outcome.false_per_h, 5)
        self.assertEqual(next(iter(outcome.by_cause())), "foliage")

    @takes_long
    def test_a_quick_look_agrees_with_the_whole_day_within_its_error(self):
        view = presets()["yard-rain"]._replace(passages=())
        quick = finished(quick_look(view, MotionRule(), 3))
        whole = finished(whole_day(view, MotionRule(), 3, (9.0, 9.25)))
        part = finished(whole_day(view, MotionRule(), 3, (22.0, 22.1)))
        rough = (2 * whole.false_per_h + part.false_per_h) / 3
        self.assertLess(abs(quick.false_per_h - rough), 4 * quick.false_error + 10)

    def test_triggers_near_each_other_are_one_alarm_and_run_together_as_clips(self):
        area = Area(GroundBox(1, 1, 9, 9), 1.0, 0.5, 5)
        triggers = [Trigger(at, area, None, "foliage") for at in (0.0, 4.0, 12.0, 40.0)]
        outcome = outcome_of(triggers, [(0.0, 100.0)], [])
        self.assertEqual([(one.begins_s, one.ends_s) for one in outcome.alarms], [(0.0, 12.0), (40.0, 40.0)])
        self.assertEqual(outcome.false_per_h, 72)
        clips = outcome.clips(2, 5)
        self.assertEqual([(round(a, 1), round(b, 1)) for a, b in clips], [(-2.0, 9.2), (10.0, 17.2), (38.0, 45.2)])

    def test_misses_have_an_error_even_at_none(self):
        visits = tuple(Visit("person", at, at + 9.0, (0, 5), (1, 5), True) for at in range(20))
        outcome = Outcome(visits, frozenset(visits), (), (), ((0, 100),))
        self.assertEqual(outcome.missed_share, 0)
        self.assertTrue(0.02 < outcome.missed_error < 0.1)


if __name__ == "__main__":
    unittest.main()
