"""Days kept against a setting of some cameras: a curve to try values on, and a button that adopts one."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QWidget

from eager_lens.core.job.edits import set_each
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.options.curves import SETTINGS, Setting, days_curve
from eager_lens.core.units import count, figure
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.curve import CurveChart, CurveData, Level


class CurveView(QWidget):
    """The curve for one recorder; the selected cameras on it are varied, or all when none is selected."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._recorder: Recorder | None = None
        self._value: float | None = None
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
        self.setLayout(layout)

    def vary(self, setting: Setting) -> None:
        """Vary another setting."""
        self.setting.setCurrentIndex(self.setting.findData(setting))

    def show_recorder(self, recorder: Recorder | None) -> None:
        """Draw the curve of a recorder as it is now."""
        self._recorder = recorder
        self._value = None
        self._adopt.hide()
        assessment = self.session.assessment
        setting: Setting = self.setting.currentData()
        if recorder is None:
            self._words.setText("Days kept against")
            self._whom.setText("")
            self.chart.show_data(None, "Register cameras on a recorder with drives to see the days that it keeps.")
            return
        self._words.setText(f"Days kept at {recorder.name} over")
        got = days_curve(assessment, recorder.id, self.session.selected, setting)
        if got is None:
            self._whom.setText("")
            self.chart.show_data(None, "Nothing is recorded here yet, so there is no limit to the days kept.")
            return
        retention = assessment.job.retention
        limits = [Level(retention.least_days, f"asked: {figure(retention.least_days)} days", needs=True)]
        if retention.most_days is not None and max(got.days) >= retention.most_days:
            limits.append(Level(retention.most_days, f"allowed: {figure(retention.most_days)} days", needs=False))
        days = assessment.recorder(recorder.id).days
        if got.now is None and days is not None:
            limits.append(Level(days, f"now: {figure(days)} days; the cameras differ", needs=False))
        unit = got.setting.unit
        self.chart.show_data(
            CurveData(got.values, got.days, got.days_low, got.days_high, unit, "days", tuple(limits), got.now)
        )
        of = (
            count(got.cameras, "selected camera")
            if self._selected_on(recorder)
            else f"All {count(got.cameras, 'camera')}"
        )
        self._whom.setText(f"{of} varied, the others unchanged. Shaded: 8 of 10 cases. Press a point to try it.")

    def _selected_on(self, recorder: Recorder) -> Sequence[Camera]:
        selected = set(self.session.selected)
        return [c for c in self.session.assessment.facts.cameras_on[recorder.id] if c.id in selected]

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
        cameras = self._selected_on(recorder) or self.session.assessment.facts.cameras_on[recorder.id]
        label_text = f"Set {figure(value)} {kind.unit} on {count(len(cameras), 'camera')}"
        self.session.apply(set_each(label_text, {camera.id: kind.fields(camera, value) for camera in cameras}))
