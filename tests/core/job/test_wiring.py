"""Plugging devices in and out: which ports are taken, which are left, what is refused."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import remove_devices
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import Job, Link, NetworkDevice, Obstacle, RadioPlan
from eager_lens.core.job.wiring import (
    add_kind,
    add_unit,
    free_ports,
    ports_in_use,
    put_on,
    remove_kinds,
    remove_units,
    set_kind,
    set_link,
    set_unit,
    types_of,
    unplug,
    unplug_cameras,
)
from tests.support import camera, job_with, recorder, switch


def ends(job: Job):
    return [(link.a, link.a_port, link.b, link.b_port, link.medium) for link in job.links]


def plugged(job: Job, device_ids, on_id):
    return put_on(job, device_ids, on_id).apply(job)


class PutOn(unittest.TestCase):
    def setUp(self):
        self.job = job_with([camera(n) for n in range(1, 5)], network=(switch(ports=5), switch(2, ports=5)))

    def test_devices_take_the_next_free_ports_in_order(self):
        job = plugged(plugged(self.job, ["cam-1", "cam-2"], "net-1"), ["rec-1"], "net-1")
        self.assertEqual(
            ends(job),
            [
                ("cam-1", 1, "net-1", 1, "copper"),
                ("cam-2", 1, "net-1", 2, "copper"),
                ("rec-1", 1, "net-1", 3, "copper"),
            ],
        )
        self.assertEqual(free_ports(job.network[0], ports_in_use(job.links)), [4, 5])

    def test_a_camera_leaves_where_it_was_and_its_socket_is_free_again(self):
        job = plugged(plugged(self.job, ["cam-1", "cam-2"], "net-1"), ["cam-1"], "net-2")
        self.assertEqual([link.b for link in job.links if link.a == "cam-1"], ["net-2"])
        self.assertEqual(free_ports(job.network[0], ports_in_use(job.links)), [1, 3, 4, 5])
        self.assertEqual(ends(plugged(job, ["cam-3"], "net-1"))[-1], ("cam-3", 1, "net-1", 1, "copper"))

    def test_a_switch_keeps_its_other_links(self):
        job = plugged(plugged(self.job, ["cam-1"], "net-2"), ["net-2"], "net-1")
        self.assertEqual(len(job.links), 2)
        self.assertEqual(len(plugged(job, ["net-2"], "net-1").links), 2)

    def test_bridges_are_joined_by_radio_and_need_no_socket(self):
        bridges = tuple(NetworkDevice(id=f"net-{n}", name=f"Bridge {n}", role="bridge", ports=1) for n in (1, 2))
        job = plugged(job_with([camera(1)], network=bridges), ["net-2"], "net-1")
        self.assertEqual(ends(job), [("net-2", 0, "net-1", 0, "radio")])
        self.assertEqual(free_ports(job.network[0], ports_in_use(job.links)), [1])

    def test_a_link_without_a_number_takes_a_socket_all_the_same(self):
        job = self.job.model_copy(update={"links": (Link(id="link-1", a="cam-1", b="net-1"),)})
        self.assertEqual(free_ports(job.network[0], ports_in_use(job.links)), [1, 2, 3, 4])

    def test_too_few_sockets_nothing_chosen_and_devices_that_are_gone_are_refused(self):
        small = job_with([camera(n) for n in range(1, 4)], network=(switch(ports=2),))
        for devices, on, words in (
            (["cam-1", "cam-2", "cam-3"], "net-1", "2 free ports for 3 devices"),
            ([], "net-1", "select the devices"),
            (["net-1"], "net-1", "select the devices"),
            (["cam-1"], "net-9", "select the devices"),
        ):
            with self.subTest(words, devices=devices), self.assertRaises(RefusedInput) as caught:
                plugged(small, devices, on)
            self.assertIn(words, str(caught.exception))

    def test_a_full_switch_takes_back_its_own_cameras(self):
        small = plugged(job_with([camera(1), camera(2)], network=(switch(ports=2),)), ["cam-1", "cam-2"], "net-1")
        self.assertEqual(ends(plugged(small, ["cam-2"], "net-1"))[-1], ("cam-2", 1, "net-1", 2, "copper"))

    def test_uplinks_leave_the_powered_sockets_to_cameras(self):
        network = (switch(1), switch(2), NetworkDevice(id="net-9", name="Router", role="router", ports=3, wan_port=1))
        job = job_with([camera(1)], recorders=[recorder(ports=10, poe_ports=8)], network=network)
        job = plugged(plugged(plugged(job, ["rec-1"], "net-1"), ["cam-1"], "net-1"), ["net-2"], "net-9")
        self.assertEqual(
            ends(job),
            [
                ("rec-1", 9, "net-1", 9, "copper"),
                ("cam-1", 1, "net-1", 1, "copper"),
                ("net-2", 9, "net-9", 2, "copper"),
            ],
        )

    def test_a_device_that_has_a_way_is_moved_and_closes_no_loop(self):
        job = plugged(plugged(self.job, ["rec-1"], "net-1"), ["net-2"], "net-1")
        job = plugged(job, ["rec-1"], "net-2")
        self.assertEqual([(link.a, link.b) for link in job.links], [("net-2", "net-1"), ("rec-1", "net-2")])

    def test_a_wireless_camera_joins_an_access_point_by_radio(self):
        point = NetworkDevice(id="net-3", name="Point", role="bridge", ports=1, poe_ports=0, radio_end="access point")
        job = plugged(job_with([camera(1)], network=(point,)), ["cam-1"], "net-3")
        self.assertEqual(ends(job), [("cam-1", 0, "net-3", 0, "radio")])
        self.assertIsNotNone(job.links[0].radio)


class Units(unittest.TestCase):
    def setUp(self):
        job = job_with([camera(1), camera(2)])
        self.job = add_unit("supply", ["cam-1", "cam-2"], budget_w=36).apply(job)

    def test_a_unit_is_added_changed_and_taken_out(self):
        unit = self.job.power_units[0]
        self.assertEqual((unit.id, unit.name, unit.feeds), ("pow-1", "Power supply 1", ("cam-1", "cam-2")))
        job = set_unit(["pow-1"], "x", output="24 V AC").apply(self.job)
        self.assertEqual(job.power_units[0].output, "24 V AC")
        self.assertEqual(remove_units(["pow-1"]).apply(job).power_units, ())

    def test_a_device_that_goes_is_fed_no_more(self):
        self.assertEqual(remove_devices(["cam-1"], "x").apply(self.job).power_units[0].feeds, ("cam-2",))

    def test_an_id_belongs_to_one_device_or_unit(self):
        with self.assertRaises(RefusedInput):
            job_from_text(job_text(self.job).replace('"pow-1"', '"cam-1"'))

    def test_units_and_radio_plans_come_back_from_a_file(self):
        plan = RadioPlan(obstacles=(Obstacle(at_m=3, height_m=4),), security="wpa3")
        link = Link(id="l", a="cam-1", b="cam-2", medium="radio", radio=plan)
        job = self.job.model_copy(update={"links": (link,)})
        job = set_kind(job, "powered-8", "x", {"budget_w": 150.0}).apply(job)
        self.assertEqual(job_from_text(job_text(job)), job)


class Kinds(unittest.TestCase):
    def test_a_changed_kind_is_the_jobs_own_until_it_is_taken_out(self):
        job = set_kind(Job(), "powered-8", "x", {"budget_w": 150.0}).apply(Job())
        self.assertEqual((types_of(job)["powered-8"].budget_w, types_of(Job())["powered-8"].budget_w), (150, 120))
        self.assertEqual(types_of(remove_kinds(["powered-8"]).apply(job)), types_of(Job()))

    def test_a_new_kind_is_like_another(self):
        job = add_kind(types_of(Job())["router-4"], "Site router").apply(Job())
        self.assertEqual(
            (job.device_types[0].id, job.device_types[0].label, job.device_types[0].wan_port),
            ("kind-1", "Site router", 5),
        )

    def test_a_kind_that_is_not_there_or_a_wrong_value_is_refused(self):
        for kind_id, fields in (
            ("nothing", {}),
            ("powered-8", {"budget_w": -1.0}),
            ("powered-8", {"poe_port_class": 9}),
        ):
            with self.subTest(kind_id, fields=fields), self.assertRaises(RefusedInput):
                set_kind(Job(), kind_id, "x", fields)


class Changing(unittest.TestCase):
    def setUp(self):
        job = job_with([camera(1), camera(2)], recorders=[recorder()], network=(switch(),))
        self.job = plugged(job, ["cam-1", "cam-2", "rec-1"], "net-1")

    def test_unplug_and_set_change_only_what_they_name(self):
        job = set_link(["link-2"], "x", medium="fibre", length_m=300).apply(self.job)
        self.assertEqual([link.medium for link in job.links], ["copper", "fibre", "copper"])
        job = unplug(["link-1"]).apply(job)
        self.assertEqual([link.id for link in job.links], ["link-2", "link-3"])

    def test_cameras_are_unplugged_whichever_end_they_are(self):
        job = self.job.model_copy(update={"links": (*self.job.links, Link(id="link-9", a="net-1", b="cam-1"))})
        self.assertEqual([link.id for link in unplug_cameras(["cam-1"]).apply(job).links], ["link-2", "link-3"])

    def test_a_link_of_no_speed_is_refused(self):
        with self.assertRaises(RefusedInput):
            set_link(["link-2"], "x", capacity_mbps=0).apply(self.job)

    def test_links_go_with_their_device(self):
        self.assertEqual(remove_devices(["net-1"], "x").apply(self.job).links, ())


if __name__ == "__main__":
    unittest.main()
