"""The figures behind the fault finder, and those that this job has otherwise: how often, how long, how likely."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any, NamedTuple

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.fault_finder.own_figures import USUAL, own_at, own_table, table_of, with_chance
from eager_lens.core.fault_finder.table import GROUP, Cause, FaultTable, usual_table
from eager_lens.core.job.edits import Edit, set_fault_figures
from eager_lens.core.job.fault_figures import FaultFigure, FigureKind
from eager_lens.core.job.fields import number_from
from eager_lens.core.job.model import Job, changed
from eager_lens.core.plain_text import inside, sentence_case
from eager_lens.core.units import count, figure
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.current_stack import CurrentStack
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

SHARES, MINUTES, CHANCES = range(3)
PLACES = {
    "address": "its address",
    "mac": "its MAC address",
    "device": "the device",
    "rate_mbps": "what is",
    "port": "of this device",
    "channel": "of this device",
    "laptop": "an address of its subnet",
    "stream": "its stream",
    "other_port": "one that is known to be good",
}
"""What stands for the names of a job where no device is meant."""


class FigureRow(NamedTuple):
    """A figure as it is now and in the program's table.

    Attributes:
        place: where it stands. what, of: in words. values, usual: now, and by the table. outcome: which of them is this row's.
        reason: the table's, or the job's own.
    """

    id: str
    place: tuple[FigureKind, str, str]
    what: str
    of: str
    values: tuple[float, ...]
    usual: tuple[float, ...]
    outcome: int
    reason: str
    is_own: bool


def _shown(row: FigureRow, values: Sequence[float]) -> str:
    if not values:
        return "–"
    return figure(values[row.outcome] * (100 if row.place[0] == "chances" else 1), 3)


def _edit_value(rows: Sequence[FigureRow], text: str, job: Job) -> Edit:
    value = number_from(text)
    own = own_at(job)
    new: dict[tuple[str, str, str], FaultFigure] = {}
    for one in rows:
        if one.place[0] == "chances":
            before = new[one.place].values if one.place in new else one.values
            values = with_chance(before, one.outcome, value / 100)
        elif value <= 0:
            raise RefusedInput(one.what, f"{text.strip()!r} was given; enter more than 0")
        else:
            values = (value,)
        kind, of, under = one.place
        why = own[one.place].why if one.place in own else ""
        new[one.place] = FaultFigure.model_validate(
            {"kind": kind, "id": of, "under": under, "values": values, "why": why}
        )
    what = {"share": "the share of", "minutes": "the minutes of", "chances": "a chance under"}[rows[0].place[0]]
    return set_fault_figures(f"Set {what} {inside(rows[0].what)[:60]}", list(new.values()))


def _edit_reason(rows: Sequence[FigureRow], text: str, job: Job) -> Edit:
    own = own_at(job)
    figures = [changed(own[row.place], why=text.strip()) for row in rows if row.place in own]
    if not figures:
        raise RefusedInput("reason", "set the figure first; the built-in figure has its reason already")
    return set_fault_figures("Give a reason", figures)


def _mark(row: FigureRow, assessment: Assessment) -> Mark:
    return "done" if row.is_own else None


def _columns(what: str, of: str, value: str, unit: str) -> tuple[TableColumn, ...]:
    first = TableColumn("what", what, lambda row, a: row.what, width=230)
    second = [TableColumn("of", of, lambda row, a: row.of, width=150)] if of else []
    return (
        first,
        *second,
        TableColumn(
            "value",
            value,
            lambda row, a: _shown(row, row.values),
            _edit_value,
            unit=unit,
            align="right",
            width=92,
            mark=_mark,
        ),
        TableColumn("table", "Built in", lambda row, a: _shown(row, row.usual), unit=unit, align="right", width=104),
        TableColumn("reason", "Reason", lambda row, a: row.reason, _edit_reason, width=200, stretch=True),
    )


class FaultFiguresView(QWidget):
    """Three tables of figures; what is typed holds for this job only, and can go back to the table's own."""

    left = Signal()
    """Somebody wants back to the search."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.symptom, self.test = Choice(), Choice()
        self.symptom.setAccessibleName("Symptom")
        self.test.setAccessibleName("Test")
        for symptom in usual_table().symptoms:
            self.symptom.addItem(symptom.label, symptom.id)
        for test in usual_table().tests:
            self.test.addItem(_plain(test.ask), test.id)
        self.test.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.test.setMinimumContentsLength(40)
        for one in (self.symptom, self.test):
            one.currentIndexChanged.connect(lambda _: self.show_assessment(self.session.assessment))
        self.tables = [
            RecordTable(session, _columns("Cause", "", "Share", ""), shares_selection=False),
            RecordTable(session, _columns("Test", "", "Takes", "min"), shares_selection=False),
            RecordTable(session, _columns("Under", "Outcome", "Chance", "%"), shares_selection=False),
        ]
        self._tabs = [
            button(words, partial(self.show_table, at), "tab")
            for at, words in enumerate(("How often", "How long", "What a test shows"))
        ]
        self._stack = CurrentStack()
        for table in self.tables:
            self._stack.addWidget(table)
        self._left_out = label("", "need", wrap=True)
        self._words = label("", "small", wrap=True)
        actions = flow(
            *self._tabs,
            self.symptom,
            self.test,
            None,
        )
        head = row(
            label("Figures of the fault finder", "heading"),
            None,
            button("Reset selected", self._back, "quiet", "Use the built-in figure again"),
            button("Back to the search", self.left.emit, "main"),
        )
        layout = column(head, actions, self._words, self._left_out, self._stack)
        layout.setSpacing(SPACE.HALF)
        layout.setStretch(4, 1)
        self.setLayout(layout)
        self.show_table(SHARES)

    def show_table(self, at: int) -> None:
        """Bring one of the three into sight."""
        self._stack.setCurrentIndex(at)
        for number, tab in enumerate(self._tabs):
            tab.setChecked(number == at)
        self.symptom.setVisible(at == SHARES)
        self.test.setVisible(at == CHANCES)
        self.show_assessment(self.session.assessment)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the table in sight."""
        job = assessment.job
        at = self._stack.currentIndex()
        table = table_of(job)
        if at == SHARES:
            rows = _share_rows(table, job, str(self.symptom.currentData()))
        elif at == MINUTES:
            rows = _minute_rows(table, job)
        else:
            rows = _chance_rows(table, job, str(self.test.currentData()))
        self.tables[at].show_parts(rows, assessment)
        many = len(job.fault_figures)
        own = f"{count(many, 'own figure')} of this job, ticked." if many else "This job has no own figures yet."
        self._words.setText(f"{WORDS[at]} Type over a figure to change it for this job. {own}")
        left_out = own_table(job.fault_figures).left_out
        self._left_out.setText(f"Ignored, because it does not match the table: {'; '.join(left_out[:3])}.")
        self._left_out.setVisible(bool(left_out))

    def _back(self) -> None:
        rows: list[FigureRow] = [row for row in self.tables[self._stack.currentIndex()].selected_parts() if row.is_own]
        if not rows:
            self.session.notice("Select a ticked figure first; only those belong to this job", needs=True)
            return
        self.session.apply(set_fault_figures("Reset to the built-in figures", (), {row.place for row in rows}))


WORDS = (
    "How often each cause is behind this symptom; only the proportions count.",
    "How long a test takes, including the walk. The next test is the one that tells most per minute.",
    "How likely each outcome is with a cause; the others are adjusted so that all add up to 100 %.",
)


def _row(
    job: Job,
    place: tuple[FigureKind, str, str],
    words: tuple[str, str],
    now: tuple[float, ...],
    usual: Any,
    outcome: int,
    why: str,
) -> FigureRow:
    own = own_at(job).get(place)
    reason = (own.why or "– type the reason") if own is not None else why
    return FigureRow(
        ":".join((*place, str(outcome))), place, *words, now, tuple(usual), outcome, reason, own is not None
    )


def _share_rows(table: FaultTable, job: Job, symptom: str) -> list[FigureRow]:
    def row(cause: Cause) -> FigureRow:
        usual = usual_table().cause(cause.id).priors.get(symptom)
        now = cause.priors[symptom]
        place: tuple[FigureKind, str, str] = ("share", cause.id, symptom)
        return _row(job, place, (cause.label, ""), (now,), () if usual is None else (usual,), 0, cause.why)

    causes = [cause for cause in table.causes if symptom in cause.priors]
    return [row(cause) for cause in sorted(causes, key=lambda one: -one.priors[symptom])]


def _minute_rows(table: FaultTable, job: Job) -> list[FigureRow]:
    usual = {test.id: test.minutes for test in usual_table().tests}
    return [
        _row(job, ("minutes", test.id, ""), (_plain(test.ask), ""), (test.minutes,), (usual[test.id],), 0, test.why)
        for test in table.tests
    ]


def _chance_rows(table: FaultTable, job: Job, test_id: str) -> list[FigureRow]:
    test, own = table.test(test_id), usual_table().test(test_id)
    labels = {cause.id: cause.label for cause in table.causes}
    labels |= {f"{GROUP}{name}": ", ".join(inside(labels[one]) for one in ids) for name, ids in table.groups.items()}
    labels[USUAL] = "Any other cause"
    rows = {**test.under, USUAL: test.usual}
    usual = {**own.under, USUAL: own.usual}
    return [
        _row(
            job,
            ("chances", test_id, under),
            (labels[under], _plain(outcome)),
            chances,
            usual.get(under, ()),
            at,
            test.why,
        )
        for under, chances in rows.items()
        for at, outcome in enumerate(test.outcomes)
    ]


class _InWords(dict[str, str]):
    def __missing__(self, name: str) -> str:
        return f"the {name.replace('_', ' ')}"


def _plain(text: str) -> str:
    """A text of the table where no device is known."""
    return sentence_case(text.format_map(_InWords(PLACES)))
