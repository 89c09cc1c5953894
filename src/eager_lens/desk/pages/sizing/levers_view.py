"""Which single change buys most days: a ranked list with a bar for the days that each would keep."""

from __future__ import annotations

import math
from functools import partial

from PySide6.QtWidgets import QProgressBar, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import promise_words
from eager_lens.core.job.model import Recorder
from eager_lens.core.options.levers import CAP, Lever, levers, missing
from eager_lens.core.units import days_figure
from eager_lens.desk.background import Task, Work, start
from eager_lens.desk.pages.sizing.outdated import Outdated
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

EMPTY_WORDS = "Register cameras on a recorder with drives to see which changes keep more days."

LEVERS_AT_MOST = 10
"""Changes that are usually calculated; sets the pace of the progress bar."""

LEAST_GAIN_DAYS = 0.05
"""What gains less would be shown as no gain."""


def _days(lever: Lever) -> str:
    return "nothing recorded" if lever.days is None else days_figure(lever.days)


def _share(lever: Lever, assessment: Assessment) -> float:
    """A full bar is half as much again as was asked."""
    full = max(1.0, 1.5 * assessment.job.retention.least_days)
    return 0.0 if lever.days is None else min(1.0, lever.days / full)


def _gain(lever: Lever) -> str:
    if lever.days is None:
        return "–"
    # Whole days, so that what is gained is what the column beside shows.
    return f"{math.floor(lever.days) - math.floor(lever.days - lever.gained):+d}"


COLUMNS = (
    TableColumn("words", "Change", lambda lever, a: lever.words, width=310),
    TableColumn(
        "enough",
        "",
        lambda lever, a: "",
        width=36,
        mark=lambda lever, a: "done" if lever.days is not None and lever.days >= a.job.retention.least_days else None,
    ),
    TableColumn(
        "days",
        "Can promise",
        lambda lever, a: _days(lever),
        unit="days",
        align="right",
        width=150,
        bar=_share,
    ),
    TableColumn("gain", "Gained", lambda lever, a: _gain(lever), unit="days", align="right", width=84),
    TableColumn("price", "Cost", lambda lever, a: lever.price, width=190, stretch=True),
)


class LeversView(QWidget):
    """The list, and a button that makes the selected change."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._shown: tuple[str, Assessment] | None = None
        session.opened.connect(self._let_go)
        self._task: Task | None = None
        self._outdated = Outdated(session, self, lambda: self._clear("Calculating …"))
        self._words = label("", "small", wrap=True)
        self._missing = label("", "small", wrap=True)
        self._apply = button("Apply this change", self._make, "main")
        self._progress = QProgressBar()
        self._progress.setFixedHeight(6)
        self._progress.setTextVisible(False)
        self._progress.hide()
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.doubleClicked.connect(lambda _: self._make())
        self.table.selectionModel().selectionChanged.connect(self._enable)
        layout = column(row(self._words, None, self._apply), self._progress, self.table, self._missing, spacing=4)
        layout.setStretch(2, 1)
        self.setLayout(layout)
        self._enable()

    def _let_go(self) -> None:
        self._shown = None

    def _enable(self) -> None:
        self._apply.setEnabled(bool(self.table.selected_parts()))

    def show_recorder(self, recorder: Recorder | None, assessment: Assessment) -> None:
        """Work the levers of a recorder out, off the window's thread; what is stale is dropped."""
        if recorder is not None and self._shown == (recorder.id, assessment):
            return
        self._shown = None if recorder is None else (recorder.id, assessment)
        if self._task is not None:
            self._task.cancel()
        if recorder is None or assessment.recorder(recorder.id).promised_days is None:
            self._words.setText("")
            self._outdated.end()
            self._progress.hide()
            self._clear(EMPTY_WORDS)
            return
        days = assessment.recorder(recorder.id).promised_days or 0.0
        asked = assessment.job.retention.least_days
        self._words.setText(
            f"{promise_words(recorder.name, days, asked)} now. A tick marks changes that reach the required days."
        )

        def work(task: Task) -> Work[list[Lever]]:
            found = []
            for at, lever in enumerate(levers(assessment, recorder.id)):
                found.append(lever)
                yield min(1.0, at / LEVERS_AT_MOST)
            return sorted(found, key=lambda lever: (lever.id != CAP, -lever.gained))

        self._outdated.begin(recorder.id)
        self._progress.setVisible(len(assessment.job.cameras) > 500)
        self._task = start(work, self)
        self._task.progressed.connect(lambda share: self._progress.setValue(round(100 * share)))
        self._task.done.connect(partial(self._done, self._shown))
        self._task.failed.connect(self._failed)

    def _clear(self, words: str) -> None:
        self._missing.hide()
        self.table.show_parts([], self.session.assessment, why_none=words)

    def _failed(self, text: str) -> None:
        self._progress.hide()
        self._outdated.end()
        self._clear("Not calculated")
        self.session.notice(text, needs=True)

    def _done(self, what: tuple[str, Assessment] | None, found: list[Lever]) -> None:
        if what is not None and what == self._shown:
            self._progress.hide()
            self._outdated.end()
            worth = [lever for lever in found if abs(lever.gained) >= LEAST_GAIN_DAYS]
            self.table.show_parts(worth, what[1], why_none="No single change keeps more days.")
            reasons = missing(what[1], what[0], {lever.id for lever in found})
            self._missing.setText(" ".join(["Not offered:", *reasons]) if reasons else "")
            self._missing.setVisible(bool(reasons))
            self._enable()

    def _make(self) -> None:
        selected = self.table.selected_parts()
        if selected and self.session.apply(selected[0].edit):
            self.session.tell_step(selected[0].edit.label)
