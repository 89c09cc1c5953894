"""Days kept so far: readings of how full the drives are, and the days that follow from them."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import EagerLensError, RefusedInput
from eager_lens.core.job.model import Recorder
from eager_lens.core.job.proof import FillReading
from eager_lens.core.job.proving import add_fill_reading, remove_fill_reading
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.records.acceptance.filling import FillProjection, projected_days
from eager_lens.core.records.acceptance.recording import measured_check
from eager_lens.core.reference.acceptance import acceptance_test
from eager_lens.core.units import count, figure
from eager_lens.desk.pages.proof.acceptance_view import now_text
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable


class ReadingRow(FillReading):
    """A row of the table: a reading, known by recorder and moment."""

    @property
    def id(self) -> str:
        """Its own."""
        return f"{self.recorder}/{self.at}"


COLUMNS = (
    TableColumn("recorder", "Recorder", lambda one, a: a.facts.name(one.recorder), width=190),
    TableColumn("at", "Read on", lambda one, a: one.at.replace("T", " "), width=150),
    TableColumn(
        "used",
        "Used, TB",
        lambda one, a: "" if one.used_tb is None else figure(one.used_tb, 4),
        align="right",
        width=90,
    ),
    TableColumn(
        "oldest",
        "Oldest recording, days",
        lambda one, a: "" if one.oldest_days is None else figure(one.oldest_days, 3),
        align="right",
        width=160,
    ),
    TableColumn("by", "By", lambda one, a: one.by, width=120, stretch=True),
)


class FillingView(QWidget):
    """A line to note a reading, the readings, and what follows."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.recorder = Choice()
        self.recorder.setAccessibleName("Recorder")
        self.recorder.currentIndexChanged.connect(lambda _: self._show_projection())
        self.used = NumberField("Space used", "TB", "TB")
        self.oldest = NumberField("Age of the oldest recording", "days", "not read")
        for one in (self.used, self.oldest):
            one.refused.connect(lambda words: session.notice(words, needs=True))
            one.show_value(None)
        self.add = button("Add reading", self._add, "main")
        self.record = button("Record as test", self._record, tip="The acceptance test “Days kept” of this recorder")
        self._words = label("", "figure", wrap=True)
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.empty_words = (
            "No readings yet. Read on the recorder how much of its drives is used, today and on other days; a week or more "
            "also shows weekdays."
        )
        self.table.delete_asked.connect(self._remove)
        line = row(
            self.recorder,
            label("Space used", "small"),
            self.used,
            label("Oldest recording", "small"),
            self.oldest,
            self.add,
            None,
        )
        record_line = row(self._words, self.record)
        record_line.setStretch(0, 1)
        note = label(
            "A straight line through the readings. Its range shows their scatter, not what a busier season brings. The promise "
            "of the plan is on the Sizing page.",
            "small",
            wrap=True,
        )
        layout = column(line, record_line, self.table, note, spacing=SPACE.HALF)
        layout.setStretch(2, 1)
        self.setLayout(layout)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw recorders and readings."""
        self.recorder.offer([(recorder.id, recorder.name) for recorder in assessment.job.recorders])
        rows = [ReadingRow.model_construct(**reading.__dict__) for reading in assessment.job.fill_readings]
        self.table.show_parts(sorted(rows, key=lambda one: one.id), assessment)
        self._show_projection()

    def _selected(self) -> Recorder | None:
        return self.session.assessment.facts.recorders.get(str(self.recorder.currentData() or ""))

    def projection(self) -> FillProjection:
        """What the readings of the selected recorder say.

        Raises:
            RefusedInput: when they say nothing yet.
        """
        recorder = self._selected()
        if recorder is None:
            raise RefusedInput("recorder", "the job has none yet; add one on the Bench page")
        readings = [one for one in self.session.job.fill_readings if one.recorder == recorder.id]
        return projected_days(readings, self.session.assessment.facts.recorder_figures[recorder.id].usable_tb)

    def _show_projection(self) -> None:
        recorder = self._selected()
        self.add.setEnabled(recorder is not None)
        try:
            found = self.projection()
        except RefusedInput as error:
            self._words.setText(
                sentence_case(error.problem) + "." if recorder is not None else "The job has no recorder yet."
            )
            self.record.setEnabled(False)
            return
        asked = self.session.job.retention.least_days
        self._words.setText(f"{recorder.name if recorder else ''}: {found.words}. Required: {figure(asked)} days.")
        self.record.setEnabled(True)

    def _add(self) -> None:
        recorder, used_tb = self._selected(), self.used.value
        if recorder is None:
            return
        if used_tb is None:
            self.session.notice("Type how much of the drives is used, in TB, as the recorder shows it.")
            self.used.setFocus()
            return
        now = datetime.datetime.now().isoformat(timespec="minutes")
        values = {"recorder": recorder.id, "at": now, "used_tb": used_tb, "oldest_days": self.oldest.value}
        if self.session.attempt(
            lambda: add_fill_reading(FillReading.model_validate({**values, "by": self.session.person[:200]}))
        ):
            self.used.show_value(None)
            self.oldest.show_value(None)

    def _remove(self, readings: Sequence[FillReading]) -> None:
        for reading in readings:
            self.session.apply(remove_fill_reading(reading.recorder, reading.at))

    def _record(self) -> None:
        recorder, test = self._selected(), acceptance_test("days")
        if recorder is None or test is None:
            return
        try:
            found = self.projection()
        except EagerLensError:
            return
        days = round(found.days, 1)
        value = found.words if found.seen else f"from {count(found.readings, 'reading')}; {found.words}"
        self.session.attempt(
            lambda: measured_check(
                test, recorder.id, days, value, "readings", self.session.assessment, self.session.person, now_text()
            )
        )
