"""The axes of painted charts: round numbers, a quiet grid, and words that stand clear of it."""

from __future__ import annotations

import math
from collections.abc import Iterable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL

Mark = tuple[float, str]
"""Where a mark stands, in pixels, and its words."""


def ticks(low: float, high: float, most: int = 6) -> list[float]:
    """Round numbers from ``low`` to ``high``: steps of 1, 2, 2.5 or 5 times a power of ten."""
    if not high > low:
        return [low]
    rough = (high - low) / max(1, most - 1)
    power = 10 ** math.floor(math.log10(rough))
    step = next(factor * power for factor in (1, 2, 2.5, 5, 10) if factor * power >= rough * (1 - 1e-9))
    first = math.ceil(low / step - 1e-9)
    return [at * step for at in range(first, math.floor(high / step + 1e-9) + 1)]


def draw_axes(
    painter: QPainter, plot: QRectF, across: Iterable[Mark] = (), up: Iterable[Mark] = (), upright_grid: bool = False
) -> None:
    """Marks below and at the left of a plot, each mark at the left with a line through the plot; with ``upright_grid``
    those below have one too."""
    painter.setFont(look.font(SMALL, figures=True))
    metrics = painter.fontMetrics()
    for y, words in up:
        painter.setPen(QPen(look.color("rule"), 1))
        painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
        painter.setPen(look.color("muted"))
        left = plot.left() - metrics.horizontalAdvance(words) - 6
        painter.drawText(QPointF(left, y + metrics.ascent() / 2 - 1), words)
    for x, words in across:
        if upright_grid:
            painter.setPen(QPen(look.color("rule"), 1))
            painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
        painter.setPen(look.color("muted"))
        left = x - metrics.horizontalAdvance(words) / 2
        painter.drawText(QPointF(left, plot.bottom() + metrics.ascent() + 5), words)
    painter.setFont(look.font(SMALL))


def draw_across_words(painter: QPainter, plot: QRectF, words: str) -> None:
    """What the axis below a plot is of, at its right end."""
    painter.setFont(look.font(SMALL))
    painter.setPen(look.color("muted"))
    area = QRectF(plot.left(), plot.bottom() + look.px(20), plot.width(), look.px(20))
    painter.drawText(area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
