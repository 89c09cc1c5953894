"""What every calculator owes its callers: strict numbers, named fields, finite results, defaults."""

import json
import math
import unittest

from eager_lens.core.calculator import Calculator
from eager_lens.core.catalogue import CALCULATORS, calculator_named
from eager_lens.core.errors import RefusedInput
from eager_lens.core.validation import parse_json

SPACE = {"rate_mbps": 4, "days": 30}
ARRAY = {"drives": 4, "drive_tb": 8, "level": "raid5"}
CLIPS = {"events_per_h": 6, "event_s": 20, "pre_s": 5, "post_s": 10}
PLAN = {"subnet": "10.0.0.0/29", "gateway": "10.0.0.1", "devices": [{"id": "a", "role": "camera"}]}


class Contract(unittest.TestCase):
    def refusal(self, name, given):
        with self.assertRaises(RefusedInput) as caught:
            CALCULATORS[name].answer(given)
        return str(caught.exception)

    def test_numbers_are_strict(self):
        for label, value in (
            ("text", "4"),
            ("true", True),
            ("null", None),
            ("list", [4]),
            ("below zero", -0.001),
            ("beyond the largest", 1.0000001e15),
            ("not a number", math.nan),
            ("infinite", math.inf),
            ("a huge whole number", 10**400),
        ):
            with self.subTest(label):
                message = self.refusal("disk-space", {**SPACE, "rate_mbps": value})
                self.assertTrue(message.startswith("rate_mbps: "), message)

    def test_a_whole_number_may_be_written_with_a_point(self):
        self.assertEqual(
            CALCULATORS["drive-array"].answer({**ARRAY, "drives": 4.0}), CALCULATORS["drive-array"].answer(ARRAY)
        )
        for value in (4.5, True, "4", 0, -1, 1e16):
            with self.subTest(value):
                self.assertIn("drives", self.refusal("drive-array", {**ARRAY, "drives": value}))

    def test_the_largest_number_is_taken(self):
        self.assertEqual(CALCULATORS["disk-space"].answer({"rate_mbps": 0, "days": 1e15}), {"gb": 0.0})

    def test_unknown_keys_are_refused_at_every_depth(self):
        self.assertIn("margin", self.refusal("disk-space", {**SPACE, "margin": 1}))
        deep = {**PLAN, "devices": [{"id": "a", "role": "camera", "vlan": 3}]}
        self.assertTrue(self.refusal("address-plan", deep).startswith("devices[0].vlan: "))
        self.assertIn("monday", self.refusal("week-hours", {"week": {"monday": []}}))
        reason = self.refusal("week-hours", {"week": {"mon": [["08:00", "18:00", "either"]]}})
        self.assertIn("allowed are always, movement, input, idle", reason)

    def test_a_missing_key_without_default_is_named(self):
        for name, given in (("disk-space", SPACE), ("event-clips", CLIPS), ("drive-array", ARRAY)):
            for key in given:
                with self.subTest(f"{name} without {key}"):
                    rest = {k: v for k, v in given.items() if k != key}
                    self.assertTrue(self.refusal(name, rest).startswith(f"{key}: "))

    def test_the_gateway_may_be_null_but_must_be_there(self):
        self.assertEqual(len(CALCULATORS["address-plan"].answer({**PLAN, "gateway": None})["addresses"]), 1)
        self.assertIn("gateway", self.refusal("address-plan", {k: v for k, v in PLAN.items() if k != "gateway"}))

    def test_null_stands_only_where_it_is_allowed(self):
        self.assertIn("recorded_h_per_day", self.refusal("disk-space", {**SPACE, "recorded_h_per_day": None}))
        self.assertIn("taken", self.refusal("address-plan", {**PLAN, "taken": None}))
        CALCULATORS["address-plan"].answer({**PLAN, "pool": None})

    def test_a_list_or_a_text_is_no_input(self):
        for given in ([], "x", 3, None, True):
            with self.subTest(repr(given)):
                self.refusal("days-kept", given)

    def test_outputs_hold_exactly_the_named_keys(self):
        cases = (
            ("disk-space", SPACE, {"gb"}),
            ("drive-array", ARRAY, {"usable_tb", "usable_tib", "drives_that_may_fail"}),
            ("days-kept", {"usable_tb": 1, "gb_per_day": 1}, {"days"}),
            ("event-clips", CLIPS, {"recorded_share", "recorded_h_per_day", "clips_per_day", "mean_clip_s"}),
            ("week-hours", {"week": {}}, {"hours"}),
            ("address-plan", PLAN, {"addresses"}),
        )
        for name, given, keys in cases:
            with self.subTest(name):
                self.assertEqual(set(CALCULATORS[name].answer(given)), keys)

    def test_a_result_that_is_not_finite_is_refused(self):
        self.assertIn("finite", self.refusal("event-clips", {**CLIPS, "events_per_h": 3600, "event_s": 1e6}))
        self.assertIn("finite", self.refusal("days-kept", {"usable_tb": 1e15, "gb_per_day": 5e-324}))

    def test_shares_and_hours_have_their_ends(self):
        for share in (0, 1):
            CALCULATORS["drive-array"].answer({**ARRAY, "reserve_share": share})
        self.assertIn("reserve_share", self.refusal("drive-array", {**ARRAY, "reserve_share": 1.0001}))
        self.assertIn("24", self.refusal("event-clips", {**CLIPS, "hours_per_day": 24.01}))

    def test_messages_say_what_was_given_and_what_is_allowed(self):
        self.assertEqual(
            self.refusal("drive-array", {**ARRAY, "level": "raid7"}),
            "level: \"raid7\" was given; allowed are 'span', 'mirror', 'raid5', 'raid6' or 'raid10'",
        )
        self.assertEqual(
            self.refusal("disk-space", {**SPACE, "recorded_h_per_day": 24.5}),
            "recorded_h_per_day: 24.5 was given; allowed is at most 24",
        )

    def test_every_calculator_describes_itself(self):
        for name, calculator in CALCULATORS.items():
            with self.subTest(name):
                self.assertIsInstance(calculator, Calculator)
                schema = calculator.schema()
                self.assertIs(schema["input"]["additionalProperties"], False)
                self.assertTrue(schema["output"]["properties"])
                self.assertTrue(calculator.formula and calculator.source and calculator.title)
                json.dumps(schema)

    def test_an_unknown_name_lists_the_known_ones(self):
        with self.assertRaises(RefusedInput) as caught:
            calculator_named("disk-spice")
        self.assertIn("disk-space", str(caught.exception))


class StrictJson(unittest.TestCase):
    def test_a_key_given_twice_is_refused_by_name(self):
        with self.assertRaises(RefusedInput) as caught:
            parse_json('{"days": 1, "days": 2}')
        self.assertIn("days", str(caught.exception))

    def test_broken_json_tells_line_and_column(self):
        with self.assertRaises(RefusedInput) as caught:
            parse_json('{"days": 1,\n  oops}')
        self.assertIn("line 2, column 3", str(caught.exception))

    def test_depth_and_size_are_survived(self):
        for text in ("[" * 100_000, '{"a":' * 50_000, "1" * 10_000):
            with self.subTest(text[:6]), self.assertRaises(RefusedInput):
                parse_json(text)


class DriveArrays(unittest.TestCase):
    def usable(self, **given):
        return CALCULATORS["drive-array"].answer({"drive_tb": 10, "reserve_share": 0, **given})

    def test_levels(self):
        cases = (
            ("span", 1, 10.0, 0),
            ("span", 5, 50.0, 0),
            ("mirror", 2, 10.0, 1),
            ("mirror", 4, 10.0, 3),
            ("raid5", 3, 20.0, 1),
            ("raid6", 4, 20.0, 2),
            ("raid10", 4, 20.0, 1),
            ("raid10", 6, 30.0, 1),
        )
        for level, drives, usable_tb, may_fail in cases:
            with self.subTest(f"{level} of {drives}"):
                got = self.usable(level=level, drives=drives)
                self.assertAlmostEqual(got["usable_tb"], usable_tb)
                self.assertEqual(got["drives_that_may_fail"], may_fail)

    def test_too_few_drives_are_refused_with_the_least(self):
        for level, drives, least in (("mirror", 1, "2"), ("raid5", 2, "3"), ("raid6", 3, "4"), ("raid10", 2, "4")):
            with self.subTest(level), self.assertRaises(RefusedInput) as caught:
                self.usable(level=level, drives=drives)
            self.assertIn(least, str(caught.exception))

    def test_spares_come_off_first(self):
        self.assertEqual(
            self.usable(level="raid5", drives=4, spares=1)["usable_tb"],
            self.usable(level="raid5", drives=3)["usable_tb"],
        )
        with self.assertRaises(RefusedInput):
            self.usable(level="span", drives=2, spares=2)
        with self.assertRaises(RefusedInput):
            self.usable(level="span", drives=2, spares=5)

    def test_ten_terabytes_show_as_nine_point_one(self):
        self.assertAlmostEqual(self.usable(level="span", drives=1)["usable_tib"], 9.0949, places=4)


if __name__ == "__main__":
    unittest.main()
