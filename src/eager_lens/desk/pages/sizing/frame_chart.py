"""The frames of a clip as they were sent: a stroke for each, as high as it is large; key frames darker and marked."""

from __future__ import annotations

import bisect
from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.units import figure
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.axes import draw_across_words, draw_axes, ticks
from eager_lens.desk.widgets.plain_words import show_tip

STROKES = 1200
"""So many strokes at most; of more frames, the largest of each stretch is drawn."""


@dataclass(frozen=True)
class FrameStrokes:
    """What is drawn: time in s, size in kB, and whether it is a key frame, of each stroke; and the mean size in kB."""

    time_s: tuple[float, ...]
    size_kb: tuple[float, ...]
    is_key: tuple[bool, ...]
    mean_kb: float


def strokes(times_s: Sequence[float], sizes_bytes: Sequence[int], keys: Sequence[bool]) -> FrameStrokes:
    """Strokes for frames: the largest of each stretch where there are too many."""
    step = -(-len(sizes_bytes) // STROKES)
    picked = [
        max(range(at, min(at + step, len(sizes_bytes))), key=lambda frame: sizes_bytes[frame])
        for at in range(0, len(sizes_bytes), step)
    ]
    return FrameStrokes(
        tuple(float(times_s[at]) for at in picked),
        tuple(sizes_bytes[at] / 1000 for at in picked),
        tuple(bool(keys[at]) for at in picked),
        sum(map(int, sizes_bytes)) / 1000 / max(1, len(sizes_bytes)),
    )


class FrameChart(QWidget):
    """Draws ``FrameStrokes``; without any, words that say what to do."""

    accessible_role = AccessibleRole.Chart

    def __init__(self, empty_words: str) -> None:
        super().__init__()
        self._empty_words = empty_words
        self._shown: FrameStrokes | None = None
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(look.px(110))
        self.setAccessibleName("Sizes of the clip's frames over time")
        self.setAccessibleDescription(empty_words)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """A comfortable size."""
        return QSize(look.px(560), look.px(190))

    def show_strokes(self, shown: FrameStrokes | None, empty_words: str = "") -> None:
        """Show a clip's frames."""
        self._shown, self._empty_words = shown, empty_words or self._empty_words
        words = self._empty_words
        if shown is not None:
            words = f"{sum(shown.is_key)} key frames in {figure(shown.time_s[-1])} s, largest {figure(max(shown.size_kb))} kB"
        self.setAccessibleDescription(words)
        self.update()

    def _plot(self) -> QRectF:
        return QRectF(look.px(44), look.px(30), self.width() - look.px(56), self.height() - look.px(64))

    def _x(self, time_s: float, shown: FrameStrokes) -> float:
        return self._plot().left() + self._plot().width() * time_s / max(shown.time_s[-1], 1e-9)

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the strokes over a quiet grid."""
        with QPainter(self) as painter:
            shown, plot = self._shown, self._plot()
            if shown is None:
                painter.setPen(look.color("muted"))
                how = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(self.rect().adjusted(24, 0, -24, 0), how, self._empty_words)
                return
            top = 1.05 * max(shown.size_kb)
            up = [(plot.bottom() - plot.height() * one / top, figure(one)) for one in ticks(0, top, 5)]
            across = [(self._x(one, shown), figure(one)) for one in ticks(0, shown.time_s[-1], 9)]
            draw_axes(painter, plot, across, up)
            painter.drawText(QPointF(look.px(4), look.px(11)), "kB per frame")
            draw_across_words(painter, plot, "s")
            wide = max(1.0, min(4.0, plot.width() / len(shown.time_s) * 0.6))
            for time_s, size_kb, is_key in zip(shown.time_s, shown.size_kb, shown.is_key, strict=True):
                x, y = self._x(time_s, shown), plot.bottom() - plot.height() * size_kb / top
                painter.setPen(QPen(look.color("accent", 1.0 if is_key else 0.45), wide))
                painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, y))
            every_key = all(shown.is_key)
            if not every_key:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(look.color("ink"))
                for time_s, is_key in zip(shown.time_s, shown.is_key, strict=True):
                    if is_key:
                        painter.drawEllipse(QPointF(self._x(time_s, shown), plot.top() - 6), 2.2, 2.2)
            y = plot.bottom() - plot.height() * shown.mean_kb / top
            painter.setPen(QPen(look.color("ink"), 1.2, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            words = f"mean {figure(shown.mean_kb)} kB" + ("" if every_key else "   • key frame")
            painter.setPen(look.color("ink"))
            painter.drawText(QPointF(plot.right() - painter.fontMetrics().horizontalAdvance(words), look.px(11)), words)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Tell the frame under the pointer."""
        shown = self._shown
        if shown is None:
            return
        time_s = (event.position().x() - self._plot().left()) / max(1.0, self._plot().width()) * shown.time_s[-1]
        at = min(max(0, bisect.bisect_left(shown.time_s, time_s)), len(shown.time_s) - 1)
        kind = "key frame" if shown.is_key[at] else "frame"
        words = f"{figure(shown.time_s[at])} s: {kind}, {figure(shown.size_kb[at])} kB"
        show_tip(event.globalPosition().toPoint(), words, self)
