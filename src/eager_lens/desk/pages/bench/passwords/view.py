"""Device passwords: made by rule, kept in the sealed file beside the job, copied for a moment."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QEvent, QObject, QTimer, Signal
from PySide6.QtGui import QGuiApplication, QHideEvent
from PySide6.QtWidgets import QApplication, QCheckBox, QLineEdit, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.device_passwords import made, weakness
from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.file import ENDING
from eager_lens.core.job.model import role_of
from eager_lens.core.records.sealed.passphrase import weakness as passphrase_weakness
from eager_lens.core.records.sealed.seen import is_older
from eager_lens.core.records.sealed.vault import OpenVault, Vault, create, open_vault, sealed_path
from eager_lens.core.units import count
from eager_lens.desk.background import Task, Work
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.current_stack import Stack
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

CLEARED_AFTER_MS = 30_000
CLOSED_AFTER_MS = 5 * 60_000
"""So long nobody has touched the program, and the sealed file is closed."""
TOUCHES = frozenset(
    {
        QEvent.Type.KeyPress,
        QEvent.Type.ShortcutOverride,  # keys that become a command are no key press
        QEvent.Type.MouseButtonPress,
        QEvent.Type.MouseMove,
        QEvent.Type.Wheel,
        QEvent.Type.TouchBegin,
    }
)
HIDDEN = "••••••••"
CLOSED_PAGE, OPEN_PAGE = 0, 1


class Kept(NamedTuple):
    """A row: a device and its password, as far as it may be seen."""

    id: str
    name: str
    role: str
    address: str
    shown: str


COLUMNS = (
    TableColumn("name", "Device", lambda kept, a: kept.name, width=190),
    TableColumn("role", "Kind", lambda kept, a: kept.role, width=80),
    TableColumn("address", "Address", lambda kept, a: kept.address or "–", width=120),
    TableColumn("shown", "Password", lambda kept, a: kept.shown, width=220, stretch=True),
)


class PasswordsView(QWidget):
    """Closed until the passphrase is typed; closed again when the view is left."""

    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.open_file: OpenVault | None = None
        self._before: Vault | None = None
        self._busy = Busy(session, self)
        self._busy.changed.connect(lambda: self._go.setEnabled(not self._busy.is_running))
        self._path: Path | None = None
        self._opened = session.times_opened
        self._pages = Stack()
        self._pages.addWidget(self._made_closed())
        self._pages.addWidget(self._made_open())
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        head = row(self._words, button("Close", self.closed.emit, "quiet"))
        head.setStretch(0, 1)
        layout = column(head, self._pages, spacing=SPACE.HALF)
        layout.setStretch(1, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        self.setLayout(layout)
        self._clear = QTimer(self)
        self._clear.setSingleShot(True)
        self._clear.setInterval(CLEARED_AFTER_MS)
        self._clear.timeout.connect(self.clear_clipboard)
        self._copied = ""
        QGuiApplication.clipboard().dataChanged.connect(self._watch_clipboard)
        self._idle = QTimer(self, singleShot=True, interval=CLOSED_AFTER_MS)
        self._idle.timeout.connect(self._left_alone)
        session.state_changed.connect(self._follow_job)

    def _made_closed(self) -> QWidget:
        self._why = label("", "muted", wrap=True)
        self._first, self._again = QLineEdit(), QLineEdit()
        for field, name in ((self._first, "Passphrase"), (self._again, "The same passphrase again")):
            field.setEchoMode(QLineEdit.EchoMode.Password)
            field.setPlaceholderText(name)
            field.setAccessibleName(name)
            look.fix_width(field, 340)
            field.returnPressed.connect(self._open)
        self._go = button("Open", self._open, "main")
        self._strength = label("", "muted", wrap=True)
        self._first.textChanged.connect(lambda _: self._show_strength())
        whole = QWidget()
        go = row(self._go, self._busy.bar, None)
        whole.setLayout(column(self._why, row(self._first, None), self._strength, row(self._again, None), go, None))
        return whole

    def _made_open(self) -> QWidget:
        self.table = RecordTable(self.session, COLUMNS)
        self.table.empty_words = "Add cameras or recorders to see devices here."
        self._shown = QCheckBox("show")
        self._shown.toggled.connect(lambda _: self._show())
        self._one = QCheckBox("one for the whole site")
        self._one.clicked.connect(lambda _: self._set_one_for_all(self._one.isChecked()))
        self._own = QLineEdit()
        self._own.setEchoMode(QLineEdit.EchoMode.Password)
        self._own.setPlaceholderText("password for the selected")
        self._own.setAccessibleName("Your own password for the selected devices")
        look.limit_width(self._own, 200)
        self._own.returnPressed.connect(self._type_own)
        self._caution = label(
            "With one password for all, anyone who learns it can open every device. One for each is safer.",
            "caution",
            wrap=True,
        )
        acts = flow(
            button("Generate missing", self._make_missing, "main"),
            button("Renew selected", self._make_anew),
            button("Copy", self._copy, tip="The clipboard is cleared after 30 seconds"),
            self._own,
            self._one,
            self._shown,
            None,
            spacing=SPACE.HALF,
        )
        whole = QWidget()
        layout = column(acts, self.table, self._caution, spacing=SPACE.HALF)
        layout.setStretch(1, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        whole.setLayout(layout)
        return whole

    # ---- open and closed -----------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Follow the job's devices."""
        self._show()

    def _follow_job(self) -> None:
        """What belongs to another job, or to another file of it, is closed."""
        path = None if self.session.path is None else sealed_path(self.session.path, ENDING)
        if self.open_file is not None and (self._opened != self.session.times_opened or path != self._path):
            self.shut()
        if self.isVisible():
            self._show()

    def shut(self) -> None:
        """Forget everything, and close."""
        self._busy.stop()
        self.open_file, self._before = None, None
        self._idle.stop()
        QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
        for field in (self._first, self._again, self._own):
            field.clear()
        self._shown.setChecked(False)
        self.clear_clipboard()
        self._show()

    def hideEvent(self, event: QHideEvent) -> None:
        """Leaving the view closes it, and so does putting the window away."""
        self.shut()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """While it is open: whether somebody is there, and whether the window is put away."""
        if event.type() in TOUCHES:
            self._idle.start()
        elif event.type() == QEvent.Type.WindowStateChange and self.window().isMinimized():
            self.shut()
        return False

    def _left_alone(self) -> None:
        self.shut()
        minutes = CLOSED_AFTER_MS // 60_000
        self.session.notice(f"The sealed file was closed after {minutes} minutes without input")

    @property
    def vault(self) -> Vault | None:
        """What is sealed, while it is open."""
        return None if self.open_file is None else self.open_file.vault

    def _show(self) -> None:
        self._path = None if self.session.path is None else sealed_path(self.session.path, ENDING)
        there = self._path is not None and self._path.exists()
        self._pages.setCurrentIndex(CLOSED_PAGE if self.vault is None else OPEN_PAGE)
        if self.vault is None:
            self._words.setText("Device passwords")
            self._first.setVisible(self._path is not None)
            self._again.setVisible(self._path is not None and not there)
            self._go.setVisible(self._path is not None)
            self._go.setText("Open" if there else "Create sealed file")
            self._show_strength()
            if self._path is None:
                self._why.setText(
                    "Save the job first: passwords are kept in a sealed file beside it, never in the job itself."
                )
            elif there:
                self._why.setText(
                    f"Passwords are sealed in {self._path.name}. Enter the passphrase to open it; it cannot be recovered."
                )
            else:
                self._why.setText(
                    f"Passwords will be sealed in {self._path.name}, beside the job. Choose a passphrase that you will "
                    "remember, such as five unrelated words: it cannot be recovered."
                )
            self.table.show_parts([], self.session.assessment)
            return
        kept = self.vault.passwords
        devices = [device for device in self.session.job.devices() if role_of(device) != "other"]
        self.table.show_parts(
            [
                Kept(d.id, d.name, role_of(d), d.address, self._seen(kept[d.id]) if d.id in kept else "none yet")
                for d in devices
            ],
            self.session.assessment,
        )
        missing = sum(device.id not in kept for device in devices)
        state_words = "every device has a password" if not missing else f"{count(missing, 'device')} without a password"
        self._words.setText(f"Sealed in {self._path.name if self._path else ''}: {state_words}")
        self._one.setChecked(self.vault.one_for_all)
        self._caution.setVisible(self.vault.one_for_all)

    def _seen(self, password: str) -> str:
        return password if self._shown.isChecked() else HIDDEN

    def _show_strength(self) -> None:
        """While a new file's passphrase is typed: how good it is."""
        new = self._path is not None and not self._path.exists() and self._first.text() != ""
        self._strength.setVisible(new)
        if new:
            why = self._weakness(self._first.text())
            self._strength.setText(f"Too easy to guess: {why}." if why else "Hard to guess.")

    def _weakness(self, passphrase: str) -> str:
        job = self.session.job
        return passphrase_weakness(passphrase, (job.name, job.customer, job.site))

    def _open(self) -> None:
        if self._path is None or self._busy.is_running:
            return
        path, passphrase, opened = self._path, self._first.text(), self.session.times_opened
        act = open_vault
        if not path.exists():
            act = create
            why = self._weakness(passphrase)
            if why or passphrase != self._again.text():
                self.session.notice(
                    f"Refused: {why}" if why else "The two passphrases differ; type the same one twice", needs=True
                )
                return

        def work(task: Task) -> Work[OpenVault]:
            yield 0.1
            return act(path, passphrase)

        self._busy.begin(work, lambda got: self._take(got, opened))
        self._first.selectAll()

    def _take(self, got: OpenVault, opened: int) -> None:
        """The file is open, unless another job is by now or the view was left."""
        if opened != self.session.times_opened or got.path != self._path or not self.isVisible():
            return
        self.open_file, self._opened = got, opened
        older = is_older(got, self.session.config_folder)
        if older:
            self.session.notice(older, needs=True)
        for field in (self._first, self._again):
            field.clear()
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]
        self._idle.start()
        self._show()
        self.table.setFocus()

    # ---- passwords -----------------------------------------------------------------------------------------------

    def _keep(self, make: Callable[[Vault], Vault], over: Iterable[str] = ()) -> bool:
        """Make a change in what is sealed; it stays as it was when that fails."""
        if self.open_file is None:
            return False
        before = self.open_file.vault
        try:
            self.open_file.change(make, frozenset(over))
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)
            self._show()
            return False
        self._before = before
        is_older(self.open_file, self.session.config_folder)
        self._show()
        return True

    def _say_done(self, text: str) -> None:
        """Tell what was done, with a way back: a password that is on a device must not be lost by a slip."""
        self.session.notice(text, action="Undo", act=self._take_back)

    def _take_back(self) -> None:
        """Seal again what this window's last change replaced; what others sealed meanwhile stays."""
        before, now = self._before, self.vault
        if before is None or now is None:
            return
        changed = {
            one for one in {*before.passwords, *now.passwords} if before.passwords.get(one) != now.passwords.get(one)
        }

        def make(vault: Vault) -> Vault:
            kept = {one: word for one, word in vault.passwords.items() if one not in changed}
            return Vault(
                {**kept, **{one: before.passwords[one] for one in changed & before.passwords.keys()}},
                before.one_for_all,
            )

        if self._keep(make, changed):
            self._before = None

    def _ids(self, selected: bool) -> list[str]:
        if selected:
            return [part.id for part in self.table.selected_parts()]
        return [device.id for device in self.session.job.devices() if role_of(device) != "other"]

    def _make_missing(self) -> None:
        if self.vault is None:
            return
        ids, made_now = self._ids(selected=False), 0

        def make(vault: Vault) -> Vault:
            nonlocal made_now
            missing = [one for one in ids if one not in vault.passwords]
            made_now = len(missing)
            shared = _shared(vault)
            new = {one: shared if vault.one_for_all else made() for one in missing}
            return replace(vault, passwords={**vault.passwords, **new})

        if all(one in self.vault.passwords for one in ids):
            self.session.notice("Every device has a password")
        elif self._keep(make):
            self._say_done(f"{count(made_now, 'password')} generated and sealed")

    def _make_anew(self) -> None:
        selected = self._ids(selected=True)
        if not selected or self.vault is None:
            self.session.notice("Select the devices first", needs=True)
            return
        shared, one_for_all = made(), self.vault.one_for_all
        ids = self._ids(selected=False) if one_for_all else selected
        new = {one: shared if one_for_all else made() for one in ids}
        if self._keep(lambda vault: replace(vault, passwords={**vault.passwords, **new}), ids):
            self._say_done("Renewed and sealed; now set them on the devices")

    def _type_own(self) -> None:
        selected, typed = self._ids(selected=True), self._own.text()
        wrong = weakness(typed)
        if not selected or wrong:
            self.session.notice(f"Refused: {wrong}" if wrong else "Select the devices first", needs=True)
            return
        new = dict.fromkeys(selected, typed)
        if self._keep(lambda vault: replace(vault, passwords={**vault.passwords, **new}), selected):
            self._own.clear()
            self._say_done(f"Sealed for {count(len(selected), 'device')}")

    def _set_one_for_all(self, on: bool) -> None:
        if self.vault is None:
            return
        ids, shared = self._ids(selected=False), _shared(self.vault)
        new = dict.fromkeys(ids, shared) if on else {one: made() for one in ids}
        if self._keep(lambda vault: Vault({**vault.passwords, **new}, on), ids):
            self._say_done("One password for every device" if on else "A separate password for each device")

    def _copy(self) -> None:
        selected = self._ids(selected=True)
        if self.vault is None or not selected or selected[0] not in self.vault.passwords:
            self.session.notice("Select one device that has a password", needs=True)
            return
        QGuiApplication.clipboard().setText(self.vault.passwords[selected[0]])
        self.session.notice("Copied; the clipboard is cleared in 30 seconds")

    def _watch_clipboard(self) -> None:
        """Whatever is copied with a password in it, rows of the table too, is cleared after a while."""
        if self.vault is None:
            return
        text = QGuiApplication.clipboard().text()
        if any(password in text for password in self.vault.passwords.values()):
            self._copied = text
            self._clear.start()

    def clear_clipboard(self) -> None:
        """Take what was copied with a password in it off the clipboard, unless something else was copied since."""
        self._clear.stop()
        if self._copied and QGuiApplication.clipboard().text() == self._copied:
            QGuiApplication.clipboard().clear()
        self._copied = ""


def _shared(vault: Vault) -> str:
    """The password that all devices of a site have, or a new one."""
    return next(iter(vault.passwords.values()), None) or made()
