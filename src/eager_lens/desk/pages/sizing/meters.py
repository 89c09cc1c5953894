"""Days asked, and a meter of days and of incoming load for each recorder."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import days_words
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.limits import keeps, load_severity
from eager_lens.core.assess.rules.sizing import has_estimated_rate
from eager_lens.core.job.edits import set_retention
from eager_lens.core.present.working import FigureRef
from eager_lens.core.units import count, days_figure, figure
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import column, emptied, label
from eager_lens.desk.widgets.columns import marks_by_subject
from eager_lens.desk.widgets.flow import flow, pair
from eager_lens.desk.widgets.meter import Meter
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.reading_order import keys_in_order

MOST_METERS = 60
"""So many recorders have meters; the others are in the table."""


class RecorderMeters(QWidget):
    """The right side of the page."""

    pressed = Signal(object)
    """The figure whose meter was pressed, a ``FigureRef``."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.least = NumberField("Minimum retention", "days", width=76)
        self.most = NumberField("Maximum retention", "days", "no limit", width=76)
        for box in (self.least, self.most):
            box.typed.connect(self._retention_typed)
            box.refused.connect(lambda text: self.session.notice(text, needs=True))
        self._meters = QVBoxLayout()
        self._meters.setSpacing(SPACE.HALF)
        inner = QWidget()
        asked = flow(pair("Keep at least", self.least), pair("at most", self.most))
        inner.setLayout(column(asked, self._meters, None))
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidgetResizable(True)
        scroll.setWidget(inner)
        self.pairs: dict[str, tuple[Meter, Meter]] = {}
        layout = column(label("Recorders", "heading"), scroll, spacing=SPACE.HALF)
        layout.setStretch(1, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        self.setLayout(layout)

    def show_assessment(self, assessment: Assessment) -> None:
        """Show days asked, and each recorder's meters."""
        self.least.show_value(assessment.job.retention.least_days)
        self.most.show_value(assessment.job.retention.most_days)
        self._draw_meters(assessment)

    def _draw_meters(self, assessment: Assessment) -> None:
        recorders = assessment.job.recorders
        if list(self.pairs) != [recorder.id for recorder in recorders]:
            emptied(self._meters)
            self.pairs = {}
            for recorder in recorders[:MOST_METERS]:
                pair = (Meter(), Meter())
                for kind, meter in zip(("days", "incoming"), pair, strict=True):
                    ref = FigureRef(kind, recorder.id)  # type: ignore[arg-type]
                    meter.pressed.connect(lambda ref=ref: self.pressed.emit(ref))
                    self._meters.addWidget(meter)
                self._meters.addSpacing(SPACE.TIGHT)
                self.pairs[recorder.id] = pair
            if not recorders:
                self._meters.addWidget(label("No recorder yet: add one below the curve.", "muted", wrap=True))
            keys_in_order(self)
        severities = marks_by_subject(assessment, "sizing", "bench")
        asked = assessment.job.retention.least_days
        assumed = bool(assessment.facts.having(has_estimated_rate))
        for recorder in recorders[:MOST_METERS]:
            days, incoming = self.pairs[recorder.id]
            got = assessment.recorder(recorder.id)
            promised = got.promised_days
            short = got.trouble or not keeps(promised, asked)
            mean = "" if got.mean_days is None else f", {days_figure(got.mean_days)} expected"
            text = (
                (f"0 of {figure(asked)} days: {got.trouble}" if got.cameras else got.trouble)
                if got.trouble
                else (
                    days_words(None, got.keeps)
                    if promised is None
                    else f"{days_figure(promised)} of {figure(asked)} days{mean}"
                )
            )
            full = max(asked * 1.5, 1.0)
            share = 0.0 if promised is None else promised / full
            days.show_share(recorder.name, text, share, bool(short), assumed and not got.trouble, asked / full)
            limit = recorder.incoming_limit_mbps
            over = (
                severities.get(recorder.id, Severity.NOTE) > Severity.NOTE
                and load_severity(got.incoming_mbps, limit) is Severity.FAULT
            )
            load = f"{figure(got.incoming_mbps)} of {figure(limit)} Mb/s"
            words = f"{count(got.cameras, 'camera')}, busier half"
            incoming.show_share(words, load, got.incoming_mbps / limit, over, assumed)

    def _retention_typed(self) -> None:
        retention = self.session.job.retention
        if not self.session.apply(set_retention(self.least.value or 0.0, self.most.value)):
            self.least.show_value(retention.least_days)
            self.most.show_value(retention.most_days)
