"""What is measured on site: pixels on a target, walks, drives that fill."""

import math
import unittest

import numpy as np
from scipy.stats import binomtest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.proof import FillReading, Walk
from eager_lens.core.records.acceptance.density import marked_density
from eager_lens.core.records.acceptance.filling import projected_days
from eager_lens.core.records.acceptance.walk_test import READY_S, WalkTest
from eager_lens.core.records.acceptance.walks import CONFIDENCE, against, caught_by_kind, counted, wilson_interval


class Density(unittest.TestCase):
    def test_a_mark_on_a_reduced_still_counts_for_the_stream(self):
        found = marked_density(105, 1344, 2688, 1.75)
        self.assertAlmostEqual(found.px_per_m, 120)
        self.assertAlmostEqual(found.off_px_per_m, math.sqrt(2) * 2 / 1.75)

    def test_what_cannot_be_counted_is_refused(self):
        for wrong in ((7, 100, 100, 1), (50, 0, 100, 1), (50, 100, 100, 0)):
            with self.assertRaises(RefusedInput, msg=wrong):
                marked_density(*wrong)


class Walks(unittest.TestCase):
    def test_counted_by_zone_and_light(self):
        walks = [Walk(camera="cam-1", zone=zone, dark=dark, caught=caught) for zone, dark, caught in (
            ("Zone 1", False, True), ("Zone 1", True, False), ("Zone 1", False, False), ("Zone 2", False, True),
        )]  # fmt: skip
        found = [(one.zone, one.dark, one.caught, one.walks) for one in caught_by_kind(walks)]
        self.assertEqual(found, [("Zone 1", False, 1, 2), ("Zone 1", True, 0, 1), ("Zone 2", False, 1, 1)])

    def test_wilsons_interval(self):
        """Against its closed form, z = 1.644854."""
        seen = counted("", False, [True] * 7 + [False])
        z, n, share = 1.6448536269514722, 8, 7 / 8
        middle = (share + z * z / (2 * n)) / (1 + z * z / n)
        half = z * math.sqrt(share * (1 - share) / n + z * z / (4 * n * n)) / (1 + z * z / n)
        self.assertAlmostEqual(seen.low_share, middle - half)
        self.assertAlmostEqual(seen.high_share, middle + half)
        for walks in range(1, 40):
            for caught in range(walks + 1):
                with self.subTest(caught=caught, walks=walks):
                    ends = binomtest(caught, walks).proportion_ci(CONFIDENCE, "wilson")
                    np.testing.assert_allclose(wilson_interval(caught, walks), (ends.low, ends.high), atol=1e-12)

    def test_the_interval_holds_in_nine_of_ten_tests(self):
        chance = np.random.default_rng(5)
        held = 0
        for _ in range(600):
            seen = counted("", False, list(chance.random(20) < 0.85))
            held += seen.low_share <= 0.85 <= seen.high_share
        self.assertGreater(held / 600, 0.85)

    def test_what_walks_say_of_a_promise(self):
        self.assertIn("fewer", against(0.99, counted("", False, [True] * 8 + [False] * 4)))
        self.assertEqual(against(0.4, counted("", False, [True] * 12)), "more than predicted")
        self.assertIn("so few", against(0.9, counted("", False, [True] * 3)))
        self.assertEqual(against(0.95, counted("", False, [True] * 30)), "agrees with the prediction")

    def test_the_calls_of_a_test(self):
        test = WalkTest(("out", "back"), 3, 10)
        self.assertFalse(test.answer("caught"), "nothing is called yet")
        self.assertFalse(test.pass_time(READY_S - 1))
        self.assertEqual(test.call, "Walk 1 of 3: out, in 1 s")
        self.assertTrue(test.pass_time(1))
        self.assertEqual(test.call, "Walk 1 of 3: out, now")
        self.assertFalse(test.pass_time(100), "it waits for the answer")
        test.answer("caught")
        self.assertFalse(test.pass_time(9.5))
        self.assertTrue(test.pass_time(0.5))
        self.assertEqual(test.call, "Walk 2 of 3: back, now")
        test.answer("not walked")
        test.pass_time(10)
        test.answer("missed")
        self.assertEqual((test.phase, test.call), ("over", "1 of 2 walks caught"))


def readings(*points, oldest=None):
    return [FillReading(recorder="rec-1", at=at, used_tb=used, oldest_days=oldest) for at, used in points]


class Filling(unittest.TestCase):
    def test_a_straight_line(self):
        found = projected_days(readings(("2026-11-01T08:00", 1), ("2026-11-03T08:00", 2)), 15)
        self.assertAlmostEqual(found.days, 30)
        self.assertAlmostEqual(found.tb_per_day, 0.5)
        self.assertIsNone(found.low_days)

    def test_the_range_is_that_of_students_t(self):
        """Four readings a day apart, off a line of slope 1 by +-0.1: slope 0.98, its error and t(0.95, 2) = 2.919986 by hand."""
        days = (1, 2, 3, 4)
        used = (1.1, 1.9, 3.1, 3.9)
        found = projected_days(readings(*((f"2026-11-0{d}T00:00", u) for d, u in zip(days, used, strict=True))), 49)
        slope, level = 0.96, 0.1
        self.assertAlmostEqual(found.tb_per_day, slope)
        left = sum((u - (level + slope * d)) ** 2 for d, u in zip(days, used, strict=True))
        error = math.sqrt(left / 2 / 5)
        self.assertAlmostEqual(found.low_days, 49 / (slope + 2.91998558 * error), places=5)
        self.assertAlmostEqual(found.high_days, 49 / (slope - 2.91998558 * error), places=5)

    def test_readings_that_scatter_too_much_have_no_end(self):
        points = (("2026-11-01T00:00", 1), ("2026-11-02T00:00", 3), ("2026-11-03T00:00", 1.2))
        self.assertIn("no end", projected_days(readings(*points), 40).words)

    def test_the_oldest_picture_alone_says_nothing_of_the_drives(self):
        filling = readings(("2026-11-01T08:00", 1), ("2026-11-03T08:00", 2))
        told = readings(("2026-11-02T08:00", None), oldest=20.0)
        self.assertEqual(projected_days([*filling, *told], 15), projected_days(filling, 15))

    def test_full_drives_keep_what_they_show(self):
        found = projected_days(readings(("2026-11-01T08:00", 9.9), oldest=33.5), 10)
        self.assertTrue(found.seen)
        self.assertEqual(found.days, 33.5)

    def test_what_says_nothing_is_refused_with_what_to_do(self):
        for points, words in (
            ((), "two or more"),
            ((("2026-11-01T08:00", 9.9),), "the age of the oldest recording"),
            ((("2026-11-01T08:00", 1), ("2026-11-01T18:00", 2)), "tomorrow"),
            ((("2026-11-01T08:00", 2), ("2026-11-04T18:00", 2)), "not filling"),
        ):
            with self.assertRaisesRegex(RefusedInput, words):
                projected_days(readings(*points), 10)

    def test_the_range_holds_in_nine_of_ten_jobs(self):
        """Days that differ by chance, as a site's do: a week of readings, drawn 400 times."""
        chance, held = np.random.default_rng(2), 0
        for _ in range(400):
            used = 0.5 * np.arange(7) + chance.normal(0, 0.05, 7) + 1
            points = [(f"2026-11-{day + 1:02d}T08:00", float(value)) for day, value in enumerate(used)]
            found = projected_days(readings(*points), 20)
            held += found.low_days <= 40 <= found.high_days
        self.assertGreater(held / 400, 0.86)
        self.assertLess(held / 400, 0.94)


if __name__ == "__main__":
    unittest.main()
