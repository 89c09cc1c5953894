"""Days kept as a distribution: against closed forms and against a plain simulation, one event at a time."""

import unittest

import numpy as np

from eager_lens.core.recording.clips import recorded_share
from eager_lens.core.sizing.spread import Streams, kept_each_day, share_moments, simulated_years

STEADY = {"years": 400, "shared_share": 0.3, "day_spread": 0.0, "busy_days": 0, "busy_factor": 1.5, "seed": 1}


def streams(cameras=1, **given):
    """Cameras that store 1 GB in each of 24 hours, with nothing uncertain, unless told otherwise."""
    base = {
        "gb_per_h": np.ones(cameras),
        "log_down": np.zeros(cameras),
        "log_up": np.zeros(cameras),
        "group": np.zeros(cameras, dtype=np.int64),
        "always_h": np.full((cameras, 7), 24.0),
        "motion_h": np.zeros((cameras, 7)),
        "input_h": np.zeros((cameras, 7)),
        "events_per_h": np.zeros(cameras),
        "inputs_per_h": np.zeros(cameras),
        "clip_s": np.full(cameras, 40.0),
        "either_h": np.zeros((cameras, 7)),
        "idle_h": np.zeros((cameras, 7)),
        "input_clip_s": np.full(cameras, 40.0),
        "between": np.zeros(cameras),
        "idle": np.zeros(cameras),
    }
    return Streams(**{**base, **given})


def on_motion(events_per_h, cameras=1, **given):
    return streams(
        cameras,
        always_h=np.zeros((cameras, 7)),
        motion_h=np.full((cameras, 7), 24.0),
        events_per_h=np.full(cameras, float(events_per_h)),
        **given,
    )


class Kept(unittest.TestCase):
    def test_a_steady_recorder_keeps_what_a_division_says(self):
        years = simulated_years(streams(4), 4 * 24 * 10.5, **STEADY)
        for days in (years.worst, years.best, years.median):
            np.testing.assert_allclose(days, 10.5)

    def test_space_for_more_than_a_year_is_counted_in_rounds(self):
        years = simulated_years(streams(), 24 * 800.25, **STEADY)
        np.testing.assert_allclose(years.worst, 800.25)

    def test_space_for_whole_years_ends_with_one(self):
        for space_gb, days in ((24 * 365.0, 365), (24 * 730.0, 730), (24 * 365.0 * 1e15, 365e15)):
            years = simulated_years(streams(), space_gb, **STEADY)
            np.testing.assert_allclose(years.worst, days, rtol=1e-9)

    def test_days_are_counted_back_from_each_evening(self):
        gb = np.array([[1.0, 2.0, 3.0, 4.0, 5.0]])
        for evening in range(5):
            days = kept_each_day(gb, 8.5)[0][evening]
            back, left = [gb[0][(evening - at) % 5] for at in range(int(days) + 1)], days - int(days)
            self.assertAlmostEqual(sum(back[:-1]) + left * back[-1], 8.5)

    def test_nothing_stored_is_refused(self):
        with self.assertRaises(ValueError):
            simulated_years(streams(gb_per_h=np.zeros(1)), 10, **STEADY)


class Union(unittest.TestCase):
    def test_hours_on_either_store_the_union_of_both(self):
        both = streams(
            always_h=np.zeros((1, 7)),
            either_h=np.full((1, 7), 24.0),
            events_per_h=np.array([6.0]),
            inputs_per_h=np.array([3.0]),
            input_clip_s=np.array([90.0]),
        )
        left_out = (1 - recorded_share(6, 40, 0, 0)) * (1 - recorded_share(3, 90, 0, 0))
        years = simulated_years(both, 24 * (1 - left_out) * 50, **STEADY)
        self.assertAlmostEqual(float(years.median.mean()), 50, delta=0.6)

    def test_what_is_kept_between_events_and_in_idle_hours_is_stored_for_sure(self):
        thin = streams(
            always_h=np.full((1, 7), 10.0),
            motion_h=np.full((1, 7), 8.0),
            idle_h=np.full((1, 7), 6.0),
            between=np.array([0.25]),
            idle=np.array([0.5]),
        )
        years = simulated_years(thin, (10 + 8 * 0.25 + 6 * 0.5) * 20.5, **STEADY)
        np.testing.assert_allclose(years.worst, 20.5)


class Chance(unittest.TestCase):
    def test_the_share_has_the_mean_of_the_closed_formula(self):
        for per_h, clip_s in ((0.5, 20.0), (12.0, 40.0), (95.0, 80.0), (3.0, 3600.0)):
            with self.subTest(per_h=per_h, clip_s=clip_s):
                mean, _ = share_moments(np.array([per_h]), np.array([clip_s]), np.array([10.0]))
                self.assertAlmostEqual(float(mean[0]), recorded_share(per_h, clip_s, 0, 0))

    def test_mean_and_variance_agree_with_arrivals_drawn_one_by_one(self):
        random = np.random.default_rng(4)
        hours, runs = 6.0, 3000
        for per_h, clip_s in ((2.0, 60.0), (20.0, 90.0), (1.0, 1800.0)):
            with self.subTest(per_h=per_h, clip_s=clip_s):
                shares = []
                for _ in range(runs):
                    # Clips that began before the hours reach into them, as they do in a day that has a day before it.
                    begin, end = -clip_s, hours * 3600
                    starts = np.sort(random.uniform(begin, end, random.poisson(per_h * (end - begin) / 3600)))
                    reach, covered = 0.0, 0.0
                    for start in starts:
                        until = min(start + clip_s, end)
                        covered += max(0.0, until - max(start, reach, 0.0))
                        reach = max(reach, until)
                    shares.append(covered / end)
                mean, variance = share_moments(np.array([per_h]), np.array([clip_s]), np.array([hours]))
                self.assertAlmostEqual(np.mean(shares), float(mean[0]), delta=4 * np.std(shares) / runs**0.5)
                self.assertAlmostEqual(np.var(shares) / float(variance[0]), 1, delta=0.15)

    def test_the_years_agree_with_years_drawn_clip_by_clip(self):
        clip_s, per_h, cameras, space = 120.0, 6.0, 3, 3 * 24 * 0.18 * 20
        got = simulated_years(on_motion(per_h, cameras, clip_s=np.full(cameras, clip_s)), space, **STEADY)
        random = np.random.default_rng(9)
        gb = np.zeros((60, 365))
        for _ in range(cameras):
            for year in range(60):
                starts = np.sort(random.uniform(0, 365 * 86400, random.poisson(per_h * 24 * 365)))
                ends = np.minimum(starts + clip_s, np.append(starts[1:], np.inf))
                covered = ends - starts
                gb[year] += np.bincount((starts // 86400).astype(int), covered, minlength=365)[:365] / 3600
        plain = kept_each_day(gb, space)
        self.assertAlmostEqual(got.median.mean() / np.median(plain), 1, delta=0.01)
        self.assertAlmostEqual(got.worst.mean() / plain.min(axis=1).mean(), 1, delta=0.02)

    def test_rates_spread_as_their_range_says(self):
        one = streams(log_down=np.array([0.4]), log_up=np.array([0.45]))
        days = simulated_years(one, 24 * 30, **{**STEADY, "years": 4000}).worst
        self.assertAlmostEqual(np.quantile(days, 0.1) / (30 * np.exp(-0.45 * 1.2816)), 1, delta=0.05)
        self.assertAlmostEqual(np.quantile(days, 0.9) / (30 * np.exp(0.4 * 1.2816)), 1, delta=0.05)

    def test_many_cameras_differ_less_but_for_what_they_share(self):
        many = {"log_down": np.full(100, 0.4), "log_up": np.full(100, 0.4)}
        alone = simulated_years(streams(100, **many), 2400 * 30, **{**STEADY, "shared_share": 0.0}).worst
        shared = simulated_years(streams(100, **many), 2400 * 30, **{**STEADY, "shared_share": 1.0}).worst
        self.assertLess(np.std(np.log(alone)), 0.06)
        self.assertAlmostEqual(np.std(np.log(shared)), 0.4, delta=0.05)
        measured = streams(100, **many, group=np.full(100, -1))
        self.assertLess(np.std(np.log(simulated_years(measured, 2400 * 30, **STEADY).worst)), 0.06)

    def test_a_busy_season_shortens_the_worst_day_and_not_the_typical_one(self):
        calm = simulated_years(on_motion(10), 2.6 * 30, **STEADY)
        busy = simulated_years(on_motion(10), 2.6 * 30, **{**STEADY, "busy_days": 60, "busy_factor": 2.0})
        self.assertLess(busy.worst.mean(), 0.62 * calm.worst.mean())
        self.assertAlmostEqual(busy.median.mean() / calm.median.mean(), 1, delta=0.05)

    def test_the_same_seed_gives_the_same_years_and_another_others(self):
        uneven = {**STEADY, "day_spread": 0.4}
        first, again = (simulated_years(on_motion(8), 60, **uneven).worst for _ in range(2))
        np.testing.assert_array_equal(first, again)
        self.assertFalse(np.array_equal(first, simulated_years(on_motion(8), 60, **{**uneven, "seed": 2}).worst))
