"""A bar of how much of a limit is used, with its figures, as one line."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import NORMAL, SMALL
from eager_lens.desk.widgets.plain_words import set_tip


class Meter(QWidget):
    """``words`` on the left, ``figures`` on the right, the used share of the limit as a bar below.

    ``level`` marks what is asked on the bar's own scale. It can be pressed for its working.
    """

    accessible_role = AccessibleRole.Indicator

    pressed = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._words, self._figures, self._share, self._needs, self._assumed = "", "", 0.0, False, False
        self._level: float | None = None
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        """One line and its bar."""
        return QSize(look.px(220), look.px(34))

    def show_share(
        self, words: str, figures: str, share: float, needs: bool, assumed: bool = False, level: float | None = None
    ) -> None:
        """Show a used share (above 1: over the limit); ``needs`` where somebody should look."""
        self._words, self._figures, self._share, self._needs = words, figures, share, needs
        self._assumed, self._level = assumed, level
        self.setAccessibleName(f"{words}: {figures}")
        set_tip(self, f"{words}: {figures}. Click to see the workings.")
        self.update()

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw words, figures and bar."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            wide, text_height = self.width(), look.px(20)
            painter.setFont(look.font(NORMAL, figures=True))
            room = wide - painter.fontMetrics().horizontalAdvance(self._figures) - look.px(8)
            painter.setFont(look.font(SMALL))
            painter.setPen(look.color("muted"))
            words = painter.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, room)
            painter.drawText(
                QRectF(0, 0, wide, text_height), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words
            )
            painter.setFont(look.font(NORMAL, figures=True))
            painter.setPen(look.color("need" if self._needs else "ink"))
            painter.drawText(
                QRectF(0, 0, wide, text_height),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                self._figures,
            )
            if self._assumed:
                long = painter.fontMetrics().horizontalAdvance(self._figures)
                painter.setPen(QPen(look.color("muted"), 1, Qt.PenStyle.DashLine))
                painter.drawLine(wide - long, text_height - 1, wide, text_height - 1)
            top = text_height + look.px(3)
            painter.fillRect(QRectF(0, top, wide, look.px(5)), look.color("rule"))
            painter.fillRect(
                QRectF(0, top, wide * min(1.0, self._share), look.px(5)),
                look.color("need" if self._needs else "accent"),
            )
            if self._level is not None and self._level <= 1:
                painter.fillRect(QRectF(wide * self._level - 1, top - 3, 2, look.px(11)), look.color("ink"))
            if self.hasFocus():
                painter.setPen(QPen(look.color("accent"), 1, Qt.PenStyle.DotLine))
                painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Ask for the working."""
        self.pressed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Ask for the working with Return or Space."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.pressed.emit()
        else:
            super().keyPressEvent(event)
