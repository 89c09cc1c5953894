"""Steps in time: what each person does when, and how much starts or updates by itself meanwhile."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.plain_words import show_tip

LEFT, LANE, AXIS, WAITS, LEGEND = 92, 26, 22, 30, 18


class Bar(NamedTuple):
    """A step: its id and words, who does it (from 0), begun, hands free, through (seconds), its kind's place, and done."""

    id: str
    words: str
    person: int
    start_s: float
    hands_end_s: float
    end_s: float
    kind: int
    done: bool


class TimeChart(QWidget):
    """A lane for each person with the steps as blocks, a lane for what goes on by itself, minutes below.

    What is done is only outlined; the selected step is drawn with the wait behind it. Click or arrow keys select.
    """

    accessible_role = AccessibleRole.Chart

    selected = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._bars: tuple[Bar, ...] = ()
        self._people = 1
        self._selected = ""
        self.kinds: tuple[str, ...] = ()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Time chart of the steps")
        self.setAccessibleDescription("no step yet")
        look.changed.connect(self._grown)

    def show_bars(self, bars: Sequence[Bar], people: int, kinds: Sequence[str]) -> None:
        """Show the steps for a number of people; ``kinds`` names the kinds of steps by place."""
        self._bars, self._people, self.kinds = tuple(bars), people, tuple(kinds)
        self.setAccessibleDescription(f"{len(bars)} steps for {people} people, {self._whole_s() / 60:.0f} minutes")
        self._grown()

    def select(self, bar_id: str) -> None:
        """Show a step as selected."""
        self._selected = bar_id
        self.update()

    def _grown(self) -> None:
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """As high as its lanes."""
        return QSize(look.px(500), look.px(self._people * LANE + WAITS + AXIS + LEGEND))

    def minimumSizeHint(self) -> QSize:
        """The same height, narrower."""
        return QSize(look.px(200), self.sizeHint().height())

    # ---- geometry ------------------------------------------------------------------------------------------------

    def _whole_s(self) -> float:
        return max((bar.end_s for bar in self._bars), default=60.0)

    def _x(self, at_s: float) -> float:
        left = look.px(LEFT)
        return left + (self.width() - left - look.px(8)) * at_s / self._whole_s()

    def _lane(self, person: int) -> QRectF:
        return QRectF(0, look.px(4 + person * LANE), self.width(), look.px(LANE - 6))

    def _block(self, bar: Bar) -> QRectF:
        lane = self._lane(bar.person)
        left, right = self._x(bar.start_s), self._x(bar.hands_end_s)
        return QRectF(left, lane.top(), max(1.5, right - left), lane.height())

    def bar_at(self, point: QPointF) -> Bar | None:
        """The step under a point."""
        return next((bar for bar in self._bars if self._block(bar).adjusted(-1, 0, 1, 0).contains(point)), None)

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw lanes, blocks, what goes on by itself, and the axis."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(SMALL))
            for person in range(self._people):
                lane = self._lane(person)
                painter.setPen(look.color("muted"))
                words = "One person" if self._people == 1 else f"Person {person + 1}"
                painter.drawText(lane, Qt.AlignmentFlag.AlignVCenter, words)
                painter.fillRect(
                    QRectF(self._x(0), lane.bottom() + 1, self._x(self._whole_s()) - self._x(0), 1), look.color("rule")
                )
            for bar in self._bars:
                self._draw(painter, bar)
            self._draw_waits(painter)
            self._draw_selected(painter)
            self._draw_axis(painter)
            self._draw_legend(painter)
            if self.hasFocus():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(look.color("ink"), 1, Qt.PenStyle.DotLine))
                painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -1, -1))

    def _draw(self, painter: QPainter, bar: Bar) -> None:
        block = self._block(bar).adjusted(0, 0, -0.6, 0)
        color = look.series(bar.kind)
        painter.setPen(QPen(color, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush if bar.done else color)
        painter.drawRect(block)

    def _waits_top(self) -> float:
        return look.px(10 + self._people * LANE)

    def _draw_waits(self, painter: QPainter) -> None:
        """How many devices start, update or settle by themselves: the darker the more."""
        top, high = self._waits_top(), look.px(WAITS - 10)
        edges: dict[float, int] = {}
        for bar in self._bars:
            if bar.end_s > bar.hands_end_s:
                edges[bar.hands_end_s] = edges.get(bar.hands_end_s, 0) + 1
                edges[bar.end_s] = edges.get(bar.end_s, 0) - 1
        running, before = 0, 0.0
        steps = []
        for at_s in sorted(edges):
            steps.append((before, at_s, running))
            running, before = running + edges[at_s], at_s
        most = max((many for _, _, many in steps), default=0)
        painter.setPen(look.color("muted"))
        words = f"By itself, ≤ {most}" if most else "By itself"
        painter.drawText(QRectF(0, top, look.px(LEFT), high), Qt.AlignmentFlag.AlignVCenter, words)
        for begin, end, many in steps:
            if many:
                tall = high * many / most
                area = QRectF(self._x(begin), top + high - tall, max(0.5, self._x(end) - self._x(begin)), tall)
                painter.fillRect(area, look.color("muted", 0.55))

    def _draw_selected(self, painter: QPainter) -> None:
        bar = next((bar for bar in self._bars if bar.id == self._selected), None)
        if bar is None:
            return
        block = self._block(bar)
        wait = QRectF(block.right(), block.top(), max(0.0, self._x(bar.end_s) - block.right()), block.height())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.color("ink", 0.25))
        painter.drawRect(wait)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.color("ink"), 2))
        painter.drawRect(block.adjusted(-1, -2, 1, 2))

    def _draw_axis(self, painter: QPainter) -> None:
        top = self._waits_top() + look.px(WAITS - 6)
        painter.setPen(look.color("muted"))
        painter.setFont(look.font(SMALL, figures=True))
        metrics = QFontMetrics(painter.font())
        minutes = self._whole_s() / 60
        step = next((one for one in (1, 2, 5, 10, 15, 30, 60, 120, 240, 480) if minutes / one <= 9), 960)
        at = 0
        while at <= minutes:
            x = self._x(at * 60)
            words = f"{at} min" if at == 0 else f"{at}"
            painter.drawLine(QPointF(x, top), QPointF(x, top + 3))
            painter.drawText(QPointF(x - (metrics.horizontalAdvance(words) / 2 if at else 0), top + look.px(15)), words)
            at += step

    def _draw_legend(self, painter: QPainter) -> None:
        """The kinds of steps that there are, by their colours."""
        painter.setFont(look.font(SMALL))
        metrics = QFontMetrics(painter.font())
        top = self._waits_top() + look.px(WAITS + AXIS - 8)
        x = float(look.px(LEFT))
        for kind in sorted({bar.kind for bar in self._bars}):
            square = QRectF(x, top + look.px(3), look.px(9), look.px(9))
            painter.fillRect(square, look.series(kind))
            painter.setPen(look.color("muted"))
            words = self.kinds[kind]
            painter.drawText(QPointF(square.right() + look.px(5), top + look.px(12)), words)
            x = square.right() + look.px(5 + 16) + metrics.horizontalAdvance(words)
        if any(bar.done for bar in self._bars):
            painter.drawText(QPointF(x, top + look.px(12)), "outlined: done")

    # ---- mouse and keyboard ----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select the step under the pointer."""
        bar = self.bar_at(event.position())
        if bar is not None:
            self.select(bar.id)
            self.selected.emit(bar.id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Tell the step under the pointer."""
        bar = self.bar_at(event.position())
        show_tip(event.globalPosition().toPoint(), bar.words if bar else "", self)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right go from step to step."""
        move = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if move is None or not self._bars:
            super().keyPressEvent(event)
            return
        order = sorted(self._bars, key=lambda bar: (bar.start_s, bar.person))
        at = next((n for n, bar in enumerate(order) if bar.id == self._selected), -1 if move > 0 else len(order))
        bar = order[max(0, min(len(order) - 1, at + move))]
        self.select(bar.id)
        self.selected.emit(bar.id)
