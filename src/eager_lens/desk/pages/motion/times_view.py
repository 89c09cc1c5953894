"""Recording on motion: events, pre-recording and post-recording, and what that adds up to by the closed formula."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.chain import broken_link, chain_of, recorder_told
from eager_lens.core.assess.figures.devices import motion_share
from eager_lens.core.assess.figures.motion_events import motion_events_of, rule_class_of
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.fields import CAMERA_FIELDS, field_named
from eager_lens.core.job.model import Camera
from eager_lens.core.job.saved_rules import name_of
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.present.working import FigureRef
from eager_lens.core.recording.clips import event_clips
from eager_lens.core.reference.false_alarms import RULE_CLASS_WORDS
from eager_lens.core.units import count, figure, fixed
from eager_lens.desk.pages.motion.chain_strip import ChainStrip, LinkShown
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, label, row, scrolled
from eager_lens.desk.widgets.columns import device_column, marks_by_subject
from eager_lens.desk.widgets.curve import CurveChart, curve
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

AFTER_VALUES_S = (0, 2, 5, 8, 10, 15, 20, 25, 30, 40, 50, 60, 75, 90, 120)


def _clip_figure(show: Callable[[Camera], str]) -> Callable[[Any, Assessment], str]:
    """A figure of the clips, or a word where events run together without end."""

    def text(camera: Camera, assessment: Assessment) -> str:
        if not assessment.camera(camera.id).motion_h_per_day:
            return "–"
        try:
            return show(camera)
        except OverflowError:
            return "one clip"

    return text


def _clips(camera: Camera) -> Any:
    starts = motion_events_of(camera)
    return event_clips(starts.per_h, starts.seconds, camera.pre_recording_s, camera.post_recording_s)


def _rule_words(camera: Camera, assessment: Assessment) -> str:
    """The name of its rule, if it has one of its own."""
    if camera.motion_rule is None:
        return "default"
    return name_of(assessment.job, camera.motion_rule) or "own rule"


COLUMNS: tuple[TableColumn, ...] = (
    device_column(field_named(CAMERA_FIELDS, "name"), 140, "Camera"),
    device_column(field_named(CAMERA_FIELDS, "events_per_h"), 88, "Events"),
    device_column(field_named(CAMERA_FIELDS, "event_s"), 52, "Lasts"),
    device_column(field_named(CAMERA_FIELDS, "pre_recording_s"), 52),
    device_column(field_named(CAMERA_FIELDS, "post_recording_s"), 52),
    device_column(field_named(CAMERA_FIELDS, "motion_rule_on"), 62),
    TableColumn(
        "hours",
        "Watched",
        lambda camera, a: fixed(a.camera(camera.id).motion_h_per_day, 1),
        unit="h a day",
        align="right",
        width=90,
    ),
    TableColumn(
        "share",
        "Recorded",
        lambda camera, a: (
            fixed(100 * a.camera(camera.id).motion_share, 1) if a.camera(camera.id).motion_h_per_day else "–"
        ),
        unit="% of that",
        align="right",
        width=100,
        assumed=lambda camera, a: not camera.events_from,
        working=lambda camera: FigureRef("gb-per-day", camera.id),
    ),
    TableColumn(
        "mean",
        "Mean clip",
        _clip_figure(lambda camera: fixed(_clips(camera).mean_clip_s, 0)),
        unit="s",
        align="right",
        width=84,
        assumed=lambda camera, a: not camera.events_from,
    ),
    TableColumn("rule", "Rule", lambda camera, a: _rule_words(camera, a), width=150, stretch=True),
)


def _origin(camera: Camera) -> str:
    """Where the starts come from, with what comes on top of the events."""
    if camera.events_from:
        return f"Measured: {camera.events_from}."
    starts = motion_events_of(camera)
    return (
        f"Estimated (×/÷ {figure(starts.times)}), plus {figure(starts.false_per_h)} false alarms: "
        f"{RULE_CLASS_WORDS[rule_class_of(camera)]}."
    )


class TimesView(QWidget):
    """The curve of the recorded share over the seconds after, the chain, and the table of settings."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._value: float | None = None
        self._words = label("", "heading")
        self._chart = CurveChart("")
        self._chart.picked.connect(self._picked)
        self._adopt = button("", self._adopt_value, "main")
        self._adopt.hide()
        self._whom = label("", "small", wrap=True)
        left = column(row(self._words, None, self._adopt), self._chart, self._whom, spacing=SPACE.TIGHT)
        left.setStretch(1, 1)
        self._chain_words = label("", "heading", wrap=True)
        self.chain = ChainStrip()
        self._chain_advice = label("", "small", wrap=True)
        advice = column(
            self._chain_words,
            self.chain,
            self._chain_advice,
            label(
                "2 to 10 s of pre-recording are usual. Short post-recording cuts a visit into fragments; very long "
                "post-recording is in effect continuous recording. Some cameras cannot combine a motion rule with other "
                "analytics. Leave sound off unless the law and the customer both allow it.",
                "muted",
                wrap=True,
            ),
            None,
            spacing=SPACE.TIGHT,
        )
        top = row(left, advice, spacing=SPACE.WIDE)
        top.setStretch(0, 3)
        top.setStretch(1, 2)
        self.cameras = RecordTable(session, COLUMNS)
        words = label(
            "Events are estimated until they are counted on site. Select several rows to edit them at once.",
            "small",
            wrap=True,
        )
        self.cameras.setMinimumHeight(look.px(140))
        inner = QWidget()
        layout = column(top, words, self.cameras)
        layout.setStretch(0, 4)
        layout.setStretch(2, 5)
        inner.setLayout(layout)
        self.setLayout(column(scrolled(inner)))
        session.selection_changed.connect(lambda: self._draw_curve(session.assessment) if self.isVisible() else None)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the curve and the table."""
        self.cameras.show_parts(assessment.job.cameras, assessment, marks_by_subject(assessment, "motion"))
        self._draw_curve(assessment)

    def _draw_chain(self, assessment: Assessment, camera: Camera | None) -> None:
        """The chain of the camera in focus, to the recorder that it tells of motion."""
        recorder = None if camera is None else recorder_told(assessment.facts, camera)
        if camera is None or recorder is None:
            self._chain_words.setText("Camera and recorder settings must match")
            self.chain.show_links(())
            no_recorder = camera is not None
            self._chain_advice.setText(
                f"{camera.name if camera else ''} has no recorder yet (Bench page)."
                if no_recorder
                else "The camera detects and sends, the recorder accepts, and the schedule allows recording."
            )
            return
        chain = chain_of(assessment.facts, camera, recorder)
        broken = broken_link(chain)
        self._chain_words.setText(
            f"{camera.name}: broken at “{broken.name}”" if broken else f"{camera.name}: settings match"
        )
        self.chain.show_links([LinkShown(*link) for link in chain])
        if broken is None:
            self._chain_advice.setText("As noted here; confirm it by a walk test.")
        else:
            words = sentence_case(broken.words)
            self._chain_advice.setText(f"{words}. Motion hours record nothing, and no device reports it.")

    def _in_focus(self, assessment: Assessment) -> Camera | None:
        """The first selected camera that records on motion, else the one that records most of its motion hours."""
        figures = assessment.facts.camera_figures
        moving = [camera for camera in assessment.job.cameras if figures[camera.id].motion_h_per_day > 0]
        selected = set(self.session.selected)
        first = next((camera for camera in moving if camera.id in selected), None)
        return first or max(moving, key=lambda camera: figures[camera.id].motion_share, default=None)

    def _draw_curve(self, assessment: Assessment) -> None:
        self._adopt.hide()
        camera = self._in_focus(assessment)
        self._draw_chain(assessment, camera)
        if camera is None:
            self._words.setText("Recorded share")
            self._whom.setText("")
            self._chart.show_data(None, "No camera has motion hours. Paint some on the Schedule page (Alt+5).")
            return
        values = sorted({*AFTER_VALUES_S, camera.post_recording_s})
        shares = [100 * motion_share(camera.model_copy(update={"post_recording_s": float(each)})) for each in values]
        self._words.setText(f"Recorded share of motion hours, {camera.name}")
        self._chart.show_data(curve(values, shares, "post-recording", "%", camera.post_recording_s))
        self._whom.setText(
            f"{figure(camera.events_per_h)} events an hour of {figure(camera.event_s)} s, pre-recording "
            f"{figure(camera.pre_recording_s)} s. {_origin(camera)} Click a point to try it."
        )

    def _picked(self, value: float) -> None:
        self._value = value
        self._adopt.setText(f"Set {figure(value)} s")
        self._adopt.show()

    def _adopt_value(self) -> None:
        camera = self._in_focus(self.session.assessment)
        if camera is None or self._value is None:
            return
        known = {c.id for c in self.session.job.cameras}
        ids = [i for i in self.session.selected if i in known] or [camera.id]
        words = f"Set {figure(self._value)} s on {count(len(ids), 'camera')}"
        self.session.apply(set_fields(ids, words, post_recording_s=self._value))

    def lead_to(self, subject: str) -> None:
        """Show a camera's row."""
        self.cameras.lead_to(subject)
        self.cameras.setFocus()
