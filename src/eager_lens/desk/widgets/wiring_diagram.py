"""The wiring diagram on screen: pan, zoom, travel by keyboard, choose, open and fold, plug in by dragging.

What is drawn comes whole from ``core.assess.diagram``; nothing is placed by hand. Line width is load, dashes are radio,
a double line is fibre; what needs somebody is in the one warm colour, with its mark.
"""

from __future__ import annotations

import math

from PySide6.QtCore import QBuffer, QMarginsF, QPoint, QPointF, QRect, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPageSize,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPdfWriter,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QApplication, QSizePolicy, QWidget

from eager_lens.core.assess.diagram import LOOSE, Box, Diagram, Line
from eager_lens.core.units import count, figure
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import NORMAL, SMALL
from eager_lens.desk.widgets.dragging import DEVICES, devices_from
from eager_lens.desk.widgets.marks import paint_mark
from eager_lens.desk.widgets.plain_words import show_tip

SMALLEST_ZOOM, LARGEST_ZOOM = 0.08, 3.0
READABLE_ZOOM = 0.8
"""A diagram is not shrunk below this to fit; it is panned instead."""

NEARLY_FULL = 0.8
"""From here on a bar asks for somebody: a fifth is usually left spare."""

MARGIN = 12.0
EXPORT_MARGIN = 24.0


class WiringDiagram(QWidget):
    """Draws a ``Diagram``. Widths and distances grow with the type size."""

    picked = Signal(object)
    """A Box or a Line was chosen, or None."""
    toggled = Signal(str)
    """A box is to be opened or folded, by its id."""
    dropped = Signal(object, str)
    """Devices (ids) were dropped on a device (id)."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._diagram = Diagram({}, (), {})
        self._chosen: frozenset[str] = frozenset()
        self._current: str | None = None
        self._line: str | None = None
        self._dimmed: frozenset[str] | None = None
        self._zoom, self._left, self._top = 1.0, 0.0, 0.0
        self._fitted = True
        self._pressed: QPointF | None = None
        self._pressed_box: Box | None = None
        self._moved: QPointF | None = None
        self._dragging = False
        self._over: str | None = None
        self.empty_words = "Nothing is plugged in yet."
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(look.px(150))
        self.setAccessibleName("Wiring diagram")
        look.changed.connect(self._look_changed)

    def sizeHint(self) -> QSize:
        """A comfortable size."""
        return QSize(look.px(640), look.px(320))

    def _look_changed(self) -> None:
        if self._fitted:
            self.fit()
        self.update()

    # ---- what is shown -------------------------------------------------------------------------------------------

    @property
    def shown(self) -> Diagram:
        """The diagram that is drawn now."""
        return self._diagram

    @property
    def current(self) -> str | None:
        """The box that the keyboard is at, by id."""
        return self._current

    def show_diagram(self, diagram: Diagram, chosen: frozenset[str]) -> None:
        """Draw another diagram; the view stays where it is, unless everything was in sight."""
        same_size = (diagram.width, diagram.height) == (self._diagram.width, self._diagram.height)
        self._diagram, self._chosen = diagram, chosen
        if self._current not in diagram.boxes:
            self._current = None
        if self._line not in {line.id for line in diagram.lines}:
            self._line = None
        if self._fitted and not same_size:
            self.fit()
        self.update()

    def forget(self) -> None:
        """Begin anew: nothing current, and what is shown next is fitted."""
        self._diagram, self._current, self._line, self._fitted = Diagram({}, (), {}), None, None, True

    def show_chosen(self, chosen: frozenset[str]) -> None:
        """Show which devices are chosen."""
        self._chosen = chosen
        self.update()

    def show_lost(self, lost: frozenset[str] | None) -> None:
        """Grey out everything but what is lost with a part; None: show everything as usual."""
        self._dimmed = lost
        self.update()

    def lead_to(self, box_id: str) -> None:
        """Make a box the current one, and bring it into sight."""
        if box_id in self._diagram.boxes:
            self._current, self._line = box_id, None
            self._into_sight(self._rect(self._diagram.boxes[box_id]))
            self._tell()
            self.update()

    def choose_line(self, line_id: str) -> None:
        """Make a line the current thing."""
        self._line, self._current = line_id, None
        self.update()

    def _tell(self) -> None:
        box = self._diagram.boxes.get(self._current or "")
        if box is not None:
            self.setAccessibleDescription(_told(box))

    # ---- geometry ------------------------------------------------------------------------------------------------

    def _scale(self) -> float:
        return self._zoom * look.px(100) / 100

    def _point(self, x: float, y: float) -> QPointF:
        scale = self._scale()
        return QPointF(self._left + x * scale, self._top + y * scale)

    def _rect(self, box: Box) -> QRectF:
        scale = self._scale()
        return QRectF(self._point(box.spot.x, box.spot.y), QSizeF(box.spot.width * scale, box.spot.height * scale))

    def rect_of(self, box_id: str) -> QRect:
        """Where a box is drawn, in the widget."""
        return self._rect(self._diagram.boxes[box_id]).toRect()

    def fit(self) -> None:
        """Show everything, as large as it goes; what would get too small to read is panned to instead."""
        self._fitted = True
        wide, tall = max(1.0, self._diagram.width), max(1.0, self._diagram.height)
        unit = look.px(100) / 100
        fits = min((self.width() - 2 * MARGIN) / (wide * unit), (self.height() - 2 * MARGIN) / (tall * unit))
        self._zoom = min(1.0, max(fits, READABLE_ZOOM))
        scale = self._scale()
        self._left = max(MARGIN, (self.width() - wide * scale) / 2)
        self._top = (self.height() - tall * scale) / 2
        if self._top < MARGIN:
            # Not all of it fits: what everything hangs on stands in the middle.
            root = min(self._diagram.boxes.values(), key=lambda box: box.spot.column)
            middle = (root.spot.y + root.spot.height / 2) * scale
            self._top = min(MARGIN, max(self.height() / 2 - middle, self.height() - MARGIN - tall * scale))
        self.update()

    def see_all(self) -> None:
        """Show everything at once, however small."""
        wide, tall = max(1.0, self._diagram.width), max(1.0, self._diagram.height)
        unit = look.px(100) / 100
        fits = min((self.width() - 2 * MARGIN) / (wide * unit), (self.height() - 2 * MARGIN) / (tall * unit))
        self._zoom = min(1.0, max(fits, SMALLEST_ZOOM))
        scale = self._scale()
        self._left, self._top = (self.width() - wide * scale) / 2, (self.height() - tall * scale) / 2
        self._fitted = False
        self.update()

    def zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        """Zoom about a point, or about the middle."""
        about = about if about is not None else QPointF(self.width() / 2, self.height() / 2)
        new = min(LARGEST_ZOOM, max(SMALLEST_ZOOM, self._zoom * factor))
        ratio = new / self._zoom
        self._left = about.x() - (about.x() - self._left) * ratio
        self._top = about.y() - (about.y() - self._top) * ratio
        self._zoom, self._fitted = new, False
        self.update()

    def _into_sight(self, rect: QRectF) -> None:
        margin = look.px(16)
        if rect.left() < margin or rect.right() > self.width() - margin:
            self._left += self.width() / 2 - rect.center().x()
            self._fitted = False
        if rect.top() < margin or rect.bottom() > self.height() - margin:
            self._top += self.height() / 2 - rect.center().y()
            self._fitted = False

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit again, as long as nobody zoomed or panned."""
        if self._fitted:
            self.fit()

    def _box_at(self, point: QPointF) -> Box | None:
        return next((box for box in self._diagram.boxes.values() if self._rect(box).contains(point)), None)

    def _line_at(self, point: QPointF) -> Line | None:
        near = 6.0
        for line in self._diagram.lines:
            path = self._path(line)
            if path.boundingRect().adjusted(-near, -near, near, near).contains(point):
                for step in range(41):
                    at = path.pointAtPercent(step / 40)
                    if math.hypot(at.x() - point.x(), at.y() - point.y()) <= near:
                        return line
        return None

    def _path(self, line: Line) -> QPainterPath:
        one, other = self._diagram.boxes[line.a], self._diagram.boxes[line.b]
        if one.spot.column > other.spot.column:
            one, other = other, one
        start, end = self._rect(one), self._rect(other)
        path = QPainterPath()
        if one.spot.column == other.spot.column:
            upper, lower = (start, end) if start.top() < end.top() else (end, start)
            middle = upper.center().x()
            if abs(lower.top() - upper.bottom()) < 30 * self._scale():
                path.moveTo(middle, upper.bottom())
                path.lineTo(middle, lower.top())
            else:
                # A second way within a column goes round what stands between.
                path.moveTo(upper.right(), upper.center().y())
                reach = upper.right() + 34 * self._scale()
                path.cubicTo(reach, upper.center().y(), reach, lower.center().y(), lower.right(), lower.center().y())
            return path
        path.moveTo(start.right(), start.center().y())
        bend = min(60 * self._scale(), (end.left() - start.right()) * 0.55)
        path.cubicTo(
            QPointF(start.right() + bend, start.center().y()),
            QPointF(end.left() - bend, end.center().y()),
            QPointF(end.left(), end.center().y()),
        )
        return path

    # ---- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw lines, then boxes, then what is being dragged."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if not self._diagram.boxes:
                painter.setPen(look.color("muted"))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.empty_words)
                return
            self._draw(painter, QRectF(self.rect()))
            self._draw_beyond(painter)
            if self.hasFocus() and self._current is None and self._line is None:
                painter.setPen(QPen(look.color("chosen"), 1, Qt.PenStyle.DotLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
            if self._dragging and self._moved is not None and self._pressed_box is not None:
                self._draw_dragged(painter, self._moved, self._pressed_box)

    def _draw(self, painter: QPainter, area: QRectF) -> None:
        for line in self._diagram.lines:
            self._draw_line(painter, line)
        for box in self._diagram.boxes.values():
            if self._rect(box).intersects(area):
                self._draw_box(painter, box)

    def _draw_beyond(self, painter: QPainter) -> None:
        """At each edge, how many boxes lie beyond it."""
        rects = [self._rect(box) for box in self._diagram.boxes.values()]
        width, height = self.width(), self.height()
        painter.setFont(look.font(SMALL))
        metrics = painter.fontMetrics()
        for number, sign, x, y in (
            (sum(rect.top() > height - 4 for rect in rects), "↓", 0, height - metrics.height() - 4),
            (sum(rect.bottom() < 4 for rect in rects), "↑", 0, 0),
            (sum(rect.left() > width - 4 for rect in rects), "→", width - 40, height / 2),
            (sum(rect.right() < 4 for rect in rects), "←", 40, height / 2),
        ):
            if number:
                words = f"{number} more {sign}"
                wide = metrics.horizontalAdvance(words) + look.px(12)
                tag = QRectF(min(width - wide - 1, max(1, x - wide / 2)), y + 1, wide, metrics.height() + 2)
                painter.setPen(QPen(look.color("rule"), 1))
                painter.setBrush(look.color("panel"))
                painter.drawRoundedRect(tag, 4, 4)
                painter.setPen(look.color("muted"))
                painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)

    def _is_dim(self, devices: tuple[str, ...]) -> bool:
        return self._dimmed is not None and not self._dimmed.intersection(devices)

    def _draw_line(self, painter: QPainter, line: Line) -> None:
        path, scale = self._path(line), self._scale()
        ends = self._diagram.boxes[line.a].devices + self._diagram.boxes[line.b].devices + line.links
        chosen = line.id == self._line
        alpha = 0.12 if self._is_dim(ends) else 1.0 if chosen or line.severity is not None else 0.5
        width = line_width(line.load_mbps) * scale
        pen = QPen(look.heat(line.share, alpha) if line.severity is None else look.color("need", alpha), width)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        if line.medium == "radio":
            pen.setDashPattern([max(1.6, 7 * scale / width), max(1.0, 4 * scale / width)])
        elif not line.in_tree:
            pen.setDashPattern([1.0, 1.5])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen)
        painter.drawPath(path)
        if line.medium == "fibre":
            # A light core makes the line double, whatever its width.
            painter.setPen(QPen(look.color("paper"), max(1.0, width * 0.35)))
            painter.drawPath(path)
        if line.severity is not None:
            paint_mark(painter, path.pointAtPercent(0.5), line.severity, 11 * scale)

    def _draw_box(self, painter: QPainter, box: Box) -> None:
        rect, scale = self._rect(box), self._scale()
        chosen = bool(self._chosen.intersection(box.devices)) and box.kind != "internet"
        dim = self._is_dim(box.devices)
        painter.setOpacity(0.3 if dim else 1.0)
        is_over = self._over == box.id
        needs = box.severity is not None
        edge = "need" if needs else "chosen" if chosen or is_over else "rule"
        painter.setBrush(look.color("tint" if chosen or is_over else "panel" if box.kind == "internet" else "paper"))
        pen = QPen(look.color(edge), (2.2 if is_over or box.id == self._current else 1.2))
        if box.kind == "loose":
            pen.setStyle(Qt.PenStyle.DashLine)
        if box.opens:
            # What stands for many looks like a pile.
            painter.setPen(QPen(look.color(edge), 1))
            painter.drawRoundedRect(rect.translated(3 * scale, 3 * scale), 4 * scale, 4 * scale)
        painter.setPen(pen)
        painter.drawRoundedRect(rect, 4 * scale, 4 * scale)
        if box.id == self._current and self.hasFocus():
            painter.setPen(QPen(look.color("ink"), 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect.adjusted(-3, -3, 3, 3), 5 * scale, 5 * scale)
        self._draw_words(painter, box, rect, scale)
        painter.setOpacity(1.0)

    def _draw_words(self, painter: QPainter, box: Box, rect: QRectF, scale: float) -> None:
        zoom = self._zoom
        inner = rect.adjusted(9 * scale, 0, -9 * scale, 0)
        mark_room = 16 * scale if box.severity is not None else 0.0
        small = box.spot.height < 40
        title_font = look.font(NORMAL, strong=not small)
        title_font.setPixelSize(max(1, round(look.px(NORMAL) * zoom)))
        figure_font = look.font(SMALL, figures=True)
        figure_font.setPixelSize(max(1, round(look.px(SMALL) * zoom)))
        figure_width = QFontMetricsF(figure_font).horizontalAdvance(box.figure_words)
        if small:
            title_room = inner.width() - mark_room - figure_width - 8 * scale
            top, height = rect.top(), rect.height()
        else:
            title_room, top, height = inner.width() - mark_room, rect.top() + 5 * scale, 18 * scale
        flags = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(title_font)
        painter.setPen(look.color("ink"))
        title = QFontMetricsF(title_font).elidedText(box.title, Qt.TextElideMode.ElideRight, title_room)
        painter.drawText(QRectF(inner.left(), top, title_room, height), flags | Qt.AlignmentFlag.AlignLeft, title)
        if box.severity is not None:
            paint_mark(painter, QPointF(inner.right() - 4 * scale, top + height / 2), box.severity, 11 * scale)
        second = QRectF(inner.left(), rect.top() + 22 * scale, inner.width(), 16 * scale)
        if small:
            second = QRectF(inner.left(), rect.top(), inner.width() - mark_room, rect.height())
        painter.setFont(figure_font)
        over = box.bar_share is not None and box.bar_share > 1
        painter.setPen(look.color("need" if over else "ink"))
        painter.drawText(second, flags | Qt.AlignmentFlag.AlignRight, box.figure_words)
        if not small:
            words_font = look.font(SMALL)
            words_font.setPixelSize(max(1, round(look.px(SMALL) * zoom)))
            painter.setFont(words_font)
            painter.setPen(look.color("muted"))
            sign = "▸ " if box.opens else ""
            room = inner.width() - figure_width - 6 * scale
            words = QFontMetricsF(words_font).elidedText(sign + box.words, Qt.TextElideMode.ElideRight, room)
            painter.drawText(second, flags | Qt.AlignmentFlag.AlignLeft, words)
            if box.bar_share is not None:
                self._draw_bar(painter, box, inner, rect, scale)
        elif box.opens is False:
            painter.setPen(look.color("muted"))
            painter.drawText(QRectF(rect.left() - 14 * scale, rect.top(), 12 * scale, rect.height()), flags, "▾")

    def _draw_bar(self, painter: QPainter, box: Box, inner: QRectF, rect: QRectF, scale: float) -> None:
        assert box.bar_share is not None
        groove = QRectF(inner.left(), rect.bottom() - 6 * scale, inner.width(), 2.5 * scale)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.color("rule"))
        painter.drawRect(groove)
        groove.setWidth(groove.width() * min(1.0, box.bar_share))
        painter.setBrush(look.color("need" if box.bar_share > NEARLY_FULL else "chosen"))
        painter.drawRect(groove)

    def _draw_dragged(self, painter: QPainter, at: QPointF, box: Box) -> None:
        target = self._diagram.boxes.get(self._over or "")
        words = count(len(self._carried(box)), "device") if len(box.devices) > 1 else box.title
        words = f"{words} → {target.title}" if target is not None else words
        painter.setFont(look.font(SMALL, strong=True))
        width = painter.fontMetrics().horizontalAdvance(words) + look.px(16)
        tag = QRectF(at.x() + 10, at.y() + 8, width, look.px(22))
        painter.setPen(QPen(look.color("chosen"), 1))
        painter.setBrush(look.color("tint"))
        painter.drawRoundedRect(tag, 4, 4)
        painter.setPen(look.color("ink"))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)

    # ---- mouse ---------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a click, a drag of devices, or panning."""
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._pressed = self._moved = event.position()
        self._pressed_box = self._box_at(event.position())
        self._dragging = False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Pan, or carry devices to what they are to be plugged into."""
        if self._pressed is None or self._moved is None:
            hand = self._box_at(event.position()) or self._line_at(event.position())
            self.setCursor(Qt.CursorShape.PointingHandCursor if hand else Qt.CursorShape.ArrowCursor)
            return
        far = (event.position() - self._pressed).manhattanLength() >= QApplication.startDragDistance()
        if far:
            self._dragging = True
        if self._dragging and self._pressed_box is None:
            step = event.position() - self._moved
            self._left, self._top, self._fitted = self._left + step.x(), self._top + step.y(), False
        elif self._dragging and self._pressed_box is not None:
            self._over = self._target_at(event.position(), self._carried(self._pressed_box))
        self._moved = event.position()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End a click or a drag."""
        box, dragging, over = self._pressed_box, self._dragging, self._over
        self._pressed = self._pressed_box = self._over = None
        self._dragging = False
        self.update()
        if dragging:
            if box is not None and over is not None:
                self.dropped.emit(self._carried(box), over)
            return
        if box is not None:
            self._pick_box(box)
            if box.opens is not None and self._rect(box).left() + 26 * self._scale() > event.position().x():
                self.toggled.emit(box.fold)
            return
        line = self._line_at(event.position())
        self._line, self._current = (line.id if line else None), None
        self.update()
        self.picked.emit(line)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Open or fold a box; on the ground, show everything."""
        box = self._box_at(event.position())
        if box is None:
            self.see_all()
        elif box.opens is not None:
            self.toggled.emit(box.fold)

    def _carried(self, box: Box) -> list[str]:
        """What is dragged with a box: all that is chosen if it is among it, else what it stands for."""
        if self._chosen.intersection(box.devices):
            return [device for device in self._diagram.box_of if device in self._chosen]
        return list(box.devices)

    def _target_at(self, point: QPointF, carried: list[str]) -> str | None:
        box = self._box_at(point)
        if box is None or box.kind in ("cameras", "camera", "loose", "internet", "folded") or box.id in carried:
            return None
        return box.id

    def _pick_box(self, box: Box) -> None:
        self._current, self._line = box.id, None
        self._tell()
        self.update()
        self.picked.emit(box)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom with Ctrl, else pan."""
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1.0015 ** event.angleDelta().y(), event.position())
        else:
            self._left += event.angleDelta().x() / 2
            self._top += event.angleDelta().y() / 2
            self._fitted = False
            self.update()
        event.accept()

    def event(self, event: object) -> bool:
        """Tell load and power of what is under the pointer."""
        if isinstance(event, QHelpEvent):
            point = QPointF(event.pos())
            box = self._box_at(point)
            line = None if box else self._line_at(point)
            words = _told(box) if box else _told_line(line, self._diagram) if line else ""
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)  # type: ignore[arg-type]

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take devices that are dragged here from a table."""
        if event.mimeData().hasFormat(DEVICES):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        """Show what they would be plugged into."""
        self._over = self._target_at(event.position(), devices_from(event.mimeData()))
        self.update()
        if self._over is not None:
            event.acceptProposedAction()
        else:
            event.ignore()

    def dropEvent(self, event: QDropEvent) -> None:
        """Plug them in."""
        over, self._over = self._over, None
        if over is not None:
            self.dropped.emit(devices_from(event.mimeData()), over)
            event.acceptProposedAction()
        self.update()

    # ---- keyboard ------------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows travel, Return and Space choose, + and - zoom, 0 fits; Return on a pile opens it."""
        key = event.key()
        arrows = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
        if not self._diagram.boxes:
            super().keyPressEvent(event)
        elif key in arrows:
            self._travel(Qt.Key(key))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self._current is not None:
            box = self._diagram.boxes[self._current]
            if box.opens is not None and key != Qt.Key.Key_Space:
                self.toggled.emit(box.fold)
            else:
                self._pick_box(box)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(1.25)
        elif key == Qt.Key.Key_Minus:
            self.zoom_by(0.8)
        elif key == Qt.Key.Key_0:
            self.fit()
        elif key == Qt.Key.Key_Escape and self._line is not None:
            self._line = None
            self.picked.emit(None)
            self.update()
        else:
            super().keyPressEvent(event)

    def _travel(self, key: Qt.Key) -> None:
        boxes = self._diagram.boxes
        here = boxes.get(self._current or "")
        if here is None:
            first = next((box for box in boxes.values() if box.kind != "internet"), None)
            there: Box | None = first
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            wanted = here.spot.column + (1 if key == Qt.Key.Key_Right else -1)
            joined = [
                boxes[line.b if line.a == here.id else line.a]
                for line in self._diagram.lines
                if here.id in (line.a, line.b)
            ]
            there = min((b for b in joined if b.spot.column == wanted), key=lambda b: b.spot.y, default=None)
        else:
            down = key == Qt.Key.Key_Down
            column = [box for box in boxes.values() if box.spot.column == here.spot.column]
            beyond = [box for box in column if (box.spot.y > here.spot.y if down else box.spot.y < here.spot.y)]
            there = min(beyond, key=lambda box: abs(box.spot.y - here.spot.y), default=None)
        if there is not None:
            self._into_sight(self._rect(there))
            self._pick_box(there)

    # ---- files ---------------------------------------------------------------------------------------------------

    def _paint_whole(self, painter: QPainter) -> None:
        """Paint the whole diagram at its own size, as a new view of it."""
        whole = WiringDiagram()
        whole._diagram, whole._zoom = self._diagram, 100 / look.px(100)
        whole._left = whole._top = EXPORT_MARGIN
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole._draw(painter, QRectF(0, 0, 1e9, 1e9))
        whole.deleteLater()

    def _whole_size(self) -> QSize:
        wide, tall = self._diagram.width, self._diagram.height
        return QSize(math.ceil(wide + 2 * EXPORT_MARGIN), math.ceil(tall + 2 * EXPORT_MARGIN))

    def svg_bytes(self, title: str) -> bytes:
        """The whole diagram as SVG."""
        buffer = QBuffer()
        generator = QSvgGenerator()
        generator.setOutputDevice(buffer)
        generator.setSize(self._whole_size())
        generator.setViewBox(QRect(QPoint(0, 0), self._whole_size()))
        generator.setTitle(title)
        return self._drawn_on(generator, buffer)

    def pdf_bytes(self, title: str) -> bytes:
        """The whole diagram as one page of PDF that fits it."""
        buffer = QBuffer()
        buffer.open(QBuffer.OpenModeFlag.WriteOnly)
        writer = QPdfWriter(buffer)
        writer.setTitle(title)
        writer.setResolution(96)
        size = self._whole_size()
        writer.setPageSize(QPageSize(QSizeF(size.width() * 0.75, size.height() * 0.75), QPageSize.Unit.Point))
        writer.setPageMargins(QMarginsF(0, 0, 0, 0))
        return self._drawn_on(writer, buffer)

    def _drawn_on(self, device: QSvgGenerator | QPdfWriter, buffer: QBuffer) -> bytes:
        was_dark = look.dark
        look.dark = False  # paper is light, whatever the window looks like
        try:
            with QPainter(device) as painter:
                self._paint_whole(painter)
        finally:
            look.dark = was_dark
        return bytes(buffer.data().data())


def line_width(load_mbps: float) -> float:
    """Width of a line by its load: from a hair for nothing to 9 px at 500 Mb/s, by the logarithm."""
    return min(9.0, 1.0 + 1.3 * math.log2(1 + load_mbps / 4))


def _told(box: Box) -> str:
    """A box in words, for the tool tip and for who does not see it."""
    parts = [box.title, box.words, box.figure_words]
    if box.bar_share is not None:
        parts.append(f"{figure(100 * box.bar_share)} % {box.bar_words}")
    if box.severity is not None:
        parts.append(f"needs you: {box.severity.word}")
    if box.id == LOOSE:
        parts.append("drag it on a switch, bridge or recorder to plug it in")
    if box.opens:
        parts.append("Return or double click opens it")
    return "\n".join(part for part in parts if part)


def _told_line(line: Line, diagram: Diagram) -> str:
    ends = f"{diagram.boxes[line.a].title} – {diagram.boxes[line.b].title}"
    carries = "" if line.capacity_mbps is None else f" of {figure(line.capacity_mbps)}"
    many = f"{count(len(line.links), 'link')}, together " if len(line.links) > 1 else f"{line.medium}, "
    return f"{ends}\n{many}{figure(line.load_mbps)}{carries} Mb/s, fullest {figure(100 * line.share)} % taken"
