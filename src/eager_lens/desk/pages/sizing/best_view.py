"""The best picture within limits: what it is, what it costs, what is given up where, and the trade of quality against space."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtWidgets import QCheckBox, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Recorder
from eager_lens.core.options.best.settings import ALLOWED, Allowed, Weights
from eager_lens.core.options.best.working import working_of_best
from eager_lens.core.units import count, days_figure, figure, fixed
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.sizing.outdated import Outdated
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, label, row, scrolled
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.curve import CurveChart, CurveData
from eager_lens.desk.widgets.flow import flow, pair
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

if TYPE_CHECKING:
    from eager_lens.core.options.best.picture import Best

EMPTY_WORDS = "Register cameras on a recorder with drives to find the best picture within its limits."


WEIGHTS: dict[str, tuple[str, str, str]] = {
    "width": ("width doubled", "doubling the resolution width", ""),
    "beyond_need": ("beyond need", "part of that for pixels beyond the purpose", "%"),
    "frames": ("frames", "full frame rate", ""),
    "quality": ("quality step", "one step of quality", ""),
}
"""What counts how much: short and long words, and unit."""


class Searched(NamedTuple):
    """What a search found: the best within the space that there is, or why there is none; and the curve."""

    best: Best | None
    trouble: str
    curve: tuple[Best, ...]


COLUMNS = (
    TableColumn("name", "Camera", lambda change, a: change.name, width=170),
    TableColumn("words", "What changes", lambda change, a: change.words, width=330),
    TableColumn(
        "now", "Stored now", lambda change, a: fixed(change.gb_now, 1), unit="GB a day", align="right", width=130
    ),
    TableColumn("then", "Then", lambda change, a: fixed(change.gb_then, 1), unit="GB a day", align="right", width=110),
)


class BestView(QWidget):
    """The curve and its fields; ``table`` holds what changes, and the page puts it where it has room."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: Searched | None = None
        self.picked: Best | None = None
        # What the answer in sight belongs to; a result for anything else is dropped in _done.
        self._shown: tuple[str, Assessment, Allowed] | None = None
        session.opened.connect(self._let_go)
        self._recorder: Recorder | None = None
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self._hint, self._reasons = label("", "small", wrap=True), label("", "small", wrap=True)
        self._adopt = button("Apply proposal", self._make, "main")
        self._busy = Busy(session, self)
        self._outdated = Outdated(session, self, lambda: self._clear("Searching …"))
        self._busy.stop_button.clicked.connect(self._stopped)
        self._chart = CurveChart(EMPTY_WORDS)
        self._chart.picked.connect(self._point)
        self._make_fields()
        self.table = RecordTable(session, COLUMNS)
        self._how = button("Working", self._show_working, "quiet")
        self._lay_out()
        self._busy.changed.connect(self._show_state)
        self._show_state()

    def _let_go(self) -> None:
        self._shown = None

    def _make_fields(self) -> None:
        """What may be changed, and how far."""
        self._least = NumberField("Minimum frame rate", "fps", width=64)
        self._most = NumberField("Highest frame rate", "fps", width=64)
        self._least.show_value(ALLOWED.least_fps)
        self._most.show_value(ALLOWED.most_fps)
        self._key = NumberField("Longest key-frame interval", "s", width=56)
        self._key.show_value(ALLOWED.longest_key_frame_s)
        self._smaller, self._h265 = QCheckBox("lower resolution"), QCheckBox("H.265")
        self._smart, self._caps = QCheckBox("smart codec"), QCheckBox("caps")
        for box in (self._caps, self._smaller, self._h265):
            box.setChecked(True)
        for box in (self._caps, self._smaller, self._h265, self._smart):
            box.toggled.connect(lambda _: self._again())
        self._weights = {
            name: NumberField(f"What counts: {words}", unit, width=64) for name, (_, words, unit) in WEIGHTS.items()
        }
        # Weights without a unit are shares in the model and per cent in the field.
        for name, field in self._weights.items():
            field.show_value(getattr(ALLOWED.weights, name) * (100 if WEIGHTS[name][2] else 1))
        for field in (self._least, self._most, self._key, *self._weights.values()):
            field.typed.connect(lambda _: self._again())
            field.refused.connect(lambda text: self.session.notice(text, needs=True))

    def _lay_out(self) -> None:
        head = row(self._words, self._how, self._busy.stop_button, self._adopt, spacing=SPACE.HALF)
        head.setStretch(0, 1)
        fields = flow(
            pair("Allowed:", self._least),
            pair("to", self._most),
            pair("key frames up to", self._key),
            *(self._caps, self._smaller, self._h265, self._smart),
            None,
            spacing=SPACE.HALF,
        )
        counts = flow(
            label("Counts:"),
            *(pair(short, self._weights[name]) for name, (short, _, _) in WEIGHTS.items()),
            spacing=SPACE.HALF,
        )
        self._chart.setMinimumHeight(look.px(96))
        inner = QWidget()
        # The reasons come before the curve: they are what somebody decides by, and stand in sight on a small screen.
        layout = column(
            *(head, self._busy.bar, self._hint, self._reasons, self._chart, fields, counts), spacing=SPACE.TIGHT
        )
        layout.setStretch(4, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        inner.setLayout(layout)
        self.setLayout(column(scrolled(inner)))

    def _again(self) -> None:
        self.show_recorder(self._recorder, self.session.assessment)

    def show_recorder(self, recorder: Recorder | None, assessment: Assessment) -> None:
        """Search for a recorder's best picture, off the window's thread; what is stale is dropped."""
        self._recorder = recorder
        if recorder is None or assessment.recorder(recorder.id).promised_days is None:
            self._busy.stop()
            self._outdated.end()
            self._shown = self.found = self.picked = None
            self._words.setText("The best picture")
            self._clear(EMPTY_WORDS)
            self._show_state()
            return
        least, most = self._least.value or 1.0, self._most.value or 30.0
        allowed = Allowed(
            *(min(least, most), max(least, most), self._smaller.isChecked(), self._h265.isChecked()),
            *(self._key.value or 1.0, self._smart.isChecked(), self._as_weights(), self._caps.isChecked()),
        )
        what = (recorder.id, assessment, allowed)
        if what == self._shown:
            return
        self._shown, self.found, self.picked = what, None, None
        self._words.setText(f"{recorder.name}: searching for the best picture …")
        self._outdated.begin(recorder.id)
        recorder_id = recorder.id

        def work(task: Task) -> Work[Searched]:
            # Imported here: loading SciPy takes half a second, which belongs on this thread.
            from eager_lens.core.errors import RefusedInput
            from eager_lens.core.options.best.picture import best_picture, task_of, trade_curve

            best: Best | None = None
            trouble = ""
            points: list[Best] = []
            yield 0.02
            try:
                search = task_of(assessment, recorder_id, allowed)
            except RefusedInput as error:
                return Searched(None, str(error), ())
            yield 0.3
            try:
                best = best_picture(search, lambda share: task.step(0.3 + 0.3 * share))
            except RefusedInput as error:
                trouble = str(error)
            try:
                for share, so_far in trade_curve(search):
                    points = so_far
                    yield 0.6 + 0.4 * share
            except RefusedInput as error:
                trouble = trouble or str(error)
            return Searched(best, trouble, tuple(points))

        self._busy.begin(work, partial(self._done, what))

    def _clear(self, words: str) -> None:
        self._hint.setText("")
        self._reasons.setText("")
        self._chart.show_data(None, words)
        self.table.show_parts([], self.session.assessment, why_none=words)

    def _as_weights(self) -> Weights:
        typed = {name: field.value or 0.0 for name, field in self._weights.items()}
        return Weights(typed["width"], typed["beyond_need"] / 100, typed["frames"], typed["quality"])

    def _stopped(self) -> None:
        """Stopped by hand: what was asked for is forgotten, so that it can be asked for again."""
        self._shown = None
        self._outdated.end()
        self._clear("Stopped")
        self._words.setText("Search stopped. Change a limit or open this tab again to restart it")

    def _show_state(self) -> None:
        busy = self._busy.is_running
        self._how.setVisible(not busy and self.picked is not None)
        self._adopt.setVisible(not busy and self.picked is not None and bool(self.picked.changes))

    def _done(self, what: tuple[str, Assessment, Allowed], found: Searched) -> None:
        if what != self._shown:
            return
        self.found = found
        self._outdated.end()
        self._show(found.best)

    def _show(self, picked: Best | None) -> None:
        """Show one answer: the best within the space, or a point of the curve."""
        found, shown = self.found, self._shown
        if found is None or shown is None:
            return
        self.picked = picked
        recorder_id, assessment, _ = shown
        name, usable_tb = assessment.facts.recorders[recorder_id].name, assessment.recorder(recorder_id).usable_tb
        asked = figure(assessment.job.retention.least_days)
        if picked is None:
            self._words.setText(f"{name}: no allowed settings can promise {asked} days")
            self._hint.setText(found.trouble)
            self._reasons.setText("")
        else:
            share = f"{100 * picked.quality_share:.0f} % of the best picture"
            self._words.setText(f"{name}: {share} promises {asked} days with {figure(picked.needed_tb)} TB")
            promised = (
                "" if picked.promised_days is None else f" {_days(picked.promised_days)} days can be promised then."
            )
            tight = f" Used up: {', '.join(picked.tight[:2])}." if picked.tight else ""
            over = "" if picked.needed_tb <= usable_tb * 1.001 else f" It has {figure(usable_tb)} TB."
            gap = f" At most {100 * picked.gap_share:.1f} % better is possible." if picked.gap_share > 0.0005 else ""
            self._hint.setText(f"{count(len(picked.changes), 'camera')} change.{promised}{over}{tight}{gap}")
            self._reasons.setText("\n".join(picked.reasons))
        changes = [] if picked is None else picked.changes
        self.table.show_parts(changes, assessment, why_none=_why_none(picked, found))
        points = list(found.curve)
        if found.best is not None:
            points.append(found.best)
        curve = sorted({(one.needed_tb, 100 * one.quality_share) for one in points})
        if len(curve) < 2:
            self._chart.show_data(None, found.trouble or EMPTY_WORDS)
            self._show_state()
            return
        xs, ys = tuple(x for x, _ in curve), tuple(y for _, y in curve)
        now = found.best or points[0]
        within = now.now_tb <= xs[-1] * 1.3
        self._chart.show_data(
            CurveData(
                xs,
                ys,
                ys,
                tuple(0.0 for _ in ys),
                "TB needed to promise the days",
                "% quality",
                (),
                None if picked is None else picked.needed_tb,
                "",
                112.0,
                ((now.now_tb, 100 * now.now_share, f"now: {figure(now.now_tb)} TB"),) if within else (),
            )
        )
        self._show_state()

    def _show_working(self) -> None:
        if self.picked is not None and self._shown is not None:
            recorder_id, assessment, allowed = self._shown
            self.session.tell_working(working_of_best(self.picked, allowed, recorder_id, assessment))

    def _point(self, needed_tb: float) -> None:
        if self.found is not None:
            points = [*self.found.curve, *([self.found.best] if self.found.best else [])]
            self._show(min(points, key=lambda one: abs(one.needed_tb - needed_tb)))

    def _make(self) -> None:
        if self.picked is None:
            return
        edit = self.picked.edit
        if self.session.apply(edit):
            self.session.tell_step(edit.label)


def _why_none(picked: Best | None, found: Searched) -> str:
    """Why no camera changes."""
    if picked is None:
        return found.trouble or "No allowed settings can promise the days."
    if picked is found.best:
        return "No change: the present settings are the best that fit."
    return "No change: this point is the present settings."


def _days(days: float) -> str:
    return "more than can be fitted of" if days == float("inf") else days_figure(days)
