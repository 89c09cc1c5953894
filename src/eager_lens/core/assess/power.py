"""Power as the job has it: what feeds what, how much each supply has to give, and how long batteries last."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping
from typing import NamedTuple

from eager_lens.core.assess.limits import LOWEST_SHARE
from eager_lens.core.job.model import Camera, Device, Job, NetworkDevice, PortDevice, PowerUnit
from eager_lens.core.power.dc import DcRun, dc_run
from eager_lens.core.power.poe import POE_CLASSES, CableMaterial, cable_temperature_c, poe_run, warm_factor
from eager_lens.core.power.ups import UpsTimeIn, ups_minutes

UPS_SHARES = {name: UpsTimeIn.model_fields[name].default for name in ("inverter_share", "depth_share")}
"""Shares of a UPS that are assumed where nothing better is known."""


FEEDING_SHARE = 0.9
"""Of what a switch or recorder takes from the mains for its PoE ports, so much arrives at them (assumed: power supply and
converter of common switches, 0.85 to 0.93)."""


class Supply(NamedTuple):
    """Power on one device or unit: what wants power from it, watts allocated by class, watts drawn at night."""

    cameras: int
    allocated_w: float
    draw_w: float


def unit_of_device(job: Job) -> dict[str, PowerUnit]:
    """By device id, the injector or power supply that feeds it; the first one listed counts."""
    units: dict[str, PowerUnit] = {}
    for unit in job.power_units:
        if unit.kind != "ups":
            for device_id in unit.feeds:
                units.setdefault(device_id, unit)
    return units


def power_sources(job: Job) -> dict[str, str]:
    """By network device that is fed over its cable, what feeds it: an injector, or a neighbour whose PoE ports have power.

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
    beside: dict[str, list[str]] = {}
    for link in job.links:
        if link.medium == "copper":
            beside.setdefault(link.a, []).append(link.b)
            beside.setdefault(link.b, []).append(link.a)
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


def without_power(job: Job, sources: Mapping[str, str]) -> list[NetworkDevice]:
    """Network devices that are to be fed over their cable, are plugged in, and have nothing there that gives power."""
    lacking = [device for device in job.network if device.poe_class is not None and device.id not in sources]
    plugged = {end for link in job.links if link.medium == "copper" for end in (link.a, link.b)} if lacking else set()
    return [device for device in lacking if device.id in plugged]


def at_port_w(
    poe_class: int, power_w: float, length_m: float | None, awg: int, material: CableMaterial, temperature_c: float
) -> float:
    """What a powered device takes out of its port: its own watts and what its cable turns into warmth, at the least voltage
    that its class guarantees. Where the length is not known, or the run cannot carry it, its own watts."""
    if not length_m:
        return power_w
    end = poe_run(poe_class, power_w, length_m, awg, material, temperature_c).settled
    return power_w if end is None else end.supply_w


def camera_at_port_w(camera: Camera) -> float:
    """What a camera takes out of its PoE port at night."""
    assert camera.poe_class is not None
    temperature_c = cable_temperature_c(camera.outdoor)
    return at_port_w(camera.poe_class, camera.power_w, camera.cable_m, camera.awg, camera.cable_material, temperature_c)


def supplies_of(job: Job, feeding: Mapping[str, str]) -> dict[str, Supply]:
    """What each supplying device and unit has to give. ``feeding`` tells by camera id the device on its copper cable.

    A camera is fed by its injector or power supply, else over its own copper cable. A device that is fed over its
    cable and feeds others itself (an extender) passes their draw on to what feeds it. What cables turn into warmth
    comes out of the port too.
    """
    units = unit_of_device(job)
    sums: dict[str, list[float]] = {}
    for camera in job.cameras:
        if units and camera.id in units:
            unit = units[camera.id]
            if unit.kind != "injector":
                _add(sums, unit.id, camera.power_w, camera.power_w)
            elif camera.poe_class is None:
                _add(sums, unit.id, 0.0, camera.power_w)
            else:
                _add(sums, unit.id, POE_CLASSES[camera.poe_class].allocated_w, camera_at_port_w(camera))
        elif camera.poe_class is not None and (device_id := feeding.get(camera.id)) is not None:
            # Written out: it runs for every camera at every edit.
            on_it = sums.setdefault(device_id, [0, 0.0, 0.0])
            on_it[0] += 1
            on_it[1] += POE_CLASSES[camera.poe_class].allocated_w
            on_it[2] += camera_at_port_w(camera) if camera.cable_m else camera.power_w
    sources = power_sources(job)
    joining = {frozenset((link.a, link.b)): link for link in job.links if link.medium == "copper"} if sources else {}
    fed = {device.id: device for device in job.network if device.id in sources}
    # Those at the end of a chain before those that feed them.
    for device_id in reversed(sources):
        device = fed[device_id]
        passed_on_w = sums.get(device.id, [0, 0.0, 0.0])[2]
        assert device.poe_class is not None
        allocated_w = POE_CLASSES[device.poe_class].allocated_w
        draw_w = device.power_w + passed_on_w
        if (link := joining.get(frozenset((device.id, sources[device.id])))) is not None:
            temperature_c = cable_temperature_c(link.outdoor)
            draw_w = at_port_w(device.poe_class, draw_w, link.length_m, link.awg, link.cable_material, temperature_c)
        _add(sums, sources[device.id], allocated_w, draw_w)
    return {device: Supply(int(many), allocated_w, draw_w) for device, (many, allocated_w, draw_w) in sums.items()}


def _add(sums: dict[str, list[float]], source: str, allocated_w: float, draw_w: float) -> None:
    on_it = sums.setdefault(source, [0, 0.0, 0.0])
    on_it[0] += 1
    on_it[1] += allocated_w
    on_it[2] += draw_w


def supply_run(unit: PowerUnit, draw_w: float, outdoor: bool) -> DcRun:
    """What arrives at the end of a power supply's wires when all that hangs there draws at once.

    The wires are as warm as network cables are taken to be, indoors or out in the sun: as thin as they would be at 20 C.
    """
    return dc_run(supply_volts(unit), draw_w, unit.length_m, area_at_20_c_mm2(unit, outdoor), LOWEST_SHARE)


def area_at_20_c_mm2(unit: PowerUnit, outdoor: bool) -> float:
    """The area of wires at 20 C that have the resistance of these when they are warm."""
    return unit.area_mm2 / warm_factor(cable_temperature_c(outdoor))


def leads_outdoors(unit: PowerUnit, devices: Mapping[str, Device]) -> bool:
    """Whether a power supply feeds a camera whose run leaves the building."""
    return any(isinstance(device := devices.get(one), Camera) and device.outdoor for one in unit.feeds)


def supply_volts(unit: PowerUnit) -> float:
    """The volts that a power supply gives, out of its words; AC is reckoned like DC, which it is for heaters."""
    return float(unit.output.split()[0])


class UpsFigures(NamedTuple):
    """A UPS: watts it carries, and minutes that it lasts (None while it carries nothing)."""

    load_w: float
    minutes: float | None


def ups_figures(unit: PowerUnit, devices: Mapping[str, Device], supplies: Mapping[str, Supply]) -> UpsFigures:
    """Figures of a UPS: each device's own watts, and what it gives to cameras over the efficiency of its power supply."""
    load_w = 0.0
    for device_id in unit.feeds:
        device = devices.get(device_id)
        load_w += supplies[device_id].draw_w / FEEDING_SHARE if device_id in supplies else 0.0
        if isinstance(device, PortDevice):
            load_w += device.own_w
        elif isinstance(device, Camera):
            load_w += device.power_w
    if load_w == 0:
        return UpsFigures(0.0, None)
    return UpsFigures(load_w, ups_minutes(load_w, unit.battery_wh, **UPS_SHARES))
