"""Settings of a motion rule by what they miss against what they tell falsely; press one to take it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal, NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.units import figure
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.axes import draw_across_words, draw_axes, ticks
from eager_lens.desk.widgets.marks import paint_focus
from eager_lens.desk.widgets.plain_words import show_tip

LEFT, TOP, BOTTOM, RIGHT = 34, 8, 36, 10

FALSE_TICKS = (0, 1, 3, 10, 30, 100, 300, 1000)

NEAR_PX = 14


class Tried(NamedTuple):
    """A setting: false alarms an hour, missed share, its words, and which of the two curves it belongs to."""

    false_per_h: float
    missed_share: float
    words: str
    left_out: bool


class Spot(NamedTuple):
    """A point that is named: the rule as it is, or the one that is proposed."""

    false_per_h: float
    missed_share: float
    words: str
    kind: Literal["now", "proposed"]


class TradeoffChart(QWidget):
    """False alarms an hour across (logarithm of one more, so that none has a place), missed visits upward.

    ``picked`` tells the number of the setting that was pressed, or selected by arrows and Return.
    """

    accessible_role = AccessibleRole.Chart

    picked = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self._tried: tuple[Tried, ...] = ()
        self._fronts: tuple[tuple[tuple[Tried, ...], bool], ...] = ()
        self._spots: tuple[Spot, ...] = ()
        self._at: int | None = None
        self.empty_words = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Missed visits against false alarms; left and right select a setting, Return applies it")
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """Wider than high."""
        return QSize(look.px(270), look.px(180))

    def minimumSizeHint(self) -> QSize:
        """Still readable."""
        return QSize(look.px(200), look.px(104))

    def show_settings(
        self, tried: Sequence[Tried], fronts: Sequence[tuple[Sequence[Tried], bool]], spots: Sequence[Spot]
    ) -> None:
        """Show all settings as dots, the best of them as lines (dashed: nothing left out), and named points."""
        self._tried, self._spots = tuple(tried), tuple(spots)
        self._fronts = tuple((tuple(front), dashed) for front, dashed in fronts)
        self._at = None
        named = (
            f"{one.words}: {figure(one.false_per_h)} false an hour, {figure(100 * one.missed_share)} % missed"
            for one in spots
        )
        self.setAccessibleDescription("; ".join(named) or self.empty_words or "not tried yet")
        self.update()

    # ---- geometry ------------------------------------------------------------------------------------------------

    @property
    def _most_false(self) -> float:
        return max([3.0, *(one.false_per_h for one in self._tried), *(one.false_per_h for one in self._spots)])

    @property
    def _most_missed(self) -> float:
        shares = [0.1, *(one.missed_share for one in self._tried), *(one.missed_share for one in self._spots)]
        return min(1.0, max(shares) * 1.05)

    def _plot(self) -> QRectF:
        left, top = look.px(LEFT), look.px(TOP)
        return QRectF(left, top, self.width() - left - look.px(RIGHT), self.height() - top - look.px(BOTTOM))

    def _point(self, false_per_h: float, missed_share: float) -> QPointF:
        plot = self._plot()
        across = math.log1p(false_per_h) / math.log1p(self._most_false * 1.1)
        return QPointF(
            plot.left() + plot.width() * across, plot.top() + plot.height() * (1 - missed_share / self._most_missed)
        )

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw axes, dots, curves and named points."""
        with QPainter(self) as painter:
            paint_focus(painter, self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(look.font(SMALL))
            if not self._tried and not self._spots:
                painter.setPen(look.color("muted"))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, self.empty_words)
                return
            self._draw_axes(painter)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.color("rule"))
            for one in self._tried:
                painter.drawEllipse(self._point(one.false_per_h, one.missed_share), 2.5, 2.5)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for front, dashed in self._fronts:
                style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
                painter.setPen(QPen(look.color("muted" if dashed else "accent"), 2, style))
                painter.drawPolyline(QPolygonF([self._point(one.false_per_h, one.missed_share) for one in front]))
            if self._at is not None:
                selected = self._tried[self._at]
                painter.setPen(QPen(look.color("ink"), 1.5))
                painter.drawEllipse(self._point(selected.false_per_h, selected.missed_share), 6, 6)
            for spot in self._spots:
                self._draw_spot(painter, spot)

    def _draw_axes(self, painter: QPainter) -> None:
        across = [(self._point(one, 0).x(), str(one)) for one in FALSE_TICKS if one <= self._most_false * 1.1]
        up = [(self._point(0, one / 100).y(), figure(one)) for one in ticks(0, 100 * self._most_missed, 6)]
        draw_axes(painter, self._plot(), across, up, upright_grid=True)
        draw_across_words(painter, self._plot(), "false alarms an hour")

    def _draw_spot(self, painter: QPainter, spot: Spot) -> None:
        role, half = ("need", 5.0) if spot.kind == "now" else ("accent", 5.0)
        point = self._point(spot.false_per_h, spot.missed_share)
        painter.setPen(QPen(look.color("paper"), 1.5))
        painter.setBrush(look.color(role))
        if spot.kind == "now":
            painter.drawEllipse(point, half, half)
        else:
            painter.drawRect(QRectF(point.x() - half, point.y() - half, 2 * half, 2 * half))
        wide = painter.fontMetrics().horizontalAdvance(spot.words)
        x = min(max(look.px(LEFT), point.x() + 9), self.width() - wide - 2)
        painter.setPen(look.color("ink"))
        painter.drawText(QPointF(x, max(look.px(TOP + 8), point.y() - 8)), spot.words)

    # ---- mouse and keyboard ----------------------------------------------------------------------------------------

    def _nearest(self, point: QPointF) -> int | None:
        def far(at: int) -> float:
            one = self._point(self._tried[at].false_per_h, self._tried[at].missed_share) - point
            return math.hypot(one.x(), one.y())

        at = min(range(len(self._tried)), key=far, default=None)
        return at if at is not None and far(at) <= look.px(NEAR_PX) else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Tell the setting under the pointer."""
        at = self._nearest(event.position())
        if at is not None:
            show_tip(event.globalPosition().toPoint(), self._tip_at(at), self)

    def _tip_at(self, at: int) -> str:
        one = self._tried[at]
        return (
            f"{one.words}: {figure(one.false_per_h)} false alarms an hour, {figure(100 * one.missed_share, 2)} % missed"
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the setting under the pointer."""
        at = self._nearest(event.position())
        if at is not None:
            self._at = at
            self.update()
            self.picked.emit(at)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right go from setting to setting by their false alarms; Return takes the one."""
        key = Qt.Key(event.key())
        order = sorted(range(len(self._tried)), key=lambda at: self._tried[at][:2])
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and order:
            step = 1 if key == Qt.Key.Key_Right else -1
            now = order.index(self._at) if self._at is not None else -step if step > 0 else 0
            self._at = order[(now + step) % len(order)]
            point = self._point(self._tried[self._at].false_per_h, self._tried[self._at].missed_share)
            show_tip(self.mapToGlobal(point.toPoint()), self._tip_at(self._at), self)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._at is not None:
            self.picked.emit(self._at)
        else:
            super().keyPressEvent(event)
