"""What starts a recording on motion: events, false alarms by the kind of rule, and the doubt in both."""

import math
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.motion_events import covered_share, motion_events_of
from eager_lens.core.reference.false_alarms import RULE_CLASSES, false_alarms
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.rate_spread import ByMotion
from eager_lens.core.values.motion_rule import MotionRule, Zone
from tests.support import camera, codes, finding_of, job_with, recorder, week_of

PEOPLE = MotionRule(kinds=("person", "vehicle"))
TUNED = MotionRule(zones=(Zone(corners=((0.1, 0.1), (0.9, 0.1), (0.9, 0.9))),))
YARD = {"scene": "yard-dark", "events_per_h": 4, "events_from": ""}


def farm(**fields):
    return job_with(
        [camera(n, **YARD, **fields) for n in range(1, 4)], [recorder(drive_tb=1)], schedules=(week_of("motion"),)
    )


class Starts(unittest.TestCase):
    def test_a_rule_that_is_set_better_starts_less_for_nothing(self):
        for scene in stream_assumptions().scenes:
            per_h = [false_alarms(scene, rule).per_h for rule in RULE_CLASSES]
            self.assertEqual(per_h, sorted(per_h, reverse=True), scene)
        outdoors = false_alarms("yard-dark", "untuned").per_h
        self.assertTrue(50 < outdoors < 80, "some seventy an hour, as the trial has it")

    def test_the_kind_of_rule_is_that_of_the_camera_s(self):
        for rule, words in ((None, "untuned"), (MotionRule(), "untuned"), (TUNED, "tuned"), (PEOPLE, "detection")):
            starts = motion_events_of(camera(1, motion_rule=rule, **YARD))
            self.assertEqual(starts.false_per_h, false_alarms("yard-dark", words).per_h)
            self.assertEqual((starts.per_h, starts.times), (4 + starts.false_per_h, 3))

    def test_what_was_counted_or_tried_is_taken_as_it_is(self):
        starts = motion_events_of(camera(1, **{**YARD, "events_from": "tried in the yard"}))
        self.assertEqual((starts.per_h, starts.seconds, starts.false_per_h, starts.times), (4, 20, 0, 1))

    def test_the_covered_share_is_the_mean_over_what_it_may_be(self):
        self.assertAlmostEqual(covered_share(6, 40, 1.0), -math.expm1(-6 * 40 / 3600))
        low, middle, high = (-math.expm1(-times * 6 * 40 / 3600) for times in (1 / 3, 1, 3))
        self.assertTrue(low < middle < covered_share(6, 40, 3.0) < high)
        by_motion = ByMotion(0.4, 0.6 / middle, 6 * 40 / 3600, math.log(3) / 1.2816)
        self.assertAlmostEqual(by_motion.factor(0.0), 1.0)
        self.assertEqual(by_motion.moments()[0], 1.0)
        self.assertGreater(by_motion.moments()[1], 1.0)


class InTheJob(unittest.TestCase):
    def test_untuned_pixel_motion_outdoors_costs_most_of_the_days_and_says_so(self):
        untuned, told_apart = (assess(farm(motion_rule=rule)).recorder("rec-1") for rule in (None, PEOPLE))
        self.assertLess(untuned.mean_days, 0.4 * told_apart.mean_days)
        self.assertLess(untuned.promised_days, 0.4 * told_apart.promised_days)
        finding = finding_of(farm(), "untuned-motion")
        self.assertRegex(finding.why, r"about 65 to 65 times an hour\. \d+ % of the time is recorded")
        self.assertRegex(finding.why, r"Recorder 1 keeps \d+ days as expected; without them \d+\.")
        after = finding.fix.apply(farm())
        self.assertNotIn("untuned-motion", codes(after))
        self.assertEqual(after.cameras[0].motion_rule.kinds, ("person", "cyclist", "vehicle"))

    def test_continuous_recording_knows_no_false_alarms(self):
        job = job_with([camera(1, **YARD)])
        self.assertNotIn("untuned-motion", codes(job))
        got = assess(job).camera("cam-1")
        self.assertEqual(got.stored_low_h_per_day, got.stored_high_h_per_day)

    def test_the_range_of_what_is_stored_has_motion_in_it(self):
        counted, not_counted = (assess(farm(motion_rule=PEOPLE, **fields)).camera("cam-1") for fields in ({}, {}))
        self.assertLess(counted.stored_low_h_per_day, 0.5 * counted.stored_h_per_day)
        self.assertGreater(
            not_counted.gb_high_per_day / not_counted.gb_per_day, not_counted.high_mbps / not_counted.rate_mbps
        )


if __name__ == "__main__":
    unittest.main()
