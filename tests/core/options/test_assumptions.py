"""The list of all that is assumed, and its shares in the spread of days kept."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import set_assumed
from eager_lens.core.job.model import EMPTY_JOB
from eager_lens.core.options.assumptions import assumptions, decisive
from eager_lens.core.options.promise import promise, shares_by_source
from tests.support import camera, demo_job, job_with, recorder, week_of


def shares(cameras):
    job = job_with(cameras, recorders=[recorder(1)], schedules=(week_of(),))
    return shares_by_source(assess(job), "rec-1")


class Shares(unittest.TestCase):
    def test_they_come_to_one_and_are_the_cameras_spread_by_other_names(self):
        assessed = assess(demo_job())
        for recorder_id in ("rec-1", "rec-2"):
            by_source = shares_by_source(assessed, recorder_id)
            self.assertAlmostEqual(sum(by_source.values()), 1)
            reasons = {reason.id: reason.share for reason in promise(assessed, recorder_id).reasons}
            self.assertAlmostEqual(sum(reasons.values()), 1)
            self.assertAlmostEqual(by_source["days"], reasons["days"])

    def test_what_was_measured_leaves_the_spread_to_itself_and_the_days(self):
        measured = shares([camera(1, measured_mbps=2, measured_when="day and night", rate_control="VBR")])
        self.assertEqual(measured["motion"], 0)
        self.assertEqual(set(measured), {"read", "motion", "days"})
        drawn = shares([camera(1, measured_mbps=None, codec="mjpeg", rate_control="VBR")])
        self.assertNotIn("h265", drawn)
        self.assertNotIn("encoder", drawn)

    def test_noise_counts_more_in_the_dark(self):
        lit, dark = (
            shares([camera(1, measured_mbps=None, scene=scene, rate_control="VBR", cap_mbps=None)])
            for scene in ("corridor-lit", "corridor-dark")
        )
        self.assertGreater(dark["noise"], 2 * lit["noise"])


class Listed(unittest.TestCase):
    def test_each_has_a_default_and_says_where_it_comes_from(self):
        for job in (demo_job(), EMPTY_JOB, job_with([camera(1)])):
            found = decisive(assess(job))
            self.assertEqual(len({one.id for one in found}), len(found))
            self.assertTrue(all(one.usual and one.why and one.value for one in found))

    def test_topics_are_those_of_the_job(self):
        topics = {one.topic for one in decisive(assess(demo_job()))}
        self.assertIn("Drives of Car hall recorder", topics)
        self.assertTrue(any(topic.startswith("DHCP pool of") for topic in topics))
        self.assertEqual({one.topic for one in assumptions(assess(EMPTY_JOB), None)}, {"Bit rates", "Days", "Power"})

    def test_a_value_of_the_jobs_own_stands_beside_the_default(self):
        job = set_assumed("More noise", noise_kept_share=0.7).apply(demo_job())
        noise = next(one for one in decisive(assess(job)) if one.id == "noise")
        self.assertEqual((noise.value, noise.usual, noise.span), ("70 %", "35 %", "25 to 50 %"))


if __name__ == "__main__":
    unittest.main()
