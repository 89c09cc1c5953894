"""A picture with zones and a line on it: drawn by dragging, selected, moved and reshaped by mouse and keyboard, taken away."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.units import count
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.pages.motion.scene_drawing import SceneDrawing, placed, scene_area
from eager_lens.desk.pages.motion.scene_shapes import (
    Corners,
    LineShown,
    Marked,
    Point,
    Stick,
    ZoneShown,
    distance_to_side,
    moved_by,
    nearest_corner,
    with_corner,
    with_new_corner,
    without_corner,
)
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.marks import paint_focus

STEP = 0.02

LEAST = 0.03
"""A drag of less than this share of the picture is a press."""

HANDLE_PX = 9
"""How near to a corner a press takes it."""

Tool = Literal["exclude", "zone", "line"]

FIRST_ZONE: Corners = ((0.4, 0.4), (0.6, 0.4), (0.6, 0.6), (0.4, 0.6))
"""Where a zone is put that is made by keyboard."""


class SceneView(QWidget):
    """A grey picture, its zones, the line, and what is marked on it. It holds no rule: what is changed goes out, new zones
    come in."""

    accessible_role = AccessibleRole.Graphic

    drawn = Signal(object)
    """Corners of a rectangle that was dragged."""
    moved = Signal(int, object)
    """A zone's number and its new corners."""
    removed = Signal(int)
    line_drawn = Signal(object, object)
    line_removed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.tool: Tool = "exclude"
        self._image: QImage | None = None
        self._zones: tuple[ZoneShown, ...] = ()
        self._line: LineShown | None = None
        self._marks: tuple[Marked, ...] = ()
        self._sticks: tuple[Stick, ...] = ()
        self._selected = -1
        self._corner: int | None = None
        self._from: Point | None = None
        self._to: Point | None = None
        self._dragged: Corners | None = None
        self._caption = ""
        self.empty_words = "The scene is drawn here."
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(
            "Scene with zones. N adds a zone, Space selects the next, C its next corner, arrows move, plus adds a corner, "
            "Delete removes"
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

    def show_zones(self, zones: Sequence[ZoneShown], line: LineShown | None = None) -> None:
        """Show zones and a line over the picture."""
        if [zone.corners for zone in zones] != [zone.corners for zone in self._zones]:
            self._dragged = None
        self._zones, self._line = tuple(zones), line
        self._say()
        if self._selected >= len(self._zones) + (line is not None):
            self._selected, self._corner = -1, None
        self.update()

    def show_marks(self, marks: Sequence[Marked]) -> None:
        """Show boxes over the picture."""
        self._marks = tuple(marks)
        self.update()

    def show_sticks(self, sticks: Sequence[Stick]) -> None:
        """Show measures that stand on the ground."""
        self._sticks = tuple(sticks)
        self.update()

    def show_caption(self, words: str) -> None:
        """Show a sentence under or beside the picture; inside it, where there is no room."""
        self._caption = words
        self._say()
        self.update()

    def _say(self) -> None:
        """What is on the picture, in words."""
        out = sum(zone.leave_out for zone in self._zones)
        parts = [count(out, "exclusion zone"), count(len(self._zones) - out, "zone")]
        self.setAccessibleDescription(
            ", ".join([*parts, *(["a line to cross"] if self._line else [])]) + f". {self._caption}"
        )

    # ---- geometry ------------------------------------------------------------------------------------------------

    def area(self) -> QRectF:
        """Where the picture is drawn."""
        return scene_area(self.width(), self.height())

    def _at(self, point: Point) -> QPointF:
        return placed(point, self.area())

    def _share(self, point: QPointF) -> Point:
        area = self.area()
        x, y = (point.x() - area.left()) / area.width(), (point.y() - area.top()) / area.height()
        return min(1.0, max(0.0, x)), min(1.0, max(0.0, y))

    @property
    def _reach(self) -> Point:
        """How near to a corner a press takes it."""
        area = self.area()
        return look.px(HANDLE_PX) / area.width(), look.px(HANDLE_PX) / area.height()

    def _polygon(self, corners: Corners) -> QPolygonF:
        return QPolygonF([self._at(corner) for corner in corners])

    # ---- what is selected --------------------------------------------------------------------------------------------

    @property
    def _own(self) -> list[int]:
        """Numbers of what can be selected: zones that are not only proposed, and the line behind all zones."""
        own = [at for at, zone in enumerate(self._zones) if not zone.proposed]
        return own if self._line is None else [*own, len(self._zones)]

    def _corners_of(self, at: int) -> Corners:
        if at < len(self._zones):
            return self._zones[at].corners
        return () if self._line is None else (self._line.begins, self._line.ends)

    def _put(self, at: int, corners: Corners) -> None:
        """Tell of new corners."""
        if at < len(self._zones):
            self.moved.emit(at, corners)
        else:
            self.line_drawn.emit(*corners)

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw picture, zones, line, marks, and what is being dragged."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            area = self.area()
            if self._image is None:
                painter.fillRect(area, look.color("panel"))
                painter.setPen(look.color("muted"))
                painter.drawText(area, Qt.AlignmentFlag.AlignCenter, self.empty_words)
                paint_focus(painter, self)
                return
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(area, self._image)
            drawing = SceneDrawing(painter, area)
            drawing.caption(self._caption, self.width(), self.height())
            painter.setClipRect(area)
            for at, zone in enumerate(self._zones):
                self._draw_zone(drawing, at, zone)
            if self._line is not None:
                self._draw_line(drawing, self._line)
            for mark in self._marks:
                drawing.mark(mark)
            for stick in self._sticks:
                drawing.stick(stick)
            if self._from is not None and self._to is not None:
                drawing.begun(self._from, self._to, self.tool == "line")
            painter.setClipping(False)
            paint_focus(painter, self)

    def _draw_zone(self, drawing: SceneDrawing, at: int, zone: ZoneShown) -> None:
        selected = at == self._selected
        corners = self._dragged if selected and self._dragged is not None else zone.corners
        drawing.zone(zone, corners, selected)
        if selected:
            drawing.handles(corners, self._corner)

    def _draw_line(self, drawing: SceneDrawing, line: LineShown) -> None:
        selected = self._selected == len(self._zones)
        corners = self._dragged if selected and self._dragged is not None else (line.begins, line.ends)
        drawing.line(line, corners, selected)
        if selected:
            drawing.handles(corners, self._corner)

    # ---- mouse -------------------------------------------------------------------------------------------------------

    def _under(self, point: QPointF) -> int:
        """What lies under a point: the line where it is near, else the zone that is drawn last."""
        share = self._share(point)
        if self._line is not None and distance_to_side(share, self._line.begins, self._line.ends) < max(self._reach):
            return len(self._zones)
        holds = [
            at
            for at in self._own
            if at < len(self._zones)
            and self._polygon(self._zones[at].corners).containsPoint(point, Qt.FillRule.OddEvenFill)
        ]
        return holds[-1] if holds else -1

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take a corner, a shape, or begin a new one; with Ctrl a new one begins anywhere."""
        if self._image is None:
            return
        point = self._share(event.position())
        new = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self._dragged = self._to = None
        self._from = point
        if self._selected >= 0 and not new:
            self._corner = nearest_corner(self._corners_of(self._selected), point, self._reach)
            if self._corner is not None:
                self._dragged = self._corners_of(self._selected)
                self.update()
                return
        self._corner = None
        self._selected = -1 if new else self._under(event.position())
        if self._selected >= 0:
            self._dragged = self._corners_of(self._selected)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Draw on: a corner, a shape, or a new one."""
        if self._from is None:
            return
        point = self._share(event.position())
        if self._dragged is None:
            self._to = point
        elif self._corner is not None:
            self._dragged = with_corner(self._dragged, self._corner, point)
        else:
            corners = self._corners_of(self._selected)
            self._dragged = moved_by(corners, point[0] - self._from[0], point[1] - self._from[1])
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Tell what was drawn or moved, unless it was a press only."""
        begun, ended, self._from, self._to = self._from, self._to, None, None
        dragged, self._dragged = self._dragged, None
        if dragged is not None:
            if dragged != self._corners_of(self._selected):
                self._put(self._selected, dragged)
        elif begun is not None and ended is not None:
            (x1, y1), (x2, y2) = begun, ended
            if self.tool == "line":
                if math.dist(begun, ended) >= LEAST:
                    self.line_drawn.emit(begun, ended)
            elif abs(x2 - x1) >= LEAST and abs(y2 - y1) >= LEAST:
                left, right, top, bottom = min(x1, x2), max(x1, x2), min(y1, y2), max(y1, y2)
                self.drawn.emit(((left, top), (right, top), (right, bottom), (left, bottom)))
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """A new corner on the nearest side of the zone under the pointer."""
        at = self._under(event.position())
        if 0 <= at < len(self._zones):
            self._selected = at
            self.moved.emit(at, with_new_corner(self._zones[at].corners, self._share(event.position())))

    # ---- keyboard ----------------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """N makes a zone, Space selects the next, C its next corner, arrows move, plus adds a corner, Delete takes away."""
        steps = {
            Qt.Key.Key_Left: (-STEP, 0.0),
            Qt.Key.Key_Right: (STEP, 0.0),
            Qt.Key.Key_Up: (0.0, -STEP),
            Qt.Key.Key_Down: (0.0, STEP),
        }
        key, own = Qt.Key(event.key()), self._own
        is_selected = self._selected in own
        corners = self._corners_of(self._selected) if is_selected else ()
        is_zone = is_selected and self._selected < len(self._zones)
        if key == Qt.Key.Key_N:
            if self.tool == "line":
                self.line_drawn.emit((0.3, 0.7), (0.7, 0.7))
            else:
                self.drawn.emit(FIRST_ZONE)
        elif key == Qt.Key.Key_Space and own:
            self._selected = own[(own.index(self._selected) + 1) % len(own)] if is_selected else own[0]
            self._corner = None
        elif key == Qt.Key.Key_C and is_selected:
            self._corner = 0 if self._corner is None else (self._corner + 1) % len(corners)
        elif key in steps and is_selected:
            dx, dy = steps[key]
            if self._corner is not None and self._corner < len(corners):
                x, y = corners[self._corner]
                self._put(self._selected, with_corner(corners, self._corner, (x + dx, y + dy)))
            else:
                self._put(self._selected, moved_by(corners, dx, dy))
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Insert) and is_zone:
            at = self._corner or 0
            (x1, y1), (x2, y2) = corners[at], corners[(at + 1) % len(corners)]
            self._corner = at + 1
            self.moved.emit(self._selected, (*corners[: at + 1], ((x1 + x2) / 2, (y1 + y2) / 2), *corners[at + 1 :]))
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and is_selected:
            self._take_away(corners, is_zone)
        else:
            super().keyPressEvent(event)
        self.update()

    def _take_away(self, corners: Corners, is_zone: bool) -> None:
        """The corner that is selected, where more than three are left; else the whole zone or line."""
        if is_zone and self._corner is not None and len(corners) > 3:
            at, self._corner = self._corner, None
            self.moved.emit(self._selected, without_corner(corners, at))
        elif is_zone:
            self.removed.emit(self._selected)
        else:
            self.line_removed.emit()
