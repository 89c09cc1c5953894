"""Recording on movement: its times and the chain to the clip, and a rule tried before the wind does."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.desk.pages.movement.times_view import TimesView
from eager_lens.desk.pages.movement.try_view import TryView
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button
from eager_lens.desk.widgets.current_stack import CurrentStack
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.record_table import RecordTable

TIMES, TRY = range(2)


class MovementPage(Page):
    """The views behind a row of tabs; only the one in sight is drawn."""

    stage = "movement"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.times, self.trying = TimesView(session), TryView(session)
        self._views = (self.times, self.trying)
        self._stack = CurrentStack()
        words = ("Before, after and the chain", "Try the rule")
        self._tabs = [button(text, partial(self.show_view, at), "tab") for at, text in enumerate(words)]
        parts: tuple[QWidget, ...] = self._views
        for tab, view in zip(self._tabs, parts, strict=True):
            self.action_row.addWidget(tab)
            self._stack.addWidget(view)
        self.action_row.setSpacing(0)
        self.action_row.addStretch(1)
        self.body.addWidget(self._stack, 1)
        session.chosen_changed.connect(self._choice_changed)
        self.show_view(TIMES)

    def show_view(self, at: int) -> None:
        """Bring a view into sight."""
        self._stack.setCurrentIndex(at)
        for number, tab in enumerate(self._tabs):
            tab.setChecked(number == at)
        if self.isVisible():
            self.show_assessment(self.session.assessment)

    def _choice_changed(self) -> None:
        if self.isVisible() and self._stack.currentIndex() == TRY:
            self.trying.show_assessment(self.session.assessment)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view in sight."""
        self._views[self._stack.currentIndex()].show_assessment(assessment)

    @property
    def cameras(self) -> RecordTable:
        """The table of cameras."""
        return self.times.cameras

    def lead_to(self, subject: str) -> None:
        """Show a camera's row."""
        self.show_view(TIMES)
        self.times.lead_to(subject)
