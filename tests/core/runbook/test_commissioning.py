"""The commissioning plan: its order, its schedule, and that playing it brings the site up."""

import unittest

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import Link, SubnetPlan
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.runbook.commissioning import commissioning
from eager_lens.core.runbook.next_step import next_step
from eager_lens.core.runbook.play import played
from eager_lens.core.runbook.timing import duration_s, scheduled
from eager_lens.core.simulation.actions import do
from eager_lens.core.simulation.build import site_of
from tests.core.simulation.base import PLAIN, RECORDER, bench_job
from tests.core.simulation.test_radio import bridged_job
from tests.support import demo_job, lan, recorder


def plan_of(job):
    return commissioning(assess(job))


def play(job, people=1):
    """The site after playing a job's plan, and what playing came to."""
    assessment = assess(job)
    site = site_of(assessment, Rehearsal())
    return site, played(site, scheduled(commissioning(assessment).steps, people))


def receiving(site):
    """By recorder and channel: the camera that is received there."""
    return {
        (recorder.id, number): entry.from_unit
        for recorder in site.recorders()
        for number, entry in recorder.entries.items()
        if entry.shown == "receiving"
    }


def wanted(job, plan):
    """What the job registers, but for what the plan says cannot come up."""
    blocked = {one.device_id for one in plan.blocked}
    steps = {step.key for step in plan.steps}
    return {
        (place.recorder, place.channel): camera.id
        for camera in job.cameras
        for place in camera.registered
        if camera.id not in blocked or f"{camera.id}/{place.recorder}" in steps
    }


def with_own_ports():
    """A recorder with PoE ports of its own, and a side for its cameras."""
    side = {
        "attachment": "recorder PoE ports",
        "camera_interface_subnet": "lan-2",
        "camera_interface_address": "10.44.8.1",
    }
    return recorder(make="Quillmark R", ports=10, poe_ports=8, budget_w=100, **side)


class Plays(unittest.TestCase):
    def assert_comes_up(self, job, people=1):
        site, done = play(job, people)
        self.assertEqual(done.troubles, {})
        plan = plan_of(job)
        self.assertEqual(receiving(site), wanted(job, plan))
        self.assertTrue(receiving(site), "something has to come up for this to say anything")
        return site, plan

    def test_the_demo_comes_up_by_its_plan_alone_and_for_two(self):
        for people in (1, 2):
            with self.subTest(people=people):
                site, _ = self.assert_comes_up(demo_job(), people)
                self.assertEqual(len(receiving(site)), 30)
                lessons = [line.words for line in site.log_lines if line.weight == "lesson"]
                self.assertEqual(lessons, [], "by the plan nothing collides and nobody is locked out")

    def test_what_cannot_come_up_in_the_demo_is_told_with_its_reason(self):
        why = {one.device_id: one.why for one in plan_of(demo_job()).blocked}
        for device_id, words in {
            "cam-12": "none stands in for another",
            "cam-13": "no link joins its network",
            "cam-23": "is that of Fan of tracks north too",
            "cam-24": "the voltage at the camera is too low",
            "cam-25": "class 2 allows 6.49 W",
            "cam-35": "outside 172.22.40.0/24",
            "cam-36": "12 megapixels",
        }.items():
            self.assertIn(words, why.pop(device_id))
        self.assertEqual(why, {})

    def test_a_fault_put_right_comes_up_too(self):
        job = set_fields(["cam-23"], "Correct", address="172.22.40.56").apply(demo_job())
        site, _ = self.assert_comes_up(job)
        self.assertEqual(receiving(site)[("rec-1", 17)], "cam-23")

    def test_everybody_gets_the_planned_address_and_no_default_password_stays(self):
        site, _ = self.assert_comes_up(bench_job(cameras=4))
        for camera in bench_job(cameras=4).cameras:
            unit = site.units[camera.id]
            self.assertEqual(unit.sides[0].address, address_number(camera.address))
            self.assertEqual(unit.access.password, f"own:{camera.id}")
            self.assertEqual(unit.firmware, unit.profile.firmware_now)

    def test_another_make_is_registered_on_the_open_protocol(self):
        make_profiles = (PLAIN.model_copy(update={"make": "Sparling"}), RECORDER)
        site, _ = self.assert_comes_up(bench_job(make="Sparling B", make_profiles=make_profiles))
        self.assertEqual({entry.protocol for entry in site.units["rec-1"].entries.values()}, {"open"})

    def test_makes_that_lease_first_are_brought_up_all_at_once(self):
        leasing = PLAIN.model_copy(update={"takes_lease": True})
        fast = bench_job(cameras=6, make_profiles=(leasing, RECORDER))
        slow = bench_job(cameras=6)
        self.assert_comes_up(fast)
        times = [duration_s(scheduled(plan_of(job).steps, 1)) for job in (fast, slow)]
        self.assertLess(times[0], times[1])

    def test_bridges_first_then_what_lies_behind_them(self):
        _, plan = self.assert_comes_up(bridged_job())
        order = [step.key for step in plan.steps]
        self.assertLess(order.index("net-6/set-up"), order.index("cam-1/rec-1"))

    def test_a_recorder_takes_its_own_make_on_its_own_ports_without_a_laptop(self):
        one = with_own_ports()
        subnets = (lan(), SubnetPlan(id="lan-2", name="Cameras", cidr="10.44.8.0/24"))
        links = tuple(Link(id=f"link-{n}", a=f"cam-{n}", b="rec-1", b_port=n) for n in (1, 2, 3))
        _, plan = self.assert_comes_up(bench_job(recorders=[one], subnets=subnets, network=(), links=links))
        self.assertEqual([step.key for step in plan.steps if step.phase == "laptop"], [])

    def test_mixed_makes_on_the_recorders_ports_take_the_laptop_on_that_side(self):
        one = with_own_ports()
        subnets = (lan(), SubnetPlan(id="lan-2", name="Cameras", cidr="10.44.8.0/24"))
        links = tuple(Link(id=f"link-{n}", a=f"cam-{n}", b="rec-1", b_port=n) for n in (1, 2))
        fields = {n: {"subnet": "lan-2", "address": f"10.44.8.{39 + n}"} for n in (1, 2)}
        make_profiles = (PLAIN.model_copy(update={"make": "Sparling"}), RECORDER)
        job = bench_job(
            cameras=2,
            make="Sparling B",
            make_profiles=make_profiles,
            recorders=[one],
            subnets=subnets,
            network=(),
            links=links,
            camera_fields=fields,
        )
        _, plan = self.assert_comes_up(job)
        settings = next(step for step in plan.steps if step.key == "cam-1/settings")
        self.assertIn("10.44.8.1", settings.type_in, "the time comes from the recorder's address on the camera's side")
        self.assertRegex(settings.type_in, r"^main stream H\.26\d, 1920 × 1080, \d+ fps")


class GivenInOtherWays(unittest.TestCase):
    def test_reserved_ones_lease_and_the_router_gives_them_their_own(self):
        for leases_first in (False, True):
            with self.subTest(leases_first=leases_first):
                make_profiles = (PLAIN.model_copy(update={"takes_lease": leases_first}), RECORDER)
                fields = {
                    n: {"address_assignment": "DHCP reservation", "address": f"172.22.40.{150 + n}"} for n in (1, 2)
                }
                job = bench_job(make_profiles=make_profiles, camera_fields=fields)
                site, done = play(job)
                self.assertEqual(done.troubles, {})
                self.assertEqual(set(receiving(site).values()), {"cam-1", "cam-2", "cam-3"})
                self.assertEqual(site.units["cam-1"].sides[0].assignment, "lease")
                self.assertEqual(site.units["cam-1"].sides[0].address, address_number("172.22.40.151"))
                steps = {step.key: step for step in plan_of(job).steps}
                self.assertIn("Enter 2 reservations", steps["net-9/reserve"].title)

    def test_what_waits_for_a_recorder_that_gives_none_is_told(self):
        job = bench_job(
            cameras=2, camera_fields={1: {"address_assignment": "by the recorder", "address": "", "subnet": ""}}
        )
        plan = plan_of(job)
        self.assertEqual([one.device_id for one in plan.blocked], ["cam-1"])
        self.assertIn("no address is planned", plan.blocked[0].why)

    def test_without_its_mac_address_a_reserved_one_is_typed_in(self):
        fields = {1: {"address_assignment": "DHCP reservation", "mac_address": ""}}
        keys = {step.key for step in plan_of(bench_job(cameras=1, camera_fields=fields)).steps}
        self.assertNotIn("net-9/reserve", keys)


class Order(unittest.TestCase):
    def setUp(self):
        self.plan = plan_of(demo_job())
        self.steps = {step.key: step for step in self.plan.steps}

    def test_no_two_with_one_address_out_of_the_box_have_power_before_the_first_has_its_own(self):
        for people in (1, 2, 3):
            holding = {}
            placed = scheduled(self.plan.steps, people)
            events = [(one.start_s, 1, one) for one in placed if one.step.takes]
            events += [(one.end_s, 0, one) for one in placed if one.step.frees]
            for _, begins, one in sorted(events, key=lambda event: event[:2]):
                if begins:
                    self.assertNotIn(one.step.takes, holding)
                    holding[one.step.takes] = one.step.device_id
                else:
                    self.assertEqual(holding.pop(one.step.frees), one.step.device_id)

    def test_every_step_comes_after_what_it_needs_and_nobody_does_two_at_once(self):
        placed = scheduled(self.plan.steps, 2)
        ends = {one.step.key: one.end_s for one in placed}
        self.assertEqual(set(ends), set(self.steps))
        for one in placed:
            for key in one.step.after:
                self.assertLessEqual(ends[key], one.start_s)
        for busy in (lambda one: [one.person], lambda one: one.step.tools):
            taken = {}
            for one in placed:
                for thing in busy(one):
                    self.assertLessEqual(taken.get(thing, 0.0), one.start_s)
                    taken[thing] = one.hands_end_s

    def test_two_are_quicker_than_one_and_one_is_never_quicker_than_the_work(self):
        alone, two = (duration_s(scheduled(self.plan.steps, people)) for people in (1, 2))
        hands_s = sum(step.hands_s for step in self.plan.steps)
        self.assertLess(two, alone)
        self.assertGreaterEqual(alone, hands_s)
        self.assertGreaterEqual(two, hands_s / 2)
        self.assertLess(alone, sum(step.hands_s + step.wait_s for step in self.plan.steps), "waits are overlapped")

    def test_the_laptop_gets_an_address_in_every_subnet_that_it_must_reach(self):
        typed = self.steps["laptop/net-2"].type_in
        for start in ("172.22.40.", "172.29.0.", "172.30.0."):
            self.assertIn(start, typed)
        self.assertNotIn("172.29.0.8/", typed, "that is the cameras' own")

    def test_what_is_typed_has_mask_and_gateway(self):
        self.assertIn("172.22.40.40, mask 255.255.255.0, gateway 172.22.40.1", self.steps["cam-1/set-up"].type_in)
        self.assertIn("no gateway", self.steps["cam-7/set-up"].type_in)

    def test_an_empty_job_has_an_empty_plan(self):
        plan = plan_of(bench_job(cameras=0, recorders=[], network=(), links=()))
        self.assertEqual((plan.steps, plan.blocked, scheduled(plan.steps, 2)), ((), (), []))

    def test_without_addresses_nothing_is_planned_for_a_camera(self):
        job = bench_job(cameras=1, camera_fields={1: {"address": ""}})
        self.assertIn("plan addresses first", plan_of(job).blocked[0].why)


class Guided(unittest.TestCase):
    def test_the_next_step_leads_through_to_the_end(self):
        job = demo_job()
        assessment = assess(job)
        site = site_of(assessment, Rehearsal())
        placed = scheduled(commissioning(assessment).steps, 1)
        for _ in range(3 * len(placed)):
            now = next_step(site, placed)
            if now.step is None:
                break
            if now.waits_s:
                site.run_to(site.now_s + now.waits_s + 0.5)
                continue
            site.run_to(site.now_s + now.step.hands_s)
            for action in now.step.actions:
                do(site, action.do, action.device, action.values)
            site.run_to(site.now_s + 5)
        self.assertEqual(next_step(site, placed).done, len(placed))
        self.assertEqual(receiving(site), wanted(job, commissioning(assessment)))

    def test_what_was_done_off_the_plan_counts(self):
        assessment = assess(bench_job())
        site = site_of(assessment, Rehearsal())
        placed = scheduled(commissioning(assessment).steps, 1)
        do(site, "power on", "rec-1", {})
        self.assertNotEqual(next_step(site, placed).step.device_id, "rec-1")
        self.assertEqual(next_step(site, placed).waits_s, 0)

    def test_while_one_starts_its_twin_is_not_proposed(self):
        assessment = assess(bench_job())
        site = site_of(assessment, Rehearsal())
        placed = scheduled(commissioning(assessment).steps, 1)
        for _ in range(60):
            now = next_step(site, placed)
            if now.step.key == "cam-1/plug":
                break
            site.run_to(site.now_s + (now.waits_s + 0.5 if now.waits_s else 1))
            for action in () if now.waits_s else now.step.actions:
                do(site, action.do, action.device, action.values)
        do(site, "plug", "cam-1", {})
        now = next_step(site, placed)
        self.assertFalse(now.step.key.endswith("/plug") and not now.waits_s, now.step.key)


class Troubles(unittest.TestCase):
    def test_what_fails_is_told_and_the_rest_goes_on(self):
        assessment = assess(bench_job())
        site = site_of(assessment, Rehearsal())
        site.cables["link-2"].mbps = 0.01  # a bad cable: the picture breaks up
        done = played(site, scheduled(commissioning(assessment).steps, 1))
        self.assertEqual(set(done.troubles), {"cam-2/rec-1"})
        self.assertIn("breaks up", done.troubles["cam-2/rec-1"])
        self.assertEqual(set(receiving(site).values()), {"cam-1", "cam-3"})


if __name__ == "__main__":
    unittest.main()
