"""The simulated site with every device set up as the job plans it. What the plan itself makes impossible stays so: a device
that gets no power is dark, two that are planned on one address both hold it."""

from __future__ import annotations

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Camera, Device, Recorder
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.runbook.looked_at import power_up
from eager_lens.core.simulation.build import planned_side, site_of
from eager_lens.core.simulation.clocks import set_clock
from eager_lens.core.simulation.parts import Cable, Entry, Unit
from eager_lens.core.simulation.segments import CAMERAS
from eager_lens.core.simulation.site import Site


def commissioned(assessment: Assessment) -> Site:
    """A site of the job on which everything is plugged in, has started and is set up as planned."""
    site = site_of(assessment, Rehearsal())
    join_radio(site)
    power_up(site)
    for unit in site.units.values():
        if unit.device is not None:
            set_up(site, unit, unit.device)
    for recorder in assessment.job.recorders:
        _register(site, site.units[recorder.id], recorder)
    return site


def join_radio(site: Site) -> None:
    """Set both ends of every bridge up to fit."""
    for cable in site.cables.values():
        if cable.medium == "radio":
            for unit_id, end in ((cable.a, "client"), (cable.b, "access point")):
                antenna = site.units[unit_id].antenna
                if antenna is not None:
                    antenna.end = "client" if end == "client" else "access point"
                    antenna.network = antenna.key = cable.id


def set_up(site: Site, unit: Unit, device: Device) -> None:
    """Set a unit up as the job plans it."""
    unit.access.is_set_up, unit.access.recovery = True, True
    unit.access.password = unit.access.open_password = f"own:{unit.id}"
    unit.access.open_on = True
    unit.firmware = device.firmware or unit.profile.firmware_now
    unit.given_name = device.name
    unit.clock.zone = site.job.time_zone
    set_clock(site, unit, 0.0)
    if unit.role == "router":
        return
    planned = planned_side(site.job, "", device.subnet, device.address)
    unit.sides[0].address, unit.sides[0].prefix, unit.sides[0].gateway = (
        planned.address,
        planned.prefix,
        planned.gateway,
    )
    unit.sides[0].assignment = "fixed"
    if isinstance(device, Recorder) and len(unit.sides) > 1:
        inner = planned_side(site.job, CAMERAS, device.camera_interface_subnet, device.camera_interface_address)
        unit.sides[1].address, unit.sides[1].prefix = inner.address, inner.prefix
    if isinstance(device, Camera):
        _toward_recorder(site, unit, device)


def _toward_recorder(site: Site, unit: Unit, camera: Camera) -> None:
    """Time and events come from, and go to, the first recorder that the camera is registered on."""
    recorder = next((site.units[one.recorder] for one in camera.registered if one.recorder in site.units), None)
    if recorder is None or not isinstance(recorder.device, Recorder):
        return
    device = recorder.device
    own = device.camera_interface_address if camera.subnet == device.camera_interface_subnet else ""
    address = own or device.address
    unit.clock.server = address_number(address) if address else 0
    if unit.clock.server:
        unit.clock.polled += 1
        site.event_queue.after(unit.clock.poll_s * unit.chance.random(), unit.id, "poll clock", unit.clock.polled)
    target = camera.event_target or address
    unit.event_target = address_number(target) if target else 0


def _register(site: Site, recorder: Unit, device: Recorder) -> None:
    for camera in site.job.cameras:
        for place in camera.registered:
            if place.recorder == device.id and camera.address:
                entry = Entry(address_number(camera.address), "open", f"own:{camera.id}", camera.name)
                recorder.entries.setdefault(place.channel, entry)


def camera_cables(site: Site, unit: Unit) -> list[Cable]:
    """The cables of a unit that are no radio paths."""
    return [cable for cable in site.cables_of(unit) if cable.medium != "radio"]
