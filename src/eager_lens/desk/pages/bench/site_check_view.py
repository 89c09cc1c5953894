"""The site check: look at every device of the job over the network, and see where plan and site differ."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QTimer
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QCheckBox, QLineEdit, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import EagerLensError
from eager_lens.core.exchange.table_out import csv_bytes, xlsx_bytes
from eager_lens.core.job.file import ENDING
from eager_lens.core.sealed.vault import open_vault, sealed_path
from eager_lens.core.site_check.readings import UTC_FORM, CheckRun, Switches
from eager_lens.core.site_check.run_file import keep_run, read_runs, runs_beside
from eager_lens.core.site_check.since import changes
from eager_lens.core.site_check.table import run_table
from eager_lens.core.site_check.take_over import local_words, take_over
from eager_lens.core.site_check.verdicts import Row, headline, rows_of
from eager_lens.core.virtual_site.faults import FAULTS
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.bench.site_here import SiteHereProcess
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, Elided, button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.onsite.check.start import Progress, checking_site, intended
from eager_lens.onsite.here import SiteHere

TABLE_FILE = FileKind("Tables", (".csv", ".xlsx"))
REFRESH_MS = 400
CAUTION = "Only on networks that you have been asked to work on. Nothing is sent before you say so."

PARTS: tuple[tuple[str, str, str], ...] = (
    ("search", "Search for cameras", "By multicast (WS-Discovery): finds what was not planned too"),
    ("sweep", "All addresses", "Goes through the whole subnet, not only the planned addresses"),
    ("log_in", "Log in", "One log-in at each device, with its noted password; never a second after a refusal"),
    ("default_passwords", "Default passwords", "Where no password is noted, the make's default, once"),
    ("stream", "Main streams", "Opens each and measures it"),
    ("substream", "Substreams", ""),
    ("clock", "Clocks", "How far each is off this computer's clock"),
    ("channels", "Channels", "What each recorder receives, where it tells that"),
    ("events", "Event ports", "Whether the recorder takes a connection where cameras send their events"),
)


class ShownRow(NamedTuple):
    """A row of the table: a verdict, and what changed since the run that it is compared with."""

    id: str
    row: Row
    since: str


def _mark(one: ShownRow) -> Mark:
    if one.row.severity is not None:
        return one.row.severity
    return "done" if one.row.asked else None


def _weight(one: ShownRow) -> str:
    if one.row.severity is not None:
        return one.row.severity.word
    return "as planned" if one.row.asked else "not looked at"


COLUMNS = (
    TableColumn("device", "Device", lambda one, a: one.row.name, width=150),
    TableColumn("weight", "Verdict", lambda one, a: _weight(one), width=112, mark=lambda one, a: _mark(one)),
    TableColumn("words", "What it means", lambda one, a: one.row.verdict, width=420),
    TableColumn("found", "Found", lambda one, a: one.row.found, width=330),
    TableColumn("planned", "Planned", lambda one, a: one.row.planned, width=330),
    TableColumn("since", "Since the earlier check", lambda one, a: one.since, width=260, stretch=True),
)


class SiteCheckView(QWidget):
    """What will be sent, what came back, and what to do with it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.asker: Asker | None = None
        self.run: CheckRun | None = None
        self.runs: list[CheckRun] = []
        self.here = SiteHereProcess(self)
        self.here.changed.connect(self._here_changed)
        self.here.failed.connect(lambda text: session.notice(text, needs=True))
        self.busy = Busy(session, self)
        self.busy.changed.connect(self._show_controls)
        self._planning = Busy(session, self)
        self._partial: Progress | None = None
        self._opened = -1
        self._rows: tuple[Assessment, CheckRun, CheckRun | None, list[Row]] | None = None
        self._make_controls()
        self._make_results()
        self._lay_out()
        self._refresh = QTimer(self, interval=REFRESH_MS)
        self._refresh.timeout.connect(self._show_partial)
        self._here_changed()
        self._show()

    # ---- parts ------------------------------------------------------------------------------------------------------

    def _make_controls(self) -> None:
        """Where, what, and how."""
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.look = button("Look at the site …", self._ask, "main", "Says first what will be sent, and where to")
        self.where = Choice()
        self.where.setAccessibleName("Which network")
        self.where.addItems(["The network of this computer", "The stand-ins on this computer"])
        self.where.currentIndexChanged.connect(lambda _: self._where_changed())
        self.parts = {name: self._part(name, words, tip) for name, words, tip in PARTS}
        self.seconds = NumberField("Seconds of each stream", "s", width=70)
        self.seconds.show_value(Switches().stream_s)
        self.seconds.typed.connect(lambda _: self._drop_question())
        self.passphrase = QLineEdit()
        self.passphrase.setEchoMode(QLineEdit.EchoMode.Password)
        self.passphrase.setAccessibleName("Passphrase of the sealed passwords")
        self.passphrase.setPlaceholderText("Passphrase of the sealed passwords")
        self._more = button("What it does", self._show_steps, "tab", "Leave parts of the check out")
        self.start_here = button(
            "Start the stand-ins here", self._start_here, tip="Every device of the job, on this computer only"
        )
        self.fault = Choice()
        self.fault.setAccessibleName("With a fault")
        self.fault.addItems(["no fault", *(fault.words for fault in FAULTS.values())])
        self.fault_at = Choice()
        self.fault_at.setAccessibleName("Fault at which camera")
        self._here_words = Elided()
        self._here_words.setProperty("role", "small")
        self._ask_words = label("", "", wrap=True)
        self.begin = button("Begin", self._begin, "main")
        self.decline = button("Not now", self._drop_question, "quiet")

    def _show_steps(self) -> None:
        self._steps.setVisible(self._more.isChecked())

    def _part(self, name: str, words: str, tip: str) -> QCheckBox:
        made = QCheckBox(words)
        made.setChecked(bool(getattr(Switches(), name)))
        made.setToolTip(tip)
        made.toggled.connect(lambda _: self._drop_question())
        return made

    def _make_results(self) -> None:
        """The table, and what can be done with it."""
        self.table = RecordTable(self.session, COLUMNS, shares_selection=False)
        self.table.empty_words = (
            "Nothing was looked at yet. On site, plug the laptop in and press “Look at the site”. To rehearse, start the "
            "stand-ins here: every device of the job, on a network that exists on this computer only."
        )
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._selected())
        self._means = label("", "small", wrap=True)
        self.take = button(
            "Take over as built",
            self._take_over,
            tip="Addresses, MAC addresses, serials, firmware, measured rates, and the proofs it gives: one step",
        )
        self.save = button("Save the table …", self._save)
        self.earlier = Choice()
        self.earlier.setAccessibleName("Compared with")
        self.earlier.currentIndexChanged.connect(lambda _: self._show())

    def _lay_out(self) -> None:
        head = row(self._words, self.look, self.take, self.save, spacing=SPACE.HALF)
        head.setStretch(0, 1)
        self._options = QWidget()
        here = row(label("Rehearse:", "small"), self.start_here, self.fault, self.fault_at, self._here_words)
        here.setStretch(4, 1)
        choices = flow(self.where, self.passphrase, label("each stream for", "small"), self.seconds, self._more)
        self._steps = QWidget()
        self._steps.setLayout(flow(*self.parts.values()))
        self._steps.hide()
        caution = label(CAUTION, "caution", wrap=True)
        self._options.setLayout(column(choices, self._steps, here, caution, spacing=SPACE.TIGHT))
        self._question = QWidget()
        answers = row(self.begin, self.decline, None)
        asked = column(label("What will be sent", "heading"), self._ask_words, answers, spacing=SPACE.TIGHT)
        self._question.setLayout(asked)
        self._question.hide()
        compare = row(label("Compared with", "small"), self.earlier, None)
        self._compare = QWidget()
        self._compare.setLayout(compare)
        layout = column(
            head,
            self._options,
            self._question,
            self.busy.line("Looking at the site"),
            self._planning.line("Looking at this computer's interfaces"),
            self._compare,
            self.table,
            self._means,
            spacing=SPACE.HALF,
        )
        layout.setStretch(6, 1)
        self.setLayout(layout)

    # ---- what is shown ----------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Follow the plan; another job has other runs."""
        if self._opened != self.session.times_opened:
            self._opened = self.session.times_opened
            self._other_job()
        names = [camera.name for camera in assessment.job.cameras]
        if [self.fault_at.itemText(at) for at in range(self.fault_at.count())] != names:
            self.fault_at.clear()
            self.fault_at.addItems(names)
        self._show()

    def _other_job(self) -> None:
        self.busy.stop()
        self.here.stop()
        self._drop_question()
        self.run, self.runs, self._rows = None, [], None
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
            self.table.show_parts([], assessment)
            self._words.setText("The site beside the plan")
        else:
            rows = self._rows_of(assessment, run)
            since = self._since(assessment, run)
            self.table.show_parts([ShownRow(one.id, one, since.get(one.id, "")) for one in rows], assessment)
            when = "" if self.busy.is_running else f"{local_words(assessment.job, run)}: "
            self._words.setText(f"{when}{headline(rows, run, self.busy.is_running)}")
        self._show_controls()
        self._selected()

    def _rows_of(self, assessment: Assessment, run: CheckRun) -> list[Row]:
        earlier = self.earlier.currentData()
        if self._rows is None or self._rows[0] is not assessment or self._rows[1] is not run:
            self._rows = (assessment, run, earlier, rows_of(assessment, run))
        return self._rows[3]

    def _since(self, assessment: Assessment, run: CheckRun) -> dict[str, str]:
        earlier = self.earlier.currentData()
        if not isinstance(earlier, CheckRun):
            return {}
        found: dict[str, list[str]] = {}
        for one in changes(assessment, earlier, run):
            found.setdefault(one.row_id, []).append(one.words)
        return {row_id: " ".join(words) for row_id, words in found.items()}

    def _show_controls(self) -> None:
        running, asking = self.busy.is_running, self._question.isVisibleTo(self)
        self.look.setVisible(not running and not asking)
        self._options.setVisible(not running)
        self.take.setVisible(self.run is not None and not running)
        self.save.setVisible(self.run is not None and not running)
        path = self._sealed()
        self.passphrase.setVisible(path is not None and self.where.currentIndex() == 0)

    def _selected(self) -> None:
        """What the selected row means, in full."""
        parts = self.table.selected_parts()
        one = parts[0] if parts else None
        text = (
            ""
            if one is None
            else f"{one.row.name}: {one.row.verdict}" + (f" Since then: {one.since}" if one.since else "")
        )
        self._means.setText(text)
        self._means.setVisible(bool(text))

    # ---- the stand-ins ----------------------------------------------------------------------------------------------

    def _start_here(self) -> None:
        if self.here.site is not None or self.here.is_starting:
            self.here.stop()
            return
        at = self.fault.currentIndex()
        faults = (
            [f"{list(FAULTS)[at - 1]}={self.fault_at.currentText()}"] if at > 0 and self.fault_at.currentText() else []
        )
        self.here.start(self.session.job, faults)

    def _here_changed(self) -> None:
        site = self.here.site
        going = site is not None or self.here.is_starting
        self.start_here.setText("Stop the stand-ins" if going else "Start the stand-ins here")
        for part in (self.fault, self.fault_at):
            part.setVisible(not going)
        self.start_here.setEnabled(site is not None or not going)
        self._here_words.setText(self._site_words(site))
        self.where.model().item(1).setEnabled(site is not None)  # type: ignore[attr-defined]
        self.where.setCurrentIndex(1 if site is not None else 0)
        self._where_changed()

    def _site_words(self, site: SiteHere | None) -> str:
        if site is None:
            return "The stand-ins are starting." if self.here.is_starting else ""
        words = [f"Running, for your own tools too: user “installer”, password “{site.password}”."]
        if site.mode == "loopback":
            words.append(
                "This account may have no network of its own, so they stand on loopback addresses (172.22.40.55 is 127.22.40.55): "
                "two on one address, MAC addresses and other subnets do not show."
            )
        else:
            words.append(f"A terminal on their network: nsenter --target {site.pid} --net bash.")
        return " ".join([*(f"Fault: {text}." for text in site.faults), *words])

    def _where_changed(self) -> None:
        self._drop_question()
        self._show_controls()

    def _target(self) -> SiteHere | None:
        return self.here.site if self.where.currentIndex() == 1 else None

    # ---- looking ----------------------------------------------------------------------------------------------------

    def switches(self) -> Switches:
        """What is ticked.

        Raises:
            RefusedInput: for a length that is not possible.
        """
        values: dict[str, object] = {name: part.isChecked() for name, part in self.parts.items()}
        return Switches.model_validate({**values, "stream_s": min(600.0, max(2.0, self.seconds.value or 5.0))})

    def _ask(self) -> None:
        """Say what will be sent, and where to, before anything is."""
        job, switches, here = self.session.job, self.switches(), self._target()

        def work(task: Task) -> Work[tuple[str, ...]]:
            yield 0.1
            return intended(job, switches, here)[1]

        self._planning.begin(work, self._show_question)

    def _show_question(self, words: tuple[str, ...]) -> None:
        self._ask_words.setText("\n".join(words))
        self._question.show()
        self._show_controls()
        self.begin.setFocus()

    def _drop_question(self) -> None:
        if self._question.isVisibleTo(self):
            self._question.hide()
            self._show_controls()

    def _sealed(self) -> Path | None:
        path = None if self.session.path is None else sealed_path(self.session.path, ENDING)
        return path if path is not None and path.exists() else None

    def _begin(self) -> None:
        job, switches, here = self.session.job, self.switches(), self._target()
        sealed, passphrase = self._sealed(), self.passphrase.text()
        self.passphrase.clear()
        self._drop_question()
        self._partial = None

        def so_far(progress: Progress) -> None:
            self._partial = progress  # taken up by the window's own timer

        def work(task: Task) -> Work[CheckRun]:
            yield 0.0
            passwords: dict[str, str] = {}
            if here is None and sealed is not None and passphrase:
                passwords = dict(open_vault(sealed, passphrase).vault.passwords)
            return (yield from checking_site(job, switches, passwords, here, so_far))

        self.busy.begin(work, self._take_run, self._stopped)
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
            switches=self.switches(),
            laptop=progress.laptop,
            arp_heard=progress.arp_heard,
            here=self._target() is not None,
            stopped=True,
            heard=progress.heard,
            read=progress.read,
        )

    def _stopped(self) -> None:
        """What was read until then stays."""
        if self._partial is not None:
            self.run = self._partial_run(self._partial)
        self._show()

    def _take_run(self, run: CheckRun) -> None:
        self.run = run
        self.runs.append(run)
        path = self.session.path
        if path is not None:
            try:
                keep_run(runs_beside(path), run)
            except EagerLensError as error:
                self.session.notice(str(error), needs=True)
        self._show_runs()
        self._show()

    # ---- what is done with it -----------------------------------------------------------------------------------------

    def _take_over(self) -> None:
        run = self.run
        if run is None:
            return
        try:
            edit = take_over(self.session.assessment, run, self.session.job.prepared_by)
        except EagerLensError as error:
            self.session.notice(str(error))
            return
        if self.session.apply(edit):
            self.session.tell_step(edit.label)

    def _save(self) -> None:
        if self.asker is None or self.run is None:
            return
        run = self.run
        path = file_to_write(self.asker, "Save the table", TABLE_FILE, self.session.beside(" site check.csv"))
        if path is not None:
            table = run_table(self._rows_of(self.session.assessment, run), run)
            self.session.export(path, xlsx_bytes([table]) if path.suffix.lower() == ".xlsx" else csv_bytes(table))

    def hideEvent(self, event: QHideEvent) -> None:
        """What will be sent is asked anew by whoever comes back."""
        self._drop_question()
        self.passphrase.clear()
