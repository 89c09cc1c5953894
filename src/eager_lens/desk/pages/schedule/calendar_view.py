"""A calendar before it is taken in: each event with what it could become, a choice for each, then one step."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.incoming.calendars.reading import CalendarRow
from eager_lens.core.incoming.calendars.taking import KNOWN, LEFT_OUT, NEW, choices, proposals, taking
from eager_lens.core.incoming.calendars.wording import when_words
from eager_lens.core.job.model import Job
from eager_lens.core.units import count
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.choice_table import ChoiceTable, no_edit
from eager_lens.desk.widgets.record_model import Mark, TableColumn

ANY = "any schedule"
KIND_WORDS = {
    "schedule": "schedule",
    "weekly hours": "weekly hours",
    "hours for a time": "hours on dates",
    "dates": "whole days",
    "nothing": "not usable",
}


class CalendarView(QWidget):
    """The events of a calendar, until they are taken in or given up. ``left`` is called then."""

    def __init__(self, session: Session, left: Callable[[], object]) -> None:
        super().__init__()
        self.session = session
        self._left = left
        self._name = ""
        self._rows: tuple[CalendarRow, ...] = ()
        self.chosen: dict[str, str] = {}
        self._words = label("", "verdict", wrap=True)
        self.base = Choice()
        self.base.setAccessibleName("Exceptions replace")
        self.table = ChoiceTable(session, self._columns(), self._choose)
        self._note = label("", "small", wrap=True)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._show_note())
        self._import = button("", self._take, "main")
        layout = column(
            self._words,
            label(
                "Select under Becomes what each event means; with several rows selected, one choice applies to all.",
                "small",
                wrap=True,
            ),
            row(label("Exceptions replace"), self.base, None),
            self.table,
            self._note,
            row(None, button("Cancel", left), self._import),
            spacing=SPACE.HALF,
        )
        layout.setStretch(3, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        self.setLayout(layout)

    def _columns(self) -> tuple[TableColumn, ...]:
        return (
            TableColumn("name", "Event", lambda one, a: one.name, width=156),
            TableColumn("kind", "Type", lambda one, a: KIND_WORDS[one.kind], width=108),
            TableColumn("when", "When", lambda one, a: when_words(one), width=200),
            TableColumn(
                "becomes",
                "Becomes",
                lambda one, a: self._becomes(one, a.job),
                no_edit,
                lambda one, job: [_shown(choice, one, job) for choice in choices(one, job)],
                width=150,
                mark=lambda one, a: self._mark(one),
            ),
            TableColumn("note", "Note", lambda one, a: one.note, width=150, stretch=True),
        )

    def show_rows(self, rows: Sequence[CalendarRow], path: Path, base: str) -> None:
        """Show a calendar's events with what is proposed for each."""
        job = self.session.job
        self._rows, self._name = tuple(rows), path.stem
        self.chosen = proposals(self._rows, job)
        self.base.offer([("", ANY), *((schedule.id, schedule.name[:40]) for schedule in job.schedules)], base)
        self._show()
        self.table.setFocus()

    def _show(self) -> None:
        self.table.show_parts(self._rows, self.session.assessment)
        taken = sum(choice not in (LEFT_OUT, KNOWN) for choice in self.chosen.values())
        known = sum(choice == KNOWN for choice in self.chosen.values())
        parts = [f"{count(taken, 'event')} of {len(self._rows)} will be imported"]
        if known:
            parts.append(f"{known} in the job already")
        if left_out := len(self._rows) - taken - known:
            parts.append(f"{left_out} left out")
        self._words.setText("; ".join(parts))
        self._import.setText(f"Import {count(taken, 'event')}" if taken else "Nothing to import")
        self._import.setEnabled(taken > 0)
        self._show_note()

    def _show_note(self) -> None:
        parts = self.table.selected_parts()
        self._note.setText(f"{parts[0].name}: {parts[0].note or when_words(parts[0])}" if parts else "")

    def _becomes(self, one: CalendarRow, job: Job) -> str:
        return _shown(self.chosen.get(one.id, LEFT_OUT), one, job)

    def _mark(self, one: CalendarRow) -> Mark:
        return None if self.chosen.get(one.id, LEFT_OUT) == LEFT_OUT else "done"

    def _choose(self, rows: Sequence[CalendarRow], text: str) -> bool:
        """Give rows what was selected, those of them that may have it."""
        job = self.session.job
        given = 0
        for one in rows:
            choice = next((each for each in choices(one, job) if _shown(each, one, job) == text), None)
            if choice is not None:
                self.chosen[one.id] = choice
                given += 1
        if given < len(rows):
            self.session.notice(
                f"{count(len(rows) - given, 'event')} cannot be “{text}” and stay unchanged", needs=True
            )
        self._show()
        return given > 0

    def _take(self) -> None:
        edit = taking(self._rows, self.chosen, self._name, str(self.base.currentData() or ""))
        if self.session.apply(edit):
            self.session.tell_step(edit.label)
            self._left()

    def show_assessment(self, assessment: Assessment) -> None:
        """Schedules may come and go while it stands there."""
        if self._rows:
            ids = {schedule.id for schedule in assessment.job.schedules}
            for row_id, choice in self.chosen.items():
                if choice not in (LEFT_OUT, NEW, KNOWN) and choice not in ids:
                    self.chosen[row_id] = LEFT_OUT
            self._show()


def _shown(choice: str, one: CalendarRow, job: Job) -> str:
    """A choice in words."""
    if choice == NEW:
        return f"new schedule “{one.schedule[:40]}”" if one.schedule else NEW
    if choice in (LEFT_OUT, KNOWN):
        return choice
    name = next((schedule.name for schedule in job.schedules if schedule.id == choice), choice)
    return f"instead of “{name[:40]}”" if one.kind == "schedule" else name
