"""A small picture of each kind of view: its left half by day, its right half by night."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QIcon, QPainter, QPen, QPixmap, QPolygonF

from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.desk.theme import look

WIDE, HIGH = 60.0, 34.0


def scene_icon(label: str) -> QIcon:
    """The picture of the kind of view with this label; an empty one for a label that is none."""
    scenes = {scene.label: scene.id for scene in stream_assumptions().scenes.values()}
    scene_id = scenes.get(label, "")
    return QIcon(scene_picture(scene_id)) if scene_id else QIcon()


def scene_picture(scene_id: str) -> QPixmap:
    """Draw a kind of view, 60 by 34 pixels at normal type."""
    scale = look.px(100) / 100 * 2  # drawn at twice the size, so that it stays sharp
    picture = QPixmap(round(WIDE * scale), round(HIGH * scale))
    picture.fill(look.color("panel"))
    with QPainter(picture) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(scale, scale)
        kind, _, light = scene_id.partition("-")
        painter.setPen(QPen(look.color("ink"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        _DRAWN.get(kind, _store)(painter)
        if light == "dark" or kind in ("store", "hall", "concourse"):
            night = look.color("paper" if look.dark else "ink", 0.62 if light == "dark" else 0.3)
            painter.fillRect(QRectF(WIDE / 2, 0, WIDE / 2, HIGH), night)
        painter.setPen(QPen(look.color("rule"), 1))
        painter.drawRect(QRectF(0.5, 0.5, WIDE - 1, HIGH - 1))
        return picture


def _line(painter: QPainter, *points: tuple[float, float]) -> None:
    painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in points]))


def _person(painter: QPainter, x: float, foot: float, height: float = 9) -> None:
    painter.setBrush(look.color("accent"))
    painter.drawEllipse(QPointF(x, foot - height + 1.4), 1.5, 1.5)
    painter.drawRect(QRectF(x - 1.4, foot - height + 3, 2.8, height - 3))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _vehicle(painter: QPainter, x: float, foot: float) -> None:
    painter.setBrush(look.color("accent", 0.5))
    painter.drawRect(QRectF(x, foot - 6, 15, 6))
    painter.drawRect(QRectF(x + 3, foot - 10, 8, 4))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _corridor(painter: QPainter) -> None:
    painter.drawRect(QRectF(24, 10, 12, 12))
    for corner, far in (((0, 0), (24, 10)), ((60, 0), (36, 10)), ((0, 34), (24, 22)), ((60, 34), (36, 22))):
        _line(painter, corner, far)


def _store(painter: QPainter) -> None:
    for y in (8, 17, 26):
        _line(painter, (6, y), (54, y))
    for x in (6, 18, 30, 42, 54):
        _line(painter, (x, 4), (x, 31))
    painter.fillRect(QRectF(8, 10, 6, 7), look.color("accent", 0.4))
    painter.fillRect(QRectF(44, 19, 7, 7), look.color("accent", 0.4))


def _counter(painter: QPainter) -> None:
    painter.fillRect(QRectF(4, 22, 52, 8), look.color("accent", 0.25))
    painter.drawRect(QRectF(4, 22, 52, 8))
    for x in (16, 28, 44):
        _person(painter, x, 22, 11)


def _hall(painter: QPainter) -> None:
    _line(painter, (4, 31), (4, 12), (30, 4), (56, 12), (56, 31), (4, 31))
    _vehicle(painter, 11, 30)
    _person(painter, 40, 30)


def _concourse(painter: QPainter) -> None:
    for at in range(9):
        _person(painter, 5 + 6.2 * at, 20 + 5 * (at % 3), 10)


def _forecourt(painter: QPainter) -> None:
    _line(painter, (0, 16), (60, 10))
    _line(painter, (0, 33), (60, 26))
    _vehicle(painter, 9, 26)
    _person(painter, 44, 24)


def _yard(painter: QPainter) -> None:
    painter.setBrush(look.color("accent", 0.35))
    for x, radius in ((9, 7.0), (20, 5.0), (47, 8.0)):
        painter.drawEllipse(QPointF(x, 11), radius, radius)
        _line(painter, (x, 11 + radius), (x, 25))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    _line(painter, (0, 32), (60, 24))
    _line(painter, (0, 28), (60, 22))


_DRAWN: dict[str, Callable[[QPainter], None]] = {
    "corridor": _corridor,
    "store": _store,
    "counter": _counter,
    "hall": _hall,
    "concourse": _concourse,
    "forecourt": _forecourt,
    "yard": _yard,
}
