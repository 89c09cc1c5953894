"""A recorder's channels as a board of tiles: drag a camera onto a channel, drag tiles to change places."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QDrag,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QApplication, QSizePolicy, QWidget

from eager_lens.core.assess.finding import Severity
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import NORMAL, SMALL
from eager_lens.desk.widgets.basics import elided_name
from eager_lens.desk.widgets.dragging import DEVICES, devices_from, devices_mime
from eager_lens.desk.widgets.marks import paint_mark


@dataclass(frozen=True)
class Holder:
    """A camera on a channel, with the figure that stands beside its name."""

    id: str
    name: str
    figure: str
    severity: Severity | None


class ChannelBoard(QWidget):
    """Draws the channels of one recorder; the choice and all changes go out by signals."""

    accessible_role = AccessibleRole.List

    selected = Signal(object)
    dropped = Signal(object, int)
    """Camera ids, and the channel they were dropped on."""
    removed = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._channels = 0
        self._holders: dict[int, list[Holder]] = {}
        self._selected: frozenset[str] = frozenset()
        self._cursor = 1
        self._pressed_at: QPointF | None = None
        self._over: int | None = None
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        look.changed.connect(self._grown)

    def show_channels(self, channels: int, holders: dict[int, list[Holder]], selected: frozenset[str]) -> None:
        """Show the channels and who is on them; channels beyond the recorder's last are shown too, if held."""
        held = (f"{number} {', '.join(one.name for one in who)}" for number, who in sorted(holders.items()) if who)
        self.setAccessibleDescription(f"{channels} channels; " + ("; ".join(held) or "all free"))
        self._channels, self._holders, self._selected = max([channels, *holders]), holders, selected
        self._real = channels
        self._cursor = max(1, min(self._cursor, self._channels))
        self._grown()

    _real = 0

    def _grown(self) -> None:
        self.updateGeometry()
        self.update()

    # ---- geometry ------------------------------------------------------------------------------------------------

    def _across(self, width: float) -> int:
        return max(1, int(width // look.px(176)))

    def heightForWidth(self, width: int) -> int:
        """As tall as its channels need. Told to the layout, not set when the width changes: what scrolls would be laid out
        with the height of the width before, and anew within that, without an end."""
        rows = -(-self._channels // self._across(width))
        return int(rows * look.px(32)) + 2

    def sizeHint(self) -> QSize:
        """As tall as its channels need."""
        return QSize(look.px(500), self.heightForWidth(look.px(500)))

    def minimumSizeHint(self) -> QSize:
        """One tile: it is the width that says how tall it has to be."""
        return QSize(look.px(176), look.px(32) + 2)

    def _rect(self, channel: int) -> QRectF:
        across = self._across(self.width())
        wide = self.width() / across
        at = channel - 1
        return QRectF((at % across) * wide, (at // across) * look.px(32), wide, look.px(32)).adjusted(1, 2, -3, -2)

    def _channel_at(self, point: QPointF) -> int | None:
        return next((n for n in range(1, self._channels + 1) if self._rect(n).contains(point)), None)

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the channels in sight."""
        in_sight = QRectF(event.rect())
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for channel in range(1, self._channels + 1):
                rect = self._rect(channel)
                if rect.intersects(in_sight):
                    self._tile(painter, rect, channel, self._holders.get(channel, []))

    def _tile(self, painter: QPainter, rect: QRectF, channel: int, holders: list[Holder]) -> None:
        selected = any(holder.id in self._selected for holder in holders)
        wrong = len(holders) > 1 or channel > self._real
        free = not holders
        pen = QPen(look.color("need" if wrong else "accent" if selected or channel == self._over else "rule"), 1.2)
        if free:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(look.color("tint") if selected or channel == self._over else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect, 4, 4)
        painter.setFont(look.font(SMALL, figures=True))
        painter.setPen(look.color("muted"))
        number = QRectF(rect.left() + 4, rect.top(), look.px(24), rect.height())
        painter.drawText(number, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(channel))
        text_left = number.right() + look.px(7)
        if free:
            words = "free" if channel <= self._real else ""
            painter.setFont(look.font(SMALL))
            painter.drawText(
                QRectF(text_left, rect.top(), rect.width(), rect.height()), Qt.AlignmentFlag.AlignVCenter, words
            )
        else:
            self._holder(painter, rect, text_left, holders, wrong)
        if self.hasFocus() and channel == self._cursor:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.color("ink"), 1.4, Qt.PenStyle.DotLine))
            painter.drawRoundedRect(rect.adjusted(2, 2, -2, -2), 3, 3)

    def _holder(self, painter: QPainter, rect: QRectF, left: float, holders: list[Holder], wrong: bool) -> None:
        name = holders[0].name if len(holders) == 1 else f"{len(holders)} cameras: {', '.join(h.name for h in holders)}"
        painter.setFont(look.font(SMALL, figures=True))
        figure_wide = painter.fontMetrics().horizontalAdvance(holders[0].figure) + 8
        painter.setPen(look.color("muted"))
        area = QRectF(rect.left(), rect.top(), rect.width() - 6, rect.height())
        painter.drawText(area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, holders[0].figure)
        severity = Severity.FAULT if wrong else holders[0].severity
        if severity is not None and severity > Severity.NOTE:
            paint_mark(painter, QPointF(left + 4, rect.center().y()), severity, look.px(9))
            left += look.px(14)
        painter.setFont(look.font(NORMAL))
        painter.setPen(look.color("ink"))
        room = rect.right() - left - figure_wide - 4
        text = elided_name(painter.fontMetrics(), name, room)
        painter.drawText(QRectF(left, rect.top(), room, rect.height()), Qt.AlignmentFlag.AlignVCenter, text)

    # ---- mouse, drag and keyboard --------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select who is on a channel."""
        channel = self._channel_at(event.position())
        if channel is not None:
            self._cursor = channel
            self._pressed_at = event.position()
            self.selected.emit([holder.id for holder in self._holders.get(channel, [])])
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Begin to drag a camera off its channel."""
        if self._pressed_at is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if (event.position() - self._pressed_at).manhattanLength() < QApplication.startDragDistance():
            return
        holders = self._holders.get(self._cursor, [])
        self._pressed_at = None
        if holders:
            drag = QDrag(self)
            drag.setMimeData(devices_mime([holder.id for holder in holders]))
            drag.exec(Qt.DropAction.MoveAction)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """No drag began."""
        self._pressed_at = None

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Cameras may be dropped here."""
        if event.mimeData().hasFormat(DEVICES):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        """Show which channel would take them."""
        self._over = self._channel_at(event.position())
        self.update()
        event.setAccepted(self._over is not None)

    def dragLeaveEvent(self, event: object) -> None:
        """Nothing would be dropped here."""
        self._over = None
        self.update()

    def dropEvent(self, event: QDropEvent) -> None:
        """Take the cameras."""
        channel = self._channel_at(event.position())
        self._over = None
        self.update()
        if channel is not None and channel <= self._real:
            event.acceptProposedAction()
            self.dropped.emit(devices_from(event.mimeData()), channel)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Walk over the channels; Return selects, Ctrl with an arrow moves a camera, Delete takes it off."""
        across = self._across(self.width())
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -across, Qt.Key.Key_Down: across}
        key = Qt.Key(event.key())
        holders = [holder.id for holder in self._holders.get(self._cursor, [])]
        if key in steps:
            target = max(1, min(self._channels, self._cursor + steps[key]))
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier and len(holders) == 1 and target <= self._real:
                self.dropped.emit(holders, target)
            self._cursor = target
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.selected.emit(holders)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and holders:
            self.removed.emit(holders)
        else:
            super().keyPressEvent(event)
