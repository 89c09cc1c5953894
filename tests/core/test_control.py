"""Rate control: what each mode does to mean, range and peak."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.measured import with_settings
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.sizing.control import QUIET_STRETCH, sent
from eager_lens.core.sizing.rate import StreamRate
from tests.support import camera, codes, job_with

RATE = StreamRate(4.0, 2.4, 7.2, key_part_mbps=1.0, other_part_mbps=3.0, day_mbps=2.0, night_mbps=6.0)


class Modes(unittest.TestCase):
    def test_constant_quality_sends_what_the_picture_asks_for(self):
        got = sent(RATE, "quality", 1.0, 0)
        self.assertEqual(got[:3], RATE[:3])
        self.assertAlmostEqual(got.peak_mbps, 6.0 * 1.8)

    def test_a_cap_takes_from_the_night_only_when_only_the_night_reaches_it(self):
        got = sent(RATE, "capped VBR", 3.0, 0)
        self.assertAlmostEqual(got.mean_mbps, (2.0 + 3.0) / 2)
        self.assertEqual((got.high_mbps, got.peak_mbps), (3.0, 3.0))
        self.assertLessEqual(got.low_mbps, got.mean_mbps)
        self.assertEqual(sent(RATE, "capped VBR", 50.0, 0)[:3], RATE[:3])

    def test_a_constant_rate_is_what_is_set_for_quiet_and_busy_scenes(self):
        got = sent(RATE, "CBR", 2.0, 0)
        self.assertEqual((got.mean_mbps, got.peak_mbps), (2.0, 2.0))
        self.assertLess(got.high_mbps, 2.1)

    def test_saving_when_quiet_stretches_key_frames_and_leaves_the_peak(self):
        quiet, busy = sent(RATE, "smart codec", None, 0.0), sent(RATE, "smart codec", None, 1.0)
        self.assertAlmostEqual(quiet.mean_mbps, 3.0 + 1.0 / QUIET_STRETCH)
        self.assertAlmostEqual(busy.mean_mbps, 4.0)
        self.assertEqual(quiet.peak_mbps, sent(RATE, "quality", None, 0).peak_mbps)

    def test_a_cap_holds_a_smart_codec_and_not_constant_quality(self):
        got = sent(RATE, "smart codec", 1.5, 0.0)
        left = (3.0 + 1.0 / QUIET_STRETCH) / 4.0  # 1.625 by day, 4.875 by night: both over the cap
        self.assertEqual((got.mean_mbps, got.high_mbps, got.peak_mbps), (1.5, 1.5, 1.5))
        got = sent(RATE, "smart codec", 3.0, 0.0)
        self.assertAlmostEqual(got.mean_mbps, (2.0 * left + 3.0) / 2)
        self.assertEqual(sent(RATE, "VBR", 0.5, 0), sent(RATE, "VBR", None, 0))

    def test_without_a_cap_the_picture_decides(self):
        for control in ("capped VBR", "CBR"):
            self.assertEqual(sent(RATE, control, None, 0), sent(RATE, "quality", None, 0))


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
