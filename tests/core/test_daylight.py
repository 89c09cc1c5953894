"""Dark hours by latitude and date."""

import unittest
from datetime import UTC, datetime, timedelta

from eager_lens.core.clock.daylight import dark_shares, dark_swing, is_dark, latitude_of_zone
from eager_lens.core.job.place import was_dark
from tests.support import job_with


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

    def test_moments_of_a_winter_and_a_summer_day(self):
        """Civil dusk in London by the almanac: 21 December 16:33 UTC, 21 June 21:10 UTC; Sydney's noon is London's night."""
        winter, summer = datetime(2026, 12, 21, tzinfo=UTC), datetime(2026, 6, 21, tzinfo=UTC)
        for day, dusk in ((winter, 16.55), (summer, 21.17)):
            for off_h, dark in ((-0.4, False), (0.4, True)):
                with self.subTest(dusk=dusk, dark=dark):
                    self.assertEqual(is_dark(51.5, -0.13, day + timedelta(hours=dusk + off_h)), dark)
        self.assertFalse(is_dark(-33.9, 151.2, winter + timedelta(hours=2)))
        self.assertTrue(is_dark(-33.9, 151.2, winter + timedelta(hours=13)))

    def test_a_jobs_own_clock_where_its_zone_has_no_town(self):
        job = job_with(time_zone="Etc/GMT-9")  # nine hours ahead of world time
        self.assertTrue(was_dark(job, datetime(2026, 3, 20, 16, tzinfo=UTC)))
        self.assertFalse(was_dark(job, datetime(2026, 3, 20, 3, tzinfo=UTC)))
        london = job_with(time_zone="Europe/London")
        self.assertFalse(was_dark(london, datetime(2026, 3, 20, 16, tzinfo=UTC)))

    def test_the_latitude_comes_from_the_zone(self):
        self.assertAlmostEqual(latitude_of_zone("Europe/London"), 51.5, delta=0.1)
        self.assertAlmostEqual(latitude_of_zone("Australia/Hobart"), -42.9, delta=0.1)
        self.assertIsNone(latitude_of_zone("UTC"))


if __name__ == "__main__":
    unittest.main()
