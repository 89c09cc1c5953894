"""The event log: what happened to the job, whether it is whole, and the anchor that goes onto the handover sheet."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QLineEdit, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import read_whole
from eager_lens.core.records.event_log.entry import LogEntry
from eager_lens.core.records.event_log.log_file import WHAT
from eager_lens.core.records.event_log.merge import merge
from eager_lens.core.records.event_log.photos import photos_beside
from eager_lens.core.records.event_log.signing import fingerprint, make_key, open_key, sign
from eager_lens.core.records.event_log.verify import Verified, entries_of, verify
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.background import Task, Work
from eager_lens.desk.job_log import PROGRAM
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, held, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.writing import export

LOG_FILE = FileKind("Event logs", (".jsonl",))
KEY_FILE = FileKind("Keys", (".pem",))
MOST_SHOWN = 5000
"""The latest entries are shown; all are in the file, and the filter looks through all."""

PROVES = (
    "The log proves that no entry before an anchor, such as the one on the handover sheet, was changed, added or removed. It "
    "does not prove that an entry was true, nor who sat at the keyboard: names are as entered."
)


class EntryRow(NamedTuple):
    """A row: an entry of the log."""

    id: str
    entry: LogEntry


def _when(one: EntryRow, assessment: Assessment) -> str:
    return one.entry.at.astimezone().strftime("%Y-%m-%d %H:%M:%S")


COLUMNS = (
    TableColumn("number", "No.", lambda one, a: str(one.entry.number), align="right", width=60),
    TableColumn("at", "Local time", _when, width=150),
    TableColumn("by", "By", lambda one, a: one.entry.by, width=90),
    TableColumn("kind", "Kind", lambda one, a: one.entry.event.kind, width=100),
    TableColumn("what", "What", lambda one, a: one.entry.event.what, width=360, stretch=True),
)


class LogView(QWidget):
    """The entries, the latest first, and what can be done with the log."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self.busy = Busy(session, self)
        self._entries: list[LogEntry] = []
        self._read_of: tuple[Path, int] | None = None
        session.log.written.connect(self._written)
        self._make_controls()
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.empty_words = (
            "The log is empty. It is kept beside the job's file: save the job, and every step from then on is logged."
        )
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._show_detail())
        self._detail = label("", "small", wrap=True)
        self._lay_out()

    def _make_controls(self) -> None:
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("show only entries with …")
        self.filter.setAccessibleName("Show only entries with these words")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(lambda _: self._show_rows())
        self.verify = button("Verify", self._verify, "main", "Compare every entry and photo with its hash")
        self.merge = button("Merge another log …", self._merge, tip="A colleague's log of the same job")
        self.copy_anchor = button("Copy the anchor", self._copy_anchor, tip="The number of entries and the last hash")
        self.save = button("Save a copy …", self._save, "quiet")
        self.sign = button("Sign …", self._show_signing, "quiet", "With a key of the firm (Ed25519)")
        self._state = label("", "", wrap=True)
        self._anchor = label("", "small", wrap=True)
        self.key_words = label("", "small", wrap=True)
        self.passphrase = QLineEdit()
        self.passphrase.setEchoMode(QLineEdit.EchoMode.Password)
        self.passphrase.setPlaceholderText("passphrase of the key")
        self.passphrase.setAccessibleName("Passphrase of the key")
        self.passphrase.returnPressed.connect(self._sign)
        self.sign_now = button("Sign the log", self._sign, "main")
        self.make_key = button("Create key …", self._make_key)
        self.give_up = button("Cancel", self._hide_signing, "quiet")
        self._signing = held(
            column(
                self.key_words, row(self.passphrase, self.sign_now, self.make_key, self.give_up), spacing=SPACE.TIGHT
            )
        )
        self._signing.hide()

    def _lay_out(self) -> None:
        tools = row(self.verify, self.merge, self.copy_anchor, self.sign, self.save, None)
        layout = column(
            tools,
            self._signing,
            self.busy.line("Reading the log"),
            self._state,
            self._anchor,
            self.filter,
            self.table,
            self._detail,
            label(PROVES, "small", wrap=True),
            spacing=SPACE.HALF,
        )
        layout.setStretch(6, 1)
        self.setLayout(layout)

    # ---- what is shown ----------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Read the log again where it has grown."""
        path = self.session.log.path
        there = path is not None and path.exists()
        for part in (self.verify, self.merge, self.copy_anchor, self.sign, self.save):
            part.setEnabled(there)
        self.merge.setEnabled(path is not None)
        size = path.stat().st_size if there and path is not None else 0
        state = (path, size) if path is not None and there else None
        if state is None:
            self._entries, self._read_of = [], None
            self._state.setText("")
            self._show_rows()
        elif state != self._read_of and not self.busy.is_running:
            self._read(*state)

    def _written(self) -> None:
        if self.isVisible():
            self.show_assessment(self.session.assessment)

    def _read(self, path: Path, size: int) -> None:
        if self._read_of is None or self._read_of[0] != path:
            self._state.setText("")
        self._read_of = (path, size)

        def work(task: Task) -> Work[list[LogEntry]]:
            yield 0.0
            found: list[LogEntry] = []
            for at, entry in enumerate(entries_of(path)):
                found.append(entry)
                if at % 500 == 0:
                    yield min(0.95, at * 400 / max(1, size))
            return found

        self.busy.begin(work, self._take)

    def _take(self, entries: list[LogEntry]) -> None:
        self._entries = entries
        self._show_rows()
        path = self.session.log.path
        if path is not None and path.exists() and self._read_of != (path, path.stat().st_size):
            self.show_assessment(self.session.assessment)  # it grew while it was read

    def _show_rows(self) -> None:
        words = self.filter.text().casefold().split()
        matching = [one for one in self._entries if all(word in _searched(one) for word in words)]
        rows = [EntryRow(one.hash, one) for one in reversed(matching[-MOST_SHOWN:])]
        self.table.show_parts(rows, self.session.assessment)
        last = self._entries[-1] if self._entries else None
        shown = f" {len(rows):,} of them are shown." if len(rows) < len(self._entries) else ""
        self._anchor.setText(
            f"{count(len(self._entries), 'entry', 'entries')}, last hash {last.hash}.{shown}" if last else ""
        )
        self._show_detail()

    def _show_detail(self) -> None:
        parts = self.table.selected_parts()
        if not parts:
            self._detail.setText("")
            return
        entry: LogEntry = parts[0].entry
        names = [self.session.assessment.facts.name(one) for one in entry.event.about[:12]]
        values = [f"{name.replace('_', ' ')} {value}" for name, value in entry.event.values.items() if name != "sha256"]
        pieces = [
            "; ".join(names),
            ", ".join(values),
            f"{entry.program}, clock {entry.zone}",
            f"hash {entry.hash[:16]}…",
        ]
        self._detail.setText(" · ".join(piece for piece in pieces if piece))

    # ---- what is done -----------------------------------------------------------------------------------------------

    def _verify(self) -> None:
        self.session.log.flush()
        path, job_path = self.session.log.path, self.session.path
        if path is None or job_path is None:
            return

        def work(task: Task) -> Work[Verified]:
            yield 0.1
            return verify(path, photos=photos_beside(job_path))

        self.busy.begin(work, self._show_verified)

    def _show_verified(self, found: Verified) -> None:
        self._state.setText(verified_words(found))

    def _copy_anchor(self) -> None:
        if self._entries:
            QGuiApplication.clipboard().setText(f"{len(self._entries)} {self._entries[-1].hash}")
            self.session.notice(
                "Copied: the number of entries and the last hash. Keep them where nobody can change them."
            )

    def _merge(self) -> None:
        path = self.session.log.path
        other = None if path is None else self.asker.open_file("Another log of this job", (LOG_FILE,))
        if other is None or path is None:
            return
        self.session.log.flush()
        by = self.session.person

        def work(task: Task) -> Work[tuple[LogEntry | None, list[LogEntry]]]:
            yield 0.1
            return merge(path, other, datetime.now().astimezone(), by, PROGRAM), list(entries_of(other))

        def take(read: tuple[LogEntry | None, list[LogEntry]]) -> None:
            entry, entries = read
            self.session.notice(entry.event.what if entry else f"This log already contains everything in {other.name}")
            self.show_assessment(self.session.assessment)
            # A log only tells; what it tells of tests, walks and snags goes into the job, as far as that is wanted.
            self.session.results_brought.emit(entries, other)

        self.busy.begin(work, take)

    def _save(self) -> None:
        path = self.session.log.path
        if path is None:
            return
        self.session.log.flush()
        target = file_to_write(self.asker, "Save a copy of the log", LOG_FILE, self.session.beside(" log copy.jsonl"))
        if target is not None:
            self._with_errors_shown(lambda: export(self.session, target, read_whole(path, 2**29, WHAT)))

    # ---- signing ----------------------------------------------------------------------------------------------------

    @property
    def key_path(self) -> Path:
        """Where the firm's key is kept on this computer."""
        return self.session.config_folder / "firm-key.pem"

    def _show_signing(self) -> None:
        there = self.key_path.exists()
        self.key_words.setText(
            "The log is signed in its present state; later changes can be detected with the firm's key."
            if there
            else "There is no key of the firm on this computer yet. Create one; its passphrase cannot be recovered."
        )
        self.sign_now.setVisible(there)
        self.make_key.setVisible(not there)
        self._signing.show()
        self.passphrase.setFocus()

    def _hide_signing(self) -> None:
        self.passphrase.clear()
        self._signing.hide()

    def _make_key(self) -> None:
        def make() -> None:
            self.key_path.parent.mkdir(parents=True, exist_ok=True)
            made = make_key(self.key_path, self.passphrase.text())
            self.session.notice(
                f"The key {made} is kept in {self.key_path}. Give this fingerprint to the person who will verify the log."
            )
            self._show_signing()

        self._with_errors_shown(make)

    def _sign(self) -> None:
        path, passphrase = self.session.log.path, self.passphrase.text()
        if path is None or not self.key_path.exists():
            return
        self.session.log.flush()
        by, key_path = self.session.person, self.key_path

        def work(task: Task) -> Work[str]:
            yield 0.1
            key = open_key(key_path, passphrase)
            sign(path, key, datetime.now().astimezone(), by, PROGRAM)
            return fingerprint(key.public_key().public_bytes_raw())

        def take(made: str) -> None:
            self._hide_signing()
            self.session.notice(f"Signed with the key {made}")
            self.show_assessment(self.session.assessment)

        self.busy.begin(work, take)

    def _with_errors_shown(self, act: Callable[[], object]) -> None:
        try:
            act()
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)


def _searched(entry: LogEntry) -> str:
    return f"{entry.event.what} {entry.event.kind} {entry.by} {entry.at:%Y-%m-%d}".casefold()


def verified_words(found: Verified) -> str:
    """What was found, in sentences."""
    lines = []
    if found.whole:
        photos = f"; {count(len(found.photos), 'photo')} unchanged" if found.photos else ""
        lines.append(f"Whole: {count(found.entries, 'entry', 'entries')} in an unbroken chain{photos}.")
    else:
        lines.append("Changed: " + "; ".join(found.troubles[:5]) + ".")
    lines += [f"Signed with the key {key}, up to entry {number:,}." for key, number in found.signers.items()]
    lines += [f"Note: {note}." for note in found.notes[:3]]
    return "\n".join(lines)
