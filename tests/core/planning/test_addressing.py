"""Planning the addresses of a whole job."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.planning.addressing import plan_all
from tests.support import camera, codes, job_with, lan, recorder, switch


def addresses(job):
    return {device.id: device.address for device in plan_all(job).apply(job).devices()}


class PlanAll(unittest.TestCase):
    def test_right_addresses_stay_and_wrong_ones_are_planned(self):
        cameras = [
            camera(1, address="172.22.40.77"),
            camera(2, address="172.22.40.77"),
            camera(3, address="172.22.40.150"),
            camera(4, address="172.22.41.9"),
            camera(5, address=""),
            camera(6, address="172.22.40.255"),
        ]
        got = addresses(job_with(cameras))
        self.assertEqual(got["cam-1"], "172.22.40.77")
        self.assertEqual(got["rec-1"], "172.22.40.20")
        self.assertEqual(len(set(got.values())), 7)
        planned = plan_all(job_with(cameras)).apply(job_with(cameras))
        self.assertFalse(
            [code for code in codes(planned) if "address" in code or code in ("in-pool", "outside-subnet")]
        )

    def test_what_the_router_reserves_stays_and_nobody_else_gets_it(self):
        job = job_with(
            [
                camera(1, address="172.22.40.150", address_assignment="DHCP reservation"),
                camera(2, address="172.22.40.41", address_assignment="by the recorder"),
                camera(3, address="172.22.40.41"),
                camera(4, address="172.22.40.151", address_assignment="static from a lease"),
            ]
        )
        got = addresses(job)
        self.assertEqual((got["cam-1"], got["cam-2"]), ("172.22.40.150", "172.22.40.41"))
        self.assertNotIn(got["cam-3"], ("172.22.40.41", "172.22.40.150"))
        self.assertNotEqual(got["cam-4"], "172.22.40.151")

    def test_planning_twice_changes_nothing(self):
        job = job_with([camera(n, address="") for n in range(1, 30)])
        once = plan_all(job).apply(job)
        self.assertEqual(plan_all(once).apply(once), once)

    def test_a_camera_added_later_moves_nobody(self):
        job = job_with([camera(n, address="") for n in range(1, 10)])
        before = addresses(job)
        after = addresses(job_with([*plan_all(job).apply(job).cameras, camera(10, address="")]))
        self.assertEqual({key: after[key] for key in before}, before)

    def test_the_router_keeps_the_gateway(self):
        router = switch(1, role="router", subnet="lan-1", address="172.22.40.1")
        self.assertEqual(addresses(job_with([camera(1)], network=(router,)))["net-1"], "172.22.40.1")

    def test_a_camera_without_subnet_goes_where_its_recorder_is(self):
        job = job_with(
            [camera(1, subnet="", address="")],
            recorders=[recorder(subnet="lan-2", address="10.44.8.20")],
            subnets=(lan(), lan("lan-2", "10.44.8.0/24", "", "", "")),
        )
        self.assertTrue(addresses(job)["cam-1"].startswith("10.44.8."))

    def test_a_pool_that_makes_no_sense_counts_as_none(self):
        job = job_with([camera(1, address="")], subnets=(lan(first="172.22.40.199", last="172.22.40.100"),))
        self.assertTrue(addresses(job)["cam-1"])

    def test_no_room_names_the_subnet_and_the_number(self):
        job = job_with(
            [camera(n, address="") for n in range(1, 9)],
            recorders=(),
            subnets=(lan(cidr="172.22.40.0/29", first="", last="", name="Shed"),),
        )
        with self.assertRaises(RefusedInput) as caught:
            plan_all(job)
        self.assertIn("Shed", str(caught.exception))
        self.assertIn("3 of 8", str(caught.exception))

    def test_without_a_subnet_there_is_nothing_to_plan_from(self):
        with self.assertRaises(RefusedInput) as caught:
            plan_all(job_with([camera(1)], subnets=()))
        self.assertIn("add one first", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
