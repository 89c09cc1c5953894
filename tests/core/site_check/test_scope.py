"""What a check may send, and where to."""

import unittest

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.site_check.readings import Switches
from eager_lens.core.site_check.scope import Interface, is_private, scope_of, words_of
from tests.support import camera, job_with, lan, recorder

LAPTOP = (Interface("eth0", address_number("172.22.40.9"), 24),)


class Scopes(unittest.TestCase):
    def test_planned_addresses_come_first_and_the_laptop_is_left_out(self):
        scope = scope_of(job_with([camera(1), camera(2)]), LAPTOP, Switches())
        self.assertEqual(
            [address_text(one) for one in scope.sweep[:3]], ["172.22.40.20", "172.22.40.40", "172.22.40.41"]
        )
        self.assertEqual(len(scope.sweep), 253)
        self.assertNotIn(address_number("172.22.40.9"), scope.sweep)

    def test_without_the_sweep_only_planned_addresses(self):
        scope = scope_of(job_with([camera(1)]), LAPTOP, Switches(sweep=False))
        self.assertEqual(len(scope.sweep), 2)

    def test_public_ranges_are_refused(self):
        for cidr in ("8.8.8.0/24", "203.0.113.0/24", "172.32.0.0/16", "169.0.0.0/8", "100.64.0.0/24"):
            with self.subTest(cidr):
                job = job_with([camera(1)], subnets=(lan(cidr=cidr, gateway="", first="", last=""),))
                net = job.subnets[0].cidr.partition("/")[0]
                scope = scope_of(job, (Interface("eth0", address_number(net) + 9, 24),), Switches())
                self.assertEqual((scope.sweep, scope.targets), ((), ()))
                self.assertIn("not a private range", scope.refused[0])

    def test_a_subnet_that_the_laptop_is_not_in_is_told_with_an_address_for_it(self):
        scope = scope_of(job_with([camera(1)]), (Interface("eth0", address_number("10.9.9.9"), 24),), Switches())
        self.assertEqual(scope.sweep, ())
        self.assertIn("such as 172.22.40.254/24", scope.not_reached[0])
        self.assertIn("Nothing", words_of(scope, Switches())[0])

    def test_a_large_subnet_is_not_gone_through(self):
        job = job_with([camera(1)], subnets=(lan(cidr="172.22.0.0/16"),))
        scope = scope_of(job, (Interface("eth0", address_number("172.22.40.9"), 16),), Switches())
        self.assertEqual(len(scope.sweep), 2)
        self.assertIn("too many to try", scope.refused[0])

    def test_nothing_goes_through_a_gateway(self):
        """A job of /22 with a laptop of /24: the rest of the /22 is not on the laptop's own wire."""
        wide = lan(cidr="172.22.40.0/22")
        job = job_with([camera(1), camera(2, address="172.22.41.50")], subnets=(wide,))
        scope = scope_of(job, LAPTOP, Switches())
        self.assertEqual(len(scope.sweep), 253)
        self.assertEqual({one.device for one in scope.targets}, {"rec-1", "cam-1"})
        self.assertFalse(scope.allows(address_number("172.22.41.50")))
        self.assertIn("only 172.22.40.0/24 of it", scope.not_reached[0])
        whole = (Interface("eth0", address_number("172.22.40.9"), 22),)
        self.assertEqual(len(scope_of(job, whole, Switches()).sweep), 1021)
        # A laptop of a larger subnet than the job's still keeps to the job's.
        narrow = scope_of(job_with([camera(1)]), (Interface("eth0", address_number("172.22.40.9"), 16),), Switches())
        self.assertEqual(len(narrow.sweep), 253)

    def test_nothing_outside_its_subnets_is_allowed(self):
        scope = scope_of(job_with([camera(1)]), LAPTOP, Switches())
        for text, allowed in (
            ("172.22.40.77", True),
            ("172.22.41.77", False),
            ("172.22.40.255", False),
            ("8.8.8.8", False),
        ):
            self.assertEqual(scope.allows(address_number(text)), allowed, text)

    def test_private_is_what_stays_on_a_site(self):
        for text, private in (
            ("10.0.0.1", True),
            ("172.31.255.1", True),
            ("172.32.0.1", False),
            ("192.169.0.1", False),
        ):
            self.assertEqual(is_private(address_number(text)), private, text)

    def test_what_is_switched_off_is_not_announced(self):
        job = job_with([camera(1)], [recorder(event_tcp_port=7500)])
        scope = scope_of(job, LAPTOP, Switches())
        everything = " ".join(words_of(scope, Switches(default_passwords=True)))
        for words in ("by multicast", "One log-in", "default password", "main stream of 1 camera", "event ports"):
            self.assertIn(words, everything)
        off = dict.fromkeys(("search", "log_in", "stream", "events"), False)
        nothing = " ".join(words_of(scope, Switches(**off)))
        for words in ("by multicast", "log-in", "main stream", "event ports"):
            self.assertNotIn(words, nothing)

    def test_a_recorder_is_looked_at_on_both_its_sides(self):
        inner = lan("lan-2", "172.22.50.0/24", gateway="", first="", last="")
        both = recorder(
            attachment="camera interface", camera_interface_subnet="lan-2", camera_interface_address="172.22.50.1"
        )
        job = job_with([camera(1, subnet="lan-2", address="172.22.50.40")], [both], subnets=(lan(), inner))
        laptop = (*LAPTOP, Interface("eth1", address_number("172.22.50.9"), 24))
        targets = scope_of(job, laptop, Switches(sweep=False)).targets
        self.assertEqual(
            [address_text(one.address) for one in targets if one.role == "recorder"], ["172.22.40.20", "172.22.50.1"]
        )
