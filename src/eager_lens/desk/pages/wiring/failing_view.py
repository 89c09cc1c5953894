"""What if this fails? Every single part, worst first, and in the diagram what it takes with it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.failing import Failure
from eager_lens.core.assess.finding import names_listed
from eager_lens.core.present.diagram import Box, Line, diagram
from eager_lens.core.units import count
from eager_lens.desk.pages.wiring.tables import FailingPart, failing_columns
from eager_lens.desk.pages.wiring.wiring_diagram import WiringDiagram
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import column, label
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.splitter import Splitter

NOTHING_CONNECTED = "Nothing is connected yet, so nothing can fail."
NOTHING_REACHED = "No registered camera reaches its recorder yet, so no failure stops a recording."


class FailingView(QWidget):
    """The list at the top, the diagram below."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._shown: Assessment | None = None
        session.opened.connect(self._let_go)
        self._failing: dict[str, Failure] = {}
        self._words = label("", wrap=True)
        self.parts = RecordTable(session, failing_columns(), shares_selection=False)
        self.parts.selectionModel().selectionChanged.connect(self._selected)
        self.diagram = WiringDiagram()
        self.diagram.empty_words = "Nothing is connected yet."
        self.diagram.picked.connect(self._picked)
        lower = QWidget()
        below = column(self._words, self.diagram, spacing=4)
        below.setStretch(1, 1)
        lower.setLayout(below)
        split = Splitter(Qt.Orientation.Vertical)
        split.addWidget(self.parts)
        split.addWidget(lower)
        split.setChildrenCollapsible(False)
        split.setSizes([180, 320])
        self.setLayout(column(split))

    def _let_go(self) -> None:
        self._shown = None

    def show_assessment(self, assessment: Assessment) -> None:
        """Fill list and diagram."""
        self._shown = assessment
        facts = assessment.facts
        self._failing = {failure.part: failure for failure in facts.failures}
        rows = [_row(failure, facts) for failure in facts.failures if failure.part not in facts.camera_figures]
        rows = [row for row in rows if not row.is_own_run]
        why_none = NOTHING_REACHED if assessment.job.links else NOTHING_CONNECTED
        self.parts.show_parts(rows, assessment, why_none=why_none)
        self.diagram.show_diagram(diagram(assessment), frozenset())
        if rows and not self.parts.selected_parts():
            self.parts.select_row(0)
        self._selected()

    def lead_to(self, part: str) -> None:
        """Ask what a part takes with it."""
        if self.parts.records.row_of(part) is not None:
            self.parts.lead_to(part)
        else:
            self.parts.clearSelection()
            self._show_part(part)

    def _selected(self) -> None:
        selected = self.parts.selected_parts()
        self._show_part(selected[0].id if selected else "")

    def _picked(self, picked: Box | Line | None) -> None:
        """Any box or line can be asked about, those that take nothing with them too."""
        part = ""
        if isinstance(picked, Box) and len(picked.devices) == 1:
            part = picked.devices[0]
        elif isinstance(picked, Line) and len(picked.links) == 1:
            part = picked.links[0]
        if part:
            self.lead_to(part)

    def _show_part(self, part: str) -> None:
        if self._shown is None or not part:
            self._words.setText("Select a part in the list or in the diagram.")
            self.diagram.show_lost(None)
            return
        facts = self._shown.facts
        failure = self._failing.get(part, Failure(part, frozenset(), frozenset()))
        self._words.setText(what_it_takes(failure, facts))
        links = facts.topology.wiring.feeders
        gone = failure.stopped | {part} | {links[one].id for one in failure.stopped if one in links}
        self.diagram.show_lost(frozenset(gone))
        shown = self.diagram.shown
        line = next((line for line in shown.lines if part in line.links), None)
        if part in shown.box_of:
            self.diagram.lead_to(shown.box_of[part])
        elif line is not None:
            self.diagram.select_line(line.id)


def part_name(part: str, facts: Facts) -> str:
    """A device, link or power unit by name."""
    link = next((link for link in facts.job.links if link.id == part), None)
    unit = next((unit for unit in facts.job.power_units if unit.id == part), None)
    return facts.link_name(link) if link else unit.name if unit else facts.name(part)


def what_it_takes(failure: Failure, facts: Facts) -> str:
    """One sentence on what a part takes with it."""
    name = part_name(failure.part, facts)
    if not failure.stopped and not failure.unseen:
        return f"If {name} fails, recording and remote viewing go on everywhere."
    parts = []
    if failure.stopped:
        names = names_listed([c.name for c in facts.job.cameras if c.id in failure.stopped])
        verb = "stops" if len(failure.stopped) == 1 else "stop"
        parts.append(f"{count(len(failure.stopped), 'camera')} {verb} recording: {names}")
    if failure.unseen:
        parts.append(f"{count(len(failure.unseen), 'camera')} can no longer be viewed remotely")
    return f"If {name} fails, {'; '.join(parts)}."


def _row(failure: Failure, facts: Facts) -> FailingPart:
    link = next((link for link in facts.job.links if link.id == failure.part), None)
    unit = next((unit for unit in facts.job.power_units if unit.id == failure.part), None)
    kind = "link" if link else unit.kind if unit else getattr(facts.by_device_id.get(failure.part), "role", "recorder")
    places = dict.fromkeys(c.place or "no place" for c in facts.job.cameras if c.id in failure.stopped | failure.unseen)
    return FailingPart(
        failure.part,
        part_name(failure.part, facts),
        kind,
        len(failure.stopped),
        len(failure.unseen),
        names_listed(list(places), 4),
        link is not None and link.id in facts.on_link,
    )
