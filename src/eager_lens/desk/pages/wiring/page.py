"""What hangs on what and how it is fed: the diagram, the devices as tables, what fails, the four ways, the parts."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.edits import Edit, add_cameras, add_network_device, add_recorder
from eager_lens.core.job.model import Job
from eager_lens.core.job.wiring import (
    UNIT_WORDS,
    UnitKind,
    add_of_kind,
    add_unit,
    free_ports,
    ports_in_use,
    put_on,
    types_of,
)
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.reference.device_types import DeviceType
from eager_lens.core.reference.roles import ROLES, Role
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.wiring.devices_view import DevicesView
from eager_lens.desk.pages.wiring.diagram_view import DiagramView
from eager_lens.desk.pages.wiring.failing_view import FailingView
from eager_lens.desk.pages.wiring.options_view import OptionsView
from eager_lens.desk.pages.wiring.parts_view import PartsView
from eager_lens.desk.pages.wiring.tables import suppliers
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button, held, label
from eager_lens.desk.widgets.current_stack import Stack
from eager_lens.desk.widgets.device_tables import add_more_like
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.plain_words import as_label

VIEWS = ("Diagram", "Devices", "What if it fails?", "Options", "Parts list")
DIAGRAM, DEVICES, FAILING, ATTACHMENTS, PARTS = range(5)


class WiringPage(Page):
    """The wiring of the job, in five views."""

    stage = "wiring"

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        self._fill_actions()
        self.diagram = DiagramView(session, asker)
        self.devices = DevicesView(session)
        self.failing = FailingView(session)
        self.ways = OptionsView(session)
        self.parts = PartsView(session, asker)
        self._views = (self.diagram, self.devices, self.failing, self.ways, self.parts)
        # Views out of sight that missed an assessment; they catch up in show_view.
        self._behind: set[QWidget] = set()
        self._view_tabs = [button(words, partial(self.show_view, at), "tab") for at, words in enumerate(VIEWS)]
        self._stack = Stack()
        for view in self._views:
            self._stack.addWidget(view)
        self.body.addWidget(held(flow(*self._view_tabs, None, *self.diagram.tools, spacing=0)))
        self.body.addWidget(self._stack, 1)
        self.body.addWidget(
            label(
                "Mains, earthing and lightning protection belong to a licensed electrician. Never work at height alone.",
                "caution",
            )
        )
        self._first = True
        self._show_tabs(DIAGRAM)
        session.selection_changed.connect(self.diagram.show_selection)

    def _fill_actions(self) -> None:
        session = self.session
        self._how_many = NumberField("Number of cameras like the selected one", "", width=44)
        self._how_many.show_value(12)
        self._how_many.refused.connect(lambda text: session.notice(text, needs=True))
        like = button("like the selected", self._add_like)
        add_device = button("Add a device ▾")
        self._device_menu = QMenu(add_device)
        self._device_menu.aboutToShow.connect(self._fill_device_menu)
        add_device.setMenu(self._device_menu)
        put = button("Connect selected to ▾")
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

    # ---- views ---------------------------------------------------------------------------------------------------

    def show_view(self, at: int) -> None:
        """Bring one of the views into sight; it catches up with what changed meanwhile."""
        self._show_tabs(at)
        view = self._views[at]
        if view in self._behind:
            self._behind.discard(view)
            view.show_assessment(self.session.assessment)

    def _show_tabs(self, at: int) -> None:
        self._stack.setCurrentIndex(at)
        for number, tab in enumerate(self._view_tabs):
            tab.setChecked(number == at)
        for tool in self.diagram.tools:
            tool.setVisible(at == DIAGRAM)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view in sight; the others catch up when they are asked for."""
        if self._first:
            self._first = False
            self._show_tabs(DIAGRAM if assessment.job.links else DEVICES)
        self._behind = set(self._views)
        self.show_view(self._stack.currentIndex())

    # ---- menus ---------------------------------------------------------------------------------------------------

    def _fill_put_menu(self) -> None:
        self._put_menu.clear()
        used = ports_in_use(self.session.job.links)
        for device in suppliers(self.session.job):
            free = count(len(free_ports(device, used)), "free port")
            self._put_menu.addAction(as_label(f"{device.name}   ({free})"), partial(self._put_on, device.id))
        if not self._put_menu.actions():
            self._put_menu.addAction("Add a switch first").setEnabled(False)

    def _fill_device_menu(self) -> None:
        menu = self._device_menu
        menu.clear()
        menu.addAction("Recorder", lambda: self._added(add_recorder()))
        for role in ROLES:
            if role not in ("recorder", "camera"):
                of_role = menu.addMenu(role.capitalize())
                for kind in types_of(self.session.job).values():
                    if kind.role == role:
                        of_role.addAction(as_label(kind.label), partial(self._add_kind, kind))
                of_role.addSeparator()
                of_role.addAction("Other device types", partial(self._add_network, role))
        menu.addSeparator()
        fed = count(len(self.session.selected), "selected device") if self.session.selected else "none yet"
        for unit_kind, words in UNIT_WORDS.items():
            menu.addAction(f"{sentence_case(words)} for {fed}", partial(self._add_unit, unit_kind))

    def _add_kind(self, kind: DeviceType) -> None:
        self._added(add_of_kind(kind))

    def _add_unit(self, kind: UnitKind) -> None:
        self._added(add_unit(kind, self.session.selected))

    def _put_on(self, device_id: str) -> None:
        self.session.attempt(lambda: put_on(self.session.job, self.session.selected, device_id))

    # ---- adding --------------------------------------------------------------------------------------------------

    def add_camera(self) -> None:
        """Add a camera where the selected one hangs, and begin to type its name."""
        place = next((c.place for c in self.session.job.cameras if c.id in self.session.selected), "")
        name = f"Camera {len(self.session.job.cameras) + 1}"
        if self.session.apply(add_cameras([{"name": name, "place": place}], "Add a camera")):
            self.show_view(DEVICES)
            self.devices.lead_to(self.session.job.cameras[-1].id)
            self.devices.cameras.edit(self.devices.cameras.currentIndex())

    def _add_like(self) -> None:
        how_many = self._how_many.value or 0.0
        if not how_many.is_integer():
            self.session.notice(f"{how_many:g} cameras cannot be added; enter a whole number", needs=True)
        else:
            add_more_like(self.session, int(how_many))

    def _add_network(self, role: Role) -> None:
        self._added(add_network_device(role))

    def _added(self, edit: Edit) -> None:
        before = _ids(self.session.job)
        if self.session.apply(edit):
            self.show_view(DEVICES)
            self.devices.lead_to((_ids(self.session.job) - before).pop())

    def lead_to(self, subject: str) -> None:
        """Show a device or link: in the diagram if that is in sight and has it, else its row."""
        if self._stack.currentIndex() == DIAGRAM and self.diagram.lead_to(subject):
            return
        self.show_view(DEVICES)
        self.devices.lead_to(subject)


def _ids(job: Job) -> set[str]:
    return {device.id for device in job.devices()} | {unit.id for unit in job.power_units}
