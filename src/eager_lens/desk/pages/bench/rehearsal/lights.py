"""The lights of a device as a small picture: power, link and work, told apart by shape, dark, lit or blinking by fill."""

from __future__ import annotations

from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QIcon, QPainter, QPen, QPixmap, QPolygonF

from eager_lens.desk.theme import look

WIDE, HIGH = 40, 14

OF_WORDS = {
    "dark": ("dark", "dark", "dark"),
    "starting": ("blinking", "lit", "dark"),
    "updating": ("blinking", "lit", "blinking"),
    "does not start": ("blinking", "dark", "dark"),
    "ready, no link": ("lit", "dark", "dark"),
    "ready": ("lit", "lit", "dark"),
    "pictures go": ("lit", "lit", "blinking"),
}
"""The three lights, by the words for them."""


def lights_icon(words: str) -> QIcon:
    """The lights that go with a device's state in words."""
    return _icon(words, look.dark, look.px(HIGH))


@lru_cache(maxsize=64)
def _icon(words: str, dark: bool, high: int) -> QIcon:
    wide = high * WIDE // HIGH
    pixmap = QPixmap(wide, high)
    pixmap.fill(Qt.GlobalColor.transparent)
    with QPainter(pixmap) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for at, light in enumerate(OF_WORDS.get(words, ("dark",) * 3)):
            area = QRectF(at * wide / 3 + 1.5, 2.5, high - 5, high - 5)
            _light(painter, area, at, light)
        return QIcon(pixmap)


def _light(painter: QPainter, area: QRectF, shape: int, light: str) -> None:
    """A circle for power, a square for link, a triangle for work: empty, half or all filled."""
    painter.setPen(QPen(look.color("muted" if light == "dark" else "accent"), 1.4))
    painter.setBrush(look.color("accent") if light == "lit" else Qt.BrushStyle.NoBrush)
    _outline(painter, area, shape)
    if light == "blinking":
        painter.save()
        painter.setClipRect(QRectF(area.left() - 2, area.top() - 2, area.width() / 2 + 2, area.height() + 4))
        painter.setBrush(look.color("accent"))
        _outline(painter, area, shape)
        painter.restore()


def _outline(painter: QPainter, area: QRectF, shape: int) -> None:
    if shape == 0:
        painter.drawEllipse(area)
    elif shape == 1:
        painter.drawRect(area)
    else:
        top = QPointF(area.center().x(), area.top())
        painter.drawPolygon(QPolygonF([top, area.bottomRight(), area.bottomLeft()]))
