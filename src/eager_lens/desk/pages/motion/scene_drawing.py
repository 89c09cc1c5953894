"""How zones, the line, marks and measures are drawn on a camera's picture."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from eager_lens.core.values.motion_rule import LEAST_LINE, CrossingLine, arrows
from eager_lens.desk.pages.motion.scene_shapes import Corners, LineShown, Marked, Point, Stick, ZoneShown
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL

BESIDE_PX = 110
"""How much room words beside the picture need."""


def scene_area(width: float, height: float) -> QRectF:
    """Where a picture of sixteen to nine is drawn in so much room."""
    if width * 9 > height * 16:
        return QRectF(0, 0, height * 16 / 9, height)
    return QRectF(0, 0, width, width * 9 / 16)


def placed(point: Point, area: QRectF) -> QPointF:
    """Where a point (shares of the picture) is drawn."""
    return QPointF(area.left() + point[0] * area.width(), area.top() + point[1] * area.height())


class SceneDrawing:
    """Draws on a picture that takes up ``area``."""

    def __init__(self, painter: QPainter, area: QRectF) -> None:
        self._painter, self._area = painter, area
        painter.setFont(look.font(SMALL))

    def _at(self, point: Point) -> QPointF:
        return placed(point, self._area)

    def caption(self, words: str, width: float, height: float) -> None:
        """A sentence beside or under the picture, in it where there is no room."""
        painter, area = self._painter, self._area
        under = QRectF(area.left(), area.bottom() + 4, width, height - area.bottom() - 4)
        beside = QRectF(area.right() + 8, 0, width - area.right() - 8, height)
        if under.height() >= painter.fontMetrics().height() or beside.width() >= look.px(BESIDE_PX):
            painter.setPen(look.color("muted"))
            free = beside if beside.width() >= look.px(BESIDE_PX) else under
            painter.drawText(free, Qt.TextFlag.TextWordWrap, words)
        elif words:
            self.say(area.bottomLeft() + QPointF(6, -8), words, "ink")

    def zone(self, zone: ZoneShown, corners: Corners, selected: bool) -> None:
        """A zone, hatched where it leaves out, dashed where it is only proposed."""
        painter, role = self._painter, "need" if zone.leave_out else "ink"
        style = Qt.PenStyle.DashLine if zone.proposed else Qt.PenStyle.SolidLine
        painter.setPen(QPen(look.on_picture(role), 3 if selected else 1.8, style))
        painter.setBrush(Qt.BrushStyle.BDiagPattern if zone.leave_out else Qt.BrushStyle.NoBrush)
        if zone.leave_out:
            brush = painter.brush()
            brush.setColor(look.on_picture("need", 0.5))
            painter.setBrush(brush)
        polygon = QPolygonF([self._at(corner) for corner in corners])
        painter.drawPolygon(polygon)
        words = "proposed exclusion" if zone.proposed else "excluded" if zone.leave_out else "zone"
        self.say(polygon.boundingRect().topLeft() + QPointF(6, 14), words, role)

    def handles(self, corners: Corners, current: int | None) -> None:
        """Corners to take hold of; the one that the keyboard moves is filled otherwise."""
        painter, half = self._painter, look.px(4)
        for at, corner in enumerate(corners):
            point = self._at(corner)
            painter.setPen(QPen(look.on_picture("paper"), 1))
            painter.setBrush(look.on_picture("need" if at == current else "ink"))
            painter.drawRect(QRectF(point.x() - half, point.y() - half, 2 * half, 2 * half))

    def line(self, line: LineShown, corners: Corners, selected: bool) -> None:
        """The line, with an arrow across for each direction that counts."""
        painter = self._painter
        begins, ends = self._at(corners[0]), self._at(corners[1])
        painter.setPen(QPen(look.on_picture("ink"), 3 if selected else 2))
        painter.drawLine(begins, ends)
        if math.dist(*corners) >= LEAST_LINE:
            across = CrossingLine(begins=corners[0], ends=corners[1], direction=line.direction)
            for middle, tip in arrows(across, self._area.height() / self._area.width()):
                self._arrow(self._at(middle), self._at(tip))
        self.say(begins + QPointF(8, -6), "line to cross", "ink")

    def _arrow(self, start: QPointF, tip: QPointF) -> None:
        long = max(1.0, math.hypot(tip.x() - start.x(), tip.y() - start.y()))
        along = (tip - start) / long
        across, wide = QPointF(-along.y(), along.x()), look.px(6)
        self._painter.drawLine(start, tip)
        for sign in (1, -1):
            self._painter.drawLine(tip, tip - along * wide + across * (sign * wide))

    def mark(self, mark: Marked) -> None:
        """A box with its words: white for what is there, orange for what was counted wrongly."""
        left, top, right, bottom = mark.box
        rect = QRectF(self._at((left, top)), self._at((right, bottom)))
        role = "need" if mark.false else "ink"
        self._painter.setBrush(Qt.BrushStyle.NoBrush)
        self._painter.setPen(QPen(look.on_picture(role), 2))
        self._painter.drawRect(rect)
        self.say(rect.topRight() + QPointF(5, 10), mark.words, role)

    def stick(self, stick: Stick) -> None:
        """A measure that stands on the ground."""
        foot, head = self._at(stick.foot), self._at((stick.foot[0], stick.foot[1] - stick.high))
        self._painter.setPen(QPen(look.on_picture("ink"), 3))
        self._painter.drawLine(foot, head)
        self._painter.drawLine(foot - QPointF(4, 0), foot + QPointF(4, 0))
        self.say(head + QPointF(6, 12), stick.words, "ink")

    def begun(self, start: Point, end: Point, is_line: bool) -> None:
        """A line or rectangle that is being dragged."""
        self._painter.setPen(QPen(look.on_picture("ink"), 1.5, Qt.PenStyle.DashLine))
        self._painter.setBrush(Qt.BrushStyle.NoBrush)
        if is_line:
            self._painter.drawLine(self._at(start), self._at(end))
        else:
            self._painter.drawRect(QRectF(self._at(start), self._at(end)).normalized())

    def say(self, at: QPointF, words: str, role: str) -> None:
        """Words on a dark ground of their own, so that they can be read on any picture, and inside it."""
        if not words:
            return
        painter, area = self._painter, self._area
        metrics = painter.fontMetrics()
        wide, high = metrics.horizontalAdvance(words) + 6, metrics.height() + 2
        x = max(area.left() + 4, min(at.x(), area.right() - wide))
        y = max(area.top() + metrics.ascent() + 2, min(at.y(), area.bottom() - metrics.descent() - 2))
        painter.fillRect(QRectF(x - 3, y - metrics.ascent() - 1, wide, high), look.on_picture("paper", 0.7))
        painter.setPen(look.on_picture(role))
        painter.drawText(QPointF(x, y), words)
