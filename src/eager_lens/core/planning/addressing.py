"""Edits that give the devices of a job their addresses, by the rules of the address plan."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

from eager_lens.core.addressing.ipv4 import address_number, address_text, subnet_of
from eager_lens.core.addressing.plan import PlanDevice, Room, plan_addresses
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Device, Job, SubnetPlan, by_id, role_of
from eager_lens.core.units import count


def room_of(subnet: SubnetPlan) -> Room:
    """What a subnet of the job has to give. A gateway or pool that does not fit the subnet counts as none."""
    net = subnet_of(subnet.cidr)
    gateway = address_number(subnet.gateway) if subnet.gateway else None
    pool = None
    if subnet.pool_first and subnet.pool_last:
        pool = (address_number(subnet.pool_first), address_number(subnet.pool_last))
        if pool[0] > pool[1] or pool[0] not in net or pool[1] not in net:
            pool = None
    return Room(net, gateway, pool, frozenset())


def free_from_end(subnet: SubnetPlan, held: Collection[int]) -> int | None:
    """An address of a subnet that nobody holds and that may be planned, from its end: for a laptop. None where there is none."""
    room = room_of(subnet)
    net = room.subnet
    return next(
        (number for number in range(net.last_host, net.network, -1) if number not in held and not room.refuses(number)),
        None,
    )


def home_subnet(job: Job, device: Device, recorder_subnet: dict[str, str]) -> str:
    """The subnet that a device without one belongs to: its recorder's, else the job's first."""
    for place in getattr(device, "registered", ()):
        if recorder_subnet.get(place.recorder):
            return recorder_subnet[place.recorder]
    return job.subnets[0].id if job.subnets else ""


def plan_when_asked(label: str) -> Edit:
    """As ``plan_all``, worked out only when it is applied: for a fix that is offered at every assessment."""
    return Edit(label, lambda job: plan_all(job).apply(job))


def plan_all(job: Job) -> Edit:
    """Addresses for all devices: right ones are kept, wrong and missing ones are planned.

    An address is right when its subnet's rules allow it and no device earlier in the list has it.

    Raises:
        RefusedInput: when the job has no subnet, or one has too little room (naming it and the number missing).
    """
    if not job.subnets:
        raise RefusedInput("subnets", "the job has no subnet yet; add one first")
    known = by_id(job.subnets)
    recorder_subnet = {}
    for recorder in job.recorders:
        toward_cameras = (
            recorder.camera_interface_subnet if recorder.camera_interface_subnet in known else recorder.subnet
        )
        if toward_cameras in known:
            recorder_subnet[recorder.id] = toward_cameras
    members: dict[str, list[Device]] = {}
    for device in (device for device in job.devices() if device.wants_address):
        home = device.subnet if device.subnet in known else home_subnet(job, device, recorder_subnet)
        members.setdefault(home, []).append(device)
    values: dict[str, dict[str, Any]] = {}
    for subnet_id, devices in members.items():
        try:
            sides = {
                r.camera_interface_address
                for r in job.recorders
                if r.camera_interface_subnet == subnet_id and r.camera_interface_address
            }
            plan = _plan_subnet(known[subnet_id], devices, frozenset(address_number(one) for one in sides))
        except RefusedInput as error:
            raise RefusedInput(known[subnet_id].name, error.problem) from None
        for device in devices:
            new = {"address": plan[device.id], "subnet": subnet_id}
            if (device.address, device.subnet) != (new["address"], new["subnet"]):
                values[device.id] = new
    return set_each(f"Plan addresses of {count(len(values), 'device')}", values)


def _plan_subnet(subnet: SubnetPlan, devices: Sequence[Device], taken: frozenset[int]) -> dict[str, str]:
    plain = room_of(subnet)._replace(taken=taken)
    # Reserved and recorder-assigned addresses stay, and no other device gets them.
    given = {
        device.id: address_number(device.address)
        for device in devices
        if device.address_assignment in ("DHCP reservation", "by the recorder") and device.address
    }
    given = {device_id: number for device_id, number in given.items() if number in plain.subnet}
    room = plain._replace(taken=plain.taken | frozenset(given.values()))
    keeping: list[PlanDevice] = []
    choosing: list[PlanDevice] = []
    held: set[int] = set()
    for device in devices:
        if device.id in given:
            continue
        number = address_number(device.address) if device.address else None
        # The router that is the gateway holds the gateway's address by right and takes no part in the plan.
        if number is not None and number == room.gateway and role_of(device) == "router" and number not in held:
            held.add(number)
            continue
        if number is None or number in held or room.refuses(number):
            choosing.append(PlanDevice(device.id, role_of(device), None))
        else:
            held.add(number)
            keeping.append(PlanDevice(device.id, role_of(device), number))
    plan = plan_addresses(room, [*keeping, *choosing])
    addresses = {device_id: address_text(number) for device_id, number in plan.items()}
    return {device.id: addresses.get(device.id, device.address) for device in devices}
