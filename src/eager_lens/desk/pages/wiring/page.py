"""What is on site and how it is fed: every device with its place, its run of cable, its power and its label."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial

from PySide6.QtWidgets import QMenu, QScrollArea, QStackedWidget

from eager_lens.core.addressing.plan import ROLES, Role
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.edits import Edit, add_cameras, add_network_device, add_recorder
from eager_lens.core.job.fields import CAMERA_FIELDS, field_named
from eager_lens.core.job.model import Camera, Job, role_of
from eager_lens.core.job.wiring import free_sockets, put_on, sockets_used, unplug
from eager_lens.core.units import LengthView, count, figure
from eager_lens.desk.pages.wiring.tables import (
    camera_columns,
    link_columns,
    network_columns,
    recorder_columns,
    suppliers,
)
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button, label, row
from eager_lens.desk.widgets.columns import device_column, marks_by_subject
from eager_lens.desk.widgets.device_tables import add_more_like, removes_devices
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.place_map import PlacedDevice, PlaceMap
from eager_lens.desk.widgets.record_table import RecordTable

CABLE_WIDTH = 64

MOST_ON_MAP = 2000
"""A job with more devices is read from its table."""

TABS = ("Cameras", "Recorders", "Network", "Links")


class WiringPage(Page):
    """The devices of the job, by place."""

    stage = "wiring"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._how_many = NumberField("How many cameras like the chosen one", "", width=44)
        self._how_many.show_value(12)
        self._how_many.refused.connect(lambda text: session.notice(text, needs=True))
        like = button("like the chosen", self._add_like)
        add_device = button("Add a device ▾")
        menu = QMenu(add_device)
        menu.addAction("Recorder", lambda: self._added(add_recorder()))
        for role in ROLES:
            if role not in ("recorder", "camera"):
                menu.addAction(role.capitalize(), partial(self._add_network, role))
        add_device.setMenu(menu)
        put = button("Put the chosen on ▾")
        self._put_menu = QMenu(put)
        self._put_menu.aboutToShow.connect(self._fill_put_menu)
        put.setMenu(self._put_menu)
        import_list = button("Import a list…", lambda: session.command_asked.emit("import"), "quiet")
        parts = (
            button("Add a camera", self.add_camera, "main"),
            label("Add"),
            self._how_many,
            like,
            put,
            add_device,
            import_list,
        )
        for part in parts:
            self.action_row.addWidget(part)
        self.action_row.addStretch(1)
        self._map = PlaceMap()
        self._map.chosen.connect(session.choose)
        self._tabs = [button(words, lambda at=at: self._show_tab(at), "tab") for at, words in enumerate(TABS)]  # type: ignore[misc]
        self.cameras = RecordTable(session, camera_columns())
        self.recorders = RecordTable(session, recorder_columns())
        self.network = RecordTable(session, network_columns())
        self.links = RecordTable(session, link_columns(), shares_choice=False)
        self.links.empty_words = "No links yet. Choose devices in the other tables, then press “Put the chosen on”."
        self.links.delete_asked.connect(
            lambda links: session.apply(unplug(link.id for link in links)) if links else None
        )
        self._stack = QStackedWidget()
        for table in (self.cameras, self.recorders, self.network):
            self._stack.addWidget(table)
            removes_devices(table, session)
        self._stack.addWidget(self.links)
        self._hint = label(
            "Round: camera. Square: V recorder, S switch, R router, B bridge. Press a place's name to choose all in it.",
            "small",
            wrap=True,
        )
        self._map_area = QScrollArea()
        self._map_area.setWidgetResizable(True)
        self._map_area.setWidget(self._map)
        self.body.addWidget(self._map_area)
        self.body.addWidget(self._hint)
        self.body.addLayout(row(*self._tabs, None, spacing=0))
        self.body.addWidget(self._stack, 1)
        self.body.addWidget(
            label(
                "Mains, earthing and lightning protection are for licensed people. Nobody works at height alone.",
                "caution",
            )
        )
        self._show_tab(0)
        self._show_lengths()
        session.preferences_changed.connect(self._show_lengths)
        session.chosen_changed.connect(self._choice_changed)

    def _show_lengths(self) -> None:
        """Show and read cable lengths in the unit that this person prefers; the job keeps metres."""
        view = LengthView(self.session.preferences.lengths)
        plain = device_column(field_named(CAMERA_FIELDS, "cable_m"), CABLE_WIDTH)

        def show(camera: Camera, assessment: Assessment) -> str:
            return "" if camera.cable_m is None else figure(view.from_m(camera.cable_m), 3)

        def edit(parts: Sequence[Camera], text: str, job: Job) -> Edit:
            bare = text.strip()
            assert plain.edit is not None
            return plain.edit(parts, f"{bare} {view.unit}" if bare[-1:].isdigit() else bare, job)

        at = next(i for i, column in enumerate(self.cameras.records.columns) if column.id == "cable_m")
        self.cameras.records.put_column(at, replace(plain, show=show, edit=edit, unit=view.unit))

    def _show_tab(self, at: int) -> None:
        self._stack.setCurrentIndex(at)
        for number, tab in enumerate(self._tabs):
            tab.setChecked(number == at)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the map and the tables."""
        job, marks = assessment.job, marks_by_subject(assessment)
        self.cameras.show_parts(job.cameras, assessment, marks)
        self.recorders.show_parts(job.recorders, assessment, marks)
        self.network.show_parts(job.network, assessment, marks)
        self.links.show_parts(job.links, assessment, marks)
        counts = (len(job.cameras), len(job.recorders), len(job.network), len(job.links))
        for tab, words, number in zip(self._tabs, TABS, counts, strict=True):
            tab.setText(f"{words} {number}")
        self._draw_map(assessment)

    def _draw_map(self, assessment: Assessment) -> None:
        marks = marks_by_subject(assessment)
        placed = [PlacedDevice(d.id, d.name, d.place, role_of(d), marks.get(d.id)) for d in assessment.facts.devices]
        self._map.show_devices(placed, frozenset(self.session.chosen))
        for part in (self._map_area, self._hint):
            part.setVisible(bool(placed) and len(placed) <= MOST_ON_MAP)
        self._map_area.setFixedHeight(min(self._map.height_for(self.width()), self.height() * 2 // 5))

    def _choice_changed(self) -> None:
        if self.isVisible():
            self._draw_map(self.session.assessment)

    def _fill_put_menu(self) -> None:
        self._put_menu.clear()
        used = sockets_used(self.session.job.links)
        for device in suppliers(self.session.job):
            free = count(len(free_sockets(device, used)), "free socket")
            self._put_menu.addAction(f"{device.name}   ({free})", partial(self._put_on, device.id))
        if not self._put_menu.actions():
            self._put_menu.addAction("Add a switch first").setEnabled(False)

    def _put_on(self, device_id: str) -> None:
        self.session.attempt(lambda: put_on(self.session.job, self.session.chosen, device_id))

    def add_camera(self) -> None:
        """Add a camera where the chosen one hangs, and begin to type its name."""
        place = next((c.place for c in self.session.job.cameras if c.id in self.session.chosen), "")
        name = f"Camera {len(self.session.job.cameras) + 1}"
        if self.session.apply(add_cameras([{"name": name, "place": place}], "Add a camera")):
            self.lead_to(self.session.job.cameras[-1].id)
            self.cameras.edit(self.cameras.currentIndex())

    def _add_like(self) -> None:
        how_many = self._how_many.value or 0.0
        if not how_many.is_integer():
            self.session.notice(f"{how_many:g} cameras cannot be added; give a whole number", needs=True)
        else:
            add_more_like(self.session, int(how_many))

    def _add_network(self, role: Role) -> None:
        self._added(add_network_device(role))

    def _added(self, edit: Edit) -> None:
        before = {device.id for device in self.session.job.devices()}
        if self.session.apply(edit):
            self.lead_to(next(d.id for d in self.session.job.devices() if d.id not in before))

    def lead_to(self, subject: str) -> None:
        """Show a device's row."""
        for at, table in enumerate((self.cameras, self.recorders, self.network, self.links)):
            if table.records.row_of(subject) is not None:
                self._show_tab(at)
                table.lead_to(subject)
                table.setFocus()
