"""A chain drawn link by link: whole links joined, a broken one gaping, with its words beside it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.finding import Severity
from eager_lens.core.plain_text import sentence_case
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import NORMAL, SMALL
from eager_lens.desk.widgets.marks import paint_mark
from eager_lens.desk.widgets.plain_words import set_tip

ROW, LINK_WIDE = 30, 16


class LinkShown(NamedTuple):
    """A link: its name, whether it holds, and how it is in words."""

    name: str
    holds: bool
    words: str


class ChainStrip(QWidget):
    """Links from top to bottom."""

    accessible_role = AccessibleRole.Graphic

    def __init__(self) -> None:
        super().__init__()
        self._links: tuple[LinkShown, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def show_links(self, links: Sequence[LinkShown]) -> None:
        """Show a chain."""
        self._links = tuple(links)
        said = "; ".join(f"{one.name}: {one.words}{'' if one.holds else ', broken'}" for one in links)
        self.setAccessibleName(f"Chain from motion to recording: {said}")
        set_tip(self, "\n".join(f"{one.name}: {one.words}" for one in links))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """As high as its links."""
        return QSize(look.px(280), look.px(ROW * max(1, len(self._links))))

    def minimumSizeHint(self) -> QSize:
        """The same height, narrower."""
        return QSize(look.px(180), self.sizeHint().height())

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the links."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for at, one in enumerate(self._links):
                self._draw(painter, at, one)

    def _draw(self, painter: QPainter, at: int, one: LinkShown) -> None:
        high = look.px(ROW)
        top = at * high
        wide = look.px(LINK_WIDE)
        ring = QRectF(2, top + 2, wide - 4, high + (0 if at + 1 == len(self._links) else 6) - 4)
        pen = QPen(look.color("accent" if one.holds else "need"), 2)
        if not one.holds:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(ring, wide / 2 - 2, wide / 2 - 2)
        left = wide + look.px(8)
        if not one.holds:
            paint_mark(painter, QPointF(left + look.px(4), top + high / 2), Severity.FAULT, look.px(9))
            left += look.px(16)
        painter.setFont(look.font(NORMAL, strong=not one.holds))
        painter.setPen(look.color("ink"))
        metrics = QFontMetrics(painter.font())
        name = sentence_case(one.name)
        painter.drawText(QRectF(left, top, self.width() - left, high), Qt.AlignmentFlag.AlignVCenter, name)
        after = left + metrics.horizontalAdvance(name) + look.px(8)
        painter.setFont(look.font(SMALL))
        painter.setPen(look.color("muted" if one.holds else "need"))
        room = self.width() - after
        words = painter.fontMetrics().elidedText(one.words, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(after, top, room, high), Qt.AlignmentFlag.AlignVCenter, words)
