"""Headlines say what is so: no success is claimed for what is not there yet."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import with_parts
from eager_lens.core.job.model import Link, changed
from eager_lens.core.present.stages import verdict_of
from tests.core.assess.test_power import fed
from tests.support import camera, job_with, recorder


def site(plugged, total=21):
    links = [Link(id=f"l{n}", a=f"cam-{n}", b="net-1", b_port=n) for n in range(1, plugged + 1)]
    links.append(Link(id="up", a="rec-1", b="net-1", b_port=24))
    switch = {"ports": 24, "poe_ports": 23, "budget_w": 370}
    cameras = [camera(n, power_w=5) for n in range(1, total + 1)]
    return assess(fed(*cameras, links=tuple(links), switch=switch, recorders=[recorder(channels=32)]))


class Wiring(unittest.TestCase):
    def test_cameras_that_are_not_connected_are_counted(self):
        self.assertEqual(verdict_of("wiring", site(6)).sentence, "15 of 21 cameras are not connected yet")

    def test_everything_is_fed_only_when_it_is(self):
        self.assertTrue(verdict_of("wiring", site(21)).sentence.startswith("Everything is fed"))

    def test_cameras_that_nothing_feeds_are_counted(self):
        job = site(21).job
        dark = tuple(changed(one, poe_class=None) if one.id in ("cam-1", "cam-2") else one for one in job.cameras)
        self.assertEqual(
            verdict_of("wiring", assess(with_parts(job, cameras=dark))).sentence, "Nothing feeds 2 of 21 cameras yet"
        )


class AllIsWell(unittest.TestCase):
    def test_a_headline_that_says_so_gives_way_to_a_fault_and_tells_warnings(self):
        job = job_with([camera(n) for n in (1, 2)], recorders=[recorder(codecs=("h264",))])
        sent = with_parts(job, cameras=tuple(changed(one, codec="h265") for one in job.cameras))
        self.assertIn("does not take H.265", verdict_of("bench", assess(sent)).sentence)
        near = job_with([camera(n, measured_mbps=2.2) for n in (1, 2)], recorders=[recorder(incoming_limit_mbps=5)])
        self.assertEqual(verdict_of("bench", assess(near)).sentence, "All 2 cameras are registered; 1 warning")

    def test_the_days_are_answered_whatever_else_is_wrong(self):
        job = job_with([camera(1, purpose="identify", target_m=40)])
        self.assertIn("can be promised", verdict_of("sizing", assess(job)).sentence)

    def test_the_handover_says_what_is_left(self):
        job = job_with([camera(1, registered=())])
        self.assertEqual(verdict_of("handover", assess(job)).sentence, "1 thing is still to be planned")
        planned = verdict_of("handover", assess(job_with([camera(1)]))).sentence
        self.assertIn("The plan is complete; 17 of 17 tests are still to be made", planned)


if __name__ == "__main__":
    unittest.main()
