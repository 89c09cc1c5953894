"""Power through a job: what feeds what, summed by hand; power supplies and batteries against the calculators."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.power import DRIVE_W, leads_outdoors, supply_run, ups_figures
from eager_lens.core.job.edits import set_fields, with_parts
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import Link, NetworkDevice, PowerUnit
from eager_lens.core.power.dc import DC_RUN
from eager_lens.core.power.ups import UPS_TIME, lead_acid_minutes
from eager_lens.core.present.working import FigureRef, working_of
from tests.support import camera, codes, finding_of, job_with, recorder, switch


def fed(*cameras, links=None, more=(), power_units=(), **fields):
    links = links or tuple(Link(id=f"l{n}", a=one.id, b="net-1", b_port=n) for n, one in enumerate(cameras, 1))
    network = (switch(1, **fields.pop("switch", {})), *more)
    return job_with(cameras, network=network, links=links, power_units=power_units, **fields)


def by_halving(supply_v, loop_ohm, power_w):
    """Watts out of the port, written apart from the program: the current at which source = device + I^2 R, by halving."""
    low, high = 0.0, supply_v / (2 * loop_ohm)
    for _ in range(80):
        middle = (low + high) / 2
        if supply_v * middle < power_w + loop_ohm * middle**2:
            low = middle
        else:
            high = middle
    return supply_v * low


def supplies(job):
    return assess(job).facts.topology.supplies


class Sums(unittest.TestCase):
    def test_an_injector_takes_its_camera_off_the_switch(self):
        job = fed(
            camera(1, poe_class=3, power_w=9),
            camera(2, poe_class=4, power_w=20),
            power_units=(PowerUnit(id="pow-1", name="I", kind="injector", poe_class=4, feeds=("cam-2",)),),
        )
        self.assertEqual(supplies(job), {"net-1": (1, 15.4, 9), "pow-1": (1, 30, 20)})

    def test_a_plug_in_supply_gives_what_its_cameras_draw(self):
        job = fed(
            camera(1, poe_class=None, power_w=9),
            camera(2, poe_class=None, power_w=6),
            power_units=(PowerUnit(id="pow-1", name="S", feeds=("cam-1", "cam-2")),),
        )
        self.assertEqual(supplies(job), {"pow-1": (2, 15, 15)})

    def test_an_injector_allocates_nothing_for_a_camera_without_a_class(self):
        injector = PowerUnit(id="pow-1", name="I", kind="injector", poe_class=4, feeds=("cam-1",))
        self.assertEqual(
            supplies(fed(camera(1, poe_class=None, power_w=9), power_units=(injector,))), {"pow-1": (1, 0, 9)}
        )

    def test_an_extender_passes_on_what_hangs_on_it_and_takes_its_own(self):
        """Camera 1 on an extender on an extender on the switch: 9 W and twice 2 W."""
        extender = {"role": "other", "ports": 2, "poe_ports": 1, "poe_class": 4, "power_w": 2.0, "budget_w": 25}
        more = tuple(NetworkDevice(id=f"net-{n}", name=f"E{n}", **extender) for n in (2, 3))
        links = (
            Link(id="a", a="cam-1", b="net-3"),
            Link(id="b", a="net-3", b="net-2"),
            Link(id="c", a="net-2", b="net-1"),
        )
        got = supplies(fed(camera(1, poe_class=3, power_w=9), links=links, more=more))
        self.assertEqual({key: value.draw_w for key, value in got.items()}, {"net-3": 9, "net-2": 11, "net-1": 13})
        self.assertEqual(got["net-1"].allocated_w, 30)

    def test_no_power_comes_over_radio_or_fibre(self):
        for medium in ("radio", "fibre"):
            job = fed(camera(1), links=(Link(id="l", a="cam-1", b="net-1", medium=medium),))
            self.assertEqual(supplies(job), {})

    def test_devices_that_would_feed_each_other_have_no_power(self):
        two = {"poe_class": 3, "power_w": 4.0, "poe_ports": 2}
        job = job_with(network=(switch(1, **two), switch(2, **two)), links=(Link(id="l", a="net-1", b="net-2"),))
        self.assertEqual(supplies(job), {})
        self.assertEqual(codes(job).count("uplink-dark"), 2)

    def test_what_cables_turn_into_warmth_comes_out_of_the_port_too(self):
        """16 cameras of 20 W, class 4, on 85 m of 24 AWG in the sun. By hand: 85 m x 0.0842 ohm/m x (1 + 0.00393 x 30) =
        8.00 ohm; 50 V x I = 20 W + 8.00 ohm x I^2 at I = 0.4296 A, 21.48 W each: 343.6 W, not 320."""
        outdoors = {"poe_class": 4, "power_w": 20, "cable_m": 85, "outdoor": True}
        job = fed(*(camera(n, **outdoors) for n in range(1, 17)), switch={"ports": 17, "poe_ports": 16})
        self.assertAlmostEqual(supplies(job)["net-1"].draw_w, 343.6, delta=0.1)
        indoors = fed(camera(1, poe_class=4, power_w=20, cable_m=85))
        self.assertAlmostEqual(supplies(indoors)["net-1"].draw_w, by_halving(50, 85 * 0.0842 * (1 + 0.00393 * 5), 20))

    def test_an_uplink_loses_its_part_as_well(self):
        extender = NetworkDevice(
            id="net-2", name="E", role="other", ports=2, poe_ports=1, poe_class=4, power_w=2.0, budget_w=25
        )
        links = (Link(id="a", a="cam-1", b="net-2"), Link(id="c", a="net-2", b="net-1", length_m=90))
        got = supplies(fed(camera(1, poe_class=3, power_w=9), links=links, more=(extender,)))
        self.assertAlmostEqual(got["net-1"].draw_w, by_halving(50, 90 * 0.0842 * (1 + 0.00393 * 5), 11))

    def test_an_edit_of_a_cable_moves_the_sums(self):
        before = assess(fed(camera(1, poe_class=4, power_w=20, cable_m=10)))
        after = assess(set_fields(["cam-1"], "Longer", cable_m=85).apply(before.job), before)
        self.assertGreater(after.facts.topology.supplies["net-1"].draw_w, 21)


class Allocation(unittest.TestCase):
    """Watts by class are judged apart from what is drawn."""

    def of(self, count, **more):
        cameras = [camera(n, poe_class=4, power_w=7) for n in range(1, count + 1)]
        return fed(*cameras, switch={"ports": 9, "poe_ports": 8, "budget_w": 60, **more.pop("switch", {})}, **more)

    def test_a_warning_does_not_vanish_when_more_is_drawn(self):
        for count in (3, 7, 8):
            with self.subTest(count):
                self.assertIn("allocated-over", codes(self.of(count)))
        self.assertIn("power-near", codes(self.of(8)))

    def test_it_is_silent_where_the_make_counts_what_is_drawn(self):
        for by_class, expected in ((False, False), (True, True)):
            profile = MakeProfile(make="Quillmark", budget_by_class=by_class)
            job = self.of(3, switch={"make": "Quillmark S8"}, make_profiles=(profile,))
            with self.subTest(by_class):
                self.assertEqual("allocated-over" in codes(job), expected)


class Dark(unittest.TestCase):
    def test_what_hangs_on_a_port_without_power_is_told_once_with_its_cameras(self):
        extender = NetworkDevice(
            id="net-2", name="Extender", role="other", ports=2, poe_ports=1, poe_class=4, power_w=2.0, budget_w=25
        )
        links = (Link(id="a", a="cam-1", b="net-2"), Link(id="c", a="net-2", b="net-1"))
        dark = fed(camera(1), links=links, more=(extender,), switch={"poe_ports": 0})
        found = finding_of(dark, "uplink-dark")
        self.assertEqual(found.subjects, ("net-2",))
        self.assertIn("Camera 1 with it", found.why)
        self.assertNotIn("uplink-dark", codes(fed(camera(1), links=links, more=(extender,))))
        injector = PowerUnit(id="pow-1", name="I", kind="injector", feeds=("net-2",))
        self.assertNotIn("uplink-dark", codes(with_parts(dark, power_units=(injector,))))


class Units(unittest.TestCase):
    def test_a_supplys_run_is_that_of_the_calculator(self):
        unit = PowerUnit(id="pow-1", name="S", output="12 V DC", length_m=15, area_mm2=0.75, feeds=("cam-1",))
        # Warm wires have the resistance of thinner ones: 25 °C indoors, 50 °C out in the sun.
        for outdoor, warm in ((False, 1 + 0.00393 * 5), (True, 1 + 0.00393 * 30)):
            run = supply_run(unit, 15.0, outdoor)
            out = DC_RUN.answer({"supply_v": 12, "power_w": 15, "length_m": 15, "area_mm2": 0.75 / warm})
            self.assertAlmostEqual(run.settled.device_v, out["device_v"])
            self.assertAlmostEqual(run.longest_m, out["longest_m"])

    def test_a_supply_of_an_outdoor_camera_has_warm_wires(self):
        unit = PowerUnit(id="pow-1", name="S", length_m=15, feeds=("cam-1",))
        for outdoor in (False, True):
            one = camera(1, outdoor=outdoor)
            self.assertEqual(leads_outdoors(unit, {"cam-1": one}), outdoor)

    def test_a_battery_carries_devices_and_what_they_feed(self):
        unit = PowerUnit(id="pow-1", name="U", kind="ups", battery_wh=430, feeds=("rec-1", "net-1", "gone"))
        job = fed(camera(1, power_w=9), camera(2, power_w=9), recorders=[recorder(own_w=30)], power_units=(unit,))
        facts = assess(job).facts
        got = ups_figures(unit, facts.by_device_id, facts.topology.supplies)
        self.assertAlmostEqual(got.load_w, 30 + DRIVE_W + 10 + 18 / 0.9)
        ideal = UPS_TIME.answer({"load_w": 67, "battery_wh": 430})["minutes"]
        self.assertAlmostEqual(got.minutes, lead_acid_minutes(67, 430, 0.85, 0.8))
        self.assertTrue(0.6 * ideal < got.minutes < ideal)

    def test_a_lead_acid_battery_gives_less_the_faster_it_is_emptied(self):
        self.assertAlmostEqual(lead_acid_minutes(480, 240, 0.85, 0.8), 12, delta=1)  # 20 by energy alone
        self.assertEqual(
            lead_acid_minutes(1, 240, 0.85, 0.8), UPS_TIME.answer({"load_w": 1, "battery_wh": 240})["minutes"]
        )

    def test_an_idle_battery_has_no_minutes(self):
        unit = PowerUnit(id="pow-1", name="U", kind="ups", battery_wh=430)
        self.assertEqual(ups_figures(unit, {}, {}), (0, None))

    def test_every_kind_of_unit_shows_its_working(self):
        for kind, words in (("ups", "minutes"), ("supply", "V at the camera"), ("injector", "W at night")):
            unit = PowerUnit(id="pow-1", name="U", kind=kind, battery_wh=430, length_m=5, feeds=("cam-1",))
            working = working_of(FigureRef("unit", "pow-1"), assess(fed(camera(1, power_w=9), power_units=(unit,))))
            with self.subTest(kind):
                self.assertIn(words, working.value)
                self.assertTrue(working.formula and working.source and working.lines)
        self.assertIsNone(working_of(FigureRef("unit", "gone"), assess(fed(camera(1)))))


if __name__ == "__main__":
    unittest.main()
