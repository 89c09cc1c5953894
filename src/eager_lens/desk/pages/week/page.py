"""When cameras record, and how: the weeks, the year with its seasons, and each recorder's whole week as one picture."""

from __future__ import annotations

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.week.recorder_view import RecorderView
from eager_lens.desk.pages.week.week_view import WeekView
from eager_lens.desk.pages.week.year_view import YearView
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.page import TabbedPage
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.week_strip import WeekStrip

WEEKS, YEAR, RECORDERS = range(3)


class WeekPage(TabbedPage):
    """Weeks, year, and what a recorder records."""

    stage = "week"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.week, self.year, self.recorder = WeekView(session), YearView(session), RecorderView(session)
        self.lay_out_views(
            (
                ("Weeks", "Painted hours, applied to many cameras", self.week),
                ("Year", "Seasons and exceptions, calendars in and out", self.year),
                ("What a recorder records", "All its cameras as one picture", self.recorder),
            )
        )

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view in sight."""
        self._tabs[YEAR].setText(
            f"Year, {count(len(assessment.job.seasons), 'season')}" if assessment.job.seasons else "Year"
        )
        super().show_assessment(assessment)

    @property
    def strip(self) -> WeekStrip:
        """The painted week."""
        return self.week.strip

    @property
    def cameras(self) -> RecordTable:
        """The table of cameras."""
        return self.week.cameras

    @property
    def asker(self) -> Asker | None:
        """Where the page asks for files."""
        return self.year.asker

    @asker.setter
    def asker(self, asker: Asker | None) -> None:
        self.year.asker = asker

    def lead_to(self, subject: str) -> None:
        """Show a week, a season, or a camera's row."""
        if any(season.id == subject for season in self.session.job.seasons):
            self.show_view(YEAR)
            self.year.table.lead_to(subject)
        else:
            self.show_view(WEEKS)
            self.week.lead_to(subject)
