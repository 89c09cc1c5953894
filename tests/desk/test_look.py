"""Colours that can be read, marks that need no colour, icons and fonts that ship."""

import unittest
from unittest import mock

from PySide6.QtCore import QEvent, QPoint, QPointF
from PySide6.QtGui import QFontInfo, QFontMetrics, QHelpEvent, QImage, QPainter

from eager_lens.core.assess.finding import Severity
from eager_lens.core.present.stages import STAGES
from eager_lens.core.recording.week import MODES
from eager_lens.desk.pages.schedule.week_strip import paint_mode
from eager_lens.desk.start import application
from eager_lens.desk.theme import look
from eager_lens.desk.theme.palette import DARK, LIGHT
from eager_lens.desk.widgets.axes import ticks
from eager_lens.desk.widgets.basics import Choice, elided_name
from eager_lens.desk.widgets.curve import CurveChart, CurveData, Level
from eager_lens.desk.widgets.marks import paint_mark


def contrast(first, second):
    """Contrast of two colours, 1 to 21 (WCAG 2.2, relative luminance)."""
    bright, dim = sorted((_luminance(first), _luminance(second)), reverse=True)
    return (bright + 0.05) / (dim + 0.05)


def _luminance(code):
    parts = [int(code[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


class Contrast(unittest.TestCase):
    def test_text_on_its_ground_in_both_themes(self):
        for name, palette in (("light", LIGHT), ("dark", DARK)):
            for text, ground in (
                ("ink", "paper"),
                ("ink", "panel"),
                ("ink", "tint"),
                ("muted", "paper"),
                ("muted", "panel"),
                ("need", "paper"),
                ("need", "panel"),
                ("accent", "paper"),
                ("on_accent", "accent"),
            ):
                with self.subTest(theme=name, text=text, ground=ground):
                    self.assertGreaterEqual(contrast(getattr(palette, text), getattr(palette, ground)), 4.5)

    def test_the_measure_itself(self):
        self.assertAlmostEqual(contrast("#000000", "#FFFFFF"), 21)
        self.assertAlmostEqual(contrast("#777777", "#777777"), 1)
        self.assertAlmostEqual(contrast("#767676", "#FFFFFF"), 4.54, places=2)


class Painted(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        application()

    def grey(self, paint, size=40):
        """What a grey printer shows: the lightness of every pixel."""
        image = QImage(size, size, QImage.Format.Format_RGB32)
        image.fill(look.color("paper"))
        painter = QPainter(image)
        paint(painter)
        painter.end()
        return [image.pixelColor(x, y).lightness() for x in range(size) for y in range(size)]

    def test_marks_are_told_apart_without_colour(self):
        shown = [
            self.grey(lambda p, s=severity: paint_mark(p, QPointF(20, 20), s, 24)) for severity in (*Severity, None)
        ]
        for at, one in enumerate(shown):
            for other in shown[at + 1 :]:
                different = sum(abs(a - b) > 40 for a, b in zip(one, other, strict=True))
                self.assertGreater(different, 40)

    def test_week_modes_are_told_apart_without_colour(self):
        from PySide6.QtCore import QRectF

        inks = [
            sum(255 - value for value in self.grey(lambda p, m=mode: paint_mode(p, QRectF(0, 0, 40, 40), m)))
            for mode in MODES
        ]
        self.assertEqual(len({round(ink / 4000) for ink in inks}), len(MODES), inks)

    def test_every_stage_has_an_icon_and_fonts_ship_with_the_program(self):
        for stage in (*STAGES, "mark", "eager-lens", "right", "down"):
            self.assertFalse(look.pixmap(stage, 32).toImage().isNull())
        self.assertEqual(QFontInfo(look.font()).family(), "Inter")
        self.assertEqual(QFontInfo(look.font(figures=True)).family(), "B612")

    def test_charts_draw_whatever_they_are_given(self):
        chart = CurveChart("none yet")
        chart.resize(300, 200)
        for data in (
            None,
            CurveData((1.0, 2.0), (0.0, 0.0), (0.0, 0.0), (0.0, 0.0), "x", "y"),
            CurveData((1.0, 2.0), (1e9, 1.0), (1e8, 0.5), (1e12, 2.0), "x", "y", (Level(1e9, "asked", True),), 1.0),
        ):
            chart.show_data(data)
            self.assertFalse(chart.grab().isNull())

    def test_ticks_are_round_and_inside(self):
        for low, high in ((0, 1), (0, 97), (0.5, 10), (640, 3840), (0, 1e-6)):
            with self.subTest(high):
                got = ticks(low, high)
                self.assertTrue(2 <= len(got) <= 12)
                self.assertTrue(all(low - 1e-9 <= value <= high * (1 + 1e-9) for value in got))
        self.assertEqual(ticks(3, 3), [3])


if __name__ == "__main__":
    unittest.main()


class Shortened(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        application()

    def test_names_that_begin_alike_stay_apart(self):
        metrics = QFontMetrics(look.font())
        whole = [f"Main building, corridor {at}" for at in (1, 2)]
        room_px = 0.7 * metrics.horizontalAdvance(whole[0])
        short = [elided_name(metrics, name, room_px) for name in whole]
        self.assertEqual([name[-1] for name in short], ["1", "2"])
        self.assertTrue(all(metrics.horizontalAdvance(name) <= room_px for name in short))

    def test_a_list_shows_what_there_is_room_for_and_says_the_rest(self):
        choice = Choice()
        choice.addItem("Car hall, lamps switched, trams pass")
        choice.resize(150, 30)
        self.assertTrue(choice.shown_words().endswith("…"))
        with mock.patch("eager_lens.desk.widgets.basics.show_tip") as shown:
            choice.event(QHelpEvent(QEvent.Type.ToolTip, QPoint(5, 5), QPoint(5, 5)))
        self.assertEqual(shown.call_args.args[1], "Car hall, lamps switched, trams pass")
        choice.resize(500, 30)
        self.assertEqual(choice.shown_words(), choice.currentText())
