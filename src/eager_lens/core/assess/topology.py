"""What the wiring carries: load on every link, power on every supplying device, and what stops when a part fails."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from eager_lens.core.assess.figures import CameraFigures
from eager_lens.core.job.model import Camera, Device, Job, Link, NetworkDevice, Recorder
from eager_lens.core.power.poe import POWER_CLASSES
from eager_lens.core.wiring.network import Load, Loads, Network, Stream, Wire, link_loads, needed_by

CAMERA_PORT_MBPS = 100.0
"""A camera's own socket."""

RADIO_MBPS = 100.0
"""What a radio link is taken to carry until its budget is worked out and typed in."""


class Supply(NamedTuple):
    """Power on one device: cameras that want power from it, watts set aside by class, watts drawn at night."""

    cameras: int
    set_aside_w: float
    draw_w: float


class Topology(NamedTuple):
    """Figures of the wiring.

    Attributes:
        loads: by link id, the load each way in Mb/s; dangling links have none.
        capacity_mbps: by link id, what it carries each way.
        supplies: by device id, for devices on which powered cameras hang.
        cut_off: ids of cameras that hang on something but have no way to a recorder of theirs.
        loose: ids of cameras that hang on nothing.
        loops: ids of links that close a loop.
    """

    loads: dict[str, Load]
    capacity_mbps: dict[str, float]
    supplies: dict[str, Supply]
    cut_off: tuple[str, ...]
    loose: tuple[str, ...]
    loops: tuple[str, ...]


NO_TOPOLOGY = Topology({}, {}, {}, (), (), ())


def link_capacity_mbps(link: Link, devices: dict[str, Device]) -> float:
    """What a link carries each way: as typed in, else the slower of its sockets; a radio link its assumed rate."""
    if link.capacity_mbps is not None:
        return link.capacity_mbps
    if link.medium == "radio":
        return RADIO_MBPS
    return min(_port_mbps(devices[end]) for end in (link.a, link.b) if end in devices)


def _port_mbps(device: Device) -> float:
    return device.port_mbps if isinstance(device, Recorder | NetworkDevice) else CAMERA_PORT_MBPS


def network_of(job: Job, devices: dict[str, Device]) -> Network:
    """The job's wiring as a network. Links with an end that is not there are left out."""
    wires = (
        Wire(link.id, link.a, link.b, link_capacity_mbps(link, devices))
        for link in job.links
        if link.a in devices and link.b in devices
    )
    return Network(devices, wires)


def topology(job: Job, figures: dict[str, CameraFigures]) -> Topology:
    """Figures of the wiring of a job; empty while nothing is wired."""
    if not job.links:
        return NO_TOPOLOGY
    devices = {device.id: device for device in job.devices()}
    network = network_of(job, devices)
    streams = [
        Stream(camera.id, place.recorder, figures[camera.id].rate_mbps)
        for camera in job.cameras
        for place in camera.registered
        if place.recorder in devices
    ]
    loads: Loads = link_loads(network, streams)
    wired = {end for wire in network.wires.values() for end in (wire.a, wire.b)}
    return Topology(
        loads=loads.by_wire,
        capacity_mbps={wire.id: wire.capacity_mbps for wire in network.wires.values()},
        supplies=_supplies(job, network, devices),
        cut_off=tuple(dict.fromkeys(s.source for s in loads.unreached if s.source in wired)),
        loose=tuple(camera.id for camera in job.cameras if camera.id not in wired),
        loops=tuple(network.loop_links()),
    )


def _supplies(job: Job, network: Network, devices: dict[str, Device]) -> dict[str, Supply]:
    hangs_on: dict[str, str] = {}
    for wire in network.wires.values():
        for end, other in ((wire.a, wire.b), (wire.b, wire.a)):
            if isinstance(devices[end], Camera):
                hangs_on.setdefault(end, other)
    supplies: dict[str, Supply] = {}
    for camera in job.cameras:
        if camera.power_class is not None and camera.id in hangs_on:
            old = supplies.get(hangs_on[camera.id], Supply(0, 0.0, 0.0))
            aside_w = POWER_CLASSES[camera.power_class].set_aside_w
            new = Supply(old.cameras + 1, old.set_aside_w + aside_w, old.draw_w + camera.power_w)
            supplies[hangs_on[camera.id]] = new
    return supplies


class _Same:
    """A job as the key of a cache: equal only to itself, without comparing thousands of devices."""

    def __init__(self, job: Job) -> None:
        self.job = job

    def __hash__(self) -> int:
        return id(self.job)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.job is self.job


def failures(job: Job) -> dict[str, frozenset[str]]:
    """By device or link id: the cameras that stop recording when it fails. Parts that nobody needs are not listed."""
    return _failures(_Same(job))


@lru_cache(maxsize=2)
def _failures(same: _Same) -> dict[str, frozenset[str]]:
    job = same.job
    network = network_of(job, {device.id: device for device in job.devices()})
    stops: dict[str, set[str]] = {}
    for recorder in job.recorders:
        on_it = {c.id for c in job.cameras if any(p.recorder == recorder.id for p in c.registered)}
        for part, lost in needed_by(network, recorder.id).items():
            if cameras := (lost & on_it) - {part}:
                stops.setdefault(part, set()).update(cameras)
        if reached := on_it & network.toward(recorder.id).keys():
            stops.setdefault(recorder.id, set()).update(reached)
    return {part: frozenset(cameras) for part, cameras in stops.items()}
