"""The rehearsal: the shelf with its lights, what a search shows, the recorders' channels, the clock, the event log, the hand."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QLineEdit, QMenu, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.fields import number_from
from eager_lens.core.job.model import changed
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.runbook.next_step import NextStep
from eager_lens.core.runbook.timing import Placed
from eager_lens.core.simulation.actions.looking import Answer, answers
from eager_lens.core.simulation.build import LAPTOP
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.site import Site
from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.bench.rehearsal.actions_view import ActionsView
from eager_lens.desk.pages.bench.rehearsal.practice_view import PracticeAccount, PracticeStrip
from eager_lens.desk.pages.bench.rehearsal.rehearser import SPEEDS, Rehearser
from eager_lens.desk.pages.bench.rehearsal.rows import (
    CHANNEL_COLUMNS,
    FOUND_COLUMNS,
    LOG_COLUMNS,
    SHELF_COLUMNS,
    FoundRow,
    channel_rows,
    fault_seen,
    log_rows,
    shelf_rows,
)
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.current_stack import Stack
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.plain_words import set_tip
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.splitter import Splitter

REDRAW_MS = 250

SEARCH, CHANNELS = range(2)


class RehearsalView(QWidget):
    """See the module's text. ``steps_asked`` gives the commissioning's schedule, so that the next step can be told."""

    def __init__(self, session: Session, asker: Asker, steps_asked: Callable[[], list[Placed]]) -> None:
        super().__init__()
        self.session, self.asker, self.steps_asked = session, asker, steps_asked
        self.rehearser = Rehearser(session, self)
        self.rehearser.changed.connect(self._draw)
        self.rehearser.passed.connect(self._time_passed)
        self._searched: list[Answer] = []
        self._searched_of: Site | None = None
        self._next: NextStep | None = None
        self._accounting = False
        self._redraw = QTimer(self, singleShot=True, interval=REDRAW_MS)
        self._redraw.timeout.connect(self._draw)
        self._make_clock()
        self._make_plan_line()
        self.shelf = RecordTable(session, SHELF_COLUMNS, shares_selection=False)
        self.shelf.selectionModel().selectionChanged.connect(lambda *_: self._show_hand())
        self.found = RecordTable(session, FOUND_COLUMNS, shares_selection=False)
        self.found.empty_words = "No search yet. Select the laptop in the device list, then Search."
        self.found.selectionModel().selectionChanged.connect(lambda *_: self._follow_found())
        self.channels = RecordTable(session, CHANNEL_COLUMNS, shares_selection=False)
        self.channels.empty_words = "No channel is in use. Select a recorder in the device list, then add a camera."
        self.log_table = RecordTable(session, LOG_COLUMNS, shares_selection=False)
        self.log_table.empty_words = "Everything that happens, and why, is listed here."
        self.hand = ActionsView(self.do)
        self._lay_out()
        self._show_list(SEARCH)

    def _make_clock(self) -> None:
        self._clock = label("", "figure")
        self._run = button("Run", self._toggle, tip="Run the clock (it stops while you are on another tab)")
        self._speed = Choice()
        self._speed.setAccessibleName("Speed of the clock")
        for speed in SPEEDS:
            self._speed.addItem("real time" if speed == 1 else f"{speed} times", speed)
        self._speed.setCurrentIndex(SPEEDS.index(self.rehearser.speed))
        self._speed.currentIndexChanged.connect(self._speed_selected)
        self._again = button("Start a rehearsal", self.begin, "main")
        self.begins, self.warmth, self.seed = QLineEdit("2026-03-02T09:00"), QLineEdit("20"), QLineEdit("1")

    def _make_plan_line(self) -> None:
        self._plan_words = label("", "", wrap=True)
        self._plan_words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self._plan_do = button("Do this step", self.do_next, "main", "Takes as long as on site")

    def _make_clock_row(self) -> None:
        rehearser = self.rehearser
        self._back = button("More ▾", kind="quiet")
        menu = QMenu(self._back)
        menu.addAction("Back to the selected line of the event log", self._back_to_line)
        menu.addAction("Until dusk or dawn", rehearser.to_dusk_or_dawn)
        menu.addAction("Start over with new devices", rehearser.forget)
        self._back.setMenu(menu)
        self._clock_row = QWidget()
        clock = flow(
            self._clock,
            self._run,
            self._speed,
            button("+1 min", lambda: rehearser.pass_time(60)),
            button("Next event", rehearser.to_next_event, tip="Run until something is logged"),
            button("Undo action", rehearser.back_one, "quiet", "Undo the last action and the time since"),
            self._back,
            None,
            spacing=SPACE.TIGHT,
        )
        clock.setContentsMargins(0, 0, 0, 0)
        self._clock_row.setLayout(clock)

    def _beside(self) -> Splitter:
        """The shelf, and beside it the search list and the channels."""
        self._list_tabs = [
            button("Search list", lambda: self._show_list(SEARCH), "tab"),
            button("Channels", lambda: self._show_list(CHANNELS), "tab"),
        ]
        self._lists = Stack()
        self._lists.addWidget(self.found)
        self._lists.addWidget(self.channels)
        right = QWidget()
        tabs = flow(
            *self._list_tabs,
            None,
            button("Search now", lambda: self.do("search", LAPTOP, {}), "quiet", "From the laptop, on its network"),
            button("Refresh", self._refresh_recorders, "quiet", "Update the channels of all recorders now"),
            button("Find the fault", self._find_fault, "quiet", "Find the fault of the selected channel"),
            spacing=0,
        )
        lists = column(tabs, self._lists, spacing=SPACE.TIGHT)
        lists.setStretch(1, 1)
        right.setLayout(lists)
        beside = Splitter(Qt.Orientation.Horizontal)
        beside.addWidget(self.shelf)
        beside.addWidget(right)
        beside.setStretchFactor(0, 1)
        beside.setStretchFactor(1, 3)
        beside.setChildrenCollapsible(False)
        beside.setSizes([look.px(390), look.px(400)])
        return beside

    def _make_begin_part(self) -> None:
        self._begin_part = QWidget()
        fields = (("Begins, local time", self.begins), ("Temperature, °C", self.warmth), ("Random seed", self.seed))
        for words, field in fields:
            field.setAccessibleName(words)
            field.returnPressed.connect(self.begin)
        parts = [part for words, field in fields for part in (label(words, "small"), field)]
        self._begin_part.setLayout(row(*parts, self._again, None))

    def _lay_out(self) -> None:
        self._make_clock_row()
        self._make_begin_part()
        self._plan = QWidget()
        plan = row(self._plan_words, self._plan_do)
        plan.setStretch(0, 1)
        self._plan.setLayout(plan)
        self.practice = PracticeStrip(self.session, self.rehearser)
        self.practice.account_asked.connect(self._show_account)
        self.account = PracticeAccount(self.session, self.rehearser, self.asker)
        self.account.left.connect(self._leave_account)
        self._site_part = QWidget()
        self.empty = label("", "", wrap=True)
        beside = self._beside()
        site = column(self._plan, self.practice, beside, self.hand, self.log_table, spacing=SPACE.HALF)
        site.setStretch(2, 5)
        site.setStretch(4, 3)
        self._site_part.setLayout(site)
        building = row(self.rehearser.busy.bar, self.rehearser.busy.stop_button)
        layout = column(
            self._clock_row,
            building,
            self.empty,
            self._begin_part,
            self._site_part,
            self.account,
            None,
            spacing=SPACE.HALF,
        )
        layout.setStretch(4, 100)
        layout.setStretch(5, 100)
        self.account.hide()
        self.setLayout(layout)

    def _show_account(self) -> None:
        """The account of a practice takes the place of its bench."""
        self.rehearser.pause()
        if self.account.show_account():
            self._accounting = True
            self._draw()
            self.account.setFocus()

    def _leave_account(self) -> None:
        self._accounting = False
        self._draw()
        self.shelf.setFocus()

    # ---- drawing ---------------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Follow the job's rehearsal, and draw the site as it stands."""
        self.rehearser.follow(assessment)
        self._draw()

    def _time_passed(self) -> None:
        self._show_clock()
        if not self._redraw.isActive():
            self._redraw.start()

    def _draw(self) -> None:
        site, building = self.rehearser.site, self.rehearser.busy.is_running
        self._accounting = self._accounting and site is not None and bool(self.rehearser.practice)
        self._clock_row.setVisible(site is not None and not self._accounting)
        self._site_part.setVisible(site is not None and not self._accounting)
        self.account.setVisible(self._accounting)
        self._begin_part.setVisible(site is None and not building)  # also where a practice could not be built
        self.empty.setVisible(site is None)
        devices = any(True for _ in self.session.job.devices())
        if building:
            self.empty.setText("Building the site from the job …")
        elif not devices:
            self.empty.setText("The job is empty. Add recorders and cameras on the Wiring page to see them here.")
        else:
            self.empty.setText(
                "The devices of the job, simulated out of the box, with the wiring of the job. Connect, search, set up and "
                "register them in any order, and see what happens. Everything can be undone. Never enter real passwords here."
            )
        if site is not None:
            self._show_site(site)

    def _show_site(self, site: Site) -> None:
        assessment = self.session.assessment
        self._show_clock()
        self._run.setText("Pause" if self.rehearser.is_running else "Run")
        self.shelf.show_parts(shelf_rows(site), assessment)
        if site is not self._searched_of:
            self._searched, self._searched_of = [], site
        held: dict[str, int] = {}
        for one in self._searched:
            held[one.address] = held.get(one.address, 0) + 1
        found = [
            FoundRow(one.unit_id, one, one.address != "0.0.0.0" and held[one.address] > 1) for one in self._searched
        ]
        self.found.show_parts(found, assessment)
        self._list_tabs[SEARCH].setText(f"Search list {len(found)}" if found else "Search list")
        hides = bool(self.rehearser.practice)
        channels = channel_rows(site, hides)
        self.channels.show_parts(channels, assessment)
        receiving = sum(one.entry.shown == "receiving" for one in channels)
        words = f", {receiving} of {len(channels)} receiving" if channels else ""
        self._list_tabs[CHANNELS].setText(f"Channels{words}")
        self.log_table.show_parts(log_rows(site, hides), assessment)
        self.practice.refresh()
        self._plan.setVisible(not self.rehearser.practice)
        self.show_next_step()
        self._show_hand()

    def _show_clock(self) -> None:
        site = self.rehearser.site
        if site is not None:
            self._clock.setText(f"{site.local():%a %d %b %H:%M:%S}")
            set_tip(self._clock, f"{site.now_s / 60:.1f} min since the start")

    def show_next_step(self) -> None:
        """Tell what the plan wants next."""
        placed = self.steps_asked()
        self._next = self.rehearser.next_step(placed) if placed else None
        one = self._next
        self._plan_do.setVisible(one is not None and one.step is not None)
        so_far = f"{one.done} of {len(placed)} done" if one is not None else ""
        if one is None:
            words = "Calculating the commissioning plan …"
        elif one.step is None and one.done == len(placed):
            words = f"All {len(placed)} steps of the plan are done."
        elif one.step is None:
            words = f"Plan: {so_far}; the other steps cannot go on from here. Undo something, or start over."
        elif one.waits_s:
            words = f"Plan: {so_far}. Wait {one.waits_s:.0f} s for “{one.step.title}”."
        else:
            typed = f"  Type: {one.step.type_in}." if one.step.type_in else ""
            words = f"Plan: {so_far}. Next: {one.step.title}.{typed}"
        self._plan_words.setText(words)
        self._plan_do.setText("Wait" if one is not None and one.waits_s else "Do this step")
        set_tip(self._plan_words, one.step.caution if one is not None and one.step is not None else "")

    def begin(self) -> None:
        """Start a rehearsal with what is typed for it."""
        try:
            warmth = number_from(self.warmth.text(), "°C")
            seed = number_from(self.seed.text())
            begun = changed(Rehearsal(), begins=self.begins.text().strip(), ambient_c=warmth, seed=seed)
            datetime.fromisoformat(begun.begins)
        except (EagerLensError, ValueError) as error:
            self.session.notice(f"The rehearsal cannot start: {error}", needs=True)
            return
        self.rehearser.begin(begun)

    # ---- the hand --------------------------------------------------------------------------------------------------

    def selected_unit(self) -> Unit | None:
        """The device selected on the shelf; the laptop while none is."""
        site = self.rehearser.site
        if site is None:
            return None
        selected = self.shelf.selected_parts()
        return site.units.get(selected[0].id if selected else LAPTOP)

    def _show_hand(self) -> None:
        self.hand.show_unit(self.rehearser.site, self.selected_unit())

    def _follow_found(self) -> None:
        """A line of the search list is matched to its device by the end of its MAC address."""
        selected = self.found.selected_parts()
        if selected:
            self.shelf.lead_to(selected[0].id)

    def do(self, name: str, device: str, values: dict[str, str]) -> None:
        """Do an action, and show what came of it."""
        outcome = self.rehearser.do(name, device, values)
        if outcome is None:
            return
        site = self.rehearser.site
        if name == "search" and site is not None:
            self._searched, self._searched_of = answers(site), site
            self._show_list(SEARCH)
        elif name in ("add", "own make", "refresh", "remove", "rename", "find"):
            self._show_list(CHANNELS)
        self.hand.refresh()
        self.hand.tell(outcome.words, needs=not outcome.done)
        self._draw()

    def _refresh_recorders(self) -> None:
        site = self.rehearser.site
        for recorder in list(site.recorders()) if site is not None else ():
            if recorder.runs and recorder.access.is_set_up:
                self.do("refresh", recorder.id, {})

    def do_next(self) -> None:
        """Do the next step of the plan, or let the time pass that it waits for."""
        one = self._next
        if one is None or one.step is None:
            return
        if one.waits_s:
            self.rehearser.pass_time(one.waits_s + 0.5)
        else:
            self.shelf.lead_to(one.step.device_id)
            self.rehearser.do_step(one.step)
            if one.step.phase == "laptop" or one.step.key.endswith("/set-up"):
                site = self.rehearser.site
                if site is not None:
                    self._searched, self._searched_of = answers(site), site
        self.hand.refresh()
        self._draw()

    def _find_fault(self) -> None:
        """Take the selected channel, or the first without a picture, to the fault finder."""
        site = self.rehearser.site
        found = fault_seen(site, self.channels.selected_parts()) if site is not None else None
        if found is None:
            self._show_list(CHANNELS)
            self.session.notice("Select a channel of a camera of the job without a picture", needs=True)
            return
        self.session.fault_asked.emit([found[0]], found[1])

    def _show_list(self, at: int) -> None:
        self._lists.setCurrentIndex(at)
        for number, tab in enumerate(self._list_tabs):
            tab.setChecked(number == at)

    # ---- time ------------------------------------------------------------------------------------------------------

    def _toggle(self) -> None:
        if self.rehearser.is_running:
            self.rehearser.pause()
        else:
            self.rehearser.run()

    def _speed_selected(self, at: int) -> None:
        self.rehearser.speed = SPEEDS[at]

    def _back_to_line(self) -> None:
        selected = self.log_table.selected_parts()
        if not selected:
            self.session.notice("Select a line of the event log first", needs=True)
            return
        self.rehearser.back_to(selected[0].line.at_s)
