"""A practice in the rehearsal: the customer's words above the bench, and the account at the end."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.practice.account import Account, account_of, account_text, result_text
from eager_lens.core.practice.drill import Drill, complaint_now, drill_of
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.simulation.copies import copy_of
from eager_lens.core.units import figure
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.pages.bench.rehearsal.rehearser import Rehearser
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, emptied, held, label, scrolled
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.writing import export

RESULT_FILE = FileKind("Result of a practice", (".json",))
ASKING_MIN = 1.0


class PracticeStrip(QWidget):
    """Above the bench: what the customer says, what it has cost so far, and what can be done about it."""

    account_asked = Signal()

    def __init__(self, session: Session, rehearser: Rehearser) -> None:
        super().__init__()
        self._session, self._rehearser = session, rehearser
        self._title = label("", "heading")
        self.says = label("", "verdict", wrap=True)
        self._before = label("", "small", wrap=True)
        self._cost = label("", "small")
        self.answer = label("", wrap=True)
        actions = flow(
            button("Ask the customer", self.ask, tip=f"Ask whether it works now; takes {figure(ASKING_MIN)} min"),
            button("Find the fault", self._find, tip="With the fault finder; each test takes its time"),
            button("End the practice …", self.account_asked.emit, "main"),
            self._cost,
        )
        self.setLayout(column(self._title, self.says, self._before, actions, self.answer, spacing=SPACE.TIGHT))
        self.answer.hide()
        self._answered = ("", 0.0)

    @property
    def drill(self) -> Drill | None:
        """The practice that goes on; None while none does."""
        return drill_of(self._rehearser.practice) if self._rehearser.practice else None

    def refresh(self) -> None:
        """Show how it stands."""
        drill = self.drill
        self.setVisible(drill is not None)
        if drill is not None:
            self._title.setText(f"{drill.lesson.title}, level {drill.code.level} · {drill.code}")
            self.says.setText(drill.complaint)
            self._before.setText(drill.lesson.before)
            self._show_cost(drill)
            site = self._rehearser.site
            self.answer.setVisible(site is not None and self._answered == (str(drill.code), site.now_s))

    def _show_cost(self, drill: Drill) -> None:
        site, begun = self._rehearser.site, drill.job.rehearsal
        if site is not None and begun is not None:
            self._cost.setText(f"{figure(max(0.0, site.now_s - begun.now_s) / 60)} min so far")

    def ask(self) -> None:
        """Ask the customer whether it is right now."""
        drill, site = self.drill, self._rehearser.site
        if drill is None or site is None:
            return
        self._rehearser.pass_time(60 * ASKING_MIN)
        said = complaint_now(self._session.assessment, copy_of(site), drill)
        self.answer.setText(f"The customer now says: {said or '“It works, thank you.”'}")
        self._answered = (str(drill.code), site.now_s)
        self.refresh()

    def _find(self) -> None:
        drill = self.drill
        if drill is not None:
            self._session.fault_asked.emit([drill.camera], drill.symptom)


class PracticeAccount(QWidget):
    """The account: how it ended, what it was, what was tried, what would have been quicker, the rule."""

    left = Signal()
    another = Signal()

    def __init__(self, session: Session, rehearser: Rehearser, asker: Asker) -> None:
        super().__init__()
        self._session, self._rehearser, self.asker = session, rehearser, asker
        self.account: Account | None = None
        self._parts = column(spacing=SPACE.TIGHT)
        inner = held(column(self._parts, None))
        actions = flow(
            save := button("Save the result …", self._save, tip="Code, minutes and steps for the trainer; no names"),
            button("Copy", self._copy, "quiet"),
            button("Back", self.left.emit, "quiet"),
            button("Another practice …", self.another.emit, "main"),
        )
        self.setFocusProxy(save)
        layout = column(scrolled(inner), actions, spacing=SPACE.HALF)
        layout.setStretch(0, 1)
        self.setLayout(layout)

    def show_account(self) -> bool:
        """Work it out and show it; whether there was one."""
        site, rehearsal = self._rehearser.site, self._session.job.rehearsal
        if site is None or rehearsal is None or not rehearsal.practice:
            return False
        try:
            drill = drill_of(rehearsal.practice)
            account = account_of(self._session.assessment, copy_of(site), rehearsal, drill)
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return False
        self.account = account
        self._session.log.note(Event("practice", f"{drill.code}: {account.headline}", (drill.camera,)))
        self._draw(account)
        return True

    def _draw(self, account: Account) -> None:
        emptied(self._parts)
        drill = account.drill
        self._parts.addWidget(label(account.headline, "verdict", wrap=True))
        self._parts.addWidget(
            label(f"{drill.lesson.title}, level {drill.code.level} · {drill.code}", "small", wrap=True)
        )
        if account.still_said:
            self._parts.addWidget(label(f"The customer still says: {account.still_said}", wrap=True))
        self._section("It was", [f"{one}." for one in account.was])
        tried = [f"{figure(one.at_min)} min   {one.words}" for one in account.tried]
        self._section("What you tried", tried or ["Nothing yet."])
        self._section(
            f"Quicker way: {figure(account.quicker_min)} min of tests", [step.line for step in account.quicker]
        )
        self._section("To remember", [drill.lesson.rule])

    def _section(self, heading: str, lines: list[str]) -> None:
        self._parts.addSpacing(SPACE.HALF)
        self._parts.addWidget(label(heading, "heading"))
        for line in lines:
            self._parts.addWidget(label(line, wrap=True))

    def _copy(self) -> None:
        if self.account is not None:
            QGuiApplication.clipboard().setText(account_text(self.account))
            self._session.notice("The account is on the clipboard")

    def _save(self) -> None:
        if self.account is None:
            return
        proposed = self._session.beside(f" {self.account.drill.code}.json")
        path = file_to_write(self.asker, "Save the result", RESULT_FILE, proposed)
        if path is not None:
            export(self._session, path, result_text([self.account]).encode())
