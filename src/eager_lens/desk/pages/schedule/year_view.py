"""The year: exceptions and exceptions in which another week holds, and calendars in and out."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QLineEdit, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.exceptions import ExceptionFigures, exception_figures
from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.calendars.reading import CalendarRow, calendar_rows_of
from eager_lens.core.job.edits import Edit, add_exception, remove_exceptions, set_exception
from eager_lens.core.job.model import Job, ScheduleException, by_id
from eager_lens.core.job.parsed_exceptions import add_parsed_exception
from eager_lens.core.outgoing.formats.calendar import calendar_bytes
from eager_lens.core.recording.typed_dates import date_from, days_from
from eager_lens.core.recording.typed_exceptions import exception_from
from eager_lens.core.recording.week import DAYS, MODES
from eager_lens.core.recording.year import Dates, dates_on, days_of, minutes_on, year_hours
from eager_lens.core.units import figure, fixed
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.pages.schedule.calendar_view import CalendarView
from eager_lens.desk.pages.schedule.year_board import DayShown, YearBoard, legend_words
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.columns import marks_by_subject
from eager_lens.desk.widgets.current_stack import Stack
from eager_lens.desk.widgets.flow import flow, pair
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.writing import export

CALENDAR = FileKind("Calendar (iCalendar)", (".ics",))

SHORT_DAYS = {day: day.capitalize() for day in DAYS}

ANY = "any"


def _set(exceptions: Sequence[ScheduleException], heading: str, text: str, **fields: Any) -> Edit:
    return set_exception([one.id for one in exceptions], f"Set {heading.lower()} {text.strip() or 'empty'}", **fields)


def _schedule_named(text: str, job: Job, may_be_any: bool) -> str:
    wanted = text.strip().lower()
    if may_be_any and wanted in ("", ANY):
        return ""
    found = next((schedule.id for schedule in job.schedules if schedule.name.lower() == wanted), None)
    if found is None:
        raise RefusedInput(
            "Week",
            f"{text.strip()!r} is not a schedule of this job; there are {', '.join(w.name for w in job.schedules)}",
        )
    return found


def _name_of(schedule_id: str, assessment: Assessment) -> str:
    schedule = assessment.facts.schedules.get(schedule_id)
    return schedule.name if schedule is not None else (f"{schedule_id} (removed)" if schedule_id else ANY)


def _yes(text: str) -> bool:
    if text.strip().lower() not in ("yes", "no"):
        raise RefusedInput("Every year", f"{text.strip()!r} was given; allowed are yes and no")
    return text.strip().lower() == "yes"


def _date_columns() -> tuple[TableColumn, ...]:
    """Name and dates of an exception."""
    return (
        TableColumn(
            "name",
            "Exception",
            lambda one, a: one.name,
            lambda parts, text, job: _set(parts, "Name", text, name=text.strip()),
            width=124,
            one_by_one=True,
        ),
        TableColumn(
            "first",
            "From",
            lambda one, a: one.first.isoformat(),
            lambda parts, text, job: _set(parts, "From", text, first=date_from(text, "From")),
            width=92,
        ),
        TableColumn(
            "last",
            "To",
            lambda one, a: one.last.isoformat(),
            lambda parts, text, job: _set(parts, "To", text, last=date_from(text, "To")),
            width=92,
        ),
        TableColumn(
            "yearly",
            "Every year",
            lambda one, a: "yes" if one.yearly else "no",
            lambda parts, text, job: _set(parts, "Every year", text, yearly=_yes(text)),
            lambda one, job: ("yes", "no"),
            width=70,
        ),
        TableColumn(
            "days",
            "Days",
            lambda one, a: ", ".join(SHORT_DAYS[day] for day in one.days) or "all",
            lambda parts, text, job: _set(parts, "Days", text, days=days_from(text)),
            width=66,
        ),
    )


def _schedule_columns() -> tuple[TableColumn, ...]:
    """Which schedule holds then, and instead of which."""
    return (
        TableColumn(
            "instead_of",
            "Instead of",
            lambda one, a: _name_of(one.instead_of, a),
            lambda parts, text, job: _set(parts, "Instead of", text, instead_of=_schedule_named(text, job, True)),
            lambda one, job: [ANY, *_schedule_names(job)],
            width=106,
        ),
        TableColumn(
            "schedule",
            "Schedule",
            lambda one, a: _name_of(one.schedule, a),
            lambda parts, text, job: _set(parts, "Week", text, schedule=_schedule_named(text, job, False)),
            lambda one, job: _schedule_names(job),
            width=106,
        ),
    )


def _schedule_names(job: Job) -> list[str]:
    return [schedule.name for schedule in job.schedules]


class YearView(QWidget):
    """The board, its legend, the table of exceptions."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self.year = datetime.now().year
        self._figures: dict[str, list[ExceptionFigures]] = {}
        self._base = Choice()
        self._base.setAccessibleName("Cameras of this schedule")
        self._base.currentIndexChanged.connect(lambda _: self._draw_board())
        self._heading = label("", "heading")
        self.board = YearBoard()
        self.board.dates_selected.connect(self._dates_selected)
        self._legend = label("", "small", wrap=True)
        self._hours = label("", "muted", wrap=True)
        for part in (self._legend, self._hours):
            part.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.table = RecordTable(session, self._columns(), shares_selection=False)
        self.table.empty_words = (
            "No exceptions: every schedule applies all year. Drag over days above, or press Return on them, then add an "
            "exception; or import holidays from a calendar."
        )
        self.table.delete_asked.connect(lambda parts: session.apply(remove_exceptions([one.id for one in parts])))
        top = row(
            button("‹", lambda: self.show_year(self.year - 1), tip="Previous year"),
            self._heading,
            button("›", lambda: self.show_year(self.year + 1), tip="Next year"),
            label("Cameras of", "small"),
            self._base,
            None,
            button("From a calendar …", self._import, tip="Opening hours and holidays from an .ics file"),
            button("To a calendar …", self._export, "quiet"),
            spacing=SPACE.HALF,
        )
        self._add = button("Add an exception on these days", self._add_exception, "main")
        self._dates = label("", "small")
        self.said = QLineEdit()
        self.said.setPlaceholderText("closed on 25 December")
        self.said.setAccessibleName("An exception in words, such as closed on 25 December")
        look.fix_width(self.said, 220)
        self.said.returnPressed.connect(self._add_parsed)
        below = flow(
            self._add,
            self._dates,
            pair("or in words:", self.said),
            button("Add", self._add_parsed),
            None,
            button("Remove selected", self._remove, "quiet"),
        )
        self._reading = Busy(session, self)
        reading = self._reading.line("Reading the calendar")
        layout = column(top, reading, self.board, self._legend, self._hours, below, self.table, spacing=SPACE.HALF)
        layout.setStretch(6, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        year = QWidget()
        year.setLayout(layout)
        self.events = CalendarView(session, self._asked)
        self._pages = Stack()
        self._pages.addWidget(year)
        self._pages.addWidget(self.events)
        self.setLayout(column(self._pages))

    def _columns(self) -> tuple[TableColumn, ...]:
        stored = TableColumn("gb", "Stores", self._stored, unit="GB a day", align="right", width=96, stretch=True)
        return (*_date_columns(), *_schedule_columns(), stored)

    def _stored(self, one: ScheduleException, assessment: Assessment) -> str:
        touched = self._figures.get(one.id, [])
        return fixed(sum(got.gb_per_day for got in touched), 0) if touched else "as usual"

    # ---- drawing ---------------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the year."""
        self._figures = {}
        for one in exception_figures(assessment.facts):
            self._figures.setdefault(one.exception.id, []).append(one)
        job = assessment.job
        selected = self._base.currentData() or _most_used(job)
        self._base.offer([(schedule.id, schedule.name[:40]) for schedule in job.schedules], selected)
        self.table.show_parts(job.exceptions, assessment, marks_by_subject(assessment, "schedule"))
        self._draw_board()
        self.events.show_assessment(assessment)

    def show_year(self, year: int) -> None:
        """Show another year."""
        if 1990 <= year <= 2200:
            self.year = year
            self._draw_board()

    def show_base(self, schedule_id: str) -> None:
        """Show the year of the cameras that have this week."""
        self._base.setCurrentIndex(max(0, self._base.findData(schedule_id)))

    def _draw_board(self) -> None:
        job = self.session.job
        base = str(self._base.currentData() or "")
        exceptions = [exception.as_dates() for exception in job.exceptions]
        numbers = {exception.id: at for at, exception in enumerate(job.exceptions, 1)}
        names = {exception.id: exception.name for exception in job.exceptions}
        schedules = {schedule.id: schedule.name for schedule in job.schedules}
        days = {}
        for day in days_of(self.year):
            minutes = minutes_on(day, job.time_zone)
            here = dates_on(day, base, exceptions)
            if here or minutes != 1440:
                words = (
                    f"{names[here[-1].id]}, {schedules.get(here[-1].schedule, 'no schedule')}"
                    if here
                    else schedules.get(base, "")
                )
                change = "" if minutes == 1440 else f"; {minutes / 60:g} h, clock change"
                days[day] = DayShown(numbers[here[-1].id] if here else 0, words + change, minutes)
        self._heading.setText(str(self.year))
        self.board.show_year(self.year, days)
        ring = f"   circled: clock changes ({job.time_zone})" if any(d.minutes != 1440 for d in days.values()) else ""
        self._legend.setText((legend_words([exception.name for exception in job.exceptions]) + ring).strip())
        self._hours.setText(self._hours_words(job, base, exceptions))
        self._show_dates()

    def _hours_words(self, job: Job, base: str, exceptions: list[Dates]) -> str:
        if not base:
            return "Add a schedule first."
        plans = {schedule.id: schedule.plan for schedule in job.schedules}
        hours = year_hours(self.year, base, plans, exceptions, job.time_zone)
        whole = sum(hours.values())
        parts = ", ".join(f"{mode} {figure(hours[mode])} h" for mode in MODES if hours[mode])
        return f"{self.year} has {figure(whole)} h for these cameras: {parts}."

    def _show_dates(self) -> None:
        first, last = self.board.selected
        self._dates.setText(f"{first:%d %b}" if first == last else f"{first:%d %b} to {last:%d %b}")
        self._add.setEnabled(bool(self.session.job.schedules))

    def _dates_selected(self, first: date, last: date) -> None:
        self._show_dates()

    # ---- edits -----------------------------------------------------------------------------------------------------

    def _add_exception(self) -> None:
        job = self.session.job
        first, last = self.board.selected
        base = str(self._base.currentData() or "")
        other = next((schedule.id for schedule in job.schedules if schedule.id != base), base)
        taken = {exception.name for exception in job.exceptions}
        name = next(f"Exception {n}" for n in range(1, len(taken) + 2) if f"Exception {n}" not in taken)
        edit = add_exception(name, first, last, yearly=False, instead_of=base, schedule=other)
        if self.session.apply(edit):
            self.table.lead_to(self.session.job.exceptions[-1].id)
            self.session.notice("Added; now enter its name and schedule in the table")

    def _add_parsed(self) -> None:
        """Add what was typed in words, with a schedule that fits it."""
        try:
            said = exception_from(self.said.text(), self.year)
        except RefusedInput as error:
            self.session.notice(str(error), needs=True)
            return
        if self.session.apply(add_parsed_exception(said, str(self._base.currentData() or ""))):
            added = self.session.job.exceptions[-1]
            self.said.clear()
            self.table.lead_to(added.id)
            every = ", every year" if added.yearly else ""
            self.session.notice(f"“{added.name}” uses “{_name_of(added.schedule, self.session.assessment)}”{every}")

    def _remove(self) -> None:
        selected = [one.id for one in self.table.selected_parts()]
        if selected:
            self.session.apply(remove_exceptions(selected))
        else:
            self.session.notice("Select exceptions in the table first", needs=True)

    def _export(self) -> None:
        path = file_to_write(self.asker, "Schedules as a calendar", CALENDAR, self.session.beside(".ics"))
        if path is not None:
            export(self.session, path, calendar_bytes(self.session.job, self.year))

    def _import(self) -> None:
        path = self.asker.open_file("Opening hours from a calendar", (CALENDAR,))
        if path is not None:
            self.read(path)

    def read(self, path: Path) -> None:
        """Read a calendar and ask what its events are to become."""
        zone, year = self.session.job.time_zone, self.year
        self._reading.read(
            path,
            lambda selected, step: calendar_rows_of(selected, zone, year, step),
            lambda rows: self._ask(rows, path),
        )

    def _ask(self, rows: tuple[CalendarRow, ...], path: Path) -> None:
        self.events.show_rows(rows, path, str(self._base.currentData() or ""))
        self._pages.setCurrentWidget(self.events)

    def _asked(self) -> None:
        """The question is answered, or given up."""
        self._pages.setCurrentIndex(0)
        self.board.setFocus()


def _most_used(job: Job) -> str:
    """The week that most cameras have."""
    used: dict[str, int] = {}
    for camera in job.cameras:
        used[camera.schedule] = used.get(camera.schedule, 0) + 1
    known = by_id(job.schedules)
    return max((schedule for schedule in used if schedule in known), key=lambda schedule: used[schedule], default="")
