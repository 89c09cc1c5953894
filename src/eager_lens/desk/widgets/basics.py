"""Small makers of labels, buttons and rows, so that every page is built from the same few pieces."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QFontMetrics, QFontMetricsF, QHelpEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStyle,
    QStyleOptionComboBox,
    QStylePainter,
    QVBoxLayout,
    QWidget,
)

from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.plain_words import set_tip, show_tip
from eager_lens.desk.widgets.splitter import Splitter

LabelRole = Literal["verdict", "heading", "muted", "small", "need", "caution", "figure", ""]
ButtonKind = Literal["main", "plain", "quiet", "tab", "choice", "card", "answer"]


def elided_name(metrics: QFontMetrics | QFontMetricsF, name: str, room_px: float) -> str:
    """A name shortened in its middle to the room that there is: names that begin alike differ at their end."""
    return metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, int(room_px))


class Elided(QLabel):
    """A label of one line that is cut off with an ellipsis where there is no room; its tool tip has the whole text."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.setText(text)

    def setText(self, text: str) -> None:
        """Show another text."""
        super().setText(text)
        set_tip(self, text)

    def minimumSizeHint(self) -> QSize:
        """A few letters."""
        return QSize(min(super().minimumSizeHint().width(), look.px(60)), super().minimumSizeHint().height())

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """As much of the text as there is room for."""
        with QPainter(self) as painter:
            area = self.contentsRect()
            text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, area.width())
            align = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
            role = self.foregroundRole()
            self.style().drawItemText(painter, area, align.value, self.palette(), self.isEnabled(), text, role)


class Wrapped(QLabel):
    """A label of several lines. Layouts ask it again and again how tall it is at one width, and lay its text out each time; thirty
    findings took most of a change of type size for that. So it remembers. Its margins are given before it is laid out."""

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self._heights: dict[int, int] = {}
        self.setWordWrap(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)

    def setText(self, text: str) -> None:
        """Show another text."""
        self._heights.clear()
        super().setText(text)

    def changeEvent(self, event: QEvent) -> None:
        """Another font or style: other heights."""
        self._heights.clear()
        super().changeEvent(event)

    def heightForWidth(self, width: int) -> int:
        """How tall it is at a width, in pixels."""
        height = self._heights.get(width)
        if height is None:
            height = self._heights[width] = super().heightForWidth(width)
        return height


def label(text: str, role: LabelRole = "", wrap: bool = False) -> QLabel:
    """A label in one of the roles that the style sheet knows. Text is shown as it is, never as markup; a heading that has no
    room ends in an ellipsis, and its tool tip has it whole."""
    made = Wrapped(text) if wrap else Elided(text) if role == "heading" else QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setProperty("role", role)
    return made


def button(
    text: str, act: Callable[[], object] | None = None, kind: ButtonKind = "plain", tip: str = ""
) -> QPushButton:
    """A button named by its act."""
    made = QPushButton(text)
    made.setProperty("kind", kind)
    made.setAutoDefault(False)
    if kind in ("tab", "choice", "card"):
        made.setCheckable(True)
    if act is not None:
        made.clicked.connect(lambda *_: act())
    if tip:
        set_tip(made, tip)
    return made


class Choice(QComboBox):
    """A list to select one of, with an arrow that says so in both themes."""

    _offered: Sequence[tuple[str, str]] = ()

    def offer(self, wanted: Sequence[tuple[str, str]], selected: str | None = None) -> bool:
        """Offer these (data and words); whether they are others than before. What was selected stays so, where none is named
        and it is still there. Nobody is told."""
        kept = self.currentData() if selected is None else selected
        is_new = list(wanted) != self._offered
        self.blockSignals(True)
        if is_new:
            self._offered = list(wanted)
            self.clear()
            for data, words in wanted:
                self.addItem(words, data)
        self.setCurrentIndex(max(0, self.findData(kept)))
        self.blockSignals(False)
        return is_new

    def shown_words(self) -> str:
        """What of the selected words there is room for."""
        return self._option().currentText

    def _option(self) -> QStyleOptionComboBox:
        """How it is drawn, its words shortened to the room that there is."""
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        field = QStyle.SubControl.SC_ComboBoxEditField
        room = self.style().subControlRect(QStyle.ComplexControl.CC_ComboBox, option, field, self)
        option.currentText = self.fontMetrics().elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, room.width() - 2
        )
        return option

    def event(self, event: QEvent) -> bool:
        """Where words had to be shortened and there is no tool tip, one says them."""
        words = self.currentText()
        if isinstance(event, QHelpEvent) and not self.toolTip() and self.shown_words() != words:
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """The field, then the arrow: a style sheet could only show a picture of one colour."""
        option = self._option()
        painter = QStylePainter(self)
        with painter:
            painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
            painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
            size = look.px(12)
            painter.drawPixmap(
                self.width() - size - SPACE.TIGHT, (self.height() - size) // 2, look.pixmap("down", size, "muted")
            )


def rule() -> QFrame:
    """A hairline across."""
    line = QFrame()
    line.setProperty("role", "rule")
    return line


def row(*parts: QWidget | QLayout | None, spacing: int = SPACE.HALF) -> QHBoxLayout:
    """Parts side by side; None is a stretch."""
    layout = QHBoxLayout()
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(spacing)
    _fill(layout, parts)
    return layout


def column(*parts: QWidget | QLayout | None, spacing: int = SPACE.HALF) -> QVBoxLayout:
    """Parts one below the other; None is a stretch."""
    layout = QVBoxLayout()
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(spacing)
    _fill(layout, parts)
    return layout


def _fill(layout: QHBoxLayout | QVBoxLayout, parts: tuple[QWidget | QLayout | None, ...]) -> None:
    for part in parts:
        if part is None:
            layout.addStretch(1)
        elif isinstance(part, QWidget):
            layout.addWidget(part)
        else:
            layout.addLayout(part)


def held(layout: QLayout) -> QWidget:
    """A layout as one widget. Beside a stack that has one style for all that it holds; each button by itself would take its
    time, and memory for a style of its own."""
    made = QWidget()
    made.setLayout(layout)
    return made


def beside(left: QLayout, right: QLayout) -> Splitter:
    """A narrow list and what belongs to it, with a handle between them."""
    splitter = Splitter(Qt.Orientation.Horizontal)
    right.setContentsMargins(SPACE.HALF, 0, 0, 0)
    for layout in (left, right):
        splitter.addWidget(held(layout))
    splitter.setStretchFactor(1, 1)
    splitter.setSizes([look.px(240), look.px(560)])
    splitter.setChildrenCollapsible(False)
    return splitter


def scrolled(inner: QWidget) -> QScrollArea:
    """A widget that scrolls up and down where there is little room, and is as wide as there is room."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(inner)
    # Its widgets take the keyboard, and it follows them.
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


def emptied(layout: QLayout) -> None:
    """Remove everything from a layout, to fill it again."""
    while layout.count():
        item = layout.takeAt(0)
        if item is None:
            break
        widget, inner = item.widget(), item.layout()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
        elif inner is not None:
            emptied(inner)
            inner.deleteLater()


def repolished(widget: QWidget, name: str, value: str) -> None:
    """Change a property that the style sheet looks at."""
    if widget.property(name) != value:
        widget.setProperty(name, value)
        widget.style().unpolish(widget)
        widget.style().polish(widget)
