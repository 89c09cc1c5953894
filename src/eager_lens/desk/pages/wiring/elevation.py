"""A radio path seen from the side: both ends, the line of sight, the zone that is to be clear, what stands in the way."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.radio.path import CLEAR_SHARE, bulge_m, clearances, sight_m, zone_m
from eager_lens.core.units import figure
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.basics import elided_name

STEPS = 60


@dataclass(frozen=True)
class Path:
    """A path: length, frequency, heights of both ends, obstacles (distance from the near end, height), all in m or GHz,
    and the names of the ends."""

    length_m: float
    frequency_ghz: float
    a_height_m: float
    b_height_m: float
    obstacles: tuple[tuple[float, float], ...]
    names: tuple[str, str]


class Elevation(QWidget):
    """Draws a ``Path``. Heights are stretched; the scale at the side tells them."""

    accessible_role = AccessibleRole.Chart

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._path: Path | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(look.px(90))
        self.setAccessibleName("Radio path from the side")
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """A comfortable size."""
        return QSize(look.px(360), look.px(130))

    def show_path(self, path: Path | None) -> None:
        """Show a path, or that there is none."""
        self._path = path
        if path is not None:
            found = clearances(path.length_m, path.frequency_ghz, path.a_height_m, path.b_height_m, path.obstacles)
            tight_places = [
                f"at {figure(c.at_m)} m {figure(c.above_m)} of {figure(c.wanted_m)} m clearance" for c in found
            ]
            self.setAccessibleDescription("; ".join(tight_places) or "no obstacle")
        self.update()

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw ground, obstacles, zone, line of sight and ends."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            path = self._path
            if path is None:
                painter.setPen(look.color("muted"))
                painter.drawText(
                    self.rect(), Qt.AlignmentFlag.AlignCenter, "The path is drawn once its length is entered."
                )
                return
            area = QRectF(look.px(34), look.px(8), self.width() - look.px(68), self.height() - look.px(30))
            zone = max(zone_m(path.length_m / 2, path.length_m, path.frequency_ghz), 0.5)
            top_m = 1.05 * max(
                path.a_height_m,
                path.b_height_m,
                (path.a_height_m + path.b_height_m) / 2 + zone,
                *(h for _, h in path.obstacles),
            )

            def at(distance_m: float, height_m: float) -> QPointF:
                across = area.left() + area.width() * distance_m / path.length_m
                return QPointF(across, area.bottom() - area.height() * height_m / top_m)

            self._zone(painter, path, at)
            self._ground(painter, path, at, area)
            self._obstacles(painter, path, at)
            self._ends(painter, path, at, area)

    def _steps(self, path: Path) -> list[float]:
        return [path.length_m * step / STEPS for step in range(STEPS + 1)]

    def _zone(self, painter: QPainter, path: Path, spot: Callable[[float, float], QPointF]) -> None:
        ends = path.length_m, path.a_height_m, path.b_height_m
        for share, alpha in ((1.0, 0.45), (CLEAR_SHARE, 0.9)):
            upper = [
                spot(d, sight_m(d, *ends) + share * zone_m(d, path.length_m, path.frequency_ghz))
                for d in self._steps(path)
            ]
            lower = [
                spot(d, sight_m(d, *ends) - share * zone_m(d, path.length_m, path.frequency_ghz))
                for d in self._steps(path)
            ]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.color("tint", alpha))
            painter.drawPolygon(QPolygonF(upper + lower[::-1]))
        painter.setPen(QPen(look.color("accent"), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(spot(0, path.a_height_m), spot(path.length_m, path.b_height_m))

    def _ground(self, painter: QPainter, path: Path, spot: Callable[[float, float], QPointF], area: QRectF) -> None:
        line = [spot(d, bulge_m(d, path.length_m)) for d in self._steps(path)]
        painter.setPen(QPen(look.color("ink"), 1.2))
        painter.setBrush(look.color("panel"))
        painter.drawPolygon(QPolygonF([*line, QPointF(area.right(), area.bottom() + 1), area.bottomLeft()]))

    def _obstacles(self, painter: QPainter, path: Path, spot: Callable[[float, float], QPointF]) -> None:
        painter.setFont(look.font(SMALL, figures=True))
        for clear in clearances(path.length_m, path.frequency_ghz, path.a_height_m, path.b_height_m, path.obstacles):
            tight = clear.above_m < clear.wanted_m
            top, foot = spot(clear.at_m, clear.top_m), spot(clear.at_m, bulge_m(clear.at_m, path.length_m))
            half = look.px(5)
            painter.setPen(QPen(look.color("need" if tight else "muted"), 1.4))
            painter.setBrush(look.color("need", 0.35) if tight else look.color("rule"))
            painter.drawRect(QRectF(top.x() - half, top.y(), 2 * half, foot.y() - top.y()))
            words = f"{figure(clear.above_m, 2)}/{figure(clear.wanted_m, 2)} m"
            painter.setPen(look.color("need" if tight else "muted"))
            painter.drawText(QPointF(top.x() + half + 4, max(foot.y() - 6, top.y() + look.px(12))), words)

    def _ends(self, painter: QPainter, path: Path, spot: Callable[[float, float], QPointF], area: QRectF) -> None:
        painter.setPen(QPen(look.color("ink"), 2))
        for distance_m, height_m in ((0.0, path.a_height_m), (path.length_m, path.b_height_m)):
            painter.drawLine(spot(distance_m, 0), spot(distance_m, height_m))
        painter.setFont(look.font(SMALL))
        metrics = painter.fontMetrics()
        base = area.bottom() + metrics.ascent() + 4
        painter.setPen(look.color("ink"))
        half = area.width() / 2 - look.px(4)
        left, right = (elided_name(metrics, name, half) for name in path.names)
        painter.drawText(QPointF(area.left(), base), left)
        painter.drawText(QPointF(area.right() - metrics.horizontalAdvance(right), base), right)
        painter.setPen(look.color("muted"))
        middle = f"{figure(path.length_m)} m"
        painter.drawText(QPointF(area.left() + look.px(4), area.bottom() - look.px(5)), middle)
        painter.setFont(look.font(SMALL, figures=True))
        near, far = spot(0, path.a_height_m), spot(path.length_m, path.b_height_m)
        words = f"{figure(path.a_height_m)} m"
        wide = painter.fontMetrics().horizontalAdvance(words)
        painter.drawText(QPointF(near.x() - wide - 5, near.y() + 4), words)
        painter.drawText(QPointF(far.x() + 5, far.y() + 4), f"{figure(path.b_height_m)} m")
