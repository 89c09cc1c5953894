"""The wiring diagram as items of a scene: one a box, one a line, kept from diagram to diagram."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPointF, QRectF
from PySide6.QtGui import QPainter, QPainterPath, QPainterPathStroker
from PySide6.QtWidgets import QGraphicsItem, QGraphicsScene, QStyleOptionGraphicsItem, QWidget

from eager_lens.core.present.diagram import Box, Diagram, Line
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.wiring_drawing import PLAIN, State, draw_box, draw_line, line_path, line_width, rect_of

MARGIN = 12.0
NEAR = 6.0
"""A line is hit this near to it."""


class BoxItem(QGraphicsItem):
    """A box of the diagram."""

    def __init__(self, box: Box) -> None:
        super().__init__()
        self.box, self.state = box, PLAIN
        self.setZValue(1)

    def show(self, box: Box) -> None:  # type: ignore[override]
        """Stand for another box of the same id."""
        if box != self.box:
            self.prepareGeometryChange()
            self.box = box
            self.update()

    def boundingRect(self) -> QRectF:
        """The box with its pile, its frame, and the sign at its left."""
        return rect_of(self.box).adjusted(-16, -6, 8, 8)

    def shape(self) -> QPainterPath:
        """Where it is hit."""
        path = QPainterPath()
        path.addRect(rect_of(self.box))
        return path

    @kept_within
    def paint(self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None) -> None:
        """Draw the box."""
        draw_box(painter, self.box, look, self.state)


class LineItem(QGraphicsItem):
    """A line between two boxes."""

    def __init__(self, line: Line, path: QPainterPath) -> None:
        super().__init__()
        self.line, self.path, self.state = line, path, PLAIN

    def show(self, line: Line, path: QPainterPath) -> None:  # type: ignore[override]
        """Stand for another line of the same id."""
        if line != self.line or path != self.path:
            self.prepareGeometryChange()
            self.line, self.path = line, path
            self.update()

    def boundingRect(self) -> QRectF:
        """The line with its width and mark."""
        reach = line_width(self.line.load_mbps) / 2 + NEAR
        return self.path.boundingRect().adjusted(-reach, -reach, reach, reach)

    def shape(self) -> QPainterPath:
        """Where it is hit."""
        stroker = QPainterPathStroker()
        stroker.setWidth(max(2 * NEAR, line_width(self.line.load_mbps)))
        return stroker.createStroke(self.path)

    @kept_within
    def paint(self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None) -> None:
        """Draw the line."""
        draw_line(painter, self.line, self.path, look, self.state)


class WiringScene(QGraphicsScene):
    """A diagram, what is selected in it, and what is greyed."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.diagram = Diagram({}, (), {})
        self.selected: frozenset[str] = frozenset()
        self.kept: frozenset[str] | None = None
        """Devices and links that are not greyed; None: nothing is."""
        self.current = self.line = self.over = ""
        """The box that the keyboard is at, the line that is selected, the box that would take what is dragged; by id."""
        self.focused = False
        self._boxes: dict[str, BoxItem] = {}
        self._lines: dict[str, LineItem] = {}

    def show_diagram(self, diagram: Diagram) -> None:
        """Show another diagram; what is not in it any more is not current any more."""
        self.diagram = diagram
        for box_id in self._boxes.keys() - diagram.boxes.keys():
            self.removeItem(self._boxes.pop(box_id))
        for box in diagram.boxes.values():
            if box.id in self._boxes:
                self._boxes[box.id].show(box)
            else:
                self._boxes[box.id] = BoxItem(box)
                self.addItem(self._boxes[box.id])
        lines = {line.id: line for line in diagram.lines}
        for line_id in self._lines.keys() - lines.keys():
            self.removeItem(self._lines.pop(line_id))
        for line in lines.values():
            path = line_path(line, diagram.boxes)
            if line.id in self._lines:
                self._lines[line.id].show(line, path)
            else:
                self._lines[line.id] = LineItem(line, path)
                self.addItem(self._lines[line.id])
        self.current = self.current if self.current in diagram.boxes else ""
        self.line = self.line if self.line in lines else ""
        self.setSceneRect(QRectF(0, 0, diagram.width, diagram.height).adjusted(-MARGIN, -MARGIN, MARGIN, MARGIN))
        self.show_states()

    def show_states(self) -> None:
        """Redraw the items whose state changed."""
        for item in self._boxes.values():
            box = item.box
            state = State(
                bool(self.selected.intersection(box.devices)) and box.kind != "internet",
                box.id == self.current,
                self.focused,
                box.id == self.over,
                self._is_dim(box.devices),
            )
            if state != item.state:
                item.state = state
                item.update()
        boxes = self.diagram.boxes
        for line_item in self._lines.values():
            line = line_item.line
            ends = () if self.kept is None else boxes[line.a].devices + boxes[line.b].devices + line.links
            state = State(selected=line.id == self.line, dim=self._is_dim(ends))
            if state != line_item.state:
                line_item.state = state
                line_item.update()

    def _is_dim(self, ids: tuple[str, ...]) -> bool:
        return self.kept is not None and not self.kept.intersection(ids)

    def at(self, point: QPointF) -> Box | Line | None:
        """What is at a point: a box before a line."""
        for item in self.items(point):
            if isinstance(item, BoxItem):
                return item.box
            if isinstance(item, LineItem):
                return item.line
        return None

    def path_of(self, line_id: str) -> QPainterPath:
        """The way of a line."""
        return self._lines[line_id].path
