"""A drawing that is fitted into its room until somebody zooms or moves it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QGraphicsView, QScrollBar, QWidget

from eager_lens.desk.theme import look

SMALLEST_ZOOM, LARGEST_ZOOM = 0.08, 3.0
READABLE_ZOOM = 0.8
"""A diagram is not shrunk below this to fit; it is panned instead."""
WHEEL_STEP_PX = 60


class ZoomedView(QGraphicsView):
    """Zooms by keys, wheel and type size. A subclass says what stands in the middle where not everything fits."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._zoom = 1.0
        self._fitted = True
        for bar in (self.horizontalScrollBar(), self.verticalScrollBar()):
            bar.actionTriggered.connect(self._scrolled)
        look.changed.connect(self._look_changed)

    def middle_of_all(self) -> QPointF | None:
        """The point of the drawing that stays in sight where not all of it fits; None while there is nothing."""
        raise NotImplementedError

    def _look_changed(self) -> None:
        if self._fitted:
            self.fit()
        else:
            self._set_zoom(self._zoom)

    def _fitting(self) -> float:
        """The zoom at which everything is in sight."""
        area, unit = self.sceneRect(), look.px(100) / 100
        # Without scroll bars: nothing is scrolled then.
        room = self.maximumViewportSize()
        return min(room.width() / (area.width() * unit), room.height() / (area.height() * unit))

    def _set_zoom(self, zoom: float) -> None:
        self._zoom = zoom
        self.resetTransform()
        scale = zoom * look.px(100) / 100
        self.scale(scale, scale)

    def fit(self) -> None:
        """Show everything, as large as it goes; what would get too small to read is panned to instead."""
        middle = self.middle_of_all()
        if middle is not None:
            self._set_zoom(min(1.0, max(self._fitting(), READABLE_ZOOM)))
            self.centerOn(middle)
        self._fitted = True

    def see_all(self) -> None:
        """Show everything at once, however small."""
        if self.middle_of_all() is not None:
            self._set_zoom(min(1.0, max(self._fitting(), SMALLEST_ZOOM)))
        self._fitted = False

    def zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        """Zoom about a point of the viewport, or about the middle."""
        about = about if about is not None else QPointF(self.viewport().rect().center())
        there = self.mapToScene(about.toPoint())
        self._set_zoom(min(LARGEST_ZOOM, max(SMALLEST_ZOOM, self._zoom * factor)))
        moved = self.mapFromScene(there) - about.toPoint()
        self._pan(moved.x(), moved.y())

    def _pan(self, right_px: float, down_px: float) -> None:
        for bar, step in ((self.horizontalScrollBar(), right_px), (self.verticalScrollBar(), down_px)):
            bar.setValue(bar.value() + round(step))
        self._fitted = False

    def _scrolled(self, action: int) -> None:
        if action != QScrollBar.SliderAction.SliderNoAction.value:
            self._fitted = False

    def into_sight(self, area: QRectF) -> None:
        """Move the view when a part of the drawing is not all in sight."""
        if not self.mapToScene(self.viewport().rect()).boundingRect().contains(area):
            self.centerOn(area.center())
            self._fitted = False

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit again, as long as nobody zoomed or panned."""
        super().resizeEvent(event)
        if self._fitted:
            self.fit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom with Ctrl, else pan."""
        turned = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1.0015 ** turned.y(), event.position())
        else:
            self._pan(-turned.x() / 120 * WHEEL_STEP_PX, -turned.y() / 120 * WHEEL_STEP_PX)
        event.accept()
