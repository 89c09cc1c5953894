"""The stage rail: where am I, and where is something wrong."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity, Stage
from eager_lens.core.present.stages import STAGE_WORDS, STAGES
from eager_lens.core.units import count
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.theme.look import HEADING, NORMAL
from eager_lens.desk.widgets.marks import paint_mark


class Rail(QWidget):
    """The stages in the order of work, each with the number of its open findings. Up and Down walk, Alt+1 to 8 jump."""

    accessible_role = AccessibleRole.PageTabList

    asked = Signal(str)

    ROW = 40

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Stages")
        self._stage: Stage = "sizing"
        self._counts: dict[Stage, tuple[int, Severity]] = {}
        self._say()
        look.changed.connect(self._resize)
        self._resize()

    def _resize(self) -> None:
        self.setFixedWidth(look.px(176))
        self.update()

    def sizeHint(self) -> QSize:
        """Wide enough for the words."""
        return QSize(look.px(176), look.px(self.ROW * len(STAGES)))

    def show_assessment(self, assessment: Assessment) -> None:
        """Show the numbers of open findings."""
        self._counts = {}
        for stage in STAGES:
            number = assessment.open_count(stage)
            if number:
                worst = max(finding.severity for finding in assessment.of_stage(stage))
                self._counts[stage] = (number, worst)
        self._say()
        self.update()

    def _say(self) -> None:
        said = []
        for stage in STAGES:
            open_ = f", {count(self._counts[stage][0], 'finding')}" if stage in self._counts else ""
            here = ", shown" if stage == self._stage else ""
            said.append(f"{STAGE_WORDS[stage]}{open_}{here}")
        self.setAccessibleDescription("; ".join(said))

    def show_stage(self, stage: Stage) -> None:
        """Mark the stage that is in sight."""
        self._stage = stage
        self._say()
        self.update()

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the rows."""
        with QPainter(self) as painter:
            painter.setPen(look.color("rule"))
            painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
            row = look.px(self.ROW)
            for at, stage in enumerate(STAGES):
                top = SPACE.HALF + at * row
                rect = QRectF(0, top, self.width() - 1, row)
                here = stage == self._stage
                if here:
                    painter.fillRect(rect, look.color("tint"))
                    painter.fillRect(QRectF(0, top, 3, row), look.color("accent"))
                size = look.px(18)
                painter.drawPixmap(look.px(18), int(rect.center().y() - size / 2), look.pixmap(stage, size, "accent"))
                painter.setFont(look.font(HEADING, strong=here))
                painter.setPen(look.color("ink"))
                area = rect.adjusted(look.px(46), 0, 0, 0)
                painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, STAGE_WORDS[stage])
                if stage in self._counts:
                    self._count(painter, rect, *self._counts[stage])
            if self.hasFocus():
                painter.setPen(look.color("accent"))
                at = STAGES.index(self._stage)
                painter.drawRect(QRectF(2, SPACE.HALF + at * row + 2, self.width() - 6, row - 4))

    def _count(self, painter: QPainter, rect: QRectF, number: int, worst: Severity) -> None:
        painter.setFont(look.font(NORMAL, figures=True))
        painter.setPen(look.color("accent" if worst is Severity.TODO else "need"))
        text = str(number)
        wide = painter.fontMetrics().horizontalAdvance(text)
        right = rect.right() - look.px(12)
        painter.drawText(
            QRectF(right - wide - 1, rect.top(), wide + 2, rect.height()), Qt.AlignmentFlag.AlignVCenter, text
        )
        paint_mark(painter, QPointF(right - wide - look.px(11), rect.center().y()), worst, look.px(9))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to the stage that was pressed."""
        at = int((event.position().y() - SPACE.HALF) // look.px(self.ROW))
        if 0 <= at < len(STAGES):
            self.asked.emit(STAGES[at])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Walk with Up and Down."""
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            at = max(0, min(len(STAGES) - 1, STAGES.index(self._stage) + step))
            self.asked.emit(STAGES[at])
