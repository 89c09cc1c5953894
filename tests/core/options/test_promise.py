"""What can be promised, from a whole job."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.devices import Joint
from eager_lens.core.assess.figures.rates import MEASURED_SPREAD
from eager_lens.core.job.model import Activity
from eager_lens.core.options.promise import promise, share_with
from eager_lens.core.reference.streams import stream_assumptions
from tests.support import camera, demo_job, job_with, recorder, week_of


class OfAJob(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.assessment = assess(demo_job())
        cls.got = promise(cls.assessment, "rec-1")

    def test_the_demo_keeps_less_than_asked_and_says_how_often_it_would(self):
        self.assertEqual(self.got.promised_days, self.assessment.recorder("rec-1").promised_days)
        self.assertLess(self.got.promised_days, self.got.mean_days)
        self.assertLess(self.got.mean_days, self.got.longest_days)
        self.assertTrue(0.3 < share_with(self.assessment, "rec-1", 31) < 0.8)
        self.assertAlmostEqual(share_with(self.assessment, "rec-1", self.got.promised_days), 0.95, delta=0.002)
        self.assertGreater(share_with(self.assessment, "rec-1", 0.1), 0.999)
        self.assertLess(share_with(self.assessment, "rec-1", 9999), 0.001)
        shares = [share for _, share in self.got.curve]
        self.assertEqual(shares, sorted(shares, reverse=True))
        self.assertGreater(shares[0] - shares[-1], 0.98)

    def test_the_reasons_are_shares_of_the_whole_and_name_what_stores_most(self):
        self.assertAlmostEqual(sum(reason.share for reason in self.got.reasons), 1)
        self.assertEqual(list(self.got.reasons), sorted(self.got.reasons, key=lambda reason: -reason.share))
        cameras = [reason.id for reason in self.got.reasons if reason.id.startswith("cam-")]
        self.assertEqual(set(cameras[:2]), {"cam-22", "cam-23"})

    def test_measuring_the_largest_camera_takes_it_out_of_the_reasons(self):
        job = demo_job()
        cameras = tuple(
            one.model_copy(
                update={
                    "measured_mbps": self.assessment.camera(one.id).rate_mbps,
                    "measured_when": "day and night",
                }
            )
            if one.id in ("cam-22", "cam-23")
            else one
            for one in job.cameras
        )
        after = promise(assess(job.model_copy(update={"cameras": cameras})), "rec-1")
        share = {reason.id: reason.share for reason in after.reasons}
        self.assertLess(
            share.get("cam-22", 0.0), 0.2 * next(r.share for r in self.got.reasons if r.id == "cam-22") + 0.05
        )
        self.assertGreater(after.promised_days, self.got.promised_days)

    def test_events_only_matter_where_movement_records(self):
        always = job_with([camera(1, measured_mbps=2)], activity=Activity(day_spread=1))
        steady = promise(assess(always), "rec-1")
        self.assertLess(next(r.share for r in steady.reasons if r.id == "days"), 1e-6)
        moving = job_with(
            [camera(1, measured_mbps=2, events_per_h=6)],
            recorders=[recorder(drive_tb=0.1)],
            schedules=(week_of("motion"),),
            activity=Activity(day_spread=1, busy_days=40, busy_factor=4),
        )
        uneven = promise(assess(moving), "rec-1")
        self.assertGreater(next(r.share for r in uneven.reasons if r.id == "days"), 0.2)

    def test_without_space_or_streams_there_is_none(self):
        self.assertIsNone(promise(assess(job_with([camera(1)], recorders=[recorder(drives=0)])), "rec-1"))
        self.assertIsNone(promise(assess(job_with([camera(1, registered=())])), "rec-1"))


class Ranges(unittest.TestCase):
    """The quick range of the sum of many cameras."""

    def joint(self, *cameras):
        joint, assessment = Joint(), assess(job_with(cameras))
        figures = [assessment.camera(one.id) for one in cameras]
        for one in figures:
            joint.add(one)
        return joint, figures

    def test_of_one_camera_is_its_own(self):
        joint, (one,) = self.joint(camera(1))
        low, high = joint.gb_range()
        self.assertAlmostEqual(low, one.gb_low_per_day)
        self.assertAlmostEqual(high, one.gb_high_per_day)
        self.assertAlmostEqual(joint.mbps_high(), one.load_mbps * one.high_mbps / one.rate_mbps)

    def test_of_four_alike_shrinks_to_what_they_share(self):
        joint, figures = self.joint(*(camera(n) for n in range(1, 5)))
        up = figures[0].gb_high_per_day - figures[0].gb_per_day
        shared = stream_assumptions().shared_share
        self.assertAlmostEqual(joint.gb_range()[1] - joint.gb_per_day, up * (16 * shared + 4 * (1 - shared)) ** 0.5)

    def test_measured_ones_share_nothing(self):
        joint, figures = self.joint(
            *(camera(n, measured_mbps=2, rate_control="VBR", cap_mbps=None) for n in range(1, 5))
        )
        up = figures[0].gb_per_day * (MEASURED_SPREAD[1] - 1)
        self.assertAlmostEqual(joint.gb_range()[1] - joint.gb_per_day, up * 2, delta=0.03 * up)
