"""Does the storage hold? Days kept against days asked, what each camera costs, and what would change it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache
from pathlib import Path

from PySide6.QtCore import QMimeData, Qt, QTimer
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import QComboBox, QScrollArea, QSizePolicy, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.curves import SETTINGS, Setting, days_curve
from eager_lens.core.assess.figures import life_of, misses_purpose
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.working import FigureRef
from eager_lens.core.job.edits import add_recorder, set_each, set_retention
from eager_lens.core.job.fields import CAMERA_FIELDS, RECORDER_FIELDS, field_named
from eager_lens.core.job.model import Camera, Recorder, by_id
from eager_lens.core.sizing.drive_life import DriveLife
from eager_lens.core.units import count, figure, fixed
from eager_lens.desk.asking import CLIP_FILE, Asker
from eager_lens.desk.pages.sizing.best_view import BestView
from eager_lens.desk.pages.sizing.clip_view import ClipView
from eager_lens.desk.pages.sizing.drives_view import DrivesView
from eager_lens.desk.pages.sizing.levers_view import LeversView
from eager_lens.desk.pages.sizing.promise_view import PromiseView
from eager_lens.desk.pages.sizing.purpose_view import PurposeView
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, emptied, label, row
from eager_lens.desk.widgets.columns import device_column, marks_by_subject, rate_column, stored_column
from eager_lens.desk.widgets.curve import CurveChart, CurveData, Level
from eager_lens.desk.widgets.device_tables import removes_devices
from eager_lens.desk.widgets.meter import Meter
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable


@lru_cache(maxsize=1)
def _largest_gb_per_day(assessment: Assessment) -> float:
    """The longest bar's figure; asked for at each cell, so it is kept for as long as the assessment is the same."""
    return max((got.gb_per_day for got in assessment.facts.camera_figures.values()), default=0.0)


def _hours_by_mode(camera: Camera, assessment: Assessment) -> str:
    got = assessment.camera(camera.id)
    parts = (("always", got.always_h_per_day), ("movement", got.movement_h_per_day), ("input", got.input_h_per_day))
    return " · ".join(f"{mode} {figure(hours)}" for mode, hours in parts if hours) or "idle"


def _bar(camera: Camera, assessment: Assessment) -> float:
    largest = _largest_gb_per_day(assessment)
    return assessment.camera(camera.id).gb_per_day / largest if largest else 0.0


def _sum(name: str, places: int) -> Callable[[Sequence[Camera], Assessment], str]:
    """The sum of a figure over a group's cameras."""
    return lambda cameras, a: fixed(sum(getattr(a.camera(camera.id), name) for camera in cameras), places)


CAMERA_COLUMNS: tuple[TableColumn, ...] = (
    device_column(field_named(CAMERA_FIELDS, "name"), 150, "Camera"),
    device_column(field_named(CAMERA_FIELDS, "picture"), 88),
    device_column(field_named(CAMERA_FIELDS, "fps"), 44, ""),
    rate_column(78, group=_sum("rate_mbps", 1)),
    stored_column(124, bar=_bar, group=_sum("gb_per_day", 0)),
    device_column(field_named(CAMERA_FIELDS, "scene"), 150),
    device_column(field_named(CAMERA_FIELDS, "week"), 150),
    TableColumn("hours", "Hours", _hours_by_mode, unit="h a day", width=190),
    device_column(field_named(CAMERA_FIELDS, "codec"), 66),
    device_column(field_named(CAMERA_FIELDS, "quality"), 66),
    device_column(field_named(CAMERA_FIELDS, "key_frame_s"), 100),
    device_column(field_named(CAMERA_FIELDS, "rate_control"), 130),
    device_column(field_named(CAMERA_FIELDS, "cap_mbps"), 90),
    TableColumn("peak", "Peak", lambda c, a: fixed(a.camera(c.id).peak_mbps, 1), unit="Mb/s", align="right", width=96),
)

SETTING_OF_COLUMN: dict[str, Setting] = {"fps": "fps", "picture": "width_px", "key_frame_s": "key_frame_s"}


def _life(words: Callable[[DriveLife], str]) -> Callable[[Recorder, Assessment], str]:
    """What recording does to a recorder's drives, in words."""

    def show(recorder: Recorder, assessment: Assessment) -> str:
        life = life_of(recorder, assessment.recorder(recorder.id))
        return "–" if life is None else words(life)

    return show


def _worn(recorder: Recorder, assessment: Assessment) -> Mark:
    life = life_of(recorder, assessment.recorder(recorder.id))
    over = life is not None and life.written_tb_per_year > recorder.drive_rated_tb_per_year * (1 + 1e-9)
    return Severity.DOUBT if over else None


def _drives_working(recorder: Recorder) -> FigureRef:
    return FigureRef("drives", recorder.id)


def _own(*names: tuple[str, int]) -> tuple[TableColumn, ...]:
    return tuple(device_column(field_named(RECORDER_FIELDS, name), width) for name, width in names)


RECORDER_COLUMNS: tuple[TableColumn, ...] = (
    *_own(
        ("name", 150),
        ("drives", 56),
        ("drive_tb", 96),
        ("level", 140),
        ("bays", 50),
        ("spares", 58),
        ("reserve_share", 80),
    ),
    TableColumn(
        "written",
        "Written on each",
        _life(lambda life: figure(life.written_tb_per_year)),
        unit="TB a year",
        align="right",
        width=180,
        mark=_worn,
        working=_drives_working,
    ),
    TableColumn(
        "rebuild",
        "Rebuild",
        _life(lambda life: "–" if life.rebuild_h is None else figure(life.rebuild_h)),
        unit="h",
        align="right",
        width=84,
        working=_drives_working,
    ),
    TableColumn(
        "lost",
        "Lost in it",
        _life(lambda life: "–" if life.second_failure_share is None else figure(100 * life.second_failure_share)),
        unit="%",
        align="right",
        width=90,
        working=_drives_working,
    ),
    *_own(
        ("drive_rated_tb_per_year", 160),
        ("rebuild_mb_per_s", 120),
        ("drive_failures_per_year", 150),
        ("channels", 74),
        ("incoming_limit_mbps", 138),
        ("largest_megapixels", 180),
        ("codecs", 150),
    ),
)


CAMERAS, RECORDERS, PROMISE, LEVERS, BEST, PURPOSE, CLIP = range(7)
"""The tabs, from left to right."""


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

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._recorder_id = ""
        self.promise = PromiseView(session)
        self.best = BestView(session)
        self._setting = QComboBox()
        for kind in SETTINGS.values():
            self._setting.addItem(kind.label, kind.id)
        self._setting.currentIndexChanged.connect(lambda _: self._draw_curve())
        self._setting.setAccessibleName("Setting that the curve varies")
        self._chart = CurveChart("")
        self._chart.picked.connect(self._picked)
        self._chart_words = label("", "heading")
        self._whom = label("", "small", wrap=True)
        self._adopt = button("", self._adopt_value, "main")
        self._adopt.hide()
        self._value: float | None = None
        left = column(
            row(self._chart_words, self._setting, None, self._adopt),
            self._chart,
            self._whom,
            spacing=SPACE.TIGHT,
        )
        left.setStretch(1, 1)
        self._least = NumberField("Least days to keep", "days")
        self._most = NumberField("Most days to keep", "days", "no limit")
        right = self._right_side()
        self._chance = QStackedWidget()
        over_setting = QWidget()
        left.setContentsMargins(0, 0, 0, 0)
        over_setting.setLayout(left)
        self._chance.addWidget(over_setting)
        self._chance.addWidget(self.promise)
        self._chance.addWidget(self.best)
        top = row(self._chance, right, spacing=SPACE.WIDE)
        top.setStretch(0, 13)
        top.setStretch(1, 8)
        self._tabs = [
            button("Cameras", lambda: self._show_tab(CAMERAS), "tab"),
            button("Recorders", lambda: self._show_tab(RECORDERS), "tab"),
            button("Promise", lambda: self._show_tab(PROMISE), "tab"),
            button("What helps most", lambda: self._show_tab(LEVERS), "tab"),
            button("Best picture", lambda: self._show_tab(BEST), "tab"),
            button("Purpose", lambda: self._show_tab(PURPOSE), "tab"),
            button("Clip", lambda: self._show_tab(CLIP), "tab"),
        ]
        self.purpose = PurposeView(session)
        self.clip = ClipView(session)
        self.levers = LeversView(session)
        self.cameras = RecordTable(session, CAMERA_COLUMNS, group_by=lambda camera: camera.place)
        self.recorders = RecordTable(session, RECORDER_COLUMNS, shares_choice=False)
        for table in (self.cameras, self.recorders, self.purpose.table):
            removes_devices(table, session)
        self._stack = QStackedWidget()
        self._stack.addWidget(self.cameras)
        self.drives = DrivesView(session)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.recorders)
        split.addWidget(self.drives)
        split.setChildrenCollapsible(False)
        split.setStretchFactor(1, 1)
        split.setSizes([110, 220])
        self._stack.addWidget(split)
        self._stack.addWidget(self.promise.table)
        self._stack.addWidget(self.levers)
        self._stack.addWidget(self.best.table)
        self._stack.addWidget(self.purpose.table)
        self._stack.addWidget(self.clip.below)
        self._table_hint = label("", "small")
        self._hint_words = ""
        self._table_hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        tabs = row(*self._tabs, self._table_hint, spacing=0)
        tabs.setStretch(len(self._tabs), 1)
        tabs.addWidget(button("Add a recorder", lambda: session.apply(add_recorder()), "quiet"))
        self._above = QStackedWidget()
        days = QWidget()
        days.setLayout(top)
        self._above.addWidget(days)
        self._above.addWidget(self.purpose.sketch)
        self._above.addWidget(self.clip)
        self.setAcceptDrops(True)
        self.body.addWidget(self._above, 5)
        self.body.addLayout(tabs)
        self.body.addWidget(self._stack, 6)
        self._show_tab(CAMERAS)
        self.cameras.selectionModel().currentColumnChanged.connect(lambda index, _: self._follow_column(index.column()))
        session.chosen_changed.connect(self._follow_choice)

    def _right_side(self) -> QVBoxLayout:
        for box in (self._least, self._most):
            box.typed.connect(self._retention_typed)
            box.refused.connect(lambda text: self.session.notice(text, needs=True))
        self._meters = QVBoxLayout()
        self._meters.setSpacing(SPACE.HALF)
        inner = QWidget()
        inner.setLayout(column(self._meters, None))
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inner)
        self._meter_pairs: dict[str, tuple[Meter, Meter]] = {}
        layout = column(
            label("Recorders", "heading"),
            row(label("Keep at least", "small"), self._least, label("at most", "small"), self._most, None),
            scroll,
            spacing=SPACE.HALF,
        )
        layout.setStretch(2, 1)
        return layout

    def _show_tab(self, at: int) -> None:
        self._stack.setCurrentIndex(at)
        self._above.setCurrentIndex({PURPOSE: 1, CLIP: 2}.get(at, 0))
        self._chance.setCurrentIndex({PROMISE: 1, BEST: 2}.get(at, 0))
        for number, tab in enumerate(self._tabs):
            tab.setChecked(number == at)
        hints = (
            "  Dashed: assumed. Type over a rate to enter a measured one.",
            "  Type over any cell.",
            "  What the spread of days comes from.",
            "  Each change alone; measured cameras stay as they are.",
            "  What is given up where, most first.",
            "  Aimed at a face; purposes by IEC 62676-4.",
            "  What the real camera sent.",
        )
        self._hint_words = hints[at]
        self._fit_hint()
        self._show_worked_out()

    def _fit_hint(self) -> None:
        """Show the hint where it fits as a whole; half a sentence helps nobody."""
        fits = self._table_hint.fontMetrics().horizontalAdvance(self._hint_words) <= self._table_hint.width()
        self._table_hint.setText(self._hint_words if fits else "")
        self._table_hint.setToolTip(self._hint_words.strip())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """See whether the hint fits."""
        super().resizeEvent(event)
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

    @property
    def asker(self) -> Asker | None:
        """Where the page asks for files."""
        return self.clip.asker

    @asker.setter
    def asker(self, asker: Asker | None) -> None:
        self.clip.asker = self.drives.asker = asker

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

    def _follow_choice(self) -> None:
        self.clip.follow_choice()
        if self.isVisible():
            self._draw_curve()
            self._show_worked_out()

    def _show_worked_out(self) -> None:
        """Work out what takes a while, if it is in sight."""
        at = self._stack.currentIndex()
        if at == RECORDERS:
            self.drives.show_recorder(self._recorder_in_focus(), self.session.assessment)
        elif at == LEVERS:
            self.levers.show_recorder(self._recorder_in_focus(), self.session.assessment)
        elif at == PROMISE:
            self.promise.show_recorder(self._recorder_in_focus(), self.session.assessment)
        elif at == BEST:
            self.best.show_recorder(self._recorder_in_focus(), self.session.assessment)

    # ---- drawing -------------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw curve, meters and tables."""
        job = assessment.job
        self._least.show_value(job.retention.least_days)
        self._most.show_value(job.retention.most_days)
        marks = marks_by_subject(assessment, "sizing", "bench", "week")
        self.cameras.show_parts(job.cameras, assessment, marks)
        self.recorders.show_parts(job.recorders, assessment, marks)
        self.purpose.show_assessment(assessment, marks)
        self.clip.show_assessment(assessment)
        self._tabs[0].setText(f"Cameras {len(job.cameras)}")
        self._tabs[1].setText(f"Recorders {len(job.recorders)}")
        self._draw_meters(assessment)
        self._draw_curve()
        self._show_worked_out()

    def _draw_meters(self, assessment: Assessment) -> None:
        recorders = assessment.job.recorders
        if list(self._meter_pairs) != [recorder.id for recorder in recorders]:
            emptied(self._meters)
            self._meter_pairs = {}
            for recorder in recorders[:60]:
                pair = (Meter(), Meter())
                for kind, meter in zip(("days", "incoming"), pair, strict=True):
                    ref = FigureRef(kind, recorder.id)  # type: ignore[arg-type]
                    meter.pressed.connect(lambda ref=ref: self._meter_pressed(ref))
                    self._meters.addWidget(meter)
                self._meters.addSpacing(SPACE.TIGHT)
                self._meter_pairs[recorder.id] = pair
            if not recorders:
                self._meters.addWidget(label("No recorder yet: add one below the curve.", "muted", wrap=True))
        severities = marks_by_subject(assessment, "sizing", "bench")
        asked = assessment.job.retention.least_days
        assumed = bool(assessment.facts.with_trait["assumed rate"])
        for recorder in recorders[:60]:
            days, incoming = self._meter_pairs[recorder.id]
            got = assessment.recorder(recorder.id)
            short = got.trouble or (got.days is not None and got.days < asked * (1 - 1e-9))
            text = got.trouble or ("no limit" if got.days is None else f"{figure(got.days)} of {figure(asked)} days")
            full = max(asked * 1.5, 1.0)
            share = 1.0 if got.days is None else got.days / full
            days.show_share(recorder.name, text, share, bool(short), assumed and not got.trouble, asked / full)
            limit = recorder.incoming_limit_mbps
            over = severities.get(recorder.id, Severity.NOTE) > Severity.NOTE and got.incoming_mbps > limit
            load = f"{figure(got.incoming_mbps)} of {figure(limit)} Mb/s"
            words = f"{count(got.cameras, 'camera')} incoming"
            incoming.show_share(words, load, got.incoming_mbps / limit, over, assumed)

    def _meter_pressed(self, ref: FigureRef) -> None:
        self._recorder_id = ref.subject
        self._draw_curve()
        self._show_worked_out()
        self.session.show_working(ref)

    def _recorder_in_focus(self) -> Recorder | None:
        """The recorder of the chosen cameras, else the one last pressed, else the one that keeps fewest days."""
        job, assessment = self.session.job, self.session.assessment
        recorders = by_id(job.recorders)
        chosen = set(self.session.chosen)
        for device_id in self.session.chosen:
            if device_id in recorders:
                return recorders[device_id]
        for camera in job.cameras:
            if camera.id in chosen and camera.registered and camera.registered[0].recorder in recorders:
                return recorders[camera.registered[0].recorder]
        if self._recorder_id in recorders:
            return recorders[self._recorder_id]
        limited = [r for r in job.recorders if assessment.recorder(r.id).days is not None]
        return min(limited, key=lambda r: assessment.recorder(r.id).days or 0.0, default=None)

    def _draw_curve(self) -> None:
        self._value = None
        self._adopt.hide()
        assessment = self.session.assessment
        recorder = self._recorder_in_focus()
        setting: Setting = self._setting.currentData()
        if recorder is None:
            self._chart_words.setText("Days kept over")
            self._whom.setText("")
            self._chart.show_data(None, "Register cameras on a recorder with drives: the days it keeps are drawn here.")
            return
        self._chart_words.setText(f"Days kept at {recorder.name} over")
        got = days_curve(assessment, recorder.id, self.session.chosen, setting)
        if got is None:
            self._whom.setText("")
            self._chart.show_data(None, "Nothing is recorded here yet, so there is no limit to the days kept.")
            return
        retention = assessment.job.retention
        limits = [Level(retention.least_days, f"asked: {figure(retention.least_days)} days", needs=True)]
        if retention.most_days is not None and max(got.days) >= retention.most_days:
            limits.append(Level(retention.most_days, f"allowed: {figure(retention.most_days)} days", needs=False))
        days = assessment.recorder(recorder.id).days
        if got.now is None and days is not None:
            limits.append(Level(days, f"now: {figure(days)} days, settings differ", needs=False))
        unit = got.setting.unit
        self._chart.show_data(
            CurveData(got.values, got.days, got.days_low, got.days_high, unit, "days", tuple(limits), got.now)
        )
        of = count(got.cameras, "chosen camera") if self._chosen_on(recorder) else f"All {count(got.cameras, 'camera')}"
        self._whom.setText(f"{of} varied, the others as they are. Tinted: 8 of 10 cases. Press a point to try it.")

    def _follow_column(self, at: int) -> None:
        """The curve varies the setting in whose column the keyboard stands."""
        setting = SETTING_OF_COLUMN.get(CAMERA_COLUMNS[at].id) if at >= 0 else None
        if setting is not None:
            self._setting.setCurrentIndex(self._setting.findData(setting))

    def _chosen_on(self, recorder: Recorder) -> Sequence[Camera]:
        chosen = set(self.session.chosen)
        return [c for c in self.session.assessment.facts.cameras_on[recorder.id] if c.id in chosen]

    # ---- edits ---------------------------------------------------------------------------------------------------

    def _picked(self, value: float) -> None:
        kind = SETTINGS[self._setting.currentData()]
        self._value = value
        self._adopt.setText(f"Set {figure(value)} {kind.unit}")
        self._adopt.show()

    def _adopt_value(self) -> None:
        recorder = self._recorder_in_focus()
        if recorder is None or self._value is None:
            return
        kind, value = SETTINGS[self._setting.currentData()], self._value
        cameras = self._chosen_on(recorder) or self.session.assessment.facts.cameras_on[recorder.id]
        label_text = f"Set {figure(value)} {kind.unit} on {count(len(cameras), 'camera')}"
        self.session.apply(set_each(label_text, {camera.id: kind.fields(camera, value) for camera in cameras}))

    def _retention_typed(self) -> None:
        retention = self.session.job.retention
        if not self.session.apply(set_retention(self._least.value or 0.0, self._most.value)):
            self._least.show_value(retention.least_days)
            self._most.show_value(retention.most_days)

    def lead_to(self, subject: str) -> None:
        """Show a camera's or recorder's row; a camera that misses its purpose among the purposes."""
        camera = by_id(self.session.job.cameras).get(subject)
        misses = camera is not None and misses_purpose(camera)
        cameras = PURPOSE if misses or self._stack.currentIndex() == PURPOSE else CAMERAS
        for at, table in ((cameras, self._stack.widget(cameras)), (RECORDERS, self.recorders)):
            assert isinstance(table, RecordTable)
            table.records.unfold_for(subject)
            if table.records.row_of(subject) is not None:
                self._show_tab(at)
                table.lead_to(subject)
                table.setFocus()
        if subject in self._meter_pairs:
            self._recorder_id = subject
            self._draw_curve()
