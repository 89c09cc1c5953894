"""How boxes and lines of the wiring diagram are drawn: the same on screen and on paper.

Everything is in the diagram's own units, at any painter's scale. Line width is load, dashes are radio, a double line is
fibre; what needs somebody is in the one warm colour, with its mark.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter, QPainterPath, QPen

from eager_lens.core.assess.finding import Severity
from eager_lens.core.present.diagram import Box, Diagram, Line
from eager_lens.desk.theme.look import NORMAL, SMALL, Look
from eager_lens.desk.widgets.basics import elided_name
from eager_lens.desk.widgets.marks import paint_mark

ROUND, PILE = 4.0, 3.0
"""Radius of a box's corners, and how far the second box of a pile lies off the first."""


class State(NamedTuple):
    """How a box or a line is shown: selected, under the keyboard, about to take what is dragged, or greyed."""

    selected: bool = False
    current: bool = False
    focused: bool = False
    over: bool = False
    dim: bool = False


PLAIN = State()

STEP = 20
"""Parts drawn between two places to stop."""


def line_width(load_mbps: float) -> float:
    """Width of a line by its load: from a hair for nothing to 9 px at 500 Mb/s, by the logarithm."""
    return min(9.0, 1.0 + 1.3 * math.log2(1 + load_mbps / 4))


def rect_of(box: Box) -> QRectF:
    """Where a box stands."""
    return QRectF(box.spot.x, box.spot.y, box.spot.width, box.spot.height)


def line_path(line: Line, boxes: Mapping[str, Box]) -> QPainterPath:
    """The way that a line takes between its boxes."""
    one, other = sorted((boxes[line.a], boxes[line.b]), key=lambda box: box.spot.column)
    start, end = rect_of(one), rect_of(other)
    path = QPainterPath()
    if one.spot.column != other.spot.column:
        path.moveTo(start.right(), start.center().y())
        bend = min(60.0, (end.left() - start.right()) * 0.55)
        path.cubicTo(
            QPointF(start.right() + bend, start.center().y()),
            QPointF(end.left() - bend, end.center().y()),
            QPointF(end.left(), end.center().y()),
        )
        return path
    upper, lower = (start, end) if start.top() < end.top() else (end, start)
    if abs(lower.top() - upper.bottom()) < 30:
        path.moveTo(upper.center().x(), upper.bottom())
        path.lineTo(upper.center().x(), lower.top())
    else:
        # A second way within a column goes round what stands between.
        path.moveTo(upper.right(), upper.center().y())
        reach = upper.right() + 34
        path.cubicTo(reach, upper.center().y(), reach, lower.center().y(), lower.right(), lower.center().y())
    return path


def draw_line(painter: QPainter, line: Line, path: QPainterPath, look: Look, state: State = PLAIN) -> None:
    """Draw a line along its path."""
    strong = state.selected or line.severity is not None
    alpha = 0.12 if state.dim else 1.0 if strong else 0.5
    width = line_width(line.load_mbps)
    pen = QPen(look.heat(line.share, alpha) if line.severity is None else look.color("need", alpha), width)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    if line.medium == "radio":
        # Dashes are counted in widths: a thick line would be nearly whole, a thin one dotted.
        pen.setDashPattern([max(1.6, 7 / width), max(1.0, 4 / width)])
    elif not line.in_tree:
        pen.setDashPattern([1.0, 1.5])
    if state.selected:
        painter.setPen(QPen(look.color("accent", 0.35), width + 6))
        painter.drawPath(path)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(pen)
    painter.drawPath(path)
    if line.medium == "fibre":
        # A light core makes the line double, whatever its width.
        painter.setPen(QPen(look.color("paper"), max(1.0, width * 0.35)))
        painter.drawPath(path)
    if line.severity is not None:
        paint_mark(painter, path.pointAtPercent(0.5), line.severity, 11, look)


def draw_box(painter: QPainter, box: Box, look: Look, state: State = PLAIN) -> None:
    """Draw a box with what stands in it."""
    rect = rect_of(box)
    painter.setOpacity(0.3 if state.dim else 1.0)
    lit = state.selected or state.over
    edge = "need" if box.severity is not None else "accent" if lit else "rule"
    painter.setBrush(look.color("tint" if lit else "panel" if box.kind == "internet" else "paper"))
    if box.opens:
        # What stands for many looks like a pile.
        painter.setPen(QPen(look.color(edge), 1))
        painter.drawRoundedRect(rect.translated(PILE, PILE), ROUND, ROUND)
    pen = QPen(look.color(edge), 2.2 if state.over or state.current else 1.2)
    if box.kind == "loose":
        pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    painter.drawRoundedRect(rect, ROUND, ROUND)
    if state.current and state.focused:
        painter.setPen(QPen(look.color("ink"), 1, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect.adjusted(-3, -3, 3, 3), ROUND + 1, ROUND + 1)
    if box.spot.height < 40:
        _draw_small(painter, box, rect, look)
    else:
        _draw_large(painter, box, rect, look)
    painter.setOpacity(1.0)


def _font(look: Look, size: int, strong: bool = False, figures: bool = False) -> QFont:
    """A font in the diagram's units: the painter's scale makes it larger, not the type size."""
    font = look.font(size, strong, figures)
    font.setPixelSize(size)
    return font


LEFT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
RIGHT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight


def _draw_text(painter: QPainter, area: QRectF, text: str, font: QFont) -> None:
    """Draw text at the left, shortened where there is no room."""
    painter.setFont(font)
    painter.drawText(area, LEFT, elided_name(QFontMetricsF(font), text, area.width()))


def _draw_figure(painter: QPainter, box: Box, area: QRectF, look: Look) -> float:
    """Draw the figure at the right; how wide it is."""
    font = _font(look, SMALL, figures=True)
    painter.setFont(font)
    painter.setPen(look.color("need" if box.bar_severity is Severity.FAULT else "ink"))
    painter.drawText(area, RIGHT, box.figure_words)
    return QFontMetricsF(font).horizontalAdvance(box.figure_words)


def _draw_small(painter: QPainter, box: Box, rect: QRectF, look: Look) -> None:
    inner = rect.adjusted(9, 0, -9, 0)
    if box.severity is not None:
        paint_mark(painter, QPointF(inner.right() - 4, rect.center().y()), box.severity, 11, look)
        inner.setWidth(inner.width() - 16)
    wide = _draw_figure(painter, box, inner, look)
    painter.setPen(look.color("ink"))
    _draw_text(painter, inner.adjusted(0, 0, -wide - 8, 0), box.title, _font(look, NORMAL))
    if box.opens is False:
        painter.setPen(look.color("muted"))
        painter.drawText(QRectF(rect.left() - 14, rect.top(), 12, rect.height()), LEFT, "▾")


def _draw_large(painter: QPainter, box: Box, rect: QRectF, look: Look) -> None:
    inner = rect.adjusted(9, 0, -9, 0)
    upper = QRectF(inner.left(), rect.top() + 5, inner.width(), 18)
    lower = QRectF(inner.left(), rect.top() + 22, inner.width(), 16)
    if box.severity is not None:
        paint_mark(painter, QPointF(inner.right() - 4, upper.center().y()), box.severity, 11, look)
        upper.setWidth(upper.width() - 16)
    painter.setPen(look.color("ink"))
    _draw_text(painter, upper, box.title, _font(look, NORMAL, strong=True))
    wide = _draw_figure(painter, box, lower, look)
    painter.setPen(look.color("muted"))
    sign = "▸ " if box.opens else ""
    _draw_text(painter, lower.adjusted(0, 0, -wide - 6, 0), sign + box.words, _font(look, SMALL))
    if box.bar_share is not None:
        groove = QRectF(inner.left(), rect.bottom() - 6, inner.width(), 2.5)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.color("rule"))
        painter.drawRect(groove)
        groove.setWidth(groove.width() * min(1.0, box.bar_share))
        painter.setBrush(look.color("need" if box.bar_severity is not None else "accent"))
        painter.drawRect(groove)


def drawn_whole(painter: QPainter, diagram: Diagram, look: Look) -> Iterator[float]:
    """Draw a whole diagram, in steps that tell how far it is (0 to 1)."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    parts: list[Box | Line] = [*diagram.lines, *diagram.boxes.values()]
    for at, part in enumerate(parts):
        if isinstance(part, Line):
            draw_line(painter, part, line_path(part, diagram.boxes), look)
        else:
            draw_box(painter, part, look)
        if not at % STEP:
            yield at / len(parts)
