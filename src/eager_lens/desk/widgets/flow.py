"""A row of parts that goes on in a further line where there is no room: no button is cut off at large type."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget

from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import held, label, row


class Flow(QLayout):
    """Lays its parts out side by side, each as wide as it wants to be, in as many lines as it takes.

    What was added after a stretch stands at the right end while all is in one line.
    """

    def __init__(self, spacing: int = SPACE.HALF) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._stretch_at: int | None = None
        self._heights: dict[int, int] = {}
        """By width; asked for many times while a page is laid out."""
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(spacing)

    def addStretch(self, stretch: int = 0) -> None:
        """What is added from now on stands at the right; as a row of boxes has it."""
        self._stretch_at = len(self._items)

    # ---- Qt's interface ------------------------------------------------------------------------------------------

    def addItem(self, item: QLayoutItem) -> None:
        """Add a part."""
        self._items.append(item)

    def count(self) -> int:
        """How many parts there are."""
        return len(self._items)

    def itemAt(self, at: int) -> QLayoutItem | None:
        """A part by its number."""
        return self._items[at] if 0 <= at < len(self._items) else None

    def takeAt(self, at: int) -> QLayoutItem | None:
        """Take a part out."""
        if not 0 <= at < len(self._items):
            return None
        if self._stretch_at is not None and at < self._stretch_at:
            self._stretch_at -= 1
        return self._items.pop(at)

    def expandingDirections(self) -> Qt.Orientation:
        """It wants no more room than it takes."""
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        """Its height follows from its width."""
        return True

    def heightForWidth(self, width: int) -> int:
        """How high it is at a width."""
        if width not in self._heights:
            self._heights[width] = self._laid_out(QRect(0, 0, width, 0), move=False)
        return self._heights[width]

    def invalidate(self) -> None:
        """A part has changed its size, or came or went."""
        self._heights.clear()
        super().invalidate()

    def sizeHint(self) -> QSize:
        """All in one line."""
        shown = [item.sizeHint() for item in self._items if not item.isEmpty()]
        wide = sum(size.width() for size in shown) + self.spacing() * max(0, len(shown) - 1)
        return QSize(wide, max((size.height() for size in shown), default=0))

    def minimumSize(self) -> QSize:
        """As wide as its widest part."""
        shown = [item.sizeHint() for item in self._items if not item.isEmpty()]
        return QSize(
            max((size.width() for size in shown), default=0), max((size.height() for size in shown), default=0)
        )

    def setGeometry(self, rect: QRect) -> None:
        """Place the parts."""
        super().setGeometry(rect)
        self._laid_out(rect, move=True)

    def _laid_out(self, rect: QRect, move: bool) -> int:
        """Place the parts in a rectangle, or only find out how high that is."""
        lines: list[list[tuple[QLayoutItem, QSize]]] = [[]]
        used = 0
        for item in self._items:
            if item.isEmpty():
                continue
            size = item.sizeHint().expandedTo(item.minimumSize())
            if lines[-1] and used + self.spacing() + size.width() > rect.width():
                lines.append([])
            used = size.width() if not lines[-1] else used + self.spacing() + size.width()
            lines[-1].append((item, size))
        top = rect.top()
        for line in lines:
            high = max((size.height() for _, size in line), default=0)
            if move:
                self._place(line, rect, top, high, push=len(lines) == 1)
            top += high + self.spacing()
        return max(0, top - self.spacing() - rect.top())

    def _place(self, line: list[tuple[QLayoutItem, QSize]], rect: QRect, top: int, high: int, push: bool) -> None:
        spare = rect.width() - sum(size.width() for _, size in line) - self.spacing() * max(0, len(line) - 1)
        pushed = set() if self._stretch_at is None or not push else {id(one) for one in self._items[self._stretch_at :]}
        left, moved = rect.left(), False
        for item, size in line:
            if id(item) in pushed and not moved:
                left, moved = left + max(0, spare), True
            wide = min(size.width(), rect.width())
            item.setGeometry(QRect(QPoint(left, top + (high - size.height()) // 2), QSize(wide, size.height())))
            left += wide + self.spacing()


def pair(words: str, field: QWidget) -> QWidget:
    """A field with its words before it, which no line end sets apart."""
    return held(row(label(words, "small"), field, spacing=SPACE.TIGHT))


def flow(*parts: QWidget | None, spacing: int = SPACE.HALF) -> Flow:
    """Parts in a row that wraps; what follows None stands at the right."""
    made = Flow(spacing)
    for part in parts:
        if part is None:
            made.addStretch()
        else:
            made.addWidget(part)
    return made
