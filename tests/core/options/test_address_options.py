"""The four ways of giving addresses, compared for a group of devices."""

import unittest

from eager_lens.core.addressing.collision import collision_share
from eager_lens.core.assess.assessment import assess
from eager_lens.core.options.address_options import assignments_for, give_assignment
from tests.support import camera, job_with, lan, recorder


def by_way(job):
    return {one.id: one for one in assignments_for(assess(job).facts, job.cameras)}


class Ways(unittest.TestCase):
    def test_how_many_have_each_and_could_have_it(self):
        cameras = [
            camera(1),
            camera(2, address_assignment="static from a lease", mac_address="02:00:00:00:00:02"),
            camera(3, subnet="lan-2", address="10.44.8.40"),
        ]
        job = job_with(cameras, subnets=(lan(), lan("lan-2", "10.44.8.0/24", "", "", "")))
        ways = by_way(job)
        self.assertEqual(
            {way: one.now for way, one in ways.items()},
            {"static": 2, "static from a lease": 1, "DHCP reservation": 0, "by the recorder": 0},
        )
        self.assertEqual(
            {way: one.possible for way, one in ways.items()},
            {"static": 3, "static from a lease": 2, "DHCP reservation": 1, "by the recorder": 0},
        )
        self.assertIn("2 of them not known yet", ways["DHCP reservation"].work)
        self.assertIn("3 devices are connected elsewhere", ways["by the recorder"].risk)

    def test_the_chance_that_one_of_them_collides_grows_with_their_number(self):
        one = by_way(job_with([camera(1)]))["static from a lease"].risk
        ten = by_way(job_with([camera(n) for n in range(1, 11)]))["static from a lease"].risk
        share = collision_share(100, 10, 5, 6)
        self.assertTrue(one.startswith(f"{100 * share:.0f} %"), one)
        self.assertTrue(ten.startswith(f"{100 * (1 - (1 - share) ** 10):.0f} %"), ten)

    def test_on_the_recorders_own_ports_it_gives_them(self):
        job = job_with([camera(1)], recorders=[recorder(attachment="recorder PoE ports")])
        self.assertEqual(by_way(job)["by the recorder"].possible, 1)

    def test_by_hand_those_in_the_pool_move_out_and_the_others_stay(self):
        job = job_with(
            [
                camera(1),
                camera(2, address="172.22.40.150", address_assignment="static from a lease"),
                camera(3, address=""),
            ]
        )
        after = give_assignment(job.cameras, "static").apply(job)
        self.assertEqual(after.cameras[0].address, "172.22.40.40")
        self.assertNotIn("in-pool", {finding.code for finding in assess(after).findings})
        self.assertTrue(all(one.address and one.address_assignment == "static" for one in after.cameras))

    def test_any_other_way_is_noted_only(self):
        job = job_with([camera(1), camera(2)])
        after = give_assignment(job.cameras[:1], "DHCP reservation").apply(job)
        self.assertEqual([one.address_assignment for one in after.cameras], ["DHCP reservation", "static"])
        self.assertEqual([one.address for one in after.cameras], [one.address for one in job.cameras])


if __name__ == "__main__":
    unittest.main()
