"""The wiring diagram on screen: pan, zoom, travel by keyboard, select, open and fold, plug in by dragging.

What is drawn comes whole from ``core.present.diagram``; nothing is placed by hand.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QApplication, QFrame, QWidget

from eager_lens.core.present.diagram import LOOSE, Box, Diagram, Line
from eager_lens.core.units import count, figure
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.pages.wiring.wiring_scene import WiringScene
from eager_lens.desk.pages.wiring.zoomed_view import ZoomedView
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.dragging import DEVICES, devices_from
from eager_lens.desk.widgets.plain_words import show_tip
from eager_lens.desk.widgets.wiring_drawing import rect_of

SIGN_WIDTH = 26.0
"""A click so near to the left of a box opens or folds it."""

TAKES_NOTHING = ("cameras", "camera", "loose", "internet", "folded")
"""Boxes that nothing can be plugged into."""


class WiringDiagram(ZoomedView):
    """Shows a ``Diagram``. Widths and distances grow with the type size."""

    accessible_role = AccessibleRole.Graphic

    picked = Signal(object)
    """A Box or a Line was selected, or None."""
    toggled = Signal(str)
    """A box is to be opened or folded, by its id."""
    dropped = Signal(object, str)
    """Devices (ids) were dropped on a device (id)."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._scene = WiringScene(self)
        self.setScene(self._scene)
        self._pressed: QPointF | None = None
        self._pressed_box: Box | None = None
        self._moved: QPointF | None = None
        self._dragging = False
        self.empty_words = "Nothing is connected yet."
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.viewport().setMouseTracking(True)
        self.setMinimumHeight(look.px(96))
        self.setAccessibleName("Wiring diagram")
        look.changed.connect(self._scene.update)

    def sizeHint(self) -> QSize:
        """A comfortable size."""
        return QSize(look.px(640), look.px(320))

    # ---- what is shown -------------------------------------------------------------------------------------------

    @property
    def shown(self) -> Diagram:
        """The diagram that is drawn now."""
        return self._scene.diagram

    @property
    def current(self) -> str | None:
        """The box that the keyboard is at, by id."""
        return self._scene.current or None

    def show_diagram(self, diagram: Diagram, selected: frozenset[str]) -> None:
        """Draw another diagram; the view stays where it is, unless everything was in sight."""
        same_size = (diagram.width, diagram.height) == (self.shown.width, self.shown.height)
        self._scene.selected = selected
        self._scene.show_diagram(diagram)
        self.setAccessibleDescription("; ".join(box.title for box in diagram.boxes.values()) or self.empty_words)
        if self._fitted and not same_size:
            self.fit()
        self.viewport().update()

    def forget(self) -> None:
        """Start again: nothing selected, and the next diagram is fitted."""
        self._scene.show_diagram(Diagram({}, (), {}))
        self._fitted = True

    def show_selected(self, selected: frozenset[str]) -> None:
        """Show which devices are selected."""
        self._scene.selected = selected
        self._scene.show_states()

    def show_lost(self, lost: frozenset[str] | None) -> None:
        """Grey out everything but what is lost with a part; None: show everything as usual."""
        self._scene.kept = lost
        self._scene.show_states()

    def lead_to(self, box_id: str) -> None:
        """Make a box the current one, and bring it into sight."""
        if box_id in self.shown.boxes:
            self.into_sight(rect_of(self.shown.boxes[box_id]))
            self._set_current(box_id)

    def select_line(self, line_id: str) -> None:
        """Make a line the current thing."""
        self._scene.line, self._scene.current = line_id, ""
        self._scene.show_states()

    def _set_current(self, box_id: str) -> None:
        self._scene.current, self._scene.line = box_id, ""
        self._scene.show_states()
        box = self.shown.boxes.get(box_id)
        if box is not None:
            self.setAccessibleDescription(_tip_of_box(box))

    # ---- geometry ------------------------------------------------------------------------------------------------

    def middle_of_all(self) -> QPointF | None:
        """Where not all of it fits, what everything hangs on stands in the middle."""
        boxes = self.shown.boxes
        if not boxes:
            return None
        root = rect_of(min(boxes.values(), key=lambda box: box.spot.column))
        return QPointF(self.sceneRect().left(), root.center().y())

    def rect_of(self, box_id: str) -> QRect:
        """Where a box is drawn, in the viewport."""
        return self.mapFromScene(rect_of(self.shown.boxes[box_id])).boundingRect()

    def middle_of(self, line_id: str) -> QPointF:
        """Where the middle of a line is drawn, in the viewport."""
        return QPointF(self.mapFromScene(self._scene.path_of(line_id).pointAtPercent(0.5)))

    def _at(self, point: QPointF) -> Box | Line | None:
        return self._scene.at(self.mapToScene(point.toPoint()))

    def _box_at(self, point: QPointF) -> Box | None:
        found = self._at(point)
        return found if isinstance(found, Box) else None

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the diagram, then what is being dragged."""
        super().paintEvent(event)
        with QPainter(self.viewport()) as painter:
            area = self.viewport().rect()
            if not self.shown.boxes:
                painter.setPen(look.color("muted"))
                painter.drawText(area, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.empty_words)
            elif self.hasFocus() and not self._scene.current and not self._scene.line:
                painter.setPen(QPen(look.color("accent"), 1, Qt.PenStyle.DotLine))
                painter.drawRect(area.adjusted(0, 0, -1, -1))
            if self._dragging and self._moved is not None and self._pressed_box is not None:
                self._draw_dragged(painter, self._moved, self._pressed_box)

    def _draw_dragged(self, painter: QPainter, at: QPointF, box: Box) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        target = self.shown.boxes.get(self._scene.over)
        words = count(len(self._carried(box)), "device") if len(box.devices) > 1 else box.title
        words = f"{words} → {target.title}" if target is not None else words
        painter.setFont(look.font(SMALL, strong=True))
        width = painter.fontMetrics().horizontalAdvance(words) + look.px(16)
        tag = QRectF(at.x() + 10, at.y() + 8, width, look.px(22))
        painter.setPen(QPen(look.color("accent"), 1))
        painter.setBrush(look.color("tint"))
        painter.drawRoundedRect(tag, 4, 4)
        painter.setPen(look.color("ink"))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)

    # ---- mouse ---------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a click, a drag of devices, or panning."""
        self._pressed = self._moved = event.position()
        self._pressed_box = self._box_at(event.position())
        self._dragging = False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Pan, or carry devices to what they are to be plugged into."""
        if self._pressed is None or self._moved is None:
            hand = self._at(event.position()) is not None
            self.viewport().setCursor(Qt.CursorShape.PointingHandCursor if hand else Qt.CursorShape.ArrowCursor)
            return
        far = (event.position() - self._pressed).manhattanLength() >= QApplication.startDragDistance()
        self._dragging = self._dragging or far
        if not self._dragging:
            return
        if self._pressed_box is None:
            step = self._moved - event.position()
            self._pan(step.x(), step.y())
        else:
            self._show_over(self._target_at(event.position(), self._carried(self._pressed_box)))
        self._moved = event.position()
        self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End a click or a drag."""
        box, dragging, over = self._pressed_box, self._dragging, self._scene.over
        self._pressed = self._pressed_box = None
        self._dragging = False
        self._show_over("")
        if dragging:
            if box is not None and over:
                self.dropped.emit(self._carried(box), over)
            return
        found = self._at(event.position())
        if box is not None:
            self._pick_box(box)
            from_left = event.position().x() - self.rect_of(box.id).left()
            if box.opens is not None and from_left < SIGN_WIDTH * self.transform().m11():
                self.toggled.emit(box.fold)
            return
        line = found if isinstance(found, Line) else None
        self.select_line(line.id if line else "")
        self.picked.emit(line)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Open or fold a box; on the ground, show everything."""
        box = self._box_at(event.position())
        if box is None:
            self.see_all()
        elif box.opens is not None:
            self.toggled.emit(box.fold)

    def _show_over(self, box_id: str) -> None:
        self._scene.over = box_id
        self._scene.show_states()
        self.viewport().update()

    def _carried(self, box: Box) -> list[str]:
        """What is dragged with a box: all that is selected if it is among it, else what it stands for."""
        selected = self._scene.selected
        if selected.intersection(box.devices):
            return [device for device in self.shown.box_of if device in selected]
        return list(box.devices)

    def _target_at(self, point: QPointF, carried: list[str]) -> str:
        box = self._box_at(point)
        return "" if box is None or box.kind in TAKES_NOTHING or box.id in carried else box.id

    def _pick_box(self, box: Box) -> None:
        self._set_current(box.id)
        self.picked.emit(box)

    def viewportEvent(self, event: QEvent) -> bool:
        """Tell load and power of what is under the pointer."""
        if isinstance(event, QHelpEvent):
            found = self._at(QPointF(event.pos()))
            words = _tip_of_box(found) if isinstance(found, Box) else _tip_of_line(found, self.shown) if found else ""
            show_tip(event.globalPos(), words, self)
            return True
        return super().viewportEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take devices that are dragged here from a table."""
        if event.mimeData().hasFormat(DEVICES):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        """Show what they would be plugged into."""
        self._show_over(self._target_at(event.position(), devices_from(event.mimeData())))
        if self._scene.over:
            event.acceptProposedAction()
        else:
            event.ignore()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        """Nothing would be plugged in here."""
        self._show_over("")

    def dropEvent(self, event: QDropEvent) -> None:
        """Plug them in."""
        over = self._scene.over
        self._show_over("")
        if over:
            self.dropped.emit(devices_from(event.mimeData()), over)
            event.acceptProposedAction()

    # ---- keyboard ------------------------------------------------------------------------------------------------

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show where the keyboard is."""
        super().focusInEvent(event)
        self._show_focus(True)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """The keyboard is elsewhere."""
        super().focusOutEvent(event)
        self._show_focus(False)

    def _show_focus(self, focused: bool) -> None:
        self._scene.focused = focused
        self._scene.show_states()
        self.viewport().update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows travel, Return and Space select, + and - zoom, 0 fits; Return on a box that stands for many opens it."""
        key = event.key()
        arrows = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
        current = self.shown.boxes.get(self._scene.current)
        if not self.shown.boxes:
            event.ignore()
        elif key in arrows:
            self._travel(Qt.Key(key))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and current is not None:
            if current.opens is not None and key != Qt.Key.Key_Space:
                self.toggled.emit(current.fold)
            else:
                self._pick_box(current)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(1.25)
        elif key == Qt.Key.Key_Minus:
            self.zoom_by(0.8)
        elif key == Qt.Key.Key_0:
            self.fit()
        elif key == Qt.Key.Key_Escape and self._scene.line:
            self.select_line("")
            self.picked.emit(None)
        else:
            event.ignore()

    def _travel(self, key: Qt.Key) -> None:
        boxes = self.shown.boxes
        here = boxes.get(self._scene.current)
        if here is None:
            there = next((box for box in boxes.values() if box.kind != "internet"), None)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            wanted = here.spot.column + (1 if key == Qt.Key.Key_Right else -1)
            joined = [
                boxes[line.b if line.a == here.id else line.a]
                for line in self.shown.lines
                if here.id in (line.a, line.b)
            ]
            there = min((b for b in joined if b.spot.column == wanted), key=lambda b: b.spot.y, default=None)
        else:
            down = key == Qt.Key.Key_Down
            column = [box for box in boxes.values() if box.spot.column == here.spot.column]
            beyond = [box for box in column if (box.spot.y > here.spot.y if down else box.spot.y < here.spot.y)]
            there = min(beyond, key=lambda box: abs(box.spot.y - here.spot.y), default=None)
        if there is not None:
            self.into_sight(rect_of(there))
            self._pick_box(there)


def _tip_of_box(box: Box) -> str:
    """A box in words, for the tool tip and for who does not see it."""
    parts = [box.title, box.words, box.figure_words]
    if box.bar_share is not None:
        parts.append(f"{figure(100 * box.bar_share)} % {box.bar_words}")
    if box.severity is not None:
        parts.append(f"{box.severity.word}")
    if box.id == LOOSE:
        parts.append("drag it onto a switch, bridge or recorder to connect it")
    if box.opens:
        parts.append("Return or double click opens it")
    return "\n".join(part for part in parts if part)


def _tip_of_line(line: Line, diagram: Diagram) -> str:
    ends = f"{diagram.boxes[line.a].title} – {diagram.boxes[line.b].title}"
    carries = "" if line.capacity_mbps is None else f" of {figure(line.capacity_mbps)}"
    many = f"{count(len(line.links), 'link')}, together " if len(line.links) > 1 else f"{line.medium}, "
    return f"{ends}\n{many}{figure(line.load_mbps)}{carries} Mb/s, fullest link {figure(100 * line.share)} %"
