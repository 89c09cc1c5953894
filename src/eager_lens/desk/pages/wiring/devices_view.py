"""The devices as tables: cameras with their runs, what feeds them, the links between, power units, device kinds, spare ones."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Device
from eager_lens.core.job.spares import install_spares, remove_spares
from eager_lens.core.job.wiring import add_kind, remove_kinds, remove_units, types_of, unplug
from eager_lens.core.units import count
from eager_lens.desk.pages.wiring.tables import (
    camera_columns,
    kind_columns,
    link_columns,
    network_columns,
    recorder_columns,
    spare_columns,
    unit_columns,
)
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button, column
from eager_lens.desk.widgets.columns import marks_by_subject
from eager_lens.desk.widgets.current_stack import Stack
from eager_lens.desk.widgets.device_tables import removes_devices
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.record_table import RecordTable

CABLE_WIDTH = 64

TABS = ("Cameras", "Recorders", "Network", "Links", "Power", "Types", "Spare devices")


class DevicesView(QWidget):
    """Seven tables, one in sight."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.cameras = RecordTable(session, camera_columns())
        self.recorders = RecordTable(session, recorder_columns())
        self.network = RecordTable(session, network_columns())
        self.links = RecordTable(session, link_columns(), shares_selection=False)
        self.power = RecordTable(session, unit_columns(), shares_selection=False)
        self.kinds = RecordTable(session, kind_columns(), shares_selection=False)
        self.spares = RecordTable(session, spare_columns(), shares_selection=False)
        self.links.empty_words = "No links yet. Select devices in the other tables, then press “Connect selected to”."
        self.power.empty_words = (
            "No injector, power supply or UPS yet. Select the devices that it supplies, then press “Add a device”."
        )
        self.spares.empty_words = (
            "No spare devices. Select devices that are bought but not installed, then Edit, “Mark selected as spare”: findings "
            "no longer ask for their address, channel or schedule."
        )
        self.links.delete_asked.connect(lambda parts: parts and session.apply(unplug(part.id for part in parts)))
        self.power.delete_asked.connect(lambda parts: parts and session.apply(remove_units(part.id for part in parts)))
        self.kinds.delete_asked.connect(self._remove_kinds)
        self.spares.delete_asked.connect(self._remove_spares)
        self._install = button("Install selected", self._install_spares)
        self._more_kinds = button("Add a type like this", self._add_kind)
        self.tabs = [button(words, lambda at=at: self.show_tab(at), "tab") for at, words in enumerate(TABS)]  # type: ignore[misc]
        self._stack = Stack()
        for table in (self.cameras, self.recorders, self.network):
            removes_devices(table, session)
        self.tables = (self.cameras, self.recorders, self.network, self.links, self.power, self.kinds, self.spares)
        for table in self.tables:
            self._stack.addWidget(table)
        layout = column(flow(*self.tabs, None, self._more_kinds, self._install, spacing=0), self._stack)
        layout.setStretch(1, 1)
        self.setLayout(layout)
        self.show_tab(0)

    def show_tab(self, at: int) -> None:
        """Bring one table into sight."""
        self._stack.setCurrentIndex(at)
        for number, tab in enumerate(self.tabs):
            tab.setChecked(number == at)
        self._more_kinds.setVisible(self.tables[at] is self.kinds)
        self._install.setVisible(self.tables[at] is self.spares)

    def show_assessment(self, assessment: Assessment) -> None:
        """Fill the tables."""
        job, marks = assessment.job, marks_by_subject(assessment)
        types, spares = tuple(types_of(job).values()), tuple(job.spare_devices())
        parts = (job.cameras, job.recorders, job.network, job.links, job.power_units, types, spares)
        for table, tab, words, rows in zip(self.tables, self.tabs, TABS, parts, strict=True):
            table.show_parts(rows, assessment, marks)
            tab.setText(f"{words} {len(rows)}")

    def _add_kind(self) -> None:
        selected = self.kinds.selected_parts()
        if not selected:
            self.session.notice("Select the type to copy first", needs=True)
        elif self.session.apply(add_kind(selected[0], f"{selected[0].label}, own")):
            new = self.session.job.device_types[-1].id
            self.kinds.lead_to(new)
            self.kinds.setFocus()
            self.kinds.edit(self.kinds.currentIndex())

    def _remove_kinds(self, parts: list[object]) -> None:
        own = {kind.id for kind in self.session.job.device_types}
        gone = [part.id for part in parts if part.id in own]  # type: ignore[attr-defined]
        if gone:
            self.session.apply(remove_kinds(gone))
        elif parts:
            self.session.notice("Only types of this job can be removed; the others belong to the program")

    def _install_spares(self) -> None:
        selected = [device.id for device in self.spares.selected_parts()]
        if not selected:
            self.session.notice("Select the spare devices to install first", needs=True)
        elif self.session.apply(install_spares(selected)):
            self.session.tell_step(f"{count(len(selected), 'device')} installed; now connect and register them")
            self.lead_to(selected[0])

    def _remove_spares(self, parts: list[Device]) -> None:
        if parts and self.session.apply(remove_spares(part.id for part in parts)):
            self.session.tell_step(f"{count(len(parts), 'spare device')} removed")

    def lead_to(self, subject: str) -> bool:
        """Show a part's row; whether one of the tables has it."""
        for at, table in enumerate(self.tables):
            if table.records.row_of(subject) is not None:
                self.show_tab(at)
                table.lead_to(subject)
                table.setFocus()
                return True
        return False
