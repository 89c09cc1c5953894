"""Every camera on a recorder and a channel, and what each recorder takes in."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QScrollArea, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.limits import load_severity
from eager_lens.core.assess.rules.registering import has_no_recorder
from eager_lens.core.job.edits import Edit, add_recorder, set_fields
from eager_lens.core.job.fields import CAMERA_FIELDS, field_named
from eager_lens.core.job.model import Job, Recorder
from eager_lens.core.planning.registering import fill_the_channels, put_on_channel, register_on, unregister
from eager_lens.core.present.working import FigureRef
from eager_lens.core.units import count, figure, fixed
from eager_lens.desk.pages.bench.channels.channel_board import ChannelBoard, Holder
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, emptied, held, label
from eager_lens.desk.widgets.columns import device_column, marks_by_subject, rate_column
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.meter import Meter
from eager_lens.desk.widgets.plain_words import as_label
from eager_lens.desk.widgets.reading_order import keys_in_order
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

MOST_BOARDS = 24

COLUMNS: tuple[TableColumn, ...] = (
    device_column(field_named(CAMERA_FIELDS, "name"), 160, "Camera"),
    device_column(field_named(CAMERA_FIELDS, "place"), 100),
    device_column(field_named(CAMERA_FIELDS, "make"), 100),
    device_column(field_named(CAMERA_FIELDS, "recorder"), 170),
    device_column(field_named(CAMERA_FIELDS, "channel"), 70),
    device_column(field_named(CAMERA_FIELDS, "codec"), 70),
    rate_column(84, stretch=True),
)


class ChannelsView(QWidget):
    """The recorders' channel boards, and the table of cameras."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._put = button("Register selected on ▾")
        self._put_menu = QMenu(self._put)
        self._put_menu.aboutToShow.connect(self._fill_menu)
        self._put.setMenu(self._put_menu)
        actions = flow(
            button(
                "Register all cameras", self._fill, "main", tip="Cameras without a recorder get the next free channels"
            ),
            self._put,
            button("Unregister selected", self._take_off, "quiet"),
            button("Add a recorder", lambda: session.apply(add_recorder()), "quiet"),
            None,
        )
        self._boards_layout = QVBoxLayout()
        self._boards_layout.setSpacing(SPACE.HALF)
        inner = held(column(self._boards_layout, None))
        self._scroll = QScrollArea()
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setWidgetResizable(True)
        self._scroll.setWidget(inner)
        self.boards: dict[str, tuple[Meter, ChannelBoard]] = {}
        self.cameras = RecordTable(session, COLUMNS)
        self.cameras.setDragEnabled(True)
        layout = column(actions, self._scroll, label("All cameras", "heading"), self.cameras, spacing=SPACE.HALF)
        layout.setStretch(1, 5)
        layout.setStretch(3, 4)
        self.setLayout(layout)
        session.selection_changed.connect(lambda: self._draw_boards(session.assessment) if self.isVisible() else None)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw boards and table."""
        self.cameras.show_parts(assessment.job.cameras, assessment, marks_by_subject(assessment, "bench"))
        self._draw_boards(assessment)

    def _draw_boards(self, assessment: Assessment) -> None:
        recorders = assessment.job.recorders[:MOST_BOARDS]
        if list(self.boards) != [recorder.id for recorder in recorders]:
            self._build_boards(recorders)
        marks = marks_by_subject(assessment, "bench")
        names = {camera.id: camera for camera in assessment.job.cameras}
        selected = frozenset(self.session.selected)
        for recorder in recorders:
            meter, board = self.boards[recorder.id]
            got = assessment.recorder(recorder.id)
            over = load_severity(got.incoming_mbps, recorder.incoming_limit_mbps) is Severity.FAULT
            words = f"{recorder.name}: {count(got.cameras, 'camera')}, {recorder.channels} channels"
            load = f"{figure(got.incoming_mbps)} of {figure(recorder.incoming_limit_mbps)} Mb/s incoming, busier half"
            meter.show_share(words, load, got.incoming_mbps / recorder.incoming_limit_mbps, over)
            holders = {
                channel: [
                    Holder(i, names[i].name, f"{fixed(assessment.camera(i).rate_mbps, 1)} Mb/s mean", marks.get(i))
                    for i in ids
                ]
                for channel, ids in assessment.facts.held[recorder.id].items()
            }
            board.show_channels(recorder.channels, holders, selected)
            board.setAccessibleName(f"Channels of {recorder.name}")

    def _build_boards(self, recorders: tuple[Recorder, ...]) -> None:
        emptied(self._boards_layout)
        self.boards = {}
        for recorder in recorders:
            meter, board = Meter(), ChannelBoard()
            meter.pressed.connect(lambda i=recorder.id: self.session.show_working(FigureRef("incoming", i)))
            board.selected.connect(self.session.select)
            fault = QAction("Find the fault", board)
            fault.triggered.connect(lambda: self.session.fault_asked.emit(self.session.selected, ""))
            board.addAction(fault)
            board.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
            board.dropped.connect(lambda ids, channel, i=recorder.id: self._dropped(ids, i, channel))
            board.removed.connect(
                lambda ids, i=recorder.id: self.session.attempt(lambda: unregister(ids, i, self.session.job))
            )
            self._boards_layout.addWidget(meter)
            self._boards_layout.addWidget(board)
            self._boards_layout.addSpacing(SPACE.TIGHT)
            self.boards[recorder.id] = (meter, board)
        if not recorders:
            self._boards_layout.addWidget(
                label("No recorder yet. Add one to see its channels here.", "muted", wrap=True)
            )
        self._scroll.setMinimumHeight(look.px(120))
        keys_in_order(self)

    # ---- edits ---------------------------------------------------------------------------------------------------

    def _dropped(self, ids: list[str], recorder_id: str, channel: int) -> None:
        job = self.session.job
        if len(ids) == 1:
            camera = next((c for c in job.cameras if c.id == ids[0]), None)
            on_it = camera is not None and any(place.recorder == recorder_id for place in camera.registered)
            elsewhere = camera is not None and camera.registered and not on_it
            self.session.attempt(
                lambda: (
                    _moved(job, ids[0], recorder_id, channel)
                    if elsewhere
                    else put_on_channel(job, ids[0], recorder_id, channel)
                )
            )
        else:
            self.session.attempt(lambda: register_on(job, ids, recorder_id))

    def _fill(self) -> None:
        before = len(self.session.assessment.facts.having(has_no_recorder))
        if self.session.apply(fill_the_channels()):
            left = len(self.session.assessment.facts.having(has_no_recorder))
            words = f"{count(before - left, 'camera')} registered"
            self.session.notice(words + (f"; no channel is left for {left}" if left else ""), needs=bool(left))

    def _selected_cameras(self) -> list[str]:
        known = {camera.id for camera in self.session.job.cameras}
        return [device_id for device_id in self.session.selected if device_id in known]

    def _fill_menu(self) -> None:
        self._put_menu.clear()
        for recorder in self.session.job.recorders:
            self._put_menu.addAction(as_label(recorder.name), partial(self._register, recorder.id, False))
            self._put_menu.addAction(f"{recorder.name}, in addition", partial(self._register, recorder.id, True))
        if not self.session.job.recorders:
            self._put_menu.addAction("Add a recorder first").setEnabled(False)

    def _register(self, recorder_id: str, add: bool) -> None:
        ids = self._selected_cameras()
        if ids:
            self.session.attempt(lambda: register_on(self.session.job, ids, recorder_id, add))
        else:
            self.session.notice("Select cameras first", needs=True)

    def _take_off(self) -> None:
        ids = self._selected_cameras()
        if not ids:
            self.session.notice("Select cameras first", needs=True)
            return
        self.session.apply(set_fields(ids, f"Unregister {count(len(ids), 'camera')} from all recorders", registered=()))

    def lead_to(self, subject: str) -> None:
        """Show a camera's row, or a recorder's board."""
        if subject in self.boards:
            self._scroll.ensureWidgetVisible(self.boards[subject][1])
            self.boards[subject][1].setFocus()
        else:
            self.cameras.lead_to(subject)
            self.cameras.setFocus()


def _moved(job: Job, camera_id: str, recorder_id: str, channel: int) -> Edit:
    """Move a camera from one recorder to a channel of another, in one step."""
    off = set_fields([camera_id], "off", registered=())
    name = next(camera.name for camera in job.cameras if camera.id == camera_id)

    def apply(present: Job) -> Job:
        cleared = off.apply(present)
        return put_on_channel(cleared, camera_id, recorder_id, channel).apply(cleared)

    return Edit(f"Move {name} to channel {channel}", apply)
