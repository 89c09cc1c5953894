"""Planned values of acceptance tests, what is typed into them, and the edit that comes of it."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.proof import failed_tests, progress, site_tests, tests_on
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Link, NetworkDevice, PowerUnit, RadioPlan, Retention
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import latest_checks, record_checks
from eager_lens.core.records.acceptance.planned import planned
from eager_lens.core.records.acceptance.recording import measured_check, result_words, typed_checks
from eager_lens.core.records.acceptance.typed import TypedResult, typed_result
from eager_lens.core.reference.acceptance import ACCEPTANCE_TESTS, SITE, acceptance_test
from tests.support import camera, demo_job, job_with, switch, week_of


def plan(test_id, device_id, job):
    return planned(acceptance_test(test_id), device_id, assess(job))


class Planned(unittest.TestCase):
    def holds_at(self, expected, inside, outside):
        for value in inside:
            self.assertTrue(expected.holds(value), value)
        for value in outside:
            self.assertFalse(expected.holds(value), value)

    def test_pixel_density_is_that_of_the_purpose(self):
        job = job_with([camera(1, purpose="recognise", target_m=8, focal_mm=6, width_px=2560)])
        expected = plan("density", "cam-1", job)
        # 2560 px over 5.4 mm / 6 mm of the sight line to a face at 8 m from 3 m: hypot(8, 1.4) m.
        self.assertAlmostEqual(expected.value, 2560 / (5.4 / 6 * (8**2 + 1.4**2) ** 0.5), places=6)
        self.holds_at(expected, (125, 400), (124.9, 0))
        self.assertIn("to recognise", expected.words)

    def test_power_may_be_a_tenth_over_the_plan(self):
        job = job_with([camera(1, power_w=10, poe_class=None)])
        self.holds_at(plan("power", "cam-1", job), (0, 10, 11), (11.1,))

    def test_power_over_the_cable_is_read_at_the_port(self):
        expected = plan("power", "cam-1", job_with([camera(1, power_w=10, poe_class=3, cable_m=90)]))
        self.assertGreater(expected.value, 10.2)
        self.assertIn("at the port", expected.words)

    def test_voltage_is_within_a_tenth_of_the_supply(self):
        supply = PowerUnit(id="psu-1", name="Supply", output="12 V DC", length_m=10, feeds=("cam-1",))
        expected = plan("voltage", "cam-1", job_with([camera(1, poe_class=None, power_w=6)], power_units=(supply,)))
        self.holds_at(expected, (10.8, 13.2), (10.7, 13.3))
        self.assertLess(expected.value, 12)

    def test_link_speed_is_what_the_link_should_carry(self):
        def job(**fields):
            link = Link(id="link-1", a="net-1", a_port=1, b="cam-1", **fields)
            return job_with([camera(1)], network=(switch(),), links=(link,))

        self.holds_at(plan("link", "cam-1", job()), (100, 1000), (99, 10))
        self.holds_at(plan("link", "cam-1", job(long_reach=True)), (10, 100), (9,))

    def test_a_signal_may_stay_five_db_under_its_plan(self):
        ends = tuple(
            NetworkDevice(id=f"net-{n}", name=f"End {n}", role="bridge", ports=1, poe_ports=0, budget_w=0)
            for n in (1, 2)
        )
        link = Link(id="link-1", a="net-1", b="net-2", medium="radio", length_m=900, radio=RadioPlan())
        expected = plan("rssi", "net-2", job_with([camera(1)], network=ends, links=(link,)))
        # 17 + 13 + 13 - 3 dB less the loss of free space: 92.45 + 20 lg 5.5 + 20 lg 0.9.
        self.assertAlmostEqual(expected.value, 40 - 106.342, places=2)
        self.holds_at(expected, (expected.value - 5, -40), (expected.value - 5.1,))

    def test_days_are_those_that_are_asked(self):
        job = job_with([camera(1)], retention=Retention(least_days=31, most_days=90))
        self.holds_at(plan("days", "rec-1", job), (31, 90), (30.9, 90.1))

    def test_a_clock_may_be_five_seconds_off(self):
        self.holds_at(plan("clock", "cam-1", job_with([camera(1)])), (-5, 0, 5), (-5.1, 5.1))

    def test_a_walk_test_wants_nine_in_ten(self):
        self.holds_at(plan("motion", "cam-1", job_with([camera(1)])), (90, 100), (89.9,))

    def test_every_test_of_the_demo_has_a_plan(self):
        assessment = assess(demo_job())
        facts = assessment.facts
        seen = set()
        for device in facts.devices:
            for test in tests_on(facts, device):
                planned(test, device.id, assessment)
                seen.add(test.id)
        self.assertEqual(seen | {test.id for test in site_tests(facts)}, {test.id for test in ACCEPTANCE_TESTS})


class Needed(unittest.TestCase):
    def test_tests_follow_from_what_a_device_is(self):
        def ids(**fields):
            facts = assess(job_with([camera(1, **fields)], schedules=(week_of(), week_of("motion", id="week-2")))).facts
            return {test.id for test in tests_on(facts, facts.devices[-1])}

        self.assertNotIn("density", ids())
        self.assertIn("density", ids(purpose="observe"))
        self.assertIn("chain", ids(schedule="week-2"))
        self.assertNotIn("chain", ids())
        self.assertNotIn("motion", ids(motion_rule_on=False))
        self.assertNotIn("power", ids(poe_class=None))

    def test_an_unmanaged_switch_has_no_label_to_check(self):
        job = job_with([camera(1)], network=(switch(), switch(2, address_assignment="unmanaged")))
        facts = assess(job).facts
        self.assertEqual([test.id for test in tests_on(facts, facts.by_device_id["net-2"])], ["restart"])
        self.assertIn("credentials", {test.id for test in tests_on(facts, facts.by_device_id["net-1"])})

    def test_progress_counts_the_last_result_of_each_test(self):
        job = job_with([camera(1)])
        total = progress(assess(job).facts)[1]

        def after(*checks):
            facts = assess(record_checks([Check(**one) for one in checks]).apply(job)).facts
            return progress(facts), failed_tests(facts)

        failed = {"device": "cam-1", "check": "picture", "outcome": "failed"}
        passed = {**failed, "outcome": "passed"}
        self.assertEqual(after(failed), ((0, total), [("cam-1", "picture")]))
        self.assertEqual(after(failed, passed), ((1, total), []))
        self.assertEqual(after({**passed, "device": "gone"}, {**passed, "check": "density"}), ((0, total), []))
        self.assertEqual(after({**passed, "device": SITE, "check": "signs"}), ((1, total), []))


class Typed(unittest.TestCase):
    def typed(self, test_id, text, job=None):
        test = acceptance_test(test_id)
        return typed_result(test, planned(test, "cam-1", assess(job or job_with([camera(1, purpose="observe")]))), text)

    def test_outcomes_and_values(self):
        for test_id, text, expected in (
            ("picture", "passed", TypedResult("passed", "")),
            ("picture", "p sharp", TypedResult("passed", "sharp")),
            ("picture", "failed 3 lamps dark", TypedResult("failed", "3 lamps dark")),
            ("density", "161 px/m plate at 12 m", TypedResult("passed", "plate at 12 m", 161)),
            ("density", "40", TypedResult("failed", "", 40)),
            ("density", "failed 161 smeared", TypedResult("failed", "smeared", 161)),
            ("clock", "−0.4 s", TypedResult("passed", "", -0.4)),
            ("clock", "+7", TypedResult("failed", "", 7)),
            ("clock", "0,5 telephone", TypedResult("passed", "telephone", 0.5)),
            ("motion", "9 of 10 by night", TypedResult("passed", "9 of 10 by night", 90)),
            ("motion", "passed 5/5", TypedResult("passed", "5/5", 100)),
            ("motion", "4 of 5", TypedResult("failed", "4 of 5", 80)),
            ("days", "ok", TypedResult("passed", "")),
        ):
            self.assertEqual(self.typed(test_id, text), expected, text)

    def test_what_says_nothing_is_refused_with_what_to_type(self):
        for test_id, text, words in (
            ("picture", "perhaps", "begin with passed or failed"),
            ("density", "many", "enter a value in px/m"),
            ("density", "passed 40", "does not pass"),
            ("density", "4 m", "enter the value in px/m"),
            ("clock", "40 ms", "enter the value in s"),
            ("motion", "6 of 5", "enter a count"),
            ("motion", "0 of 0", "enter a count"),
            ("clock", "1,234", "is ambiguous"),
        ):
            with self.assertRaisesRegex(RefusedInput, words, msg=text):
                self.typed(test_id, text)

    def test_one_step_for_several_tests_and_devices(self):
        job = job_with([camera(1), camera(2)])
        assessment = assess(job)
        tests = [acceptance_test("picture"), acceptance_test("label")]
        edit = typed_checks(tests, ["cam-1", "cam-2"], "passed", assessment, "WA", "2026-11-20T10:00:00")
        self.assertEqual(edit.label, "2 tests passed: 2 devices")
        self.assertEqual(len(edit.apply(job).checks), 4)
        with self.assertRaisesRegex(RefusedInput, "one device"):
            typed_checks([acceptance_test("clock")], ["cam-1", "cam-2"], "0.5", assessment, "", "")
        cleared = typed_checks(tests, ["cam-1"], "withdrawn wrong camera", assessment, "WA", "2026-11-20T11:00:00")
        after = cleared.apply(edit.apply(job))
        self.assertEqual({device for device, _ in latest_checks(after)}, {"cam-2"})
        with self.assertRaisesRegex(RefusedInput, "enter the reason"):
            typed_checks(tests, ["cam-1"], "", assessment, "", "").apply(edit.apply(job))

    def test_a_value_that_the_program_measured(self):
        assessment = assess(job_with([camera(1, purpose="observe")]))
        test = acceptance_test("density")
        edit = measured_check(test, "cam-1", 40.0, "door leaf", "picture", assessment, "WA", "2026-11-20T10:00:00")
        (check,) = edit.apply(assessment.job).checks
        self.assertEqual(
            (check.outcome, check.how, edit.label), ("failed", "picture", "Pixel density failed: Camera 1")
        )
        self.assertEqual(result_words(test, check), "40 px/m · door leaf")


if __name__ == "__main__":
    unittest.main()
