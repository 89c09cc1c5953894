"""When cameras record, and how: the weeks, the year with its exceptions, and each recorder's whole week as one picture."""

from __future__ import annotations

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.schedule.recorder_view import RecorderView
from eager_lens.desk.pages.schedule.schedule_view import ScheduleView
from eager_lens.desk.pages.schedule.week_strip import WeekStrip
from eager_lens.desk.pages.schedule.year_view import YearView
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.page import TabbedPage
from eager_lens.desk.widgets.record_table import RecordTable

SCHEDULES, YEAR, RECORDERS = range(3)


class SchedulePage(TabbedPage):
    """Weeks, year, and what a recorder records."""

    stage = "schedule"

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        self.schedule, self.year, self.recorder = ScheduleView(session), YearView(session, asker), RecorderView(session)
        self.lay_out_views(
            (
                ("Schedules", "Hours of the week, for many cameras at once", self.schedule),
                ("Year", "Exceptions, calendar import and export", self.year),
                ("What a recorder records", "All cameras of a recorder in one picture", self.recorder),
            )
        )

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view in sight."""
        self._tabs[YEAR].setText(
            f"Year, {count(len(assessment.job.exceptions), 'exception')}" if assessment.job.exceptions else "Year"
        )
        super().show_assessment(assessment)

    @property
    def strip(self) -> WeekStrip:
        """The painted week."""
        return self.schedule.strip

    @property
    def cameras(self) -> RecordTable:
        """The table of cameras."""
        return self.schedule.cameras

    def lead_to(self, subject: str) -> None:
        """Show a week, an exception, or a camera's row."""
        if any(exception.id == subject for exception in self.session.job.exceptions):
            self.show_view(YEAR)
            self.year.table.lead_to(subject)
        else:
            self.show_view(SCHEDULES)
            self.schedule.lead_to(subject)
