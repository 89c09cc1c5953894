"""Loads, power and failures of wired jobs, against figures counted by hand."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.model import Link, NetworkDevice, Registration
from tests.support import camera, job_with, recorder, switch


def link(number, a, b, **fields):
    return Link(id=f"link-{number}", a=a, b=b, **fields)


def yard(**fields):
    """Three cameras of 4 Mb/s on a far switch, one of 6 on the near one, which the recorder hangs on."""
    cameras = [camera(n, measured_mbps=4, poe_class=2, power_w=5) for n in (1, 2, 3)]
    cameras.append(camera(4, measured_mbps=6, poe_class=3, power_w=9))
    links = (
        link(1, "cam-1", "net-2"),
        link(2, "cam-2", "net-2"),
        link(3, "cam-3", "net-2"),
        link(4, "cam-4", "net-1"),
        link(5, "net-2", "net-1"),
        link(6, "rec-1", "net-1"),
    )
    return job_with(cameras, **{"network": (switch(1), switch(2)), "links": links, **fields})


class Figures(unittest.TestCase):
    def of(self, job):
        return assess(job).facts.topology

    def test_loads_add_up_toward_the_recorder(self):
        loads = self.of(yard()).loads
        self.assertEqual(
            {key: load.worst_mbps for key, load in loads.items()},
            {
                "link-1": 4,
                "link-2": 4,
                "link-3": 4,
                "link-4": 6,
                "link-5": 12,
                "link-6": 18,
            },
        )
        self.assertEqual((loads["link-5"].forth_mbps, loads["link-5"].back_mbps), (12, 0))
        self.assertEqual((loads["link-6"].forth_mbps, loads["link-6"].back_mbps), (0, 18))

    def test_a_camera_on_two_recorders_counts_on_the_way_to_each(self):
        job = yard(recorders=[recorder(1), recorder(2)])
        both = tuple(Registration(recorder=f"rec-{n}", channel=1) for n in (1, 2))
        cameras = (job.cameras[0].model_copy(update={"registered": both}), *job.cameras[1:])
        job = job.model_copy(update={"cameras": cameras, "links": (*job.links, link(7, "rec-2", "net-1"))})
        loads = self.of(job).loads
        self.assertEqual([loads[f"link-{n}"].worst_mbps for n in (1, 5, 6, 7)], [8, 16, 18, 4])

    def test_capacity_is_the_slower_socket_unless_it_is_typed_in(self):
        job = yard(network=(switch(1), switch(2, port_mbps=2500)))
        self.assertEqual(self.of(job).wiring.capacity_mbps["link-1"], 100)
        self.assertEqual(self.of(job).wiring.capacity_mbps["link-5"], 1000)
        slow = tuple(a_link.model_copy(update={"capacity_mbps": 40.0}) for a_link in job.links)
        self.assertEqual(set(self.of(job.model_copy(update={"links": slow})).wiring.capacity_mbps.values()), {40.0})

    def test_power_is_summed_on_the_device_that_feeds_and_nowhere_else(self):
        """Class 2 sets 7 W aside, class 3 15.4 W (IEEE 802.3)."""
        supplies = self.of(yard()).supplies
        self.assertEqual(supplies["net-2"], (3, 21.0, 15.0))
        self.assertEqual(supplies["net-1"], (1, 15.4, 9.0))
        self.assertNotIn("rec-1", supplies)

    def test_cameras_without_a_way_and_cameras_not_plugged_in_are_told_apart(self):
        job = yard()
        links = tuple(a_link for a_link in job.links if a_link.id not in ("link-5", "link-4"))
        got = self.of(job.model_copy(update={"links": links}))
        self.assertEqual(got.cut_off, ("cam-1", "cam-2", "cam-3"))
        self.assertEqual(got.loose, ("cam-4",))

    def test_nothing_wired_says_nothing(self):
        job = yard(links=())
        got = self.of(job)
        self.assertEqual((dict(got.loads), got.supplies, got.cut_off, got.loose), ({}, {}, (), ()))
        self.assertEqual(assess(job).facts.stops, {})

    def test_links_that_lead_nowhere_break_nothing(self):
        job = yard()
        got = self.of(
            job.model_copy(update={"links": (*job.links, link(9, "cam-9", "net-9"), link(10, "net-1", "net-1"))})
        )
        self.assertNotIn("link-9", got.loads)
        self.assertEqual(got.loads["link-5"].worst_mbps, 12)


class Failures(unittest.TestCase):
    def test_each_part_stops_what_hangs_behind_it(self):
        stops = assess(yard()).facts.stops
        self.assertEqual(stops["net-2"], {"cam-1", "cam-2", "cam-3"})
        self.assertEqual(stops["link-5"], {"cam-1", "cam-2", "cam-3"})
        self.assertEqual(stops["link-4"], {"cam-4"})
        for part in ("net-1", "rec-1", "link-6"):
            self.assertEqual(stops[part], {"cam-1", "cam-2", "cam-3", "cam-4"}, part)

    def test_a_second_way_takes_the_switch_between_out(self):
        job = yard(network=(switch(1), switch(2), switch(3)))
        ways = (*job.links, link(7, "net-2", "net-3"), link(8, "net-3", "net-1"))
        stops = assess(job.model_copy(update={"links": ways})).facts.stops
        self.assertNotIn("link-5", stops)
        self.assertNotIn("net-3", stops)
        self.assertEqual(stops["net-2"], {"cam-1", "cam-2", "cam-3"})

    def test_the_pair_of_a_radio_link_stops_alike(self):
        job = yard(
            network=(switch(1), switch(2), *(NetworkDevice(id=f"net-{n}", name=f"B{n}", role="bridge") for n in (3, 4)))
        )
        others = tuple(a_link for a_link in job.links if a_link.id != "link-5")
        ways = (link(5, "net-2", "net-3"), link(7, "net-3", "net-4", medium="radio"), link(8, "net-4", "net-1"))
        stops = assess(job.model_copy(update={"links": (*others, *ways)})).facts.stops
        for part in ("net-3", "net-4", "link-7"):
            self.assertEqual(stops[part], {"cam-1", "cam-2", "cam-3"}, part)


if __name__ == "__main__":
    unittest.main()
