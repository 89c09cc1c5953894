"""The cards of findings, and the stack that they lie in: a card stays as long as what it says does."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QFrame, QLayout, QLineEdit, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Finding
from eager_lens.core.assess.rules.handover import FAILED_CHECK
from eager_lens.core.job.accepting import accept, take_back
from eager_lens.core.options.remedies.choices import may_have_remedies, remedies
from eager_lens.desk.background import waited_for
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import ButtonKind, button, column, emptied, label, row, rule
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.marks import Mark
from eager_lens.desk.widgets.plain_words import set_tip
from eager_lens.desk.widgets.reading_order import keys_in_order


class CardStack(QWidget):
    """Cards one below the other. To make thirty anew and style them takes as long as all else in sight, so a card whose key
    was there before stays as it is: with its choices, and with the keyboard."""

    def __init__(self) -> None:
        super().__init__()
        self._cards: dict[Hashable, QWidget] = {}
        self._column = column(spacing=0)
        self.setLayout(column(self._column, None, spacing=0))

    def hold(self, wanted: Mapping[Hashable, Callable[[], QWidget]]) -> bool:
        """Show cards in this order, each made if it is not there yet; whether that are others than before."""
        if list(wanted) == list(self._cards):
            return False
        while self._column.count():
            self._column.takeAt(0)
        before, self._cards = self._cards, {}
        for key, make in wanted.items():
            card = before.pop(key, None)
            self._cards[key] = card if card is not None else make()
            self._column.addWidget(self._cards[key])
        for gone in before.values():
            gone.hide()
            gone.deleteLater()
        return True

    def card(self, key: Hashable) -> QWidget:
        """The card of a key that is shown."""
        return self._cards[key]

    def count(self) -> int:
        """How many there are."""
        return len(self._cards)

    def at(self, place: int) -> QWidget:
        """The card at a place, from 0 at the top."""
        return list(self._cards.values())[place]


class _Card(QFrame):
    """A mark, words beside it, and a hairline below."""

    def __init__(self, mark: Mark, words: QLayout, edge: int) -> None:
        super().__init__()
        inside = row(mark, words, spacing=SPACE.HALF)
        inside.setAlignment(mark, Qt.AlignmentFlag.AlignTop)
        inside.setStretch(1, 1)
        inside.setContentsMargins(SPACE.FULL, edge, SPACE.HALF, edge)
        self.setLayout(column(inside, rule(), spacing=0))


class FindingCard(_Card):
    """One finding: what, why it matters here, what to do, and a button where one edit does it."""

    def __init__(self, finding: Finding, session: Session) -> None:
        words = column(
            label(finding.title, "heading", wrap=True),
            label(finding.why, wrap=True),
            label(finding.action, "muted", wrap=True),
            spacing=SPACE.TIGHT,
        )
        super().__init__(Mark(finding.severity), words, SPACE.HALF + 2)
        self._finding, self._session = finding, session
        self._worked_out_on: Assessment | None = None
        self._choices = column(spacing=SPACE.HALF)
        words.addLayout(self._buttons())
        if finding.fix is not None and finding.fix.label != finding.button_words:
            words.addWidget(label(finding.fix.label, "small", wrap=True))
        words.addLayout(self._choices)

    def renew(self, finding: Finding) -> None:
        """The same finding in the job of now: what its buttons do goes by it, and choices of before are put away."""
        self._finding = finding
        if self._worked_out_on is not None and self._worked_out_on is not self._session.assessment:
            self._put_away()

    def _apply_fix(self) -> None:
        if self._finding.fix is not None:
            self._session.apply(self._finding.fix)

    def _buttons(self) -> QLayout:
        finding, session = self._finding, self._session
        buttons = flow(spacing=SPACE.HALF)
        if finding.fix is not None:
            buttons.addWidget(button(finding.button_words, self._apply_fix, "main", tip=finding.fix.label))
        if finding.subjects:
            kind: ButtonKind = "plain" if finding.fix is None else "quiet"
            buttons.addWidget(button("Show", lambda: _show(self._finding, session), kind))
        if finding.set_at is not None:
            place = finding.set_at
            buttons.addWidget(button(f"Go to {place.words}", lambda: session.go(place.stage, place.field)))
        if may_have_remedies(finding):
            tip = "Options, with the effect of each"
            buttons.addWidget(button("Choices", self._show_choices, "quiet", tip=tip))
        at_fault = [one for one in finding.subjects if one in session.assessment.facts.by_device_id][:1]
        if at_fault:
            find = QAction("Find the fault", self)
            find.triggered.connect(lambda: session.fault_asked.emit(at_fault, ""))
            self.addAction(find)
            self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
            if finding.kind == FAILED_CHECK:
                buttons.addWidget(button("Find the fault", find.trigger, "quiet"))
        buttons.addWidget(button("Accept …", self._ask_why, "quiet", tip="Mark as intended …"))
        return buttons

    def _put_away(self) -> None:
        self._worked_out_on = None
        emptied(self._choices)

    def _ask_why(self) -> None:
        """Ask for the reason why it is meant so; pressed again, put the question away."""
        had = self._choices.count()
        self._put_away()
        if had:
            return
        why = QLineEdit()
        why.setPlaceholderText("reason")
        why.setAccessibleName("Reason why it is intended")
        why.setMaxLength(200)
        finding, session = self._finding, self._session

        def take() -> None:
            session.apply(accept(finding.code, finding.subjects, finding.title, why.text()))

        why.returnPressed.connect(take)
        self._choices.addLayout(row(why, button("Accept", take)))
        why.setFocus()

    def _show_choices(self) -> None:
        """Work the ways out out, and show each with what it changes and a button; pressed again, put them away."""
        if self._choices.count():
            self._put_away()
            return
        finding, session = self._finding, self._session
        assessment = self._worked_out_on = session.assessment
        found = waited_for(lambda: remedies(finding, assessment), "Calculating the options…")
        for remedy in found:
            self._choices.addWidget(rule())
            self._choices.addWidget(label(remedy.edit.label, "heading", wrap=True))
            for line in remedy.changes:
                self._choices.addWidget(label(line, "small", wrap=True))
            edit = remedy.edit
            do_it = button("Apply", lambda edit=edit: session.apply(edit), tip=edit.label)  # type: ignore[misc]
            do_it.setAccessibleName(f"Apply: {edit.label}")
            self._choices.addLayout(row(do_it, None))
        if not found:
            words = "No other option solves this without a new fault; the text above says what to do by hand."
            self._choices.addWidget(label(words, "small", wrap=True))
        keys_in_order(self)


class AcceptedCard(_Card):
    """A finding that somebody says is meant so, the reason, and a button that shows it again."""

    def __init__(self, finding: Finding, why: str, session: Session) -> None:
        back = take_back(finding.code, finding.subjects, finding.title)
        again = button("Show again", lambda: session.apply(back), "quiet")
        again.setAccessibleName(back.label)
        reason = label(why or "no reason given", "small", wrap=True)
        words = column(label(finding.title, "muted", wrap=True), reason, row(again, None), spacing=SPACE.TIGHT)
        mark = Mark(None)
        set_tip(mark, "accepted")
        super().__init__(mark, words, SPACE.TIGHT)


def _show(finding: Finding, session: Session) -> None:
    """Lead to the first that a finding is about, and select all of them."""
    session.go(finding.stage, finding.subjects[0])
    devices = session.assessment.facts.by_device_id
    about = [subject for subject in finding.subjects if subject in devices]
    if len(about) > 1:
        session.select(about)
