"""The sheets as they will be printed, one below the other. Only pages in sight are drawn, and few are kept."""

from __future__ import annotations

from PySide6.QtCore import QRect, Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QWidget

from eager_lens.core.outgoing.formats.pdf_pages import PagePicture
from eager_lens.core.units import count
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import SPACE, look

LEAST_WIDTH, MOST_WIDTH = 320, 760
KEPT = 12
"""Pages that are kept drawn; one is about 3 MB."""


class SheetView(QScrollArea):
    """A scrolling stack of pages. It asks for those that it lacks, and is given them."""

    accessible_role = AccessibleRole.Document

    wanted = Signal()
    """Pages in sight are not drawn."""

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setAccessibleName("Preview of the papers")
        self.setAccessibleDescription("the papers are being laid out")
        self.setObjectName("sheets")
        self._stack = _Stack(self)
        self.setWidget(self._stack)
        self.verticalScrollBar().valueChanged.connect(lambda _: self._ask())

    def show_shapes(self, shapes: tuple[tuple[float, float], ...]) -> None:
        """Show other sheets, of these page sizes in points; they are asked for as they come into sight."""
        at = self.verticalScrollBar().value()
        self._stack.take(shapes)
        self.setAccessibleDescription(count(len(shapes), "page"))
        self.verticalScrollBar().setValue(at)
        self._ask()

    def show_pictures(self, pictures: list[PagePicture]) -> None:
        """Put drawn pages in their places."""
        for one in pictures:
            image = QImage(one.rgb, one.width_px, one.height_px, one.width_px * 3, QImage.Format.Format_RGB888).copy()
            image.setDevicePixelRatio(self.devicePixelRatioF())
            self._stack.put(one.number, image)
        self._ask()

    @property
    def page_count(self) -> int:
        """How many pages there are."""
        return len(self._stack.shapes)

    @property
    def drawn(self) -> frozenset[int]:
        """The pages that are drawn and kept."""
        return frozenset(self._stack.images)

    def page_width_px(self) -> int:
        """The width of a page, in pixels of the screen."""
        width = max(LEAST_WIDTH, min(MOST_WIDTH, self.viewport().width() - 2 * SPACE.FULL))
        return round(width * self.devicePixelRatioF())

    def resizeEvent(self, event: object) -> None:
        """Pages are drawn again at another width."""
        super().resizeEvent(event)  # type: ignore[arg-type]
        self._stack.lay_out()
        self._ask()

    def showEvent(self, event: object) -> None:
        """What is in sight now is asked for."""
        super().showEvent(event)  # type: ignore[arg-type]
        self._ask()

    def missing(self) -> tuple[int, ...]:
        """The pages in sight that are not drawn."""
        return tuple(number for number in self._stack.in_sight() if number not in self._stack.images)

    def _ask(self) -> None:
        if self.isVisible() and self.missing():
            self.wanted.emit()


class _Stack(QWidget):
    def __init__(self, view: SheetView) -> None:
        super().__init__()
        self._view = view
        self.shapes: tuple[tuple[float, float], ...] = ()
        self.images: dict[int, QImage] = {}
        self._areas: list[QRect] = []
        self._laid_for = (0, 0)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def take(self, shapes: tuple[tuple[float, float], ...]) -> None:
        """Other pages."""
        self.shapes, self.images, self._laid_for = shapes, {}, (0, 0)
        self.lay_out()

    def lay_out(self) -> None:
        """Find every page's place."""
        ratio = self._view.devicePixelRatioF()
        width = round(self._view.page_width_px() / ratio)
        if self._laid_for == (width, self._view.viewport().width()):
            return
        if self._laid_for[0] != width:
            self.images.clear()
        self._laid_for = (width, self._view.viewport().width())
        left = max(SPACE.FULL, (self._view.viewport().width() - width) // 2)
        top, self._areas = SPACE.HALF, []
        for wide, high in self.shapes:
            area = QRect(left, top, width, round(width * high / max(1.0, wide)))
            self._areas.append(area)
            top = area.bottom() + 1 + SPACE.FULL
        self.setFixedHeight(top if self._areas else 0)
        self.update()

    def put(self, number: int, image: QImage) -> None:
        """A page was drawn; those farthest from it go when there are too many."""
        if number < len(self._areas):
            self.images[number] = image
            while len(self.images) > KEPT:
                del self.images[max(self.images, key=lambda other: abs(other - number))]
            self.update(self._areas[number])

    def in_sight(self) -> list[int]:
        """Numbers of the pages that can be seen now."""
        top = self._view.verticalScrollBar().value()
        seen = QRect(0, top, max(1, self.width()), self._view.viewport().height())
        return [number for number, area in enumerate(self._areas) if area.intersects(seen)][:KEPT]

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Pages, or white paper where one is still being drawn."""
        with QPainter(self) as painter:
            for number, area in enumerate(self._areas):
                if not area.intersects(event.rect()):
                    continue
                image = self.images.get(number)
                if image is not None:
                    # As it was drawn, never fitted by a pixel: that would take a row out of a line of text.
                    painter.drawImage(area.topLeft(), image)
                else:
                    painter.fillRect(area, Qt.GlobalColor.white)
                    painter.setPen(Qt.GlobalColor.darkGray)
                    painter.setFont(look.font())
                    painter.drawText(area, Qt.AlignmentFlag.AlignCenter, f"page {number + 1}")
                painter.setPen(look.color("rule"))
                painter.drawRect(area.adjusted(0, 0, -1, -1))
