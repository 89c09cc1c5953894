"""The site that is to run: set up as planned, what the plan makes impossible, and every fault."""

import unittest

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.simulation.clocks import error_s
from eager_lens.core.virtual_site.commissioned import commissioned
from eager_lens.core.virtual_site.faults import FAULTS, NETWORK_SHOWS, inject_by_name
from eager_lens.core.virtual_site.stand_in import described, stand_in_password
from tests.onsite.base import small_job
from tests.support import demo_job, lan


def described_of(job, *faults):
    site = commissioned(assess(job))
    inject_by_name(site, faults)
    return described(site, stand_in_password("word", {"cam-1": "its own"}))


def by_id(whole):
    return {one.id: one for one in whole.stand_ins}


class Described(unittest.TestCase):
    def test_the_demo_runs_but_for_what_its_plan_makes_impossible(self):
        whole = described_of(demo_job())
        self.assertEqual(set(whole.dark), {"cam-12", "cam-24", "cam-25"})
        held = [address_text(interface.address) for one in whole.stand_ins for interface in one.interfaces]
        self.assertEqual(held.count("172.22.40.55"), 2)  # the plan gives it twice
        macs = [interface.mac_address for one in whole.stand_ins for interface in one.interfaces]
        self.assertEqual(len(set(macs)), len(macs))  # a label that was copied does not make two alike
        self.assertEqual(len(whole.wires), 2)

    def test_streams_are_sent_as_planned(self):
        camera = by_id(described_of(small_job(1)))["cam-1"]
        main, sub = camera.streams
        self.assertEqual((main.codec, main.width_px, main.height_px, main.fps), ("h264", 320, 176, 10))
        self.assertAlmostEqual(main.rate_mbps, 0.4)
        self.assertEqual((sub.width_px, sub.height_px, sub.rate_mbps), (160, 88, 0.1))
        self.assertEqual(camera.password, "its own")
        self.assertNotIn("its own", repr(camera))

    def test_a_recorder_knows_its_channels_and_a_router_its_pool(self):
        whole = by_id(described_of(small_job(2)))
        self.assertEqual([one.password for one in whole["rec-1"].channels], ["its own", "word"])
        self.assertEqual(whole["rec-1"].event_port, 7500)
        self.assertEqual(address_text(whole["net-1"].pool[0]), "172.22.40.100")
        self.assertEqual(address_text(whole["cam-1"].time_server), "172.22.40.20")

    def test_a_router_reserves_in_its_own_subnet_only(self):
        second = lan("lan-2", "172.22.50.0/24", "172.22.50.1", "", "")
        reserved = {"address_assignment": "DHCP reservation"}
        more = [reserved, {**reserved, "subnet": "lan-2", "address": "172.22.50.40"}]
        router = by_id(described_of(small_job(2, more, subnets=(lan(), second))))["net-1"]
        self.assertEqual(
            {mac: address_text(one) for mac, one in router.reserved.items()}, {"02:5b:1e:00:01:01": "172.22.40.40"}
        )

    def test_subnets_on_the_same_switches_are_wires_of_their_own(self):
        second = lan("lan-2", "172.22.50.0/24", "172.22.50.1", "", "")
        more = [{}, {"subnet": "lan-2", "address": "172.22.50.40"}]
        whole = described_of(small_job(2, more, subnets=(lan(), second)))
        wires = {one.id: [interface.wire for interface in one.interfaces] for one in whole.stand_ins}
        self.assertNotEqual(wires["cam-1"], wires["cam-2"])
        self.assertEqual(set(wires["net-1"]), {*wires["cam-1"], *wires["cam-2"]})  # the router is in both
        self.assertEqual(sorted(len(one) for one in whole.wires.values()), [1, 1])


DARK_AT = {"unplugged": "cam-2", "broken": "cam-2", "port-off": "cam-2", "budget": "cam-2", "switch-off": "cam-3"}
DARK_AT["recorder-off"] = "rec-1"
DARK = set(DARK_AT)


class Faults(unittest.TestCase):
    def faulty(self, name):
        whole = described_of(small_job(3), f"{name}=Camera 2")
        return whole, by_id(whole).get("cam-2")

    def test_every_fault_changes_what_it_is_about(self):
        right = by_id(described_of(small_job(3)))["cam-2"]
        changed = {
            "twin": lambda one: address_text(one.interfaces[0].address) == "172.22.40.40",
            "out-of-box": lambda one: not one.is_set_up and address_text(one.interfaces[0].address) == "172.30.0.50",
            "wrong-subnet": lambda one: address_text(one.interfaces[0].address) == "172.22.41.41",
            "wrong-password": lambda one: one.password != right.password,
            "default-password": lambda one: one.password == "default",
            "protocol-off": lambda one: not one.open_on,
            "slow-start": lambda one: one.ready_after_s == 20,
            "other-settings": lambda one: one.streams[0].fps == 2 * right.streams[0].fps,
            "clock-hour": lambda one: one.clock_offset_s == 3600 and not one.time_server,
            "clock-drift": lambda one: one.drift_ppm == 4000,
            "clock-days": lambda one: one.clock_offset_s == -200 * 86_400,
            "event-target": lambda one: one.event_target != right.event_target,
            "loose-answers": lambda one: one.is_loose,
            "tls-only": lambda one: one.tls_only,
            "wants-both": lambda one: one.wants_both,
            "refuses": lambda one: one.refuses == ("encoder",),
            "slow": lambda one: one.restart_s == 10 * right.restart_s,
            "rule-off": lambda one: one.rule == "off",
            "time-zone": lambda one: one.time_zone != right.time_zone,
            "slow-link": lambda one: one.interfaces[0].link_mbps == 10,
        }
        for name, holds in changed.items():
            with self.subTest(name):
                _, one = self.faulty(name)
                self.assertTrue(holds(one))
                self.assertFalse(holds(right))
        others = {
            "frozen-lease",
            "address-taken",
            "supply-off",
            "recorder-clock",
            "events-off",
            "old-entry",
            "uplink-out",
        }
        self.assertEqual(set(changed) | others | DARK | {"other-vlan", "cap-not-set"}, set(NETWORK_SHOWS))
        self.assertIn("loop", FAULTS.keys() - NETWORK_SHOWS.keys())

    def test_a_frozen_lease_is_a_second_device(self):
        whole, one = self.faulty("frozen-lease")
        phone = by_id(whole)["stranger-cam-2"]
        self.assertEqual(phone.interfaces[0].address, one.interfaces[0].address)
        self.assertEqual(phone.interfaces[0].wire, one.interfaces[0].wire)
        self.assertNotEqual(phone.interfaces[0].mac_address, one.interfaces[0].mac_address)

    def test_a_camera_without_power_is_dark(self):
        for name, device in DARK_AT.items():
            with self.subTest(name):
                whole, _ = self.faulty(name)
                self.assertIn(device, whole.dark)
                self.assertNotIn(device, by_id(whole))

    def test_what_is_set_at_the_recorder(self):
        right = by_id(described_of(small_job(3)))["rec-1"]
        for name, holds in (
            ("old-entry", lambda one: one.channels[1].address != right.channels[1].address),
            ("events-off", lambda one: one.event_port == 0 != right.event_port),
            ("recorder-clock", lambda one: one.clock_offset_s == -37 * 60),
        ):
            with self.subTest(name):
                whole, _ = self.faulty(name)
                self.assertTrue(holds(by_id(whole)["rec-1"]))

    def test_a_port_in_another_vlan_is_a_wire_of_its_own(self):
        whole, one = self.faulty("other-vlan")
        self.assertNotEqual(one.interfaces[0].wire, by_id(whole)["cam-1"].interfaces[0].wire)

    def test_names_that_do_not_fit_are_refused(self):
        site = commissioned(assess(small_job(12)))
        for text, words in (
            ("nothing=Camera 1", "is no fault; there are twin"),
            ("twin=Camera 99", "no device"),
            ("twin=Camera", "write its whole name"),
            ("twin", "no device"),
        ):
            with self.subTest(text), self.assertRaisesRegex(RefusedInput, words):
                inject_by_name(site, [text])
        self.assertEqual(len(inject_by_name(site, ["twin=Camera 1", "clock-hour=cam-12"])), 2)

    def test_the_simulation_sees_the_same_fault(self):
        site = commissioned(assess(small_job(2)))
        inject_by_name(site, ["clock-hour=Camera 2"])
        self.assertEqual(error_s(site, site.units["cam-2"]), 3600)
