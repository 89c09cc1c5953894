"""Does the storage hold? Days kept against days asked, what each camera costs, and what would change it.

Above stands a picture, below its table, and between them the tabs: each tab names both.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple, Protocol

from PySide6.QtCore import QMimeData, Qt, QTimer
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import misses_purpose
from eager_lens.core.assess.figures.whole_job import tightest_recorder
from eager_lens.core.job.edits import add_recorder
from eager_lens.core.job.model import Camera, Recorder, by_id
from eager_lens.core.present.working import FigureRef
from eager_lens.desk.asking import CLIP_FILE, Asker
from eager_lens.desk.pages.sizing.columns import CAMERA_COLUMNS, RECORDER_COLUMNS, SETTING_OF_COLUMN
from eager_lens.desk.pages.sizing.curve_view import CurveView
from eager_lens.desk.pages.sizing.made_later import MadeLater
from eager_lens.desk.pages.sizing.meters import RecorderMeters
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, held, label, row
from eager_lens.desk.widgets.columns import marks_by_subject
from eager_lens.desk.widgets.current_stack import CurrentStack, Stack
from eager_lens.desk.widgets.device_tables import removes_devices
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.plain_words import set_tip
from eager_lens.desk.widgets.reading_order import keys_in_order
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.splitter import Splitter

if TYPE_CHECKING:  # loaded when they are looked at first
    from eager_lens.desk.pages.sizing.best_view import BestView
    from eager_lens.desk.pages.sizing.clip_view import ClipView
    from eager_lens.desk.pages.sizing.drives_view import DrivesView
    from eager_lens.desk.pages.sizing.levers_view import LeversView
    from eager_lens.desk.pages.sizing.promise_view import PromiseView
    from eager_lens.desk.pages.sizing.purpose_view import PurposeView

CAMERAS, RECORDERS, PROMISE, ASSUMED, LEVERS, BEST, PURPOSE, CLIP = range(8)
"""The tabs, from left to right."""


MARKED_STAGES = ("sizing", "bench", "schedule")
"""Findings of these stages mark rows here."""


class ShowsRecorder(Protocol):
    """A view that works something out for one recorder, off the window's thread."""

    def show_recorder(self, recorder: Recorder | None, assessment: Assessment) -> None:
        """Show it for a recorder."""
        ...


class Tab(NamedTuple):
    """A tab: its words, the picture above, the table below, and a hint beside the tabs.

    A picture beside the meters is ``beside`` them; one that takes their room too is not. The picture gets ``share`` of
    the height, to six of the table.
    """

    words: str
    above: QWidget
    below: QWidget
    beside: bool
    hint: str
    share: int = 5


def dropped_clip(data: QMimeData) -> Path | None:
    """The clip that is being dragged, if it is one."""
    urls = data.urls()
    if len(urls) != 1 or not urls[0].isLocalFile():
        return None
    path = Path(urls[0].toLocalFile())
    return path if path.suffix.lower() in CLIP_FILE.endings else None


class SizingPage(Page):
    """Storage and bandwidth."""

    stage = "sizing"

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        self._recorder_id = ""
        self.curve, self.meters = CurveView(session), RecorderMeters(session)
        self.cameras = RecordTable(session, CAMERA_COLUMNS, group_by=lambda camera: camera.place)
        self.recorders = RecordTable(session, RECORDER_COLUMNS, shares_selection=False)
        for table in (self.cameras, self.recorders):
            removes_devices(table, session)
        self.tabs = self._made_tabs()
        self._lay_out()
        self.meters.pressed.connect(self._meter_pressed)
        self.setAcceptDrops(True)
        self._show_tab(CAMERAS)
        self.cameras.selectionModel().currentColumnChanged.connect(lambda index, _: self._follow_column(index.column()))
        session.selection_changed.connect(self._follow_selection)

    def _made_tabs(self) -> tuple[Tab, ...]:
        promise = MadeLater(lambda: self.promise)
        return (
            Tab(
                "Cameras",
                self.curve,
                self.cameras,
                True,
                "Dashed: estimated or entered. Type over a bit rate, then select when it was measured.",
            ),
            Tab("Recorders", self.curve, MadeLater(self._recorders_and_drives), True, "Type over any cell."),
            Tab(
                "Promise",
                promise,
                MadeLater(lambda: self.promise.table),
                True,
                "Causes of the spread of days.",
                13,
            ),
            Tab(
                "Assumed",
                promise,
                MadeLater(lambda: self.promise.assumed),
                True,
                "All assumptions; change them above.",
                11,
            ),
            Tab(
                "What helps most",
                self.curve,
                MadeLater(lambda: self.levers),
                True,
                "Each change by itself; measured cameras stay unchanged.",
            ),
            Tab(
                "Best picture",
                MadeLater(lambda: self.best),
                MadeLater(lambda: self.best.table),
                True,
                "What changes for each camera, most important first.",
                14,
            ),
            Tab(
                "Purpose",
                MadeLater(lambda: self.purpose.sketch),
                MadeLater(lambda: self.purpose.table),
                False,
                "Pixel density at the target; purposes by IEC 62676-4.",
            ),
            Tab(
                "Clip",
                MadeLater(lambda: self.clip),
                MadeLater(lambda: self.clip.below),
                False,
                "Figures of a real recording.",
                6,
            ),
        )

    def _recorders_and_drives(self) -> Splitter:
        split = Splitter(Qt.Orientation.Vertical)
        split.addWidget(self.recorders)
        split.addWidget(self.drives)
        split.setChildrenCollapsible(False)
        split.setStretchFactor(1, 1)
        split.setSizes([110, 220])
        return split

    def _lay_out(self) -> None:
        """Pictures beside the meters in one stack, that stack and the wider pictures in another; tables in a third."""
        self._beside, self._above, self._below = CurrentStack(), CurrentStack(), Stack()
        with_meters = QWidget()
        top = row(self._beside, self.meters, spacing=SPACE.WIDE)
        top.setStretch(0, 13)
        top.setStretch(1, 8)
        top.setContentsMargins(0, 0, 0, 0)
        with_meters.setLayout(top)
        self._above.addWidget(with_meters)
        for tab in self.tabs:
            (self._beside if tab.beside else self._above).addWidget(tab.above)
            self._below.addWidget(tab.below)
        self._with_meters = with_meters
        self._buttons = [button(tab.words, partial(self._show_tab, at), "tab") for at, tab in enumerate(self.tabs)]
        self._hint = label("", "small")
        add = button("Add a recorder", lambda: self.session.apply(add_recorder()), "quiet")
        between = held(flow(*self._buttons, None, self._hint, add, spacing=0))
        self.body.addWidget(self._above, 5)
        self.body.addWidget(between)
        self.body.addWidget(self._below, 6)

    # ---- views, made when they are looked at first ---------------------------------------------------------------

    @cached_property
    def promise(self) -> PromiseView:
        """What can be promised, and what is assumed."""
        from eager_lens.desk.pages.sizing.promise_view import PromiseView

        return PromiseView(self.session)

    @cached_property
    def levers(self) -> LeversView:
        """What helps most."""
        from eager_lens.desk.pages.sizing.levers_view import LeversView

        return LeversView(self.session)

    @cached_property
    def best(self) -> BestView:
        """The best picture."""
        from eager_lens.desk.pages.sizing.best_view import BestView

        return BestView(self.session)

    @cached_property
    def purpose(self) -> PurposeView:
        """What each camera serves."""
        from eager_lens.desk.pages.sizing.purpose_view import PurposeView

        view = PurposeView(self.session)
        removes_devices(view.table, self.session)
        return view

    @cached_property
    def drives(self) -> DrivesView:
        """Which drives to buy."""
        from eager_lens.desk.pages.sizing.drives_view import DrivesView

        return DrivesView(self.session, self.asker)

    @cached_property
    def clip(self) -> ClipView:
        """What a clip of the real camera shows."""
        from eager_lens.desk.pages.sizing.clip_view import ClipView

        return ClipView(self.session, self.asker)

    # ---- tabs ----------------------------------------------------------------------------------------------------

    @property
    def tab(self) -> int:
        """The tab in sight."""
        return self._below.currentIndex()

    def _show_tab(self, at: int) -> None:
        tab = self.tabs[at]
        made = [part for part in (tab.above, tab.below) if isinstance(part, MadeLater) and part.fill()]
        self._below.setCurrentIndex(at)
        if tab.beside:
            self._beside.setCurrentWidget(tab.above)
        # Set after filling MadeLater: an empty placeholder would be laid out and painted first.
        self._above.setCurrentWidget(self._with_meters if tab.beside else tab.above)
        self.body.setStretch(self.body.indexOf(self._above), tab.share)
        for number, one in enumerate(self._buttons):
            one.setChecked(number == at)
        self._fit_hint()
        self._show_worked_out()
        # New views have controls of their own, so the Tab order of the whole page is made again.
        if made:
            keys_in_order(self)

    def _fit_hint(self) -> None:
        """Show the hint where it fits as a whole; half a sentence helps nobody."""
        words = self.tabs[self.tab].hint
        fits = self._hint.fontMetrics().horizontalAdvance(words) + 2 * SPACE.HALF <= self._hint.width()
        self._hint.setText(words if fits else "")
        set_tip(self._hint, words)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """See whether the hint fits."""
        super().resizeEvent(event)
        # Later: the hint's own width is known only after the layout has run.
        QTimer.singleShot(0, self, self._fit_hint)

    def show_cameras(self) -> None:
        """Bring the cameras' table into sight."""
        self._show_tab(CAMERAS)

    def show_levers(self) -> None:
        """Bring what helps most into sight."""
        self._show_tab(LEVERS)

    def show_promise(self) -> None:
        """Bring what can be promised into sight."""
        self._show_tab(PROMISE)

    def show_best(self) -> None:
        """Bring the best picture into sight."""
        self._show_tab(BEST)

    def show_purpose(self) -> None:
        """Bring what each camera serves into sight."""
        self._show_tab(PURPOSE)

    def show_clip(self, path: Path, camera_id: str = "") -> None:
        """Read a clip and bring it into sight."""
        self._show_tab(CLIP)
        self.clip.read(path, camera_id)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Clips may be dropped on the page; other files are the window's."""
        if dropped_clip(event.mimeData()) is not None:
            event.acceptProposedAction()
        else:
            event.ignore()

    def dropEvent(self, event: QDropEvent) -> None:
        """Read the clip, for the camera on whose row it was dropped."""
        path = dropped_clip(event.mimeData())
        if path is not None:
            under = self.cameras.indexAt(self.cameras.viewport().mapFrom(self, event.position().toPoint()))
            part = self.cameras.records.at(under.row()) if self.cameras.isVisible() and under.isValid() else None
            self.show_clip(path, part.id if isinstance(part, Camera) else "")

    # ---- drawing -------------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw curve, meters and tables."""
        job = assessment.job
        marks = marks_by_subject(assessment, *MARKED_STAGES)
        self.cameras.show_parts(job.cameras, assessment, marks)
        self.recorders.show_parts(job.recorders, assessment, marks)
        self.meters.show_assessment(assessment)
        self._buttons[CAMERAS].setText(f"Cameras {len(job.cameras)}")
        self._buttons[RECORDERS].setText(f"Recorders {len(job.recorders)}")
        self._show_focus()

    def _show_focus(self) -> None:
        """Show what belongs to the recorder in focus."""
        self.curve.show_recorder(self._recorder_in_focus())
        self._show_worked_out()

    def _show_worked_out(self) -> None:
        """Work out what takes a while, or has a row for each camera, if it is in sight."""
        assessment = self.session.assessment
        if self.tab == PURPOSE:
            self.purpose.show_assessment(assessment, marks_by_subject(assessment, *MARKED_STAGES))
        elif self.tab == CLIP:
            self.clip.follow_selection()
            self.clip.show_assessment(assessment)
        views: dict[int, Callable[[], ShowsRecorder]] = {
            RECORDERS: lambda: self.drives,
            LEVERS: lambda: self.levers,
            PROMISE: lambda: self.promise,
            ASSUMED: lambda: self.promise,
            BEST: lambda: self.best,
        }
        if self.tab in views:
            views[self.tab]().show_recorder(self._recorder_in_focus(), assessment)

    def _follow_selection(self) -> None:
        if self.isVisible():
            self._show_focus()

    def _meter_pressed(self, ref: FigureRef) -> None:
        self._recorder_id = ref.subject
        self._show_focus()
        self.session.show_working(ref)

    def _recorder_in_focus(self) -> Recorder | None:
        """The recorder of the selected cameras, else the one last pressed, else the one that keeps fewest days."""
        job = self.session.job
        recorders = by_id(job.recorders)
        selected = set(self.session.selected)
        for device_id in self.session.selected:
            if device_id in recorders:
                return recorders[device_id]
        for camera in job.cameras:
            if camera.id in selected and camera.registered and camera.registered[0].recorder in recorders:
                return recorders[camera.registered[0].recorder]
        if self._recorder_id in recorders:
            return recorders[self._recorder_id]
        return tightest_recorder(self.session.assessment.facts)

    def _follow_column(self, at: int) -> None:
        """The curve varies the setting in whose column the keyboard stands."""
        setting = SETTING_OF_COLUMN.get(CAMERA_COLUMNS[at].id) if at >= 0 else None
        if setting is not None:
            self.curve.vary(setting)

    def lead_to(self, subject: str) -> None:
        """Show a camera's or recorder's row; a camera that misses its purpose among the purposes."""
        camera = by_id(self.session.job.cameras).get(subject)
        misses = camera is not None and misses_purpose(camera)
        cameras = PURPOSE if misses or self.tab == PURPOSE else CAMERAS
        if cameras == PURPOSE:
            self._show_tab(PURPOSE)
        of_cameras = self.purpose.table if cameras == PURPOSE else self.cameras
        for at, table in ((cameras, of_cameras), (RECORDERS, self.recorders)):
            table.records.unfold_for(subject)
            if table.records.row_of(subject) is not None:
                self._show_tab(at)
                table.lead_to(subject)
                table.setFocus()
        if subject in self.meters.pairs:
            self._recorder_id = subject
            self._show_focus()
