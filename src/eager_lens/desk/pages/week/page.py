"""When cameras record, and how: the weeks, the year with its seasons, and each recorder's whole week as one picture."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.week.recorder_view import RecorderView
from eager_lens.desk.pages.week.week_view import WeekView
from eager_lens.desk.pages.week.year_view import YearView
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button
from eager_lens.desk.widgets.current_stack import CurrentStack
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.week_strip import WeekStrip

WEEKS, YEAR, RECORDERS = range(3)


class WeekPage(Page):
    """The views behind a row of tabs; only the one in sight is drawn."""

    stage = "week"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.week, self.year, self.recorder = WeekView(session), YearView(session), RecorderView(session)
        self._views = (self.week, self.year, self.recorder)
        self._stack = CurrentStack()
        words = ("Weeks", "Year", "What a recorder records")
        self._tabs = [button(text, partial(self.show_view, at), "tab") for at, text in enumerate(words)]
        parts: tuple[QWidget, ...] = self._views
        for tab, view in zip(self._tabs, parts, strict=True):
            self.action_row.addWidget(tab)
            self._stack.addWidget(view)
        self.action_row.setSpacing(0)
        self.action_row.addStretch(1)
        self.body.addWidget(self._stack, 1)
        self.show_view(WEEKS)

    def show_view(self, at: int) -> None:
        """Bring a view into sight."""
        self._stack.setCurrentIndex(at)
        for number, tab in enumerate(self._tabs):
            tab.setChecked(number == at)
        if self.isVisible():
            self.show_assessment(self.session.assessment)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view in sight."""
        self._tabs[YEAR].setText(f"Year {len(assessment.job.seasons)}" if assessment.job.seasons else "Year")
        self._views[self._stack.currentIndex()].show_assessment(assessment)

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
