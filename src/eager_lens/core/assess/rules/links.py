"""Findings about the wiring: ports, loads, power on a device, ways that are missing or doubled."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.rates import assumed_rate_of, cap_of
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.limits import BURSTY_SHARE, NEAR_SHARE
from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.model import Camera, Link, NetworkDevice
from eager_lens.core.job.wiring import free_ports, make_fibre, on_uplinks, set_link, unplug
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most
from eager_lens.core.wiring.burst import burst_ms

DANGLING_LINK = FindingKind("dangling-link", "wiring")


def dangling(facts: Facts) -> Iterator[Finding]:
    """A link with an end that is not there, or with both ends on one device."""
    lost = facts.topology.wiring.dangling
    if lost:
        yield Finding(
            DANGLING_LINK,
            Severity.FAULT,
            f"{count(len(lost), 'link')} with an end that is not there",
            f"{names_listed([facts.link_name(link) for link in lost])}: it carries nothing.",
            "Remove it, and connect the device again.",
            tuple(end for link in lost for end in (link.a, link.b) if end in facts.by_device_id),
            unplug(link.id for link in lost),
        )


PORT_TWICE = FindingKind("port-twice", "wiring")
NO_SUCH_PORT = FindingKind("no-such-port", "wiring")
TOO_FEW_PORTS = FindingKind("too-few-ports", "wiring", way_out="larger switch")


def sockets(facts: Facts) -> Iterator[Finding]:
    """Ports used twice, that do not exist, or too few of them."""
    used = facts.topology.wiring.ports_in_use
    for device in facts.suppliers:
        mine = used.get(device.id, {})
        plugged = sum(len(links) for links in mine.values())
        for port, links in sorted(mine.items()):
            if port and len(links) > 1:
                free = free_ports(device, used)
                yield Finding(
                    PORT_TWICE,
                    Severity.FAULT,
                    f"Port {port} of {device.name} is used by {len(links)} links",
                    "One of them is written down wrongly, and will be searched for in the wrong place.",
                    "Give one of them another port in the table of links.",
                    (device.id,),
                    _other_socket(facts, links[-1], device.id, free[0]) if free else None,
                )
            if port > device.ports:
                yield Finding(
                    NO_SUCH_PORT,
                    Severity.FAULT,
                    f"{device.name} has no port {port}",
                    f"It has {count(device.ports, 'port')}.",
                    "Correct the number, or use a device with more ports.",
                    (device.id,),
                )
        if plugged > device.ports:
            yield Finding(
                TOO_FEW_PORTS,
                Severity.FAULT,
                f"{device.name} has {count(device.ports, 'port')} for {count(plugged, 'link')}",
                f"{count(plugged - device.ports, 'device')} would have no free port.",
                "Use a larger device, or move some to another switch.",
                (device.id,),
            )


def _other_socket(facts: Facts, link_id: str, device_id: str, port: int) -> Edit:
    """Give one end of a link another port."""
    link = next(link for link in facts.job.links if link.id == link_id)
    end = "a_port" if link.a == device_id else "b_port"
    return set_link([link_id], f"Move a plug to port {port} of {facts.name(device_id)}", **{end: port})


FIBRE_ON_COPPER = FindingKind("fibre-on-copper", "wiring")


def fibre_sockets(facts: Facts) -> Iterator[Finding]:
    """Fibre in a port that gives power: such a port is a copper socket."""
    devices = {device.id: device for device in facts.suppliers if device.poe_ports}
    for link in facts.job.links if devices else ():
        if link.medium != "fibre":
            continue
        for end, port in ((link.a, link.a_port), (link.b, link.b_port)):
            if end in devices and 0 < port <= devices[end].poe_ports:
                moved = on_uplinks(facts.job, link)
                yield Finding(
                    FIBRE_ON_COPPER,
                    Severity.WARNING,
                    f"{facts.link_name(link)}: fibre on port {port} of {devices[end].name}, which is a copper socket",
                    "A port that gives power takes a plug of copper; fibre goes into a slot beside them.",
                    "Move it to a port for fibre; where none is left, plan a media converter, or a switch with more of them.",
                    (link.a, link.b),
                    None if moved == link else make_fibre(link, "Move the fibre to a free port without power"),
                )
                break


LOOP = FindingKind("loop", "wiring")


def loops(facts: Facts) -> Iterator[Finding]:
    """Two paths between two devices, where nothing is known that keeps broadcasts from going round."""
    closing = set(facts.topology.wiring.loops)
    for link in facts.job.links:
        if link.id in closing and not _is_aggregated(facts, link) and not _is_broken_by_spanning_tree(facts, link):
            yield Finding(
                LOOP,
                Severity.FAULT,
                f"{facts.link_name(link)} closes a loop",
                "Simple switches send broadcasts round a loop without end, and the whole network stands still.",
                "Remove one of the links; or say so where all switches on it run spanning tree (RSTP), or where the two ends "
                "have put both links together (link aggregation).",
                (link.a, link.b),
                unplug([link.id], f"Unplug {facts.link_name(link)}"),
            )


def _put_together(facts: Facts, link: Link) -> list[Link]:
    """The links that are one by link aggregation: those between the same two devices, where all that count say so."""
    between = (one for one in facts.topology.wiring.links_at.get(link.a, ()) if {one.a, one.b} == {link.a, link.b})
    return [one for one in between if one.aggregated] if link.aggregated else [link]


def _is_aggregated(facts: Facts, link: Link) -> bool:
    return len(_put_together(facts, link)) > 1


def _is_broken_by_spanning_tree(facts: Facts, link: Link) -> bool:
    """Whether all that pass on what comes, on the shortest way round that a link closes, run spanning tree."""
    links_at, devices = facts.topology.wiring.links_at, facts.by_device_id
    came: dict[str, str] = {link.a: ""}
    waiting = [link.a]
    for here in waiting:
        for other in (one.far_end(here)[0] for one in links_at.get(here, ()) if one.id != link.id):
            if other not in came:
                came[other] = here
                waiting.append(other)
    here, ring = link.b, []
    while here:
        ring.append(here)
        here = came.get(here, "")
    return all(isinstance(device := devices.get(one), NetworkDevice) and device.spanning_tree for one in ring)


LINK_OVER = FindingKind("link-over", "wiring", way_out="cap what a link carries")
LINK_NEAR = FindingKind("link-near", "wiring", way_out="cap what a link carries")


def link_loads(facts: Facts) -> Iterator[Finding]:
    """More on a link than it carries."""
    topology = facts.topology
    near = topology.loads.above(NEAR_SHARE, topology.wiring.capacity_mbps)
    for link in facts.job.links if near else ():
        if link.id not in near or link.medium == "radio":  # radio links are judged by their air time
            continue
        capacity = sum(topology.wiring.capacity_mbps.get(one.id, 0.0) for one in _put_together(facts, link))
        worst = topology.loads.worst_mbps(link.id)
        if at_most(worst, NEAR_SHARE * capacity):
            continue
        over = not at_most(worst, capacity)
        yield Finding(
            LINK_OVER if over else LINK_NEAR,
            Severity.FAULT if over else Severity.WARNING,
            f"{facts.link_name(link)}: {figure(worst)} of {figure(capacity)} Mb/s",
            "Above what a link carries, streams stall and pictures are lost."
            if over
            else "Key frames come in bursts; little is left for them.",
            "A faster link, a second recorder nearer the cameras, or lower rates.",
            (link.a, link.b),
        )


CUT_OFF = FindingKind("cut-off", "wiring", way_out="join networks")
NOT_PLUGGED = FindingKind("not-plugged", "wiring", way_out="connect", of_what_is_missing=True)


def cut_off(facts: Facts) -> Iterator[Finding]:
    """Cameras that hang on nothing, or on something without a way to their recorder."""
    cut = facts.topology.cut_off
    if cut:
        yield Finding(
            CUT_OFF,
            Severity.FAULT,
            f"No way to the recorder from {names_listed([facts.name(camera) for camera in cut])}",
            "They are plugged in, but no link joins what they hang on with a recorder of theirs.",
            "Join the two with a link, or record them elsewhere.",
            tuple(cut),
        )
    loose = facts.topology.loose
    if loose:
        yield Finding(
            NOT_PLUGGED,
            facts.when_missing(Severity.WARNING),
            f"{count(len(loose), 'camera')} not connected",
            f"{names_listed([facts.name(camera) for camera in loose])}: loads and power leave them out until they are.",
            "Select them and connect them to a switch.",
            tuple(loose),
        )


UNKNOWN_KIND = FindingKind("unknown-kind", "wiring")


def unknown_kind(facts: Facts) -> Iterator[Finding]:
    """Devices of a kind that the table does not hold."""
    strange = [
        device for device in facts.job.network if device.device_type and device.device_type not in facts.device_types
    ]
    if strange:
        yield Finding(
            UNKNOWN_KIND,
            Severity.NOTE,
            f"{names_listed([device.name for device in strange])}: a device type that is not known here",
            "Their ports and budget count as they are written down.",
            "Select a type from the list, add the type to this job, or leave it empty and enter ports and PoE budget.",
            tuple(device.id for device in strange),
        )


INTERNET_PORT = FindingKind("internet-port", "wiring")


def misplaced(facts: Facts) -> Iterator[Finding]:
    """The local network on a router's WAN port."""
    wiring = facts.topology.wiring
    for link in wiring.misplaced:
        router_id = link.a if getattr(facts.by_device_id[link.a], "wan_port", 0) == link.a_port else link.b
        router = facts.by_device_id[router_id]
        free = free_ports(router, wiring.ports_in_use)
        yield Finding(
            INTERNET_PORT,
            Severity.FAULT,
            f"{facts.name(link.far_end(router_id)[0])} is on the WAN port of {router.name}",
            "A router lets nothing in there: what hangs on it is cut off from the rest.",
            "Move the plug to a LAN port, and keep the WAN port for the line; alone on site it stays free."
            if free
            else "All LAN ports are taken: put a switch between.",
            (router_id, link.far_end(router_id)[0]),
            _other_socket(facts, link.id, router_id, free[0]) if free else None,
        )


ORPHAN_DEVICE = FindingKind("orphan-device", "wiring")


def orphans(facts: Facts) -> Iterator[Finding]:
    """Devices that nothing is plugged into, in a job that is wired."""
    if not facts.job.links:
        return
    alone = [device for device in facts.suppliers if device.id not in facts.topology.wiring.ports_in_use]
    alone = [device for device in alone if not any(device.id in (link.a, link.b) for link in facts.job.links)]
    if alone:
        yield Finding(
            ORPHAN_DEVICE,
            facts.when_missing(Severity.WARNING),
            f"{names_listed([device.name for device in alone])}: connected to nothing",
            "Nothing reaches a device without a link, and it reaches nothing.",
            "Connect it to a switch, or remove it from the job.",
            tuple(device.id for device in alone),
        )


ROUTER_BETWEEN = FindingKind("router-between", "wiring")


def split_by_router(facts: Facts) -> Iterator[Finding]:
    """Cameras that reach their recorder only through a router."""
    for router in facts.job.network:
        through = facts.topology.on_route.get(router.id, []) if router.role == "router" else []
        if through:
            yield Finding(
                ROUTER_BETWEEN,
                Severity.WARNING,
                f"{count(len(through), 'camera records', 'cameras record')} through {router.name}",
                f"{names_listed([facts.name(camera) for camera in through])}: if the router stops, so does recording, "
                "and every stream crosses it.",
                "Keep recorder and cameras on the same switch; then a dead router loses only remote viewing.",
                (router.id, *through),
            )


LATE_KEY_FRAME = FindingKind("late-key-frame", "wiring", way_out="cap what a link carries")


LATE_MS = 500.0
"""A key frame that takes longer to cross a link makes the picture stand still."""


def slow_links(facts: Facts) -> Iterator[Finding]:
    """Key frames on slow links: the mean load alone hides that they arrive late."""
    topology = facts.topology
    for link in facts.job.links:
        through = topology.on_route.get(link.id)
        if not through:
            continue
        yield from _slow_reach(facts, link, through)
        late = late_key_frame(facts, link, through)
        if late is not None and late[1] > LATE_MS:
            camera_id, ms = late
            yield Finding(
                LATE_KEY_FRAME,
                Severity.WARNING,
                f"{facts.link_name(link)}: a key frame takes {figure(ms / 1000)} s",
                f"One of {facts.name(camera_id)} has to cross {figure(topology.wiring.capacity_mbps[link.id])} Mb/s that "
                "others use too; until it is there the picture stands still.",
                "A faster link, a smaller picture, or a lower quality.",
                (camera_id, link.a, link.b),
            )


def _slow_reach(facts: Facts, link: Link, through: Sequence[str]) -> Iterator[Finding]:
    """A port in long-reach mode under more than it bears when much happens: the usual load hides it."""
    if not link.long_reach:
        return
    capacity = facts.topology.wiring.capacity_mbps[link.id]
    busy_mbps = sum(facts.camera_figures[one].high_mbps for one in through)
    if at_most(facts.topology.loads.worst_mbps(link.id), NEAR_SHARE * capacity) and not at_most(
        busy_mbps, BURSTY_SHARE * capacity
    ):
        yield Finding(
            LINK_NEAR,
            Severity.WARNING,
            f"{facts.link_name(link)}: up to {figure(busy_mbps)} Mb/s over long reach of {figure(capacity)}",
            f"When much happens, more than {100 * BURSTY_SHARE:g} % of a long-reach port is wanted, and key frames besides: the "
            "picture freezes just then.",
            "Cap the rate well under it, take a smaller picture, or a switch half-way or fibre instead.",
            (*through, link.a, link.b),
        )


def late_key_frame(facts: Facts, link: Link, through: Sequence[str]) -> tuple[str, float] | None:
    """The camera whose key frame is longest on a link, and its milliseconds; None where nothing crosses a slow link or
    it is full anyway."""
    capacity = facts.topology.wiring.capacity_mbps[link.id]
    load_mbps = facts.topology.loads.worst_mbps(link.id)
    if load_mbps >= capacity or not through:
        return None
    size, camera_id = max((key_frame_bytes(facts.find_camera(one), facts), one) for one in through)
    # What the camera itself sends besides comes behind its key frame.
    others_mbps = max(0.0, load_mbps - facts.camera_figures[camera_id].load_mbps)
    return camera_id, burst_ms(size, capacity, others_mbps / capacity)


RATE_BUFFER_S = 0.5
"""An encoder of constant or capped rate lets no frame be larger than so many seconds of that rate (assumed; makers differ)."""


def key_frame_bytes(camera: Camera, facts: Facts) -> float:
    """Size of a camera's key frames: their share of its rate, as its settings and scene give it; an encoder that keeps a rate
    gives none more than its buffer holds."""
    assumed = assumed_rate_of(camera, facts.job.assumed.as_assumed())
    share = assumed.key_part_mbps / assumed.rate_mbps
    interval_s = 1 / camera.fps if camera.codec == "mjpeg" else camera.key_frame_s
    load_mbps = facts.camera_figures[camera.id].load_mbps
    kept_mbps = load_mbps if camera.rate_control == "CBR" else cap_of(camera)
    buffer_mbit = math.inf if kept_mbps is None else RATE_BUFFER_S * kept_mbps
    return min(load_mbps * share * interval_s, buffer_mbit) * 1e6 / 8


OUTGOING_OVER = FindingKind("outgoing-over", "wiring")
UPLOAD_OVER = FindingKind("upload-over", "wiring", way_out="cap what is uploaded")
UPLOAD_NEAR = FindingKind("upload-near", "wiring", way_out="cap what is uploaded")
NO_WAY_TO_VIEWER = FindingKind("no-way-to-viewer", "wiring")


def watching(facts: Facts) -> Iterator[Finding]:
    """What is watched: from a recorder more than it gives, over the internet more than the line takes, or not at all."""
    topology = facts.topology
    for recorder in facts.job.recorders:
        outgoing = topology.outgoing_mbps.get(recorder.id, 0.0)
        if not at_most(outgoing, recorder.outgoing_limit_mbps):
            yield Finding(
                OUTGOING_OVER,
                Severity.FAULT,
                f"{recorder.name} is to send {figure(outgoing)} of {figure(recorder.outgoing_limit_mbps)} Mb/s",
                "Viewers beyond what a recorder sends get pictures that stutter or none.",
                "Watch fewer pictures at once, or the substreams.",
                (recorder.id,),
            )
    for device in facts.job.network:
        upload = upload_load_mbps(facts, device)
        if upload is None or device.upload_mbps is None:
            continue
        if upload > NEAR_SHARE * device.upload_mbps and not at_most(upload, NEAR_SHARE * device.upload_mbps):
            over = not at_most(upload, device.upload_mbps)
            yield Finding(
                UPLOAD_OVER if over else UPLOAD_NEAR,
                Severity.FAULT if over else Severity.WARNING,
                f"Remote viewing takes {figure(upload)} of {figure(device.upload_mbps)} Mb/s to the internet",
                f"{count(device.viewed_streams, 'picture')} at once leave through {device.name}.",
                "Watch fewer pictures at once, the substreams instead of the main ones, or a faster line.",
                (device.id,),
            )
    if topology.unwatched:
        yield Finding(
            NO_WAY_TO_VIEWER,
            Severity.FAULT,
            f"No way from the recorder to {names_listed([facts.name(viewer) for viewer in topology.unwatched])}",
            "Pictures are to be watched there, and no link joins it with the recorder.",
            "Join them with a link, or set its pictures to 0.",
            topology.unwatched,
        )


def upload_load_mbps(facts: Facts, device: NetworkDevice) -> float | None:
    """What is watched through a device's line to the internet, in Mb/s; None where there is no such line."""
    if device.upload_mbps is None:
        return None
    return sum(rate_mbps for _, watcher, rate_mbps in facts.topology.watched if watcher == device.id)


FAR_PORTS = FindingKind("far-ports", "wiring")


def far_ends(facts: Facts) -> Iterator[Finding]:
    """As many PoE ports as cameras at the far end of a bridge."""
    job = facts.job
    units = facts.fed_by_unit
    far = {device.place for device in job.network if device.role == "bridge" and device.radio_end == "client"}
    far -= {device.place for device in job.recorders} | {""}
    for place in sorted(far):
        there = [device for device in job.network if device.place == place]
        powered = sum(device.poe_ports for device in there)
        cameras = [c for c in job.cameras if c.place == place and c.poe_class is not None and c.id not in units]
        if len(cameras) > powered:
            larger = next(
                (
                    kind
                    for kind in facts.device_types.values()
                    if kind.role == "switch" and kind.poe_ports >= len(cameras)
                ),
                None,
            )
            switch = next((device for device in there if device.role == "switch"), None)
            yield Finding(
                FAR_PORTS,
                Severity.FAULT,
                f"{place} has {count(powered, 'PoE port')} for {count(len(cameras), 'camera')}",
                f"{count(len(cameras) - powered, 'camera')} behind the bridge would have no PoE port.",
                f"Use the type “{larger.label}”." if larger else "Add a second switch there.",
                tuple(device.id for device in there) + tuple(camera.id for camera in cameras),
                set_fields([switch.id], f"Make {switch.name} a {larger.label}", **larger.fits())
                if larger and switch
                else None,
            )


RULES = (
    dangling,
    misplaced,
    sockets,
    fibre_sockets,
    loops,
    cut_off,
    orphans,
    split_by_router,
    link_loads,
    slow_links,
    watching,
    far_ends,
    unknown_kind,
)
