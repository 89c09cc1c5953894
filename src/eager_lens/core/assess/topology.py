"""What the wiring carries: load on every link, power on every supplying device, and what stops when a part fails."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

from eager_lens.core.assess.figures import CameraFigures
from eager_lens.core.job.model import Camera, Job, Link, NetworkDevice, Recorder
from eager_lens.core.job.wiring import sockets_used
from eager_lens.core.power.poe import POWER_CLASSES
from eager_lens.core.wiring.network import Loads, Network, Wire, link_loads, stopped_by

CAMERA_PORT_MBPS = 100.0
"""A camera's own socket."""

RADIO_MBPS = 100.0
"""What a radio link is taken to carry until its budget is worked out and typed in."""


class Supply(NamedTuple):
    """Power on one device: cameras that want power from it, watts set aside by class, watts drawn at night."""

    cameras: int
    set_aside_w: float
    draw_w: float


class Wiring(NamedTuple):
    """What is said by links and devices alone, and is carried over from edit to edit while they stay the same.

    Attributes:
        links, recorders, devices, camera_ids: what it was made of.
        network: links and devices as a network.
        capacity_mbps: by link id, what it carries each way.
        feeders: by camera id, the link that it hangs on.
        sockets: by device and socket number, the links plugged in there.
        loops: ids of links that close a loop.
        dangling: links with an end that is not there, or with both ends on one device; they are nowhere else in here.
    """

    links: tuple[Link, ...]
    recorders: tuple[Recorder, ...]
    devices: tuple[NetworkDevice, ...]
    camera_ids: tuple[str, ...]
    network: Network
    capacity_mbps: dict[str, float]
    feeders: dict[str, Link]
    sockets: dict[str, dict[int, list[str]]]
    loops: tuple[str, ...]
    dangling: tuple[Link, ...]


class Topology(NamedTuple):
    """Figures of the wiring.

    Attributes:
        wiring: what holds whatever the cameras send and draw.
        loads: by link id, the load each way in Mb/s; dangling links have none.
        supplies: by device id, for devices on which powered cameras hang.
        cut_off: ids of cameras that hang on something but have no way to a recorder of theirs.
        loose: ids of cameras that hang on nothing, where anything is wired at all.
    """

    wiring: Wiring
    loads: Loads
    supplies: dict[str, Supply]
    cut_off: tuple[str, ...]
    loose: tuple[str, ...]


def wiring_of(job: Job, before: Wiring | None = None) -> Wiring:
    """The wiring of a job; ``before`` itself when no link and no device came, went or changed.

    The lists of a job never change in place, so that they are compared by identity; cameras are compared by their ids,
    because nearly every edit changes something of a camera that has no say here.
    """
    camera_ids = tuple(camera.id for camera in job.cameras) if job.links else ()
    if (
        before is not None
        and before.links is job.links
        and before.recorders is job.recorders
        and before.devices is job.network
        and before.camera_ids == camera_ids
    ):
        return before
    port_mbps = dict.fromkeys(camera_ids, CAMERA_PORT_MBPS)
    port_mbps.update((device.id, device.port_mbps) for device in (*job.recorders, *job.network))
    good = {link.id: link for link in job.links if link.a in port_mbps and link.b in port_mbps and link.a != link.b}
    capacity_mbps = {link.id: _capacity_mbps(link, port_mbps) for link in good.values()}
    network = Network(port_mbps, (Wire(link.id, link.a, link.b, capacity_mbps[link.id]) for link in good.values()))
    cameras = frozenset(camera_ids)
    feeders: dict[str, Link] = {}
    for link in good.values():
        for end in cameras.intersection((link.a, link.b)):
            feeders.setdefault(end, link)
    return Wiring(
        links=job.links,
        recorders=job.recorders,
        devices=job.network,
        camera_ids=camera_ids,
        network=network,
        capacity_mbps=capacity_mbps,
        feeders=feeders,
        sockets=sockets_used(job.links),
        loops=tuple(network.loop_links()),
        dangling=tuple(link for link in job.links if link.id not in good),
    )


def _capacity_mbps(link: Link, port_mbps: dict[str, float]) -> float:
    """What a link carries each way: as typed in, else the slower of its sockets; a radio link its assumed rate."""
    if link.capacity_mbps is not None:
        return link.capacity_mbps
    return RADIO_MBPS if link.medium == "radio" else min(port_mbps[link.a], port_mbps[link.b])


def topology(job: Job, figures: dict[str, CameraFigures], before: Topology | None = None) -> Topology:
    """Figures of the wiring of a job. ``before`` is any earlier one, and only spares work."""
    wiring = wiring_of(job, before.wiring if before else None)
    recorder_ids = {recorder.id for recorder in job.recorders}
    loads = link_loads(
        wiring.network,
        (
            (camera.id, place.recorder, figures[camera.id].rate_mbps)
            for camera in (job.cameras if job.links else ())
            for place in camera.registered
            if place.recorder in recorder_ids
        ),
    )
    return Topology(
        wiring=wiring,
        loads=loads,
        supplies=_supplies(job, wiring.feeders),
        cut_off=tuple(dict.fromkeys(s.source for s in loads.unreached if s.source in wiring.feeders)),
        loose=tuple(camera_id for camera_id in wiring.camera_ids if camera_id not in wiring.feeders),
    )


def _supplies(job: Job, feeders: dict[str, Link]) -> dict[str, Supply]:
    sums: dict[str, list[float]] = {}
    for camera in job.cameras:
        if camera.power_class is not None and camera.id in feeders:
            on_it = sums.setdefault(feeders[camera.id].far_end(camera.id)[0], [0, 0.0, 0.0])
            on_it[0] += 1
            on_it[1] += POWER_CLASSES[camera.power_class].set_aside_w
            on_it[2] += camera.power_w
    return {device: Supply(int(cameras), aside_w, draw_w) for device, (cameras, aside_w, draw_w) in sums.items()}


def failures(network: Network, cameras_on: Mapping[str, Iterable[Camera]]) -> dict[str, set[str]]:
    """By device or link id: the cameras that stop recording when it fails. Parts that nobody needs are not listed.

    Args:
        network: the wiring.
        cameras_on: by recorder id, the cameras registered there.
    """
    stops: dict[str, set[str]] = {}
    for recorder_id, cameras in cameras_on.items():
        for part, lost in stopped_by(network, recorder_id, {camera.id for camera in cameras}).items():
            stops.setdefault(part, set()).update(lost)
    return stops
