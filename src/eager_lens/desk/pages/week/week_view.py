"""Named weeks painted on a strip, applied to many cameras, with what each change costs."""

from __future__ import annotations

from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import add_week, own_week, paint_week, remove_week, set_fields, set_week
from eager_lens.core.job.fields import CAMERA_FIELDS, field_named
from eager_lens.core.job.model import Week, by_id
from eager_lens.core.recording.week import (
    DAY_WORDS,
    DAYS,
    MINUTES_A_DAY,
    MODE_WORDS,
    MODES,
    Day,
    Mode,
    Span,
    flat_spans,
    minute_of,
)
from eager_lens.core.units import count, fixed
from eager_lens.desk.pages.week.cost_line import CostLine
from eager_lens.desk.pages.week.dates import days_from
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, emptied, label, row, scrolled
from eager_lens.desk.widgets.columns import device_column, marks_by_subject, stored_column
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.week_strip import WeekStrip, week_stamp

BRUSH_WORDS: dict[Mode, str] = {
    "always": "Always",
    "movement": "Movement",
    "input": "Input",
    "either": "Either",
    "idle": "Idle",
}

COLUMNS: tuple[TableColumn, ...] = (
    device_column(field_named(CAMERA_FIELDS, "name"), 160, "Camera"),
    device_column(field_named(CAMERA_FIELDS, "place"), 90),
    device_column(field_named(CAMERA_FIELDS, "week"), 190),
    TableColumn(
        "recorded",
        "Recorded",
        lambda camera, assessment: fixed(assessment.camera(camera.id).recorded_h_per_day, 1),
        unit="h a day",
        align="right",
        width=90,
        assumed=lambda camera, assessment: (
            assessment.camera(camera.id).movement_h_per_day > 0 and not camera.events_from
        ),
    ),
    stored_column(96),
    device_column(field_named(CAMERA_FIELDS, "between"), 110),
    device_column(field_named(CAMERA_FIELDS, "idle_kept"), 100),
    device_column(field_named(CAMERA_FIELDS, "inputs_per_h"), 60, "Inputs"),
    device_column(field_named(CAMERA_FIELDS, "input_pre_s"), 104),
    device_column(field_named(CAMERA_FIELDS, "input_post_s"), 96, stretch=True),
)


class WeekView(QWidget):
    """The weeks at the left, the chosen one's strip at the right, the cameras below."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._week_id = ""
        self._copied: tuple[Span, ...] | None = None
        self.painting_alarms = False
        self._gesture: str | None = None
        self._brushes: dict[Mode, QWidget] = {}
        self._weeks = QVBoxLayout()
        self._weeks.setSpacing(SPACE.TIGHT)
        inner = QWidget()
        inner.setLayout(column(self._weeks, None))
        scroll = scrolled(inner)
        scroll.setFixedWidth(look.px(232))
        self._help = label(
            "Drag on the week to paint, with the right button to take away; or arrows, Shift, Return and Delete.",
            "small",
            wrap=True,
        )
        self._help.setFixedWidth(look.px(232))
        left = column(
            label("Weeks", "heading"),
            scroll,
            self._help,
            row(
                button("Add a week", self._add),
                button("Copy it", self._copy_week, "quiet"),
                button("Remove", self._remove, "quiet", "Remove the week that is shown"),
                None,
            ),
        )
        left.setStretch(1, 1)
        self._name = QLineEdit()
        self._name.setAccessibleName("Name of the week")
        self._name.editingFinished.connect(self._renamed)
        self._name.setMaximumWidth(look.px(280))
        self.strip = WeekStrip()
        self.strip.painted.connect(self._painted)
        self.strip.day_copied.connect(self._day_copied)
        self.strip.day_pasted.connect(self._day_pasted)
        self._alarms = button(
            "Pop-up alarms",
            self._toggle_alarms,
            "choice",
            "Paint the hours in which alarms pop up, apart from recording",
        )
        self._cost = CostLine(session)
        self._none = label("", "muted", wrap=True)
        right = column(
            row(
                self._name,
                None,
                button("Copy this day to all", self._day_to_all, "quiet"),
                self._alarms,
            ),
            self._brush_row(),
            self.strip,
            self._typed_row(),
            self._cost,
            self._none,
        )
        top = row(left, right, spacing=SPACE.WIDE)
        top.setStretch(1, 1)
        self.cameras = RecordTable(session, COLUMNS)
        self._apply = button("", self._apply_week, "main")
        self._own = button(
            "A week of its own", self._own_week, "quiet", "A copy of its week for the chosen camera alone"
        )
        apply = row(label("Cameras and their week", "heading"), None, self._own, self._apply)
        layout = column(top, apply, self.cameras)
        layout.setStretch(2, 1)
        self.setLayout(layout)
        session.chosen_changed.connect(self._draw_apply)

    def _brush_row(self) -> QHBoxLayout:
        layout = row(label("Brush", "small"))
        for mode in MODES:
            made = button(BRUSH_WORDS[mode], lambda mode=mode: self._set_brush(mode), "choice")  # type: ignore[misc]
            made.setChecked(mode == self.strip_brush)
            self._brushes[mode] = made
            layout.addWidget(made)
        layout.addStretch(1)
        self._adds = button(
            "Add to it",
            kind="choice",
            tip="Strokes add to what is there: where movement and input hours overlap, either records",
        )
        layout.addWidget(self._adds)
        return layout

    def _typed_row(self) -> QHBoxLayout:
        """Hours typed instead of painted."""
        self.typed_from, self.typed_to, self.typed_days = QLineEdit("08:00"), QLineEdit("18:00"), QLineEdit("Mon-Fri")
        names = (("From", self.typed_from, 62), ("to", self.typed_to, 62), ("on", self.typed_days, 104))
        parts: list[QWidget] = []
        for words, field, wide in names:
            field.setAccessibleName(f"Hours {words}")
            field.setMaximumWidth(look.px(wide))
            field.returnPressed.connect(self._paint_typed)
            parts += [label(words, "small"), field]
        fill = button("Fill the idle hours", self._fill_idle, "quiet", "With the brush, whatever the days have already")
        return row(*parts, button("Paint", self._paint_typed, tip="These hours, with the brush"), fill, None)

    strip_brush: Mode = "always"

    def _set_brush(self, mode: Mode) -> None:
        self.strip.brush = mode
        for other, made in self._brushes.items():
            made.setChecked(other == mode)  # type: ignore[attr-defined]
        self.strip.setFocus()

    # ---- drawing -------------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the weeks, the strip and the cameras."""
        weeks = by_id(assessment.job.weeks)
        if self._week_id not in weeks:
            self._week_id = assessment.job.weeks[0].id if assessment.job.weeks else ""
        self._draw_weeks(assessment)
        week = weeks.get(self._week_id)
        for part in (self._name, self.strip, self._cost):
            part.setVisible(week is not None)
        self._none.setVisible(week is None)
        self._none.setText("Add a week, then paint when its cameras record. One week serves many cameras.")
        if week is not None:
            if not self._name.hasFocus():
                self._name.setText(week.name)
            self.strip.show_plan(week.alarms if self.painting_alarms else week.plan)
            if self.painting_alarms:
                self._cost.show_alarms(week)
            else:
                self._cost.show_week(week, assessment)
        self.cameras.show_parts(assessment.job.cameras, assessment, marks_by_subject(assessment, "week"))
        self._draw_apply()

    def _draw_weeks(self, assessment: Assessment) -> None:
        emptied(self._weeks)
        used: dict[str, int] = {}
        for camera in assessment.job.cameras:
            used[camera.week] = used.get(camera.week, 0) + 1
        for week in assessment.job.weeks:
            name = week.name if len(week.name) <= 18 else week.name[:17] + "…"
            seasons = sum(season.week == week.id for season in assessment.job.seasons)
            by_season = f", {count(seasons, 'season')}" if seasons else ""
            words = f"{name}\n{count(used.get(week.id, 0), 'camera')}{by_season}"
            made = button(words, lambda i=week.id: self._show_week(i), "card", tip=week.name)  # type: ignore[misc]
            stamp = week_stamp(week.plan)
            made.setIcon(QIcon(stamp))
            made.setIconSize(stamp.size())
            made.setChecked(week.id == self._week_id)
            self._weeks.addWidget(made)

    def _show_week(self, week_id: str) -> None:
        self._week_id = week_id
        self._name.clearFocus()
        self.show_assessment(self.session.assessment)
        self.strip.setFocus()

    def _draw_apply(self) -> None:
        week = by_id(self.session.job.weeks).get(self._week_id)
        known = {camera.id for camera in self.session.job.cameras}
        number = sum(device_id in known for device_id in self.session.chosen)
        self._apply.setEnabled(week is not None and number > 0)
        whom = count(number, "chosen camera") if number else "chosen cameras"
        self._apply.setText(f"Give “{week.name[:24]}” to {whom}" if week else "Choose cameras and a week")

    # ---- edits ---------------------------------------------------------------------------------------------------

    def _painted(self, strokes: object, gesture: str) -> None:
        self._paint(strokes, gesture)  # type: ignore[arg-type]

    def _paint(self, strokes: dict[Day, list[Span]], gesture: str | None = None) -> None:
        """Paint recording, or alarms, and remember what it cost before."""
        week, assessment = self._week(), self.session.assessment
        if week is None:
            return
        if gesture is None or gesture != self._gesture:
            self._cost.remember(week, assessment)
            self._gesture = gesture
        words = "alarm hours" if self.painting_alarms else MODE_WORDS[self.strip.brush]
        add = self._adds.isChecked() and self.strip.brush != "idle"
        self.session.apply(paint_week(week.id, strokes, f"Paint {words}", gesture, self.painting_alarms, add))

    def _paint_typed(self) -> None:
        """Paint the hours that are typed; over midnight they go on the next day."""
        try:
            start, end = (minute_of(field.text().strip()) for field in (self.typed_from, self.typed_to))
            days = days_from(self.typed_days.text()) or DAYS
        except (ValueError, RefusedInput) as error:
            self.session.notice(str(error), needs=True)
            return
        if start == end:
            self.session.notice("From and to are one moment; give hours as 08:30 and 18:15", needs=True)
            return
        mode, strokes = self.strip.brush, dict[Day, list[Span]]()
        for day in days:
            strokes.setdefault(day, []).append(Span(start, end if end > start else MINUTES_A_DAY, mode))
            if end < start and end > 0:
                strokes.setdefault(DAYS[(DAYS.index(day) + 1) % 7], []).append(Span(0, end, mode))
        self._paint(strokes)

    def _fill_idle(self) -> None:
        """Put the brush under everything: only idle hours take it."""
        week = self._week()
        if week is not None and self.strip.brush != "idle":
            plan = week.alarms if self.painting_alarms else week.plan
            under = Span(0, MINUTES_A_DAY, self.strip.brush)
            self._paint({day: [under, *flat_spans(plan.of_day(day))] for day in DAYS})

    def _toggle_alarms(self) -> None:
        """Paint alarm hours, or recording again."""
        self.painting_alarms = not self.painting_alarms
        if self.painting_alarms:
            self._set_brush("always")
        for mode in ("movement", "input", "either"):
            self._brushes[mode].setEnabled(not self.painting_alarms)
        self._alarms.setChecked(self.painting_alarms)
        self.show_assessment(self.session.assessment)

    def _own_week(self) -> None:
        known = {camera.id for camera in self.session.job.cameras}
        ids = [device_id for device_id in self.session.chosen if device_id in known]
        if len(ids) != 1:
            self.session.notice("Choose one camera; it gets a copy of its week for itself", needs=True)
        elif self.session.apply(own_week(ids[0])):
            self._show_week(self.session.job.weeks[-1].id)

    def _week(self) -> Week | None:
        return by_id(self.session.job.weeks).get(self._week_id)

    def _day_copied(self, day: Day) -> None:
        week = self._week()
        if week is not None:
            self._copied = (week.alarms if self.painting_alarms else week.plan).of_day(day)
            self.session.notice(f"{DAY_WORDS[day]} copied; paste it on another day with Ctrl+V")

    def _day_pasted(self, day: Day) -> None:
        if self._copied is not None:
            self._put_day({day: self._copied}, f"Paste a day on {DAY_WORDS[day]}")

    def _day_to_all(self) -> None:
        week = self._week()
        if week is not None:
            day = self.strip.cursor_day
            spans = (week.alarms if self.painting_alarms else week.plan).of_day(day)
            self._put_day(dict.fromkeys(DAY_WORDS, spans), f"Copy {DAY_WORDS[day]} to all days")

    def _put_day(self, days: dict[Day, tuple[Span, ...]], words: str) -> None:
        clear = Span(0, MINUTES_A_DAY, "idle")
        strokes = {day: [clear, *spans] for day, spans in days.items()}
        self.session.apply(paint_week(self._week_id, strokes, words, alarms=self.painting_alarms))

    def _add(self) -> None:
        names = {week.name for week in self.session.job.weeks}
        name = next(f"Week {n}" for n in range(1, len(names) + 2) if f"Week {n}" not in names)
        if self.session.apply(add_week(name)):
            self._show_week(self.session.job.weeks[-1].id)
            self._name.setFocus()
            self._name.selectAll()

    def _copy_week(self) -> None:
        week = self._week()
        if week is not None and self.session.apply(add_week(f"{week.name[:180]}, copy", like=week.id)):
            self._show_week(self.session.job.weeks[-1].id)

    def _remove(self) -> None:
        week = self._week()
        if week is not None and self.session.apply(remove_week(week.id)):
            self.session.notice(f"“{week.name}” removed", action="Undo", act=self.session.undo)

    def _renamed(self) -> None:
        week = self._week()
        name = self._name.text().strip()
        if week is not None and name and name != week.name:
            self.session.apply(set_week(week.id, f"Name the week “{name}”", name=name))

    def _apply_week(self) -> None:
        week = self._week()
        known = {camera.id for camera in self.session.job.cameras}
        ids = [device_id for device_id in self.session.chosen if device_id in known]
        if week is not None and ids:
            self.session.apply(set_fields(ids, f"Give {count(len(ids), 'camera')} “{week.name}”", week=week.id))

    def lead_to(self, subject: str) -> None:
        """Show a week, or a camera's row."""
        if any(week.id == subject for week in self.session.job.weeks):
            self._show_week(subject)
        else:
            self.cameras.lead_to(subject)
            self.cameras.setFocus()
