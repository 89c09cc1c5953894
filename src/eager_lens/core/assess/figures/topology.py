"""What the wiring carries: load on every link, air time, what is watched, and power on every supplying device."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import chain
from typing import NamedTuple

from eager_lens.core.assess.figures.devices import CameraFigures
from eager_lens.core.assess.figures.fed_runs import FedRun, fed_runs
from eager_lens.core.assess.figures.power import Supply, supplies_of
from eager_lens.core.assess.figures.radio import radio_figures
from eager_lens.core.assess.limits import SLOW_MBPS
from eager_lens.core.job.changes import Changes, checked_names
from eager_lens.core.job.model import Camera, Job, Link, NetworkDevice, Recorder
from eager_lens.core.job.wiring import ports_in_use
from eager_lens.core.sizing.control import CAMERA_PORT_MBPS
from eager_lens.core.wiring.network import Loads, Network, Wire, link_loads, passed_on_route

LONG_REACH_MBPS, LONG_REACH_M = 10.0, 250.0
"""What a port in long-reach mode carries, and how far it reaches."""

RADIO_MBPS = 100.0
"""What a radio link is taken to carry until it is planned or a rate is typed in."""

NO_RADIO_MBPS = 0.001
"""What stands for a radio link over which nothing comes; a share of nothing could not be told."""


class Wiring(NamedTuple):
    """What is said by links and devices alone, and is carried over from edit to edit while they stay the same.

    Attributes:
        links, recorders, devices, camera_ids: what it was made of.
        network: links and devices as a network.
        capacity_mbps: by link id, what it carries each way.
        feeders: by camera id, the link that it hangs on.
        hangs_on: by camera id, the device at the other end of that link.
        links_at: by device id, its links, those that lead nowhere among them.
        feeding: by camera id, the device that can feed it over that link: those that hang on copper.
        ports_in_use: by device and port number, the links plugged in there.
        loops: ids of links that close a loop.
        dangling: links with an end that is not there, or with both ends on one device; they are nowhere else in here.
        misplaced: links of the local network that are plugged into a router's WAN port: they carry nothing.
    """

    links: tuple[Link, ...]
    recorders: tuple[Recorder, ...]
    devices: tuple[NetworkDevice, ...]
    camera_ids: tuple[str, ...]
    network: Network
    capacity_mbps: dict[str, float]
    feeders: dict[str, Link]
    hangs_on: dict[str, str]
    links_at: dict[str, list[Link]]
    feeding: dict[str, str]
    ports_in_use: dict[str, dict[int, list[str]]]
    loops: tuple[str, ...]
    dangling: tuple[Link, ...]
    misplaced: tuple[Link, ...]


class Topology(NamedTuple):
    """Figures of the wiring.

    Attributes:
        wiring: what holds whatever the cameras send and draw.
        hanging: by device and place, the cameras that hang there, by id.
        loads: by link id, the load each way in Mb/s; dangling links have none.
        fed_runs: by id, the network devices that are fed over their cable.
        supplies: by the id of a device or power unit, for those that feed something.
        on_the_way: by the id of a router or slow link, the cameras whose way to a recorder passes it.
        air_share: by device id, the share of the air's time that the radio links of an access point take.
        watched: what is watched: recorder, watcher, Mb/s; ``outgoing_mbps`` is its sum by recorder.
        unwatched: viewing stations and internet lines to which pictures find no way.
        cut_off: ids of cameras that hang on something but have no way to a recorder of theirs.
        loose: ids of cameras that hang on nothing, where anything is wired at all.
    """

    wiring: Wiring
    hanging: dict[str, dict[str, list[str]]]
    loads: Loads
    fed_runs: dict[str, FedRun]
    supplies: dict[str, Supply]
    on_route: dict[str, list[str]]
    air_share: dict[str, float]
    watched: list[tuple[str, str, float]]
    outgoing_mbps: dict[str, float]
    unwatched: tuple[str, ...]
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
    slow = {recorder.id: recorder.poe_ports for recorder in job.recorders if recorder.poe_ports}
    misplaced = _misplaced(job, good.values())
    capacity_mbps = {link.id: _capacity_mbps(link, port_mbps, slow) for link in good.values()}
    barred = {link.id for link in misplaced}
    network = Network(
        port_mbps,
        (Wire(link.id, link.a, link.b, capacity_mbps[link.id]) for link in good.values() if link.id not in barred),
        frozenset(recorder.id for recorder in job.recorders if recorder.attachment != "bridged PoE ports"),
    )
    feeders = _first_links(frozenset(camera_ids), good.values())
    hangs_on = {camera: link.far_end(camera)[0] for camera, link in feeders.items()}
    return Wiring(
        links=job.links,
        recorders=job.recorders,
        devices=job.network,
        camera_ids=camera_ids,
        network=network,
        capacity_mbps=capacity_mbps,
        feeders=feeders,
        hangs_on=hangs_on,
        links_at=_links_at(job),
        feeding={camera: hangs_on[camera] for camera, link in feeders.items() if link.medium == "copper"},
        ports_in_use=ports_in_use(job.links),
        loops=tuple(network.loop_links()),
        dangling=tuple(link for link in job.links if link.id not in good),
        misplaced=misplaced,
    )


def _misplaced(job: Job, links: Iterable[Link]) -> tuple[Link, ...]:
    """Links that end on a router's internet port."""
    internet = {device.id: device.wan_port for device in job.network if device.wan_port}
    return tuple(
        link
        for link in links
        if internet
        and any(port and internet.get(end) == port for end, port in ((link.a, link.a_port), (link.b, link.b_port)))
    )


def _first_links(cameras: frozenset[str], links: Iterable[Link]) -> dict[str, Link]:
    """By camera, the first of its links."""
    found: dict[str, Link] = {}
    for link in links:
        for end in cameras.intersection((link.a, link.b)):
            found.setdefault(end, link)
    return found


def _links_at(job: Job) -> dict[str, list[Link]]:
    """By device, its links."""
    found: dict[str, list[Link]] = {}
    for link in job.links:
        for end in (link.a, link.b) if link.a != link.b else ():
            found.setdefault(end, []).append(link)
    return found


def _capacity_mbps(link: Link, port_mbps: dict[str, float], slow: dict[str, int]) -> float:
    """What a link carries each way: as typed in, else what its radio or long reach gives, else the slower port.

    ``slow`` are recorders with PoE ports, by how many those are.
    """
    if link.capacity_mbps is not None:
        return link.capacity_mbps
    if link.medium == "radio":
        radio = radio_figures(link)
        return RADIO_MBPS if radio is None else max(radio.budget.usable_mbps, NO_RADIO_MBPS)
    if link.long_reach:
        return LONG_REACH_MBPS
    carries = min(port_mbps[link.a], port_mbps[link.b])
    if slow and (0 < link.a_port <= slow.get(link.a, 0) or 0 < link.b_port <= slow.get(link.b, 0)):
        return min(carries, CAMERA_PORT_MBPS)
    return carries


def topology(
    job: Job,
    figures: dict[str, CameraFigures],
    cameras_on: dict[str, list[Camera]],
    before: Topology | None = None,
    since: Changes | None = None,
) -> Topology:
    """Figures of the wiring of a job.

    Args:
        job, figures: the job, and the figures of its cameras.
        cameras_on: by recorder id, the cameras registered there.
        before, since: any earlier one, and what changed in the job after it; they only spare work.
    """
    wiring = wiring_of(job, before.wiring if before else None)
    watched, unwatched = _watched(job, figures, wiring.network)
    loads = NO_LOADS
    if job.links:
        loads = link_loads(wiring.network, chain(_recorded(job, figures, cameras_on), watched))
    outgoing_mbps: dict[str, float] = {}
    for recorder_id, _, rate_mbps in watched:
        outgoing_mbps[recorder_id] = outgoing_mbps.get(recorder_id, 0.0) + rate_mbps
    kept = before if since is not None and not since.touch(SUPPLIED_BY) else None
    fed = fed_runs(job, wiring.feeding) if kept is None else kept.fed_runs
    return Topology(
        wiring=wiring,
        hanging=before.hanging if before and since and not since.touch(HANGING_BY) else _hanging(job, wiring),
        loads=loads,
        fed_runs=fed,
        supplies=supplies_of(job, wiring.feeding, fed) if kept is None else kept.supplies,
        on_route=before.on_route if before and since and not since.touch(ROUTES_BY) else _on_route(job, wiring),
        air_share=_air_share(wiring, loads),
        watched=watched,
        outgoing_mbps=outgoing_mbps,
        unwatched=unwatched,
        cut_off=tuple(dict.fromkeys(s.source for s in loads.unreached if s.source in wiring.feeders)),
        loose=tuple(camera_id for camera_id in wiring.camera_ids if camera_id not in wiring.feeders),
    )


NO_LOADS = Loads({}, {}, ())

WIRED = ("links", "network", "recorders", "cameras.id")
RUN_BY = ("cameras.cable_m", "cameras.awg", "cameras.cable_material", "cameras.outdoor")
SUPPLIED_BY = checked_names(*WIRED, "power_units", "cameras.poe_class", "cameras.power_w", *RUN_BY)
ROUTES_BY = checked_names(*WIRED, "cameras.registered")
HANGING_BY = checked_names(*WIRED, "cameras.place")
"""What power, ways, and what hangs where are told by."""


def _hanging(job: Job, wiring: Wiring) -> dict[str, dict[str, list[str]]]:
    found: dict[str, dict[str, list[str]]] = {}
    for camera in job.cameras:
        other = wiring.hangs_on.get(camera.id)
        if other is not None:
            found.setdefault(other, {}).setdefault(camera.place, []).append(camera.id)
    return found


def _on_route(job: Job, wiring: Wiring) -> dict[str, list[str]]:
    network = wiring.network
    slow = [wire.id for wire in network.wires.values() if wire.capacity_mbps <= SLOW_MBPS]
    routers = [device.id for device in job.network if device.role == "router" and device.id not in network.leaves]
    marked = frozenset((*slow, *routers))
    found: dict[str, list[str]] = {}
    if not marked:
        return found
    routes = {recorder.id: passed_on_route(network, recorder.id, marked) for recorder in job.recorders}
    for camera in job.cameras:
        first, entry = network.leaves.get(camera.id, ("", camera.id))
        passed: set[str] = set()
        for place in camera.registered:
            route = routes.get(place.recorder, {}).get(entry)
            if route is not None:
                passed |= route
                passed |= marked.intersection((first,))
        for part in passed:
            found.setdefault(part, []).append(camera.id)
    return found


def _recorded(
    job: Job, figures: dict[str, CameraFigures], cameras_on: dict[str, list[Camera]]
) -> Iterator[tuple[str, str, float]]:
    """What every camera sends to its recorders: its main stream, and the small one where that is fetched or kept too."""
    for recorder in job.recorders:
        for camera in cameras_on[recorder.id]:
            got = figures[camera.id]
            substream_mbps = camera.substream_mbps if recorder.fetches_substreams else got.substream_kept_mbps
            yield camera.id, recorder.id, got.load_mbps + substream_mbps


def _watched(
    job: Job, figures: dict[str, CameraFigures], network: Network
) -> tuple[list[tuple[str, str, float]], tuple[str, ...]]:
    """What recorders send to those who watch, and the watchers that no recorder reaches.

    A watcher shows the first cameras that it can have: of each the picture that its first recorder within reach sends.
    """
    streams: list[tuple[str, str, float]] = []
    unwatched = []
    for device in (device for device in job.network if device.viewed_streams and job.links):
        recorder_ids = {recorder.id for recorder in job.recorders if network.reaches(recorder.id, device.id)}
        if job.recorders and not recorder_ids:
            unwatched.append(device.id)
            continue
        sums: dict[str, float] = {}
        left = device.viewed_streams
        for camera in job.cameras:
            recorder_id = next((place.recorder for place in camera.registered if place.recorder in recorder_ids), None)
            if recorder_id is not None and left:
                left -= 1
                rate_mbps = figures[camera.id].load_mbps if device.views_main_streams else camera.substream_mbps
                sums[recorder_id] = sums.get(recorder_id, 0.0) + rate_mbps
        streams += [(recorder_id, device.id, rate_mbps) for recorder_id, rate_mbps in sums.items()]
    return streams, tuple(unwatched)


def _air_share(wiring: Wiring, loads: Loads) -> dict[str, float]:
    """Links that share an access point share its air, and both ways of each: time taken, of all the time there is.

    Where neither end is named as the access point, end b stands for it.
    """
    access_points = {device.id for device in wiring.devices if device.radio_end == "access point"}
    share: dict[str, float] = {}
    for link in wiring.links:
        if link.medium == "radio" and link.id in loads:
            load = loads[link.id]
            host = link.a if link.a in access_points else link.b
            taken = (load.forth_mbps + load.back_mbps) / wiring.capacity_mbps[link.id]
            share[host] = share.get(host, 0.0) + taken
    return share
