"""Resolutions that cameras offer."""

import unittest

from eager_lens.core.reference.resolutions import SHAPES, of_width, sizes_like, smaller_than


class Resolutions(unittest.TestCase):
    def test_each_table_rises_and_has_its_shape(self):
        for ratio, sizes in SHAPES:
            with self.subTest(ratio):
                self.assertEqual(list(sizes), sorted(sizes))
                for width, height in sizes:
                    self.assertAlmostEqual(width / height / ratio, 1, delta=0.01)
                    self.assertEqual((width % 2, height % 2), (0, 0))

    def test_smaller_ones_are_of_the_same_shape(self):
        self.assertEqual(smaller_than(2688, 1520)[:3], [(2560, 1440), (2304, 1296), (1920, 1080)])
        self.assertEqual(smaller_than(2048, 1536)[0], (1600, 1200))
        self.assertEqual(smaller_than(640, 360), [])
        self.assertEqual(sizes_like(3072, 768), (), "a panorama has a shape of its own")

    def test_another_width_keeps_the_shape(self):
        self.assertEqual(of_width(2688, 1520, 1920), (1920, 1080))
        self.assertEqual(of_width(3072, 768, 1920), (1920, 480))


if __name__ == "__main__":
    unittest.main()
