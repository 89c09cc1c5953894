"""The header: the job's name and state, menus, undo, and the search over everything."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QListWidget, QListWidgetItem, QWidget

from eager_lens.core.units import count
from eager_lens.desk.searching import Hit, search
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, label, repolished
from eager_lens.desk.widgets.plain_words import set_tip


class SearchBox(QLineEdit):
    """The search line and its list of results."""

    picked = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("search")
        self._session = session
        self.setPlaceholderText("Find a device, address, finding or command    Ctrl+K")
        self.setAccessibleName("Search")
        self.setClearButtonEnabled(True)
        self.results = QListWidget()
        self.results.setObjectName("results")
        self.results.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.results.hide()
        self.results.itemClicked.connect(lambda _: self._pick())
        self.textEdited.connect(self._search)
        self.installEventFilter(self)

    def _search(self, text: str) -> None:
        if self.results.parent() is None and self.window() is not self:
            self.results.setParent(self.window())
        look.apply_style(self.results)
        self.results.clear()
        hits = search(text, self._session)
        for hit in hits:
            item = QListWidgetItem(f"{hit.words}   ({hit.kind})")
            item.setData(Qt.ItemDataRole.UserRole, hit)
            self.results.addItem(item)
        if not hits and text.strip():
            nothing = QListWidgetItem("No device, address, serial or command matches")
            nothing.setFlags(Qt.ItemFlag.NoItemFlags)
            self.results.addItem(nothing)
        self.results.setCurrentRow(0)
        if not text.strip():
            self.results.hide()
            return
        corner = self.mapTo(self.window(), QPoint(0, self.height() + 2))
        rows = max(1, self.results.count())
        self.results.setGeometry(corner.x(), corner.y(), max(self.width(), look.px(420)), rows * look.px(30) + 4)
        self.results.raise_()
        self.results.show()

    def _pick(self) -> None:
        item = self.results.currentItem()
        hit = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        self.results.hide()
        self.clear()
        if hit is not None:
            self.picked.emit(Hit(*hit))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Walk through the results from the line."""
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.results.isVisible():
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                at = max(0, min(self.results.count() - 1, self.results.currentRow() + step))
                self.results.setCurrentRow(at)
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.results.isVisible():
                self._pick()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.results.hide()
                self.clear()
                return True
        if event.type() == QEvent.Type.FocusOut and not self.results.underMouse():
            self.results.hide()
        return super().eventFilter(watched, event)


ROOMY, NARROW = 1200, 900
"""Widths, in pixels at normal type, from which undo tells its step in full, and in short."""


class Header(QWidget):
    """The whole header."""

    def __init__(
        self, session: Session, menu_buttons: list[QWidget], undo: Callable[[], None], findings: Callable[[], None]
    ) -> None:
        super().__init__()
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session = session
        self._mark = QLabel()
        self._name = label("Eager Lens")
        self._name.setObjectName("jobName")
        self._state = label("", "small")
        self.search = SearchBox(session)
        self._undo = button("", undo, "quiet")
        self._findings = button("", findings, "quiet", tip="Open the findings beside the page (Ctrl+F9)")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(SPACE.FULL, SPACE.TIGHT + 2, SPACE.FULL, SPACE.TIGHT + 2)
        layout.setSpacing(SPACE.HALF)
        layout.addWidget(self._mark)
        layout.addWidget(self._name)
        layout.addWidget(self._state)
        for menu in menu_buttons:
            layout.addWidget(menu)
        layout.addStretch(1)
        layout.addWidget(self.search, 3)
        layout.addStretch(1)
        layout.addWidget(self._undo)
        layout.addWidget(self._findings)
        session.state_changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def show_findings_button(self, shown: bool) -> None:
        """A way to the findings while they are not in sight."""
        self._findings.setVisible(shown)

    def refresh(self) -> None:
        """Show the job's name, whether it is saved, and what undo would take back."""
        session = self._session
        self._mark.setPixmap(look.pixmap("mark", look.px(26)))
        if not session.is_open:
            self._name.setText("Eager Lens")
            self._state.setText("")
            self._undo.hide()
            return
        self._findings.setText(f"Findings ({len(session.assessment.findings)})")
        name = session.job.name
        self._name.setText(name if len(name) <= 32 else name[:31] + "…")
        set_tip(self._name, f"{name}\n{session.path or 'not saved yet'}")
        saved = "not saved" if session.unsaved else ("saved" if session.path else "not in a file")
        copied = " · no safety copy" if session.copy_trouble else ""
        repolished(self._state, "role", "need" if copied else "small")
        self._state.setText(f"{saved}{copied} · {count(len(session.job.cameras), 'camera')}")
        set_tip(self._state, f"No safety copy can be written: {session.copy_trouble}" if copied else "")
        self._show_undo()

    def _show_undo(self) -> None:
        """What undo takes back, in as many words as there is room for: a narrow window must not be forced wide."""
        step = self._session.undo_label
        most = 26 if self.width() >= look.px(ROOMY) else 12
        short = step if len(step) <= most else step[: most - 1] + "…"
        words = f"↶ Undo “{short}”" if self.width() >= look.px(NARROW) else "↶ Undo"
        self._undo.setText(words if step else "")
        self._undo.setMinimumWidth(look.px(70))
        set_tip(self._undo, f"Undo “{step}” (Ctrl+Z)")
        self._undo.setVisible(bool(step) and self._session.is_open)

    def resizeEvent(self, event: object) -> None:
        """There is more or less room for what undo takes back."""
        self._show_undo()
