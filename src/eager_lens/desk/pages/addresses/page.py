"""Every device's address: planned at a press, judged at every keystroke, seen as a mosaic of the subnet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from eager_lens.core.addressing.ipv4 import address_number, subnet_of
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.rules.addressing import suggested_subnet
from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.job.edits import Edit, add_subnet, remove_subnet, set_fields, set_subnet
from eager_lens.core.job.fields import CAMERA_FIELDS, IDENTITY, field_named, number_from
from eager_lens.core.job.model import Camera, Device, Job, SubnetPlan, role_of
from eager_lens.core.plain_text import inside
from eager_lens.core.planning.addressing import plan_all, room_of
from eager_lens.core.units import count, figure
from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.addresses.found_view import FoundView
from eager_lens.desk.pages.addresses.given_view import GivenView
from eager_lens.desk.pages.addresses.mosaic import Mosaic, MosaicData, Tenant
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, held, label
from eager_lens.desk.widgets.columns import device_column, marks_by_subject
from eager_lens.desk.widgets.current_stack import Stack
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.splitter import Splitter


def _subnet_column(name: str, heading: str, width: int) -> TableColumn:
    def edit(parts: Sequence[SubnetPlan], text: str, job: Job) -> Edit:
        value = text.strip()
        return set_subnet(parts[0].id, f"Set {inside(heading)} {value or 'empty'}", **{name: value})

    return TableColumn(name, heading, lambda plan, _: getattr(plan, name), edit, width=width)


def _number_column(name: str, heading: str, width: int, stretch: bool = False) -> TableColumn:
    def edit(parts: Sequence[SubnetPlan], text: str, job: Job) -> Edit:
        try:
            value = number_from(text)
        except ValueError as error:
            raise RefusedInput(heading, str(error)) from error
        whole = int(value) if value == int(value) else value
        return set_subnet(parts[0].id, f"Set {inside(heading)} {text.strip()}", **{name: whole})

    return TableColumn(
        name,
        heading,
        lambda plan, _: figure(getattr(plan, name), 6),
        edit,
        align="right",
        width=width,
        stretch=stretch,
    )


SUBNET_COLUMNS: tuple[TableColumn, ...] = (
    _subnet_column("name", "Subnet", 140),
    _subnet_column("cidr", "Range", 120),
    TableColumn("mask", "Mask", lambda plan, _: subnet_of(plan.cidr).mask_text, width=110),
    _subnet_column("gateway", "Gateway", 110),
    _subnet_column("pool_first", "DHCP from", 115),
    _subnet_column("pool_last", "DHCP to", 115),
    TableColumn(
        "free",
        "Left",
        lambda plan, a: figure(a.facts.free_hosts[plan.id], 9),
        align="right",
        width=60,
    ),
    _number_column("leases_in_use", "Leases in use", 116),
    _number_column("new_leases_per_month", "New a month", 110, stretch=True),
)


def _event_target_column() -> TableColumn:
    """Where a camera sends its events: the recorder's address on its side, unless something else is typed."""
    field = device_column(field_named(CAMERA_FIELDS, "event_target"), 120)

    def show(device: Device, assessment: Assessment) -> str:
        if not isinstance(device, Camera):
            return "–"
        return device.event_target or "its recorder"

    def edit(parts: Sequence[Device], text: str, job: Job) -> Edit:
        cameras = [part for part in parts if isinstance(part, Camera)]
        if not cameras or field.edit is None:
            raise RefusedInput("Event server", "only cameras send events")
        return field.edit(cameras, "" if text.strip() == "its recorder" else text, job)

    return replace(field, show=show, edit=edit, stretch=True)


DEVICE_COLUMNS: tuple[TableColumn, ...] = (
    device_column(field_named(IDENTITY, "name"), 150, "Device"),
    device_column(field_named(IDENTITY, "address"), 110),
    device_column(field_named(IDENTITY, "address_assignment"), 140),
    TableColumn("role", "Kind", lambda device, _: role_of(device), width=64),
    device_column(field_named(IDENTITY, "mac_address"), 130),
    device_column(field_named(CAMERA_FIELDS, "subnet"), 110),
    device_column(field_named(IDENTITY, "place"), 90),
    _event_target_column(),
)


class AddressesPage(Page):
    """Subnets above, devices and the mosaic of a subnet side by side below."""

    stage = "addresses"

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        self._subnet_id = ""
        self._fill_actions()
        self.subnets = RecordTable(session, SUBNET_COLUMNS, shares_selection=False)
        self.subnets.delete_asked.connect(lambda _: self._remove_subnet())
        self.subnets.selectionModel().selectionChanged.connect(lambda *_: self._subnet_selected())
        self.devices = RecordTable(session, DEVICE_COLUMNS)
        self.mosaic = Mosaic()
        self._drawn: tuple[object, ...] | None = None
        self.mosaic.selected.connect(self._mosaic_selected)
        self._mosaic_words = label("", "heading")
        self._none = label("", "muted", wrap=True)
        self.body.addWidget(self.subnets)
        self.body.addWidget(self._none)
        self.found, self.given, self._stack = FoundView(session, asker), GivenView(session), Stack()
        self.found.closed.connect(lambda: self._stack.setCurrentIndex(0))
        self.given.closed.connect(lambda: self._stack.setCurrentIndex(0))
        for view in (self._side_by_side(), self.found, self.given):
            self._stack.addWidget(view)
        self.body.addWidget(self._stack, 1)
        self._cautions = label(
            "The address of a device that is off or ignores pings looks free. Before you use an address on site, check it with "
            "ARP.",
            "caution",
            wrap=True,
        )
        self.body.addWidget(self._cautions)
        session.selection_changed.connect(lambda: self._draw_mosaic(follow=True) if self.isVisible() else None)

    def _fill_actions(self) -> None:
        for part in (
            button(
                "Plan addresses",
                self._plan,
                "main",
                tip="Correct addresses stay; wrong and missing ones are planned",
            ),
            button("Compare a scan …", self.show_found, tip="Paste a scan list of the site's network"),
            button(
                "Assignment …",
                self.show_given,
                tip="Static, static from a lease, DHCP reservation or by the recorder: what each depends on",
            ),
            button("Add a subnet", self._add_subnet),
            button("Remove subnet", self._remove_subnet, "quiet"),
            button("Clear selected", self._clear, "quiet", "Remove their addresses"),
        ):
            self.action_row.addWidget(part)
        self.action_row.addStretch(1)

    def _side_by_side(self) -> Splitter:
        """Devices beside the mosaic."""
        right = column(self._mosaic_words, self.mosaic, spacing=SPACE.TIGHT)
        right.setStretch(1, 1)
        side = held(right)
        right.setContentsMargins(SPACE.HALF, 0, 0, 0)
        splitter = Splitter()
        splitter.setChildrenCollapsible(False)
        splitter.setHandleWidth(1)
        splitter.addWidget(self.devices)
        splitter.addWidget(side)
        splitter.setStretchFactor(0, 5)
        splitter.setStretchFactor(1, 4)
        splitter.setSizes([look.px(410), look.px(360)])
        return splitter

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the tables and the mosaic."""
        job = assessment.job
        marks = marks_by_subject(assessment, "addresses")
        self.subnets.show_parts(job.subnets, assessment, marks)
        rows = min(5, max(1, len(job.subnets)))
        # As high as its rows, five at most: the devices below need the room.
        self.subnets.setFixedHeight(
            look.px(25) * rows + self.subnets.horizontalHeader().sizeHint().height() + look.px(14)
        )
        self.subnets.setVisible(bool(job.subnets))
        self.devices.show_parts(assessment.facts.devices, assessment, marks)
        self._none.setText("" if assessment.facts.devices else "Add cameras or recorders to see devices here.")
        self._none.setVisible(not assessment.facts.devices)
        self.found.show_assessment(assessment)
        if self.given.isVisible():
            self.given.show_assessment(assessment)
        self._draw_mosaic()

    def show_found(self) -> None:
        """Bring the comparison with the real network into sight."""
        self._stack.setCurrentIndex(1)
        self.found.table.setFocus()

    def compare(self, table: RawTable) -> None:
        """Compare a scan list that was given elsewhere."""
        self.show_found()
        self.found.read(table)

    def show_given(self) -> None:
        """Bring the four ways of giving addresses into sight."""
        self._stack.setCurrentIndex(2)
        self.given.show_assessment(self.session.assessment)

    def _shown_subnet(self, follow: bool) -> SubnetPlan | None:
        """The subnet of the first selected device, if the choice is to be followed; else the one shown last."""
        subnets = {plan.id: plan for plan in self.session.job.subnets}
        if follow and self.session.selected:
            first = next((d for d in self.session.job.devices() if d.id == self.session.selected[0]), None)
            if first is not None and first.subnet in subnets:
                self._subnet_id = first.subnet
        return subnets.get(self._subnet_id) or next(iter(subnets.values()), None)

    def _draw_mosaic(self, follow: bool = False) -> None:
        plan = self._shown_subnet(follow)
        selected = frozenset(self.session.selected)
        if plan is None:
            self._mosaic_words.setText("")
            self._drawn = None
            self.mosaic.show_data(None, selected)
            return
        self._subnet_id = plan.id
        self._mosaic_words.setText(f"{plan.name}, {plan.cidr}")
        marks = marks_by_subject(self.session.assessment, "addresses")
        devices = self.session.assessment.facts.devices
        # Everything the mosaic shows, compared below, so that most edits draw nothing.
        holders = [(one.address, one.id, one.name, role_of(one), marks.get(one.id)) for one in devices if one.address]
        drawn = (plan, holders, selected)
        if drawn == self._drawn:
            return  # most edits are about something else, and ten thousand tiles are not drawn in no time
        self._drawn = drawn
        room = room_of(plan)
        tenants: dict[int, tuple[Tenant, ...]] = {}
        for address, id_, name, role, severity in holders:
            number = address_number(address)
            if number in room.subnet:
                tenants[number] = (*tenants.get(number, ()), Tenant(id_, name, role, severity))
        self.mosaic.show_data(MosaicData(room.subnet, room.gateway, room.pool, tenants), selected)

    def _mosaic_selected(self, ids: list[str]) -> None:
        if ids:
            self.session.select(ids)
            row = self.devices.records.row_of(ids[0])
            if row is not None:
                self.devices.scrollTo(self.devices.records.index(row, 0))

    def _subnet_selected(self) -> None:
        parts = self.subnets.selected_parts()
        if parts:
            self._subnet_id = parts[0].id
            self._draw_mosaic()

    # ---- edits ---------------------------------------------------------------------------------------------------

    def _plan(self) -> None:
        before = self.session.job
        if self.session.attempt(lambda: plan_all(self.session.job)):
            pairs = zip(before.devices(), self.session.job.devices(), strict=True)
            changed = sum(old.address != new.address for old, new in pairs)
            words = (
                f"{count(changed, 'address', 'addresses')} planned" if changed else "All addresses were correct already"
            )
            self.session.notice(words)

    def _add_subnet(self) -> None:
        cidr = suggested_subnet(self.session.job)
        gateway = cidr.rsplit(".", 1)[0] + ".1"
        number = len(self.session.job.subnets) + 1
        if self.session.apply(add_subnet(f"Subnet {number}", cidr, gateway=gateway)):
            self.subnets.lead_to(self.session.job.subnets[-1].id)
            self.session.notice(f"{cidr} is free in this job. Change it to the site's subnet, gateway and DHCP pool.")

    def _remove_subnet(self) -> None:
        parts = self.subnets.selected_parts() or (
            [self.session.job.subnets[0]] if len(self.session.job.subnets) == 1 else []
        )
        if not parts:
            self.session.notice("Select the subnet to remove first", needs=True)
            return
        self.session.apply(remove_subnet(parts[0].id))

    def _clear(self) -> None:
        ids = [part.id for part in self.devices.selected_parts()]
        if ids:
            self.session.apply(set_fields(ids, f"Clear {count(len(ids), 'address', 'addresses')}", address=""))

    def lead_to(self, subject: str) -> None:
        """Show a device or a subnet."""
        self._stack.setCurrentIndex(0)
        table = self.subnets if self.subnets.records.row_of(subject) is not None else self.devices
        table.lead_to(subject)
        table.setFocus()
