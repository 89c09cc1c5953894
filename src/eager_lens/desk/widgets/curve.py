"""A curve with its spread, a line that must be reached, and the present point."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.units import figure
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import NORMAL, SMALL
from eager_lens.desk.widgets.axes import draw_across_words, draw_axes, ticks
from eager_lens.desk.widgets.marks import paint_focus
from eager_lens.desk.widgets.plain_words import show_tip


class Level(NamedTuple):
    """A line across: its value, its words, and whether it is one that must be reached."""

    value: float
    words: str
    needs: bool


@dataclass(frozen=True)
class CurveData:
    """What a chart shows: one curve over ``xs`` with its lower and upper bound, all of the same length.

    ``span_words`` say what the bounds are, with their two figures. ``limits`` are horizontal lines with their words; ``now``
    is the present x, if there is one, with ``now_words`` before its figure; ``dots`` are points beside the curve with their
    words.
    ``top`` is the upper end of the y axis, where it is not to follow the data.
    """

    xs: tuple[float, ...]
    ys: tuple[float, ...]
    lows: tuple[float, ...]
    highs: tuple[float, ...]
    x_words: str
    y_words: str
    limits: tuple[Level, ...] = ()
    now: float | None = None
    now_words: str = "now: "
    top: float | None = None
    dots: tuple[tuple[float, float, str], ...] = ()
    span_words: str = "{low} to {high}"


class CurveChart(QWidget):
    """Draws a ``CurveData``. A click or Return on a point offers its x by ``picked``; arrow keys walk along."""

    accessible_role = AccessibleRole.Chart

    picked = Signal(float)

    def __init__(self, empty_words: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._data: CurveData | None = None
        self._empty_words = empty_words
        self._at: int | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(look.px(120))
        look.changed.connect(self.update)
        self.show_data(None)

    def sizeHint(self) -> QSize:
        """A comfortable size."""
        return QSize(look.px(420), look.px(210))

    def show_data(self, data: CurveData | None, empty_words: str = "") -> None:
        """Show a curve, or words that say why there is none."""
        self._data, self._at = data, None
        self._empty_words = empty_words or self._empty_words
        self.setAccessibleName("Chart")
        self.setAccessibleDescription(self._empty_words or "no curve yet")
        if data is not None:
            pairs = ", ".join(f"{figure(x)}: {figure(y)}" for x, y in zip(data.xs, data.ys, strict=True))
            self.setAccessibleName(f"{data.y_words} over {data.x_words}")
            limits = "".join(f"; {words}" for _, words, _ in data.limits)
            self.setAccessibleDescription(pairs + limits)
        self.update()

    # ---- geometry ------------------------------------------------------------------------------------------------

    def _plot(self) -> QRectF:
        return QRectF(look.px(40), look.px(10), self.width() - look.px(56), self.height() - look.px(50))

    def _top(self, data: CurveData) -> float:
        """The upper end of the y axis: the limits and the curve always, the upper bound as far as it helps."""
        if data.top is not None:
            return data.top
        must = max([*data.ys, *(limit.value for limit in data.limits)])
        return max(1e-9, min(max(data.highs), must * 1.35), must * 1.08)

    def _point(self, x: float, y: float, data: CurveData) -> QPointF:
        plot = self._plot()
        wide = (data.xs[-1] - data.xs[0]) or 1.0
        across = plot.left() + plot.width() * (x - data.xs[0]) / wide
        return QPointF(across, plot.bottom() - plot.height() * min(1.0, y / self._top(data)))

    def _nearest(self, across: float, data: CurveData) -> int:
        return min(range(len(data.xs)), key=lambda at: abs(self._point(data.xs[at], 0, data).x() - across))

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw grid, spread, curve, limits and the present point."""
        with QPainter(self) as painter:
            paint_focus(painter, self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            data = self._data
            if data is None:
                painter.setPen(look.color("muted"))
                area = self.rect().adjusted(look.px(8), 0, -look.px(8), 0)
                painter.drawText(area, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._empty_words)
                return
            self._grid(painter, data)
            painter.save()
            painter.setClipRect(self._plot().adjusted(0, -2, 0, 2))
            spread = [self._point(x, y, data) for x, y in zip(data.xs, data.highs, strict=True)]
            spread += [self._point(x, y, data) for x, y in zip(data.xs[::-1], data.lows[::-1], strict=True)]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.color("tint"))
            painter.drawPolygon(QPolygonF(spread))
            painter.setPen(QPen(look.series(0), 2))
            painter.drawPolyline([self._point(x, y, data) for x, y in zip(data.xs, data.ys, strict=True)])
            painter.restore()
            self._limits(painter, data)
            self._dots(painter, data, self._marked(painter, data))

    def _grid(self, painter: QPainter, data: CurveData) -> None:
        up = [(self._point(data.xs[0], one, data).y(), figure(one)) for one in ticks(0, self._top(data), 5)]
        across = [(self._point(one, 0, data).x(), figure(one)) for one in ticks(data.xs[0], data.xs[-1], 8)]
        draw_axes(painter, self._plot(), across, up)
        draw_across_words(painter, self._plot(), data.x_words)

    def _limits(self, painter: QPainter, data: CurveData) -> None:
        plot = self._plot()
        painter.setFont(look.font(SMALL))
        metrics = painter.fontMetrics()
        for at, (value, words, needs) in enumerate(data.limits):
            y = self._point(data.xs[0], value, data).y()
            role = "need" if needs else "ink"
            painter.setPen(QPen(look.color(role), 1.2, Qt.PenStyle.DashLine if needs else Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            painter.setPen(look.color(role))
            # Of two lines, the words of the lower one stand at the other end, and below it where there is room.
            lower = any(other.value - value > 0 for other in data.limits if other is not data.limits[at])
            if lower:
                below = y + metrics.ascent() + 4
                painter.drawText(QPointF(plot.left() + 6, below if below < plot.bottom() - 2 else y - 5), words)
            else:
                painter.drawText(QPointF(plot.right() - metrics.horizontalAdvance(words) - 4, y - 5), words)

    def _dots(self, painter: QPainter, data: CurveData, taken: QRectF) -> None:
        """Points beside the curve; their words stand below those of the marked value, where the two would meet."""
        painter.setFont(look.font(SMALL))
        metrics = painter.fontMetrics()
        for x, y, words in data.dots:
            point = self._point(min(max(x, data.xs[0]), data.xs[-1]), y, data)
            painter.setPen(QPen(look.color("ink"), 1.5))
            painter.setBrush(look.color("paper"))
            painter.drawEllipse(point, 4.5, 4.5)
            room = point.x() + 10 + metrics.horizontalAdvance(words) < self._plot().right()
            left = point.x() + 10 if room else point.x() - 10 - metrics.horizontalAdvance(words)
            top = point.y() + 4
            if QRectF(left, top, metrics.horizontalAdvance(words), metrics.height()).intersects(taken):
                top = taken.bottom()
            painter.drawText(QPointF(left, top + metrics.ascent()), words)

    def _marked(self, painter: QPainter, data: CurveData) -> QRectF:
        """The value of now, or the one pointed at; where its words stand."""
        now = self._at if self._at is not None else (data.xs.index(data.now) if data.now in data.xs else None)
        if now is None:
            return QRectF()
        point = self._point(data.xs[now], data.ys[now], data)
        painter.setPen(QPen(look.color("ink"), 1))
        painter.drawLine(point, QPointF(point.x(), self._plot().bottom()))
        painter.setBrush(look.color("ink") if self._at is None else look.color("paper"))
        painter.drawEllipse(point, 4.5, 4.5)
        words = f"{figure(data.ys[now])} {data.y_words}"
        if self._at is None:
            words = f"{data.now_words}{words}"
        painter.setFont(look.font(NORMAL, strong=True))
        metrics = painter.fontMetrics()
        room = point.x() + 10 + metrics.horizontalAdvance(words) < self._plot().right()
        left = point.x() + 10 if room else point.x() - 10 - metrics.horizontalAdvance(words)
        # Beside the curve: above where it falls, below where it rises.
        above, below = point.y() - 8, point.y() + metrics.ascent() + 8
        falls = data.ys[min(now + 1, len(data.ys) - 1)] <= data.ys[now]
        fits_above = above - metrics.ascent() > self._plot().top()
        y = above if (falls and fits_above) or below > self._plot().bottom() - 4 else below
        painter.setPen(look.color("ink"))
        painter.drawText(QPointF(left, y), words)
        return QRectF(left, y - metrics.ascent(), metrics.horizontalAdvance(words), metrics.height())

    # ---- mouse and keyboard --------------------------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Tell the value under the pointer."""
        if self._data is not None:
            at = self._nearest(event.position().x(), self._data)
            low, high = figure(self._data.lows[at]), figure(self._data.highs[at])
            span = self._data.span_words.format(low=low, high=high)
            words = f"{figure(self._data.xs[at])}: {figure(self._data.ys[at])} {self._data.y_words} ({span})"
            show_tip(event.globalPosition().toPoint(), words, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Offer the value under the pointer."""
        if self._data is not None:
            self._at = self._nearest(event.position().x(), self._data)
            self.update()
            self.picked.emit(self._data.xs[self._at])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Walk along the curve, offer the value with Return."""
        data = self._data
        if data is None or event.key() not in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
            return
        start = data.xs.index(data.now) if data.now in data.xs else 0
        at = self._at if self._at is not None else start
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.picked.emit(data.xs[at])
            return
        self._at = max(0, min(len(data.xs) - 1, at + (1 if event.key() == Qt.Key.Key_Right else -1)))
        self.update()


def curve(xs: Sequence[float], ys: Sequence[float], x_words: str, y_words: str, now: float | None = None) -> CurveData:
    """A curve without a spread."""
    return CurveData(tuple(xs), tuple(ys), tuple(ys), tuple(ys), x_words, y_words, (), now)
