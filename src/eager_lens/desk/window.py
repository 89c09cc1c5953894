"""The window: header, rail, page in sight, findings, readout; commands, files and closing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QMimeData, Qt
from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QKeySequence,
    QResizeEvent,
    QShortcut,
)
from PySide6.QtWidgets import (
    QStackedWidget,
    QWidget,
)

from eager_lens.assets import asset
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Stage
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.job.file import ENDING, job_from_text
from eager_lens.core.job.model import new_job
from eager_lens.core.present.stages import STAGES
from eager_lens.desk import accessible
from eager_lens.desk.actions import MENUS
from eager_lens.desk.asking import JOB_FILE, LIST_FILE, Asker, DialogAsker
from eager_lens.desk.autosave import LeftWork, left_work
from eager_lens.desk.background import painted_first, stop_tasks_of
from eager_lens.desk.camera_lists import CameraLists
from eager_lens.desk.commands import Commands
from eager_lens.desk.enquiries import enquiry_view, practice_view, save_offer
from eager_lens.desk.firm import Firm
from eager_lens.desk.job_files import JobFiles
from eager_lens.desk.job_merging import JobMerger
from eager_lens.desk.pages import make_page
from eager_lens.desk.panels.header import Header
from eager_lens.desk.panels.notice_bar import NoticeBar
from eager_lens.desk.panels.rail import Rail
from eager_lens.desk.panels.readout import Readout
from eager_lens.desk.panels.shortcuts import Shortcuts
from eager_lens.desk.panels.side import SidePanel
from eager_lens.desk.panels.start_page import StartPage
from eager_lens.desk.searching import Hit
from eager_lens.desk.session import Session
from eager_lens.desk.templates import Templates
from eager_lens.desk.theme import look
from eager_lens.desk.widget_tree import widgets_below
from eager_lens.desk.widgets.basics import column, held, row
from eager_lens.desk.widgets.page import AddsCameras, ComparesScans, FindsFaults, Page, Practises
from eager_lens.desk.widgets.record_table import RecordTable

NARROW_PX = 1100
"""Below this width the findings give their room to the page until somebody opens them."""


ON_EVERY_PAGE: frozenset[Stage] = frozenset({"wiring", "addresses"})
SHOWN_ON: dict[str, frozenset[Stage]] = {
    "camera": frozenset[Stage](STAGES) - {"handover"},
    "recorder": ON_EVERY_PAGE | frozenset[Stage]({"sizing", "bench"}),
}
"""By role, the pages that have a device of it in sight besides; searched for from another, it is among the addresses."""


def demo_text() -> str:
    """The demo job as it ships."""
    return asset("demo", f"brindlemoor{ENDING}").read_text("utf-8")


MakesView = Callable[[Session, Callable[[], object], Callable[[], object]], QWidget]
"""Makes a view from which a job begins: what follows when it has, and how it is given up."""


class Window(QWidget):
    """Puts the parts together and carries out commands. It holds the parts, never the truth.

    It stands by itself, or inside a ``Shell`` that was in sight before this code was loaded.
    """

    def __init__(self, session: Session, asker: Asker | None = None) -> None:
        super().__init__()
        accessible.install()
        self.session = session
        self.asker: Asker = asker or DialogAsker(self)
        self.setAcceptDrops(True)
        self.files = JobFiles(session, self.asker)
        self.stage: Stage = "sizing"
        # True once somebody opened the findings by hand; then a narrow window keeps them open.
        self._side_asked = False
        self.pages: dict[Stage, Page] = {}
        self.lists = CameraLists(
            session, self.asker, self, self._show_list, lambda: self.go(self.stage), self._compare_scan
        )
        self.templates = Templates(session, self.asker, self.files.may_leave, self._opened, self.show_start)
        hold = partial(self.lists.hold, show=self._show_in_place)
        self.firm = Firm(session, self.asker, hold, self._leave_view)
        self.merger = JobMerger(session, self.asker, hold, self._leave_view)
        # Before _build: the header takes its menus from the commands.
        self.commands = Commands(session, self, self._handlers())
        self._make_shortcuts()
        self._follow_look()
        self._build()
        # Connected after _build: the slots below use the parts.
        session.assessed.connect(self._assessed)
        session.state_changed.connect(self._state_changed)
        session.noticed.connect(self.notices.show_notice)
        session.going.connect(self.go)
        session.command_asked.connect(self.run)
        session.list_pasted.connect(self.lists.paste)
        session.results_brought.connect(self.merger.take_results)
        session.fault_asked.connect(self._find_fault)
        session.preferences_changed.connect(self._apply_preferences)
        self._apply_preferences()
        self.show_start()

    # ---- parts ---------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        menus = [self.commands.menu(menu) for menu in MENUS]
        self.header = Header(self.session, menus, self.session.undo, self._toggle_side)
        self.header.search.picked.connect(self._picked)
        self.rail, self.side, self.readout = Rail(), SidePanel(self.session), Readout(self.session)
        self.rail.asked.connect(self.go)
        self.stack = QStackedWidget()
        # A page may be squeezed, but it never makes the window larger than somebody wants it.
        self.stack.setMinimumSize(320, 240)
        self.start = StartPage(self.run, self.open_path, self._take_up, self._give_up, self.templates.take)
        self.stack.addWidget(self.start)
        whole = held(column(self.lists.line, self.stack, spacing=0))
        middle = row(self.rail, whole, self.side, spacing=0)
        middle.setStretch(1, 1)
        layout = column(self.header, middle, self.readout, spacing=0)
        layout.setStretch(1, 1)
        self.setLayout(layout)
        self.notices = NoticeBar(self, self.rail, self.readout)

    def _handlers(self) -> dict[str, Callable[[], object]]:
        return {
            "new": self.new_job,
            "enquiry": lambda: self._hold(enquiry_view, lambda: self.go("wiring")),
            "practise": lambda: self._hold(practice_view, self._to_practice),
            "offer": lambda: save_offer(self.session, self.asker),
            "open": self.ask_open,
            "demo": self.open_demo,
            "save": self.files.save,
            "save-as": self.files.save_as,
            "merge-copy": self.merger.merge_copy,
            "save-template": self.templates.save,
            **self.firm.handlers(),
            "import": self.lists.ask,
            "paste-list": lambda: self.lists.paste(QGuiApplication.clipboard().text()),
            "start": self.ask_start,
            "quit": lambda: self.window().close(),
            "search": self._to_search,
            "add-camera": self._add_camera,
            "find-fault": lambda: self._find_fault(self.session.selected),
            "dark": lambda: self._toggle("dark"),
            "large": lambda: self._toggle("large_type"),
            "side": self._toggle_side,
            "shortcuts": lambda: Shortcuts(self).open(),
        }

    def _make_shortcuts(self) -> None:
        for number, stage in enumerate(STAGES, 1):
            shortcut = QShortcut(QKeySequence(f"Alt+{number}"), self)
            shortcut.activated.connect(partial(self.go, stage))
        for keys, act in (
            ("F6", self._next_part),
            ("Ctrl+PgDown", partial(self._next_view, 1)),
            ("Ctrl+PgUp", partial(self._next_view, -1)),
        ):
            QShortcut(QKeySequence(keys), self).activated.connect(act)

    def _next_view(self, by: int) -> None:
        page = self.pages.get(self.stage)
        if page is not None and page.isVisible():
            page.next_view(by)

    def _add_camera(self) -> None:
        self.go("wiring")
        page = self.pages["wiring"]
        assert isinstance(page, AddsCameras)
        page.add_camera()

    def run(self, action_id: str) -> None:
        """Carry out a command by its id."""
        self.commands.run(action_id)

    def _next_part(self) -> None:
        """Move the keyboard from part to part."""
        page = self.pages.get(self.stage)
        parts: list[QWidget] = [self.rail, *([page] if page else []), self.side, self.readout, self.header]
        focus = self.focusWidget()
        at = next(
            (i for i, part in enumerate(parts) if focus is not None and (part is focus or part.isAncestorOf(focus))), -1
        )
        for step in range(1, len(parts) + 1):
            part = parts[(at + step) % len(parts)]
            target = part if part.focusPolicy() != Qt.FocusPolicy.NoFocus else _first_focus(part)
            if part.isVisible() and target is not None:
                target.setFocus(Qt.FocusReason.TabFocusReason)
                return

    # ---- what is in sight ----------------------------------------------------------------------------------------

    def show_start(self) -> None:
        """Show the start page."""
        recent, left = self.session.preferences.recent, left_work(self.session.autosave_folder, self.session.own_copy)
        self.start.show_choices(recent, left, self.templates.paths())
        look.apply_style(self.start)
        self.stack.setCurrentWidget(self.start)
        for part in (self.rail, self.side, self.readout):
            part.hide()
        self.start.setFocus()

    def make_ready(self, stage: Stage) -> None:
        """Make a stage's page, if that was not done yet, in its style of now."""
        if stage not in self.pages:
            page = make_page(stage, self.session, self.asker)
            self.pages[stage] = page
            self.stack.addWidget(page)
            look.apply_style(page)

    def go(self, stage: Stage, subject: str = "") -> None:
        """Show a stage's page, and there a subject."""
        if not self.session.is_open:
            return
        self.lists.drop()
        self.make_ready(stage)
        self.stage = stage
        self.rail.show_stage(stage)
        self.side.show_stage(stage)
        self.rail.show()
        self.readout.show()
        self.stack.setCurrentWidget(self.pages[stage])
        self._show_side()
        if subject:
            self.pages[stage].lead_to(subject)
        elif not self.rail.hasFocus():
            _focus(self.pages[stage])

    def _to_practice(self) -> None:
        """Show the bench of a practice."""
        self.go("bench")
        page = self.pages["bench"]
        assert isinstance(page, Practises)
        page.show_practice()

    def _find_fault(self, ids: Sequence[str], symptom: str = "") -> None:
        """Show the fault finder, with devices and what is seen, where that is known."""
        self.go("bench")
        page = self.pages["bench"]
        assert isinstance(page, FindsFaults)
        page.find_fault(ids, symptom)

    def _show_side(self) -> None:
        roomy = self.width() >= look.px(NARROW_PX) or self._side_asked
        wanted = self.session.is_open and self.session.preferences.side_open and not self._on_start()
        self.side.setVisible(wanted and roomy)
        self.header.show_findings_button(self.session.is_open and not self._on_start() and not (wanted and roomy))

    def event(self, event: QEvent) -> bool:
        """Paint before work in the background goes on."""
        return painted_first(event, super().event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A narrow window gives the findings' room to the page."""
        self._show_side()

    def _on_start(self) -> bool:
        return self.stack.currentWidget() is self.start

    def _assessed(self, assessment: Assessment) -> None:
        self.rail.show_assessment(assessment)

    def _state_changed(self) -> None:
        session = self.session
        mark = "*" if session.unsaved else ""
        self.window().setWindowTitle(f"{mark}{session.job.name} – Eager Lens" if session.is_open else "Eager Lens")
        self.notices.refresh()

    def _picked(self, hit: Hit) -> None:
        if hit.action:
            self.run(hit.action)
            if self.header.search.hasFocus() and self.stack.currentWidget() is self.pages.get(self.stage):
                _focus(self.pages[self.stage])  # whoever typed a command goes on where it took effect
        elif hit.stage is not None:
            self.go(hit.stage, hit.subject)
            if hit.view:
                self.pages[hit.stage].show_named(hit.view)
        else:
            self.session.select([hit.subject])
            self.go(self.stage if self.stage in SHOWN_ON.get(hit.kind, ON_EVERY_PAGE) else "addresses", hit.subject)

    def _to_search(self) -> None:
        self.header.search.setFocus()
        self.header.search.selectAll()

    # ---- preferences ---------------------------------------------------------------------------------------------

    def _toggle(self, name: str) -> None:
        preferences = self.session.preferences
        self.session.set_preferences(preferences.model_copy(update={name: not getattr(preferences, name)}))

    def _toggle_side(self) -> None:
        """Open or close the findings; asked for by hand they open in a narrow window too."""
        shown = self.side.isVisible()
        self._side_asked = not shown
        preferences = self.session.preferences.model_copy(update={"side_open": not shown})
        self.session.set_preferences(preferences)
        self._show_side()

    def _apply_style(self) -> None:
        """Style what is in sight; what is not is styled when it comes into sight."""
        for part in (self.header, self.rail, self.readout, self.notices, self.lists.line):
            look.apply_style(part)
        if not self.side.isHidden():
            look.apply_style(self.side)
        if (seen := self.stack.currentWidget()) is not None:
            look.apply_style(seen)

    def _follow_look(self) -> None:
        preferences = self.session.preferences
        if (look.dark, look.large) != (preferences.dark, preferences.large_type):
            look.set_to(preferences.dark, preferences.large_type)

    def _apply_preferences(self) -> None:
        self._follow_look()
        # First who is in sight: what is hidden for want of room need not be styled.
        self._show_side()
        self._apply_style()
        preferences = self.session.preferences
        for name, on in (
            ("dark", preferences.dark),
            ("large", preferences.large_type),
            ("side", preferences.side_open),
        ):
            self.commands.check(name, on)

    # ---- jobs and files ------------------------------------------------------------------------------------------

    def new_job(self) -> None:
        """Begin with nothing."""
        if self.files.may_leave():
            self.session.start_job(self.firm.begun(new_job()))
            self.go("wiring")

    def _hold(self, make: MakesView, then: Callable[[], object]) -> None:
        """Put a view from which a job begins into the page's place: the questions, or the lessons."""
        if self.files.may_leave():
            self.lists.hold(make(self.session, then, self._leave_view), self._show_in_place)

    def _leave_view(self) -> None:
        self.lists.drop()
        if self.session.is_open:
            self.go(self.stage)
        else:
            self.show_start()

    def open_demo(self) -> None:
        """Open a fresh copy of the demo job."""
        if self.files.may_leave():
            self.session.start_job(job_from_text(demo_text()))
            self.go("sizing")

    def ask_start(self) -> None:
        """Leave the job for the start page."""
        if self.files.may_leave():
            self.session.close()
            self._state_changed()
            self.header.refresh()
            self.show_start()

    def ask_open(self) -> None:
        """Ask for a job file, or a camera list."""
        path = self.asker.open_file("Open a job", (JOB_FILE, LIST_FILE), self.session.path)
        if path is not None:
            self.open_path(path)

    def open_path(self, path: Path) -> None:
        """Open a job file, or import a list, by what its name says."""
        if path.name.lower().endswith(LIST_FILE.endings):
            self.lists.read(path)
        elif self.files.open(path):
            self._opened()

    def _opened(self) -> None:
        self.go("sizing" if self.session.job.cameras else "wiring")

    def _take_up(self, work: LeftWork) -> None:
        if self.files.take_up(work):
            self.go("sizing")
            self.session.notice("Recovered. It is not saved yet.", action="Save", act=lambda: self.run("save"))

    def _give_up(self, work: LeftWork) -> None:
        if self.files.give_up(work):
            self.show_start()

    def _show_list(self, view: QWidget) -> None:
        """Put the view of a camera list into sight, over a new job if none is open."""
        if not self.session.is_open:
            self.session.start_job(self.firm.begun(new_job()))
            self.go("wiring")
        self._show_in_place(view)

    def _compare_scan(self, table: RawTable) -> None:
        """Compare a scan list with the plan, on the page of addresses."""
        self.go("addresses")
        page = self.pages.get("addresses")
        if isinstance(page, ComparesScans):
            page.compare(table)
        else:
            self.session.notice("Open the job first; a scan list is compared with its plan", needs=True)

    def _show_in_place(self, view: QWidget) -> None:
        """Put a view where the page is; what was said of the page would lie over its buttons."""
        self.notices.hide()
        self.stack.addWidget(view)
        look.apply_style(view)
        self.stack.setCurrentWidget(view)

    # ---- closing and dropping ------------------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent) -> None:
        """Close, unless somebody would lose work and says so."""
        # A cell that is still being edited holds typed text that is in no job yet.
        self.commands.finish_typing()
        if self.files.may_leave():
            stop_tasks_of(self)
            self.session.close()
            event.accept()
        else:
            event.ignore()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files may be dropped on the window."""
        if _dropped_path(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open or import a dropped file."""
        path = _dropped_path(event.mimeData())
        if path is not None:
            self.open_path(path)


def _dropped_path(data: QMimeData) -> Path | None:
    urls = data.urls()
    return Path(urls[0].toLocalFile()) if len(urls) == 1 and urls[0].isLocalFile() else None


def _focus(page: QWidget) -> None:
    """Give the keyboard to a page: to its table, where it shows one."""
    next((table for table in page.findChildren(RecordTable) if table.isVisible()), page).setFocus()


def _first_focus(part: QWidget) -> QWidget | None:
    for child in widgets_below(part):
        if child.isVisible() and child.isEnabled() and child.focusPolicy() & Qt.FocusPolicy.TabFocus:
            return child
    return None
