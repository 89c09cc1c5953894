"""The bench's, the week's and the motion's own widgets by themselves: what they draw, select and say."""

import unittest
from datetime import date

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from eager_lens.core.recording.week import DAYS, Span
from eager_lens.desk.pages.bench.commissioning.time_chart import Bar, TimeChart
from eager_lens.desk.pages.bench.rehearsal.lights import OF_WORDS, lights_icon
from eager_lens.desk.pages.motion.chain_strip import ChainStrip, LinkShown
from eager_lens.desk.pages.motion.day_line import DayLine, LineRow
from eager_lens.desk.pages.motion.scene_view import Marked, SceneView, ZoneShown
from eager_lens.desk.pages.schedule.week_stack import StackRow, WeekStack
from eager_lens.desk.pages.schedule.year_board import DayShown, YearBoard, legend_words
from eager_lens.desk.start import application
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.basics import Choice

SQUARE = ((0.2, 0.2), (0.4, 0.2), (0.4, 0.4), (0.2, 0.4))


class WidgetCase(unittest.TestCase):
    def setUp(self):
        self.app = application()
        look.set_to(dark=False, large=False)
        self.said = []

    def shown(self, widget, wide=600, high=300):
        widget.resize(wide, high)
        widget.show()
        self.addCleanup(widget.deleteLater)
        QApplication.processEvents()
        return widget

    def image(self, widget):
        return widget.grab().toImage()

    def assert_changes(self, widget, change):
        """A change has to be seen."""
        before = self.image(widget)
        change()
        QApplication.processEvents()
        self.assertNotEqual(before, self.image(widget))

    def key(self, widget, key, modifier=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(widget, key, modifier)

    def press(self, widget, point):
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=QPointF(point).toPoint())


class Times(WidgetCase):
    def bars(self):
        return [
            Bar("a", "0:00  Lead", 0, 0, 60, 300, 0, False),
            Bar("b", "0:01  Recorder", 1, 60, 240, 240, 1, False),
            Bar("c", "0:05  Camera", 0, 300, 400, 500, 2, True),
        ]

    def chart(self):
        chart = TimeChart()
        chart.show_bars(self.bars(), 2, ("lead", "recorder", "camera"))
        chart.selected.connect(self.said.append)
        return self.shown(chart, 700, chart.sizeHint().height())

    def test_each_person_has_a_lane(self):
        chart = self.chart()
        first, second = (chart._block(bar) for bar in self.bars()[:2])
        self.assertLess(first.bottom(), second.top())
        self.assertAlmostEqual(first.right(), second.left(), delta=1, msg="one begins when the other ends")

    def test_a_press_chooses_and_the_wait_is_drawn_behind_it(self):
        chart = self.chart()
        self.assert_changes(chart, lambda: self.press(chart, chart._block(self.bars()[0]).center()))
        self.assertEqual(self.said, ["a"])
        self.press(chart, QPointF(2, 2))
        self.assertEqual(self.said, ["a"], "beside the blocks nothing is selected")

    def test_arrows_go_from_step_to_step_in_time_and_stop_at_the_ends(self):
        chart = self.chart()
        for _ in range(5):
            self.key(chart, Qt.Key.Key_Right)
        self.assertEqual(self.said, ["a", "b", "c", "c", "c"])
        self.key(chart, Qt.Key.Key_Left)
        self.assertEqual(self.said[-1], "b")

    def test_what_is_done_looks_different(self):
        chart = self.chart()
        done = [bar._replace(done=True) for bar in self.bars()]
        self.assert_changes(chart, lambda: chart.show_bars(done, 2, chart.kinds))

    def test_nothing_to_show_is_no_trouble(self):
        chart = TimeChart()
        chart.show_bars((), 1, ())
        self.shown(chart)
        self.image(chart)
        self.key(chart, Qt.Key.Key_Right)
        self.assertIsNone(chart.bar_at(QPointF(100, 10)))

    def test_it_grows_with_people_and_large_type(self):
        chart = self.chart()
        two = chart.sizeHint().height()
        chart.show_bars(self.bars(), 1, chart.kinds)
        self.assertLess(chart.sizeHint().height(), two)
        look.set_to(dark=False, large=True)
        chart.show_bars(self.bars(), 2, chart.kinds)
        self.assertGreater(chart.sizeHint().height(), two)


class Lights(WidgetCase):
    def test_every_state_has_a_picture_of_its_own(self):
        pictures = {}
        for words in OF_WORDS:
            image = lights_icon(words).pixmap(40, 14).toImage()
            self.assertNotIn(image, pictures.values(), words)
            pictures[words] = image

    def test_an_unknown_state_is_dark(self):
        unknown, dark = (lights_icon(words).pixmap(40, 14).toImage() for words in ("humming", "dark"))
        self.assertEqual(unknown, dark)

    def test_both_themes_have_their_own(self):
        light = lights_icon("ready").pixmap(40, 14).toImage()
        look.set_to(dark=True, large=False)
        self.assertNotEqual(light, lights_icon("ready").pixmap(40, 14).toImage())


class Years(WidgetCase):
    def board(self):
        board = YearBoard()
        board.show_year(2026, {date(2026, 5, 4): DayShown(1, "Closed", 1440), date(2026, 3, 29): DayShown(0, "", 1380)})
        board.dates_selected.connect(lambda first, last: self.said.append((first, last)))
        return self.shown(board, 700, board.sizeHint().height())

    def test_a_day_is_where_it_is_drawn(self):
        board = self.board()
        for day in (date(2026, 1, 1), date(2026, 2, 28), date(2026, 12, 31)):
            self.assertEqual(board._day_at(board.cell(day).center()), day)
        self.assertIsNone(
            board._day_at(board.cell(date(2026, 1, 30)).center() + QPointF(0, look.px(22))), "30 February"
        )
        self.assertIsNone(board._day_at(QPointF(3, 60)))

    def test_seasons_and_clock_changes_are_seen(self):
        board = self.board()
        self.assert_changes(board, lambda: board.show_year(2026, {}))

    def test_the_keyboard_stays_in_the_year(self):
        board = self.board()
        self.press(board, board.cell(date(2026, 12, 30)).center())
        for _ in range(5):
            self.key(board, Qt.Key.Key_Right)
        self.key(board, Qt.Key.Key_Return)
        self.assertEqual(self.said[-1], (date(2026, 12, 31), date(2026, 12, 31)))
        self.key(board, Qt.Key.Key_PageUp, Qt.KeyboardModifier.ShiftModifier)
        self.key(board, Qt.Key.Key_Return)
        self.assertEqual(self.said[-1], (date(2026, 12, 1), date(2026, 12, 31)))

    def test_another_year_keeps_the_place(self):
        board = self.board()
        self.press(board, board.cell(date(2026, 2, 28)).center())
        board.show_year(2028, {})
        self.assertEqual(board.selected, (date(2028, 2, 28), date(2028, 2, 28)))

    def test_the_legend_numbers_the_seasons(self):
        self.assertEqual(legend_words(["Closed", "Fair"]), "1 Closed   2 Fair")


class Stacks(WidgetCase):
    def stack(self):
        always = tuple((Span(0, 1440, "continuous"),) for _ in DAYS)
        night = tuple((Span(0, 360, "motion"),) for _ in DAYS)
        stack = WeekStack()
        stack.selected.connect(self.said.append)
        stack.show_rows([StackRow("cam-1", "1", "Gate", always), StackRow("cam-2", "2", "Yard", night)], frozenset())
        return self.shown(stack, 700, stack.sizeHint().height())

    def test_a_row_chooses_its_camera(self):
        stack = self.stack()
        self.press(stack, stack._row_rect(1).center())
        self.press(stack, QPointF(60, stack.height() - 4))
        self.assertEqual(self.said, ["cam-2"])

    def test_only_what_records_always_counts_at_once(self):
        self.assertEqual(set(self.stack()._at_once), {1})

    def test_the_chosen_row_is_marked(self):
        stack = self.stack()
        self.assert_changes(stack, lambda: stack.show_rows(stack._rows, frozenset({"cam-1"})))


class Scenes(WidgetCase):
    def scene(self, zones=()):
        view = SceneView()
        view.show_picture(bytes([90]) * (160 * 90), 160, 90)
        view.show_zones(zones)
        view.drawn.connect(self.said.append)
        view.moved.connect(lambda at, corners: self.said.append((at, corners)))
        view.removed.connect(self.said.append)
        return self.shown(view, 640, 400)

    def test_the_picture_keeps_its_shape(self):
        area = self.scene().area()
        self.assertAlmostEqual(area.width() / area.height(), 16 / 9)

    def test_a_press_chooses_the_zone_under_it_and_delete_takes_it_away(self):
        view = self.scene([ZoneShown(SQUARE, True)])
        self.press(view, view._at((0.3, 0.3)))
        self.key(view, Qt.Key.Key_Delete)
        self.assertEqual(self.said, [0])
        self.press(view, view._at((0.8, 0.8)))
        self.key(view, Qt.Key.Key_Delete)
        self.assertEqual(self.said, [0], "beside it nothing is selected")

    def test_what_is_only_proposed_cannot_be_changed(self):
        view = self.scene([ZoneShown(SQUARE, True, True)])
        self.press(view, view._at((0.3, 0.3)))
        for key in (Qt.Key.Key_Space, Qt.Key.Key_Right, Qt.Key.Key_Delete):
            self.key(view, key)
        self.assertEqual(self.said, [])

    def test_zones_and_marks_are_seen(self):
        view = self.scene()
        self.assert_changes(view, lambda: view.show_zones([ZoneShown(SQUARE, True)]))
        self.assert_changes(view, lambda: view.show_marks([Marked((0.5, 0.5, 0.6, 0.8), "person", False)]))

    def test_without_a_picture_it_says_so_and_takes_no_zone(self):
        view = SceneView()
        view.drawn.connect(self.said.append)
        self.shown(view, 400, 225)
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPointF(20, 20).toPoint())
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPointF(200, 200).toPoint())
        self.assertEqual(self.said, [])


class DayLines(WidgetCase):
    def line(self):
        line = DayLine()
        line.picked.connect(lambda at_s, row: self.said.append(at_s))
        rows = [
            LineRow("Truth", "ink", ((3600, 3700), (7200, 7300))),
            LineRow("False", "need", ((50_000, 50_001),)),
        ]
        line.show_rows(rows, ((0, 1800),))
        return self.shown(line, 800, line.sizeHint().height())

    def test_a_press_goes_to_the_nearest_of_its_row(self):
        line = self.line()
        self.press(line, QPointF(line._x(6500), 8))
        self.press(line, QPointF(line._x(6500), 30))
        self.assertEqual(self.said, [7200, 50_000])

    def test_arrows_go_through_all_rows_in_time(self):
        line = self.line()
        for _ in range(4):
            self.key(line, Qt.Key.Key_Right)
            line.show_moment(self.said[-1])
        self.key(line, Qt.Key.Key_Left)
        self.assertEqual(self.said, [3600, 7200, 50_000, 50_000, 7200])

    def test_an_empty_day_is_no_trouble(self):
        line = DayLine()
        line.show_rows((), ())
        self.shown(line)
        self.key(line, Qt.Key.Key_Right)
        self.press(line, QPointF(100, 5))
        self.image(line)


class Chains(WidgetCase):
    def test_a_broken_link_is_seen_and_said(self):
        strip = ChainStrip()
        strip.show_links([LinkShown("rule", True, "on"), LinkShown("port", True, "both 80")])
        self.shown(strip, 400, strip.sizeHint().height())
        self.assertNotIn("broken", strip.accessibleName())
        broken = [LinkShown("rule", True, "on"), LinkShown("port", False, "80 and 81")]
        self.assert_changes(strip, lambda: strip.show_links(broken))
        self.assertIn("port: 80 and 81, broken", strip.accessibleName())


class Choices(WidgetCase):
    def test_the_arrow_is_drawn_in_both_themes(self):
        images = []
        for dark in (False, True):
            look.set_to(dark=dark, large=False)
            box = Choice()
            box.addItem("")
            self.shown(box, 120, 28)
            image = self.image(box)
            right = {image.pixelColor(x, 14).name() for x in range(100, 118)}
            self.assertGreater(len(right), 1, "something is drawn at the right")
            images.append(image)
        self.assertNotEqual(*images)


if __name__ == "__main__":
    unittest.main()
