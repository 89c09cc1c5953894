"""The marks of findings: a filled diamond for a fault, an open one for a warning, a square for a to-do, a ring for a note, a
tick for done."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.finding import Severity
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import Look
from eager_lens.desk.widgets.plain_words import set_tip


def paint_mark(
    painter: QPainter, center: QPointF, severity: Severity | None, size: float = 11, look: Look = look
) -> None:
    """Paint the mark of a severity, or the tick of what is done for None; on paper by its own look."""
    half = size / 2
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if severity is None:
        painter.setPen(QPen(look.color("accent"), 1.6))
        x, y = center.x(), center.y()
        painter.drawPolyline(
            [
                QPointF(x - half * 0.8, y),
                QPointF(x - half * 0.2, y + half * 0.6),
                QPointF(x + half * 0.8, y - half * 0.7),
            ]
        )
    elif severity is Severity.NOTE:
        painter.setPen(QPen(look.color("muted"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QRectF(center.x() - half * 0.75, center.y() - half * 0.75, half * 1.5, half * 1.5))
    elif severity is Severity.TODO:
        painter.setPen(QPen(look.color("accent"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(center.x() - half * 0.65, center.y() - half * 0.65, half * 1.3, half * 1.3))
    else:
        painter.setPen(QPen(look.color("need"), 1.4))
        painter.setBrush(look.color("need") if severity is Severity.FAULT else Qt.BrushStyle.NoBrush)
        x, y = center.x(), center.y()
        painter.drawPolygon(
            QPolygonF([QPointF(x, y - half), QPointF(x + half, y), QPointF(x, y + half), QPointF(x - half, y)])
        )
    painter.restore()


def paint_focus(painter: QPainter, widget: QWidget) -> None:
    """A frame round a painted widget that the keyboard is at."""
    if widget.hasFocus():
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QPen(look.color("accent"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(widget.rect().adjusted(0, 0, -1, -1))


class Mark(QWidget):
    """A mark by itself, with its word as tool tip and accessible name."""

    def __init__(self, severity: Severity | None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._severity = severity
        word = severity.word if severity is not None else "done"
        set_tip(self, word)
        self.setAccessibleName(word)
        look.changed.connect(self._grown)
        self._grown()

    def _grown(self) -> None:
        self.setFixedSize(QSize(look.px(16), look.px(18)))

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the mark."""
        with QPainter(self) as painter:
            paint_mark(painter, QPointF(self.width() / 2, self.height() / 2), self._severity, look.px(11))
