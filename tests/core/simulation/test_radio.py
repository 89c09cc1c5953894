"""Radio on the simulated site: bridges and wireless cameras."""

import unittest

from eager_lens.core.job.model import Link, NetworkDevice, RadioPlan
from eager_lens.core.simulation.air import signal_bars, trouble_of
from eager_lens.core.simulation.lights import link_words
from tests.core.simulation.base import BenchCase, bench_job, router
from tests.support import switch

NEAR = RadioPlan(tx_dbm=20)
FAR = RadioPlan(tx_dbm=2, tx_gain_dbi=2, rx_gain_dbi=2)


def bridge(number, end, **fields):
    base = {"id": f"net-{number}", "name": f"Bridge {number}", "role": "bridge", "ports": 1, "poe_ports": 0}
    return NetworkDevice(**{**base, "radio_end": end, "subnet": "lan-1", "address": f"172.22.40.{number}", **fields})


def bridged_job(plan=NEAR, length_m=300):
    """A camera on a far switch, which a pair of bridges joins with the near one."""
    network = (switch(1), router(), switch(2), bridge(5, "access point"), bridge(6, "client"))
    links = (
        Link(id="rec", a="rec-1", a_port=1, b="net-1", b_port=9),
        Link(id="near", a="net-5", a_port=1, b="net-1", b_port=8),
        Link(id="far", a="net-6", a_port=1, b="net-2", b_port=9),
        Link(id="air", a="net-6", b="net-5", medium="radio", radio=plan, length_m=length_m),
        Link(id="link-1", a="cam-1", b="net-2", b_port=1),
    )
    return bench_job(cameras=1, network=network, links=links)


class Bridges(BenchCase):
    def set_up(self, **client):
        self.site_with(bridged_job())
        for unit_id in ("rec-1", "net-1", "net-2", "net-5", "net-6"):
            self.do("power on", unit_id)
        self.wait(120)
        self.do("laptop address", address="172.30.0.2/24")
        self.do("laptop address", address="172.22.40.250/24")
        ends = {"net-5": ("net-1", {"end": "access point"}), "net-6": ("net-2", {"end": "client", **client})}
        for unit_id, (place, values) in ends.items():
            self.do("laptop to", place)
            self.do("set up", unit_id, new="own")
            outcome = self.do("radio", unit_id, **{"network": "Moor", "key": "k", **values})
            self.assertTrue(outcome.done, outcome.words)
        self.do("laptop to", "net-1")
        self.do("plug", "cam-1")
        self.wait(70)

    def heard(self):
        return "cam-1" in [one.id for one, _ in self.site.heard(self.site.laptop, self.site.laptop.sides[0])]

    def why(self):
        return trouble_of(self.site.cables["air"], self.site.units)

    def test_access_point_and_client_of_one_name_and_key_join(self):
        self.set_up()
        self.assertEqual(self.why(), "")
        self.assertTrue(self.heard())

    def test_its_status_is_told(self):
        self.set_up()
        self.assertRegex(link_words(self.site, self.unit("net-6")), r"link 1.000 Mb/s, radio joined, \d bars of 4")
        self.unit("net-6").antenna.key = "other"
        self.site.changed()
        self.assertIn("radio: the key is wrong", link_words(self.site, self.unit("net-6")))

    def test_two_clients_never_do(self):
        self.set_up()
        self.unit("net-5").antenna.end = "client"
        self.assertIn("one end must be the access point", self.why())

    def test_capitals_count_in_names_and_keys(self):
        self.set_up(network="moor")
        self.assertIn("capitals count", self.why())
        self.assertFalse(self.heard())
        self.set_up(key="K")
        self.assertIn("key is wrong", self.why())

    def test_out_of_the_box_nothing_joins(self):
        self.site_with(bridged_job())
        self.assertIn("not set", self.why())

    def test_obsolete_encryption_is_refused(self):
        self.set_up()
        for end in ("net-5", "net-6"):
            self.unit(end).antenna.plan = RadioPlan(security="wep")
        self.assertIn("WEP keeps nobody out", self.why())

    def test_bars_follow_the_link_budget(self):
        self.site_with(bridged_job(NEAR, 300))
        near = signal_bars(self.site.cables["air"], self.site.units)
        self.site_with(bridged_job(FAR, 2500))
        far = signal_bars(self.site.cables["air"], self.site.units)
        self.assertGreaterEqual(near, 3)
        self.assertLess(far, near)


class WirelessCamera(BenchCase):
    def wireless(self, spare_db=30.0, cabled=False):
        network = (switch(1), router(), bridge(5, "access point"))
        links = [
            Link(id="rec", a="rec-1", a_port=1, b="net-1", b_port=9),
            Link(id="near", a="net-5", a_port=1, b="net-1", b_port=8),
            Link(id="air", a="cam-1", b="net-5", medium="radio", radio=NEAR, length_m=50),
        ]
        if cabled:
            links.append(Link(id="link-1", a="cam-1", a_port=1, b="net-1", b_port=1))
        self.powered(cameras=1, network=network, links=tuple(links), camera_fields={1: {"poe_class": None}})
        self.do("power on", "net-5")
        self.do("power on", "cam-1")
        self.wait(80)
        for unit_id, end in (("net-5", "access point"), ("cam-1", "client")):
            antenna = self.unit(unit_id).antenna
            antenna.end, antenna.network, antenna.key, antenna.spare_db = end, "Moor", "k", spare_db
        self.site.changed()
        self.site.settle()

    def registered_by_air(self):
        self.do("set up", "cam-1", new="own")
        self.do("address", "cam-1", address="172.22.40.40/24")
        return self.registered(1)

    def test_it_is_registered_over_the_air(self):
        self.wireless()
        self.assertEqual(self.registered_by_air().shown, "receiving")

    def test_one_bar_means_drop_outs(self):
        self.wireless(spare_db=2.0)
        entry = self.registered_by_air()
        self.assertEqual(entry.shown, "alternating")
        self.assertIn("one bar", entry.why)

    def test_no_signal_means_nothing(self):
        self.wireless(spare_db=-3.0)
        self.assertFalse(self.do("set up", "cam-1", new="own").done)

    def test_its_cable_wins_over_its_radio(self):
        self.wireless(spare_db=2.0, cabled=True)
        self.do("plug", "cam-1")
        entry = self.registered_by_air()
        self.assertEqual(entry.shown, "receiving", "over the cable; the weak radio is not tested so")
        self.do("unplug", "cam-1")
        self.wait(90)
        self.assertIn("one bar", entry.why)


if __name__ == "__main__":
    unittest.main()
