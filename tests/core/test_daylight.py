"""Dark hours by latitude and date."""

import unittest

from eager_lens.core.clock.daylight import dark_shares, dark_swing, latitude_of_zone


class Dark(unittest.TestCase):
    def test_a_day_and_its_night_by_the_almanac(self):
        """Civil twilight to civil twilight, from almanacs: 55 deg north has 8 h 48 min in December and 19 h 4 min in June."""
        shares = dark_shares(55.0)
        self.assertAlmostEqual(24 * (1 - shares[354]), 8.8, delta=0.15)
        self.assertAlmostEqual(24 * (1 - shares[171]), 19.1, delta=0.3)
        self.assertAlmostEqual(24 * (1 - dark_shares(0.0)[79]), 12.8, delta=0.1)

    def test_the_south_has_it_half_a_year_later(self):
        north, south = dark_shares(50.0), dark_shares(-50.0)
        self.assertAlmostEqual(north[354], south[171], delta=0.005)

    def test_beyond_the_circle_it_is_dark_or_light_all_day(self):
        shares = dark_shares(80.0)
        self.assertEqual((shares[354], shares[171]), (1.0, 0.0))

    def test_the_swing_has_no_mean(self):
        for latitude in (-70, 0, 52.5):
            self.assertAlmostEqual(sum(dark_swing(latitude)), 0)

    def test_the_latitude_comes_from_the_zone(self):
        self.assertAlmostEqual(latitude_of_zone("Europe/London"), 51.5, delta=0.1)
        self.assertAlmostEqual(latitude_of_zone("Australia/Hobart"), -42.9, delta=0.1)
        self.assertIsNone(latitude_of_zone("UTC"))


if __name__ == "__main__":
    unittest.main()
