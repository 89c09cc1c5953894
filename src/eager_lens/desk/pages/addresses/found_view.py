"""What answers on the real network beside the plan: a scan list of any tool, compared and taken over."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.errors import EagerLensError
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.scan.found import Found, Outcome, ScanAnswer, compared, take_over
from eager_lens.core.scan.scan_list import scan_list
from eager_lens.core.scan.scan_text import read_scan, scan_table
from eager_lens.core.units import count
from eager_lens.desk.asking import SCAN_FILE, Asker
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

MARKS: dict[Outcome, Mark] = {
    "shared": Severity.FAULT,
    "another device": Severity.FAULT,
    "contradicted": Severity.FAULT,
    "elsewhere": Severity.WARNING,
    "by address alone": Severity.NOTE,
    "not heard": Severity.WARNING,
    "stranger": Severity.NOTE,
    "as planned": "done",
}


def _device(found: Found) -> str:
    if found.device is not None:
        return found.device.name
    return found.seen.name if found.seen is not None and found.seen.name else "not in the job"


def _seen(found: Found, name: str) -> str:
    return "–" if found.seen is None else str(getattr(found.seen, name)) or "–"


COLUMNS = (
    TableColumn("device", "Device", lambda one, a: _device(one), width=150),
    TableColumn(
        "outcome", "Outcome", lambda one, a: str(one.outcome), width=126, mark=lambda one, a: MARKS[one.outcome]
    ),
    TableColumn("planned", "Planned", lambda one, a: one.device.address if one.device else "–", width=106),
    TableColumn("found", "Found", lambda one, a: _seen(one, "address"), width=106),
    TableColumn("hardware", "MAC address", lambda one, a: _seen(one, "mac_address"), width=130),
    TableColumn("words", "Meaning", lambda one, a: one.words, width=520),
    TableColumn("serial", "Serial", lambda one, a: _seen(one, "serial"), width=100),
    TableColumn("firmware", "Firmware", lambda one, a: _seen(one, "firmware"), width=100, stretch=True),
)


class FoundView(QWidget):
    """The comparison; it follows the plan until it is closed."""

    closed = Signal()

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self.answers: tuple[ScanAnswer, ...] = ()
        self._passed_over: tuple[str, ...] = ()
        self.found: list[Found] = []
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self._means = label("", "small", wrap=True)
        self._take = button("Apply what was found", self._take_over, "main")
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.empty_words = (
            "Scan the site's network with any tool, copy its list (IP and MAC addresses) and paste it here. Each answer is "
            "matched to a device, and mismatches are marked."
        )
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._selected())
        head = row(
            self._words,
            button("Paste a scan list", self._paste),
            button("Load scan list …", self._load),
            self._take,
            button("Close", self.closed.emit, "quiet"),
            spacing=SPACE.HALF,
        )
        head.setStretch(0, 1)
        self._reading = Busy(session, self)
        layout = column(head, self._reading.line("Reading the list"), self.table, self._means, spacing=SPACE.TIGHT)
        layout.setStretch(2, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        self.setLayout(layout)
        self._show()

    def show_assessment(self, assessment: Assessment) -> None:
        """Compare again with the present plan."""
        self._compare()

    def read(self, table: RawTable) -> bool:
        """Take a list; whether it could be read."""
        try:
            got = scan_list(table)
            compared(self.session.job, got.answers)
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)
            return False
        self.answers, self._passed_over = got.answers, got.problems
        self._compare()
        return True

    def _compare(self) -> None:
        try:
            self.found = compared(self.session.job, self.answers) if self.answers else []
        except EagerLensError as error:
            self.found = []
            self.session.notice(str(error), needs=True)
        self._show()

    def _show(self) -> None:
        self.table.show_parts(self.found, self.session.assessment)
        heard = [one for one in self.found if one.seen is not None]
        self._take.setVisible(bool(heard))
        wrong = sum(MARKS[one.outcome] in (Severity.FAULT, Severity.WARNING) for one in heard)
        silent = len(self.found) - len(heard)
        alone = sum(one.outcome == "by address alone" for one in heard)
        fit = (
            f"{count(wrong, 'does', 'do')} not match"
            if wrong
            else "none contradicts the plan"
            if alone
            else "all match"
        )
        if alone:
            fit += f", {alone} by address alone"
        self._words.setText(
            f"{count(len(heard), 'answer')}: {fit}, {silent} not heard" if heard else "As found on the network"
        )
        self._selected()

    def _selected(self) -> None:
        """Tell what the selected line means, in full; with none selected, what of the list was passed over."""
        parts = self.table.selected_parts()
        passed = "; ".join(self._passed_over)
        self._means.setText(parts[0].words if parts else f"{passed}." if passed else "")

    def _paste(self) -> None:
        try:
            self.read(scan_table(QGuiApplication.clipboard().text()))
        except EagerLensError:
            self.session.notice("The clipboard has no list; copy it in your scan tool first", needs=True)

    def _load(self) -> None:
        path = self.asker.open_file("Load a scan list", (SCAN_FILE,), self.session.path)
        if path is not None:
            self.read_file(path)

    def read_file(self, path: Path) -> None:
        """Take a list from a file."""
        self._reading.read(path, read_scan, self.read)

    def _take_over(self) -> None:
        """Take the selected lines over, or all when none is selected."""
        selected = self.table.selected_parts() or self.found
        try:
            edit = take_over(selected)
        except EagerLensError as error:
            self.session.notice(str(error))
            return
        if self.session.apply(edit):
            self.session.tell_step(edit.label)
