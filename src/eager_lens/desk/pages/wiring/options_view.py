"""The four ways of attaching cameras, side by side for this job; one is selected and the wiring is rewritten."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QProgressBar, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Attachment
from eager_lens.core.options.wiring_options import SCHOOLS, OptionFigures, option_figures
from eager_lens.core.plain_text import inside
from eager_lens.core.planning.attaching import ATTACHMENT_WORDS, ATTACHMENTS, attach
from eager_lens.core.units import count, figure
from eager_lens.desk.background import Task, Work, start, waited_for
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, emptied, label, scrolled
from eager_lens.desk.widgets.reading_order import keys_in_order

NOTE = (
    "Each column is this job with that wiring, calculated again. Only cameras whose cable ends at the new port move; no cable "
    "run changes. Plan a VLAN as a separate network. Undo restores the present wiring."
)


class OptionsView(QWidget):
    """A grid: what is compared down the side, a way in each column."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._shown: Assessment | None = None
        session.opened.connect(self._let_go)
        self._task: Task | None = None
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(SPACE.FULL)
        self._grid.setVerticalSpacing(SPACE.HALF)
        inner = QWidget()
        outer = column(self._grid, label(NOTE, "small", wrap=True), None)
        inner.setLayout(outer)
        area = scrolled(inner)
        self._progress = QProgressBar()
        self._progress.hide()
        layout = column(self._progress, area)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def _let_go(self) -> None:
        self._shown = None

    def show_assessment(self, assessment: Assessment) -> None:
        """Work the four ways out off the window's thread; a result for a job that has changed meanwhile is dropped."""
        self._shown = assessment
        if self._task is not None:
            self._task.cancel()
        if not assessment.job.recorders or not assessment.job.cameras:
            self._progress.hide()
            emptied(self._grid)
            words = "Add a camera and a recorder first; then their connections can be compared."
            self._grid.addWidget(label(words, "muted", wrap=True), 0, 0)
            return

        def work(task: Task) -> Work[list[OptionFigures]]:
            found = []
            for at, attachment in enumerate(ATTACHMENTS):
                yield at / len(ATTACHMENTS)
                found.append(option_figures(assessment, attachment))
            return found

        self._progress.setVisible(len(assessment.job.cameras) > 500)
        self._task = start(work, self)
        self._task.progressed.connect(lambda share: self._progress.setValue(round(100 * share)))
        self._task.done.connect(partial(self._done, assessment))
        self._task.failed.connect(self._failed)

    def _failed(self, text: str) -> None:
        self._progress.hide()
        self.session.notice(text, needs=True)

    def _done(self, assessment: Assessment, found: list[OptionFigures]) -> None:
        if self._shown is not assessment:
            return
        self._progress.hide()
        emptied(self._grid)
        for at_row, words in enumerate(ROWS):
            self._grid.addWidget(_cell(words, "small"), at_row + 2, 0)
        self._grid.setColumnStretch(0, 0)
        total = len(assessment.job.cameras)
        for at, got in enumerate(found, 1):
            self._grid.setColumnStretch(at, 1)
            self._grid.addWidget(label(ATTACHMENT_WORDS[got.attachment], "heading", wrap=True), 0, at)
            for at_row, (text, needs) in enumerate(in_words(got, total)):
                self._grid.addWidget(_cell(text, "need" if needs else ""), at_row + 2, at)
            words = "Planned now" if got.is_present else "Apply this option"
            select = button(words, partial(self._select, got.attachment), "plain" if got.is_present else "main")
            select.setAccessibleName(f"{words}: {ATTACHMENT_WORDS[got.attachment]}")
            select.setEnabled(not got.is_present)
            self._grid.addWidget(select, 1, at, Qt.AlignmentFlag.AlignLeft)
        keys_in_order(self)

    def _select(self, attachment: Attachment) -> None:
        session = self.session
        job = session.job
        if session.attempt(lambda: waited_for(lambda: attach(job, attachment), "Connecting the cameras…")):
            session.tell_step(f"Wired: {inside(ATTACHMENT_WORDS[attachment])}")


ROWS = (
    "Advantages",
    "Disadvantages",
    "Load on the office network",
    "New faults",
    "If the router fails",
    "Worst single failure",
    "Reachable from the router",
    "Addresses",
    "To buy",
)


def in_words(got: OptionFigures, total: int) -> list[tuple[str, bool]]:
    """The cells of one way, in the order of ``ROWS``: text, and whether it needs somebody."""
    pro, contra = SCHOOLS[got.attachment]
    office = (
        "no router in this job"
        if got.office_mbps is None
        else "no recording"
        if got.office_mbps == 0
        else f"{figure(got.office_mbps)} Mb/s"
    )
    if got.new_faults:
        titles = "; ".join(finding.title for finding in got.new_faults[:3])
        more = f"; and {len(got.new_faults) - 3} more" if len(got.new_faults) > 3 else ""
        faults = titles + more
    else:
        faults = "none"
    router = (
        "recording goes on"
        if got.router_stops == 0
        else (f"{count(got.router_stops, 'camera stops', 'cameras stop')} recording")
    )
    worst = f"{got.worst_part}: {count(got.worst_stops, 'camera stops', 'cameras stop')}" if got.worst_stops else "none"
    reach = "no router in this job" if got.in_reach is None else f"{got.in_reach} of {count(total, 'camera')}"
    return [
        (pro, False),
        (contra, False),
        (office, False),
        (faults, bool(got.new_faults)),
        (router, got.router_stops > 0),
        (worst, False),
        (reach, False),
        (_addresses(got, total), False),
        ("; ".join(f"{figure(p.quantity)} × {p.what}" for p in got.buy) or "nothing", False),
    ]


def _addresses(got: OptionFigures, total: int) -> str:
    if got.attachment == "recorder PoE ports":
        rest = total - got.on_ports
        own = f"{got.on_ports} assigned by the recorder"
        return own + (f", {rest} on the camera network" if rest else "")
    if got.attachment == "camera interface":
        return f"{total} on the camera network"
    return f"{total} on the LAN, static"


def _cell(text: str, role: str) -> QWidget:
    made = label(text, role, wrap=True)  # type: ignore[arg-type]
    made.setAlignment(Qt.AlignmentFlag.AlignTop)
    made.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return made
