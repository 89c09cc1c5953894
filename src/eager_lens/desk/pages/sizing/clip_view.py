"""Measure instead of guess: a clip of the real camera, its frames drawn, what was found beside what is planned."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.rates import assumed_rate_of
from eager_lens.core.clip.in_subprocess import measuring, seeing, trying
from eager_lens.core.clock.zones import zone_named
from eager_lens.core.job.model import Camera, Job, by_id
from eager_lens.core.job.place import was_dark
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.reference.streams import CODECS, QUALITIES, Codec, Quality, stream_assumptions
from eager_lens.core.sizing.rate import Assumed
from eager_lens.core.units import figure
from eager_lens.desk.asking import CLIP_FILE, Asker
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.sizing.frame_chart import FrameChart, strokes
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

if TYPE_CHECKING:
    from eager_lens.core.clip.measure import Measured
    from eager_lens.core.clip.reencoding import Reencoding
    from eager_lens.core.clip.still import Still

EMPTY_WORDS = (
    "Record a minute by day and a minute by night with the final settings, and export them unconverted. Drop the clip here or "
    "on a camera (MP4, MKV, MPEG-TS, AVI, H.264, H.265) to see its frames. A still picture (JPEG, PNG) shows only detail and "
    "noise, which improve the estimated bit rate."
)
STILL_WORDS = (
    "A still shows detail and noise. They improve the estimate, with the motion of the camera's scene; a clip would measure "
    "the bit rate."
)
STILLS = (".jpg", ".jpeg", ".png")


class Found(NamedTuple):
    """A row: what, as found in the clip, as planned."""

    id: str
    words: str
    found: str
    planned: str


COLUMNS = (
    TableColumn("words", "What", lambda found, a: found.words, width=250),
    TableColumn("found", "In the clip", lambda found, a: found.found, width=250),
    TableColumn("planned", "In the plan", lambda found, a: found.planned, width=230, stretch=True),
)


class ClipView(QWidget):
    """The chart with its buttons; ``below`` holds what was found and the trial of other settings."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self.day: Measured | None = None
        self.night: Measured | None = None
        self.still: Still | None = None
        self.trials: list[Reencoding] = []
        self._camera_id = ""
        self._words = label("A clip instead of an estimate", "heading")
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._accept = button("", self._take, "main")
        self._night = button("Add a night clip …", lambda: self._ask(by_night=True))
        self._select = button("Select a clip …", lambda: self._ask(by_night=False))
        self._by_night = Choice()
        for words, by_night in (("Recorded by day", False), ("Recorded by night", True)):
            self._by_night.addItem(words, by_night)
        self._by_night.setAccessibleName("When the clip was recorded")
        self._by_night.activated.connect(lambda _: self._show_state())
        self._busy = Busy(session, self)
        self._notes = label("", "small", wrap=True)
        self.chart = FrameChart(EMPTY_WORDS)
        head = row(
            *(self._words, self._busy.stop_button, self._select, self._by_night, self._night, self._accept),
            spacing=SPACE.HALF,
        )
        head.setStretch(0, 1)
        layout = column(head, self._busy.bar, self.chart, self._notes, spacing=SPACE.TIGHT)
        layout.setStretch(2, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        self.setLayout(layout)
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.empty_words = "The figures of the clip are shown here beside those of the plan."
        self.below = QWidget()
        self._trial_row = self._made_trial_row()
        below = column(self.table, self._trial_row, spacing=SPACE.TIGHT)
        below.setContentsMargins(0, 0, 0, 0)
        below.setStretch(0, 1)
        self.below.setLayout(below)
        self._busy.changed.connect(self._show_state)
        self._show_state()

    def _made_trial_row(self) -> QWidget:
        self._fps = NumberField("Frame rate to try", "fps", width=70)
        self._width = NumberField("Width to try", "px", width=80)
        self._key = NumberField("Key-frame interval to try", "s", width=56)
        self._codec, self._quality = Choice(), Choice()
        for codec in CODECS:
            self._codec.addItem(stream_assumptions().codec_label[codec], codec)
        for quality in QUALITIES:
            self._quality.addItem(f"{quality} quality", quality)
        self._codec.setAccessibleName("Codec to try")
        self._quality.setAccessibleName("Quality to try")
        for field in (self._fps, self._width, self._key):
            field.refused.connect(lambda text: self.session.notice(text, needs=True))
        whole = QWidget()
        layout = row(
            label("Other settings here:", "small"),
            self._fps,
            self._width,
            self._codec,
            self._quality,
            label("key frame", "small"),
            self._key,
            button("Try", self._try),
            None,
            spacing=SPACE.HALF,
        )
        layout.setContentsMargins(0, 0, 0, 0)
        whole.setLayout(layout)
        return whole

    # ---- which camera, which clip --------------------------------------------------------------------------------

    @property
    def _camera(self) -> Camera | None:
        return by_id(self.session.job.cameras).get(self._camera_id)

    def show_assessment(self, assessment: Assessment) -> None:
        """Show the plan's side anew."""
        self._show_found()
        self._show_state()

    def follow_selection(self) -> None:
        """The clip belongs to the first camera that is selected."""
        cameras = by_id(self.session.job.cameras)
        selected = next((device_id for device_id in self.session.selected if device_id in cameras), "")
        if selected and selected != self._camera_id and self.day is None:
            self._camera_id = selected
            self._show_state()

    def _ask(self, by_night: bool) -> None:
        title = "Select a night clip" if by_night else "Select a clip"
        path = self.asker.open_file(title, (CLIP_FILE,), self.session.path)
        if path is not None:
            self.read(path, self._camera_id, by_night)

    def read(self, path: Path, camera_id: str = "", by_night: bool = False) -> None:
        """Read a clip for a camera, off the window's thread."""
        cameras = by_id(self.session.job.cameras)
        if not camera_id:
            camera_id = next((one for one in self.session.selected if one in cameras), self._camera_id)
        self._camera_id = camera_id
        camera = self._camera
        planned_fps = camera.fps if camera is not None else None

        if path.suffix.lower() in STILLS:
            self._begin(f"Reading {path.name} …", lambda task: seeing(path), self._was_seen)
            return
        self._begin(
            f"Reading {path.name} …", lambda task: measuring(path, planned_fps), partial(self._was_read, by_night)
        )

    def _begin(self, words: str, work: Callable[[Task], Work[Any]], done: Callable[[Any], None]) -> None:
        self._busy.begin(work, done)
        self._words.setText(words)

    def _was_seen(self, still: Still) -> None:
        self.day, self.night, self.trials, self.still = None, None, [], still
        self.chart.show_strokes(None, STILL_WORDS)
        self._show_found()

    def _was_read(self, by_night: bool, measured: Measured) -> None:
        if by_night and self.day is not None:
            self.night = measured
        else:
            self.day, self.night, self.trials, self.still = measured, None, [], None
            rate = measured.rate
            dark = rate.begun is not None and was_dark(self.session.job, rate.begun)
            self._by_night.setCurrentIndex(self._by_night.findData(dark))
            self._fps.show_value(rate.fps)
            self._width.show_value(rate.width_px)
            self._key.show_value(rate.key_frame_s or 2.0)
            self._codec.setCurrentIndex(self._codec.findData(rate.codec))
            camera = self._camera
            self._quality.setCurrentIndex(self._quality.findData(camera.quality if camera else "medium"))
        frames = measured.rate.frames
        self.chart.show_strokes(strokes(frames.time_s.tolist(), frames.size_bytes.tolist(), frames.is_key.tolist()))
        self._show_found()

    # ---- what was found ------------------------------------------------------------------------------------------

    def _show_state(self) -> None:
        busy, camera = self._busy.is_running, self._camera
        alone = self.day is not None and self.night is None
        self._by_night.setVisible(alone and not busy)
        # A clip of one half of the day needs the other: by day first, then by night.
        self._night.setVisible(self.day is not None and not busy and not (alone and self._by_night.currentData()))
        self._select.setVisible(not busy)
        self._accept.setVisible((self.day is not None or self.still is not None) and camera is not None and not busy)
        self._trial_row.setVisible(self.day is not None)
        self._trial_row.setEnabled(not busy)
        if camera is not None:
            self._accept.setText(f"Use it for {camera.name}"[:40])
        if busy:
            return
        if self.still is not None:
            whose = f"{camera.name}: " if camera else ""
            self._words.setText(f"{whose}detail and noise of {self.still.name}")
        elif self.day is None:
            self._words.setText("A clip instead of an estimate" + (f": {camera.name}" if camera else ""))
        else:
            rate_words = f"{figure(self._rate_mbps())} Mb/s measured"
            planned = f", {figure(self.session.assessment.camera(camera.id).rate_mbps)} planned" if camera else ""
            whose = f"{camera.name}: " if camera else ""
            self._words.setText(f"{whose}{rate_words}{planned}")
            if camera is None:
                self._notes.setText("To use it in the plan, select its camera on the Cameras tab.")

    def _rate_mbps(self) -> float:
        assert self.day is not None
        if self.night is None:
            return self.day.rate.rate_mbps
        dark = self.session.job.assumed.dark_share
        return self.day.rate.rate_mbps * (1 - dark) + self.night.rate.rate_mbps * dark

    def _show_found(self) -> None:
        if self.still is not None:
            self.table.show_parts(
                _still_rows(self.still, self._camera, self.session.job.assumed.as_assumed()), self.session.assessment
            )
            self._notes.setText("Stills are compressed too: strong compression makes the noise figure too low.")
            return
        if self.day is None:
            self.table.show_parts([], self.session.assessment)
            return
        rows = _found_rows(self.day, self._camera, self.session.assessment)
        if self.night is not None:
            span = f"{figure(self.night.rate.low_mbps)} to {figure(self.night.rate.high_mbps)}"
            rows.insert(1, Found("night", "Bit rate at night", f"{figure(self.night.rate.rate_mbps)} Mb/s, {span}", ""))
        for at, trial in enumerate(self.trials):
            wanted = trial.settings
            codec = stream_assumptions().codec_label[wanted.codec]
            words = f"Tried: {figure(wanted.fps)} fps, {wanted.width_px} px, {codec}, {wanted.quality}"
            change = f"{100 * (trial.ratio - 1):+.0f} %"
            rate_words = f"{figure(trial.rate_mbps)} Mb/s, {change}"
            fidelity = f"PSNR {figure(trial.as_wanted.psnr_db)} dB; now {figure(trial.as_clip.psnr_db)} dB"
            rows.insert(0, Found(f"trial-{at}", words, rate_words, fidelity))
        self.table.show_parts(rows, self.session.assessment)
        camera = self._camera
        as_sent = (self.day.rate.codec, self.day.rate.width_px, self.day.rate.height_px, self.day.rate.fps)
        notes: list[str] = []
        if camera is not None and as_sent != (camera.codec, camera.width_px, camera.height_px, camera.fps):
            notes.append("its settings differ from the plan's; using it applies them")
        if self.day.rate.begun is not None and self.night is None:
            notes.append(
                f"{_begun_words(self.day.rate.begun, self.session.job)}, but exports often hold the time of the export"
            )
        notes += [*self.day.rate.notes, *([self.day.trouble] if self.day.trouble else [])]
        if any(trial.settings.codec != self.day.rate.codec for trial in self.trials):
            notes.append("encoding a clip again favours the codec that it has")
        self._notes.setText(sentence_case("; ".join(notes)))

    # ---- acts ----------------------------------------------------------------------------------------------------

    def _take(self) -> None:
        camera = self._camera
        if camera is None:
            return
        if self.still is not None:
            from eager_lens.core.clip.accept import accept_still

            edit = accept_still(camera, self.still)
            if self.session.apply(edit):
                self.session.tell_step(edit.label)
            return
        if self.day is None:
            return
        from eager_lens.core.clip.accept import accept

        night = None if self.night is None else self.night.rate
        by_night = bool(self._by_night.currentData())
        edit = accept(camera, self.day.rate, night, self.session.job.assumed.dark_share, by_night)
        if self.session.apply(edit):
            self.session.tell_step(f"{edit.label}: the plan now uses its bit rate")

    def _try(self) -> None:
        if self.day is None:
            return
        from eager_lens.core.clip.reencoding import Settings

        day, camera = self.day, self._camera
        codec: Codec = self._codec.currentData()
        quality: Quality = self._quality.currentData()
        width, fps, key_s = (field.value or 0.0 for field in (self._width, self._fps, self._key))
        if width < 16 or not fps or not key_s:
            self.session.notice("Enter a frame rate, a width of at least 16 px and a key-frame interval", needs=True)
            return
        wanted = Settings(int(width), fps, codec, quality, key_s)
        own: Quality = camera.quality if camera is not None else "medium"

        self._begin(
            f"Encoding {day.path.name} at other settings …",
            lambda task: trying(day.path, day.rate, own, wanted),
            self._was_tried,
        )

    def _was_tried(self, trial: Reencoding) -> None:
        self.trials.append(trial)
        self._show_found()


def _still_rows(still: Still, camera: Camera | None, assumed: Assumed) -> list[Found]:
    """What a still shows, and the rate that would follow from it."""
    rows = [
        Found("picture", "Picture", f"{still.width_px} × {still.height_px} px", ""),
        Found("detail", "Detail", f"{figure(still.detail)} levels per pixel", ""),
        Found("flat", "Smooth share of the picture", f"{figure(100 * still.flat_share)} %", ""),
        Found("noise", "Noise", f"{figure(still.noise_sigma)} levels", ""),
        Found("luma", "Brightness, of 255", figure(still.luma_mean), ""),
    ]
    if camera is not None:
        from eager_lens.core.clip.accept import seen_in

        then = assumed_rate_of(camera.model_copy(update={"seen": seen_in(still)}), assumed)
        now = assumed_rate_of(camera, assumed)
        found, before = (
            f"{figure(one.rate_mbps)} Mb/s, {figure(one.low_mbps)} to {figure(one.high_mbps)}" for one in (then, now)
        )
        rows.insert(0, Found("rate", "Estimated bit rate", found, before))
    return rows


def _begun_words(begun: datetime, job: Job) -> str:
    there = begun.astimezone(zone_named(job.time_zone))
    return f"recorded {there:%Y-%m-%d %H:%M} according to the file, {'by night' if was_dark(job, begun) else 'by day'}"


def _found_rows(measured: Measured, camera: Camera | None, assessment: Assessment) -> list[Found]:
    rate, content = measured.rate, measured.content
    label_of = stream_assumptions().codec_label

    def planned(words: Callable[[Camera], str]) -> str:
        return words(camera) if camera is not None else "–"

    got = assessment.camera(camera.id) if camera is not None else None
    span = f"{figure(rate.low_mbps)} to {figure(rate.high_mbps)}"
    plan_span = f"{figure(got.rate_mbps)} Mb/s, {figure(got.low_mbps)} to {figure(got.high_mbps)}" if got else "–"
    key = "–" if rate.key_frame_s is None else f"{figure(rate.key_frame_s)} s"
    sizes = f"{figure(rate.key_bytes / 1000)} kB"
    if rate.other_bytes is not None:
        sizes += f", others {figure(rate.other_bytes / 1000)} kB"
    rows = [
        Found("rate", "Bit rate", f"{figure(rate.rate_mbps)} Mb/s, {span}", plan_span),
        Found("length", "Length", f"{figure(rate.duration_s)} s, {rate.frames.size_bytes.size} frames", ""),
        Found(
            "picture",
            "Picture",
            f"{rate.width_px} × {rate.height_px} px",
            planned(lambda c: f"{c.width_px} × {c.height_px} px"),
        ),
        Found("fps", "Frame rate", f"{figure(rate.fps)} fps", planned(lambda c: f"{figure(c.fps)} fps")),
        Found("codec", "Codec", label_of[rate.codec], planned(lambda c: label_of[c.codec])),
        Found("key", "Key-frame interval", key, planned(lambda c: f"{figure(c.key_frame_s)} s")),
        Found("sizes", "Key frames", sizes, ""),
    ]
    if content is not None:
        left = f"{figure(content.noise_sigma)} levels" if content.noise_sigma else "none after compression"
        rows += [
            Found("moving", "Moving share of the picture", f"{figure(100 * content.moving_share)} %", ""),
            Found("detail", "Detail", f"{figure(content.detail)} levels per pixel", ""),
            Found("noise", "Remaining noise", left, ""),
            Found("luma", "Brightness, of 255", figure(content.luma_mean), ""),
        ]
    return rows
