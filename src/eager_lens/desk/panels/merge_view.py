"""Another copy of the job: what it brings, and for each thing that both sides say differently, whose word counts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from eager_lens.core.assess.finding import Severity
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.differences import WHOLE, Difference
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.merging import JobMerging, Question, Side, merged_edit
from eager_lens.core.job.model import Job
from eager_lens.core.job.proof import Check
from eager_lens.core.outgoing.formats.difference_words import DifferenceWords
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.records.acceptance.recording import result_words
from eager_lens.core.reference.acceptance import acceptance_test
from eager_lens.core.units import count
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button
from eager_lens.desk.widgets.choice_table import ChoicePage, ChoiceTable, no_edit
from eager_lens.desk.widgets.record_model import Mark, TableColumn

SIDE_WORDS: dict[Side, str] = {"here": "this copy", "there": "the other copy"}


class MergeRow(NamedTuple):
    """A row: a question, or something that is taken (``question`` is None)."""

    id: str
    what: str
    before: str
    here: str
    there: str
    question: Question | None = None


class MergeView(ChoicePage):
    """The questions until they are answered. ``left`` is called when it is done, or given up."""

    def __init__(self, session: Session, left: Callable[[], object]) -> None:
        self.session = session
        self._left = left
        self._found: JobMerging | None = None
        self._rows: list[MergeRow] = []
        self.decided: dict[str, Side] = {}
        self.take = button("Merge", self._take, "main")
        super().__init__(
            ChoiceTable(session, self._columns(), self._choose),
            button("Use this copy", lambda: self._all("here")),
            button("Use the other copy", lambda: self._all("there")),
            None,
            button("Cancel", left),
            self.take,
        )

    def _columns(self) -> tuple[TableColumn, ...]:
        return (
            TableColumn(
                "what", "What differs", lambda one, a: one.what, width=210, mark=lambda one, a: self._mark(one)
            ),
            TableColumn("before", "Last common version", lambda one, a: one.before or "–", width=120),
            TableColumn("here", "Here", lambda one, a: one.here or "–", width=140),
            TableColumn("there", "Other copy", lambda one, a: one.there or "–", width=150),
            TableColumn(
                "counts",
                "Use",
                lambda one, a: self._counts(one),
                no_edit,
                lambda one, job: list(SIDE_WORDS.values()) if one.question is not None else [],
                width=130,
                stretch=True,
            ),
        )

    def show_merging(self, title: str, found: JobMerging, base: Job | None, mine: Job, theirs: Job) -> None:
        """Show what another copy brings. ``base``: the version that both had."""
        self._found, self.decided = found, {}
        said = DifferenceWords(base or mine, theirs)
        questions = [_question_row(one, said) for one in found.questions]
        taken = [_taken_row(f"taken-{at}", one, said) for at, one in enumerate(found.taken)]
        results = [_result_row(f"check-{at}", one, said) for at, one in enumerate(found.checks)]
        self._rows = [*questions, *taken, *results]
        self.title.setText(title)
        self._show()
        self.table.setFocus()

    def _show(self) -> None:
        found = self._found
        if found is None:
            return
        left = sum(one.question is not None and one.question.key not in self.decided for one in self._rows)
        still_open = f" {count(left, 'is', 'are')} still open." if 0 < left < len(found.questions) else ""
        self.words.setText(f"{found.words}{still_open} Select in the last column which copy to use.")
        self.table.show_parts(self._rows, self.session.assessment)
        self.take.setEnabled(not left)

    def _mark(self, one: MergeRow) -> Mark:
        return Severity.WARNING if one.question is not None and one.question.key not in self.decided else "done"

    def _counts(self, one: MergeRow) -> str:
        if one.question is None:
            return "taken"
        side = self.decided.get(one.question.key)
        return "to decide" if side is None else SIDE_WORDS[side]

    def _choose(self, rows: Sequence[MergeRow], text: str) -> bool:
        side = next((side for side, words in SIDE_WORDS.items() if words == text), None)
        for one in rows:
            if side is not None and one.question is not None:
                self.decided[one.question.key] = side
        self._show()
        return side is not None

    def _all(self, side: Side) -> None:
        """For the selected questions, or for all."""
        self._choose(self.table.selected_parts() or self._rows, SIDE_WORDS[side])

    def _take(self) -> None:
        if self._found is None:
            return
        try:
            edit: Edit = merged_edit(self._found, self.decided)
        except RefusedInput as error:
            self.session.notice(sentence_case(error.problem) + ".", needs=True)
            return
        if self.session.apply(edit):
            self.session.tell_step(f"{edit.label}: {count(len(self._rows), 'difference')}")
            self._left()


def _question_row(one: Question, said: DifferenceWords) -> MergeRow:
    if isinstance(one.here, Check) and isinstance(one.there, Check):
        return MergeRow(one.key, _test_words(one.here, said), "", _result(one.here), _result(one.there), one)
    assert not isinstance(one.here, Check) and not isinstance(one.there, Check)
    (there,) = one.there
    here = one.here[0]
    what = f"{said.part(there.list, there.key)}: {said.heading(there)}" if there.field != WHOLE else _whole(there, said)
    if WHOLE in (there.field, here.field) and there.key:
        return MergeRow(one.key, _whole(there, said), "", _came(here, said), _came(there, said), one)
    before, there_words = said.values(one.before, there.now, there.field)
    _, here_words = said.values(one.before, here.now, here.field)
    return MergeRow(one.key, what, before, here_words, there_words, one)


def _whole(one: Difference, said: DifferenceWords) -> str:
    return f"{sentence_case(one.list.replace('_', ' ').removesuffix('s'))}: {said.part(one.list, one.key)}"


def _came(one: Difference, said: DifferenceWords) -> str:
    if one.field == WHOLE:
        return "removed" if one.now is None else "added"
    return f"{said.heading(one)}: {said.values(one.before, one.now, one.field)[1]}"


def _taken_row(row_id: str, one: Difference, said: DifferenceWords) -> MergeRow:
    if one.field == WHOLE and one.key:
        return MergeRow(row_id, _whole(one, said), "", "", _came(one, said))
    before, now = said.values(one.before, one.now, one.field)
    return MergeRow(row_id, f"{said.part(one.list, one.key)}: {said.heading(one)}", before, before, now)


def _result_row(row_id: str, one: Check, said: DifferenceWords) -> MergeRow:
    return MergeRow(row_id, _test_words(one, said), "", "", _result(one))


def _test_words(one: Check, said: DifferenceWords) -> str:
    test = acceptance_test(one.check)
    return f"{test.label if test else one.check}: {said.part('cameras', (one.device,))}"


def _result(one: Check) -> str:
    seen = result_words(acceptance_test(one.check), one)
    return " · ".join(part for part in (one.outcome, seen, one.by, one.at.replace("T", " ")[:16]) if part)
