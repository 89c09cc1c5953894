"""Power as the job has it: what feeds what, how much each supply has to give, and how long batteries last."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from eager_lens.core.assess.figures.fed_runs import FedRun
from eager_lens.core.assess.figures.power_sources import unit_of_device
from eager_lens.core.assess.limits import LOWEST_SHARE
from eager_lens.core.job.model import Camera, Device, Job, PortDevice, PowerUnit, Recorder
from eager_lens.core.power.dc import DcRun, dc_run
from eager_lens.core.power.poe import POE_CLASSES, cable_temperature_c, poe_run, warm_factor
from eager_lens.core.power.ups import UpsTimeIn, lead_acid_minutes

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


def camera_at_port_w(camera: Camera, supply_v: float | None = None) -> float:
    """What a camera takes out of its PoE port at night: its own watts and what its cable turns into warmth.

    ``supply_v``: what the port gives; None: the least that its class guarantees. Where the length is not known, or the run
    cannot carry it, its own watts.
    """
    assert camera.poe_class is not None
    if not camera.cable_m:
        return camera.power_w
    run = (camera.power_w, camera.cable_m, camera.awg, camera.cable_material, cable_temperature_c(camera.outdoor))
    end = poe_run(camera.poe_class, *run, supply_v).settled
    return camera.power_w if end is None else end.supply_w


def supplies_of(job: Job, feeding: Mapping[str, str], fed: Mapping[str, FedRun]) -> dict[str, Supply]:
    """What each supplying device and unit has to give. ``feeding`` tells by camera id the device on its copper cable,
    ``fed`` what the devices draw that are fed over theirs.

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
            passed_on_v = fed[device_id].input_v if device_id in fed else None
            on_it[2] += camera_at_port_w(camera, passed_on_v) if camera.cable_m else camera.power_w
    classes = {device.id: device.poe_class or 0 for device in job.network} if fed else {}
    for device_id, run in fed.items():
        _add(sums, run.source, POE_CLASSES[classes[device_id]].allocated_w, run.at_port_w)
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


DRIVE_W = 7.0
"""What a drive takes while it writes (3.5 inch, 5 to 9 W; assumed)."""


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
            if isinstance(device, Recorder):
                load_w += device.drives * DRIVE_W
        elif isinstance(device, Camera):
            load_w += device.power_w
    if load_w == 0:
        return UpsFigures(0.0, None)
    return UpsFigures(load_w, lead_acid_minutes(load_w, unit.battery_wh, **UPS_SHARES))
