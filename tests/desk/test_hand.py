"""The hand at the rehearsal: what it offers first, and what it proposes to type."""

from eager_lens.core.simulation.actions import SITE_ACTIONS
from eager_lens.desk.pages.bench.rehearsal.actions_view import likely_actions, proposed
from tests.core.simulation.base import BenchCase, at_recorder, bench_job


class Hand(BenchCase):
    def offered(self, unit_id):
        return [kind.name for kind in likely_actions(self.site, self.unit(unit_id))]

    def value(self, action, unit_id, field):
        kind = SITE_ACTIONS[action]
        one = next(one for one in kind.fields if one.name == field)
        return proposed(self.site, self.unit(unit_id), kind, one)

    def test_what_a_state_asks_for_comes_first(self):
        self.site_with()
        self.assertEqual(self.offered("cam-1")[0], "plug")
        self.assertEqual(self.offered("rec-1")[0], "power on")
        self.assertEqual(self.offered("laptop")[0], "search")
        self.powered()
        self.assertEqual(self.offered("rec-1")[0], "add")
        self.do("plug", "cam-1")
        self.wait(65)
        self.assertEqual(self.offered("cam-1")[0], "set up")
        self.do("set up", "cam-1", new="own")
        self.assertEqual(self.offered("cam-1")[0], "address")
        self.do("address", "cam-1", address="172.22.40.40/24")
        self.assertEqual(self.offered("cam-1")[0], "time")

    def test_what_makes_no_sense_is_not_offered(self):
        self.site_with()
        self.assertNotIn("power on", self.offered("cam-1"), "it is fed over its cable")
        self.assertNotIn("radio", self.offered("cam-1"), "it has no radio")
        self.assertNotIn("add", self.offered("cam-1"))
        self.assertIn("reserve", self.offered("net-9"))

    def test_the_plans_own_values_are_proposed(self):
        self.powered()
        self.assertEqual(self.value("address", "cam-2", "address"), "172.22.40.41/24")
        self.assertEqual(self.value("address", "cam-2", "gateway"), "172.22.40.1")
        self.assertEqual(self.value("set up", "cam-2", "zone"), "Europe/London")
        self.assertEqual(self.value("time", "cam-2", "server"), "172.22.40.20")
        self.assertEqual(
            (self.value("set up", "cam-2", "new"), self.value("set up", "cam-2", "recovery")), ("own", "yes")
        )

    def test_the_next_camera_is_proposed_to_a_recorder(self):
        self.powered(job=bench_job(camera_fields={2: {"registered": at_recorder(7)}}))
        self.ready(2)
        self.assertEqual(self.value("add", "rec-1", "address"), "172.22.40.41")
        self.assertEqual((self.value("add", "rec-1", "channel"), self.value("add", "rec-1", "name")), ("7", "Camera 2"))
        self.registered(2, channel="7")
        self.assertEqual(self.value("add", "rec-1", "address"), "", "no other is set up yet")

    def test_a_laptop_without_an_address_gets_a_free_one_of_the_site(self):
        self.site_with()
        self.assertEqual(self.value("laptop address", "laptop", "address"), "172.22.40.254/24")
        self.do("laptop address", address="172.22.40.254/24")
        self.assertEqual(self.value("laptop address", "laptop", "address"), "")
