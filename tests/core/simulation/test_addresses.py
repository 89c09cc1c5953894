"""Addresses on the simulated site: shared ones, neighbours, subnets and gateways, leases, search and ping."""

import unittest

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Link
from eager_lens.core.simulation.actions.looking import answers
from eager_lens.core.simulation.leases import LEASE_S
from eager_lens.core.simulation.reach import reached
from tests.core.simulation.base import PLAIN, RECORDER, BenchCase, bench_job, router
from tests.support import lan, switch

LEASING = PLAIN.model_copy(update={"takes_lease": True})


class SharedDefaults(BenchCase):
    def two_at_once(self):
        self.powered()
        for n in (1, 2):
            self.do("plug", f"cam-{n}")
        self.wait(65)

    def test_two_on_one_address_are_told_and_show_in_the_search(self):
        self.two_at_once()
        self.assertTrue(self.has_noted("share 172.29.0.8"))
        self.assertIn("1 address is held more than once", self.do("search").words)

    def test_what_is_done_to_one_may_hit_its_twin(self):
        self.two_at_once()
        hit = next(iter(self.site.contested[address_number("172.29.0.8")].values()))
        other = "cam-1" if hit == "cam-2" else "cam-2"
        outcome = self.do("set up", other, new="own")
        self.assertFalse(outcome.done)
        self.assertIn("answered at 172.29.0.8 instead of", outcome.words)
        self.assertTrue(self.unit(hit).access.is_set_up)
        self.assertFalse(self.unit(other).access.is_set_up)

    def test_the_one_that_answers_changes(self):
        self.two_at_once()
        number, seen = address_number("172.29.0.8"), set()
        for _ in range(20):
            self.wait(20)
            self.site.laptop.sides[1].neighbours.clear()
            seen.add(reached(self.site, self.site.laptop, number).unit.id)
        self.assertEqual(seen, {"cam-1", "cam-2"})

    def test_one_after_the_other_nothing_collides(self):
        self.powered()
        for n in (1, 2):
            self.assertTrue(self.ready(n).done)
        self.assertFalse(self.has_noted("share 172"))
        self.assertEqual(
            {address_text(self.unit(f"cam-{n}").sides[0].address) for n in (1, 2)}, {"172.22.40.40", "172.22.40.41"}
        )

    def test_a_picture_of_two_on_one_address_comes_and_goes(self):
        self.powered()
        self.ready(1)
        self.ready(2, address="172.22.40.40", new="own")
        entry = self.registered(1)
        statuses = {entry.shown}
        for _ in range(30):
            self.wait(20)
            statuses.add(entry.shown)
        self.assertIn("alternating", statuses)
        self.do("unplug", "cam-2")
        self.wait(90)
        self.assertEqual(entry.shown, "receiving")
        self.assertTrue(self.has_noted("172.22.40.40 is held by one device only again"))


class Neighbours(BenchCase):
    def swap(self, make_profiles):
        """Camera 2 takes the address that camera 1 had a moment ago, which the laptop remembers."""
        self.powered(make_profiles=(make_profiles, RECORDER))
        self.ready(1)
        self.ready(2, address="172.22.40.60")
        self.do("ping", address="172.22.40.40")
        self.do("unplug", "cam-1")
        self.do("address", "cam-2", address="172.22.40.40/24")
        return lambda: self.do("ping", address="172.22.40.40").words

    def test_who_announces_itself_is_found_at_once(self):
        self.assertIn("answers", self.swap(PLAIN)())

    def test_who_does_not_is_missed_until_the_old_one_is_forgotten(self):
        ping = self.swap(PLAIN.model_copy(update={"announces": False}))
        self.site.laptop.sides[0].neighbours.clear()
        self.do("plug", "cam-1")
        self.do("unplug", "cam-2")
        self.wait(65)
        self.assertIn("answers", ping())
        self.do("unplug", "cam-1")
        self.do("plug", "cam-2")
        self.wait(40)
        self.assertIn("still remembers", ping() + self.late(ping))

    def late(self, ping):
        return ping()

    def test_forgetting_helps(self):
        self.powered(make_profiles=(PLAIN.model_copy(update={"announces": False, "start_s": 5}), RECORDER))
        self.ready(1)
        self.ready(2, address="172.22.40.60")
        self.do("ping", address="172.22.40.40")
        self.do("unplug", "cam-1")
        self.unit("cam-2").sides[0].address = address_number("172.22.40.40")
        self.site.changed()
        self.site.settle()
        self.assertIn("still remembers", self.do("ping", address="172.22.40.40").words)
        self.do("forget")
        self.assertIn("answers", self.do("ping", address="172.22.40.40").words)


class Subnets(BenchCase):
    def test_a_laptop_in_another_subnet_reaches_nothing_and_is_told(self):
        self.site_with()
        self.do("power on", "net-1")
        self.wait(30)
        self.do("laptop address", address="172.22.40.250/24")
        self.do("plug", "cam-1")
        self.wait(65)
        outcome = self.do("set up", "cam-1", new="own")
        self.assertFalse(outcome.done)
        self.assertIn("another subnet than The laptop", outcome.words)
        found = {one.unit_id: one for one in answers(self.site)}
        self.assertFalse(found["cam-1"].reachable, "the search hears it all the same")

    def test_an_answer_that_finds_no_way_back(self):
        self.powered()
        self.ready(1)
        side = self.unit("cam-1").sides[0]
        side.prefix, side.gateway = 30, 0
        self.site.changed()
        self.assertIn("finds no way back", reached(self.site, self.site.laptop, side.address).why)

    def test_a_gateway_that_is_not_there(self):
        self.powered()
        self.ready(1)
        self.assertIn("knows no way", reached(self.site, self.unit("cam-1"), address_number("10.9.9.9")).why)
        self.do("power off", "net-9")
        self.assertIn("does not answer", reached(self.site, self.unit("cam-1"), address_number("10.9.9.9")).why)

    def test_the_internet_socket_of_a_router_is_no_part_of_its_network(self):
        job = bench_job(cameras=1, extra_links=())
        links = tuple(link for link in job.links if link.id != "link-up")
        wrong = Link(id="link-up", a="net-9", a_port=5, b="net-1", b_port=10)
        self.site_with(job.model_copy(update={"links": (*links, wrong)}))
        for unit_id in ("net-1", "net-9"):
            self.do("power on", unit_id)
        self.wait(70)
        self.do("laptop address", address="172.22.40.250/24")
        self.assertIn("no answer", self.do("ping", address="172.22.40.1").words)

    def test_a_search_crosses_no_router(self):
        """Behind a second router's local ports, a camera is not heard from the network at its WAN port."""
        network = (
            switch(subnet="lan-1"),
            router(),
            router(id="net-8", name="Second", address="10.44.8.1", subnet="lan-2"),
            switch(2),
        )
        links = (
            Link(id="up", a="net-8", a_port=5, b="net-1", b_port=8),
            Link(id="down", a="net-8", a_port=1, b="net-2", b_port=9),
            Link(id="link-1", a="cam-1", b="net-2", b_port=1),
        )
        subnets = (lan(), lan("lan-2", "10.44.8.0/24", "10.44.8.1", "10.44.8.100", "10.44.8.199"))
        self.site_with(bench_job(cameras=1, network=network, links=links, subnets=subnets))
        for unit_id in ("net-1", "net-2", "net-8"):
            self.do("power on", unit_id)
        self.do("plug", "cam-1")
        self.wait(150)
        self.do("laptop to", "net-1")
        self.assertEqual(answers(self.site), [])
        self.do("laptop to", "net-2")
        self.assertEqual([one.unit_id for one in answers(self.site)], ["cam-1"])

    def test_a_ping_may_be_ignored_while_the_address_still_answers(self):
        self.powered(make_profiles=(PLAIN.model_copy(update={"answers_ping": False}), RECORDER))
        self.ready(1)
        words = self.do("ping", address="172.22.40.40").words
        self.assertIn("no answer to the ping", words)
        self.assertIn("02:00:00:00:01:01", words)

    def test_nonsense_is_refused_and_changes_nothing(self):
        self.powered()
        for values in ({"address": "172.22.40.400"}, {"address": ""}, {"address": "172.22.40.7/40"}):
            with self.assertRaises(RefusedInput):
                self.do("laptop address", **values)
        with self.assertRaises(RefusedInput):
            self.do("ping", address="nobody")


class Leases(BenchCase):
    def test_a_lease_is_taken_from_the_pool_and_renewed(self):
        self.powered(make_profiles=(LEASING, RECORDER))
        self.do("plug", "cam-1")
        self.wait(70)
        side = self.unit("cam-1").sides[0]
        first = side.address
        self.assertTrue(address_number("172.22.40.100") <= first <= address_number("172.22.40.199"))
        self.wait(3 * LEASE_S)
        self.assertEqual(side.address, first)
        self.assertGreater(side.lease_until_s, self.site.now_s)

    def test_no_server_leaves_all_zeros_and_says_what_to_do(self):
        self.powered(make_profiles=(LEASING, RECORDER))
        self.do("power off", "net-9")
        self.do("plug", "cam-1")
        self.wait(70)
        self.assertEqual(self.unit("cam-1").sides[0].address, 0)
        self.assertTrue(self.has_noted("0.0.0.0. Check the cable"))
        self.do("power on", "net-9")
        self.wait(500)
        self.assertNotEqual(self.unit("cam-1").sides[0].address, 0, "it goes on asking")

    def test_a_lease_that_nobody_renews_runs_out(self):
        self.powered(make_profiles=(LEASING, RECORDER))
        self.do("plug", "cam-1")
        self.wait(70)
        self.do("power off", "net-9")
        self.wait(LEASE_S - 100)
        self.assertNotEqual(self.unit("cam-1").sides[0].address, 0)
        self.wait(600)
        self.assertEqual(self.unit("cam-1").sides[0].address, 0)
        self.assertTrue(self.has_noted("ran out"))

    def test_a_reserved_address_is_given_to_its_own(self):
        self.powered(make_profiles=(LEASING, RECORDER))
        wanted = address_number("172.22.40.150")
        self.site.servers["net-9"].reserved["02:00:00:00:01:02"] = wanted
        for n in (1, 2):
            self.do("plug", f"cam-{n}")
        self.wait(70)
        self.assertEqual(self.unit("cam-2").sides[0].address, wanted)
        self.assertNotEqual(self.unit("cam-1").sides[0].address, wanted)

    def test_a_reservation_is_entered_in_the_router_that_runs(self):
        self.site_with()
        self.assertFalse(self.do("reserve", "net-9", hardware="02:00:00:00:01:01", address="172.22.40.150").done)
        self.powered(make_profiles=(LEASING, RECORDER))
        self.assertFalse(self.do("reserve", "net-9", hardware="02:00:00:00:01:01", address="10.1.1.1").done)
        for hardware in ("", "02:00"):
            with self.assertRaises(RefusedInput):
                self.do("reserve", "net-9", hardware=hardware, address="172.22.40.150")
        self.assertTrue(self.do("reserve", "net-9", hardware="0200.0000.0101", address="172.22.40.150").done)
        self.do("plug", "cam-1")
        self.wait(70)
        self.assertEqual(address_text(self.unit("cam-1").sides[0].address), "172.22.40.150")

    def small_pool(self, **make_profiles):
        pool = lan(first="172.22.40.100", last="172.22.40.101", new_leases_per_month=0, leases_in_use=0)
        self.powered(make_profiles=(PLAIN.model_copy(update=make_profiles), RECORDER), subnets=(pool,))
        self.ready(1, address="172.22.40.100")

    def newcomers(self, how_many):
        for _ in range(how_many):
            self.site.event_queue.after(1, "net-9", "phone comes")
            self.wait(30)

    def test_a_frozen_address_that_ignores_pings_is_leased_to_a_phone(self):
        self.small_pool(answers_ping=False)
        self.newcomers(2)
        self.assertTrue(self.has_noted("share 172.22.40.100"))

    def test_a_frozen_address_that_is_off_when_the_phone_comes_collides_later(self):
        self.small_pool()
        self.do("unplug", "cam-1")
        self.newcomers(2)
        self.assertFalse(self.has_noted("share 172"))
        self.do("plug", "cam-1")
        self.wait(65)
        self.assertTrue(self.has_noted("share 172.22.40.100"))

    def test_one_that_answers_is_left_alone_and_the_pool_runs_out(self):
        self.small_pool()
        self.newcomers(2)
        self.assertFalse(self.has_noted("share 172"))
        self.assertTrue(self.has_noted("no server answers"), "two phones, and only one address is left")

    def test_phones_come_by_the_rate_of_the_plan(self):
        self.powered(subnets=(lan(new_leases_per_month=60, leases_in_use=0),))
        self.wait(10 * 86_400)
        phones = sum(unit.role == "phone" for unit in self.site.units.values())
        self.assertTrue(8 <= phones <= 36, phones)


class SameAgain(BenchCase):
    def run_through(self):
        self.powered(subnets=(lan(new_leases_per_month=200, leases_in_use=5),), make_profiles=(LEASING, RECORDER))
        for n in (1, 2, 3):
            self.do("plug", f"cam-{n}")
        self.wait(86_400)
        return self.log_lines(), [unit.sides[0].address for unit in self.site.units.values()]

    def test_the_same_seed_and_deeds_give_the_same_site(self):
        self.assertEqual(self.run_through(), self.run_through())


if __name__ == "__main__":
    unittest.main()
