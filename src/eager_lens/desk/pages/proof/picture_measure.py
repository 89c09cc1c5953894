"""Pixel density measured on a picture: something of known size is marked with a line, and its pixels are counted."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QImageReader, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import read_whole
from eager_lens.core.job.model import Camera
from eager_lens.core.records.acceptance.density import KNOWN_SIZES, MarkedDensity, marked_density
from eager_lens.core.records.acceptance.planned import planned
from eager_lens.core.records.acceptance.recording import measured_check
from eager_lens.core.records.event_log.photos import LARGEST_BYTES
from eager_lens.core.reference.acceptance import acceptance_test
from eager_lens.core.units import figure
from eager_lens.desk.guard import kept_within
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.number_field import NumberField

MOST_WIDTH_PX = 4096
"""A larger picture is reduced when it is read; the mark is scaled by the widths, so nothing is lost but the last pixel."""
ASPECT_OFF_SHARE = 0.03
LOUPE_PX, LOUPE_TIMES = 110, 3.0


class MarkedPicture(QWidget):
    """A picture with one line on it. Drag a new line, or drag an end; arrow keys move the end last touched by a pixel."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.image = QImage()
        self.ends: list[QPointF] = []
        self._held: int | None = None
        self._touched = 1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(look.px(150))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Picture: drag a line along something of known size")

    def take(self, image: QImage) -> None:
        """Show a picture, without a line."""
        self.image, self.ends = image, []
        self.update()

    @property
    def mark_px(self) -> float:
        """Length of the line in pixels of the picture; 0 without one."""
        if len(self.ends) < 2:
            return 0.0
        between = self.ends[1] - self.ends[0]
        return math.hypot(between.x(), between.y())

    def _area(self) -> QRectF:
        size = QSize(self.image.size()).scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        left, top = (self.width() - size.width()) / 2, (self.height() - size.height()) / 2
        return QRectF(left, top, size.width(), size.height())

    def _scale(self) -> float:
        return self._area().width() / max(1, self.image.width())

    def on_widget(self, point: QPointF) -> QPointF:
        """Where a point of the picture is drawn."""
        return self._area().topLeft() + point * self._scale()

    def on_picture(self, position: QPointF) -> QPointF:
        """The point of the picture at a position, inside the picture."""
        point = (position - self._area().topLeft()) / (self._scale() or 1.0)
        return QPointF(
            min(max(point.x(), 0.0), float(self.image.width())), min(max(point.y(), 0.0), float(self.image.height()))
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the end under the pointer, or begin a new line."""
        if self.image.isNull():
            return
        self.setFocus()
        position = event.position()
        near = [
            at for at, end in enumerate(self.ends) if (self.on_widget(end) - position).manhattanLength() < look.px(14)
        ]
        if near:
            self._held = self._touched = near[0]
        else:
            start = self.on_picture(position)
            self.ends = [start, QPointF(start)]
            self._held = self._touched = 1
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the end that is held."""
        if self._held is not None:
            self.ends[self._held] = self.on_picture(event.position())
            self._moved()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._held = None
        self._moved()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys move an end by a pixel, with Shift by ten; Tab within the line goes to its other end by space."""
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if event.key() == Qt.Key.Key_Space and self.ends:
            self._touched = 1 - self._touched
            self.update()
        elif event.key() in steps and not self.image.isNull():
            if not self.ends:
                middle = QPointF(self.image.width() / 2, self.image.height() / 2)
                self.ends = [middle, middle + QPointF(self.image.width() / 8, 0)]
            right, down = steps[Qt.Key(event.key())]
            times = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            moved = self.ends[self._touched] + QPointF(right, down) * times
            self.ends[self._touched] = QPointF(
                min(max(moved.x(), 0.0), float(self.image.width())),
                min(max(moved.y(), 0.0), float(self.image.height())),
            )
            self._moved()
        else:
            super().keyPressEvent(event)

    def _moved(self) -> None:
        self.update()
        self.changed.emit()

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """The picture, the line with its ends, and a loupe at the end that is held."""
        if self.image.isNull():
            return
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(self._area(), self.image)
            if len(self.ends) == 2:
                self._paint_line(painter, [self.on_widget(end) for end in self.ends])
                if self._held is not None:
                    self._paint_loupe(painter, self.ends[self._held])

    def _paint_line(self, painter: QPainter, ends: list[QPointF]) -> None:
        # Dark under light, so that it is seen on any picture.
        for width, colour in ((4.0, Qt.GlobalColor.black), (2.0, Qt.GlobalColor.white)):
            painter.setPen(QPen(colour, width))
            painter.drawLine(ends[0], ends[1])
            for at, end in enumerate(ends):
                radius = look.px(6 if at == self._touched else 4)
                painter.drawEllipse(end, radius, radius)

    def _paint_loupe(self, painter: QPainter, end: QPointF) -> None:
        size = look.px(LOUPE_PX)
        left = self.on_widget(end).x() < self.width() / 2
        where = QRectF(self.width() - size if left else 0, 0, size, size)
        cut = size / LOUPE_TIMES / max(self._scale(), 0.05)
        painter.drawImage(where, self.image, QRectF(end.x() - cut / 2, end.y() - cut / 2, cut, cut))
        painter.setPen(QPen(Qt.GlobalColor.white, 1))
        painter.drawRect(where)
        middle = where.center()
        painter.drawLine(middle - QPointF(8, 0), middle + QPointF(8, 0))
        painter.drawLine(middle - QPointF(0, 8), middle + QPointF(0, 8))


class PictureMeasure(QWidget):
    """The picture, what was marked on it, and the density that follows."""

    def __init__(self, session: Session, done: Callable[[], None]) -> None:
        super().__init__()
        self.session = session
        self._done = done
        self.camera_id = ""
        self._file_name = ""
        self.picture = MarkedPicture()
        self.picture.changed.connect(self._show)
        self.what = Choice()
        self.what.setAccessibleName("What is marked")
        for known in KNOWN_SIZES:
            self.what.addItem(known.name)
        self.what.addItem("another size")
        self.size_m = NumberField("Size", "m")
        self.what.currentIndexChanged.connect(self._take_size)
        self.size_m.typed.connect(lambda _: self._show())
        self.size_m.refused.connect(lambda words: session.notice(words, needs=True))
        self._words = label("", "figure", wrap=True)
        self._warning = label("", "small", wrap=True)
        self.record = button("Record it", self._record, "main")
        self.cancel = button("Cancel", done, "quiet")
        choice = row(label("Marked:", "small"), self.what, self.size_m, self.record, self.cancel, None)
        layout = column(self.picture, self._words, self._warning, choice, spacing=SPACE.TIGHT)
        layout.setStretch(0, 1)
        self.setLayout(layout)
        self._take_size()

    def begin(self, camera: Camera, path: Path) -> bool:
        """Show a picture of a camera; False, with a notice, when it is none."""
        try:
            image = read_picture(path)
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)
            return False
        self.camera_id, self._file_name = camera.id, path.name
        self.picture.take(image)
        shape, stream = image.width() / image.height(), camera.width_px / camera.height_px
        off = abs(shape / stream - 1) > ASPECT_OFF_SHARE
        self._warning.setText(
            f"The picture is {image.width()} × {image.height()}, the stream {camera.width_px} × {camera.height_px}: a "
            "different aspect ratio. Use an uncropped still of the main stream."
            if off
            else ""
        )
        self._warning.setVisible(off)
        self._show()
        self.picture.setFocus()
        return True

    def clear(self) -> None:
        """Let the picture go."""
        self.camera_id = ""
        self.picture.take(QImage())

    def _take_size(self) -> None:
        at = self.what.currentIndex()
        if at < len(KNOWN_SIZES):
            self.size_m.show_value(KNOWN_SIZES[at].size_m)
        self._show()

    def density(self) -> MarkedDensity | None:
        """What the mark gives; None while there is none."""
        camera = self.session.assessment.facts.by_device_id.get(self.camera_id)
        size_m = self.size_m.value
        if not isinstance(camera, Camera) or not self.picture.mark_px or not size_m:
            return None
        try:
            return marked_density(self.picture.mark_px, self.picture.image.width(), camera.width_px, size_m)
        except EagerLensError:
            return None

    def _show(self) -> None:
        found, test = self.density(), acceptance_test("density")
        self.record.setEnabled(found is not None)
        if found is None or test is None:
            short = "The line is too short; mark a longer one. " if self.picture.mark_px else ""
            self._words.setText(f"{short}Drag a line along something of known size, at the target's distance.")
            return
        plan = planned(test, self.camera_id, self.session.assessment)
        holds = "enough for the purpose" if plan.holds(found.px_per_m) else "too few for the purpose"
        self._words.setText(
            f"{figure(found.px_per_m, 3)} px/m, ±{figure(found.off_px_per_m, 2)} if each end is a pixel off: {holds} "
            f"({plan.words})."
        )

    def _record(self) -> None:
        found, test = self.density(), acceptance_test("density")
        if found is None or test is None:
            return
        what = self.what.currentText() if self.what.currentIndex() < len(KNOWN_SIZES) else "marked"
        value = f"{what}, {self.size_m.value:g} m, on {self._file_name}"
        now = datetime.now().isoformat(timespec="seconds")
        measured = round(found.px_per_m, 1)
        camera_id = self.camera_id
        self.session.attempt(
            lambda: measured_check(
                test, camera_id, measured, value, "picture", self.session.assessment, self.session.person, now
            )
        )
        self._done()


def read_picture(path: Path) -> QImage:
    """A picture, upright, at most ``MOST_WIDTH_PX`` wide.

    Raises:
        EagerLensError: when it cannot be read as one.
    """
    buffer = QBuffer()
    buffer.setData(QByteArray(read_whole(path, LARGEST_BYTES, "picture")))
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)
    size = reader.size()
    if size.width() > MOST_WIDTH_PX:
        reader.setScaledSize(QSize(MOST_WIDTH_PX, max(1, size.height() * MOST_WIDTH_PX // size.width())))
    image = reader.read()
    if image.isNull() or not image.width() or not image.height():
        raise EagerLensError(f"{path.name} cannot be shown as a picture; use a JPEG or PNG still of the camera.")
    return image
