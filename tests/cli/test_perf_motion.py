"""The benchmarks of motion: the area under a curve, and the table of tuned scenes."""

import io
import unittest
from contextlib import redirect_stdout
from unittest import mock

import numpy as np

from eager_lens.cli.perf_motion import _point, _under, tuning
from eager_lens.core.motion.places import presets


class Curve(unittest.TestCase):
    def test_chance_is_a_half_and_a_perfect_one_is_one(self):
        self.assertAlmostEqual(_under([(0.3, 0.3), (0.7, 0.7)]), 0.5)
        self.assertAlmostEqual(_under([(0.0, 1.0)]), 1.0)

    def test_pixels_are_counted_when_the_place_is_learnt(self):
        there = np.zeros((4, 5), bool)
        there[0] = True
        mask = np.zeros((4, 5), bool)
        mask[:2, :2] = True
        with mock.patch("eager_lens.cli.perf_motion.LEARNT", 1):
            false, caught = _point([~mask, mask, mask], [there] * 3)
        self.assertAlmostEqual(false, 2 / 15)
        self.assertAlmostEqual(caught, 2 / 5)


class Table(unittest.TestCase):
    def test_each_scene_is_a_line_and_too_few_gains_are_no_success(self):
        two = {name: presets()[name] for name in ("fence", "store")}
        patches = {
            "motion.places.presets": lambda: two,
            "motion.day.QUICK_STRETCHES": 12,
            "motion.day.QUICK_VISITS": 4,
            "motion.tune.UNSEEN_DAYS": 1,
            "motion.tune.SENSITIVITIES": (10.0, 50.0),
        }
        with redirect_stdout(io.StringIO()) as printed:
            for name, value in patches.items():
                patch = mock.patch(f"eager_lens.core.{name}", value)
                patch.start()
                self.addCleanup(patch.stop)
            status = tuning()
        lines = printed.getvalue().splitlines()
        self.assertEqual([line.split()[0] for line in lines[:2]], ["fence", "store"])
        self.assertRegex(lines[0], r"false/h, .* missed +-> .*(better|no gain)")
        self.assertIn("of 10 scenes", lines[-1])
        self.assertEqual(status, 1)


if __name__ == "__main__":
    unittest.main()
