"""Devices by place: a row a place, a tile a device, so that a job's shape is seen before its table is read."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from eager_lens.core.addressing.plan import Role
from eager_lens.core.assess.finding import Severity
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.marks import paint_mark


@dataclass(frozen=True)
class PlacedDevice:
    """A device on the map."""

    id: str
    name: str
    place: str
    role: Role
    severity: Severity | None


class PlaceMap(QWidget):
    """Cameras are round, everything else is square with its kind written in it. Clicking chooses."""

    chosen = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows: dict[str, list[PlacedDevice]] = {}
        self._chosen: frozenset[str] = frozenset()
        self._spots: list[tuple[QRectF, PlacedDevice]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Devices by place")
        look.changed.connect(self._look_changed)

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """As tall as its rows, up to a limit beyond which places share a row's height."""
        return QSize(look.px(500), int(self._layout_rows(max(self.width(), look.px(500)))) + look.px(4))

    def show_devices(self, devices: list[PlacedDevice], chosen: frozenset[str]) -> None:
        """Show devices, grouped by place in the order in which places come."""
        rows: dict[str, list[PlacedDevice]] = {}
        for device in devices:
            rows.setdefault(device.place or "No place", []).append(device)
        same_shape = {place: len(row) for place, row in rows.items()} == {p: len(r) for p, r in self._rows.items()}
        self._rows, self._chosen = rows, chosen
        if not same_shape:
            self.updateGeometry()
        self.update()

    def _tile(self) -> float:
        total = sum(len(row) for row in self._rows.values())
        return look.px(22 if total <= 80 else 14 if total <= 300 else 9)

    def _layout_rows(self, width: float) -> float:
        """Place every tile; the height that they take."""
        self._spots = []
        side, left, y = self._tile(), look.px(130), 0.0
        per_row = max(1, int((width - left) // side))
        for row in self._rows.values():
            ordered = sorted(row, key=lambda device: device.role == "camera")
            for at, device in enumerate(ordered):
                spot = QRectF(left + (at % per_row) * side, y + (at // per_row) * side, side, side)
                self._spots.append((spot.adjusted(2, 2, -2, -2), device))
            y += max(look.px(22), -(-len(row) // per_row) * side) + look.px(2)
        return y

    def height_for(self, width: int) -> int:
        """How tall it is when it is so wide."""
        return int(self._layout_rows(max(width - look.px(60), look.px(200)))) + look.px(4)

    def resizeEvent(self, event: object) -> None:
        """Fewer or more tiles may fit on a row now."""
        self.setMinimumHeight(int(self._layout_rows(self.width())) + 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the places' names and every device."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._layout_rows(self.width())
        painter.setFont(look.font(SMALL))
        metrics = painter.fontMetrics()
        seen: set[str] = set()
        for rect, device in self._spots:
            place = device.place or "No place"
            if place not in seen:
                seen.add(place)
                painter.setPen(look.color("ink"))
                text = metrics.elidedText(place, Qt.TextElideMode.ElideRight, look.px(122))
                painter.drawText(QPointF(0, rect.center().y() + metrics.ascent() / 2 - 1), text)
            self._device(painter, rect, device)

    def _device(self, painter: QPainter, rect: QRectF, device: PlacedDevice) -> None:
        chosen = device.id in self._chosen
        painter.setPen(QPen(look.color("ink" if chosen else "chosen"), 2 if chosen else 1.2))
        if device.role == "camera":
            painter.setBrush(look.color("tint") if not chosen else look.color("chosen"))
            painter.drawEllipse(rect)
        else:
            painter.setBrush(look.color("chosen") if device.role == "recorder" else look.color("paper"))
            painter.drawRect(rect)
            if rect.width() > 12:
                painter.setPen(look.color("on_chosen" if device.role == "recorder" else "chosen"))
                painter.drawText(
                    rect, Qt.AlignmentFlag.AlignCenter, "V" if device.role == "recorder" else device.role[0].upper()
                )
        if device.severity is not None and device.severity > Severity.NOTE:
            paint_mark(painter, QPointF(rect.right() - 1, rect.top() + 2), device.severity, min(9, rect.width() * 0.6))

    def _at(self, point: QPointF) -> PlacedDevice | None:
        return next((device for rect, device in self._spots if rect.contains(point)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose a device; on a place's name, all of them."""
        device = self._at(event.position())
        if device is not None:
            self.chosen.emit([device.id])
        elif event.position().x() < look.px(126):
            near = min(self._spots, key=lambda spot: abs(spot[0].center().y() - event.position().y()), default=None)
            if near is not None:
                self.chosen.emit([one.id for one in self._rows[near[1].place or "No place"]])

    def event(self, event: object) -> bool:
        """Tell a device's name."""
        if isinstance(event, QHelpEvent):
            device = self._at(QPointF(event.pos()))
            if device is not None:
                QToolTip.showText(event.globalPos(), f"{device.name} ({device.role})", self)
            return True
        return super().event(event)  # type: ignore[arg-type]
