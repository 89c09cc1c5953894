"""Clearance along a radio path, against the radio-link calculator half-way and by hand elsewhere."""

import unittest

from eager_lens.core.radio.link import RADIO_LINK, RadioLinkIn
from eager_lens.core.radio.path import bulge_m, clearances, sight_m, zone_m


class Path(unittest.TestCase):
    def test_half_way_it_agrees_with_the_calculator(self):
        given = RadioLinkIn(
            distance_km=2.4, frequency_ghz=5.6, tx_dbm=20, tx_gain_dbi=10, rx_gain_dbi=10, width_mhz=20, streams=1
        )
        got = RADIO_LINK.run(given)
        self.assertAlmostEqual(zone_m(1200, 2400, 5.6), got.fresnel_m)
        self.assertAlmostEqual(bulge_m(1200, 2400), got.bulge_m)

    def test_at_the_ends_the_zone_and_the_bulge_are_gone(self):
        for at in (0, 900):
            self.assertEqual((zone_m(at, 900, 5.5), bulge_m(at, 900)), (0, 0))

    def test_the_line_of_sight_is_straight(self):
        self.assertEqual([sight_m(at, 900, 5, 8) for at in (0, 300, 900)], [5, 6, 8])

    def test_a_wall_by_hand(self):
        """900 m, 5.5 GHz, ends at 5 and 8 m, 4.4 m of hawthorn at 240 m: sight 5.8 m, 60 % of the zone 1.865 m."""
        (clear,) = clearances(900, 5.5, 5, 8, [(240, 4.4)])
        self.assertAlmostEqual(clear.sight_m, 5.8)
        self.assertAlmostEqual(clear.wanted_m, 0.6 * 17.32 * (0.24 * 0.66 / (5.5 * 0.9)) ** 0.5)
        self.assertAlmostEqual(clear.above_m, 1.4 - 0.24 * 0.66 / 17)
        self.assertLess(clear.above_m, clear.wanted_m)

    def test_what_stands_beyond_the_ends_is_not_in_the_way(self):
        self.assertEqual(clearances(900, 5.5, 5, 8, [(901, 90)]), ())


if __name__ == "__main__":
    unittest.main()
