"""The commissioning plan: steps in time for one or two people, ticked off on the real bench or played on the simulated one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from datetime import datetime
from typing import NamedTuple

from PySide6.QtCore import Signal
from PySide6.QtGui import QGuiApplication, QHideEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QLineEdit, QSizePolicy, QWidget

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity, Stage
from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.edits import tick_steps, untick_steps
from eager_lens.core.job.model import Device, Job
from eager_lens.core.job.rehearsal import Tick
from eager_lens.core.runbook.commissioning import commissioning
from eager_lens.core.runbook.steps import Commissioning
from eager_lens.core.runbook.timing import Placed, duration_s, scheduled
from eager_lens.core.runbook.ways import Ways
from eager_lens.core.runbook.with_program import Effort, effort, with_program
from eager_lens.core.scan.found import Found, compared, take_over
from eager_lens.core.scan.scan_list import scan_list
from eager_lens.core.scan.scan_text import scan_table
from eager_lens.core.site_check.watch import watched
from eager_lens.core.units import count
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.bench.commissioning.time_chart import Bar, TimeChart
from eager_lens.desk.pages.bench.rehearsal.rehearser import Rehearser
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, label, row, rule
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.current_stack import Stack
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.onsite.check.watch import awaited
from eager_lens.onsite.here import SiteHere

PHASES = ("camera", "recorder", "laptop", "bridge", "network", "end")
"""In the order of the chart's colours."""

LIST_NAMES = ("Steps", "Not possible as planned")

NO_STEPS = "Add recorders or cameras and plan their addresses to see the steps here."
PLANNING = "Planning …"

PHASE_WORDS = {
    "network": "lead",
    "recorder": "recorder",
    "laptop": "laptop",
    "bridge": "bridge",
    "camera": "camera",
    "end": "end",
}


class PlanRow(NamedTuple):
    """A step in time, and how it stands."""

    id: str
    placed: Placed
    tick: Tick | None


class BlockedRow(NamedTuple):
    """Something that cannot come up as planned, why, and where it is put right."""

    id: str
    device_id: str
    why: str
    stage: Stage


class Made(NamedTuple):
    """What was worked out of a job: its commissioning, what it takes, and its schedules for one and for two people, by hand and
    with the program."""

    of: Job
    plan: Commissioning
    effort: Effort
    by_hand: tuple[list[Placed], list[Placed]]
    by_program: tuple[list[Placed], list[Placed]]


def minutes(seconds: float) -> str:
    """A time of the plan as hours and minutes."""
    whole = round(seconds / 60)
    return f"{whole // 60}:{whole % 60:02d}"


WHO = {"hand": "hand", "program": "program", "nobody": "nobody: it waits"}


def effort_words(found: Effort) -> str:
    """What the plan takes by hand, and with the program."""
    by_hand = f"By hand {minutes(found.hands_s)} h"
    if not found.program_s:
        return f"{by_hand}. None of its makes has the open protocol on out of the box, so the program sets nothing by itself."
    left, own = minutes(found.hands_left_s), minutes(found.program_s)
    return f"{by_hand}; with the program {left} h of plugging and the rest, and {own} h of its own."


def _bar(one: PlanRow) -> Bar:
    return Bar(
        one.id,
        f"{minutes(one.placed.start_s)}  {one.placed.step.title}",
        one.placed.person,
        one.placed.start_s,
        one.placed.hands_end_s,
        one.placed.end_s,
        PHASES.index(one.placed.step.phase),
        one.tick is not None,
    )


def _tick_mark(one: PlanRow) -> Mark:
    if one.tick is None:
        return None
    return "done" if one.tick.outcome == "done" else Severity.WARNING


def _tick_words(one: PlanRow) -> str:
    if one.tick is None:
        return "open"
    return f"{one.tick.outcome} {one.tick.by}".strip()


STEP_COLUMNS: tuple[TableColumn, ...] = (
    TableColumn("title", "Step", lambda one, a: one.placed.step.title, width=470),
    TableColumn("who", "Who", lambda one, a: WHO[one.placed.step.by], width=84),
    TableColumn("at", "At", lambda one, a: minutes(one.placed.start_s), unit="h:min", align="right", width=84),
    TableColumn(
        "wait", "then waits", lambda one, a: f"{one.placed.step.wait_s:.0f}", unit="s", align="right", width=78
    ),
    TableColumn(
        "tick", "On the real bench", lambda one, a: _tick_words(one), width=120, mark=lambda one, a: _tick_mark(one)
    ),
)

BLOCKED_COLUMNS: tuple[TableColumn, ...] = (
    TableColumn(
        "device", "Device", lambda one, a: a.facts.name(one.device_id), width=180, mark=lambda one, a: Severity.FAULT
    ),
    TableColumn("why", "Why it cannot be commissioned as planned", lambda one, a: one.why, width=560, stretch=True),
)


class FoundLine(QLineEdit):
    """A line for one typed result; a pasted list of several lines goes out whole instead of being run together."""

    list_pasted = Signal(str)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Paste a list, or type."""
        text = QGuiApplication.clipboard().text()
        if event.matches(QKeySequence.StandardKey.Paste) and "\n" in text.strip():
            self.list_pasted.emit(text)
        else:
            super().keyPressEvent(event)


class PlanView(QWidget):
    """Durations, time chart, the selected step in words, and the list. ``here`` gives the site of stand-ins that runs on this
    computer, if one does."""

    played = Signal()
    made_anew = Signal()
    """The plan was worked out, or is for other people."""

    def __init__(self, session: Session, rehearser: Rehearser, here: Callable[[], SiteHere | None]) -> None:
        super().__init__()
        self.session, self._rehearser, self.here = session, rehearser, here
        self.people, self.by_program = 1, False
        self.made: Made | None = None
        self._of: Job | None = None
        self._found: list[Found] = []
        self.busy = Busy(session, self)
        self.busy.stop_button.clicked.connect(self._stopped)
        session.opened.connect(self._let_go)
        self.watch = Busy(session, self)
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self._make_choices()
        self._make_lists()
        self._make_step()
        self._lay_out()
        self._show_list(0)
        self._clear(PLANNING)

    def _make_choices(self) -> None:
        """For how many people, and playing it."""
        self._choices = [
            button("One person", lambda: self.set_people(1), "choice"),
            button(
                "Two people",
                lambda: self.set_people(2),
                "choice",
                "Each person takes the next step; they share one laptop",
            ),
        ]
        self._choices[0].setChecked(True)
        self._ways = [
            button("By hand", lambda: self.set_by_program(False), "choice", "A person does every step"),
            button(
                "With the program",
                lambda: self.set_by_program(True),
                "choice",
                "Set-up, settings and registration over the network (“Set devices”); hands plug in and mount",
            ),
        ]
        self._ways[0].setChecked(True)
        self._effort_words = label("", "small", wrap=True)
        self._play = button(
            "Play on the simulated site", self._play_plan, "main", "Runs all steps, then opens the rehearsal"
        )

    def _make_lists(self) -> None:
        """Time chart, steps, and what does not come up as planned."""
        session = self.session
        self.chart = TimeChart()
        self.table = RecordTable(session, STEP_COLUMNS, shares_selection=False)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._show_step())
        self.chart.selected.connect(self.table.lead_to)
        self.blocked = RecordTable(session, BLOCKED_COLUMNS, shares_selection=False)
        self.blocked.doubleClicked.connect(lambda index: self._to_finding(index.row()))
        self._lists = Stack()
        self._lists.addWidget(self.table)
        self._lists.addWidget(self.blocked)
        self._list_tabs = [
            button(LIST_NAMES[0], lambda: self._show_list(0), "tab"),
            button(LIST_NAMES[1], lambda: self._show_list(1), "tab"),
        ]

    def _make_step(self) -> None:
        """The selected step in words, and the line for what was found."""
        self._step_words = label("", "heading", wrap=True)
        self._step_type, self._step_see = label("", "", wrap=True), label("", "", wrap=True)
        self._step_caution = label("", "caution", wrap=True)
        self.found = FoundLine()
        self.found.setPlaceholderText("Found: IP address, MAC address, serial; or paste a list")
        self.found.setAccessibleName("Found on site")
        self.found.returnPressed.connect(lambda: self.compare(self.found.text()))
        self.found.list_pasted.connect(self.compare)
        self._found_words = label("", "small", wrap=True)
        self._take = button("Apply", self._take_over)

    def _lay_out(self) -> None:
        head = row(
            self._words,
            *self._ways,
            *self._choices,
            self._play,
            self.busy.bar,
            self.busy.stop_button,
            spacing=SPACE.TIGHT,
        )
        head.setStretch(0, 1)
        self._step = QWidget()
        detail = column(
            self._step_words,
            self._step_type,
            self._step_see,
            self._step_caution,
            spacing=SPACE.TIGHT,
        )
        detail.setContentsMargins(0, SPACE.TIGHT, 0, 0)
        self._step.setLayout(detail)
        self._watch_button = button(
            "Watch",
            self._watch,
            tip="Wait until the device of the step answers on the network, tick the step, and go on with the next",
        )
        ticks = row(
            *self._list_tabs,
            self.found,
            self._watch_button,
            button("Done", lambda: self._tick("done"), tip="Tick the selected steps (Space)"),
            button("Skipped", lambda: self._tick("skipped"), "quiet"),
            button("Untick", self._untick, "quiet"),
            spacing=0,
        )
        ticks.insertSpacing(2, SPACE.FULL)
        ticks.insertSpacing(4, SPACE.HALF)
        ticks.insertSpacing(6, SPACE.HALF)
        ticks.setStretch(3, 1)
        found = row(self._found_words, self._take)
        found.setStretch(0, 1)
        self._watch_words = label("", "small", wrap=True)
        watching = row(self._watch_words, self.watch.stop_button)
        watching.setStretch(0, 1)
        self.watch.changed.connect(self._show_watch)
        # The step in words stands below the list: above it, its length would move the rows under the pointer.
        layout = column(
            head,
            self._effort_words,
            self.chart,
            rule(),
            ticks,
            watching,
            found,
            self._lists,
            self._step,
            spacing=SPACE.HALF,
        )
        layout.setStretch(7, 1)
        self.setLayout(layout)

    @property
    def placed(self) -> list[Placed]:
        """The schedule for the people selected; empty until it is worked out for the job as it is."""
        if self.made is None or not _same_plan(self.session.job, self.made.of):
            return []
        return self._by_people(self.made)[self.people - 1]

    def _by_people(self, made: Made) -> tuple[list[Placed], list[Placed]]:
        return made.by_program if self.by_program else made.by_hand

    def show_assessment(self, assessment: Assessment) -> None:
        """Work the plan out, off the window's thread, when the job has changed; ticks alone need no new plan."""
        job = assessment.job
        if self._of is not None and _same_plan(job, self._of):
            self._show()
            return
        self._of = job

        def work(task: Task) -> Work[Made]:
            yield 0.1
            plan = commissioning(assessment, lambda share: task.step(0.1 + 0.6 * share))
            way = Ways(job).between_s
            given = with_program(plan.steps)
            made = [
                scheduled(steps, people, lambda share: task.step(0.7 + 0.3 * share), way)
                for steps in (plan.steps, given)
                for people in (1, 2)
            ]
            return Made(job, plan, effort(plan.steps), (made[0], made[1]), (made[2], made[3]))

        self.busy.begin(work, self._take_plan)

    def _let_go(self) -> None:
        """Keep and show nothing of the job before."""
        self.busy.stop()
        self._found = []
        self.found.clear()
        self._clear(PLANNING)

    def _stopped(self) -> None:
        """Stopped by hand: what was asked for is forgotten, so that it can be asked for again."""
        self._clear("Planning was stopped; open this tab again to restart it")

    def _clear(self, words: str) -> None:
        self.made = self._of = None
        self._words.setText(words)
        self._show_lists([], [], words, words)
        for tab, name in zip(self._list_tabs, LIST_NAMES, strict=True):
            tab.setText(name)

    def _take_plan(self, made: Made) -> None:
        self.made = made
        self._show()
        self.made_anew.emit()

    def _show(self) -> None:
        for people, choice in enumerate(self._choices, 1):
            choice.setChecked(people == self.people)
        for is_program, choice in zip((False, True), self._ways, strict=True):
            choice.setChecked(is_program == self.by_program)
        if self.made is None or self.made.of is not self._of:  # the present job's is on its way
            return
        assessment = self.session.assessment
        ticks = {tick.step: tick for tick in assessment.job.commissioning}
        rows = [PlanRow(one.step.key, one, ticks.get(one.step.key)) for one in self.placed]
        done = sum(one.tick is not None for one in rows)
        lengths = [duration_s(placed) for placed in self._by_people(self.made)]
        self._words.setText(
            f"{count(len(rows), 'step')}, {done} ticked: {minutes(lengths[0])} h alone, {minutes(lengths[1])} h for two"
            if rows
            else "Nothing to commission yet"
        )
        self._effort_words.setText(effort_words(self.made.effort) if rows else "")
        blocked = [
            BlockedRow(f"blocked-{at}", one.device_id, one.why, one.stage)
            for at, one in enumerate(self.made.plan.blocked)
        ]
        as_planned = "Everything can be commissioned as planned." if rows else "Nothing to commission yet."
        self._show_lists(rows, blocked, NO_STEPS, as_planned)
        for tab, name, many in zip(self._list_tabs, LIST_NAMES, (len(rows), len(blocked)), strict=True):
            tab.setText(f"{name} {many}")

    def _show_lists(
        self, rows: list[PlanRow], blocked: list[BlockedRow], why_no_step: str, why_none_blocked: str
    ) -> None:
        """Fill the chart and both lists, and lead to the first open step."""
        assessment = self.session.assessment
        self.table.show_parts(rows, assessment, why_none=why_no_step)
        self.blocked.show_parts(blocked, assessment, why_none=why_none_blocked)
        self.chart.show_bars([_bar(one) for one in rows], self.people, [PHASE_WORDS[phase] for phase in PHASES])
        self._play.setEnabled(bool(rows))
        if rows and not self.table.selected_parts():
            first = next((one for one in rows if one.tick is None), rows[0])
            self.table.lead_to(first.id)
        self._show_step()

    def _show_list(self, at: int) -> None:
        self._lists.setCurrentIndex(at)
        for number, tab in enumerate(self._list_tabs):
            tab.setChecked(number == at)

    def set_by_program(self, by_program: bool) -> None:
        """Have the program do what it can, or hands do all of it."""
        self.by_program = by_program
        self._show()

    def set_people(self, people: int) -> None:
        """Schedule the steps for one person or two."""
        self.people = people
        self._show()
        self.made_anew.emit()

    # ---- the selected step -------------------------------------------------------------------------------------------

    def _selected(self) -> list[PlanRow]:
        return self.table.selected_parts()

    def _show_step(self) -> None:
        selected = self._selected()
        self._step.setVisible(bool(selected))
        self._show_found()
        if not selected:
            return
        one = selected[0]
        step = one.placed.step
        self.chart.select(one.id)
        self._step_words.setText(step.title)
        self._step_type.setText(f"Type: {step.type_in}" if step.type_in else "")
        wait = f", then wait {step.wait_s:.0f} s" if step.wait_s else ""
        self._step_see.setText(f"See: {step.see}. {step.hands_s:.0f} s by hand{wait}.")
        self._step_caution.setText(step.caution)
        for part in (self._step_type, self._step_caution):
            part.setVisible(bool(part.text()))

    def compare(self, text: str) -> None:
        """Compare results, typed or pasted, with the plan: in whatever order their words come."""
        try:
            got = scan_list(scan_table(text, "the text"))
            found = compared(self.session.job, got.answers) if got.answers else []
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)
            return
        self._found = [one for one in found if one.seen is not None]
        if not self._found:
            self.session.notice("The text contains no IP address and no MAC address", needs=True)
        elif len(self._found) == 1 and self._found[0].device is not None:
            self._told_apart(self._found[0].device)
        if got.problems:
            self.session.notice(got.problems[0], needs=True)
        self._show_found()

    def _told_apart(self, device: Device) -> None:
        """Say so when a single result is of another device than the step's."""
        selected = self._selected()
        if selected and device.id != selected[0].placed.step.device_id:
            words = f"That is {device.name}, not the device of the selected step. Check the label"
            self.session.notice(words, needs=True)

    def _show_found(self) -> None:
        found = self._found
        self._take.setVisible(any(one.device is not None for one in found))
        self._found_words.setVisible(bool(found))
        if len(found) == 1:
            one = found[0]
            name = one.device.name if one.device is not None else "No device of the job"
            self._found_words.setText(f"{name}: {one.outcome}. {one.words}")
        elif found:
            times = Counter(one.outcome for one in found)
            parts = ", ".join(f"{many} {outcome}" for outcome, many in times.items())
            self._found_words.setText(f"{count(len(found), 'answer')}: {parts}. Addresses, Compare a scan, shows each.")

    def _take_over(self) -> None:
        if self._found and self.session.attempt(lambda: take_over(self._found)):
            self._found = []
            self.found.clear()
            self._show_found()

    # ---- ticks -----------------------------------------------------------------------------------------------------

    def _show_watch(self) -> None:
        self._watch_button.setVisible(not self.watch.is_running)
        self._watch_words.setVisible(self.watch.is_running)

    def _watch(self) -> None:
        """Wait for the selected step's device, or for that of the first open step after it that the network can tell."""
        selected = self._selected()
        self._watch_from(selected[0].id if selected else "")

    def _watch_from(self, key: str) -> None:
        job, rows = self.session.job, self._rows()
        start = next((at for at, one in enumerate(rows) if one.id == key), 0)
        coming = (watched(one.placed.step, job) for one in rows[start:] if one.tick is None)
        wanted = next((one for one in coming if one is not None), None)
        if wanted is None:
            self.session.notice("No open step from here on can be recognised on the network", needs=True)
            return
        here = self.here()
        self.table.lead_to(wanted.step)

        def work(task: Task) -> Work[int]:
            return (yield from awaited(wanted, here))

        def done(address: int) -> None:
            self.session.notice(f"{wanted.device} answers at {address_text(address)}")
            self.table.lead_to(wanted.step)
            self._tick("done")
            self._watch_from(wanted.step)

        self._watch_words.setText(f"Waiting for {wanted.words}; the step ticks itself when it answers.")
        self.watch.begin(work, done)

    def hideEvent(self, event: QHideEvent) -> None:
        """Nothing is sent while nobody looks."""
        self.watch.stop()

    def _tick(self, outcome: str) -> None:
        selected = self._selected()
        if not selected:
            self.session.notice("Select steps first", needs=True)
            return
        by = "".join(word[0] for word in self.session.job.prepared_by.split(",")[0].split())[:3]
        at = datetime.now().strftime("%Y-%m-%dT%H:%M")
        kind = "done" if outcome == "done" else "skipped"
        ticks = [Tick(step=one.id, outcome="done" if kind == "done" else "skipped", by=by, at=at) for one in selected]
        if self.session.apply(tick_steps(ticks)):
            self._show()
            following = [one for one in self._rows() if one.tick is None]
            if following:
                self.table.lead_to(following[0].id)

    def _rows(self) -> list[PlanRow]:
        return [
            row for at in range(self.table.records.rowCount()) if isinstance(row := self.table.records.at(at), PlanRow)
        ]

    def _untick(self) -> None:
        if self._selected():
            self.session.apply(untick_steps([one.id for one in self._selected()]))

    def _to_finding(self, at: int) -> None:
        part = self.blocked.records.at(at)
        if isinstance(part, BlockedRow):
            self.session.go(part.stage, part.device_id)

    def _play_plan(self) -> None:
        self._rehearser.play(self.session.assessment, self.placed)
        self.played.emit()


def _same_plan(job: Job, before: Job) -> bool:
    """Whether nothing has changed that the plan comes from: all but ticks, checks and the rehearsal."""
    left_out = {
        "commissioning",
        "mounting_list",
        "mounting",
        "checks",
        "walks",
        "fill_readings",
        "snags",
        "rehearsal",
        "schedules",
        "note",
        "customer",
        "contact",
        "prepared_by",
        "site",
        "retention",
    }
    return all(getattr(job, name) is getattr(before, name) for name in Job.model_fields if name not in left_out)
