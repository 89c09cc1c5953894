"""The readout strip: does it still fit? Always in sight; each figure opens its working."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.present.readout import Reading, readings
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.marks import paint_mark
from eager_lens.desk.widgets.plain_words import set_tip


class ReadoutCell(QWidget):
    """One figure of the strip."""

    accessible_role = AccessibleRole.Indicator

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._reading = Reading("", "", "", None, None)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumWidth(look.px(110))

    def sizeHint(self) -> QSize:
        """Two lines."""
        return QSize(look.px(220), look.px(56))

    def show_reading(self, reading: Reading) -> None:
        """Show a figure."""
        self._reading = reading
        self.setAccessibleName(f"{reading.words}: {reading.figure} {reading.rest}")
        set_tip(
            self,
            f"{reading.words}: {reading.figure} {reading.rest}"
            + (". Click to see the workings." if reading.ref else ""),
        )
        self.setCursor(Qt.CursorShape.PointingHandCursor if reading.ref else Qt.CursorShape.ArrowCursor)
        self.update()

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the words, the mark and the figure."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            reading, left = self._reading, SPACE.FULL
            painter.setFont(look.font(SMALL))
            painter.setPen(look.color("muted"))
            wide = self.width() - left - SPACE.HALF
            words = painter.fontMetrics().elidedText(reading.words, Qt.TextElideMode.ElideRight, wide)
            painter.drawText(QRectF(left, look.px(8), wide, look.px(18)), Qt.AlignmentFlag.AlignVCenter, words)
            line = QRectF(left, look.px(26), wide, look.px(24))
            needs = reading.severity is not None and reading.severity > Severity.TODO
            x = float(left)
            if needs:
                paint_mark(painter, QPointF(x + look.px(6), line.center().y()), reading.severity, look.px(11))
                x += look.px(18)
            painter.setFont(look.font(17, strong=True, figures=True))
            painter.setPen(look.color("need" if needs else "ink"))
            long = painter.fontMetrics().horizontalAdvance(reading.figure)
            painter.drawText(
                QRectF(x, line.top(), long + 2, line.height()), Qt.AlignmentFlag.AlignVCenter, reading.figure
            )
            if reading.assumed:
                painter.setPen(QPen(look.color("muted"), 1, Qt.PenStyle.DashLine))
                painter.drawLine(QPointF(x, line.bottom() - 1), QPointF(x + long, line.bottom() - 1))
            x += long + look.px(6)
            painter.setFont(look.font())
            painter.setPen(look.color("muted"))
            rest = painter.fontMetrics().elidedText(
                reading.rest, Qt.TextElideMode.ElideRight, int(self.width() - x - 4)
            )
            painter.drawText(
                QRectF(x, line.top() + 1, self.width() - x, line.height()), Qt.AlignmentFlag.AlignVCenter, rest
            )
            painter.setPen(look.color("rule"))
            painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
            if self.hasFocus():
                painter.setPen(look.color("accent"))
                painter.drawRect(QRectF(self.rect()).adjusted(2, 2, -4, -3))

    def _ask(self) -> None:
        if self._reading.ref is not None:
            self._session.show_working(self._reading.ref)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Open the working."""
        self._ask()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Open the working with Return or Space."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._ask()
        else:
            super().keyPressEvent(event)


class Readout(QWidget):
    """The strip."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("readout")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._cells = [ReadoutCell(session) for _ in range(6)]
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for cell in self._cells:
            layout.addWidget(cell)
        session.assessed.connect(self.show_assessment)
        look.changed.connect(self.update)

    def show_assessment(self, assessment: Assessment) -> None:
        """Show the figures of a job."""
        for cell, reading in zip(self._cells, readings(assessment), strict=True):
            cell.show_reading(reading)
