"""Named weeks painted on a strip, applied to many cameras, with what each change costs."""

from __future__ import annotations

from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import (
    add_schedule,
    own_schedule,
    paint_schedule,
    remove_schedule,
    set_fields,
    set_schedule,
)
from eager_lens.core.job.fields import CAMERA_FIELDS, field_named
from eager_lens.core.job.model import Schedule, by_id
from eager_lens.core.recording.typed_dates import days_from
from eager_lens.core.recording.week import (
    DAY_WORDS,
    DAYS,
    MINUTES_A_DAY,
    MODES,
    Day,
    Mode,
    Span,
    clock_of,
    flat_spans,
    typed_minute,
)
from eager_lens.core.units import count, fixed
from eager_lens.desk.pages.schedule.cost_line import CostLine
from eager_lens.desk.pages.schedule.week_strip import WeekStrip, week_stamp
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, emptied, held, label, row, scrolled
from eager_lens.desk.widgets.columns import device_column, marks_by_subject, stored_column
from eager_lens.desk.widgets.flow import Flow, flow, pair
from eager_lens.desk.widgets.reading_order import keys_in_order
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

BRUSH_WORDS: dict[Mode, str] = {
    "continuous": "Continuous",
    "motion": "Motion",
    "alarm input": "Alarm input",
    "motion or alarm": "Motion or alarm",
    "off": "Off",
}

COLUMNS: tuple[TableColumn, ...] = (
    device_column(field_named(CAMERA_FIELDS, "name"), 140, "Camera"),
    device_column(field_named(CAMERA_FIELDS, "place"), 90),
    device_column(field_named(CAMERA_FIELDS, "schedule"), 140),
    TableColumn(
        "recorded",
        "Recorded",
        lambda camera, assessment: fixed(assessment.camera(camera.id).recorded_h_per_day, 1),
        unit="h a day",
        align="right",
        width=90,
        assumed=lambda camera, assessment: assessment.camera(camera.id).motion_h_per_day > 0 and not camera.events_from,
    ),
    stored_column(96),
    device_column(field_named(CAMERA_FIELDS, "pre_recording_s"), 110),
    device_column(field_named(CAMERA_FIELDS, "post_recording_s"), 110),
    device_column(field_named(CAMERA_FIELDS, "kept_between_events"), 110),
    device_column(field_named(CAMERA_FIELDS, "kept_when_off"), 100),
    device_column(field_named(CAMERA_FIELDS, "inputs_per_h"), 60, "Inputs"),
    device_column(field_named(CAMERA_FIELDS, "input_pre_recording_s"), 104),
    device_column(field_named(CAMERA_FIELDS, "input_post_recording_s"), 96, stretch=True),
)


class ScheduleView(QWidget):
    """The weeks at the left, the selected one's strip at the right, the cameras below."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._schedule_id = ""
        self._copied: tuple[Span, ...] | None = None
        self.painting_alarms = False
        self._gesture: str | None = None
        self._brushes: dict[Mode, QWidget] = {}
        top = row(self._list(), self._week(), spacing=SPACE.WIDE)
        top.setStretch(1, 1)
        inner = QWidget()
        layout = column(top, *self._camera_part())
        layout.setStretch(2, 1)
        inner.setLayout(layout)
        # At large type in a small window the week would have no room for its days.
        self.setLayout(column(scrolled(inner)))
        session.selection_changed.connect(self._draw_apply)

    def _list(self) -> QVBoxLayout:
        """The schedules, and what is done with them."""
        self._schedules = QVBoxLayout()
        self._schedules.setSpacing(SPACE.TIGHT)
        inner = held(column(self._schedules, None))
        scroll = scrolled(inner)
        look.fix_width(scroll, 254)
        self._help = label(
            "Drag to paint, drag with the right button to clear; or use arrows, Shift, Return and Delete.",
            "small",
            wrap=True,
        )
        look.fix_width(self._help, 254)
        left = column(
            label("Schedules", "heading"),
            scroll,
            self._help,
            row(
                button("Add a schedule", self._add),
                button("Copy", self._copy_schedule, "quiet"),
                button("Remove", self._remove, "quiet", "Remove this schedule"),
                None,
            ),
        )
        left.setStretch(1, 1)
        return left

    def _week(self) -> QVBoxLayout:
        """The week of the selected schedule, with its brushes."""
        self._name = QLineEdit()
        self._name.setAccessibleName("Name of the schedule")
        self._name.editingFinished.connect(self._renamed)
        look.limit_width(self._name, 280)
        self.strip = WeekStrip()
        self.strip.painted.connect(self._painted)
        self.strip.day_copied.connect(self._day_copied)
        self.strip.day_pasted.connect(self._day_pasted)
        self._make_kinds()
        self._cost = CostLine(self.session)
        self._none = label("", "muted", wrap=True)
        return column(
            flow(self._name, None, self._adds, self._alarms),
            self._brush_row(),
            self.strip,
            self._typed_row(),
            self._cost,
            self._none,
        )

    def _make_kinds(self) -> None:
        """What a stroke paints into."""
        self._alarms = button(
            "Pop-up alarms",
            self._toggle_alarms,
            "choice",
            "Paint the hours in which alarms pop up; recording hours are separate",
        )
        self._adds = button(
            "Add to schedule",
            kind="choice",
            tip="Strokes add to the schedule; where motion and alarm input overlap, both record",
        )

    def _camera_part(self) -> tuple[Flow, RecordTable]:
        """The cameras with their schedule."""
        self.cameras = RecordTable(self.session, COLUMNS)
        self._apply = button("", self._apply_schedule, "main")
        self._own = button(
            "Own schedule", self._own_schedule, "quiet", "A copy of the schedule for the selected camera only"
        )
        apply = flow(label("Cameras and their schedule", "heading"), None, self._own, self._apply)
        self.cameras.setMinimumHeight(look.px(84))
        return apply, self.cameras

    def _brush_row(self) -> Flow:
        layout = flow(label("Brush", "small"))
        for mode in MODES:
            made = button(BRUSH_WORDS[mode], lambda mode=mode: self._set_brush(mode), "choice")  # type: ignore[misc]
            made.setChecked(mode == self.strip_brush)
            self._brushes[mode] = made
            layout.addWidget(made)
        return layout

    def _typed_row(self) -> Flow:
        """Hours typed instead of painted."""
        self.typed_from, self.typed_to, self.typed_days = QLineEdit("08:00"), QLineEdit("18:00"), QLineEdit("Mon-Fri")
        names = (("From", self.typed_from, 76), ("to", self.typed_to, 76), ("on", self.typed_days, 104))
        parts: list[QWidget] = []
        for words, field, wide in names:
            field.setAccessibleName(f"Hours {words}")
            look.limit_width(field, wide)
            field.returnPressed.connect(self._paint_typed)
            parts.append(pair(words, field))
        fill = button("Fill off hours", self._fill_idle, "quiet", "With the brush, over existing hours")
        paint = button("Paint", self._paint_typed, tip="These hours, with the brush")
        return flow(*parts, paint, fill, button("Copy this day to all", self._day_to_all, "quiet"))

    strip_brush: Mode = "continuous"

    def _set_brush(self, mode: Mode) -> None:
        self.strip.brush = mode
        for other, made in self._brushes.items():
            made.setChecked(other == mode)  # type: ignore[attr-defined]
        self.strip.setFocus()

    # ---- drawing -------------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the weeks, the strip and the cameras."""
        schedules = by_id(assessment.job.schedules)
        if self._schedule_id not in schedules:
            self._schedule_id = assessment.job.schedules[0].id if assessment.job.schedules else ""
        self._draw_schedules(assessment)
        schedule = schedules.get(self._schedule_id)
        for part in (self._name, self.strip, self._cost):
            part.setVisible(schedule is not None)
        self._none.setVisible(schedule is None)
        self._none.setText(
            "Add a schedule, then paint the hours in which its cameras record. One schedule can serve many cameras."
        )
        if schedule is not None:
            if not self._name.hasFocus():
                self._name.setText(schedule.name)
            self.strip.show_plan(schedule.alarms if self.painting_alarms else schedule.plan)
            if self.painting_alarms:
                self._cost.show_alarms(schedule)
            else:
                self._cost.show_schedule(schedule, assessment)
        self.cameras.show_parts(assessment.job.cameras, assessment, marks_by_subject(assessment, "schedule"))
        self._draw_apply()

    def _draw_schedules(self, assessment: Assessment) -> None:
        emptied(self._schedules)
        used: dict[str, int] = {}
        for camera in assessment.job.cameras:
            used[camera.schedule] = used.get(camera.schedule, 0) + 1
        for schedule in assessment.job.schedules:
            name = schedule.name if len(schedule.name) <= 18 else schedule.name[:17] + "…"
            exceptions = sum(exception.schedule == schedule.id for exception in assessment.job.exceptions)
            by_exception = f", {count(exceptions, 'exception')}" if exceptions else ""
            words = f"{name}\n{count(used.get(schedule.id, 0), 'camera')}{by_exception}"
            made = button(words, lambda i=schedule.id: self._show_schedule(i), "card", tip=schedule.name)  # type: ignore[misc]
            stamp = week_stamp(schedule.plan)
            made.setIcon(QIcon(stamp))
            made.setIconSize(stamp.size())
            made.setMinimumHeight(look.px(46))
            made.setChecked(schedule.id == self._schedule_id)
            self._schedules.addWidget(made)
        keys_in_order(self)

    def _show_schedule(self, schedule_id: str) -> None:
        self._schedule_id = schedule_id
        self._name.clearFocus()
        self.show_assessment(self.session.assessment)
        self.strip.setFocus()

    def _draw_apply(self) -> None:
        schedule = by_id(self.session.job.schedules).get(self._schedule_id)
        known = {camera.id for camera in self.session.job.cameras}
        number = sum(device_id in known for device_id in self.session.selected)
        self._apply.setEnabled(schedule is not None and number > 0)
        whom = count(number, "selected camera") if number else "selected cameras"
        self._apply.setText(f"Apply “{schedule.name[:24]}” to {whom}" if schedule else "Select cameras and a schedule")

    # ---- edits ---------------------------------------------------------------------------------------------------

    def _painted(self, strokes: object, gesture: str) -> None:
        self._paint(strokes, gesture)  # type: ignore[arg-type]

    def _paint(self, strokes: dict[Day, list[Span]], gesture: str | None = None) -> None:
        """Paint recording, or alarms, and remember what it cost before."""
        schedule, assessment = self._schedule(), self.session.assessment
        if schedule is None:
            return
        if gesture is None or gesture != self._gesture:
            self._cost.remember(schedule, assessment)
            self._gesture = gesture
        words = "alarm hours" if self.painting_alarms else self.strip.brush
        add = self._adds.isChecked() and self.strip.brush != "off"
        self.session.apply(paint_schedule(schedule.id, strokes, f"Paint {words}", gesture, self.painting_alarms, add))

    def _paint_typed(self) -> None:
        """Paint the hours that are typed; over midnight they go on the next day."""
        try:
            start, end = (typed_minute(field.text()) for field in (self.typed_from, self.typed_to))
            days = days_from(self.typed_days.text()) or DAYS
        except (ValueError, RefusedInput) as error:
            self.session.notice(str(error), needs=True)
            return
        if start == end:
            self.session.notice("From and to are equal; enter hours such as 08:30 and 18:15", needs=True)
            return
        for field, minute in ((self.typed_from, start), (self.typed_to, end)):
            field.setText(clock_of(minute))
        mode, strokes = self.strip.brush, dict[Day, list[Span]]()
        for day in days:
            strokes.setdefault(day, []).append(Span(start, end if end > start else MINUTES_A_DAY, mode))
            if end < start and end > 0:
                strokes.setdefault(DAYS[(DAYS.index(day) + 1) % 7], []).append(Span(0, end, mode))
        self._paint(strokes)

    def _fill_idle(self) -> None:
        """Put the brush under everything: only idle hours take it."""
        schedule = self._schedule()
        if schedule is not None and self.strip.brush != "off":
            plan = schedule.alarms if self.painting_alarms else schedule.plan
            under = Span(0, MINUTES_A_DAY, self.strip.brush)
            self._paint({day: [under, *flat_spans(plan.of_day(day))] for day in DAYS})

    def _toggle_alarms(self) -> None:
        """Paint alarm hours, or recording again."""
        self.painting_alarms = not self.painting_alarms
        if self.painting_alarms:
            self._set_brush("continuous")
        for mode in ("motion", "alarm input", "motion or alarm"):
            self._brushes[mode].setEnabled(not self.painting_alarms)
        self._alarms.setChecked(self.painting_alarms)
        self.show_assessment(self.session.assessment)

    def _own_schedule(self) -> None:
        known = {camera.id for camera in self.session.job.cameras}
        ids = [device_id for device_id in self.session.selected if device_id in known]
        if len(ids) != 1:
            self.session.notice("Select one camera to give it its own copy of the schedule", needs=True)
        elif self.session.apply(own_schedule(ids[0])):
            self._show_schedule(self.session.job.schedules[-1].id)

    def _schedule(self) -> Schedule | None:
        return by_id(self.session.job.schedules).get(self._schedule_id)

    def _day_copied(self, day: Day) -> None:
        schedule = self._schedule()
        if schedule is not None:
            self._copied = (schedule.alarms if self.painting_alarms else schedule.plan).of_day(day)
            self.session.notice(f"{DAY_WORDS[day]} copied; paste it on another day with Ctrl+V")

    def _day_pasted(self, day: Day) -> None:
        if self._copied is not None:
            self._put_day({day: self._copied}, f"Paste a day on {DAY_WORDS[day]}")

    def _day_to_all(self) -> None:
        schedule = self._schedule()
        if schedule is not None:
            day = self.strip.cursor_day
            spans = (schedule.alarms if self.painting_alarms else schedule.plan).of_day(day)
            self._put_day(dict.fromkeys(DAY_WORDS, spans), f"Copy {DAY_WORDS[day]} to all days")

    def _put_day(self, days: dict[Day, tuple[Span, ...]], words: str) -> None:
        clear = Span(0, MINUTES_A_DAY, "off")
        strokes = {day: [clear, *spans] for day, spans in days.items()}
        self.session.apply(paint_schedule(self._schedule_id, strokes, words, alarms=self.painting_alarms))

    def _add(self) -> None:
        names = {schedule.name for schedule in self.session.job.schedules}
        name = next(f"Schedule {n}" for n in range(1, len(names) + 2) if f"Schedule {n}" not in names)
        if self.session.apply(add_schedule(name)):
            self._show_schedule(self.session.job.schedules[-1].id)
            self._name.setFocus()
            self._name.selectAll()

    def _copy_schedule(self) -> None:
        schedule = self._schedule()
        if schedule is not None and self.session.apply(add_schedule(f"{schedule.name[:180]}, copy", like=schedule.id)):
            self._show_schedule(self.session.job.schedules[-1].id)

    def _remove(self) -> None:
        schedule = self._schedule()
        if schedule is not None and self.session.apply(remove_schedule(schedule.id)):
            self.session.tell_step(f"“{schedule.name}” removed")

    def _renamed(self) -> None:
        schedule = self._schedule()
        name = self._name.text().strip()
        if schedule is not None and name and name != schedule.name:
            self.session.apply(set_schedule(schedule.id, f"Name the schedule “{name}”", name=name))

    def _apply_schedule(self) -> None:
        schedule = self._schedule()
        known = {camera.id for camera in self.session.job.cameras}
        ids = [device_id for device_id in self.session.selected if device_id in known]
        if schedule is not None and ids:
            self.session.apply(
                set_fields(ids, f"Apply “{schedule.name}” to {count(len(ids), 'camera')}", schedule=schedule.id)
            )

    def lead_to(self, subject: str) -> None:
        """Show a week, or a camera's row."""
        if any(schedule.id == subject for schedule in self.session.job.schedules):
            self._show_schedule(subject)
        else:
            self.cameras.lead_to(subject)
            self.cameras.setFocus()
