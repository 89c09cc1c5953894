"""The site check: look at every device of the job over the network, and see where plan and site differ."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.file import ENDING
from eager_lens.core.job.model import changed
from eager_lens.core.outgoing.formats.table_out import csv_bytes, xlsx_bytes
from eager_lens.core.outgoing.site_check_table import run_table
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.records.sealed.seen import is_older
from eager_lens.core.records.sealed.vault import open_vault, sealed_path
from eager_lens.core.site_check.consequences import KeptDays, kept_days
from eager_lens.core.site_check.readings import UTC_FORM, CheckRun, Switches
from eager_lens.core.site_check.run_file import keep_run, read_runs, runs_beside
from eager_lens.core.site_check.since import changes
from eager_lens.core.site_check.take_over import local_words
from eager_lens.core.site_check.verdicts import Row, headline, rows_of
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.bench.site_check.controls import SiteCheckControls
from eager_lens.desk.pages.bench.site_check.take_over_question import TakeOverQuestion
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, held, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.writing import export
from eager_lens.onsite.check.start import Progress, checking_site, intended

TABLE_FILE = FileKind("Tables", (".csv", ".xlsx"))
REFRESH_MS = 400


NOT_YET = (
    "No check yet. On site, connect the laptop and press “Check the site”. To rehearse, start the stand-ins: all devices of "
    "the job, on a network inside this computer only."
)


class Reckoned(NamedTuple):
    """What a run means for the days that recorders keep, with the plan and since the run that it is compared with."""

    assessment: Assessment
    run: CheckRun
    earlier: CheckRun | None
    days: tuple[KeptDays, ...]
    since: dict[str, str]


class ShownRow(NamedTuple):
    """A row of the table: a verdict, and what changed since the run that it is compared with."""

    id: str
    row: Row
    since: str


def _mark(one: ShownRow) -> Mark:
    if one.row.state == "not compared":
        return None
    if one.row.severity is not None:
        return one.row.severity
    return "done" if one.row.asked else None


def _reckoned(assessment: Assessment, run: CheckRun, earlier: CheckRun | None) -> Reckoned:
    days = kept_days(assessment, run)
    found: dict[str, list[str]] = {}
    for one in changes(assessment, earlier, run, days) if earlier is not None else ():
        found.setdefault(one.row_id, []).append(one.words)
    since = {row_id: " ".join(words) for row_id, words in found.items()}
    return Reckoned(assessment, run, earlier, days, since)


COLUMNS = (
    TableColumn("device", "Device", lambda one, a: one.row.name, width=150),
    TableColumn("weight", "Verdict", lambda one, a: one.row.state, width=112, mark=lambda one, a: _mark(one)),
    TableColumn("words", "Meaning", lambda one, a: one.row.verdict, width=420),
    TableColumn("found", "Found", lambda one, a: one.row.found, width=330),
    TableColumn("planned", "Planned", lambda one, a: one.row.planned, width=330),
    TableColumn("since", "Since the previous check", lambda one, a: one.since, width=260, stretch=True),
)


class EvidenceRow(NamedTuple):
    """A figure that was read, as a row of its table."""

    id: str
    what: str
    value: str
    way: str


EVIDENCE_COLUMNS = (
    TableColumn("what", "What was read", lambda one, a: one.what, width=150),
    TableColumn("value", "Value", lambda one, a: one.value, width=400),
    TableColumn("way", "How", lambda one, a: one.way, width=190, stretch=True),
)
EVIDENCE_HIGH = 190


def _in_full(one: ShownRow) -> str:
    """The verdict, what is odd about the answers, and what changed."""
    odd = f" Not quite by the standard: {'; '.join(one.row.notes)}." if one.row.notes else ""
    since = f" Since then: {one.since}" if one.since else ""
    return f"{one.row.name}: {one.row.verdict}{odd}{since}"


class SiteCheckView(QWidget):
    """What will be sent, what came back, and what to do with it."""

    taken = Signal()
    """A run is through, and in sight."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self.run: CheckRun | None = None
        self.runs: list[CheckRun] = []
        self.controls = SiteCheckControls(session)
        self.controls.changed.connect(self._drop_question)
        self.busy = Busy(session, self)
        self.busy.changed.connect(self._show_controls)
        self.busy.changed.connect(self._over)
        self._planning = Busy(session, self)
        self._partial: Progress | None = None
        self._under_way = False
        self._only: tuple[str, ...] = ()
        self._asked = Switches()
        self._older = ""
        self._opened = -1
        self._rows: tuple[Assessment, CheckRun, list[Row]] | None = None
        self._reckoning = Busy(session, self)
        self._days: Reckoned | None = None
        self._make_controls()
        self._make_results()
        self._lay_out()
        self._refresh = QTimer(self, interval=REFRESH_MS)
        self._refresh.timeout.connect(self._show_partial)
        self._show()

    # ---- parts ------------------------------------------------------------------------------------------------------

    def _make_controls(self) -> None:
        """The head line, and what is asked before anything is sent."""
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.look = button("Check the site …", self._ask, "main", "Lists first what will be sent, and where")
        self.ask_words = label("", "", wrap=True)
        self.begin = button("Begin", self._begin, "main")
        self.decline = button("Not now", self._drop_question, "quiet")

    def _make_results(self) -> None:
        """The table, and what can be done with it."""
        self.table = RecordTable(self.session, COLUMNS, shares_selection=False)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._selected())
        self._means = label("", "small", wrap=True)
        self.evidence = RecordTable(self.session, EVIDENCE_COLUMNS, shares_selection=False)
        self.evidence.setAccessibleName("What was read of it, and how")
        self.evidence.setMaximumHeight(look.px(EVIDENCE_HIGH))
        self.take = button(
            "Take over as built …",
            self._ask_take_over,
            tip="Addresses, serials, firmware, test results and, if you choose, settings, in one step that can be undone",
        )
        self.save = button("Save the table …", self._save)
        self.earlier = Choice()
        self.earlier.setAccessibleName("Compared with")
        self.earlier.currentIndexChanged.connect(lambda _: self._show())

    def _lay_out(self) -> None:
        head = row(self._words, self.look, self.take, self.save, spacing=SPACE.HALF)
        head.setStretch(0, 1)
        self._question = QWidget()
        answers = row(self.begin, self.decline, None)
        asked = column(label("What will be sent", "heading"), self.ask_words, answers, spacing=SPACE.TIGHT)
        self._question.setLayout(asked)
        self._question.hide()
        self.taking = TakeOverQuestion(self.session, self._take_over, self._show_controls)
        compare = row(label("Compared with", "small"), self.earlier, None)
        self._compare = held(compare)
        layout = column(
            head,
            self.controls,
            self._question,
            self.busy.line("Checking the site"),
            self._planning.line("Reading this computer's interfaces"),
            self.taking,
            self._compare,
            self.table,
            self._means,
            self.evidence,
            spacing=SPACE.HALF,
        )
        layout.setStretch(7, 3)
        layout.setStretch(9, 2)
        self.setLayout(layout)

    # ---- what is shown ----------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Follow the plan; another job has other runs."""
        if self._opened != self.session.times_opened:
            self._opened = self.session.times_opened
            self._other_job()
        path = None if self.session.path is None else sealed_path(self.session.path, ENDING)
        self.controls.show_job(assessment.job, path if path is not None and path.exists() else None)
        self._show()

    def _other_job(self) -> None:
        self.busy.stop()
        self.taking.drop()
        self.controls.here.stop()
        self._drop_question()
        self._reckoning.stop()
        self.run, self.runs, self._rows, self._days = None, [], None, None
        path = self.session.path
        if path is not None:
            try:
                self.runs, problems = read_runs(runs_beside(path))
            except EagerLensError as error:
                problems = [str(error)]
            if problems:
                self.session.notice(problems[0], needs=True)
        self.run = self.runs[-1] if self.runs else None
        self._show_runs()

    def _show_runs(self) -> None:
        """The earlier runs, the latest first."""
        self.earlier.blockSignals(True)
        self.earlier.clear()
        self.earlier.addItem("nothing")
        for run in reversed([one for one in self.runs if one is not self.run]):
            self.earlier.addItem(f"the check of {local_words(self.session.job, run)}", run)
        self.earlier.blockSignals(False)
        self._compare.setVisible(self.earlier.count() > 1 and self.run is not None)

    def _show(self) -> None:
        assessment, run = self.session.assessment, self.run
        if run is None:
            self.table.show_parts([], assessment, why_none="Looking …" if self._under_way else NOT_YET)
            self._words.setText("Site and plan")
        else:
            since = self._since(assessment, run)
            rows = self._rows_of(assessment, run)
            self.table.show_parts([ShownRow(one.id, one, since.get(one.id, "")) for one in rows], assessment)
            when = "" if self._under_way else f"{local_words(assessment.job, run)}: "
            self._words.setText(f"{when}{headline(rows, run, self._under_way)}")
        self._show_controls()
        self._selected()

    def shown_rows(self) -> list[ShownRow]:
        """The rows of the table, as they stand in it."""
        records = self.table.records
        return [one for at in range(records.rowCount()) if isinstance(one := records.at(at), ShownRow)]

    def rows(self) -> list[Row]:
        """The rows of the run in sight, beside the plan as it is now; none before there is one."""
        return self._rows_of(self.session.assessment, self.run) if self.run is not None else []

    def _rows_of(self, assessment: Assessment, run: CheckRun) -> list[Row]:
        if self._rows is None or self._rows[0] is not assessment or self._rows[1] is not run:
            known = self._days
            is_of_these = known is not None and known.assessment is assessment and known.run is run
            days = known.days if known is not None and is_of_these else ()
            self._rows = (assessment, run, rows_of(assessment, run, days))
        return self._rows[2]

    def _since(self, assessment: Assessment, run: CheckRun) -> dict[str, str]:
        """What changed since the run that is compared with. That and the days follow later where they are not known yet: each
        means working the plan out some times over."""
        data = self.earlier.currentData()
        earlier = data if isinstance(data, CheckRun) else None
        known = self._days
        if known is not None and known[0] is assessment and known[1] is run and known[2] is earlier:
            return known.since
        if not run.stopped:

            def work(task: Task) -> Work[Reckoned]:
                yield 0.1
                return _reckoned(assessment, run, earlier)

            self._reckoning.begin(work, self._show_reckoned)
        return {}

    def _show_reckoned(self, found: Reckoned) -> None:
        self._days, self._rows = found, None
        if found.assessment is self.session.assessment and found.run is self.run:
            self._show()

    def _show_controls(self) -> None:
        running, asking = self.busy.is_running, self._question.isVisibleTo(self)
        self.look.setVisible(not running and not asking)
        self.controls.setVisible(not running)
        self.take.setVisible(self.run is not None and not running and not self.taking.isVisibleTo(self))
        self.save.setVisible(self.run is not None and not running)

    def _selected(self) -> None:
        """What the selected row means, in full, and what that rests on."""
        parts = self.table.selected_parts()
        one = parts[0] if parts else None
        self._means.setText("" if one is None else _in_full(one))
        self._means.setVisible(one is not None)
        self.evidence.setVisible(one is not None and bool(one.row.evidence))
        if one is not None:
            rows = [EvidenceRow(f"{at}", *each) for at, each in enumerate(one.row.evidence)]
            self.evidence.show_parts(rows, self.session.assessment)

    # ---- looking ----------------------------------------------------------------------------------------------------

    def _ask(self) -> None:
        """Say what will be sent, and where to, before anything is."""
        job, switches, here = self.session.job, self._switches(), self.controls.target()

        def work(task: Task) -> Work[tuple[str, ...]]:
            yield 0.1
            return intended(job, switches, here)

        self._planning.begin(work, self._show_question)

    def ask_for(self, ids: Sequence[str]) -> None:
        """As *Check the site*, but for these devices only."""
        if not self.busy.is_running:
            self._only = tuple(ids)
            self._ask()

    def _switches(self) -> Switches:
        return changed(self.controls.switches(), only=self._only)

    def _show_question(self, words: tuple[str, ...]) -> None:
        self.ask_words.setText("\n".join(words))
        self._question.show()
        self._show_controls()
        self.begin.setFocus()

    def _drop_question(self) -> None:
        self._only = ()
        if self._question.isVisibleTo(self):
            self._question.hide()
            self._show_controls()

    def _begin(self) -> None:
        job, switches, here = self.session.job, self._switches(), self.controls.target()
        self._asked = switches
        sealed = self.controls.taken_passphrase()
        self._drop_question()
        self._partial = None
        self._older = ""

        def so_far(progress: Progress) -> None:
            self._partial = progress  # taken up by the window's own timer

        def work(task: Task) -> Work[CheckRun]:
            yield 0.0
            passwords: dict[str, str] = {}
            if sealed is not None:
                opened = open_vault(*sealed)
                self._older = is_older(opened, self.session.config_folder)
                passwords = opened.vault.passwords
            return (yield from checking_site(job, switches, passwords, here, so_far))

        self._under_way = True
        self.busy.begin(work, self._take_run, self._stopped)
        if self.run is None:
            self._show()
        self._refresh.start()

    def _show_partial(self) -> None:
        if not self.busy.is_running:
            self._refresh.stop()
            return
        progress = self._partial
        if progress is not None:
            self._partial = None
            self.run = self._partial_run(progress)
            self._show()

    def _partial_run(self, progress: Progress) -> CheckRun:
        """What was read so far; a device that did not answer yet is no fault yet."""
        now = datetime.now(UTC).strftime(UTC_FORM)
        return CheckRun(
            at=now,
            switches=self._asked,
            laptop=progress.laptop,
            arp_heard=progress.arp_heard,
            here=self.controls.target() is not None,
            stopped=True,
            heard=progress.heard,
            read=progress.read,
        )

    def _over(self) -> None:
        """However it ended: what stands there is no longer under way."""
        if self._under_way and not self.busy.is_running:
            self._under_way = False
            self._refresh.stop()
            self._show()

    def _stopped(self) -> None:
        """What was read until then stays."""
        if self._partial is not None:
            self.run = self._partial_run(self._partial)
        self._show()

    def _take_run(self, run: CheckRun) -> None:
        self.run = run
        if self._older:
            self.session.notice(self._older, needs=True)
        self.runs.append(run)
        words = headline(self._rows_of(self.session.assessment, run), run)
        where = "the stand-ins" if run.here else "the site"
        self.session.log.note(Event("site check", f"Check {where}: {words}", values={"devices": len(run.read)}))
        path = self.session.path
        if path is not None:
            try:
                keep_run(runs_beside(path), run, path)
            except EagerLensError as error:
                self.session.notice(str(error), needs=True)
        self._show_runs()
        self._show()
        self.taken.emit()

    # ---- what is done with it -----------------------------------------------------------------------------------------

    def _ask_take_over(self) -> None:
        if self.run is not None:
            self.taking.ask(self.run)
            self._show_controls()

    def _take_over(self, edit: Edit) -> None:
        run = self.run
        if run is not None and self.session.apply(edit):
            self.session.log.note(Event("take over", edit.label, values={"run_at": run.at}))
            self.session.tell_step(edit.label)

    def _save(self) -> None:
        if self.run is None:
            return
        run = self.run
        path = file_to_write(self.asker, "Save the table", TABLE_FILE, self.session.beside(" site check.csv"))
        if path is not None:
            table = run_table(self._rows_of(self.session.assessment, run), run)
            export(self.session, path, xlsx_bytes([table]) if path.suffix.lower() == ".xlsx" else csv_bytes(table))

    def hideEvent(self, event: QHideEvent) -> None:
        """On return, what will be sent has to be confirmed again."""
        self._drop_question()
        self.taking.drop()
        self.controls.passphrase.clear()
