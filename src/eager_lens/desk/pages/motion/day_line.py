"""A day hour by hour: rows of stretches, for what was there, what was caught, what was told falsely, what was recorded."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.marks import paint_focus

LEFT, ROW, AXIS = 92, 22, 20
DAY_S = 86_400.0


class LineRow(NamedTuple):
    """A row: its name, its colour's role in the palette, and its stretches in seconds of the day."""

    name: str
    role: str
    stretches: tuple[tuple[float, float], ...]


class DayLine(QWidget):
    """Rows over 24 hours; press a stretch to go to its moment."""

    accessible_role = AccessibleRole.Chart

    picked = Signal(float, int)
    """A moment in seconds, and the number of its row (-1: by keyboard, of any row)."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: tuple[LineRow, ...] = ()
        self._watched: tuple[tuple[float, float], ...] = ()
        self._at_s: float | None = None
        self._end_s = DAY_S
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def show_rows(self, rows: Sequence[LineRow], watched: Sequence[tuple[float, float]], end_s: float = DAY_S) -> None:
        """Show rows; ``watched`` is what was looked at of the day, or of a clip that ends at ``end_s``."""
        self._rows, self._watched, self._end_s = tuple(rows), tuple(watched), end_s
        said = ", ".join(f"{one.name} {len(one.stretches)}" for one in rows)
        self.setAccessibleName("The day hour by hour")
        self.setAccessibleDescription(said or "not tried yet")
        self.updateGeometry()
        self.update()

    def show_moment(self, at_s: float | None) -> None:
        """Mark a moment."""
        self._at_s = at_s
        self.update()

    def sizeHint(self) -> QSize:
        """As high as its rows."""
        return QSize(look.px(520), look.px(ROW * max(1, len(self._rows)) + AXIS))

    def _x(self, at_s: float) -> float:
        left = look.px(LEFT)
        return left + (self.width() - left - look.px(6)) * at_s / self._end_s

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw rows, hours, and the moment."""
        with QPainter(self) as painter:
            painter.setFont(look.font(SMALL))
            high = look.px(ROW)
            for begins, ends in self._watched:
                area = QRectF(self._x(begins), 0, max(1.0, self._x(ends) - self._x(begins)), high * len(self._rows))
                painter.fillRect(area, look.color("panel"))
            for at, one in enumerate(self._rows):
                painter.setPen(look.color("ink"))
                painter.drawText(QRectF(0, at * high, look.px(LEFT), high), Qt.AlignmentFlag.AlignVCenter, one.name)
                for begins, ends in one.stretches:
                    wide = max(2.0, self._x(ends) - self._x(begins))
                    painter.fillRect(QRectF(self._x(begins), at * high + 3, wide, high - 6), look.color(one.role))
            painter.setFont(look.font(SMALL, figures=True))
            painter.setPen(look.color("muted"))
            for at_s, words in self._ticks():
                wide = painter.fontMetrics().horizontalAdvance(words)
                x = min(self._x(at_s) - wide / 2, self.width() - wide)
                painter.drawText(QPointF(x, high * len(self._rows) + look.px(14)), words)
            if self._at_s is not None:
                painter.fillRect(QRectF(self._x(self._at_s), 0, 1.5, high * len(self._rows)), look.color("ink"))
            paint_focus(painter, self)

    def _ticks(self) -> list[tuple[float, str]]:
        """Each third hour of a day, or eight moments of a clip in minutes and seconds."""
        step = self._end_s / 8
        if self._end_s == DAY_S:
            return [(at * step, f"{3 * at:02d}:00") for at in range(9)]
        return [(at * step, f"{int(at * step) // 60}:{int(at * step) % 60:02d}") for at in range(9)]

    def _all(self) -> list[float]:
        return sorted({begins for one in self._rows for begins, _ in one.stretches})

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to the nearest stretch of the row under the pointer."""
        row = int(event.position().y() // look.px(ROW))
        if 0 <= row < len(self._rows) and self._rows[row].stretches:
            x = event.position().x()
            nearest = min((begins for begins, _ in self._rows[row].stretches), key=lambda one: abs(self._x(one) - x))
            self.picked.emit(nearest, row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right go from stretch to stretch."""
        moments = self._all()
        now = self._at_s or 0.0
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Right and moments:
            self.picked.emit(next((one for one in moments if one > now + 0.01), moments[-1]), -1)
        elif key == Qt.Key.Key_Left and moments:
            self.picked.emit(next((one for one in reversed(moments) if one < now - 0.01), moments[0]), -1)
        else:
            super().keyPressEvent(event)
