"""A recorder's week: one row a camera, a hundred and sixty-eight hours across, each in the pattern of its mode."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.recording.week import DAY_WORDS, DAYS, MINUTES_A_DAY, Mode, Span, clock_of
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.pages.schedule.week_strip import paint_mode
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.basics import elided_name
from eager_lens.desk.widgets.plain_words import show_tip

LEFT, ROW, HEAD, SUM = 150, 15, 20, 34

WEEK_MINUTES = 7 * MINUTES_A_DAY


class StackRow(NamedTuple):
    """A camera: id, channel and name, and its flat spans by day."""

    id: str
    channel: str
    name: str
    days: tuple[tuple[Span, ...], ...]


class WeekStack(QWidget):
    """Rows of cameras, and below how many of them record at each hour; press a row to select its camera."""

    accessible_role = AccessibleRole.Chart

    selected = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._rows: tuple[StackRow, ...] = ()
        self._at_once: list[int] = []
        self._selected: frozenset[str] = frozenset()
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        look.changed.connect(self._grown)

    def show_rows(self, rows: Sequence[StackRow], selected: frozenset[str]) -> None:
        """Show cameras in the order of their channels."""
        if tuple(rows) != self._rows:
            self._rows = tuple(rows)
            self._at_once = _always_by_quarter(self._rows)
        self._selected = selected
        self.setAccessibleName(f"The schedule of {len(rows)} cameras")
        self.setAccessibleDescription("; ".join(one.name for one in rows))
        self._grown()

    def _grown(self) -> None:
        self.setMinimumHeight(self.sizeHint().height())
        self.update()

    def sizeHint(self) -> QSize:
        """As high as its rows."""
        return QSize(look.px(640), look.px(HEAD + ROW * max(1, len(self._rows)) + SUM))

    def _x(self, minute: float) -> float:
        left = look.px(LEFT)
        return left + (self.width() - left - 2) * minute / WEEK_MINUTES

    def _row_rect(self, at: int) -> QRectF:
        return QRectF(0, look.px(HEAD) + at * look.px(ROW), self.width(), look.px(ROW))

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw days, rows, and the sum below."""
        with QPainter(self) as painter:
            painter.setFont(look.font(SMALL))
            for at, day in enumerate(DAYS):
                left, right = self._x(at * MINUTES_A_DAY), self._x((at + 1) * MINUTES_A_DAY)
                painter.setPen(look.color("muted"))
                area = QRectF(left + 4, 0, right - left - 4, look.px(HEAD - 4))
                words = painter.fontMetrics().elidedText(DAY_WORDS[day], Qt.TextElideMode.ElideRight, int(area.width()))
                painter.drawText(area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)
            for at, one in enumerate(self._rows):
                self._draw_row(painter, at, one)
            bottom = self._row_rect(len(self._rows)).top()
            painter.setPen(QPen(look.color("rule"), 1))
            for at in range(8):
                x = self._x(at * MINUTES_A_DAY)
                painter.drawLine(QPointF(x, look.px(HEAD - 4)), QPointF(x, bottom + look.px(SUM)))
            self._draw_sum(painter, bottom)

    def _draw_row(self, painter: QPainter, at: int, one: StackRow) -> None:
        area = self._row_rect(at)
        if one.id in self._selected:
            painter.fillRect(area, look.color("tint"))
        painter.setFont(look.font(SMALL, figures=True))
        painter.setPen(look.color("muted"))
        number = QRectF(0, area.top(), look.px(22), area.height())
        painter.drawText(number, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, one.channel)
        painter.setFont(look.font(SMALL))
        painter.setPen(look.color("ink"))
        name = QRectF(look.px(28), area.top(), look.px(LEFT - 34), area.height())
        words = elided_name(painter.fontMetrics(), one.name, name.width())
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, words)
        bar = QRectF(self._x(0), area.top() + 1, self._x(WEEK_MINUTES) - self._x(0), area.height() - 2)
        painter.fillRect(bar, look.color("panel"))
        for day, spans in enumerate(one.days):
            for span in spans:
                left = self._x(day * MINUTES_A_DAY + span.start)
                right = self._x(day * MINUTES_A_DAY + span.end)
                paint_mode(painter, QRectF(left, bar.top(), right - left, bar.height()), span.mode)

    def _draw_sum(self, painter: QPainter, top: float) -> None:
        """How many cameras record all the time, hour by hour."""
        high = look.px(SUM - 10)
        painter.setFont(look.font(SMALL))
        painter.setPen(look.color("muted"))
        painter.drawText(
            QRectF(0, top + 4, look.px(LEFT - 8), high), Qt.AlignmentFlag.AlignVCenter, "Continuous, at once"
        )
        most = max(self._at_once, default=0)
        if not most:
            return
        for at, many in enumerate(self._at_once):
            if many:
                tall = high * many / max(1, len(self._rows))
                left, right = self._x(at * 15), self._x((at + 1) * 15)
                painter.fillRect(QRectF(left, top + 6 + high - tall, right - left + 0.3, tall), look.color("accent"))

    def row_at(self, y: float) -> StackRow | None:
        """The camera at a height."""
        at = int((y - look.px(HEAD)) // look.px(ROW))
        return self._rows[at] if 0 <= at < len(self._rows) else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select a camera."""
        one = self.row_at(event.position().y())
        if one is not None:
            self.selected.emit(one.id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Tell camera, time and mode under the pointer."""
        one = self.row_at(event.position().y())
        x, left = event.position().x(), self._x(0)
        if one is None or x < left:
            return
        minute = min(WEEK_MINUTES - 1, (x - left) / (self._x(WEEK_MINUTES) - left) * WEEK_MINUTES)
        day, at = divmod(int(minute), MINUTES_A_DAY)
        mode: Mode = next((span.mode for span in one.days[day] if span.start <= at < span.end), "off")
        words = f"{one.name}, {DAY_WORDS[DAYS[day]]} {clock_of(at // 15 * 15)}: {mode}"
        show_tip(event.globalPosition().toPoint(), words, self)


def _always_by_quarter(rows: Sequence[StackRow]) -> list[int]:
    """By quarter hour of the week: how many cameras record all the time."""
    counts = [0] * (WEEK_MINUTES // 15)
    for one in rows:
        for day, spans in enumerate(one.days):
            for span in spans:
                if span.mode == "continuous":
                    first = (day * MINUTES_A_DAY + span.start) // 15
                    last = -(-(day * MINUTES_A_DAY + span.end) // 15)
                    for at in range(first, min(last, len(counts))):
                        counts[at] += 1
    return counts
