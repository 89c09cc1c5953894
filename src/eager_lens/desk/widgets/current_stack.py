"""A stack that is as high as the widget in sight, not as the highest of all."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QStackedWidget


class CurrentStack(QStackedWidget):
    """Widgets on top of one another, of which one is seen."""

    def __init__(self) -> None:
        super().__init__()
        self.currentChanged.connect(lambda _: self.updateGeometry())

    def sizeHint(self) -> QSize:
        """The size of the widget in sight."""
        current = self.currentWidget()
        return super().sizeHint() if current is None else current.sizeHint()

    def hasHeightForWidth(self) -> bool:
        """No: it would be that of all widgets, wrapped words of those out of sight too."""
        return False

    def minimumSizeHint(self) -> QSize:
        """The least size of the widget in sight."""
        current = self.currentWidget()
        return super().minimumSizeHint() if current is None else current.minimumSizeHint()
