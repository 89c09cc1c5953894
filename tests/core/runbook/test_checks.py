"""When a step counts as done, what is still wrong before, and how long it goes on by itself; and schedules of few steps."""

import unittest

from eager_lens.core.runbook import checks
from eager_lens.core.runbook.steps import Step
from eager_lens.core.runbook.timing import duration_s, scheduled
from tests.core.simulation.base import PLAIN, RECORDER, BenchCase


def step(key, hands_s=10, wait_s=0, after=(), tools=(), takes="", frees=""):
    return Step(
        key=key,
        phase="camera",
        device_id=key,
        title=key,
        see="",
        hands_s=hands_s,
        wait_s=wait_s,
        actions=(),
        check=lambda site: "",
        after=after,
        tools=tools,
        takes=takes,
        frees=frees,
    )


class Checks(BenchCase):
    def test_running_says_why_not(self):
        self.site_with()
        self.assertIn("does not run yet: its mains lead is out", checks.runs("rec-1", self.site))
        self.do("power on", "rec-1")
        self.assertAlmostEqual(checks.starts_for("rec-1", self.site), 100)
        self.wait(101)
        self.assertEqual((checks.runs("rec-1", self.site), checks.starts_for("rec-1", self.site)), ("", 0))

    def test_set_up_and_address(self):
        self.powered()
        self.do("plug", "cam-1")
        self.wait(65)
        self.assertIn("is not set up", checks.is_set_up("cam-1", self.site))
        self.assertIn("is not set up", checks.has_address("cam-1", "172.22.40.40", self.site))
        self.do("set up", "cam-1", new="own")
        self.assertEqual(checks.is_set_up("cam-1", self.site), "")
        self.assertIn("is at 172.29.0.8, not at 172.22.40.40", checks.has_address("cam-1", "172.22.40.40", self.site))
        self.do("address", "cam-1", way="lease")
        self.assertGreater(checks.asks_lease_for("cam-1", self.site), 0)
        self.wait(5)
        self.assertEqual(checks.asks_lease_for("cam-1", self.site), 0)

    def test_the_laptops_place_and_addresses(self):
        self.powered()
        wanted = ("172.22.40.250/24", "10.1.1.1/24")
        self.assertEqual(checks.laptop_is_at("net-1", wanted[:1], self.site), "")
        self.assertIn("no 10.1.1.1/24", checks.laptop_is_at("net-1", wanted, self.site))
        self.do("laptop to", "net-9")
        self.assertIn("not plugged into Switch 1", checks.laptop_is_at("net-1", wanted[:1], self.site))

    def test_settings_updates_and_reception(self):
        self.powered(make_profiles=(PLAIN.model_copy(update={"make": "Quillmark"}), RECORDER))
        self.ready(1)
        server = "172.22.40.20"
        self.assertIn("does not ask", checks.settings_made("cam-1", server, False, self.site))
        self.do("time", "cam-1", server=server)
        self.assertGreater(checks.asks_time_for("cam-1", self.site), 0)
        self.wait(5)
        self.assertEqual(checks.asks_time_for("cam-1", self.site), 0)
        self.assertEqual(checks.settings_made("cam-1", server, False, self.site), "")
        self.assertIn("open protocol", checks.settings_made("cam-1", server, True, self.site))
        self.unit("cam-1").clock.offset_s = 60
        self.assertIn("60 s off", checks.settings_made("cam-1", server, False, self.site))
        self.assertIn("firmware 1.0, not 1.2", checks.is_updated("cam-1", self.site))
        self.assertIn("does not receive", checks.receives("rec-1", "cam-1", self.site))
        self.do("add", "rec-1", address="172.22.40.40", protocol="own", camera="cam-1", password="site")
        self.assertGreater(checks.looks_for("rec-1", "172.22.40.40", self.site), 0)
        self.do("refresh", "rec-1")
        self.assertIn("refused: Camera 1: the password is wrong", checks.receives("rec-1", "cam-1", self.site))
        self.assertEqual(checks.looks_for("rec-1", "172.22.40.40", self.site), 0)

    def test_reservations(self):
        self.powered()
        hardware = ("02:00:00:00:01:01",)
        self.assertIn("has no reservation", checks.reserves("net-9", hardware, self.site))
        self.do("reserve", "net-9", hardware=hardware[0], address="172.22.40.150")
        self.assertEqual(checks.reserves("net-9", hardware, self.site), "")


class Schedules(unittest.TestCase):
    def test_waits_are_overlapped(self):
        steps = [step("a", 10, 100), step("b", 10, 100)]
        self.assertEqual(duration_s(scheduled(steps, 1)), 120)
        self.assertEqual(duration_s(scheduled(steps, 2)), 110)

    def test_one_tool_serves_one_after_the_other(self):
        steps = [step("a", 10, tools=("laptop",)), step("b", 10, tools=("laptop",))]
        self.assertEqual(duration_s(scheduled(steps, 2)), 20)

    def test_an_address_out_of_the_box_is_held_until_it_is_freed(self):
        steps = [
            step("a/plug", 5, 60, takes="default"),
            step("a/set", 10, after=("a/plug",), frees="default"),
            step("b/plug", 5, 60, takes="default"),
            step("b/set", 10, after=("b/plug",), frees="default"),
        ]
        placed = {one.step.key: one for one in scheduled(steps, 2)}
        self.assertEqual(placed["b/plug"].start_s, placed["a/set"].end_s)
        self.assertEqual(placed["b/set"].end_s, 150)

    def test_the_longest_chain_is_begun_first(self):
        steps = [step("short", 10), step("long", 10, 300), step("after", 10, after=("long",))]
        placed = scheduled(steps, 1)
        self.assertEqual(placed[0].step.key, "long")
        self.assertEqual(duration_s(placed), 320)

    def test_nothing_takes_no_time(self):
        self.assertEqual((scheduled([], 1), duration_s([])), ([], 0.0))


if __name__ == "__main__":
    unittest.main()
