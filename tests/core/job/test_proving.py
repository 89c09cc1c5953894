"""Edits of what is proved: failures stay on record, snags follow them, lists and readings are kept."""

import unittest
from functools import partial

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job import proving
from eager_lens.core.job.proof import Check, FillReading, MountingStep
from eager_lens.core.job.rehearsal import Tick
from tests.support import camera, job_with


def check(outcome, value="", check="motion", device="cam-1", at="2026-11-20T10:00:00"):
    return Check(device=device, check=check, outcome=outcome, value=value, by="WA", at=at)


class JobCase(unittest.TestCase):
    def setUp(self):
        self.job = job_with([camera(1), camera(2)])

    def after(self, *edits):
        job = self.job
        for edit in edits:
            job = edit.apply(job)
        return job


class Checks(JobCase):
    def test_a_failure_opens_a_snag_and_a_pass_closes_it(self):
        job = self.after(proving.record_checks([check("failed", "2 of 5")]))
        (snag,) = job.snags
        self.assertEqual((snag.device, snag.text, snag.state), ("cam-1", "Walk test failed: 2 of 5", "open"))
        again = proving.record_checks([check("failed", "3 of 5")]).apply(job)
        self.assertEqual(len(again.snags), 1, "one snag for one test, however often it fails")
        passed = proving.record_checks([check("passed", "5 of 5")]).apply(again)
        self.assertEqual((passed.snags[0].state, passed.snags[0].outcome), ("put right", "Walk test passed: 5 of 5"))
        self.assertEqual([one.outcome for one in passed.checks], ["failed", "failed", "passed"])
        self.assertEqual(proving.latest_checks(passed)[("cam-1", "motion")].value, "5 of 5")
        failed = proving.record_checks([check("failed")]).apply(passed)
        self.assertEqual([snag.state for snag in failed.snags], ["put right", "open"])

    def test_failed_and_passed_in_one_step(self):
        job = self.after(proving.record_checks([check("failed"), check("passed")]))
        self.assertEqual([snag.state for snag in job.snags], ["put right"])

    def test_a_wrong_entry_is_withdrawn_and_stays_on_record(self):
        withdraw = partial(proving.withdraw_checks, by="WA", at="2026-11-20T12:00:00")
        job = self.after(proving.record_checks([check("failed"), check("passed", "5 of 5")]))
        self.assertEqual([snag.state for snag in job.snags], ["put right"])
        gone = withdraw([("cam-1", "motion")], "wrong camera").apply(job)
        self.assertEqual([one.counts for one in gone.checks], [True, False])
        self.assertEqual(gone.checks[1].withdrawn_why, "wrong camera")
        # The failure before it counts again, and its snag is open again.
        self.assertEqual(proving.latest_checks(gone)[("cam-1", "motion")].outcome, "failed")
        self.assertEqual([snag.state for snag in gone.snags], ["open"])
        both = withdraw([("cam-1", "motion")], "not made at all").apply(gone)
        self.assertEqual((len(both.checks), proving.latest_checks(both)), (2, {}))
        self.assertEqual([snag.state for snag in both.snags], ["put right"])
        self.assertIn("not made at all", both.snags[0].outcome)
        with self.assertRaisesRegex(RefusedInput, "no result to withdraw"):
            withdraw([("cam-1", "motion")], "again").apply(both)
        with self.assertRaisesRegex(RefusedInput, "enter (why|the reason)"):
            withdraw([("cam-1", "motion")], " ").apply(job)

    def test_a_photo_is_put_on_the_result_itself(self):
        made = check("passed")
        job = self.after(proving.record_checks([made]), proving.attach_photo(made, "ab" * 32))
        self.assertEqual(job.checks[0].photos, ("ab" * 32,))


class Snags(JobCase):
    def test_the_snag_of_a_failed_test_closes_by_a_pass_or_a_reason(self):
        job = self.after(proving.record_checks([check("failed")]))
        with self.assertRaisesRegex(RefusedInput, "repeat the test"):
            proving.close_snags(["snag-1"], "put right", "moved", "WA", "x").apply(job)
        with self.assertRaisesRegex(RefusedInput, "enter (why|the reason)"):
            proving.close_snags(["snag-1"], "accepted", " ", "WA", "x").apply(job)
        accepted = proving.close_snags(["snag-1"], "accepted", "hedge stays, Mrs Orr", "WA", "2026-11-21").apply(job)
        self.assertEqual((accepted.snags[0].state, accepted.snags[0].closed_at), ("accepted", "2026-11-21"))
        self.assertEqual(proving.reopen_snags(["snag-1"]).apply(accepted).snags[0].state, "open")
        with self.assertRaisesRegex(RefusedInput, "failed test"):
            proving.remove_snags(["snag-1"]).apply(job)

    def test_a_snag_that_somebody_typed(self):
        job = self.after(proving.open_snag("site", "gate does not lock", "WA", "2026-11-20", owner="locksmith"))
        job = proving.set_snags(["snag-1"], "Set", due="2026-12-01").apply(job)
        self.assertEqual((job.snags[0].owner, job.snags[0].due.isoformat()), ("locksmith", "2026-12-01"))
        done = proving.close_snags(["snag-1"], "put right", "", "WA", "x").apply(job)
        self.assertEqual(done.snags[0].state, "put right")
        self.assertEqual(proving.remove_snags(["snag-1"]).apply(job).snags, ())
        with self.assertRaises(RefusedInput):
            proving.open_snag("site", "", "WA", "x").apply(job)


class Lists(JobCase):
    def test_a_reading_of_the_same_moment_is_replaced(self):
        first = FillReading(recorder="rec-1", at="2026-11-20T10:00", used_tb=1)
        second = first.model_copy(update={"used_tb": 2})
        job = self.after(proving.add_fill_reading(first), proving.add_fill_reading(second))
        self.assertEqual(job.fill_readings, (second,))
        self.assertEqual(proving.remove_fill_reading("rec-1", first.at).apply(job).fill_readings, ())

    def test_mounting_ticks_take_the_place_of_earlier_ones(self):
        tick = Tick(step="cam-1/gland", by="WA")
        job = self.after(proving.tick_mounting([tick]), proving.tick_mounting([tick.model_copy(update={"by": "BF"})]))
        self.assertEqual([one.by for one in job.mounting], ["BF"])
        self.assertEqual(proving.untick_mounting(["cam-1/gland"]).apply(job).mounting, ())
        own = proving.set_mounting_list([MountingStep(id="a", stage="s", text="t")]).apply(job)
        self.assertEqual(len(own.mounting_list), 1)


if __name__ == "__main__":
    unittest.main()
