"""What may be the case, most likely first, each with a bar as long as its chance."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import NORMAL
from eager_lens.desk.widgets.plain_words import set_tip

LINE_PX, NAME_PX, BAR_PX, WORDS_PX = 44, 20, 6, 66
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class ChanceBars(QWidget):
    """Names with their chances: the name above, bar and chance below. What has not the room is cut off, and is in the tool tip."""

    accessible_role = AccessibleRole.StaticText

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows: Sequence[tuple[str, str, float]] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        """A line for each."""
        return QSize(look.px(180), look.px(LINE_PX) * len(self._rows))

    def show_chances(self, rows: Sequence[tuple[str, str, float]]) -> None:
        """Show names, chances in words, and chances from 0 to 1."""
        self._rows = tuple(rows)
        words = "\n".join(f"{name}: {chance}" for name, chance, _ in rows)
        self.setAccessibleName(words or "Nothing to show")
        set_tip(self, words)
        self.updateGeometry()
        self.update()

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw a line for each; the first stands out."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            wide, line, bar = self.width(), look.px(LINE_PX), look.px(BAR_PX)
            for at, (name, words, chance) in enumerate(self._rows):
                top = at * line
                painter.setFont(look.font(NORMAL))
                painter.setPen(look.color("ink"))
                name = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, wide)
                painter.drawText(QRectF(0, top, wide, look.px(NAME_PX)), LEFT, name)
                painter.setFont(look.font(NORMAL, figures=True))
                painter.setPen(look.color("ink" if at == 0 else "muted"))
                room = look.px(WORDS_PX)
                painter.drawText(QRectF(wide - room, top + look.px(NAME_PX), room, look.px(NAME_PX)), RIGHT, words)
                middle = top + look.px(NAME_PX) * 1.5
                ground = QRectF(0, middle - bar / 2, wide - room - look.px(4), bar)
                painter.fillRect(ground, look.color("rule"))
                ground.setWidth(ground.width() * chance)
                painter.fillRect(ground, look.color("accent"))
