"""The wiring as a diagram, and below it what is selected: a device port by port, a link, or the path of a radio link."""

from __future__ import annotations

from collections import Counter
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Camera, Link
from eager_lens.core.job.wiring import put_on, unplug
from eager_lens.core.present.diagram import Box, Line, diagram
from eager_lens.core.present.ports import port_rows
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.units import count
from eager_lens.desk.asking import PDF, Asker, FileKind, file_to_write
from eager_lens.desk.pages.wiring.radio_panel import RadioPanel
from eager_lens.desk.pages.wiring.tables import link_columns, port_columns
from eager_lens.desk.pages.wiring.wiring_diagram import WiringDiagram
from eager_lens.desk.session import Session
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.columns import marks_by_subject
from eager_lens.desk.widgets.current_stack import Stack
from eager_lens.desk.widgets.plain_words import set_tip
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.splitter import Splitter
from eager_lens.desk.wiring_file import wiring_pdf, wiring_svg
from eager_lens.desk.writing import export

SVG = FileKind("SVG", (".svg",))

LEGEND = "Line width: load. Dashes: radio. Double line: fibre. Drag a box onto a device to connect it."
KEYS = "Drag a box onto a device to connect it. Return opens a group, 0 fits the view, + and - zoom."


class DiagramView(QWidget):
    """Diagram above, details below."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self._toggled: frozenset[str] = frozenset()
        self._opened = 0
        self._device = ""
        self._links: tuple[str, ...] = ()
        self.diagram = WiringDiagram()
        self.diagram.empty_words = (
            "No devices yet. Add a switch and a recorder, add cameras or import a list, then drag the cameras onto the switch "
            "here."
        )
        set_tip(self.diagram, KEYS)
        self.diagram.picked.connect(self._picked)
        self.diagram.toggled.connect(self._toggle)
        self.diagram.dropped.connect(self._dropped)
        self._exporting = Busy(session, self)
        self._make_tools()
        self._make_details()
        self._lay_out()

    def _make_tools(self) -> None:
        """Zoom and export; the page puts them beside its tabs."""
        export = button("Export ▾", kind="quiet")
        menu = QMenu(export)
        menu.addAction("Diagram as SVG…", partial(self._export, SVG))
        menu.addAction("Diagram as PDF…", partial(self._export, PDF))
        export.setMenu(menu)
        self.tools = (
            button("−", lambda: self.diagram.zoom_by(0.8), "quiet", "Smaller (-)"),
            button("+", lambda: self.diagram.zoom_by(1.25), "quiet", "Larger (+)"),
            button("Fit", self.diagram.fit, "quiet", "Fit to a readable size (0)"),
            button("All", self.diagram.see_all, "quiet", "Show everything"),
            export,
        )

    def _make_details(self) -> None:
        """What is shown below the diagram: ports, links or a radio link."""
        session = self.session
        self._title = label("", "heading")
        self._how = button("Working", self._show_working, "quiet", "Workings of load, power or incoming rate")
        self.ports = RecordTable(session, port_columns(), shares_selection=False)
        self.ports.empty_words = "Select a box or a line above to see its ports, cable, load and power."
        self.ports.delete_asked.connect(self._unplug_rows)
        self.ports.selectionModel().selectionChanged.connect(self._port_selected)
        self.links = RecordTable(session, link_columns(), shares_selection=False)
        self.links.delete_asked.connect(lambda parts: parts and session.apply(unplug(part.id for part in parts)))
        self.radio = RadioPanel(session)
        self._details = Stack()
        for part in (self.ports, self.links, self.radio):
            self._details.addWidget(part)

    def _lay_out(self) -> None:
        lower = QWidget()
        below = column(row(self._title, None, self._how), self._details, spacing=4)
        below.setStretch(1, 1)
        lower.setLayout(below)
        upper = QWidget()
        above = column(self.diagram, self._exporting.line("Drawing"), label(LEGEND, "small"), spacing=4)
        above.setStretch(0, 1)
        upper.setLayout(above)
        self._split = Splitter(Qt.Orientation.Vertical)
        self._split.addWidget(upper)
        self._split.addWidget(lower)
        self._split.setChildrenCollapsible(False)
        self._split.setSizes([390, 150])
        self._split.setStretchFactor(0, 1)
        self.setLayout(column(self._split))

    # ---- what is shown -------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the diagram and the details; another job begins with everything folded and in sight."""
        if self._opened != self.session.times_opened:
            self._opened = self.session.times_opened
            self._toggled, self._device, self._links = frozenset(), "", ()
            self.diagram.forget()
        self.diagram.show_diagram(diagram(assessment, self._toggled), frozenset(self.session.selected))
        self._show_details(assessment)
        self._how.setVisible(self._working() is not None)

    def show_selection(self) -> None:
        """Show what is selected elsewhere."""
        self.diagram.show_selected(frozenset(self.session.selected))

    def _show_details(self, assessment: Assessment) -> None:
        facts = assessment.facts
        wanted = frozenset(self._links)
        links = [link for link in facts.job.links if link.id in wanted] if wanted else []
        if links:
            self._show_links(links, assessment)
            return
        if self._device not in facts.by_device_id:
            ends = Counter(end for link in facts.job.links if link.a != link.b for end in (link.a, link.b))
            suppliers = sorted(facts.suppliers, key=lambda device: -max(ends[device.id], getattr(device, "ports", 0)))
            self._device = suppliers[0].id if suppliers and facts.job.links else ""
        rows = port_rows(facts, self._device)
        device = facts.by_device_id.get(self._device)
        taken = sum(bool(row.device_id) for row in rows)
        ports = count(getattr(device, "ports", 0), "port")
        self._title.setText(f"{device.name}, port by port: {taken} in use, {ports}" if device else "")
        self.ports.show_parts(rows, assessment, marks_by_subject(assessment))
        self._details.setCurrentWidget(self.ports)

    def _show_links(self, links: list[Link], assessment: Assessment) -> None:
        if len(links) == 1 and links[0].medium == "radio":
            self._title.setText(f"Radio path, {assessment.facts.link_name(links[0])}")
            self.radio.show_link(links[0], assessment)
            self._details.setCurrentWidget(self.radio)
            return
        self._title.setText(assessment.facts.link_name(links[0]) if len(links) == 1 else f"{len(links)} links")
        self.links.show_parts(links, assessment, {})
        self._details.setCurrentWidget(self.links)

    def _picked(self, picked: Box | Line | None) -> None:
        self._links = ()
        if isinstance(picked, Line):
            self._links = picked.links
            if not picked.links:
                self._device = self.diagram.shown.boxes[picked.b].id
        elif isinstance(picked, Box):
            if picked.kind != "internet":
                self.session.select(picked.devices)
            self._device = self._supplier_of(picked)
        self._show_details(self.session.assessment)
        self._how.setVisible(self._working() is not None)
        if isinstance(picked, Box) and picked.kind in ("camera", "cameras"):
            self._select_ports(frozenset(picked.devices))

    def _working(self) -> FigureRef | None:
        """The figure that tells most about what the details show."""
        if len(self._links) == 1:
            radio = FigureRef("radio", self._links[0])
            has_plan = working_of(radio, self.session.assessment) is not None
            return radio if has_plan else FigureRef("load", self._links[0])
        facts = self.session.assessment.facts
        if self._device in facts.recorders:
            return FigureRef("incoming", self._device)
        return FigureRef("power", self._device) if self._device in facts.topology.supplies else None

    def _show_working(self) -> None:
        ref = self._working()
        if ref is not None:
            self.session.show_working(ref)

    def _supplier_of(self, box: Box) -> str:
        """The device whose ports tell most about a box: itself, or what its cameras hang on."""
        first = box.devices[0] if box.devices else ""
        feeder = self.session.assessment.facts.topology.wiring.feeders.get(first)
        return first if feeder is None else feeder.far_end(first)[0]

    def _select_ports(self, device_ids: frozenset[str]) -> None:
        """Mark the rows of some cameras."""
        self.ports.blockSignals(True)
        self.ports.clearSelection()
        for at in range(self.ports.records.rowCount()):
            if self.ports.records.at(at).device_id in device_ids:
                index = self.ports.records.index(at, 0)
                flags = self.ports.selectionModel().SelectionFlag
                self.ports.selectionModel().select(index, flags.Select | flags.Rows)
        self.ports.blockSignals(False)

    def _port_selected(self) -> None:
        selected = [row.device_id for row in self.ports.selected_parts() if row.device_id]
        if selected and self.ports.hasFocus():
            self.session.select(selected)

    def _toggle(self, box_id: str) -> None:
        self._toggled = self._toggled ^ {box_id}
        self.show_assessment(self.session.assessment)
        if box_id in self.diagram.shown.boxes:
            self.diagram.lead_to(box_id)

    def lead_to(self, subject: str) -> bool:
        """Show a device or link in the diagram; whether it is there."""
        shown = self.diagram.shown
        box_id = shown.box_of.get(subject)
        if box_id is None:
            link = next((line for line in shown.lines if subject in line.links), None)
            if link is not None:
                self.diagram.select_line(link.id)
                self._picked(link)
            return link is not None
        self.diagram.lead_to(box_id)
        self._picked(shown.boxes[box_id])
        self.session.select([subject])
        if isinstance(self.session.assessment.facts.by_device_id.get(subject), Camera):
            self._select_ports(frozenset({subject}))
            self._scroll_to(subject)
        return True

    def _scroll_to(self, device_id: str) -> None:
        for at in range(self.ports.records.rowCount()):
            if self.ports.records.at(at).device_id == device_id:
                self.ports.scrollTo(self.ports.records.index(at, 0), self.ports.ScrollHint.PositionAtCenter)

    # ---- what is done --------------------------------------------------------------------------------------------

    def _dropped(self, device_ids: list[str], on_id: str) -> None:
        self.session.attempt(lambda: put_on(self.session.job, device_ids, on_id))

    def _unplug_rows(self, rows: list[object]) -> None:
        links = [row.link_id for row in rows if row.link_id]  # type: ignore[attr-defined]
        if links:
            self.session.apply(unplug(links))

    def _export(self, kind: FileKind) -> None:
        proposed = self.session.beside(f"-wiring{kind.endings[0]}")
        path = file_to_write(self.asker, f"Export {kind.words}", kind, proposed)
        if path is None:
            return
        drawing = wiring_svg if kind is SVG else wiring_pdf
        shown, title, paper = self.diagram.shown, f"Wiring of {self.session.job.name}", look.on_paper()
        self._exporting.begin(
            lambda task: drawing(shown, title, paper),
            lambda data: export(self.session, path, data),
            lambda: self.session.notice(f"Stopped: {path.name} was not written"),
        )
