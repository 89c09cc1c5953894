"""A picture with zones on it: rectangles are drawn by dragging, chosen, moved by keyboard, and taken away."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL

STEP = 0.02

LEAST = 0.03
"""A drag of less than this share of the picture is a press."""

ZoneCorners = tuple[tuple[float, float], ...]


class ZoneShown(NamedTuple):
    """A zone: its corners in shares of the picture, whether it is left out, and whether it is only proposed."""

    corners: ZoneCorners
    leave_out: bool
    proposed: bool = False


class Marked(NamedTuple):
    """A box on the picture (shares) with a word: a trigger, or somebody who is really there."""

    box: tuple[float, float, float, float]
    words: str
    false: bool


class SceneView(QWidget):
    """A grey picture, its zones, and what is marked on it."""

    drawn = Signal(object)
    """Corners of a rectangle that was dragged."""
    moved = Signal(int, object)
    """A zone's number and its new corners."""
    removed = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self._image: QImage | None = None
        self._zones: tuple[ZoneShown, ...] = ()
        self._marks: tuple[Marked, ...] = ()
        self._chosen = -1
        self._from: QPointF | None = None
        self._to: QPointF | None = None
        self.empty_words = "The scene is drawn here."
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(
            "Scene with zones; drag to leave a part out, arrows move the chosen zone, Delete removes it"
        )
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """Sixteen to nine."""
        return QSize(look.px(416), look.px(234))

    def minimumSizeHint(self) -> QSize:
        """Small, but readable."""
        return QSize(look.px(240), look.px(135))

    def show_picture(self, grey: bytes, wide: int, high: int) -> None:
        """Show a picture of grey levels, row by row."""
        self._image = QImage(grey, wide, high, wide, QImage.Format.Format_Grayscale8).copy()
        self.update()

    def show_zones(self, zones: Sequence[ZoneShown]) -> None:
        """Show zones over the picture."""
        self._zones = tuple(zones)
        self._chosen = min(self._chosen, len(self._zones) - 1)
        self.update()

    def show_marks(self, marks: Sequence[Marked]) -> None:
        """Show boxes over the picture."""
        self._marks = tuple(marks)
        self.update()

    # ---- geometry ------------------------------------------------------------------------------------------------

    def area(self) -> QRectF:
        """Where the picture is drawn."""
        wide, high = float(self.width()), float(self.height())
        if wide * 9 > high * 16:
            wide = high * 16 / 9
        else:
            high = wide * 9 / 16
        return QRectF(0, 0, wide, high)

    def _at(self, x: float, y: float) -> QPointF:
        area = self.area()
        return QPointF(area.left() + x * area.width(), area.top() + y * area.height())

    def _share(self, point: QPointF) -> tuple[float, float]:
        area = self.area()
        x, y = (point.x() - area.left()) / area.width(), (point.y() - area.top()) / area.height()
        return min(1.0, max(0.0, x)), min(1.0, max(0.0, y))

    def _polygon(self, corners: ZoneCorners) -> QPolygonF:
        return QPolygonF([self._at(x, y) for x, y in corners])

    # ---- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw picture, zones, marks, and what is being dragged."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = self.area()
        if self._image is None:
            painter.fillRect(area, look.color("panel"))
            painter.setPen(look.color("muted"))
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, self.empty_words)
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(area, self._image)
        painter.setFont(look.font(SMALL))
        for at, zone in enumerate(self._zones):
            self._draw_zone(painter, zone, at == self._chosen and self.hasFocus())
        for mark in self._marks:
            left, top, right, bottom = mark.box
            rect = QRectF(self._at(left, top), self._at(right, bottom))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            role = "need" if mark.false else "ink"
            painter.setPen(QPen(look.on_picture(role), 2))
            painter.drawRect(rect)
            self._say(painter, rect.topRight() + QPointF(5, 10), mark.words, role)
        if self._from is not None and self._to is not None:
            painter.setPen(QPen(look.on_picture("ink"), 1.5, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(self._from, self._to).normalized())

    def _draw_zone(self, painter: QPainter, zone: ZoneShown, chosen: bool) -> None:
        role = "need" if zone.leave_out else "ink"
        style = Qt.PenStyle.DashLine if zone.proposed else Qt.PenStyle.SolidLine
        painter.setPen(QPen(look.on_picture(role), 3 if chosen else 1.8, style))
        painter.setBrush(Qt.BrushStyle.BDiagPattern if zone.leave_out else Qt.BrushStyle.NoBrush)
        polygon = self._polygon(zone.corners)
        if zone.leave_out:
            brush = painter.brush()
            brush.setColor(look.on_picture("need", 0.5))
            painter.setBrush(brush)
        painter.drawPolygon(polygon)
        words = "proposed: leave out" if zone.proposed else "left out" if zone.leave_out else "looks here"
        corner = polygon.boundingRect().topLeft() + QPointF(6, 14)
        over = corner.x() + painter.fontMetrics().horizontalAdvance(words) - self.area().right()
        self._say(painter, corner - QPointF(max(0.0, over + 4), 0), words, role)

    @staticmethod
    def _say(painter: QPainter, at: QPointF, words: str, role: str) -> None:
        """Words on a dark ground of their own, so that they can be read on any picture."""
        metrics = painter.fontMetrics()
        wide, high = metrics.horizontalAdvance(words) + 6, metrics.height() + 2
        painter.fillRect(QRectF(at.x() - 3, at.y() - metrics.ascent() - 1, wide, high), look.on_picture("paper", 0.7))
        painter.setPen(look.on_picture(role))
        painter.drawText(at, words)

    # ---- mouse and keyboard ----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose a zone, or begin a new one."""
        inside = [at for at, zone in enumerate(self._zones) if self._holds(zone, event.position())]
        self._chosen = inside[-1] if inside else -1
        self._from = event.position() if self._image is not None else None
        self._to = None
        self.update()

    def _holds(self, zone: ZoneShown, point: QPointF) -> bool:
        return self._polygon(zone.corners).containsPoint(point, Qt.FillRule.OddEvenFill) and not zone.proposed

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Draw the rectangle on."""
        if self._from is not None:
            self._to = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A rectangle was drawn, unless it was a press only."""
        begun, ended, self._from, self._to = self._from, self._to, None, None
        if begun is not None and ended is not None:
            (x1, y1), (x2, y2) = self._share(begun), self._share(ended)
            if abs(x2 - x1) >= LEAST and abs(y2 - y1) >= LEAST:
                left, right, top, bottom = min(x1, x2), max(x1, x2), min(y1, y2), max(y1, y2)
                self.drawn.emit(((left, top), (right, top), (right, bottom), (left, bottom)))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Tab goes from zone to zone inside with Space; arrows move the chosen one; Delete takes it away."""
        steps = {
            Qt.Key.Key_Left: (-STEP, 0.0),
            Qt.Key.Key_Right: (STEP, 0.0),
            Qt.Key.Key_Up: (0.0, -STEP),
            Qt.Key.Key_Down: (0.0, STEP),
        }
        key = Qt.Key(event.key())
        own = [at for at, zone in enumerate(self._zones) if not zone.proposed]
        if key == Qt.Key.Key_Space and own:
            self._chosen = own[(own.index(self._chosen) + 1) % len(own)] if self._chosen in own else own[0]
            self.update()
        elif key in steps and self._chosen in own:
            dx, dy = steps[key]
            corners = self._zones[self._chosen].corners
            dx = min(max(dx, -min(x for x, _ in corners)), 1 - max(x for x, _ in corners))
            dy = min(max(dy, -min(y for _, y in corners)), 1 - max(y for _, y in corners))
            self.moved.emit(self._chosen, tuple((x + dx, y + dy) for x, y in corners))
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self._chosen in own:
            self.removed.emit(self._chosen)
        else:
            super().keyPressEvent(event)
