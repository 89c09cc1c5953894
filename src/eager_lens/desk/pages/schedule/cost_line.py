"""What a week costs: hours, GB a day, and the days kept, on average and in 95 of 100 years; and what the last stroke made
of them."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Camera, Schedule
from eager_lens.core.recording.week import MODES, schedule_hours
from eager_lens.core.units import count, figure
from eager_lens.desk.background import Task, Work
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import column, label
from eager_lens.desk.widgets.busy import Busy

if TYPE_CHECKING:
    from eager_lens.core.options.promise import Promise

AFTER_MS = 400
"""The years are simulated when the hand has rested so long."""


class Cost(NamedTuple):
    """What a week's cameras store; the recorder of theirs that keeps the fewest days, those days (None: no limit), and the
    days that it keeps in 95 of 100 years (None: not known yet)."""

    gb_per_day: float
    recorder_id: str
    days: float | None
    promised_days: float | None = None

    @property
    def words(self) -> str:
        """GB and days."""
        words = f"{figure(self.gb_per_day)} GB a day"
        if self.days is not None:
            words += f"; shortest retention {figure(self.days)} days by the mean"
        if self.promised_days is not None:
            words += f", {figure(self.promised_days)} days in 95 of 100 years"
        return words

    def against(self, after: Cost) -> str:
        """What changed since; empty when nothing did."""
        gb = after.gb_per_day - self.gb_per_day
        if abs(gb) < 0.05:
            return ""
        words = f" The last stroke: {gb:+.1f} GB a day"
        if self.days is not None and after.days is not None:
            days = after.days - self.days
            words += f", {days:+.1f} days" if abs(days) >= 0.05 else ", days as before"
        if self.promised_days is not None and after.promised_days is not None:
            promised = after.promised_days - self.promised_days
            words += f", {promised:+.1f} days in 95 of 100 years" if abs(promised) >= 0.05 else ""
        return words + "."


def cost_of(cameras: list[Camera], assessment: Assessment) -> Cost:
    """The cost of the week of these cameras, as far as it is known at once."""
    gb = sum(assessment.camera(camera.id).gb_per_day for camera in cameras)
    on = {place.recorder for camera in cameras for place in camera.registered} & assessment.facts.recorders.keys()
    days = {recorder_id: assessment.recorder(recorder_id).days for recorder_id in sorted(on)}
    kept = [(number, recorder_id) for recorder_id, number in days.items() if number is not None]
    fewest, recorder_id = min(kept, default=(None, ""))
    return Cost(gb, recorder_id, fewest)


class CostLine(QWidget):
    """A sentence or two under the week. The days of 95 in 100 years follow when they are simulated."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.words = label("", "muted", wrap=True)
        self._busy = Busy(session, self)
        self._busy.stop_button.hide()
        self._shown: tuple[Schedule, Assessment] | None = None
        self._before: tuple[str, Cost] | None = None
        self._promised: tuple[Assessment, str, float] | None = None
        self._soon = QTimer(self, singleShot=True, interval=AFTER_MS)
        self._soon.timeout.connect(self._simulate)
        self.setLayout(column(self.words, self._busy.bar, spacing=SPACE.TIGHT))

    def remember(self, schedule: Schedule, assessment: Assessment) -> None:
        """Keep the cost before a stroke, to tell what it made of it."""
        self._before = (schedule.id, self._cost(schedule, assessment))

    def show_schedule(self, schedule: Schedule, assessment: Assessment) -> None:
        """Tell the cost of a week."""
        self._shown = (schedule, assessment)
        hours = assessment.facts.schedule_hours[schedule.id]
        modes = ", ".join(f"{mode} {figure(hours[mode])} h" for mode in MODES if hours[mode])
        used = sum(camera.schedule == schedule.id for camera in assessment.job.cameras)
        cost = self._cost(schedule, assessment)
        words = f"A week of 168 h: {modes}. {count(used, 'camera')}, {cost.words}."
        if self._before is not None and self._before[0] == schedule.id:
            words += self._before[1].against(cost)
        self.words.setText(words)
        if cost.promised_days is None and cost.recorder_id:
            self._soon.start()

    def show_alarms(self, schedule: Schedule) -> None:
        """Tell the hours of pop-up alarms instead."""
        self._soon.stop()
        hours = schedule_hours(schedule.alarms)["continuous"]
        self.words.setText(
            f"Alarms pop up in {figure(hours)} of 168 h: useful at night, a nuisance by day. Recording has its own hours."
        )

    def _cost(self, schedule: Schedule, assessment: Assessment) -> Cost:
        cost = cost_of([camera for camera in assessment.job.cameras if camera.schedule == schedule.id], assessment)
        known = self._promised
        if known is not None and known[0] is assessment and known[1] == cost.recorder_id:
            return cost._replace(promised_days=known[2])
        return cost

    def _simulate(self) -> None:
        if self._shown is None or not self.isVisible():
            return
        schedule, assessment = self._shown
        recorder_id = self._cost(schedule, assessment).recorder_id
        if not recorder_id:
            return

        def work(task: Task) -> Work[Promise | None]:
            from eager_lens.core.options.promise import promise

            yield 0.1
            try:
                return promise(assessment, recorder_id)
            except RefusedInput:
                return None  # so little is stored that no days can be told; nobody asked, so nothing is said

        self._busy.begin(work, partial(self._simulated, assessment, recorder_id))

    def _simulated(self, assessment: Assessment, recorder_id: str, promised: Promise | None) -> None:
        if promised is None or self._shown is None or self._shown[1] is not assessment:
            return
        self._promised = (assessment, recorder_id, promised.promised_days)
        self.show_schedule(*self._shown)
