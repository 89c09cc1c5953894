"""Stacks of widgets of which one is seen."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QStackedWidget

from eager_lens.desk.theme import look


class Stack(QStackedWidget):
    """Widgets on top of one another. The one that comes into sight is styled then; those out of sight are not."""

    def __init__(self) -> None:
        super().__init__()
        self.currentChanged.connect(self._apply_style)

    def _apply_style(self) -> None:
        if self.isVisible() and (current := self.currentWidget()) is not None:
            look.apply_style(current)


class CurrentStack(Stack):
    """A stack that is as high as the widget in sight, not as the highest of all."""

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
