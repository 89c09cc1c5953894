"""What a recorder records when: all its cameras as one stacked picture of the week, on any date."""

from __future__ import annotations

from datetime import date, timedelta

from PySide6.QtWidgets import QLineEdit, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Camera, Recorder, by_id
from eager_lens.core.recording.typed_dates import date_from
from eager_lens.core.recording.week import DAYS, PATTERNS, WeekPlan, flat_spans
from eager_lens.core.recording.year import schedule_on
from eager_lens.core.units import count, days_figure, figure
from eager_lens.desk.pages.schedule.week_stack import StackRow, WeekStack
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row, scrolled

MOST_ROWS = 512


class RecorderView(QWidget):
    """A recorder to select, a date (empty: the weeks as painted), and the stack."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._monday: date | None = None
        self.recorder = Choice()
        self.recorder.setAccessibleName("Recorder")
        self.recorder.currentIndexChanged.connect(lambda _: self._draw())
        self.on = QLineEdit()
        self.on.setPlaceholderText("weekly schedule")
        self.on.setAccessibleName("Recorder's week")
        self.on.editingFinished.connect(self._date_typed)
        self._words = label("", "muted", wrap=True)
        self.stack = WeekStack()
        self.stack.selected.connect(lambda camera_id: session.select([camera_id]))
        scroll = scrolled(self.stack)
        top = row(
            label("Recorder", "small"),
            self.recorder,
            label("Week of", "small"),
            self.on,
            button("‹", lambda: self._move(-7), "quiet", "A week earlier"),
            button("›", lambda: self._move(7), "quiet", "A week later"),
            None,
            spacing=SPACE.HALF,
        )
        legend = label(f"{PATTERNS} Click a row to select its camera.", "small", wrap=True)
        layout = column(top, self._words, scroll, legend, spacing=SPACE.HALF)
        layout.setStretch(2, 1)
        self.setLayout(layout)
        session.selection_changed.connect(lambda: self._draw() if self.isVisible() else None)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the stack."""
        self.recorder.offer([(recorder.id, recorder.name[:40]) for recorder in assessment.job.recorders])
        self._draw()

    def show_date(self, day: date | None) -> None:
        """Show the week of a date with its exceptions; None: as painted."""
        self._monday = None if day is None else day - timedelta(days=day.weekday())
        self.on.setText("" if day is None else day.isoformat())
        self._draw()

    def _move(self, days: int) -> None:
        begins = self._monday or date.today()
        self.show_date(begins + timedelta(days=days) if self._monday else begins)

    def _date_typed(self) -> None:
        text = self.on.text().strip()
        try:
            self.show_date(date_from(text, "Week of") if text else None)
        except RefusedInput as error:
            self.session.notice(str(error), needs=True)

    def _draw(self) -> None:
        assessment = self.session.assessment
        recorder = by_id(assessment.job.recorders).get(str(self.recorder.currentData() or ""))
        if recorder is None:
            self._words.setText("Add a recorder and register cameras on it to see when it records.")
            self.stack.show_rows((), frozenset())
            return
        cameras = assessment.facts.cameras_on[recorder.id]
        rows = [self._row(assessment, camera, recorder) for camera in cameras[:MOST_ROWS]]
        self.stack.show_rows(sorted(rows, key=lambda one: int(one.channel)), frozenset(self.session.selected))
        self._words.setText(self._summary(assessment, recorder, cameras))

    def _summary(self, assessment: Assessment, recorder: Recorder, cameras: list[Camera]) -> str:
        if not cameras:
            return f"No camera is registered on {recorder.name} yet (Bench page)."
        got = assessment.recorder(recorder.id)
        when = (
            "weekly schedule"
            if self._monday is None
            else f"in the week of {self._monday:%d %B %Y}, with its exceptions"
        )
        usual = f"By the weekly schedules {figure(got.gb_per_day)} GB a day are recorded"
        if got.keeps == "days" and got.mean_days is not None and got.promised_days is not None:
            expected, promised = days_figure(got.mean_days), days_figure(got.promised_days)
            usual += f"; {expected} days are expected, {promised} can be promised."
        else:
            usual += f", kept for 0 days: {got.trouble}." if got.trouble else "."
        return f"{count(len(cameras), 'camera')}, {when}. {usual}"

    def _row(self, assessment: Assessment, camera: Camera, recorder: Recorder) -> StackRow:
        schedules = assessment.facts.schedules
        exceptions = [exception.as_dates() for exception in assessment.job.exceptions]
        days = []
        for at, day in enumerate(DAYS):
            schedule_id = camera.schedule
            if self._monday is not None:
                schedule_id = schedule_on(self._monday + timedelta(days=at), camera.schedule, exceptions)
            plan = schedules[schedule_id].plan if schedule_id in schedules else WeekPlan()
            days.append(flat_spans(plan.of_day(day)))
        channel = next((place.channel for place in camera.registered if place.recorder == recorder.id), 0)
        return StackRow(camera.id, str(channel), camera.name, tuple(days))
