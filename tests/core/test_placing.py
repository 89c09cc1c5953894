"""A camera in its place: figures worked out by hand and by drawing the triangle."""

import math
import unittest

from eager_lens.core.assess.figures.devices import misses_purpose, placing_of
from eager_lens.core.calculator import RefusedInput
from eager_lens.core.catalogue import CALCULATORS
from eager_lens.core.job.fields import CAMERA_FIELDS, field_named
from eager_lens.core.job.model import Job
from eager_lens.core.optics.placing import FACE_M, focal_for, placing, width_for
from tests.support import camera


class Seen(unittest.TestCase):
    def test_at_the_height_of_a_face_it_is_the_plain_calculator(self):
        got = placing(5.4, 4, 1920, 1080, FACE_M, 10)
        plain = CALCULATORS["lens-view"].answer(
            {"sensor_width_mm": 5.4, "focal_mm": 4, "width_px": 1920, "distance_m": 10}
        )
        self.assertAlmostEqual(got.width_m, plain["scene_width_m"])
        self.assertAlmostEqual(got.px_per_m, plain["px_per_m"])
        self.assertEqual(got.good_for, plain["good_for"])
        self.assertEqual(got.tilt_deg, 0)

    def test_the_line_of_sight_is_the_long_side_of_the_triangle(self):
        got = placing(6, 6, 2000, 1000, FACE_M + 3, 4)
        self.assertAlmostEqual(got.sight_m, 5)
        self.assertAlmostEqual(got.width_m, 5)
        self.assertAlmostEqual(got.px_per_m, 400)
        self.assertAlmostEqual(got.tilt_deg, math.degrees(math.atan(3 / 4)))

    def test_the_blind_strip_ends_where_the_lowest_ray_meets_the_ground(self):
        got = placing(6, 6, 1000, 1000, FACE_M + 3, 4)
        lowest = math.atan(3 / 4) + math.atan(0.5)
        self.assertAlmostEqual(got.blind_m, (FACE_M + 3) / math.tan(lowest))

    def test_a_camera_that_looks_straight_down_has_no_blind_strip(self):
        self.assertEqual(placing(6, 3, 1000, 1000, 5, 0.5).blind_m, 0)

    def test_one_that_looks_up_at_a_face_may_see_no_ground(self):
        self.assertIsNone(placing(1, 10, 1000, 1000, 0.1, 2).blind_m)

    def test_at_its_reach_a_purpose_is_just_served(self):
        got = placing(5.4, 4, 1920, 1080, 3.5, 10)
        self.assertEqual(set(got.reach_m), {"identify", "recognise", "observe", "detect", "monitor"})
        for purpose, metres in got.reach_m.items():
            with self.subTest(purpose):
                self.assertEqual(placing(5.4, 4, 1920, 1080, 3.5, metres * 0.999).good_for, purpose)
                self.assertNotEqual(placing(5.4, 4, 1920, 1080, 3.5, metres * 1.001).good_for, purpose)


class Needed(unittest.TestCase):
    def test_the_needed_lens_and_the_needed_picture_just_serve(self):
        focal_mm = focal_for("identify", 5.4, 2688, 22.2)
        self.assertAlmostEqual(focal_mm, 250 * 22.2 * 5.4 / 2688)
        served = CALCULATORS["lens-view"].answer(
            {"sensor_width_mm": 5.4, "focal_mm": focal_mm, "width_px": 2688, "distance_m": 22.2}
        )
        self.assertEqual(served["good_for"], "identify")
        self.assertEqual(width_for("recognise", 6, 3, 10), 2500)

    def test_a_camera_misses_its_purpose_only_with_purpose_and_target(self):
        self.assertTrue(misses_purpose(camera(1, purpose="identify", target_m=30)))
        self.assertFalse(misses_purpose(camera(1, purpose="detect", target_m=30)))
        self.assertFalse(misses_purpose(camera(1, purpose="identify")))
        self.assertFalse(misses_purpose(camera(1, target_m=30)))
        self.assertIsNone(placing_of(camera(1)))

    def test_lowering_the_picture_lowers_what_it_serves(self):
        wide = camera(1, purpose="recognise", target_m=15, focal_mm=6, width_px=2688, height_px=1520)
        self.assertFalse(misses_purpose(wide))
        self.assertTrue(misses_purpose(wide.model_copy(update={"width_px": 1280, "height_px": 720})))


class Fields(unittest.TestCase):
    def test_they_are_shown_and_read(self):
        job, subject = Job(), camera(1, target_m=12.5, purpose="observe")
        target = field_named(CAMERA_FIELDS, "target_m")
        self.assertEqual(target.show(subject, job), "12.5")
        self.assertEqual(target.parse("8", subject, job), {"target_m": 8})
        self.assertEqual(target.parse("", subject, job), {"target_m": None})
        purpose = field_named(CAMERA_FIELDS, "purpose")
        self.assertEqual(purpose.parse("identify", subject, job), {"purpose": "identify"})
        with self.assertRaises(RefusedInput):
            purpose.parse("admire", subject, job)
