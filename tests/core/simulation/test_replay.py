"""A rehearsal as the job keeps it: done again, taken back, and with a job that has changed."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import remove_devices, set_fields, set_rehearsal
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.rehearsal import Rehearsal, SiteAction
from eager_lens.core.simulation.replay import replayed, replaying
from tests.core.simulation.base import bench_job


def actions():
    done = [
        SiteAction(at_s=0, do="power on", device="rec-1"),
        SiteAction(at_s=0, do="power on", device="net-1"),
        SiteAction(at_s=5, do="laptop address", device="laptop", values={"address": "172.29.0.2/24"}),
        SiteAction(at_s=30, do="plug", device="cam-1"),
        SiteAction(at_s=100, do="set up", device="cam-1", values={"new": "own"}),
    ]
    return Rehearsal(actions=tuple(done), now_s=150)


class Replays(unittest.TestCase):
    def test_through_the_file_and_back_it_is_the_same_site(self):
        job = set_rehearsal("Keep", actions()).apply(bench_job())
        again = job_from_text(job_text(job))
        self.assertEqual(again.rehearsal, job.rehearsal)
        one, other = (replayed(assess(each), each.rehearsal).site for each in (job, again))
        self.assertEqual(one.log_lines, other.log_lines)
        self.assertEqual(one.now_s, 150)
        self.assertTrue(other.units["cam-1"].access.is_set_up)

    def test_taken_back_to_a_moment_what_came_later_has_not_happened(self):
        kept = actions()
        back = kept.model_copy(update={"actions": kept.actions[:-1], "now_s": 95.0})
        site = replayed(assess(bench_job()), back).site
        self.assertFalse(site.units["cam-1"].access.is_set_up)
        self.assertEqual(site.now_s, 95)

    def test_devices_that_the_job_no_longer_has_are_passed_over_and_told(self):
        job = remove_devices(["cam-1"], "Remove").apply(bench_job())
        replay = replayed(assess(job), actions())
        self.assertEqual(len(replay.troubles), 2)
        self.assertIn("no device 'cam-1'", replay.troubles[0])
        self.assertTrue(replay.site.units["rec-1"].is_lit)

    def test_a_deed_of_a_later_program_is_passed_over_and_told(self):
        strange = Rehearsal(actions=(SiteAction(at_s=1, do="levitate", device="cam-1"),))
        self.assertIn("nothing that can be done here", replayed(assess(bench_job()), strange).troubles[0])

    def test_the_site_is_that_of_the_job_as_it_is_now(self):
        job = set_fields(["cam-1"], "Rename", name="Kiosk till").apply(bench_job())
        self.assertIn("Kiosk till", " ".join(line.words for line in replayed(assess(job), actions()).site.log_lines))

    def test_a_long_one_tells_how_far_it_is(self):
        clock = SiteAction(at_s=110, do="time", device="cam-1", values={"server": "172.22.40.20"})
        long = actions().model_copy(update={"actions": (*actions().actions, clock), "now_s": 60 * 86_400.0})
        shares = list(replaying(assess(bench_job()), long))
        self.assertGreater(len(shares), 2)
        self.assertEqual(shares, sorted(shares))

    def test_an_empty_job_has_a_site_too(self):
        site = replayed(assess(bench_job(cameras=0, recorders=[], network=(), links=())), Rehearsal(now_s=60)).site
        self.assertEqual(list(site.units), ["laptop"])


if __name__ == "__main__":
    unittest.main()
