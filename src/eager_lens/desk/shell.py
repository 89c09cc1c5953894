"""The empty window: in sight at once, while everything that a job needs is still being loaded."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QGuiApplication, QPainter, QPaintEvent
from PySide6.QtWidgets import QMainWindow, QWidget

from eager_lens.desk.background import painted_first
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import HEADING

FRAME = QSize(8, 44)
"""Room for the frame that a window manager puts around the window, which is not known before; on a screen of 1280x800 the strip
at the bottom would be cut off otherwise."""


class _Placeholder(QWidget):
    """The grounds of header, rail and readout, and a word of what is being done."""

    def __init__(self, words: str, painted: Callable[[], None]) -> None:
        super().__init__()
        self._words, self._painted = words, painted

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the grounds, and tell once that they are in sight."""
        with QPainter(self) as painter:
            wide, tall = self.width(), self.height()
            painter.fillRect(self.rect(), look.color("paper"))
            painter.fillRect(0, 0, wide, look.px(38), look.color("panel"))
            painter.fillRect(0, look.px(38), look.px(176), tall, look.color("panel"))
            painter.fillRect(0, tall - look.px(56), wide, look.px(56), look.color("panel"))
            painter.setPen(look.color("rule"))
            painter.drawLine(0, look.px(38), wide, look.px(38))
            painter.drawLine(look.px(176), look.px(38), look.px(176), tall)
            painter.drawLine(0, tall - look.px(56), wide, tall - look.px(56))
            painter.setFont(look.font(HEADING))
            painter.setPen(look.color("muted"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._words)
            painted, self._painted = self._painted, _nothing
            QTimer.singleShot(0, painted)


def _nothing() -> None:
    return


class Shell(QMainWindow):
    """The window's frame. ``load`` is called once the empty window is in sight; it gives the content."""

    def __init__(self, words: str, load: Callable[[], QWidget]) -> None:
        super().__init__()
        self.setWindowTitle("Eager Lens")
        room = QGuiApplication.primaryScreen().availableSize() - FRAME
        self.resize(QSize(1280, 800).boundedTo(room))
        self.setMinimumSize(QSize(860, 560).boundedTo(room))
        self._load = load
        self.setCentralWidget(_Placeholder(words, self._fill))

    def _fill(self) -> None:
        content = self._load()
        self.setCentralWidget(content)
        self.setWindowIcon(look.icon("eager-lens"))
        content.setFocus()

    def event(self, event: QEvent) -> bool:
        """Paint before work in the background goes on."""
        return painted_first(event, super().event)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Close if the content lets itself be closed."""
        content = self.centralWidget()
        event.setAccepted(content is None or content.close())
