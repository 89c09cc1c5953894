"""The steps of a bridge's end: power, then its set-up as access point or client."""

from __future__ import annotations

from functools import partial

from eager_lens.core.addressing.ipv4 import subnet_of
from eager_lens.core.job.model import NetworkDevice
from eager_lens.core.runbook import checks
from eager_lens.core.runbook.ground import NO_ADDRESS, Ground, typed
from eager_lens.core.runbook.step_list import LEAD_S, SET_UP_S, SETTINGS_S, StepList
from eager_lens.core.runbook.steps import Blocked, Step, StepAction
from eager_lens.core.simulation.parts import Unit


def bridge_steps(ground: Ground, found: StepList, unit: Unit, laptop: str) -> list[str]:
    """Put the steps of a bridge's end into the list; their keys, none where it cannot come up."""
    device = unit.device
    assert isinstance(device, NetworkDevice)
    if unit.id in ground.dark:
        found.blocked.append(Blocked(unit.id, ground.dark[unit.id], "wiring"))
        return []
    if not device.address or device.subnet not in ground.subnets:
        found.blocked.append(Blocked(unit.id, NO_ADDRESS, "addresses"))
        return []
    power = found.add(_power(ground, unit))
    return [power, found.add(_set_up(ground, unit, device, (laptop, power)))]


def _power(ground: Ground, unit: Unit) -> Step:
    feeder = ground.units.get(unit.feeding.unit_id)
    by_lead = unit.feeding.lead != "cable"
    return Step(
        key=f"{unit.id}/power",
        phase="bridge",
        device_id=unit.id,
        title=f"Give {unit.name} power" + (f" by {feeder.name}" if feeder else ""),
        see=f"Power light on; ready after about {unit.profile.start_s:.0f} s",
        hands_s=LEAD_S,
        wait_s=unit.profile.start_s,
        after=tuple(ground.powered_after(unit)),
        actions=(StepAction("power on", feeder.id if feeder else unit.id) if by_lead else StepAction("plug", unit.id),),
        check=partial(checks.runs, unit.id),
        under_way=partial(checks.starts_for, unit.id),
        caution="Do not confuse the injector's data and power ports. Label both bridges before they are mounted",
        takes=ground.shared_address(unit),
    )


def _set_up(ground: Ground, unit: Unit, device: NetworkDevice, after: tuple[str, ...]) -> Step:
    end, name = device.radio_end or "client", f"{ground.job.name.split()[0].lower()}-bridge"
    plan = ground.subnets[device.subnet]
    address = f"{device.address}/{subnet_of(plan.cidr).prefix}"
    return Step(
        key=f"{unit.id}/set-up",
        phase="bridge",
        device_id=unit.id,
        title=f"Set {unit.name} up as {end}: password, address, network name and key",
        see="A search shows it at its planned address",
        hands_s=SET_UP_S + SETTINGS_S,
        wait_s=5,
        after=after,
        actions=(
            StepAction("set up", unit.id, {"new": "own", "zone": ground.job.time_zone}),
            StepAction("radio", unit.id, {"end": end, "network": name, "key": "bridge key", "password": "own"}),
            StepAction("address", unit.id, {"address": address, "gateway": plan.gateway, "password": "own"}),
        ),
        check=partial(checks.has_address, unit.id, device.address),
        type_in=f"{typed(device.address, plan)}; {end}; network name {name} and its key (case-sensitive); WPA2 or WPA3",
        tools=("laptop",),
        frees=ground.shared_address(unit),
    )
