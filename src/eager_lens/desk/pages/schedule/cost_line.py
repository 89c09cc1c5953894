"""What a schedule costs: hours, GB a day, the days that can be promised and the mean; and what the last stroke made of them."""

from __future__ import annotations

import math
from typing import NamedTuple

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import Keeps
from eager_lens.core.job.model import Camera, Job, Schedule
from eager_lens.core.recording.week import MODES, schedule_hours
from eager_lens.core.units import count, days_figure, figure
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import column, label


class Cost(NamedTuple):
    """Storage of a schedule's cameras, and the days of the recorder among theirs that promises the fewest;
    None if none of their recorders records anything."""

    gb_per_day: float
    promised_days: float | None
    mean_days: float | None
    keeps: Keeps

    @property
    def words(self) -> str:
        """GB and days."""
        words = f"{figure(self.gb_per_day)} GB a day"
        if self.keeps == "no storage":
            words += "; 0 days, because a recorder has no storage"
        elif self.promised_days is not None and self.mean_days is not None:
            words += (
                f"; {days_figure(self.promised_days)} days can be promised, {days_figure(self.mean_days)} are expected"
            )
        return words

    def against(self, after: Cost) -> str:
        """What changed since; empty when nothing did."""
        gb = after.gb_per_day - self.gb_per_day
        if abs(gb) < 0.05:
            return ""
        words = f" The last stroke: {gb:+.1f} GB a day"
        if self.promised_days is not None and after.promised_days is not None:
            days = math.floor(after.promised_days) - math.floor(self.promised_days)
            words += f", {days:+d} days promised" if days else ", the same days promised"
        return words + "."


def cost_of(cameras: list[Camera], assessment: Assessment) -> Cost:
    """The cost of the schedule of these cameras."""
    gb = sum(assessment.camera(camera.id).gb_per_day for camera in cameras)
    on = {place.recorder for camera in cameras for place in camera.registered} & assessment.facts.recorders.keys()
    kept = [assessment.recorder(recorder_id) for recorder_id in sorted(on)]
    worst = min(((got.promised_days, got) for got in kept if got.promised_days is not None), default=None)
    if worst is None:
        return Cost(gb, None, None, "nothing recorded")
    return Cost(gb, worst[0], worst[1].mean_days, worst[1].keeps)


def _only_painted(schedule_id: str, before: Job, now: Job) -> bool:
    """Whether nothing but one schedule is other: whatever else was edited since had its own part in the cost."""
    others = all(getattr(before, name) is getattr(now, name) for name in Job.model_fields if name != "schedules")
    rest = [[schedule for schedule in job.schedules if schedule.id != schedule_id] for job in (before, now)]
    return others and rest[0] == rest[1]


class CostLine(QWidget):
    """A sentence or two under the week."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.words = label("", "muted", wrap=True)
        self._before: tuple[str, Cost, Job] | None = None
        self.setLayout(column(self.words, spacing=SPACE.TIGHT))

    def remember(self, schedule: Schedule, assessment: Assessment) -> None:
        """Keep the cost before a stroke, to tell what it made of it."""
        self._before = (schedule.id, self._cost(schedule, assessment), assessment.job)

    def show_schedule(self, schedule: Schedule, assessment: Assessment) -> None:
        """Tell the cost of a week."""
        hours = assessment.facts.schedule_hours[schedule.id]
        modes = ", ".join(f"{mode} {figure(hours[mode])} h" for mode in MODES if hours[mode])
        used = sum(camera.schedule == schedule.id for camera in assessment.job.cameras)
        cost = self._cost(schedule, assessment)
        words = f"A week of 168 h: {modes}. {count(used, 'camera')}, {cost.words}."
        if self._before is not None and self._before[0] == schedule.id:
            if _only_painted(schedule.id, self._before[2], assessment.job):
                words += self._before[1].against(cost)
            else:
                self._before = None
        self.words.setText(words)

    def show_alarms(self, schedule: Schedule) -> None:
        """Tell the hours of pop-up alarms instead."""
        hours = schedule_hours(schedule.alarms)["continuous"]
        self.words.setText(
            f"Alarms pop up in {figure(hours)} of 168 h: useful at night, a nuisance by day. Recording hours are separate."
        )

    def _cost(self, schedule: Schedule, assessment: Assessment) -> Cost:
        return cost_of([camera for camera in assessment.job.cameras if camera.schedule == schedule.id], assessment)
