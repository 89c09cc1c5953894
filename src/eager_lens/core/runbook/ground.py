"""What the commissioning of a job rests on: the simulated site, what reaches what, what stays dark, which addresses are held."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from eager_lens.core.addressing.ipv4 import address_number, address_text, subnet_of
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.job.model import Device, Job, Recorder, SubnetPlan
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.planning.addressing import free_from_end
from eager_lens.core.runbook.looked_at import all_lit, associate, dark_when_all_is_in
from eager_lens.core.simulation.build import site_of
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.segments import CAMERAS, Segment, segments

NO_ADDRESS = "no address is planned for it; plan addresses first"


class Ground:
    """Everything that the steps are made from; nothing in it changes while they are made."""

    def __init__(self, assessment: Assessment, step: Callable[[float], None]) -> None:
        step(0.0)
        self.job: Job = assessment.job
        self.facts: Facts = assessment.facts
        self.site = site_of(assessment, Rehearsal())
        self.units = self.site.units
        self.subnets = {plan.id: plan for plan in self.job.subnets}
        self._first_with: dict[str, Device] = {}
        for device in self.facts.devices:
            self._first_with.setdefault(device.address, device)
        self._held = {address_number(device.address) for device in self.facts.devices if device.address}
        self._order = {device.id: at for at, device in enumerate(self.facts.devices)}
        step(0.0)
        self.dark = dark_when_all_is_in(assessment)
        """Why a device has no light when everything is plugged, by id."""
        step(0.0)
        lit = all_lit(assessment)
        self.islands = segments(lit.units, lit.cables.values())
        """Broadcast domains over cables alone, by interface."""
        for cable in lit.cables.values():
            if cable.medium == "radio":
                associate(lit, cable.a, cable.b)
        self.joined = segments(lit.units, lit.cables.values())
        """Broadcast domains when the bridges are joined, by interface."""
        self._reserving = [
            unit
            for unit in self.units.values()
            if unit.role == "router" and unit.id in self.site.servers and self.reserved_in(unit)
        ]
        self._near = {segment: min(segment)[0] for segment in set(self.joined.values())}

    def in_order(self, members: Iterable[Unit]) -> list[Unit]:
        """Units of the job in the job's order."""
        return sorted((one for one in members if one.id in self._order), key=lambda one: self._order[one.id])

    def ordered_islands(self) -> list[Segment]:
        """Broadcast domains with something to set up: the first recorder's own first, then by the job's order."""
        order = {device.id: at for at, device in enumerate((*self.job.recorders, *self.job.network, *self.job.cameras))}
        found: dict[Segment, int] = {}
        for (unit_id, _), segment in self.islands.items():
            if unit_id in order:
                found[segment] = min(found.get(segment, len(order)), order[unit_id])
        wanted = [segment for segment in found if any(self._is_set_up_by_laptop(unit_id) for unit_id, _ in segment)]
        return sorted(wanted, key=lambda segment: found[segment])

    def _is_set_up_by_laptop(self, unit_id: str) -> bool:
        unit = self.units[unit_id]
        return unit.role == "camera" or (unit.role == "bridge" and unit.antenna is not None)

    def serves(self, segment: Segment) -> bool:
        """Whether somebody gives leases in a broadcast domain."""
        return any((server.unit_id, server.side_name) in segment for server in self.site.servers.values())

    def powered_after(self, unit: Unit) -> list[str]:
        """The steps after which a unit has power: its own, its feeder's, and those of what lies between."""
        far_ends = (cable.far_end(unit.id)[0] for cable in self.site.cables_of(unit))
        return [f"{one}/power" for one in (unit.id, unit.feeding.unit_id, *far_ends)]

    def shared_address(self, unit: Unit) -> str:
        """The address out of the box that only one device at a time may have, in what its broadcasts reach."""
        side = unit.sides[0]
        if side.assignment != "fixed" or not side.address:
            return ""
        near = self._near.get(self.joined.get((unit.id, ""), Segment()), unit.id)
        return f"{address_text(side.address)} near {near}"

    def address_trouble(self, camera: Device) -> str:
        """Why a device cannot be given its planned address; empty when it can."""
        plan = self.subnets.get(camera.subnet)
        if plan is None or not camera.address:
            return NO_ADDRESS
        if not subnet_of(plan.cidr).is_host(address_number(camera.address)):
            return f"its planned address {camera.address} is outside {plan.cidr}, where the recorder cannot reach it"
        first = self._first_with[camera.address]
        if first.id != camera.id:
            return f"its planned address {camera.address} is that of {first.name} too"
        return ""

    def reserving(self) -> list[Unit]:
        """The routers in which addresses are reserved."""
        return self._reserving

    def reserved_in(self, router: Unit) -> list[Device]:
        """The devices whose addresses are reserved in a router."""
        return [one for one in self.facts.devices if self.is_reserved_by(one, router)]

    def is_reserved_by(self, device: Device, router: Unit) -> bool:
        """Whether a router gives a device its planned address by a reservation."""
        own = router.device.subnet if router.device is not None else ""
        return bool(
            device.address_assignment == "DHCP reservation"
            and device.mac_address
            and device.address
            and device.subnet == own
        )

    def laptop_addresses(self, to_reach: Iterable[Unit]) -> Iterator[str]:
        """One address for the laptop in the planned subnet of each device, and in its subnet out of the box."""
        seen: set[tuple[int, int]] = set()
        held = set(self._held)
        for unit in to_reach:
            device = unit.device
            plan = self.subnets.get(device.subnet) if device is not None else None
            if plan is not None and (number := _free_in(plan, held, seen)) is not None:
                held.add(number)
                yield f"{address_text(number)}/{subnet_of(plan.cidr).prefix}"
            side = unit.sides[0]
            if side.assignment == "fixed" and side.address and (side.subnet.network, side.prefix) not in seen:
                seen.add((side.subnet.network, side.prefix))
                own = side.subnet.last_host if side.address != side.subnet.last_host else side.subnet.first_host
                yield f"{address_text(own)}/{side.prefix}"

    def is_heard(self, unit: Unit, recorder: Unit) -> bool:
        """Whether a recorder hears a device at any of its interfaces."""
        segment: Segment = self.joined.get((unit.id, "")) or Segment()
        return any((recorder.id, side.name) in segment for side in recorder.sides)

    def recorder_address(self, recorder: Unit, unit: Unit) -> str:
        """A recorder's address as a device sees it: that of its camera interface, where it hangs on that."""
        device = recorder.device
        assert isinstance(device, Recorder)
        on_camera_side = (recorder.id, CAMERAS) in self.joined.get((unit.id, ""), frozenset())
        return device.camera_interface_address if on_camera_side else device.address


def _free_in(plan: SubnetPlan, held: set[int], seen: set[tuple[int, int]]) -> int | None:
    """A free address of a subnet, from its end; None when there is none, or when the subnet was seen before."""
    net = subnet_of(plan.cidr)
    if (net.network, net.prefix) in seen:
        return None
    seen.add((net.network, net.prefix))
    return free_from_end(plan, held)


def typed(address: str, plan: SubnetPlan | None) -> str:
    """An address as it is typed into a device, with mask and gateway."""
    if plan is None or not address:
        return "no address is planned yet"
    gateway = f", gateway {plan.gateway}" if plan.gateway else ", no gateway"
    return f"address {address}, mask {subnet_of(plan.cidr).mask_text}{gateway}"
