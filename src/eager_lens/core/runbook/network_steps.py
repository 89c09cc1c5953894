"""The first steps of a commissioning: power for the network, reservations, the recorders, and the laptop in its place."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import partial

from eager_lens.core.job.model import NetworkDevice, Recorder
from eager_lens.core.reference.roles import ROLE_RECORDS
from eager_lens.core.runbook import checks
from eager_lens.core.runbook.ground import NO_ADDRESS, Ground, typed
from eager_lens.core.runbook.recorder_steps import recorder_steps
from eager_lens.core.runbook.step_list import (
    LAPTOP_S,
    LEAD_S,
    PROGRAM_SET_UP_S,
    RECORDER_S,
    RESERVE_S,
    ROUTER_S,
    SWITCH_S,
    StepList,
)
from eager_lens.core.runbook.steps import Blocked, Step, StepAction, place_of
from eager_lens.core.simulation.build import LAPTOP
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.segments import CAMERAS, Segment
from eager_lens.core.units import count


def powered_network(ground: Ground) -> Iterator[Step]:
    """Everything with a lead of its own, but cameras and bridges."""
    order: dict[str, int] = {
        record.id: record.powered for record in ROLE_RECORDS.values() if record.powered is not None
    }
    leads = [unit for unit in ground.units.values() if unit.role in order and unit.feeding.lead == "mains"]
    for unit in sorted(leads, key=lambda one: order[one.role]):
        yield Step(
            key=f"{unit.id}/power",
            phase="network",
            device_id=unit.id,
            title=f"Connect the mains lead of {unit.name}",
            see=f"Power light on; ready after about {unit.profile.start_s:.0f} s",
            hands_s=LEAD_S,
            wait_s=unit.profile.start_s,
            actions=(StepAction("power on", unit.id),),
            check=partial(checks.runs, unit.id),
            under_way=partial(checks.starts_for, unit.id),
            caution=_power_caution(unit),
            place=place_of(unit),
        )


def _power_caution(unit: Unit) -> str:
    if unit.role == "router":
        return "Leave its WAN lead out until every default password is gone: with it, anybody may log in from outside"
    return "Mains wiring and earthing belong to a licensed electrician" if unit.role == "recorder" else ""


def network_set_up(ground: Ground) -> Iterator[Step]:
    """Routers, and switches that have an address: their own password and settings."""
    for unit in ground.units.values():
        device = unit.device
        if not isinstance(device, NetworkDevice) or unit.role not in ("router", "switch") or not device.address:
            continue
        plan = ground.subnets.get(device.subnet)
        pool = f"; leases from {plan.pool_first} to {plan.pool_last}" if plan is not None and plan.pool_first else ""
        yield Step(
            key=f"{unit.id}/set-up",
            phase="network",
            device_id=unit.id,
            title=f"Set {unit.name} up: its own password, address{' and leases' if unit.role == 'router' else ''}",
            see=f"Its page opens at {device.address} with the new password only",
            hands_s=ROUTER_S if unit.role == "router" else SWITCH_S,
            wait_s=0,
            after=(f"{unit.id}/power",),
            actions=(),
            check=partial(checks.is_there, unit.id),
            type_in=f"{typed(device.address, plan)}{pool if unit.role == 'router' else ''}; new password; firmware as it should be",
            caution="Never keep the default password",
            tools=("laptop",),
            place=place_of(unit),
        )


def reservations(ground: Ground) -> Iterator[Step]:
    """Reservations in routers, before anything asks for a lease."""
    for unit in ground.reserving():
        lines = ground.reserved_in(unit)
        shown = "; ".join(f"{one.mac_address} {one.address}" for one in lines[:4])
        yield Step(
            key=f"{unit.id}/reserve",
            phase="network",
            device_id=unit.id,
            title=f"Enter {count(len(lines), 'reservation')} in {unit.name}",
            see="Its list of reservations",
            hands_s=RESERVE_S * len(lines),
            wait_s=0,
            after=(f"{unit.id}/power",),
            actions=tuple(
                StepAction("reserve", unit.id, {"hardware": one.mac_address, "address": one.address}) for one in lines
            ),
            check=partial(checks.reserves, unit.id, tuple(one.mac_address for one in lines)),
            type_in=shown + (f" and {len(lines) - 4} more" if len(lines) > 4 else ""),
            caution="They are lost when the router is reset or replaced, so keep a backup of its settings with the handover "
            "papers",
        )


def recorder_set_up(ground: Ground, recorder: Recorder) -> Step:
    """A recorder's first set-up. The program does it where the recorder comes to an address by itself and answers there."""
    profile = ground.units[recorder.id].profile
    is_set_over_network = profile.open_protocol_on and bool(profile.first_address)
    zone = ground.job.time_zone
    address = typed(recorder.address, ground.subnets.get(recorder.subnet))
    server = f", time server {ground.job.time_server}" if ground.job.time_server else ""
    return Step(
        key=f"{recorder.id}/set-up",
        phase="recorder",
        device_id=recorder.id,
        title=f"First-use set-up of {recorder.name}, on its own monitor",
        see="Its live view, still empty; its clock is right",
        hands_s=RECORDER_S,
        wait_s=0,
        after=(f"{recorder.id}/power",),
        actions=(StepAction("set up", recorder.id, {"new": "own", "zone": zone}),),
        check=partial(checks.is_set_up, recorder.id),
        type_in=f"{address}; time zone {zone}{server}; new password; recovery contact",
        caution="Without a recovery contact a forgotten password means a factory reset",
        tools=(f"{recorder.id} monitor",),
        place=recorder.place,
        program_s=PROGRAM_SET_UP_S + profile.start_s if is_set_over_network else 0.0,
    )


def begin(ground: Ground, found: StepList) -> None:
    """Network, reservations and recorders."""
    for step in (*powered_network(ground), *network_set_up(ground), *reservations(ground)):
        found.add(step)
    for recorder in ground.job.recorders:
        if not recorder.address:
            found.blocked.append(Blocked(recorder.id, NO_ADDRESS, "addresses"))
        found.add(recorder_set_up(ground, recorder))
        for step in recorder_steps(ground, recorder):
            found.add(step)


def laptop_in_place(
    ground: Ground, segment: Segment, members: list[Unit], to_reach: Iterable[Unit], before: tuple[str, ...]
) -> Step | None:
    """The laptop plugged in where it reaches a broadcast domain; None where nothing there has a port for it."""
    places: dict[str, int] = {
        record.id: record.hosts_laptop for record in ROLE_RECORDS.values() if record.hosts_laptop is not None
    }
    host = min((unit for unit in members if unit.role in places), key=lambda one: places[one.role], default=None)
    if host is None:
        return None
    addresses = tuple(ground.laptop_addresses(to_reach))
    side = CAMERAS if (host.id, CAMERAS) in segment and (host.id, "") not in segment else ""
    return Step(
        key=f"laptop/{host.id}{side}",
        phase="laptop",
        device_id=host.id,
        title=f"Connect the laptop to {host.name}, with an address in every subnet to reach",
        see="Link light on; the recorder, if there is one, answers a ping",
        hands_s=LAPTOP_S,
        wait_s=5,
        after=(*before, *ground.powered_after(host)),
        actions=(
            StepAction("laptop to", host.id, {"side": side}),
            StepAction("laptop bare", LAPTOP),
            *(StepAction("laptop address", LAPTOP, {"address": one}) for one in addresses),
        ),
        check=partial(checks.laptop_is_at, host.id, addresses),
        type_in=f"addresses {', '.join(addresses) or 'none'}; no gateway is needed",
        tools=("laptop",),
        place=place_of(host),
    )
