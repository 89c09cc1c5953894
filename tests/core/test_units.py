"""Figures as text, and the units that keys name."""

import unittest

from eager_lens.core.job.fields import number_from
from eager_lens.core.plain_text import inside, sentence_case
from eager_lens.core.units import count, feet_in_m, figure, fixed, unit_of


class Figures(unittest.TestCase):
    def test_about_three_digits_and_never_powers_of_ten(self):
        for value, text in (
            (0, "0"),
            (0.00042, "0.00042"),
            (0.5, "0.5"),
            (25.68, "25.7"),
            (31.0, "31"),
            (159.96, "160"),
            (1296, "1\u2009296"),
            (12345678.9, "12\u2009345\u2009679"),
            (-2.5, "-2.5"),
            (1e-9, "0"),
        ):
            with self.subTest(value):
                self.assertEqual(figure(value), text)

    def test_what_is_not_finite_has_a_word(self):
        self.assertEqual(figure(float("inf")), "without end")

    def test_columns_keep_their_places(self):
        self.assertEqual((fixed(2, 1), fixed(1234.56, 1)), ("2.0", "1\u2009234.6"))

    def test_counts(self):
        self.assertEqual((count(1, "camera"), count(36, "camera")), ("1 camera", "36 cameras"))
        self.assertEqual(count(2, "switch", "switches"), "2 switches")

    def test_the_unit_is_the_last_part_of_the_name(self):
        for key, unit in (
            ("rate_mbps", "Mb/s"),
            ("usable_tib", "TiB"),
            ("usable_tb", "TB"),
            ("gb_per_day", "GB a day"),
            ("recorded_h_per_day", "h a day"),
            ("events_per_h", "an hour"),
            ("pre_s", "s"),
            ("drives", ""),
            ("level", ""),
        ):
            with self.subTest(key):
                self.assertEqual(unit_of(key), unit)

    def test_feet_and_inches(self):
        for text, metres in (
            ("100 ft", 30.48), ("100'", 30.48), ("30'6\"", 9.2964), ("30' 6\"", 9.2964), ("30 ft 6 in", 9.2964), ("30′6″", 9.2964),
            ("30ft6in", 9.2964), ("30 feet 6 inches", 9.2964), ("30.5 ft", 9.2964), ("30'6", 9.2964),
            ("6 in", 0.1524), ("1 foot", 0.3048),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(feet_in_m(text), metres)
        for text in ("30", "30 m", "", "ft", "30'6'4", "thirty feet"):
            with self.subTest(text):
                self.assertIsNone(feet_in_m(text))


class TypedNumbers(unittest.TestCase):
    def test_as_people_write_them(self):
        for text, value in (
            ("12", 12),
            (" 12 fps ", 12),
            ("12.5", 12.5),
            ("12,5", 12.5),
            ("0,125", 0.125),
            ("1 296.5", 1296.5),
            ("1\u2009296", 1296),
            (".5", 0.5),
            ("5.", 5),
            ("-3", -3),
            ("1e3", 1000),
        ):
            with self.subTest(text):
                self.assertEqual(number_from(text, "fps"), value)

    def test_what_can_be_read_in_two_ways_is_refused(self):
        with self.assertRaises(ValueError) as caught:
            number_from("1,296")
        self.assertIn("ambiguous", str(caught.exception))

    def test_what_is_no_number(self):
        for text in ("", "fast", "1.2.3", "12 fps extra", "nan", "inf", "--1", ".", ",", "0x10"):
            with self.subTest(text), self.assertRaises(ValueError):
                number_from(text, "fps")


class InsideASentence(unittest.TestCase):
    def test_abbreviations_keep_their_capitals(self):
        for words, expected in (
            ("PoE budget", "PoE budget"),
            ("MAC address", "MAC address"),
            ("DHCP from", "DHCP from"),
            ("Name", "name"),
            ("Recorder PoE ports", "recorder PoE ports"),
            ("A", "a"),
        ):
            self.assertEqual(inside(words), expected)

    def test_by_themselves_words_begin_with_a_capital_and_names_keep_theirs(self):
        for words, expected in (
            ("power supply", "Power supply"),
            ("UPS", "UPS"),
            ("the NVR is off", "The NVR is off"),
            ("", ""),
        ):
            self.assertEqual(sentence_case(words), expected)


if __name__ == "__main__":
    unittest.main()
