"""A year as twelve rows of days: which exception holds when, where the clocks change; dates are selected by drag or keyboard."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.plain_words import show_tip

LEFT, ROW, HEAD = 44, 22, 18


class DayShown(NamedTuple):
    """A date that is not like the others: the exception's number in the list (0: none), words, and minutes (1440 mostly)."""

    number: int
    words: str
    minutes: int


class YearBoard(QWidget):
    """Twelve months. It holds no exception of its own: days come in, a selected stretch goes out."""

    accessible_role = AccessibleRole.Graphic

    dates_selected = Signal(object, object)
    """First and last date of what was selected."""

    def __init__(self) -> None:
        super().__init__()
        self._year = 2026
        self._days: Mapping[date, DayShown] = {}
        self._cursor = date(2026, 1, 1)
        self._anchor: date | None = None
        self._dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def show_year(self, year: int, days: Mapping[date, DayShown]) -> None:
        """Show a year; ``days`` has those that are not plain."""
        if year != self._year:
            self._year, self._anchor = year, None
            self._cursor = date(year, self._cursor.month, min(self._cursor.day, 28))
        self._days = days
        self.setAccessibleName(f"The year {year}, {len(days)} days of exceptions or clock changes")
        self.setAccessibleDescription(
            "; ".join(f"{day.isoformat()} {shown.words}" for day, shown in sorted(days.items()))
        )
        self.update()

    def sizeHint(self) -> QSize:
        """Twelve rows and the days above."""
        return QSize(look.px(640), look.px(HEAD + 12 * ROW + 2))

    def minimumSizeHint(self) -> QSize:
        """The same height, narrower."""
        return QSize(look.px(420), self.sizeHint().height())

    @property
    def selected(self) -> tuple[date, date]:
        """First and last date selected."""
        other = self._anchor or self._cursor
        return min(self._cursor, other), max(self._cursor, other)

    # ---- geometry ------------------------------------------------------------------------------------------------

    def cell(self, day: date) -> QRectF:
        """Where a date is drawn."""
        wide = (self.width() - look.px(LEFT)) / 31
        top = look.px(HEAD) + (day.month - 1) * look.px(ROW)
        return QRectF(look.px(LEFT) + (day.day - 1) * wide, top, wide, look.px(ROW)).adjusted(0, 0, -2, -2)

    def _day_at(self, point: QPointF) -> date | None:
        month = int((point.y() - look.px(HEAD)) // look.px(ROW)) + 1
        at = int((point.x() - look.px(LEFT)) // ((self.width() - look.px(LEFT)) / 31)) + 1
        if not 1 <= month <= 12 or not 1 <= at <= 31 or point.x() < look.px(LEFT):
            return None
        try:
            return date(self._year, month, at)
        except ValueError:
            return None

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw every day."""
        with QPainter(self) as painter:
            painter.setFont(look.font(SMALL, figures=True))
            painter.setPen(look.color("muted"))
            for at in (1, 5, 10, 15, 20, 25, 31):
                cell = self.cell(date(self._year, 1, at))
                head = QRectF(cell.left() - 6, 0, cell.width() + 12, look.px(HEAD))
                painter.drawText(head, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, str(at))
            first, last = self.selected
            day = date(self._year, 1, 1)
            while day.year == self._year:
                if day.day == 1:
                    cell = self.cell(day)
                    painter.setFont(look.font(SMALL))
                    painter.setPen(look.color("muted"))
                    area = QRectF(0, cell.top(), look.px(LEFT), cell.height())
                    painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, f"{day:%b}")
                self._draw(painter, day, first <= day <= last)
                day += timedelta(days=1)

    def _draw(self, painter: QPainter, day: date, selected: bool) -> None:
        cell, shown = self.cell(day), self._days.get(day)
        weekend = day.weekday() >= 5
        painter.fillRect(cell, look.color("rule" if weekend else "panel"))
        if shown is not None and shown.number:
            painter.fillRect(cell, look.series(shown.number - 1))
            painter.setFont(look.font(SMALL, strong=True, figures=True))
            painter.setPen(look.color("paper"))
            painter.drawText(cell, Qt.AlignmentFlag.AlignCenter, str(shown.number))
        if shown is not None and shown.minutes != 1440:
            painter.setPen(QPen(look.color("need"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(cell.center(), look.px(7), look.px(7))
        if selected and (self.hasFocus() or self._anchor is not None):
            painter.setPen(QPen(look.color("ink"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(cell.adjusted(0.5, 0.5, -0.5, -0.5))

    # ---- mouse and keyboard ----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin to select."""
        day = self._day_at(event.position())
        if day is not None:
            self._cursor, self._anchor, self._dragging = day, None, True
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Select on, or tell the date under the pointer."""
        day = self._day_at(event.position())
        if day is None:
            return
        if self._dragging:
            self._anchor = self._anchor or self._cursor
            self._cursor = day
            self.update()
        else:
            shown = self._days.get(day)
            show_tip(event.globalPosition().toPoint(), f"{day:%A %d %B}{': ' + shown.words if shown else ''}", self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """What was selected."""
        if self._dragging:
            self._dragging = False
            self.dates_selected.emit(*self.selected)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows walk, Shift widens, Page up and down go a month, Return tells what is selected."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -7, Qt.Key.Key_Down: 7}
        months = {Qt.Key.Key_PageUp: -30, Qt.Key.Key_PageDown: 30}
        key = Qt.Key(event.key())
        step = steps.get(key) or months.get(key)
        if step is not None:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self._anchor = self._anchor or self._cursor
            else:
                self._anchor = None
            moved = self._cursor + timedelta(days=step)
            self._cursor = min(max(moved, date(self._year, 1, 1)), date(self._year, 12, 31))
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.dates_selected.emit(*self.selected)
        else:
            super().keyPressEvent(event)


def legend_words(names: Sequence[str]) -> str:
    """The exceptions by the numbers on the board."""
    return "   ".join(f"{at} {name}" for at, name in enumerate(names, 1))
