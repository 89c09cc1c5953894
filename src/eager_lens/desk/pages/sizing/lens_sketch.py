"""What a camera sees, from above and from the side: the view, the distances up to which it serves, the blind strip."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.figures.devices import misses_purpose
from eager_lens.core.job.model import Camera
from eager_lens.core.optics.lens import Purpose
from eager_lens.core.optics.placing import FACE_M, Placing
from eager_lens.core.units import figure
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL

DRAWN: tuple[Purpose, ...] = ("identify", "recognise", "observe", "detect")
"""The purposes whose reach is drawn; the others lie too near or too far to tell apart."""

FAR_SHARE = 1.8
"""The drawing reaches this many times as far as the target."""

HEAD_PX, FOOT_PX = 24, 20
"""Room for the words over and under a drawing."""

WIDEST_DEG = 160.0


class LensSketch(QWidget):
    """Two drawings side by side: the plan at the left, the side view at the right."""

    accessible_role = AccessibleRole.Graphic

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._camera: Camera | None = None
        self._seen: Placing | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(look.px(150))
        self.setAccessibleName("View of the camera from above and from the side")
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """A comfortable size."""
        return QSize(look.px(640), look.px(240))

    def words(self) -> str:
        """What the drawing shows, in a sentence; without a view, what to do to get one."""
        if self._camera is None:
            return "Select a camera below and enter its target distance to see its field of view."
        if self._seen is None:
            return f"Enter the target distance and the purpose of {self._camera.name} to see its field of view."
        seen = self._seen
        blind = "no ground in the picture" if seen.blind_m is None else f"blind strip up to {figure(seen.blind_m)} m"
        return (
            f"{self._camera.name}: {figure(seen.width_m)} m wide at {figure(self._target_m)} m, "
            f"{figure(seen.px_per_m)} px/m, good for {seen.good_for}; {blind}"
        )

    def show_camera(self, camera: Camera | None, seen: Placing | None) -> None:
        """Show what a camera sees of its target; without a view, say what to do."""
        self._camera, self._seen = camera, seen
        self.setAccessibleDescription(self.words())
        self.update()

    @property
    def _target_m(self) -> float:
        return (self._camera.target_m or 0.0) if self._camera is not None else 0.0

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw both views."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self._camera is None or self._seen is None:
                painter.setPen(look.color("muted"))
                how = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(self.rect().adjusted(24, 0, -24, 0), how, self.words())
                return
            head, foot = look.px(HEAD_PX), look.px(FOOT_PX)
            high = self.height() - head - foot
            split = self.width() * 0.54
            left = QRectF(6, head, split - 30, high)
            right = QRectF(split, head, self.width() - split - 8, high)
            painter.setPen(look.color("muted"))
            painter.setFont(look.font(SMALL))
            fitted = painter.fontMetrics().elidedText(
                f"{self._camera.name}, from above", Qt.TextElideMode.ElideMiddle, int(left.width())
            )
            painter.drawText(QPointF(left.left(), head - 10), fitted)
            painter.drawText(QPointF(right.left(), head - 10), "From the side, height exaggerated")
            self._plan(painter, left, self._seen)
            self._side(painter, right, self._seen, self._camera.mount_height_m)

    def _need(self) -> str:
        """The colour of what is wanted: a fault's where it is missed."""
        return "need" if self._camera is not None and misses_purpose(self._camera) else "accent"

    def _plan(self, painter: QPainter, area: QRectF, seen: Placing) -> None:
        """Sectors up to which each purpose is served, and the line across at the target."""
        far_m = FAR_SHARE * self._target_m
        half_angle = math.radians(min(seen.view_deg, WIDEST_DEG) / 2)
        scale = min(area.width() / far_m, area.height() / (2 * far_m * math.sin(half_angle)))
        lens = QPointF(area.left() + 4, area.center().y())

        def sector(radius_m: float) -> QPainterPath:
            path = QPainterPath(lens)
            radius, degrees = radius_m * scale, math.degrees(half_angle)
            path.arcTo(QRectF(lens.x() - radius, lens.y() - radius, 2 * radius, 2 * radius), -degrees, 2 * degrees)
            path.closeSubpath()
            return path

        painter.setPen(QPen(look.color("rule"), 1))
        painter.setBrush(look.color("panel"))
        painter.drawPath(sector(far_m))
        served = [(purpose, min(seen.reach_m[purpose], far_m)) for purpose in DRAWN if purpose in seen.reach_m]
        for at, (_, metres) in reversed(list(enumerate(served))):
            painter.setPen(QPen(look.color("paper"), 1))
            painter.setBrush(look.color("accent", 0.42 - 0.1 * at))
            painter.drawPath(sector(metres))
        self._zone_words(painter, area, lens, scale, served, seen)
        target = lens.x() + self._target_m * scale
        across = min(self._target_m * math.tan(half_angle) * scale, area.height() / 2)
        painter.setPen(QPen(look.color(self._need()), 2))
        painter.drawLine(QPointF(target, lens.y() - across), QPointF(target, lens.y() + across))
        words = f"{figure(seen.width_m)} m, {figure(seen.px_per_m)} px/m"
        painter.setPen(QPen(look.color("muted"), 1, Qt.PenStyle.DotLine))
        below = QPointF(target, area.bottom() + look.px(8))
        painter.drawLine(QPointF(target, lens.y() + across), below)
        painter.setPen(look.color("need" if self._need() == "need" else "ink"))
        painter.drawText(self._beside(painter, words, below + QPointF(0, look.px(6)), area), words)
        self._lens(painter, lens)

    def _zone_words(
        self,
        painter: QPainter,
        area: QRectF,
        lens: QPointF,
        scale: float,
        zones: list[tuple[Purpose, float]],
        seen: Placing,
    ) -> None:
        """A word at each edge of a zone, over the view, each on a line of its own so that none covers another."""
        step = look.px(15)
        half_angle = math.radians(min(seen.view_deg, WIDEST_DEG) / 2)
        for at, (purpose, metres) in enumerate(zones):
            x = lens.x() + metres * scale * math.cos(half_angle)
            edge = lens.y() - metres * scale * math.sin(half_angle)
            y = min(edge - 6, area.top() + step * (at + 1))
            words = f"{purpose} to {figure(seen.reach_m[purpose], 2)} m"
            if metres >= FAR_SHARE * self._target_m:
                painter.setPen(look.color("ink"))
                painter.drawText(QPointF(lens.x() + metres * scale + 6, lens.y() + 4), words)
                return
            painter.setPen(QPen(look.color("muted"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, y), QPointF(x, edge))
            painter.setPen(look.color("ink"))
            painter.drawText(self._beside(painter, words, QPointF(x, y), area), words)

    @staticmethod
    def _beside(painter: QPainter, words: str, at: QPointF, area: QRectF) -> QPointF:
        """Where words begin that stand right of a point, or left of it where the drawing ends."""
        wide = painter.fontMetrics().horizontalAdvance(words)
        return QPointF(at.x() + 4 if at.x() + 4 + wide <= area.right() + 20 else at.x() - 4 - wide, at.y())

    def _side(self, painter: QPainter, area: QRectF, seen: Placing, height_m: float) -> None:
        """The view from the side: lens, line of sight to the face, ground seen and not seen."""
        far_m = FAR_SHARE * self._target_m
        top_m = 1.25 * max(height_m, FACE_M)

        def at(distance_m: float, over_ground_m: float) -> QPointF:
            x = area.left() + 6 + distance_m / far_m * (area.width() - 10)
            return QPointF(x, area.bottom() - over_ground_m / top_m * area.height())

        painter.save()
        painter.setClipRect(area)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.color("accent", 0.16))
        steepest, flattest = (
            math.tan(math.radians(max(-89.0, min(89.0, seen.tilt_deg + sign * seen.upright_deg / 2))))
            for sign in (1, -1)
        )
        painter.drawPolygon(
            QPolygonF([at(0, height_m), at(far_m, height_m - far_m * steepest), at(far_m, height_m - far_m * flattest)])
        )
        painter.restore()
        painter.setPen(QPen(look.color("ink"), 1.2))
        painter.drawLine(at(0, 0), at(far_m, 0))
        painter.drawLine(at(0, 0), at(0, height_m))
        below = QPointF(0, look.px(14))
        if seen.blind_m:
            painter.setPen(QPen(look.color("muted"), 4))
            painter.drawLine(at(0, 0), at(min(seen.blind_m, far_m), 0))
            painter.setPen(look.color("ink"))
            painter.drawText(at(0, 0) + below, f"blind strip up to {figure(seen.blind_m)} m")
        painter.setPen(QPen(look.color("ink"), 3))
        painter.drawLine(at(self._target_m, 0), at(self._target_m, FACE_M))
        painter.setPen(QPen(look.color(self._need()), 1, Qt.PenStyle.DashLine))
        painter.drawLine(at(0, height_m), at(self._target_m, FACE_M))
        painter.setPen(look.color("ink"))
        painter.drawText(at(self._target_m, FACE_M / 2) + QPointF(6, 0), f"target {figure(self._target_m)} m away")
        painter.drawText(
            at(0, height_m) + QPointF(8, -6), f"{figure(height_m)} m high, tilted {figure(seen.tilt_deg)}°"
        )
        self._lens(painter, at(0, height_m))

    @staticmethod
    def _lens(painter: QPainter, lens: QPointF) -> None:
        painter.setPen(QPen(look.color("ink"), 1))
        painter.setBrush(look.color("accent"))
        painter.drawRect(QRectF(lens.x() - 4, lens.y() - 3, 8, 6))
