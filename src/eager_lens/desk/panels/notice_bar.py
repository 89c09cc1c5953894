"""One line for what just happened. It goes by itself unless it needs the person."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout

from eager_lens.desk.session import Notice
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, label, repolished

SHOWN_FOR_MS = 5000


class NoticeBar(QFrame):
    """Shows a notice, with its action if it has one, until it is closed, replaced or over."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self._notice: Notice | None = None
        self._words = label("", wrap=True)
        self._act = button("", self._do, "plain")
        self._timer = QTimer(self, singleShot=True, interval=SHOWN_FOR_MS)
        self._timer.timeout.connect(self.hide)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(SPACE.FULL, SPACE.TIGHT, SPACE.HALF, SPACE.TIGHT)
        layout.addWidget(self._words, 1)
        layout.addWidget(self._act)
        layout.addWidget(button("Close", self.hide, "quiet"))
        self.hide()

    @property
    def text(self) -> str:
        """The words in sight; empty when there are none."""
        return self._words.text() if not self.isHidden() else ""

    def show_notice(self, notice: Notice) -> None:
        """Show a notice in place of the one before."""
        self._notice = notice
        self._words.setText(notice.text)
        self._words.setAccessibleName(notice.text)
        self._act.setText(notice.action)
        self._act.setVisible(bool(notice.action))
        repolished(self, "tone", "need" if notice.needs else "calm")
        self.show()
        self._timer.stop() if notice.needs else self._timer.start()

    def _do(self) -> None:
        self.hide()
        if self._notice is not None and self._notice.act is not None:
            self._notice.act()
