"""Runs, links and lenses beyond their reference values: limits, identities, and the line between yes and no."""

import math
import unittest

from eager_lens.core.catalogue import CALCULATORS
from eager_lens.core.errors import RefusedInput
from eager_lens.core.power.dc import area_of_awg_mm2, dc_run
from eager_lens.core.power.load import settled
from eager_lens.core.power.poe import POE_CLASSES, poe_run
from eager_lens.core.radio.link import RATE_MBPS_PER_STREAM, SENSITIVITY_DBM_AT_20_MHZ, budget


class Loads(unittest.TestCase):
    def test_what_is_sent_is_what_arrives_and_what_is_lost(self):
        for supply_v, loop_ohm, power_w in ((48, 8.4, 12.95), (12, 0.9, 6), (54, 0, 30), (52, 3.3, 71.3)):
            with self.subTest(supply_v=supply_v):
                end = settled(supply_v, loop_ohm, power_w)
                self.assertAlmostEqual(end.supply_w, power_w + end.loss_w)
                self.assertAlmostEqual(end.device_v * end.current_a, power_w)
                self.assertGreaterEqual(end.device_v, supply_v / 2)

    def test_the_most_that_a_loop_can_carry_is_carried_and_no_more(self):
        most_w = 48**2 / 4 / 10
        self.assertAlmostEqual(settled(48, 10, most_w).device_v, 24, places=3)
        self.assertIsNone(settled(48, 10, most_w * (1 + 1e-6)))

    def test_a_run_of_the_longest_length_still_holds(self):
        for supply_v, power_w, area, share in (
            (12, 6, 0.75, 0.9),
            (24, 15, 1.5, 0.5),
            (13.8, 5, 0.5, 0.3),
            (48, 30, 1, 0.999),
        ):
            longest_m = dc_run(supply_v, power_w, 1, area, share).longest_m
            with self.subTest(supply_v=supply_v, share=share):
                self.assertTrue(dc_run(supply_v, power_w, longest_m, area, share).voltage_ok)
                self.assertFalse(dc_run(supply_v, power_w, longest_m * 1.0001, area, max(share, 0.5)).voltage_ok)

    def test_gauges(self):
        for awg, area in ((36, 0.01267), (24, 0.2047), (18, 0.8231), (10, 5.261)):
            with self.subTest(awg):
                self.assertAlmostEqual(area_of_awg_mm2(awg) / area, 1, places=3)

    def test_hot_thin_and_clad_cable_leaves_less(self):
        base = poe_run(4, 25.5, 90, 24, "copper", 20).settled.device_v
        for change in ((90, 26, "copper", 20), (90, 24, "cca", 20), (90, 24, "copper", 60), (95, 24, "copper", 20)):
            with self.subTest(change=change):
                self.assertLess(poe_run(4, 25.5, *change).settled.device_v, base)

    def test_four_pairs_halve_the_loop(self):
        self.assertAlmostEqual(
            poe_run(5, 10, 50, 24, "copper", 20).loop_ohm * 2, poe_run(4, 10, 50, 24, "copper", 20).loop_ohm
        )

    def test_every_class_may_draw_less_than_is_set_aside_for_it(self):
        for limits in POE_CLASSES:
            self.assertLess(limits.device_w, limits.allocated_w)
            self.assertLess(limits.device_least_v, limits.supply_least_v)

    def test_null_is_not_the_same_as_left_out(self):
        for name, given in (
            ("poe-run", {"class": 3, "power_w": 1, "length_m": 1, "supply_v": None}),
            ("dc-run", {"supply_v": 12, "power_w": 1, "length_m": 1, "awg": None, "area_mm2": 1}),
        ):
            with self.subTest(name), self.assertRaises(RefusedInput) as caught:
                CALCULATORS[name].answer(given)
            self.assertIn("null was given", str(caught.exception))

    def test_one_of_a_few_names_them(self):
        with self.assertRaises(RefusedInput) as caught:
            CALCULATORS["poe-run"].answer({"class": 3, "power_w": 1, "length_m": 1, "awg": 25})
        self.assertEqual(str(caught.exception), "awg: 25 was given; allowed are 23, 24, 26 or 28")


class Radio(unittest.TestCase):
    def test_steps_begin_right_at_their_sensitivity(self):
        for width, rise in ((20, 0), (40, 3), (80, 6)):
            for step, rate in enumerate(RATE_MBPS_PER_STREAM[width]):
                signal = SENSITIVITY_DBM_AT_20_MHZ[step] + rise
                with self.subTest(width=width, step=step):
                    self.assertEqual(budget(signal + 10, 10, width, 2), (step, rate * 2))
                    below = budget(signal - 0.001, 0, width, 1).step
                    self.assertTrue(below is None if step == 0 else below < step)

    def test_at_twenty_megahertz_the_highest_step_is_eight(self):
        self.assertEqual(budget(0, 0, 20, 1), (8, 78))
        self.assertEqual(budget(0, 0, 40, 1).step, 9)


class Lenses(unittest.TestCase):
    def test_twice_as_far_is_half_as_good(self):
        given = {"sensor_width_mm": 5.37, "focal_mm": 4, "width_px": 1920, "distance_m": 10}
        near = CALCULATORS["lens-view"].answer(given)
        far = CALCULATORS["lens-view"].answer({**given, "distance_m": 20})
        self.assertAlmostEqual(near["px_per_m"], 2 * far["px_per_m"])
        self.assertEqual(near["view_deg"], far["view_deg"])

    def test_a_view_is_as_wide_as_its_angle_says(self):
        got = CALCULATORS["lens-view"].answer({"sensor_width_mm": 6, "focal_mm": 3, "width_px": 1000, "distance_m": 7})
        self.assertAlmostEqual(2 * 7 * math.tan(math.radians(got["view_deg"] / 2)), got["scene_width_m"])


if __name__ == "__main__":
    unittest.main()
