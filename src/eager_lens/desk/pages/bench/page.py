"""The bench: channels, the bring-up as a plan, the rehearsal on simulated devices, the makes' habits, the passwords."""

from __future__ import annotations

from functools import partial
from typing import Protocol

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.desk.pages.bench.channels_view import ChannelsView
from eager_lens.desk.pages.bench.makes_view import MakesView
from eager_lens.desk.pages.bench.passwords_view import PasswordsView
from eager_lens.desk.pages.bench.plan_view import PlanView
from eager_lens.desk.pages.bench.rehearsal_view import RehearsalView
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button, label
from eager_lens.desk.widgets.channel_board import ChannelBoard
from eager_lens.desk.widgets.current_stack import CurrentStack
from eager_lens.desk.widgets.meter import Meter
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.record_table import RecordTable

CHANNELS, PLAN, REHEARSAL, MAKES, PASSWORDS = range(5)

WORDS = ("Channels", "Bring-up plan", "Rehearsal", "Makes", "Passwords …")

TIPS = (
    "Every camera on a recorder and a channel",
    "What to power when, what to type, how long to wait",
    "The job's devices, simulated: try the order of work and its faults",
    "How each make behaves out of the box",
    "Made by rule, kept in a sealed file beside the job",
)


class ShowsAssessment(Protocol):
    """A view of the page."""

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view."""
        ...


class BenchPage(Page):
    """The views behind a row of tabs; only the one in sight is drawn."""

    stage = "bench"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.channels, self.passwords = ChannelsView(session), PasswordsView(session)
        self.rehearsal, self.makes = RehearsalView(session), MakesView(session)
        self.plan = PlanView(session, self.rehearsal.rehearser)
        self.rehearsal.steps_asked = lambda: self.plan.placed
        self._views: tuple[QWidget, ...] = (self.channels, self.plan, self.rehearsal, self.makes, self.passwords)
        self._stack = CurrentStack()
        self._tabs = [button(words, partial(self.show_view, at), "tab", TIPS[at]) for at, words in enumerate(WORDS)]
        for tab, view in zip(self._tabs, self._views, strict=True):
            self.action_row.addWidget(tab)
            self._stack.addWidget(view)
        self.action_row.setSpacing(0)
        self.action_row.addStretch(1)
        self.passwords.closed.connect(lambda: self.show_view(CHANNELS))
        self.plan.made_anew.connect(self.rehearsal.show_next_step)
        self.plan.played.connect(lambda: self.show_view(REHEARSAL))
        self.body.addWidget(self._stack, 1)
        self._caution = label(
            "Recorder first, then cameras; give them three to five minutes to start before you judge. The default password "
            "never stays. Local codes and the makers' instructions come before this plan.",
            "caution",
            wrap=True,
        )
        self.body.addWidget(self._caution)
        self.show_view(CHANNELS)

    def show_view(self, at: int) -> None:
        """Bring a view into sight."""
        if at != REHEARSAL:
            self.rehearsal.rehearser.pause()
        self._stack.setCurrentIndex(at)
        for number, tab in enumerate(self._tabs):
            tab.setChecked(number == at)
        self._caution.setVisible(at == CHANNELS)
        if self.isVisible():
            self._draw()

    def show_passwords(self) -> None:
        """Bring the device passwords into sight, closed."""
        self.show_view(PASSWORDS)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view in sight."""
        self._draw()

    def hideEvent(self, event: object) -> None:
        """The rehearsal's clock stops while nobody looks."""
        self.rehearsal.rehearser.pause()

    def _draw(self) -> None:
        view: ShowsAssessment = self._views[self._stack.currentIndex()]  # type: ignore[assignment]
        view.show_assessment(self.session.assessment)
        if view is self.rehearsal:
            self.plan.show_assessment(self.session.assessment)

    @property
    def boards(self) -> dict[str, tuple[Meter, ChannelBoard]]:
        """By recorder, its meter and its channel board."""
        return self.channels.boards

    @property
    def cameras(self) -> RecordTable:
        """The table of cameras."""
        return self.channels.cameras

    def lead_to(self, subject: str) -> None:
        """Show a camera's row, or a recorder's board."""
        self.show_view(CHANNELS)
        self.channels.lead_to(subject)
