"""Power on the simulated site: start-up, the PoE port's check, budget and priority, lights, boxes."""

import unittest

from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import Link, PowerUnit
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.simulation.lights import lights_of, link_words, state_words
from tests.core.simulation.base import PLAIN, RECORDER, BenchCase, bench_job
from tests.support import switch


class Starting(BenchCase):
    def test_a_device_starts_in_the_time_of_its_make_and_not_before(self):
        self.site_with()
        self.do("power on", "rec-1")
        self.wait(99)
        self.assertEqual(self.unit("rec-1").phase, "starting")
        self.wait(2)
        self.assertEqual(self.unit("rec-1").phase, "running")

    def test_pulling_the_lead_and_putting_it_in_again_starts_anew(self):
        self.site_with()
        self.do("power on", "rec-1")
        self.wait(90)
        self.do("power off", "rec-1")
        self.do("power on", "rec-1")
        self.wait(50)
        self.assertEqual(self.unit("rec-1").phase, "starting", "the first start's end must not count for the second")
        self.wait(60)
        self.assertTrue(self.unit("rec-1").runs)

    def test_a_camera_is_dark_until_its_switch_runs(self):
        self.site_with()
        self.do("plug", "cam-1")
        self.assertEqual(self.unit("cam-1").phase, "off")
        self.do("power on", "net-1")
        self.assertEqual(self.unit("cam-1").phase, "off")
        self.wait(26)
        self.assertEqual(self.unit("cam-1").phase, "starting")

    def test_a_lead_of_its_own_is_no_way_to_feed_what_is_fed_over_its_cable(self):
        self.site_with()
        outcome = self.do("power on", "cam-1")
        self.assertFalse(outcome.done)
        self.assertIn("fed over its cable", outcome.words)

    def test_lights_tell_power_link_and_work_apart(self):
        self.powered()
        camera = self.unit("cam-1")
        self.assertEqual(lights_of(self.site, camera), ("dark", "dark", "dark"))
        self.do("plug", "cam-1")
        self.assertEqual(lights_of(self.site, camera), ("blinking", "lit", "dark"))
        self.assertEqual(state_words(self.site, camera), "starting")
        self.ready(1)
        self.assertEqual(state_words(self.site, camera), "ready")
        self.registered(1)
        self.assertEqual(lights_of(self.site, camera), ("lit", "lit", "blinking"))
        self.do("power off", "net-1")
        self.assertEqual(state_words(self.site, self.unit("rec-1")), "ready, no link")


class Links(BenchCase):
    def test_both_ends_agree_on_the_slower_speed(self):
        job = bench_job(cameras=2)
        slow = tuple(
            link.model_copy(update={"long_reach": True}) if link.id == "link-2" else link for link in job.links
        )
        self.powered(job=job.model_copy(update={"links": slow}))
        for n in (1, 2):
            self.do("plug", f"cam-{n}")
        said = {
            name: link_words(self.site, self.unit(name)).replace("\u2009", "")
            for name in ("cam-1", "cam-2", "rec-1", "net-1")
        }
        self.assertEqual(said["cam-1"], "link 100 Mb/s")
        self.assertEqual(said["cam-2"], "link 10 Mb/s")
        self.assertEqual(said["rec-1"], "link 1000 Mb/s")
        self.assertEqual(said["net-1"], "link 10 and 100 and 1000 Mb/s")
        self.do("unplug", "cam-1")
        self.assertEqual(link_words(self.site, self.unit("cam-1")), "")


class Ports(BenchCase):
    def setUp(self):
        self.fields = {}

    def lit(self):
        return [unit.id for unit in self.site.units.values() if unit.role == "camera" and unit.is_lit]

    def plug_all(self, **switch_fields):
        job = bench_job(network=(switch(**switch_fields),), links=tuple(bench_job().links[:3]), **self.fields)
        self.site_with(job)
        self.do("power on", "net-1")
        self.wait(100)
        for n in (3, 2, 1):
            self.do("plug", f"cam-{n}")
        self.wait(1)

    def test_an_exceeded_budget_drops_the_sockets_of_high_numbers(self):
        self.plug_all(budget_w=20)
        self.assertEqual(self.lit(), ["cam-1", "cam-2"])
        self.assertTrue(self.has_noted("ports of lower numbers come first (this one is 3)"))
        self.do("unplug", "cam-1")
        self.assertEqual(self.lit(), ["cam-2", "cam-3"], "what was set free goes to the next in line")

    def test_a_switch_that_sets_aside_by_class_feeds_fewer(self):
        self.fields = {"make_profiles": (PLAIN, MakeProfile(make="Sparling", budget_by_class=True))}
        self.plug_all(budget_w=32, make="Sparling S8")
        self.assertEqual(self.lit(), ["cam-1", "cam-2"], "two times 15.4 W of class 3; by draw all three would fit")

    def test_a_port_of_a_lower_class_gives_nothing(self):
        self.plug_all(poe_port_class=2)
        self.assertEqual(self.lit(), [])
        self.assertIn("asks for PoE class 3", self.unit("cam-1").feeding.why_dark)

    def test_more_than_its_class_allows_is_cut_off(self):
        self.fields = {"camera_fields": {2: {"power_w": 13.5}}}
        self.plug_all()
        self.assertEqual(self.lit(), ["cam-1", "cam-3"])
        self.assertIn("allows 12.95 W", self.unit("cam-2").feeding.why_dark)

    def test_too_few_volts_at_the_end_of_a_run(self):
        self.fields = {"camera_fields": {1: {"cable_m": 400, "cable_material": "cca", "power_w": 12.9}}}
        self.plug_all()
        self.assertEqual(self.lit(), ["cam-2", "cam-3"])
        self.assertIn("the voltage at the camera is too low", self.unit("cam-1").feeding.why_dark)

    def test_a_socket_without_power_checks_nothing_and_gives_nothing(self):
        self.plug_all(poe_ports=1)
        self.assertEqual(self.lit(), ["cam-1"])
        self.assertIn("no PoE port", self.unit("cam-2").feeding.why_dark)


class Supplies(BenchCase):
    def with_supply(self, **unit):
        supply = PowerUnit(id="pow-1", name="Supply", feeds=("cam-1",), **unit)
        self.site_with(bench_job(power_units=(supply,), camera_fields={1: {"poe_class": None}}))
        for unit_id in ("net-1", "pow-1", "cam-1"):
            self.do("power on", unit_id)
        return self.unit("cam-1")

    def test_a_plug_in_supply_of_the_right_volts_feeds(self):
        self.assertTrue(self.with_supply(output="12 V DC").is_lit)

    def test_one_voltage_does_not_stand_in_for_another(self):
        camera = self.with_supply(output="24 V DC")
        self.assertFalse(camera.is_lit)
        self.assertIn("none stands in for another", camera.feeding.why_dark)

    def test_an_injector_feeds_over_the_cable(self):
        injector = PowerUnit(id="pow-1", name="Injector", kind="injector", poe_class=3, feeds=("cam-1",))
        self.site_with(bench_job(power_units=(injector,)))
        self.do("power on", "pow-1")
        self.assertFalse(self.unit("cam-1").is_lit, "its lead to the camera is not plugged in yet")
        self.do("power on", "cam-1")
        self.assertTrue(self.unit("cam-1").is_lit)


class Boxes(BenchCase):
    def in_box(self, ambient_c):
        self.powered(rehearsal=Rehearsal(ambient_c=ambient_c))
        self.do("box", "cam-1")
        self.do("plug", "cam-1")
        return self.unit("cam-1")

    def test_in_its_box_it_switches_itself_off_after_its_time_and_has_to_cool(self):
        camera = self.in_box(20)
        self.wait(599)
        self.assertTrue(camera.runs)
        self.wait(2)
        self.assertEqual(camera.phase, "off")
        self.assertTrue(self.has_noted("too hot in its box"))
        self.do("unplug", "cam-1")
        self.do("unbox", "cam-1")
        self.do("plug", "cam-1")
        self.assertFalse(camera.is_lit)
        self.assertIn("let it cool", camera.feeding.why_dark)
        self.wait(1201)
        self.assertTrue(camera.is_lit)

    def test_the_warmer_it_is_the_shorter(self):
        camera = self.in_box(32.5)
        self.wait(301)
        self.assertFalse(camera.is_lit)

    def test_a_make_that_may_not_run_in_its_box_says_so(self):
        self.powered(make_profiles=(PLAIN.model_copy(update={"in_box_min": 0}), RECORDER))
        self.assertIn("may not run in its box", self.do("box", "cam-1").words)

    def test_unpacked_it_runs_on(self):
        camera = self.in_box(20)
        self.do("unbox", "cam-1")
        self.wait(3600)
        self.assertTrue(camera.runs)


class Extender(BenchCase):
    def test_what_is_fed_over_a_cable_feeds_what_hangs_on_it_once_it_runs(self):
        extender = switch(3, role="other", ports=2, poe_ports=1, budget_w=25, poe_class=4, power_w=2, name="Extender")
        links = (
            Link(id="link-a", a="net-3", a_port=2, b="net-1", b_port=1),
            Link(id="link-1", a="cam-1", b="net-3", b_port=1),
        )
        self.site_with(bench_job(cameras=1, network=(switch(), extender), links=links))
        self.do("plug", "cam-1")
        self.do("power on", "net-1")
        self.wait(26)
        self.assertTrue(self.unit("net-3").is_lit)
        self.assertFalse(self.unit("cam-1").is_lit)
        self.wait(11)
        self.assertTrue(self.unit("cam-1").is_lit)


if __name__ == "__main__":
    unittest.main()
