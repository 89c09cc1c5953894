"""The snags: what is still to be put right, by whom, by when, and what became of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date

from PySide6.QtWidgets import QLineEdit, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.model import Job
from eager_lens.core.job.proof import Snag
from eager_lens.core.job.proving import close_snags, open_snag, remove_snags, reopen_snags, set_snags
from eager_lens.core.recording.typed_dates import date_from
from eager_lens.core.records.acceptance.recording import device_name
from eager_lens.core.reference.acceptance import SITE
from eager_lens.core.units import count
from eager_lens.desk.pages.proof.acceptance_view import now_text
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

SHOWN = ("Open snags", "All snags")


def _mark(snag: Snag, assessment: Assessment) -> Mark:
    if snag.state != "open":
        return "done"
    return Severity.FAULT if snag.due is not None and snag.due < date.today() else Severity.WARNING


def _due(snag: Snag, assessment: Assessment) -> str:
    if snag.due is None:
        return ""
    late = (date.today() - snag.due).days
    return snag.due.isoformat() + (f", {count(late, 'day')} late" if snag.state == "open" and late > 0 else "")


def _edit(name: str, heading: str) -> Callable[[Sequence[Snag], str, Job], Edit]:
    def make(snags: Sequence[Snag], text: str, job: Job) -> Edit:
        return set_snags(
            (snag.id for snag in snags), f"Set {heading} of {count(len(snags), 'snag')}", **{name: text.strip()}
        )

    return make


def _edit_due(snags: Sequence[Snag], text: str, job: Job) -> Edit:
    due = date_from(text.partition(",")[0].strip(), "Due") if text.strip() else None
    return set_snags((snag.id for snag in snags), f"Set the due date of {count(len(snags), 'snag')}", due=due)


COLUMNS = (
    TableColumn("device", "Device", lambda one, a: device_name(one.device, a), width=136, mark=_mark),
    TableColumn(
        "text", "What is wrong", lambda one, a: one.text, _edit("text", "the text"), width=230, one_by_one=True
    ),
    TableColumn("owner", "Owner", lambda one, a: one.owner, _edit("owner", "the owner"), width=84),
    TableColumn("due", "Due", _due, _edit_due, width=92),
    TableColumn("state", "State", lambda one, a: one.state, width=72),
    TableColumn(
        "outcome",
        "What was done, or why it is accepted",
        lambda one, a: one.outcome,
        _edit("outcome", "the outcome"),
        width=260,
    ),
    TableColumn("opened", "Opened", lambda one, a: f"{one.opened_at[:10]} {one.opened_by}".strip(), width=130),
    TableColumn(
        "closed", "Closed", lambda one, a: f"{one.closed_at[:10]} {one.closed_by}".strip(), width=130, stretch=True
    ),
)


class SnagsView(QWidget):
    """The list, a line to add one, and the ways to close them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.shown = Choice()
        self.shown.setAccessibleName("Which snags are shown")
        self.shown.addItems(SHOWN)
        self.shown.currentIndexChanged.connect(lambda _: self.show_assessment(session.assessment))
        self.device = Choice()
        self.device.setAccessibleName("Device of the new snag")
        self.device.setMaximumWidth(260)
        self.text = QLineEdit()
        self.text.setPlaceholderText("what is wrong")
        self.text.setAccessibleName("What is wrong")
        self.text.setMaxLength(2000)
        self.text.returnPressed.connect(self._add)
        self.add = button("Add a snag", self._add)
        self.outcome = QLineEdit()
        self.outcome.setPlaceholderText("what was done, or why it is accepted")
        self.outcome.setAccessibleName("What was done, or why it is accepted as it is")
        self.outcome.setMaxLength(2000)
        self.put_right = button("Put right", lambda: self._close("put right"), "main")
        self.accept = button(
            "Accept", lambda: self._close("accepted"), tip="With a reason and the name of the person who accepts it"
        )
        self.reopen = button("Reopen", self._reopen, "quiet")
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.empty_words = (
            "No open snags. A failed acceptance test adds one by itself; add other open points above."
        )
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._show_buttons())
        self.table.delete_asked.connect(self._remove)
        new = row(self.shown, self.device, self.text, self.add)
        new.setStretch(2, 1)
        closing = row(self.outcome, self.put_right, self.accept, self.reopen)
        closing.setStretch(0, 1)
        note = label(
            "The snag of a failed test closes when the test passes. It can also be accepted, with name and reason.",
            "small",
            wrap=True,
        )
        layout = column(new, self.table, closing, note, spacing=SPACE.HALF)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the list: open ones first, the earliest due first."""
        everything = self.shown.currentIndex() == 1
        snags = [snag for snag in assessment.job.snags if everything or snag.state == "open"]
        snags.sort(key=lambda snag: (snag.state != "open", snag.due or date.max))
        self.table.show_parts(snags, assessment)
        self._show_devices(assessment)
        self._show_buttons()

    def _show_devices(self, assessment: Assessment) -> None:
        self.device.offer([(SITE, "Whole site"), *((device.id, device.name) for device in assessment.facts.devices)])

    def _show_buttons(self) -> None:
        snags: list[Snag] = self.table.selected_parts()
        still_open = any(snag.state == "open" for snag in snags)
        for part in (self.outcome, self.put_right, self.accept):
            part.setVisible(still_open)
        self.reopen.setVisible(bool(snags) and not still_open)

    def _add(self) -> None:
        text = self.text.text().strip()
        if not text:
            self.session.notice("Enter what is wrong first, then add the snag.")
            self.text.setFocus()
            return
        device = str(self.device.currentData() or SITE)
        if self.session.attempt(lambda: open_snag(device, text, self.session.person, now_text())):
            self.text.clear()

    def _close(self, state: str) -> None:
        ids = [snag.id for snag in self.table.selected_parts() if snag.state == "open"]
        said = self.outcome.text().strip()
        if ids and self.session.apply(close_snags(ids, state, said, self.session.person, now_text())):
            self.outcome.clear()

    def _reopen(self) -> None:
        self.session.apply(reopen_snags([snag.id for snag in self.table.selected_parts()]))

    def _remove(self, snags: Sequence[Snag]) -> None:
        self.session.apply(remove_snags([snag.id for snag in snags]))
