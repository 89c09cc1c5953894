"""The chance that a frozen address is leased to another: against drawing leases one by one."""

import random
import unittest

from eager_lens.core.addressing.collision import collision_share
from eager_lens.core.assess.assessment import assess
from tests.support import camera, finding_of, job_with, lan


class Chance(unittest.TestCase):
    def test_it_is_that_of_drawing_leases(self):
        chance = random.Random(1)
        for pool, leased, newcomers in ((100, 10, 30), (20, 15, 4), (50, 49, 1)):
            with self.subTest(pool=pool, leased=leased):
                free, hits, runs = pool - leased, 0, 20_000
                for _ in range(runs):
                    # Who has an address keeps it, so that the next one gets another.
                    hits += 0 in chance.sample(range(free), newcomers)
                self.assertAlmostEqual(collision_share(pool, leased, newcomers, 1), hits / runs, delta=0.015)

    def test_more_newcomers_and_fewer_free_addresses_are_worse(self):
        base = collision_share(100, 10, 5, 6)
        self.assertGreater(collision_share(100, 10, 10, 6), base)
        self.assertGreater(collision_share(100, 60, 5, 6), base)
        self.assertEqual(collision_share(100, 10, 0, 6), 0)
        self.assertEqual(collision_share(10, 30, 5, 6), 1)

    def test_the_finding_tells_it_with_its_assumption(self):
        job = job_with([camera(1, address="172.22.40.150")], subnets=(lan(leases_in_use=90, new_leases_per_month=2),))
        finding = finding_of(job, "in-pool")
        share = collision_share(100, 90, 2, 6)
        self.assertIn(f"{100 * share:.0f} %", finding.why)
        self.assertIn("assuming 2 new devices a month", finding.why)
        self.assertTrue(assess(job).findings)
