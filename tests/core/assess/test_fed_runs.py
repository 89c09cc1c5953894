"""Runs through devices that are fed over their cable: reckoned as one, against a solution by hand; their findings."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import Link, NetworkDevice
from eager_lens.core.power.poe import warm_factor
from eager_lens.core.reference.device_types import device_types
from tests.support import camera, codes, finding_of, job_with, switch


def through_extender(first_m, last_m, power_w, poe_class=4, **fields):
    """A camera behind an extender; the run to the extender first, then the one to the camera."""
    extender = NetworkDevice(
        id="net-2", name="Extender", **{**device_types()["extender"].fits(), "poe_port_class": 4, **fields}
    )
    links = (
        Link(id="link-1", a="net-2", a_port=2, b="net-1", b_port=1, length_m=first_m),
        Link(id="link-2", a="cam-1", b="net-2", b_port=1),
        Link(id="link-3", a="rec-1", b="net-1", b_port=10),
    )
    one = camera(1, poe_class=poe_class, power_w=power_w, cable_m=last_m)
    return job_with([one], network=(switch(1), extender), links=links)


def by_turns(supply_v, first_ohm, own_w, last_ohm, power_w):
    """Written apart from the program: volts at the extender and at the camera, found from the far end back by halving on the
    voltage of the camera, whose current is P / V."""

    def supply_for(camera_v):
        camera_a = power_w / camera_v
        middle_v = camera_v + camera_a * last_ohm
        return middle_v + (camera_a + own_w / middle_v) * first_ohm, middle_v

    low, high = supply_v / 2, supply_v
    for _ in range(100):
        half = (low + high) / 2
        low, high = (half, high) if supply_for(half)[0] < supply_v else (low, half)
    return supply_for(low)[1], low


class Chain(unittest.TestCase):
    def test_what_arrives_is_the_solution_of_both_halves_together(self):
        ohm_per_m = 0.0842 * warm_factor(25)
        for first_m, last_m, power_w in ((70, 70, 6), (75, 75, 12), (40, 90, 20)):
            with self.subTest((first_m, last_m, power_w)):
                facts = assess(through_extender(first_m, last_m, power_w)).facts
                middle_v, camera_v = by_turns(50, first_m * ohm_per_m, 2, last_m * ohm_per_m, power_w)
                run = facts.topology.fed_runs["net-2"]
                self.assertAlmostEqual(run.input_v, middle_v, 4)
                self.assertAlmostEqual(facts.run_of(facts.find_camera("cam-1")).device_v, camera_v, 4)
                taken_w = 50 * (50 - middle_v) / (first_m * ohm_per_m)
                self.assertAlmostEqual(run.at_port_w, taken_w, 3)
                self.assertAlmostEqual(facts.topology.supplies["net-1"].draw_w, taken_w, 3)

    def test_the_own_draw_and_all_that_it_passes_on_must_go_through_its_input(self):
        found = finding_of(through_extender(75, 75, 25), "draw-over-class")
        self.assertEqual(found.subjects, ("net-2",))
        self.assertRegex(found.title, r"Extender draws 2[89][\d.]* W; PoE class 4 gives 25.5 W")

    def test_a_camera_behind_it_gets_what_it_passes_on(self):
        job = through_extender(90, 90, 20)
        found = finding_of(job, "weak-run")
        self.assertEqual(found.subjects, ("cam-1",))
        self.assertIn("that Extender passes on", found.why)
        self.assertNotIn("weak-run", codes(set_fields(["cam-1"], "", power_w=8.0).apply(job)))

    def test_too_little_at_the_device_itself_is_its_own_finding(self):
        bridge = NetworkDevice(id="net-2", name="Bridge", role="bridge", ports=1, poe_class=4, power_w=25)
        run = {"length_m": 100, "awg": 26, "outdoor": True, "surge_protected": True}
        links = (Link(id="link-1", a="net-2", a_port=1, b="net-1", b_port=1, **run),)
        job = job_with([camera(1)], network=(switch(1), bridge), links=links)
        self.assertEqual(finding_of(job, "weak-run").subjects, ("net-2",))

    def test_a_chain_that_cannot_carry_it_gives_nothing_behind(self):
        job = through_extender(3000, 50, 12)
        facts = assess(job).facts
        self.assertIsNone(facts.topology.fed_runs["net-2"].input_v)
        self.assertIn("no stable voltage", finding_of(job, "weak-run").title)

    def test_a_job_without_such_devices_has_none(self):
        self.assertEqual(assess(job_with([camera(1, poe_class=3)])).facts.topology.fed_runs, {})


if __name__ == "__main__":
    unittest.main()
