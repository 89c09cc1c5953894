"""The benchmarks of motion: the area under a curve, and the table of tuned scenes."""

import io
import unittest
from contextlib import redirect_stdout
from unittest import mock

import numpy as np
from tests.support import takes_long
from tools.perf.motion import _keeps, _point, _under, tuning

from eager_lens.core.motion.places import presets
from eager_lens.core.motion.tuning.other_days import Gain
from eager_lens.core.motion.tuning.takes import Plan


class Curve(unittest.TestCase):
    def test_chance_is_a_half_and_a_perfect_one_is_one(self):
        self.assertAlmostEqual(_under([(0.3, 0.3), (0.7, 0.7)]), 0.5)
        self.assertAlmostEqual(_under([(0.0, 1.0)]), 1.0)

    def test_pixels_are_counted_when_the_place_is_learnt(self):
        there = np.zeros((4, 5), bool)
        there[0] = True
        mask = np.zeros((4, 5), bool)
        mask[:2, :2] = True
        with mock.patch("tools.perf.motion.LEARNT", 1):
            false, caught = _point([~mask, mask, mask], [there] * 3)
        self.assertAlmostEqual(false, 2 / 15)
        self.assertAlmostEqual(caught, 2 / 5)


class Table(unittest.TestCase):
    @takes_long
    def test_each_scene_is_a_line_and_too_few_gains_are_no_success(self):
        two = {name: presets()[name] for name in ("fence", "store")}
        small = Plan(days=1, stretches=2, stretch_s=30.0, visits=4)
        patches = {
            "eager_lens.core.motion.places.presets": lambda: two,
            "eager_lens.core.motion.tuning.search.TO_SELECT": small,
            "eager_lens.core.motion.tuning.search.TO_PROVE": small,
            "eager_lens.core.motion.tuning.selecting.SENSITIVITIES": (40.0, 50.0, 60.0),
            "eager_lens.core.workers.MOST": 1,
            "tools.perf.motion._PROOF": small,
        }
        with redirect_stdout(io.StringIO()) as printed:
            for name, value in patches.items():
                patch = mock.patch(name, value)
                patch.start()
                self.addCleanup(patch.stop)
            status = tuning()
        lines = printed.getvalue().splitlines()
        self.assertEqual([line.split()[0] for line in lines[1:3]], ["fence", "store"])
        self.assertRegex(lines[1], r"[\d.]+ -> +[\d.]+ \( *(inf|[\d.]+) x\) .* (not kept|kept): sensitivity \d")
        self.assertIn("of 10 scenes", lines[3])
        self.assertEqual(status, 1)

    def test_a_scene_is_kept_by_alarms_and_by_who_is_missed(self):
        before = Gain(40.0, 3600.0, (100, 100, 10), (2, 2, 0))
        for false_per_h, missed, kept in (
            (8.0, (2, 2, 0), True),
            (8.1, (2, 2, 0), False),
            (0.0, (2, 4, 0), True),
            (0.0, (2, 5, 0), False),
            (0.0, (5, 2, 0), False),
        ):
            with self.subTest(false_per_h=false_per_h, missed=missed):
                self.assertEqual(_keeps(before, before._replace(false_per_h=false_per_h, missed=missed)), kept)


if __name__ == "__main__":
    unittest.main()
