"""What the wiring carries: load on every link, power on every supplying device, and what stops when a part fails."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from eager_lens.core.assess.figures import CameraFigures
from eager_lens.core.job.model import Job, Link
from eager_lens.core.job.wiring import sockets_used
from eager_lens.core.power.poe import POWER_CLASSES
from eager_lens.core.wiring.network import NO_LOADS, Loads, Network, Stream, Wire, link_loads, stopped_by

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
        feeders: by device id, the first link that it is plugged in with.
        sockets: by device and socket number, the links plugged in there.
    """

    loads: Loads
    capacity_mbps: dict[str, float]
    supplies: dict[str, Supply]
    cut_off: tuple[str, ...]
    loose: tuple[str, ...]
    loops: tuple[str, ...]
    feeders: dict[str, Link]
    sockets: dict[str, dict[int, list[str]]]


NO_TOPOLOGY = Topology(NO_LOADS, {}, {}, (), (), (), {}, {})


class _Plan:
    """What the network is made of, as the key of a cache: equal when no link and no device came, went or changed.

    The lists of a job never change in place, so that they are compared by identity; cameras are compared by their ids,
    because nearly every edit changes something of a camera that has no say here.
    """

    def __init__(self, job: Job) -> None:
        self.links, self.recorders, self.network = job.links, job.recorders, job.network
        self.camera_ids = tuple(camera.id for camera in job.cameras)

    def __hash__(self) -> int:
        return hash((id(self.links), id(self.recorders), id(self.network)))

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, _Plan)
            and self.links is other.links
            and self.recorders is other.recorders
            and self.network is other.network
            and self.camera_ids == other.camera_ids
        )


class _Wired(NamedTuple):
    """A job's wiring as a network, and what it says without any figure of a camera."""

    network: Network
    capacity_mbps: dict[str, float]
    hangs_on: dict[str, str]
    loops: tuple[str, ...]
    feeders: dict[str, Link]
    sockets: dict[str, dict[int, list[str]]]


@lru_cache(maxsize=2)
def _wired(plan: _Plan) -> _Wired:
    """Links with an end that is not there are left out."""
    port_mbps = dict.fromkeys(plan.camera_ids, CAMERA_PORT_MBPS)
    port_mbps.update((device.id, device.port_mbps) for device in (*plan.recorders, *plan.network))
    wires = [
        Wire(link.id, link.a, link.b, _capacity_mbps(link, port_mbps))
        for link in plan.links
        if link.a in port_mbps and link.b in port_mbps
    ]
    network, cameras = Network(port_mbps, wires), frozenset(plan.camera_ids)
    hangs_on: dict[str, str] = {}
    for wire in network.wires.values():
        for end, other in ((wire.a, wire.b), (wire.b, wire.a)):
            if end in cameras:
                hangs_on.setdefault(end, other)
    feeders: dict[str, Link] = {}
    for link in plan.links:
        feeders.setdefault(link.a, link)
        feeders.setdefault(link.b, link)
    capacity_mbps = {wire.id: wire.capacity_mbps for wire in network.wires.values()}
    return _Wired(network, capacity_mbps, hangs_on, tuple(network.loop_links()), feeders, sockets_used(plan.links))


def _capacity_mbps(link: Link, port_mbps: dict[str, float]) -> float:
    """What a link carries each way: as typed in, else the slower of its sockets; a radio link its assumed rate."""
    if link.capacity_mbps is not None:
        return link.capacity_mbps
    return RADIO_MBPS if link.medium == "radio" else min(port_mbps[link.a], port_mbps[link.b])


def topology(job: Job, figures: dict[str, CameraFigures]) -> Topology:
    """Figures of the wiring of a job; empty while nothing is wired."""
    if not job.links:
        return NO_TOPOLOGY
    wired = _wired(_Plan(job))
    recorder_ids = {recorder.id for recorder in job.recorders}
    streams = (
        Stream(camera.id, place.recorder, figures[camera.id].rate_mbps)
        for camera in job.cameras
        for place in camera.registered
        if place.recorder in recorder_ids
    )
    loads = link_loads(wired.network, streams)
    return Topology(
        loads=loads,
        capacity_mbps=wired.capacity_mbps,
        supplies=_supplies(job, wired.hangs_on),
        cut_off=tuple(dict.fromkeys(s.source for s in loads.unreached if s.source in wired.hangs_on)),
        loose=tuple(camera.id for camera in job.cameras if camera.id not in wired.hangs_on),
        loops=wired.loops,
        feeders=wired.feeders,
        sockets=wired.sockets,
    )


def _supplies(job: Job, hangs_on: dict[str, str]) -> dict[str, Supply]:
    sums: dict[str, list[float]] = {}
    for camera in job.cameras:
        if camera.power_class is not None and camera.id in hangs_on:
            on_it = sums.setdefault(hangs_on[camera.id], [0, 0.0, 0.0])
            on_it[0] += 1
            on_it[1] += POWER_CLASSES[camera.power_class].set_aside_w
            on_it[2] += camera.power_w
    return {device: Supply(int(cameras), aside_w, draw_w) for device, (cameras, aside_w, draw_w) in sums.items()}


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
    network = _wired(_Plan(job)).network
    on_recorder: dict[str, list[str]] = {recorder.id: [] for recorder in job.recorders}
    for camera in job.cameras:
        for place in camera.registered:
            if place.recorder in on_recorder:
                on_recorder[place.recorder].append(camera.id)
    stops: dict[str, set[str]] = {}
    for recorder_id, on_it in on_recorder.items():
        for part, cameras in stopped_by(network, recorder_id, on_it).items():
            stops.setdefault(part, set()).update(cameras)
    return {part: frozenset(cameras) for part, cameras in stops.items()}
