"""Days that can be promised against a setting of some cameras: a curve to try values on, and a button that adopts one."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.figures.capped_need import capped_keeping
from eager_lens.core.assess.figures.devices import erased, no_days_words
from eager_lens.core.job.edits import set_each
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.options.curves import SETTINGS, DaysCurve, Setting, days_curve
from eager_lens.core.units import count, days_figure, figure
from eager_lens.desk.background import Task, Work, start
from eager_lens.desk.pages.sizing.outdated import Outdated
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, held, label, row, scrolled
from eager_lens.desk.widgets.curve import CurveChart, CurveData, Level


class CurveView(QWidget):
    """The curve for one recorder; the selected cameras on it are varied, or all when none is selected."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._recorder: Recorder | None = None
        # What is drawn is of this one; the session may be on to another job when the curve arrives.
        self._assessment = session.assessment
        self._value: float | None = None
        self._shown: object = None
        session.opened.connect(self._let_go)
        self._task: Task | None = None
        self._outdated = Outdated(session, self, lambda: self._clear("Calculating …"))
        self.setting = Choice()
        for kind in SETTINGS.values():
            self.setting.addItem(kind.label, kind.id)
        self.setting.currentIndexChanged.connect(lambda _: self.show_recorder(self._recorder))
        self.setting.setAccessibleName("Setting that the curve varies")
        self.chart = CurveChart("")
        self.chart.picked.connect(self._picked)
        self._words = label("", "heading")
        self._whom = label("", "small", wrap=True)
        self._adopt = button("", self._adopt_value, "main")
        self._adopt.hide()
        layout = column(row(self._words, self.setting, None, self._adopt), self.chart, self._whom, spacing=SPACE.TIGHT)
        layout.setStretch(1, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        inner = held(layout)
        self.setLayout(column(scrolled(inner)))

    def _let_go(self) -> None:
        self._shown, self._recorder, self._assessment = None, None, self.session.assessment

    def vary(self, setting: Setting) -> None:
        """Vary another setting."""
        self.setting.setCurrentIndex(self.setting.findData(setting))

    def show_recorder(self, recorder: Recorder | None) -> None:
        """Draw the curve of a recorder as it is now; it is worked out off the window's thread, and what is stale is dropped."""
        assessment = self.session.assessment
        setting: Setting = self.setting.currentData()
        # The selection counts: the curve varies the selected cameras only.
        what = (recorder and recorder.id, assessment, setting, self.session.selected)
        if what == self._shown:
            return
        self._recorder, self._assessment, self._shown, self._value = recorder, assessment, what, None
        self._adopt.hide()
        if self._task is not None:
            self._task.cancel()
        if recorder is None:
            self._words.setText("Days to promise against")
            self._nothing("Register cameras on a recorder with drives to see how many days it can promise.")
            return
        self._words.setText(f"Days that {recorder.name} can promise over")
        self._outdated.begin(f"{recorder.id} {setting}")
        selected = tuple(self.session.selected)

        def work(task: Task) -> Work[DaysCurve | None]:
            return (yield from days_curve(assessment, recorder.id, selected, setting))

        self._task = start(work, self)
        self._task.done.connect(partial(self._done, what))
        self._task.failed.connect(self._nothing)

    def _nothing(self, words: str) -> None:
        self._outdated.end()
        self._clear(words)

    def _clear(self, words: str) -> None:
        self._whom.setText("")
        self.chart.show_data(None, words)

    def _done(self, what: object, got: DaysCurve | None) -> None:
        recorder = self._recorder
        if what != self._shown or recorder is None:
            return
        if got is None:
            self._nothing(no_days_words(recorder.name, self._assessment.recorder(recorder.id)))
            return
        self._outdated.end()
        assessment = self._assessment
        retention = assessment.job.retention
        limits = [Level(retention.least_days, f"required: {figure(retention.least_days)} days", needs=True)]
        if retention.most_days is not None and max(got.promised_days) >= retention.most_days:
            limits.append(Level(retention.most_days, f"allowed: {figure(retention.most_days)} days", needs=False))
        days = assessment.recorder(recorder.id).promised_days
        # No single present value when cameras differ; a level instead of a point says where they are together.
        if got.now is None and days is not None:
            limits.append(Level(days, f"now: {days_figure(days)} days; the cameras differ", needs=False))
        limits += self._with_caps(recorder)
        self.chart.show_data(
            CurveData(
                got.values,
                got.promised_days,
                got.promised_days,
                got.mean_days,
                got.setting.unit,
                "days",
                tuple(limits),
                got.now,
                span_words="{high} expected",
            )
        )
        of = (
            count(got.cameras, "selected camera")
            if self._selected_on(recorder)
            else f"All {count(got.cameras, 'camera')}"
        )
        self._whom.setText(f"{of} varied. Shaded: up to the expected days. Click a point to try it.")

    def _with_caps(self, recorder: Recorder) -> list[Level]:
        """What a setting on the cameras would do before any of this is changed."""
        keeping = capped_keeping(self._assessment.facts, recorder)
        if keeping is None:
            return []
        days = erased(keeping.promised(), recorder)
        return [Level(days, f"with maximum bit rates: {days_figure(days)} days", needs=False)]

    def _selected_on(self, recorder: Recorder) -> Sequence[Camera]:
        selected = set(self.session.selected)
        return [c for c in self._assessment.facts.cameras_on[recorder.id] if c.id in selected]

    def _picked(self, value: float) -> None:
        kind = SETTINGS[self.setting.currentData()]
        self._value = value
        self._adopt.setText(f"Set {figure(value)} {kind.unit}")
        self._adopt.show()

    def _adopt_value(self) -> None:
        recorder = self._recorder
        if recorder is None or self._value is None:
            return
        kind, value = SETTINGS[self.setting.currentData()], self._value
        # Nothing selected on this recorder means all of its cameras, as the words below the curve say.
        cameras = self._selected_on(recorder) or self._assessment.facts.cameras_on[recorder.id]
        label_text = f"Set {figure(value)} {kind.unit} on {count(len(cameras), 'camera')}"
        self.session.apply(set_each(label_text, {camera.id: kind.fields(camera, value) for camera in cameras}))
