"""Decimal and thousands marks: found from the column, never guessed in silence."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from eager_lens.core.incoming.number_marks import marks_in, with_point
from tests.properties import tried


class Marks(unittest.TestCase):
    def test_what_cells_show(self):
        for cells, decimal in (
            (["12,5", "10"], ","),
            (["12.5"], "."),
            (["1.299,00"], ","),
            (["1,299.00"], "."),
            (["1.234.567"], ","),
            (["0,125"], ","),
            (["4.096", "2,5"], ","),
            (["4.096", "2.5"], "."),
            (["€ 99,90"], ","),
            (["1 299,5"], ","),
            (["2048.125"], "."),
        ):
            with self.subTest(cells):
                self.assertEqual(marks_in(cells)[:2], (decimal, True))

    def test_what_they_do_not_show(self):
        self.assertIsNone(marks_in(["12", "", "none", "A7"]))
        for cells in (["4.096", "2.048"], ["4,096"], ["1.5", "2,5"]):
            with self.subTest(cells):
                self.assertFalse(marks_in(cells).is_certain)
        self.assertEqual(marks_in(["4.096", "8"]).example, "4.096")

    def test_written_with_a_point(self):
        for text, decimal, wanted in (
            ("1.299,00", ",", "1299.00"),
            ("4.096 kb/s", ",", "4096 kb/s"),
            ("€ 1,299.50", ".", "€ 1299.50"),
            ("12", ",", "12"),
            ("1 299,5", ",", "1299.5"),
            ("-0,5", ",", "-0.5"),
        ):
            with self.subTest(text):
                self.assertEqual(with_point(text, decimal), wanted)
        for text, decimal in (("1,29,9", "."), ("1.2.3,4", ","), ("12,5", "."), ("1,5.5", ",")):
            with self.subTest(text), self.assertRaises(ValueError):
                with_point(text, decimal)

    @tried(200)
    @given(st.integers(0, 9_999_999), st.integers(0, 99), st.sampled_from([".", ","]))
    def test_a_number_written_either_way_is_read_back(self, whole, hundredths, decimal):
        text = f"{whole:,}.{hundredths:02}".translate(str.maketrans(",.", ",." if decimal == "." else ".,"))
        found = marks_in([text])
        self.assertEqual(found[:2], (decimal, True))
        self.assertAlmostEqual(float(with_point(text, decimal)), whole + hundredths / 100)


if __name__ == "__main__":
    unittest.main()
