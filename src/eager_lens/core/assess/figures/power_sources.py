"""What feeds what: injectors, power supplies, and PoE ports from the mains outward."""

from __future__ import annotations

from collections import deque
from collections.abc import Container

from eager_lens.core.job.model import Job, NetworkDevice, PowerUnit


def unit_of_device(job: Job) -> dict[str, PowerUnit]:
    """By device id, the injector or power supply that feeds it; the first one listed counts."""
    units: dict[str, PowerUnit] = {}
    for unit in job.power_units:
        if unit.kind != "ups":
            for device_id in unit.feeds:
                units.setdefault(device_id, unit)
    return units


def power_sources(job: Job) -> dict[str, str]:
    """By network device that is fed over its cable, what feeds it: an injector, or a neighbour on one of whose PoE ports it
    is; a plug whose port is not named is taken to be in one.

    A neighbour that is fed over its cable itself gives power only once it has some: what hangs on it is found from the
    mains outward, so that nothing on a dark uplink is taken to be fed. Devices stand in that order.
    """
    units = unit_of_device(job)
    wanting = {device.id for device in job.network if device.poe_class is not None}
    source = {device_id: unit.id for device_id, unit in units.items() if device_id in wanting}
    waiting = wanting - source.keys()
    if not waiting:
        return source
    giving = {device.id for device in (*job.recorders, *job.network) if device.poe_ports}
    powered = {device.id: device.poe_ports for device in (*job.recorders, *job.network)}
    beside: dict[str, list[str]] = {}
    for link in job.links:
        if link.medium == "copper":
            for giver, port, other in ((link.a, link.a_port, link.b), (link.b, link.b_port, link.a)):
                if port <= powered.get(giver, 0):
                    beside.setdefault(giver, []).append(other)
    lit = deque(device.id for device in (*job.recorders, *job.network) if device.id in giving - waiting)
    while lit:
        giver = lit.popleft()
        for other in beside.get(giver, ()):
            if other in waiting:
                waiting.discard(other)
                source[other] = giver
                if other in giving:
                    lit.append(other)
    return source


def without_power(job: Job, sources: Container[str]) -> list[NetworkDevice]:
    """Network devices that are to be fed over their cable, are plugged in, and have nothing there that gives power."""
    lacking = [device for device in job.network if device.poe_class is not None and device.id not in sources]
    plugged = {end for link in job.links if link.medium == "copper" for end in (link.a, link.b)} if lacking else set()
    return [device for device in lacking if device.id in plugged]
