"""The promise: the probability that a number of days is kept all year, and its causes of uncertainty."""

from __future__ import annotations

import math
from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import no_days_words, three_days
from eager_lens.core.job.edits import set_activity, set_assumed, set_retention
from eager_lens.core.job.model import Recorder
from eager_lens.core.options.assumptions import Assumption, assumptions
from eager_lens.core.options.promise import Promise, SpreadReason, promise, share_with
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.units import days_figure, figure, fixed
from eager_lens.desk.background import Task, Work, start
from eager_lens.desk.pages.sizing.outdated import Outdated
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, label, row, scrolled
from eager_lens.desk.widgets.curve import CurveChart, CurveData, Level
from eager_lens.desk.widgets.flow import flow, pair
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

AFTER_EDIT_MS = 150
"""So long nothing must change before the curve is worked out."""

LEAST_SHARE = 0.005
"""What makes less than this of the spread would be shown as 0 %."""


def _percent(reason: SpreadReason, assessment: Assessment) -> str:
    return fixed(100 * reason.share, 0)


COLUMNS = (
    TableColumn("words", "Causes of uncertainty", lambda reason, a: reason.words, width=390),
    TableColumn(
        "share", "Share", _percent, unit="% of the spread", align="right", width=150, bar=lambda reason, a: reason.share
    ),
    TableColumn("remedy", "How to reduce it", lambda reason, a: reason.remedy, width=210, stretch=True),
)


def _share(one: Assumption, assessment: Assessment) -> str:
    return "" if one.share is None else fixed(100 * one.share, 0)


ASSUMED_COLUMNS = (
    TableColumn("words", "Assumption", lambda one, a: one.words, width=270),
    TableColumn("value", "Value", lambda one, a: one.value, align="right", width=80),
    TableColumn("usual", "Default", lambda one, a: one.usual, align="right", width=80),
    TableColumn("span", "Range", lambda one, a: one.span, unit="8 of 10", width=110),
    TableColumn(
        "share", "Share", _share, unit="% of the spread", align="right", width=130, bar=lambda one, a: one.share or 0.0
    ),
    TableColumn("why", "Source", lambda one, a: one.why, width=320, stretch=True),
)


NO_RECORDER = "Register cameras on a recorder with drives to see how many days can be promised."


class PromiseView(QWidget):
    """The curve with its activity fields; ``table`` holds the reasons, and the page puts it where it has room."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.promised: Promise | None = None
        self._outdated = Outdated(session, self, lambda: self._clear("Calculating …"))
        self._shown: tuple[str, Assessment] | None = None
        session.opened.connect(self._let_go)
        self._task: Task | None = None
        self._days: float | None = None
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self._hint = label("", "small", wrap=True)
        self._ask = button("", self._ask_days, "main")
        self._chart = CurveChart("")
        self._chart.picked.connect(self._picked)
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.assumed = RecordTable(session, ASSUMED_COLUMNS, shares_selection=False, group_by=lambda one: one.topic)
        self.table.doubleClicked.connect(lambda _: self._go_to_camera())
        self._timer = QTimer(self, singleShot=True, interval=AFTER_EDIT_MS)
        self._timer.timeout.connect(self._work_out)
        self._make_fields()
        self._how = button("Working", self._show_working, "quiet")
        self._ask.hide()
        self._how.hide()
        self._lay_out()

    def _let_go(self) -> None:
        self._shown = None

    def _make_fields(self) -> None:
        """How events vary, and what is assumed of bit rates."""
        self._spread = NumberField("Variation of events from day to day", "%", width=56)
        self._memory = NumberField(
            "Correlation of events with the next day: a busy day often follows a busy day", "%", width=56
        )
        self._busy_days = NumberField("Days of the busy season", "days", width=68)
        self._busy_factor = NumberField("Events in the busy season, as a multiple of other days", "×", width=56)
        for field in (self._spread, self._memory, self._busy_days, self._busy_factor):
            field.typed.connect(self._activity_typed)
            field.refused.connect(lambda text: self.session.notice(text, needs=True))
        self._saved = NumberField("Saving of H.265 over H.264 at equal quality", "%", width=56)
        self._noise = NumberField("Share of noise that cameras do not filter", "%", width=56)
        self._encoder = NumberField("Bit rate of camera encoders, as a multiple of the measured encodes", "×", width=56)
        self._dark = NumberField("Share of the day that is dark, over the year", "%", width=56)
        self._latitude = NumberField("Latitude, for longer nights in winter", "°", "by time zone", width=96)
        for field in (self._saved, self._noise, self._encoder, self._dark, self._latitude):
            field.typed.connect(self._assumed_typed)
            field.refused.connect(lambda text: self.session.notice(text, needs=True))

    def _lay_out(self) -> None:
        assumed = flow(
            pair("H.265 saves", self._saved),
            pair("noise kept", self._noise),
            pair("encoder factor", self._encoder),
            pair("dark", self._dark),
            pair("latitude", self._latitude),
            label("(assumed)", "small"),
        )
        head = row(self._words, self._how, self._ask)
        head.setStretch(0, 1)
        fields = flow(
            pair("Days vary by", self._spread),
            pair("next day similar", self._memory),
            pair("busy season", self._busy_days),
            pair("busier", self._busy_factor),
        )
        self._chart.setMinimumHeight(look.px(110))
        inner = QWidget()
        layout = column(head, self._hint, self._chart, fields, assumed, spacing=SPACE.TIGHT)
        layout.setStretch(2, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        inner.setLayout(layout)
        self.setLayout(column(scrolled(inner)))

    def show_recorder(self, recorder: Recorder | None, assessment: Assessment) -> None:
        """Tell a recorder's promise; its curve follows off the window's thread, a moment after the last edit."""
        self._show_fields()
        if recorder is not None and self._shown == (recorder.id, assessment):
            return
        self._shown = None if recorder is None else (recorder.id, assessment)
        self.assumed.show_parts(assumptions(assessment, None if recorder is None else recorder.id), assessment)
        if self._task is not None:
            self._task.cancel()
        self.promised = None
        self._ask.hide()
        self._how.hide()
        got = None if recorder is None else assessment.recorder(recorder.id)
        # Said at once, without the delay: there is nothing to calculate.
        if recorder is None or got is None or got.promised_days is None or got.keeps == "no storage":
            self._timer.stop()
            self._none(NO_RECORDER if recorder is None or got is None else no_days_words(recorder.name, got))
            return
        self._words.setText(f"Promise of {recorder.name}")
        self._how.show()
        self._outdated.begin(recorder.id)
        self._timer.start()

    def _show_fields(self) -> None:
        activity, assumed = self.session.job.activity, self.session.job.assumed
        self._spread.show_value(100 * activity.day_spread)
        self._memory.show_value(100 * activity.day_memory)
        self._busy_days.show_value(activity.busy_days)
        self._busy_factor.show_value(activity.busy_factor)
        self._saved.show_value(100 * assumed.h265_saved_share)
        self._noise.show_value(100 * assumed.noise_kept_share)
        self._encoder.show_value(assumed.encoder_factor)
        self._dark.show_value(100 * assumed.dark_share)
        self._latitude.show_value(assumed.latitude_deg)

    def _none(self, words: str) -> None:
        self._outdated.end()
        self._words.setText("Days that can be promised")
        self._clear(words)

    def _clear(self, words: str) -> None:
        self._hint.setText("")
        self._chart.show_data(None, words)
        self.table.show_parts([], self.session.assessment, why_none=words)

    def _work_out(self) -> None:
        if self._shown is None:
            return
        recorder_id, assessment = self._shown

        def work(task: Task) -> Work[Promise | None]:
            yield 0.1
            return promise(assessment, recorder_id, task.step)

        self._task = start(work, self)
        # The question travels with the answer, so that a late one can be recognised.
        self._task.done.connect(partial(self._done, self._shown))
        self._task.failed.connect(self._none)

    def _done(self, what: tuple[str, Assessment], promised: Promise | None) -> None:
        if what != self._shown:
            return
        recorder_id, assessment = what
        if promised is None:
            name, got = assessment.facts.recorders[recorder_id].name, assessment.recorder(recorder_id)
            self._none(no_days_words(name, got))
            return
        self.promised = promised
        self._outdated.end()
        asked = assessment.job.retention.least_days
        most = assessment.job.retention.most_days
        over = (
            f" Recordings can get {figure(math.ceil(promised.longest_days), 9)} days old, but only {figure(most)} are allowed."
            if most is not None and promised.longest_days > most
            else ""
        )
        self._hint.setText(
            f"{three_days(assessment.recorder(recorder_id))} The promise holds on the worst day of the year with 95 % "
            f"probability.{over} Click a point to plan with that retention."
        )
        # The days asked are a point of their own, so that the marker lies on the curve.
        curve = sorted((*promised.curve, (asked, share_with(assessment, recorder_id, asked))))
        xs, ys = tuple(x for x, _ in curve), tuple(100 * y for _, y in curve)
        self._chart.show_data(
            CurveData(
                xs,
                ys,
                ys,
                tuple(0.0 for _ in ys),
                "days kept all year",
                "probability, %",
                (Level(95, "promised: 95 %", needs=False),),
                asked,
                f"{figure(asked)} days: ",
                108.0,
            )
        )
        reasons = [reason for reason in promised.reasons if reason.share >= LEAST_SHARE]
        self.table.show_parts(reasons, assessment, why_none="Nothing: the same amount is stored every day.")

    def _show_working(self) -> None:
        working = (
            None if self._shown is None else working_of(FigureRef("days", self._shown[0]), self.session.assessment)
        )
        if working is not None:
            self.session.tell_working(working)

    def _picked(self, days: float) -> None:
        self._days = float(round(days)) or 1.0
        self._ask.setText(f"Plan with {days_figure(self._days)} days")
        self._ask.setVisible(self._days != self.session.job.retention.least_days)

    def _ask_days(self) -> None:
        if self._days is not None:
            self.session.apply(set_retention(self._days, self.session.job.retention.most_days))

    def _activity_typed(self) -> None:
        typed = {
            "day_spread": (self._spread.value or 0.0) / 100,
            "day_memory": (self._memory.value or 0.0) / 100,
            "busy_days": self._busy_days.value or 0.0,
            "busy_factor": self._busy_factor.value or 0.0,
        }
        # A fraction is passed on as it is: the model then refuses it with a sentence.
        whole = typed["busy_days"]
        fields = {**typed, "busy_days": int(whole) if whole == int(whole) else whole}
        if not self.session.apply(set_activity("Set the activity", **fields)):
            self._show_fields()

    def _assumed_typed(self) -> None:
        saved, noise, dark = ((field.value or 0.0) / 100 for field in (self._saved, self._noise, self._dark))
        edit = set_assumed(
            "Set assumptions for all streams",
            h265_saved_share=saved,
            noise_kept_share=noise,
            dark_share=dark,
            encoder_factor=self._encoder.value or 0.0,
            latitude_deg=self._latitude.value,
        )
        if not self.session.apply(edit):
            self._show_fields()

    def _go_to_camera(self) -> None:
        selected = self.table.selected_parts()
        if selected and any(camera.id == selected[0].id for camera in self.session.job.cameras):
            self.session.select([selected[0].id])
