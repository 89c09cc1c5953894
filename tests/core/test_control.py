"""Rate control: what each mode does to mean, range and peak."""

import math
import unittest
from statistics import NormalDist

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.measured import with_settings
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.sizing.capped import NO_DEMAND, AtCap, Demand, Level, at_cap, held_mbps, held_under
from eager_lens.core.sizing.control import CAMERA_PORT_MBPS, QUIET_STRETCH, demand_of, sent
from eager_lens.core.sizing.rate import Estimated, StreamRate
from eager_lens.core.sizing.rate_spread import Z_OF_RANGE, UncertainRate, rate_factors
from tests.support import camera, codes, job_with

RATE = StreamRate(4.0, 2.4, 7.2, key_part_mbps=1.0, other_part_mbps=3.0, day_mbps=2.0, night_mbps=6.0)


def demand(day=2.0, night=6.0, log_down=0.0, log_up=0.0, busy_share=0.0, busy_times=1.0):
    """Half the time day, half night; of each a share in which so many times as much is asked for."""
    levels = []
    for by_night, still in ((False, day), (True, night)):
        levels.append(Level(0.5 * busy_share, still * busy_times, by_night, 0.15))
        levels.append(Level(0.5 * (1 - busy_share), still, by_night, 0.15))
    return Demand(tuple(levels), log_down, log_up)


class Modes(unittest.TestCase):
    def test_constant_quality_sends_what_the_picture_asks_for(self):
        got = sent(RATE, "VBR", 1.0, demand())
        self.assertEqual(got[:3], RATE[:3])
        self.assertAlmostEqual(got.peak_mbps, 6.0 * 1.8)

    def test_a_cap_takes_from_the_night_only_when_only_the_night_reaches_it(self):
        got = sent(RATE, "capped VBR", 3.0, demand())
        self.assertAlmostEqual(got.mean_mbps, (2.0 + 3.0) / 2)
        self.assertEqual((got.day_mbps, got.night_mbps, got.peak_mbps), (2.0, 3.0, 3.0))
        self.assertLessEqual(got.low_mbps, got.mean_mbps)
        self.assertAlmostEqual(sent(RATE, "capped VBR", 500.0, demand()).mean_mbps, 4.0)

    def test_a_constant_rate_is_what_is_set_for_quiet_and_busy_scenes(self):
        got = sent(RATE, "CBR", 2.0, NO_DEMAND)
        self.assertEqual((got.mean_mbps, got.peak_mbps), (2.0, 2.0))
        self.assertLess(got.high_mbps, 2.1)

    def test_nothing_is_faster_than_the_camera_s_port(self):
        huge = StreamRate(*(30 * each for each in RATE))
        for control, cap in (("VBR", None), ("capped VBR", 500.0), ("CBR", 137.0), ("smart codec", None)):
            with self.subTest(control):
                got = sent(huge, control, cap, demand(60, 180, 0.5, 0.5))
                self.assertLessEqual(max(got), CAMERA_PORT_MBPS)

    def test_a_cap_holds_a_smart_codec_and_not_constant_quality(self):
        got = sent(RATE, "smart codec", 1.5, demand())
        self.assertEqual((got.mean_mbps, got.high_mbps, got.peak_mbps), (1.5, 1.5, 1.5))
        self.assertEqual(sent(RATE, "VBR", 0.5, demand()), sent(RATE, "VBR", None, demand()))

    def test_without_a_cap_the_picture_decides(self):
        for control in ("capped VBR", "CBR"):
            self.assertEqual(sent(RATE, control, None, demand()), sent(RATE, "VBR", None, demand()))


class OverTime(unittest.TestCase):
    def estimated(self, *rate):
        return Estimated(StreamRate(*rate), {"model": (0.3, 0.4)}, (0.15, 0.3))

    def test_levels_come_to_the_mean_and_a_smart_codec_saves_on_the_still_ones(self):
        whole, still, busiest = (
            self.estimated(4.0, 2.4, 7.2, 1.0, 3.0, 2.0, 6.0),
            self.estimated(3.0, 1.8, 5.4, 1.0, 2.0, 1.5, 4.5),
            self.estimated(14.0, 8.0, 25.0, 1.0, 13.0, 8.0, 20.0),
        )
        for busy_share in (0.0, 0.2, 1.0):
            got = demand_of(whole, still, busiest, busy_share, 0.5, "VBR")
            self.assertAlmostEqual(sum(level.share * level.mbps for level in got.levels), 4.0)
            self.assertAlmostEqual(sum(level.share for level in got.levels), 1)
        rare = demand_of(whole, still, busiest, 0.01, 0.5, "VBR")
        self.assertEqual(max(level.mbps for level in rare.levels), 20.0)
        self.assertAlmostEqual(sum(level.share * level.mbps for level in rare.levels), 4.0)
        saved = demand_of(still, still, busiest, 0.0, 0.5, "smart codec")
        self.assertAlmostEqual(sum(level.share * level.mbps for level in saved.levels), 2.0 + 1.0 / QUIET_STRETCH)


class UnderACap(unittest.TestCase):
    """Closed forms against many drawn cases."""

    DEMAND = demand(1.0, 3.0, 0.9, 1.1, busy_share=0.2, busy_times=2.5)

    def drawn(self, cap_mbps):
        """What each of many cases sends, and of the night the share of the time at the cap and by how many steps it is coarser."""
        scores = [NormalDist().inv_cdf((at + 0.5) / 20_000) for at in range(20_000)]
        asked = [math.exp(z * (1.1 if z > 0 else 0.9) / Z_OF_RANGE) for z in scores]
        mean = sum(asked) / len(asked)
        cases = [sum(s * min(m * f / mean, cap_mbps) for s, m, _, _ in self.DEMAND.levels) for f in asked]
        over = steps = 0.0
        for share, mbps, by_night, per_step in self.DEMAND.levels:
            logs = [math.log(mbps * f / mean / cap_mbps) for f in asked] if by_night else []
            over += 2 * share * sum(each > 0 for each in logs) / len(asked)
            steps += 2 * share * sum(max(each, 0) for each in logs) / len(asked) / per_step
        return cases, over, steps / over

    def test_mean_share_of_the_time_and_steps_are_those_of_many_cases(self):
        for cap_mbps in (0.4, 1.0, 2.0, 4.0, 12.0):
            with self.subTest(cap_mbps):
                cases, over, steps = self.drawn(cap_mbps)
                mean = sum(level.share * held_mbps(level, self.DEMAND, cap_mbps) for level in self.DEMAND.levels)
                self.assertAlmostEqual(mean / (sum(cases) / len(cases)), 1, delta=0.002)
                got = at_cap(self.DEMAND, cap_mbps)
                self.assertAlmostEqual(got.night_share, over, delta=0.002)
                self.assertAlmostEqual(got.night_steps / steps, 1, delta=0.02)
                self.assertLessEqual(got.day_share, got.night_share)

    def test_the_sum_of_streams_takes_it_as_the_cases_are(self):
        held = held_under(self.DEMAND, 2.0)
        cases, _, _ = self.drawn(2.0)
        (factor,) = rate_factors(
            [UncertainRate(1.0, self.DEMAND.log_down / Z_OF_RANGE, self.DEMAND.log_up / Z_OF_RANGE, "", held)], 0.4
        )
        mean = sum(cases) / len(cases)
        self.assertAlmostEqual(math.exp(factor.middle) / (sorted(cases)[10_000] / mean), 1, delta=0.05)
        # No case rises above the cap all the time.
        self.assertLessEqual(mean * math.exp(factor.middle + 1.645 * factor.above), 2.001)

    def test_more_doubt_and_a_lower_cap_mean_more_time_at_it(self):
        shares = [at_cap(self.DEMAND, cap_mbps).night_share for cap_mbps in (4.0, 2.0, 1.0)]
        self.assertEqual(shares, sorted(shares))
        sure = self.DEMAND._replace(log_down=0.0, log_up=0.0)
        self.assertEqual(at_cap(sure, 100.0), AtCap(0.0, 0.0, 0.0, 0.0))
        self.assertEqual(at_cap(sure, 0.5)[:2], (1.0, 1.0))


class InTheJob(unittest.TestCase):
    def figures(self, **fields):
        return assess(job_with([camera(1, **fields)])).camera("cam-1")

    def test_a_constant_rate_is_no_assumption(self):
        got = self.figures(rate_control="CBR", cap_mbps=2)
        self.assertEqual((got.rate_mbps, got.rate_origin), (2, "plan"))
        self.assertNotIn("assumed-rates", codes(job_with([camera(1, rate_control="CBR", cap_mbps=2)])))
        working = working_of(FigureRef("rate", "cam-1"), assess(job_with([camera(1, rate_control="CBR", cap_mbps=2)])))
        self.assertEqual([line.origin for line in working.lines], ["plan", "assumed"])

    def test_a_measured_rate_stands_whatever_the_mode(self):
        self.assertEqual(self.figures(rate_control="CBR", cap_mbps=2, measured_mbps=5).rate_mbps, 5)

    def test_more_than_the_cap_that_was_read_is_told(self):
        for fields, expected in (
            ({"rate_control": "capped VBR", "measured_mbps": 5.5}, True),
            ({"rate_control": "smart codec", "measured_mbps": 5.5}, True),
            ({"rate_control": "capped VBR", "measured_mbps": 4.1}, False),  # within what a buffer lets through
            ({"rate_control": "VBR", "measured_mbps": 5.5}, False),
            ({"rate_control": "capped VBR"}, False),
        ):
            with self.subTest(fields):
                self.assertEqual("cap-not-held" in codes(job_with([camera(1, cap_mbps=4, **fields)])), expected)
        read = camera(1, measured_mbps=5.5)
        self.assertNotIn("cap-not-held", codes(job_with([with_settings(read, {"rate_control": "CBR", "cap_mbps": 4})])))

    def test_quiet_scenes_save_and_busy_ones_do_not(self):
        quiet, busy = {"events_per_h": 0}, {"events_per_h": 5000, "event_s": 60}
        still, plain = self.figures(rate_control="smart codec", **quiet), self.figures(**quiet)
        self.assertLess(still.rate_mbps, 0.9 * plain.rate_mbps)
        self.assertAlmostEqual(
            self.figures(rate_control="smart codec", **busy).rate_mbps, self.figures(**busy).rate_mbps
        )
        self.assertGreater(plain.peak_mbps, plain.rate_mbps)
