"""A splitter that draws its handles itself."""

from __future__ import annotations

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSplitter, QSplitterHandle

from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look


class Splitter(QSplitter):
    """Parts side by side or one below the other. A style sheet for its handles would have to be the splitter's own, and all that
    is in it would be styled with it, also what a stack in there hides."""

    def createHandle(self) -> QSplitterHandle:
        """Make what is dragged between two parts."""
        return _Handle(self.orientation(), self)


class _Handle(QSplitterHandle):
    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), look.color("rule"))
