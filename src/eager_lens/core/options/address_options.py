"""The four ways of giving addresses, compared for a group of the job's devices: what each rests on, risks, and costs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from eager_lens.core.addressing.collision import MONTHS_TOLD, collision_share
from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.rules.addressing import plan_for
from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.fields import ADDRESS_ASSIGNMENTS
from eager_lens.core.job.model import AddressAssignment, Camera, Device, Job, SubnetPlan
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.units import count, figure

OWN_PORTS = ("recorder PoE ports", "bridged PoE ports")

ASSIGNMENTS: tuple[AddressAssignment, ...] = ("static", "static from a lease", "DHCP reservation", "by the recorder")


class AssignmentFor(NamedTuple):
    """One way for a group of devices.

    Attributes:
        id: the way. words: its words.
        now, possible: how many of the group have it now, and for how many it can be at all.
        rests_on: what has to stay for the addresses to stay.
        risk: what goes wrong, with its figure where there is one.
        work: what it takes.
    """

    id: AddressAssignment
    words: str
    now: int
    possible: int
    rests_on: str
    risk: str
    work: str


def assignments_for(facts: Facts, devices: Sequence[Device]) -> list[AssignmentFor]:
    """All four ways for a group of devices, the default (by hand, outside the pool) first."""
    now = {way: sum(device.address_assignment == way for device in devices) for way in ASSIGNMENTS}
    texts = {
        "static": _planned(devices),
        "static from a lease": _frozen(facts, devices),
        "DHCP reservation": _reserved(devices),
        "by the recorder": _recorder(facts, devices),
    }
    possible = {
        "static": len(devices),
        "static from a lease": sum(_pool_of(facts, device) is not None for device in devices),
        "DHCP reservation": sum(bool(device.mac_address) for device in devices),
        "by the recorder": sum(_hangs_on_own_ports(facts, device) for device in devices),
    }
    return [AssignmentFor(way, ADDRESS_ASSIGNMENTS[way], now[way], possible[way], *texts[way]) for way in ASSIGNMENTS]


def _planned(devices: Sequence[Device]) -> tuple[str, str, str]:
    missing = sum(not device.address for device in devices)
    risk = (
        f"Typing errors; {count(missing, 'device')} without an address yet"
        if missing
        else "Typing errors; compare with a scan"
    )
    return (
        "Only the device itself",
        risk,
        f"{count(len(devices), 'address', 'addresses')} set once, on the bench",
    )


def _frozen(facts: Facts, devices: Sequence[Device]) -> tuple[str, str, str]:
    """The chance that at least one of the group is leased again, each taken by itself."""
    kept = 1.0
    for device in devices:
        plan = _pool_of(facts, device)
        if plan is not None:
            size = address_number(plan.pool_last) - address_number(plan.pool_first) + 1
            kept *= 1 - collision_share(size, plan.leases_in_use, plan.new_leases_per_month, MONTHS_TOLD)
    chance = f"{figure(100 * (1 - kept), 2)} % chance that one of them is leased to a phone within {MONTHS_TOLD} months (assumed)"
    return (
        "The DHCP server: the address stays in its pool",
        chance,
        "One click on each device; the quickest, and the usual mistake",
    )


def _reserved(devices: Sequence[Device]) -> tuple[str, str, str]:
    missing = sum(not device.mac_address for device in devices)
    work = f"{count(len(devices), 'line')} in the router, by MAC address"
    work += f"; {missing} of them not known yet" if missing else ""
    return "The router and its settings", "All of them move when the router is reset or replaced", work


def _recorder(facts: Facts, devices: Sequence[Device]) -> tuple[str, str, str]:
    on_ports = sum(_hangs_on_own_ports(facts, device) for device in devices)
    risk = "A camera's own page cannot be reached; another recorder assigns other addresses"
    if on_ports < len(devices):
        risk = f"{count(len(devices) - on_ports, 'device is', 'devices are')} connected elsewhere and would get none"
    return "The recorder, on its own ports", risk, "Nothing: plug in"


def _pool_of(facts: Facts, device: Device) -> SubnetPlan | None:
    plan = facts.subnets.get(device.subnet)
    return plan if plan is not None and plan.pool_first and plan.pool_last else None


def _hangs_on_own_ports(facts: Facts, device: Device) -> bool:
    return isinstance(device, Camera) and any(
        facts.recorders[place.recorder].attachment in OWN_PORTS
        for place in device.registered
        if place.recorder in facts.recorders
    )


def give_assignment(devices: Sequence[Device], way: AddressAssignment) -> Edit:
    """Note the assignment of a group; static devices in the pool or without an address get a new one."""
    ids = frozenset(device.id for device in devices)
    label = f"{sentence_case(ADDRESS_ASSIGNMENTS[way])}: {count(len(ids), 'device')}"

    def apply(job: Job) -> Job:
        job = set_fields(ids, label, address_assignment=way).apply(job)
        return _out_of_pools(job, ids, label) if way == "static" else job

    return Edit(label, apply)


def _out_of_pools(job: Job, ids: frozenset[str], label: str) -> Job:
    pools = {
        plan.id: (address_number(plan.pool_first), address_number(plan.pool_last))
        for plan in job.subnets
        if plan.pool_first and plan.pool_last
    }
    wrong = set()
    for device in job.devices():
        if device.id in ids:
            pool = pools.get(device.subnet)
            inside = pool is not None and device.address and pool[0] <= address_number(device.address) <= pool[1]
            if inside or not device.address:
                wrong.add(device.id)
    return plan_for(frozenset(wrong), label).apply(job) if wrong else job
