"""Headlines say what is so: no success is claimed for what is not there yet."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.chain import recorder_told
from eager_lens.core.job.edits import with_parts
from eager_lens.core.job.model import Link, NetworkDevice, Registration, changed
from eager_lens.core.present.parts import parts_list
from eager_lens.core.present.stages import verdict_of
from eager_lens.core.present.working import FigureRef, working_of
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
        self.assertTrue(verdict_of("wiring", site(21)).sentence.startswith("Every device has power"))

    def test_cameras_that_nothing_feeds_are_counted(self):
        job = site(21).job
        dark = tuple(changed(one, poe_class=None) if one.id in ("cam-1", "cam-2") else one for one in job.cameras)
        self.assertEqual(
            verdict_of("wiring", assess(with_parts(job, cameras=dark))).sentence,
            "2 of 21 cameras have no power source yet",
        )


class WorstTruth(unittest.TestCase):
    """Headlines that said less than the worst of their page."""

    def test_a_switch_over_its_budget_comes_before_single_runs(self):
        job = site(21).job
        small = tuple(changed(one, budget_w=60) if one.id == "net-1" else one for one in job.network)
        weak = tuple(changed(one, poe_class=1, power_w=12) if one.id == "cam-1" else one for one in job.cameras)
        verdict = verdict_of("wiring", assess(with_parts(job, network=small, cameras=weak)))
        self.assertRegex(verdict.sentence, r": \d+ of 60 W at night")
        self.assertRegex(verdict.facts, r"^\d+ faults in all\.")

    def test_cameras_without_a_recorder_are_not_all_well(self):
        job = job_with([camera(n, cable_m=20, registered=()) for n in range(1, 23)], recorders=())
        self.assertEqual(verdict_of("wiring", assess(job)).sentence, "22 cameras and no recorder yet")

    def test_a_switch_whose_cameras_are_not_recorded_yet(self):
        job = site(6, total=6).job
        loose = with_parts(job, cameras=tuple(changed(one, registered=()) for one in job.cameras))
        working = working_of(FigureRef("stops", "net-1"), assess(loose))
        self.assertEqual(working.value, "no camera stops recording")
        self.assertIn("6 cameras on it stop, and are not recorded", " ".join(line.value for line in working.lines))


class Parts(unittest.TestCase):
    def test_what_was_typed_is_what_is_ordered(self):
        """A switch of a known kind whose budget was typed as 60 W was ordered with the kind's 120."""
        for budget_w, words in ((120, "8-port PoE switch, 120 W, two uplinks"), (60, "8 PoE ports to class 4, 60 W")):
            switch = NetworkDevice(
                id="net-1", name="S", device_type="powered-8", ports=10, poe_ports=8, budget_w=budget_w
            )
            parts = parts_list(assess(job_with([camera(1)], network=(switch,))).facts)
            self.assertTrue(any(words in part.what for part in parts), [part.what for part in parts])


class Told(unittest.TestCase):
    def test_motion_names_the_recorder_that_its_events_go_to(self):
        places = (Registration(recorder="rec-1", channel=1), Registration(recorder="rec-2", channel=1))
        both = [recorder(1, address="172.22.40.20"), recorder(2, address="172.22.40.21")]
        for target, told in (("", "rec-1"), ("172.22.40.21", "rec-2"), ("172.22.40.99", "rec-1")):
            job = job_with([camera(1, registered=places, event_target=target)], both)
            self.assertEqual(recorder_told(assess(job).facts, job.cameras[0]).id, told)


class AllIsWell(unittest.TestCase):
    def test_a_headline_that_says_so_gives_way_to_a_fault_and_tells_warnings(self):
        job = job_with([camera(n) for n in (1, 2)], recorders=[recorder(codecs=("h264",))])
        sent = with_parts(job, cameras=tuple(changed(one, codec="h265") for one in job.cameras))
        self.assertIn("cannot record H.265", verdict_of("bench", assess(sent)).sentence)
        near = job_with([camera(n, measured_mbps=2.2) for n in (1, 2)], recorders=[recorder(incoming_limit_mbps=5)])
        self.assertEqual(verdict_of("bench", assess(near)).sentence, "All 2 cameras are registered; 1 warning")

    def test_the_days_are_answered_whatever_else_is_wrong(self):
        job = job_with([camera(1, purpose="identify", target_m=40)])
        self.assertIn("can be promised", verdict_of("sizing", assess(job)).sentence)

    def test_the_handover_says_what_is_left(self):
        job = job_with([camera(1, registered=())])
        self.assertEqual(verdict_of("handover", assess(job)).sentence, "1 to-do left in the plan")
        planned = verdict_of("handover", assess(job_with([camera(1)]))).sentence
        self.assertIn("The plan is complete; 17 of 17 tests still to be done", planned)


if __name__ == "__main__":
    unittest.main()
