"""The wiring diagram as a file: SVG, or one page of PDF that fits it. Nothing here needs the window's thread."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QBuffer, QMarginsF, QPoint, QRect, QSize, QSizeF, Qt
from PySide6.QtGui import QImage, QPageSize, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

from eager_lens.core.present.diagram import Diagram
from eager_lens.core.progress import Steps
from eager_lens.desk.theme.look import Look
from eager_lens.desk.widgets.wiring_drawing import drawn_whole

MARGIN = 24.0
POINTS_A_UNIT = 0.75
"""72 points against 96 units an inch."""

Drawing = Callable[[Diagram, str, Look], Steps[bytes]]


def _size(diagram: Diagram) -> QSize:
    return QSize(math.ceil(diagram.width + 2 * MARGIN), math.ceil(diagram.height + 2 * MARGIN))


def wiring_svg(diagram: Diagram, title: str, paper: Look) -> Steps[bytes]:
    """The whole diagram as SVG, in steps that tell how far it is."""
    buffer = QBuffer()
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setSize(_size(diagram))
    generator.setViewBox(QRect(QPoint(0, 0), _size(diagram)))
    generator.setTitle(title)
    yield from _draw(generator, diagram, paper)
    return bytes(buffer.data().data())


def wiring_pdf(diagram: Diagram, title: str, paper: Look) -> Steps[bytes]:
    """The whole diagram as one page of PDF that fits it, in steps that tell how far it is."""
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(title)
    writer.setResolution(96)
    size = _size(diagram)
    points = QSizeF(size.width() * POINTS_A_UNIT, size.height() * POINTS_A_UNIT)
    writer.setPageSize(QPageSize(points, QPageSize.Unit.Point))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    yield from _draw(writer, diagram, paper)
    return bytes(buffer.data().data())


MOST_PNG_PX = 3200


def wiring_png(diagram: Diagram, paper: Look) -> Steps[bytes]:
    """The whole diagram as a picture for a sheet, twice as fine as on the screen where there is room."""
    size = _size(diagram)
    scale = min(2.0, MOST_PNG_PX / max(size.width(), size.height()))
    image = QImage(size * scale, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    image.setDevicePixelRatio(scale)
    yield from _draw(image, diagram, paper)
    data = QBuffer()
    data.open(QBuffer.OpenModeFlag.WriteOnly)
    image.save(data, "PNG")  # type: ignore[call-overload]
    return bytes(data.data().data())


def _draw(device: QSvgGenerator | QPdfWriter | QImage, diagram: Diagram, paper: Look) -> Steps[None]:
    with QPainter(device) as painter:
        painter.translate(MARGIN, MARGIN)
        yield from drawn_whole(painter, diagram, paper)
