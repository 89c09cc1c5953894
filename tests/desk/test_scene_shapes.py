"""Shapes on a picture as they are moved and reshaped, and the chart of settings."""

import unittest

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from eager_lens.desk.pages.motion.scene_shapes import (
    LineShown,
    distance_to_side,
    moved_by,
    nearest_corner,
    with_corner,
    with_new_corner,
    without_corner,
)
from eager_lens.desk.pages.motion.scene_view import SceneView
from eager_lens.desk.pages.motion.tradeoff_chart import Spot, TradeoffChart, Tried
from eager_lens.desk.start import application

SQUARE = ((0.2, 0.2), (0.4, 0.2), (0.4, 0.4), (0.2, 0.4))


class Shapes(unittest.TestCase):
    def test_a_shape_stops_at_the_edges_and_keeps_its_form(self):
        moved = moved_by(SQUARE, -0.5, 0.9)
        self.assertAlmostEqual(moved[0][0], 0.0)
        self.assertAlmostEqual(moved[2][1], 1.0)
        for (x, y), (x0, y0) in zip(moved, SQUARE, strict=True):
            self.assertAlmostEqual(x - x0, -0.2)
            self.assertAlmostEqual(y - y0, 0.6)

    def test_a_corner_stays_in_the_picture(self):
        self.assertEqual(with_corner(SQUARE, 2, (1.4, -0.1))[2], (1.0, 0.0))

    def test_a_new_corner_comes_on_the_nearest_side(self):
        self.assertEqual(with_new_corner(SQUARE, (0.41, 0.3)), (*SQUARE[:2], (0.41, 0.3), *SQUARE[2:]))
        self.assertEqual(with_new_corner(SQUARE, (0.19, 0.3))[-1], (0.19, 0.3), "on the side that closes it")

    def test_three_corners_are_left_at_least(self):
        three = without_corner(SQUARE, 1)
        self.assertEqual(three, (SQUARE[0], *SQUARE[2:]))
        self.assertEqual(without_corner(three, 0), three)

    def test_how_far_a_point_is_from_a_side_and_beyond_its_ends(self):
        self.assertAlmostEqual(distance_to_side((0.3, 0.1), *SQUARE[:2]), 0.1)
        self.assertAlmostEqual(distance_to_side((0.5, 0.2), *SQUARE[:2]), 0.1)
        self.assertAlmostEqual(distance_to_side((0.5, 0.6), (0.2, 0.2), (0.2, 0.2)), 0.5)

    def test_only_a_corner_within_reach_is_taken(self):
        self.assertEqual(nearest_corner(SQUARE, (0.41, 0.21), (0.02, 0.02)), 1)
        self.assertIsNone(nearest_corner(SQUARE, (0.3, 0.3), (0.02, 0.02)))


class Drawn(unittest.TestCase):
    def setUp(self):
        application()

    def image(self, widget):
        widget.resize(640, 420)
        return widget.grab().toImage()

    def test_each_way_across_a_line_looks_otherwise(self):
        view = SceneView()
        view.show_picture(bytes([90]) * (160 * 90), 160, 90)
        seen = []
        for direction in ("either way", "to the right", "to the left"):
            view.show_zones((), LineShown((0.2, 0.8), (0.8, 0.8), direction))
            seen.append(self.image(view))
        self.assertTrue(seen[0] != seen[1] != seen[2] != seen[0])

    def test_words_stand_under_the_picture_or_beside_it(self):
        view = SceneView()
        view.show_picture(bytes([90]) * (160 * 90), 160, 90)
        for wide, high in ((640, 420), (900, 300), (640, 361)):
            view.resize(wide, high)
            view.show_caption("")
            before = view.grab().toImage()
            view.show_caption("What usually is there.")
            self.assertNotEqual(view.grab().toImage(), before, (wide, high))


class Chart(unittest.TestCase):
    def setUp(self):
        application()
        self.chart = TradeoffChart()
        self.picked = []
        self.chart.picked.connect(self.picked.append)
        self.tried = [
            Tried(per_h, missed, f"{per_h} an hour", False) for per_h, missed in ((0, 0.4), (9, 0.1), (80, 0))
        ]
        self.chart.show_settings(self.tried, [(self.tried, False)], [Spot(80, 0, "now", "now")])
        self.chart.resize(320, 220)
        self.chart.show()
        self.addCleanup(self.chart.close)

    def test_fewer_false_alarms_are_to_the_left_and_fewer_misses_below(self):
        few, some, many = (self.chart._point(one.false_per_h, one.missed_share) for one in self.tried)
        self.assertTrue(few.x() < some.x() < many.x())
        self.assertTrue(few.y() < some.y() < many.y())

    def test_a_press_takes_the_setting_there_and_nothing_elsewhere(self):
        point = self.chart._point(9, 0.1)
        QTest.mouseClick(self.chart, Qt.MouseButton.LeftButton, pos=point.toPoint())
        QTest.mouseClick(self.chart, Qt.MouseButton.LeftButton, pos=(point + QPointF(60, -60)).toPoint())
        self.assertEqual(self.picked, [1])

    def test_arrows_go_from_left_to_right_and_round(self):
        for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Right, Qt.Key.Key_Right):
            QTest.keyClick(self.chart, key)
        QTest.keyClick(self.chart, Qt.Key.Key_Return)
        self.assertEqual(self.picked, [1, 0])

    def test_nothing_tried_says_what_to_do(self):
        self.chart.empty_words = "Suggest a better rule"
        before = self.chart.grab().toImage()
        self.chart.show_settings((), (), ())
        self.assertNotEqual(self.chart.grab().toImage(), before)
        QTest.keyClick(self.chart, Qt.Key.Key_Return)
        self.assertEqual(self.picked, [])


if __name__ == "__main__":
    unittest.main()
