"""Power through a job: what feeds what, summed by hand; power supplies and batteries against the calculators."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.power import supply_run, ups_figures
from eager_lens.core.job.model import Link, NetworkDevice, PowerUnit
from eager_lens.core.power.dc import DC_RUN
from eager_lens.core.power.ups import UPS_TIME
from eager_lens.core.present.working import FigureRef, working_of
from tests.support import camera, job_with, recorder, switch


def fed(*cameras, links=None, more=(), power_units=(), **fields):
    links = links or tuple(Link(id=f"l{n}", a=one.id, b="net-1", b_port=n) for n, one in enumerate(cameras, 1))
    return job_with(cameras, network=(switch(1), *more), links=links, power_units=power_units, **fields)


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

    def test_devices_that_feed_each_other_end(self):
        two = {"poe_class": 3, "power_w": 4.0, "poe_ports": 2}
        job = job_with(network=(switch(1, **two), switch(2, **two)), links=(Link(id="l", a="net-1", b="net-2"),))
        self.assertEqual(sum(one.draw_w for one in supplies(job).values()), 4)


class Units(unittest.TestCase):
    def test_a_supplys_run_is_that_of_the_calculator(self):
        unit = PowerUnit(id="pow-1", name="S", output="12 V DC", length_m=15, area_mm2=0.75, feeds=("cam-1",))
        run = supply_run(unit, 15.0)
        out = DC_RUN.answer({"supply_v": 12, "power_w": 15, "length_m": 15, "area_mm2": 0.75})
        self.assertAlmostEqual(run.settled.device_v, out["device_v"])
        self.assertAlmostEqual(run.longest_m, out["longest_m"])

    def test_a_battery_carries_devices_and_what_they_feed(self):
        unit = PowerUnit(id="pow-1", name="U", kind="ups", battery_wh=430, feeds=("rec-1", "net-1", "gone"))
        job = fed(camera(1, power_w=9), camera(2, power_w=9), recorders=[recorder(own_w=30)], power_units=(unit,))
        facts = assess(job).facts
        got = ups_figures(unit, facts.by_device_id, facts.topology.supplies)
        self.assertEqual(got.load_w, 30 + 10 + 18)
        self.assertAlmostEqual(got.minutes, UPS_TIME.answer({"load_w": 58, "battery_wh": 430})["minutes"])

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
