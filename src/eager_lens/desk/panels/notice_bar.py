"""A word on what just happened, at the foot of the rail: nothing moves when it comes or goes, and no row is covered."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QBoxLayout, QFrame, QWidget

from eager_lens.desk.session import Notice
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, label, repolished, row

SHOWN_FOR_MS = 9000
"""A success and an error alike: long enough to read two lines and reach for the button."""
WIDEST_PX = 620


class NoticeBar(QFrame):
    """Shows a notice, with its action if it has one, until it is closed, replaced or over. It waits while the pointer or the
    keyboard is on it.

    It stands at the foot of the rail, a long one over its last stages too; what is longer than the rail stands over the strip of
    figures, and without a rail, as on the start page, it stands at the foot of the window.
    """

    def __init__(self, over: QWidget, rail: QWidget, strip: QWidget) -> None:
        super().__init__(over)
        self.setObjectName("notice")
        self._over, self._rail, self._strip = over, rail, strip
        self._notice: Notice | None = None
        self._words = label("", wrap=True)
        self._act = button("", self._do, "plain")
        self._timer = QTimer(self, singleShot=True, interval=SHOWN_FOR_MS)
        self._timer.timeout.connect(self._time_is_up)
        layout = self._layout = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        layout.setContentsMargins(SPACE.HALF, SPACE.TIGHT, SPACE.HALF, SPACE.TIGHT)
        layout.addWidget(self._words, 1)
        layout.addLayout(row(self._act, button("Close", self.hide, "quiet"), spacing=0))
        over.installEventFilter(self)
        self.hide()

    @property
    def text(self) -> str:
        """The words in sight; empty when there are none."""
        return self._words.text() if not self.isHidden() else ""

    def show_notice(self, notice: Notice) -> None:
        """Show a notice in place of the one before."""
        self._notice = notice
        self._words.setText(notice.text)
        self.setAccessibleName(notice.text)
        self._act.setText(notice.action)
        repolished(self, "tone", "need" if notice.needs else "calm")
        look.apply_style(self)
        self.refresh()
        self.show()
        self._place()
        self.raise_()
        self._timer.start()

    def refresh(self) -> None:
        """Take the action away when it no longer does what it says: an Undo after another step."""
        if self._notice is not None:
            self._act.setVisible(bool(self._notice.action) and self._notice.still())

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Stay at the foot of what it lies over."""
        if watched is self._over and event.type() == QEvent.Type.Resize and self.isVisible():
            self._place()
        return False

    def _place(self) -> None:
        rail = self._rail
        if rail.isVisible():
            wide = rail.width() - 2 * SPACE.TIGHT
            high = self._height_for(wide, QBoxLayout.Direction.TopToBottom)
            if high + 2 * SPACE.TIGHT <= rail.height():
                foot = rail.mapTo(self._over, rail.rect().bottomLeft())
                self.setGeometry(foot.x() + SPACE.TIGHT, foot.y() - high - SPACE.TIGHT, wide, high)
                return
        wide = self._over.width() - 2 * SPACE.WIDE
        if not rail.isVisible():
            wide = min(wide, look.px(WIDEST_PX))
        high = self._height_for(wide, QBoxLayout.Direction.LeftToRight)
        above = 0 if self._strip.isVisible() else SPACE.FULL
        self.setGeometry((self._over.width() - wide) // 2, self._over.height() - high - above, wide, high)

    def _height_for(self, wide: int, direction: QBoxLayout.Direction) -> int:
        self._layout.setDirection(direction)
        self._layout.invalidate()
        return max(self.minimumSizeHint().height(), self._layout.totalHeightForWidth(wide))

    def _time_is_up(self) -> None:
        focus = self.window().focusWidget()
        if self.underMouse() or (focus is not None and self.isAncestorOf(focus)):
            self._timer.start()
        else:
            self.hide()

    def _do(self) -> None:
        self.hide()
        if self._notice is not None and self._notice.act is not None and self._notice.still():
            self._notice.act()
