"""The frame of every page: verdict, the facts behind it, what can be done, then the page's own body."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Protocol, runtime_checkable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Stage
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.present.stages import verdict_of
from eager_lens.desk.asking import Asker
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, held, label
from eager_lens.desk.widgets.current_stack import CurrentStack
from eager_lens.desk.widgets.flow import Flow
from eager_lens.desk.widgets.reading_order import keys_in_order


class ShowsAssessment(Protocol):
    """A view of a page."""

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view."""
        ...


@runtime_checkable
class ComparesScans(Protocol):
    """A page that compares the list of a search tool with the plan."""

    def compare(self, table: RawTable) -> None:
        """Take a list."""
        ...


@runtime_checkable
class AddsCameras(Protocol):
    """A page on which a camera can be begun from anywhere in the window."""

    def add_camera(self) -> None:
        """Add a camera and begin to type its name."""
        ...


@runtime_checkable
class FindsFaults(Protocol):
    """A page that looks for the cause of what is seen on devices."""

    def find_fault(self, ids: Sequence[str], symptom: str) -> None:
        """Show the fault finder with these devices, and begin where it is known what is seen."""
        ...


@runtime_checkable
class Practises(Protocol):
    """A page on which a practice is worked at."""

    def show_practice(self) -> None:
        """Bring the bench of a practice into sight."""
        ...


class Page(QWidget):
    """A stage's page. Subclasses fill ``action_row`` and ``body`` and redraw in ``show_assessment``.

    A page that is not in sight does no work: the assessment that it missed is shown when it comes into sight.
    """

    stage: Stage

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session, self.asker = session, asker
        self._shown: Assessment | None = None
        self._in_order = False
        self._verdict = label("", "verdict", wrap=True)
        self._verdict.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._facts = label("", "muted", wrap=True)
        self.action_row = Flow()
        self.body = QVBoxLayout()
        self.body.setSpacing(SPACE.HALF)
        for part in (self._verdict, self._facts):
            part.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE.WIDE, SPACE.FULL, SPACE.WIDE, SPACE.HALF)
        layout.setSpacing(SPACE.HALF)
        layout.addWidget(held(column(self._verdict, self._facts, self.action_row)))
        layout.addLayout(self.body, 1)
        session.opened.connect(self._let_go)
        session.assessed.connect(self._assessed)

    def _let_go(self) -> None:
        self._shown = None

    def _assessed(self, assessment: Assessment) -> None:
        if self.isVisible():
            self._show(assessment)

    def showEvent(self, event: object) -> None:
        """Catch up with what changed while the page was out of sight."""
        look.apply_style(self)
        if self._shown is not self.session.assessment:
            self._show(self.session.assessment)
            if not self._in_order:
                self._in_order = True
                keys_in_order(self)

    def _show(self, assessment: Assessment) -> None:
        self._shown = assessment
        verdict = verdict_of(self.stage, assessment)
        self._verdict.setText(verdict.sentence)
        self._facts.setText(verdict.facts)
        self.show_assessment(assessment)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the page for an assessment."""
        raise NotImplementedError

    def show_named(self, words: str) -> None:
        """Bring the view into sight whose tab begins with these words."""
        tab = next((one for one in self._tabs_in_sight() if one.text().startswith(words)), None)
        if tab is not None:
            tab.click()

    def next_view(self, by: int) -> None:
        """Bring the next view into sight, or with -1 the one before: by the row of tabs that is in sight."""
        tabs = self._tabs_in_sight()
        at = next((at for at, tab in enumerate(tabs) if tab.isChecked()), None)
        if at is not None:
            tabs[(at + by) % len(tabs)].click()

    def _tabs_in_sight(self) -> list[QPushButton]:
        return [one for one in self.findChildren(QPushButton) if one.property("kind") == "tab" and one.isVisible()]

    def lead_to(self, subject: str) -> None:
        """Bring a subject into sight: a device, week or subnet, by id."""


class TabbedPage(Page):
    """A page of several views behind a row of tabs; only the one in sight is drawn."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        self._stack = CurrentStack()
        self._tabs: list[QPushButton] = []

    def lay_out_views(self, views: Sequence[tuple[str, str, QWidget]]) -> None:
        """Put views (the tab's words, its tip, and the view itself) behind tabs, above what the page has in
        its body already, and bring the first into sight."""
        for at, (words, tip, view) in enumerate(views):
            tab = button(words, partial(self.show_view, at), "tab", tip)
            self._tabs.append(tab)
            self.action_row.addWidget(tab)
            self._stack.addWidget(view)
        self.action_row.setSpacing(0)
        self.action_row.addStretch(1)
        self.body.insertWidget(0, self._stack, 1)
        self.show_view(0)

    @property
    def shown_view(self) -> int:
        """The number of the view in sight."""
        return self._stack.currentIndex()

    def show_view(self, at: int) -> None:
        """Bring a view into sight."""
        self._stack.setCurrentIndex(at)
        for number, tab in enumerate(self._tabs):
            tab.setChecked(number == at)
        if self.isVisible():
            self.show_assessment(self.session.assessment)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view in sight."""
        view: ShowsAssessment = self._stack.currentWidget()  # type: ignore[assignment]
        view.show_assessment(assessment)
