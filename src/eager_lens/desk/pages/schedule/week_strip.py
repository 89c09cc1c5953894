"""A week as seven strips of 24 hours in quarter hours, painted with a brush by mouse or keyboard."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.recording.week import (
    DAY_WORDS,
    DAYS,
    FILLS,
    MINUTES_A_DAY,
    Day,
    Mode,
    Span,
    WeekPlan,
    clock_of,
    flat_spans,
)
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.plain_words import set_tip

QUARTER = 15
QUARTERS_A_DAY = MINUTES_A_DAY // QUARTER


def paint_mode(painter: QPainter, rect: QRectF, mode: Mode) -> None:
    """Fill a stretch by its mode: solid, hatched, dotted or empty, so that it reads without colour."""
    fill = FILLS[mode]
    if not any(fill) or rect.width() <= 0:
        return
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    if fill.solid:
        painter.fillRect(rect, look.color("accent"))
    else:
        painter.fillRect(rect, look.color("tint"))
        painter.setClipRect(rect, Qt.ClipOperation.IntersectClip)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        step = look.px(7)
        if fill.hatched:
            painter.setPen(QPen(look.color("accent"), 1.6))
            start = int((rect.left() - rect.height()) // step)
            for at in range(start, int(rect.right() // step) + 1):
                x = at * step
                painter.drawLine(QPointF(x, rect.bottom()), QPointF(x + rect.height(), rect.top()))
        if fill.dotted:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.color("accent"))
            for across in range(int(rect.left() // step), int(rect.right() // step) + 1):
                for down in range(int(rect.top() // step), int(rect.bottom() // step) + 1):
                    painter.drawEllipse(QPointF((across + 0.5) * step, (down + 0.5) * step), 1.5, 1.5)
    painter.restore()


def plan_words(plan: WeekPlan) -> str:
    """A week as a screen reader says it."""
    days = []
    for day in DAYS:
        spans = ", ".join(f"{clock_of(s.start)} to {clock_of(s.end)} {s.mode}" for s in flat_spans(plan.of_day(day)))
        days.append(f"{DAY_WORDS[day]} {spans or 'nothing'}")
    return "; ".join(days)


class WeekStrip(QWidget):
    """The painter's canvas. It holds no schedule of its own: strokes go out by ``painted``, a new plan comes in."""

    accessible_role = AccessibleRole.Graphic

    painted = Signal(object, str)
    """A dict of strokes by day, and the stroke's name (strokes of one drag share it)."""
    day_copied = Signal(str)
    day_pasted = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.brush: Mode = "continuous"
        self._plan: WeekPlan | None = None
        self._cursor = (0, 32)
        self._anchor: tuple[int, int] | None = None
        self._dragging: tuple[int, int] | None = None
        self._last = (0, 0)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Schedule, painted by quarter hours")
        look.changed.connect(self.updateGeometry)

    def minimumSizeHint(self) -> QSize:
        """All seven rows."""
        return QSize(look.px(320), look.px(7 * 30 + 26))

    def sizeHint(self) -> QSize:
        """Seven rows and the hours below."""
        return QSize(look.px(560), look.px(7 * 30 + 26))

    def show_plan(self, plan: WeekPlan | None) -> None:
        """Show a week."""
        self._plan = plan
        self.setAccessibleDescription(plan_words(plan) if plan is not None else "")
        self.update()

    @property
    def cursor_day(self) -> Day:
        """The day on which the keyboard's cursor stands."""
        return DAYS[self._cursor[0]]

    # ---- geometry ------------------------------------------------------------------------------------------------

    def _left(self) -> float:
        return look.px(84)

    def _row_rect(self, day: int) -> QRectF:
        height = look.px(30)
        return QRectF(self._left(), day * height, self.width() - self._left() - look.px(18), height - look.px(5))

    def _x_of(self, quarter: int) -> float:
        row = self._row_rect(0)
        return row.left() + row.width() * quarter / QUARTERS_A_DAY

    def _cell_at(self, point: QPointF) -> tuple[int, int]:
        row = self._row_rect(0)
        day = max(0, min(6, int(point.y() // look.px(30))))
        share = (point.x() - row.left()) / row.width()
        return day, max(0, min(QUARTERS_A_DAY - 1, int(share * QUARTERS_A_DAY)))

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the days, the hours, and where the cursor stands."""
        with QPainter(self) as painter:
            painter.setFont(look.font(SMALL))
            for at, day in enumerate(DAYS):
                rect = self._row_rect(at)
                painter.setPen(look.color("ink" if at == self._cursor[0] and self.hasFocus() else "muted"))
                area = QRectF(0, rect.top(), self._left() - 8, rect.height())
                painter.drawText(area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, DAY_WORDS[day])
                painter.fillRect(rect, look.color("panel"))
                if self._plan is not None:
                    for span in flat_spans(self._plan.of_day(day)):
                        left = rect.left() + rect.width() * span.start / MINUTES_A_DAY
                        wide = rect.width() * (span.end - span.start) / MINUTES_A_DAY
                        paint_mode(painter, QRectF(left, rect.top(), wide, rect.height()), span.mode)
                painter.setPen(QPen(look.color("rule"), 1))
                for hour in range(0, 25, 6):
                    x = self._x_of(hour * 4)
                    painter.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
            painter.setFont(look.font(SMALL, figures=True))
            painter.setPen(look.color("muted"))
            bottom = look.px(7 * 30)
            every_h = 3 if self._x_of(96) - self._x_of(0) > look.px(380) else 6
            for hour in range(0, 25, every_h):
                text = clock_of(hour * 60)
                x = self._x_of(hour * 4)
                wide = painter.fontMetrics().horizontalAdvance(text)
                painter.drawText(QPointF(x - wide / 2, bottom + look.px(12)), text)
            if self.hasFocus():
                painter.setPen(QPen(look.color("ink"), 1.5))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self._selection_rect())

    def _selection_rect(self) -> QRectF:
        (day, quarter), (other_day, other) = self._cursor, self._anchor or self._cursor
        top, bottom = self._row_rect(min(day, other_day)), self._row_rect(max(day, other_day))
        left, right = self._x_of(min(quarter, other)), self._x_of(max(quarter, other) + 1)
        return QRectF(left, top.top() + 1, right - left, bottom.bottom() - top.top() - 2)

    # ---- strokes -------------------------------------------------------------------------------------------------

    def _stroke(self, first: tuple[int, int], last: tuple[int, int], mode: Mode, gesture: str) -> None:
        days = range(min(first[0], last[0]), max(first[0], last[0]) + 1)
        start, end = min(first[1], last[1]) * QUARTER, (max(first[1], last[1]) + 1) * QUARTER
        self.painted.emit({DAYS[day]: [Span(start, end, mode)] for day in days}, gesture)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a stroke; the right button takes away."""
        if self._plan is None or event.position().x() < self._left():
            return
        cell = self._cell_at(event.position())
        self._cursor, self._anchor, self._dragging, self._last = cell, None, cell, cell
        WeekStrip._strokes += 1
        self._drag_to(cell, event)

    _strokes = 0

    def _drag_to(self, cell: tuple[int, int], event: QMouseEvent) -> None:
        assert self._dragging is not None
        mode: Mode = "off" if event.buttons() & Qt.MouseButton.RightButton else self.brush
        self._cursor = cell
        self._stroke(self._dragging, cell, mode, f"stroke {WeekStrip._strokes}")
        self._last = cell

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Draw the stroke on, or tell the time under the pointer."""
        cell = self._cell_at(event.position())
        if self._dragging is not None:
            if cell != self._last:
                self._drag_to(cell, event)
        else:
            set_tip(self, f"{DAY_WORDS[DAYS[cell[0]]]} {clock_of(cell[1] * QUARTER)}")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End the stroke."""
        self._dragging = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows walk, Shift widens, Return paints, Delete takes away, copy and paste take whole days."""
        steps = {
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_Up: (-1, 0),
            Qt.Key.Key_Down: (1, 0),
        }
        key = Qt.Key(event.key())
        if event.matches(QKeySequence.StandardKey.Copy):
            self.day_copied.emit(self.cursor_day)
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.day_pasted.emit(self.cursor_day)
        elif key in steps:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self._anchor = self._anchor or self._cursor
            else:
                self._anchor = None
            hour = 4 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else 1
            down, across = steps[key]
            self._cursor = (
                max(0, min(6, self._cursor[0] + down)),
                max(0, min(QUARTERS_A_DAY - 1, self._cursor[1] + across * hour)),
            )
            self.update()
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self._anchor = self._anchor or self._cursor
            else:
                self._anchor = None
            self._cursor = (self._cursor[0], 0 if key == Qt.Key.Key_Home else QUARTERS_A_DAY - 1)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._key_stroke(self.brush)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._key_stroke("off")
        else:
            super().keyPressEvent(event)

    def _key_stroke(self, mode: Mode) -> None:
        if self._plan is not None:
            WeekStrip._strokes += 1
            self._stroke(self._anchor or self._cursor, self._cursor, mode, f"stroke {WeekStrip._strokes}")


def week_stamp(plan: WeekPlan) -> QPixmap:
    """A week at the size of a stamp, for lists."""
    pixmap = QPixmap(look.px(64), look.px(7 * 5))
    pixmap.fill(look.color("paper"))
    with QPainter(pixmap) as painter:
        height, wide = pixmap.height() / 7, pixmap.width()
        for at, day in enumerate(DAYS):
            painter.fillRect(QRectF(0, at * height, wide, height - 1), look.color("rule"))
            for span in flat_spans(plan.of_day(day)):
                left, long = wide * span.start / MINUTES_A_DAY, wide * (span.end - span.start) / MINUTES_A_DAY
                shade = {"continuous": 1.0, "motion or alarm": 0.65, "motion": 0.5, "alarm input": 0.3}.get(
                    span.mode, 0.0
                )
                painter.fillRect(QRectF(left, at * height, long, height - 1), look.color("accent", shade))
        return pixmap
