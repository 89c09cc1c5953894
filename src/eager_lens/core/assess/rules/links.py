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

DANGLING_LINK = FindingKind("link-without-device", "wiring")


def dangling(facts: Facts) -> Iterator[Finding]:
    """A link with an end that is not there, or with both ends on one device."""
    lost = facts.topology.wiring.dangling
    if lost:
        yield Finding(
            DANGLING_LINK,
            Severity.FAULT,
            f"{count(len(lost), 'link')} without a device at one end",
            f"{names_listed([facts.link_name(link) for link in lost])}: a device was removed, so the link carries nothing.",
            "Remove the link, and connect the device again.",
            tuple(end for link in lost for end in (link.a, link.b) if end in facts.by_device_id),
            unplug(link.id for link in lost),
        )


PORT_TWICE = FindingKind("port-twice", "wiring", button="Use a free port")
NO_SUCH_PORT = FindingKind("no-such-port", "wiring")
TOO_FEW_PORTS = FindingKind("too-few-ports", "wiring", way_out="larger switch")


def wrong_ports(facts: Facts) -> Iterator[Finding]:
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
                    "One of them is noted wrongly, and the next technician will look for it in the wrong place.",
                    "Give one of them another port in the table of links.",
                    (device.id,),
                    _other_port(facts, links[-1], device.id, free[0]) if free else None,
                )
            if port > device.ports:
                yield Finding(
                    NO_SUCH_PORT,
                    Severity.FAULT,
                    f"{device.name} has no port {port}",
                    f"It has {count(device.ports, 'port')}.",
                    "Correct the port number, or use a device with more ports.",
                    (device.id,),
                )
        if plugged > device.ports:
            yield Finding(
                TOO_FEW_PORTS,
                Severity.FAULT,
                f"{device.name} has {count(device.ports, 'port')} for {count(plugged, 'link')}",
                f"No port is left for {count(plugged - device.ports, 'device')}.",
                "Use a larger device, or move some to another switch.",
                (device.id,),
            )


def _other_port(facts: Facts, link_id: str, device_id: str, port: int) -> Edit:
    """Give one end of a link another port."""
    link = next(link for link in facts.job.links if link.id == link_id)
    end = "a_port" if link.a == device_id else "b_port"
    return set_link([link_id], f"Move a plug to port {port} of {facts.name(device_id)}", **{end: port})


FIBRE_ON_COPPER = FindingKind("fibre-on-copper", "wiring", button="Move to fibre port")


def fibre_ports(facts: Facts) -> Iterator[Finding]:
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
                    f"{facts.link_name(link)}: fibre on copper port {port} of {devices[end].name}",
                    "PoE ports are copper; fibre goes into an SFP slot.",
                    "Move it to a fibre port. If none is left, plan a media converter, or a switch with more fibre ports.",
                    (link.a, link.b),
                    None if moved == link else make_fibre(link, "Move the fibre to a free port without PoE"),
                )
                break


LOOP = FindingKind("loop", "wiring", button="Remove link")


def loops(facts: Facts) -> Iterator[Finding]:
    """Two paths between two devices, where nothing is known that keeps broadcasts from going round."""
    closing = set(facts.topology.wiring.loops)
    for link in facts.job.links:
        if link.id in closing and not _is_aggregated(facts, link) and not _is_broken_by_spanning_tree(facts, link):
            yield Finding(
                LOOP,
                Severity.FAULT,
                f"{facts.link_name(link)} closes a loop",
                "In a loop simple switches pass broadcasts round without end, and the whole network stops working.",
                "Remove one of the links. If all switches on the loop run spanning tree (RSTP), or both links form a link "
                "aggregation (LAG), mark it as intended.",
                (link.a, link.b),
                unplug([link.id], f"Remove {facts.link_name(link)}"),
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
    # Breadth-first from one end of the link to the other without the link itself: the shortest way round is the ring that
    # it closes.
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
    # Asked once for all links; in a large job nearly every link is far below, and none is looked at then.
    near = topology.loads.above(NEAR_SHARE, topology.wiring.capacity_mbps)
    for link in facts.job.links if near else ():
        if link.id not in near or link.medium == "radio":  # radio links are judged by their air time
            continue
        # Aggregated links carry together what no single one could.
        capacity = sum(topology.wiring.capacity_mbps.get(one.id, 0.0) for one in _put_together(facts, link))
        worst = topology.loads.worst_mbps(link.id)
        if at_most(worst, NEAR_SHARE * capacity):
            continue
        over = not at_most(worst, capacity)
        yield Finding(
            LINK_OVER if over else LINK_NEAR,
            Severity.FAULT if over else Severity.WARNING,
            f"{facts.link_name(link)}: {figure(worst)} of {figure(capacity)} Mb/s",
            "On an overloaded link streams stall and pictures are lost."
            if over
            else "Key frames come in bursts, and little capacity is left for them.",
            "Use a faster link, a second recorder nearer to the cameras, or lower bit rates.",
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
            f"{names_listed([facts.name(camera) for camera in cut])}: no path to the recorder",
            "The cameras are connected, but no link leads from their switch to their recorder.",
            "Add a link between the two, or use another recorder.",
            tuple(cut),
        )
    loose = facts.topology.loose
    if loose:
        yield Finding(
            NOT_PLUGGED,
            facts.when_missing(Severity.WARNING),
            f"{count(len(loose), 'camera')} not connected",
            f"{names_listed([facts.name(camera) for camera in loose])}: link loads and PoE do not count them until they are "
            "connected.",
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
            f"{names_listed([device.name for device in strange])}: unknown device type",
            "Ports and PoE budget are used as entered.",
            "Select a type from the list, add the type to this job, or leave it empty and enter ports and PoE budget yourself.",
            tuple(device.id for device in strange),
        )


INTERNET_PORT = FindingKind("wan-port", "wiring", button="Move to LAN port")


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
            "A router blocks connections from its WAN port, so this device is cut off from the rest.",
            "Move the plug to a LAN port. The WAN port is for the internet line only."
            if free
            else "All LAN ports are taken, so add a switch.",
            (router_id, link.far_end(router_id)[0]),
            _other_port(facts, link.id, router_id, free[0]) if free else None,
        )


ORPHAN_DEVICE = FindingKind("orphan-device", "wiring")


def orphans(facts: Facts) -> Iterator[Finding]:
    """Devices that nothing is plugged into, in a job that is wired."""
    if not facts.job.links:
        return
    alone = [device for device in facts.suppliers if device.id not in facts.topology.wiring.ports_in_use]
    # Links without port numbers are not in `ports_in_use`, so the links themselves are asked too.
    alone = [device for device in alone if not any(device.id in (link.a, link.b) for link in facts.job.links)]
    if alone:
        yield Finding(
            ORPHAN_DEVICE,
            facts.when_missing(Severity.WARNING),
            f"{names_listed([device.name for device in alone])}: not connected",
            "Without a link the device cannot be reached.",
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
                f"{names_listed([facts.name(camera) for camera in through])}: every stream crosses the router, and when it "
                "stops, recording stops too.",
                "Connect recorder and cameras to the same switch; then a failed router costs only remote viewing.",
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
                f"Key frames of {facts.name(camera_id)} share {figure(topology.wiring.capacity_mbps[link.id])} Mb/s with other "
                "streams. The picture stands still until each has arrived.",
                "Use a faster link, a lower resolution or a lower quality.",
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
            f"{facts.link_name(link)}: {figure(busy_mbps)} of {figure(capacity)} Mb/s in long-reach mode",
            f"In busy scenes the stream needs more than {100 * BURSTY_SHARE:g} % of a long-reach port, with key frames on top, "
            "so the picture freezes just then.",
            "Cap the bit rate well below that, lower the resolution, or use fibre or a switch half-way.",
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
"""Largest frame of a CBR or capped encoder, in seconds of its rate (assumed; makers differ)."""


def key_frame_bytes(camera: Camera, facts: Facts) -> float:
    """Size of a camera's key frames: their share of its rate, as its settings and scene give it; an encoder that keeps a rate
    gives none more than its buffer holds."""
    assumed = assumed_rate_of(camera, facts.job.assumed.as_assumed())
    share = assumed.key_part_mbps / assumed.rate_mbps
    # MJPEG has no key-frame interval: every frame is one.
    interval_s = 1 / camera.fps if camera.codec == "mjpeg" else camera.key_frame_s
    load_mbps = facts.camera_figures[camera.id].load_mbps
    kept_mbps = load_mbps if camera.rate_control == "CBR" else cap_of(camera)
    buffer_mbit = math.inf if kept_mbps is None else RATE_BUFFER_S * kept_mbps
    return min(load_mbps * share * interval_s, buffer_mbit) * 1e6 / 8


OUTGOING_OVER = FindingKind("outgoing-over", "wiring")
UPLOAD_OVER = FindingKind("upload-over", "wiring", way_out="cap what is uploaded")
UPLOAD_NEAR = FindingKind("upload-near", "wiring", way_out="cap what is uploaded")
NO_WAY_TO_VIEWER = FindingKind("viewer-cut-off", "wiring")


def watching(facts: Facts) -> Iterator[Finding]:
    """What is watched: from a recorder more than it gives, over the internet more than the line takes, or not at all."""
    topology = facts.topology
    for recorder in facts.job.recorders:
        outgoing = topology.outgoing_mbps.get(recorder.id, 0.0)
        if not at_most(outgoing, recorder.outgoing_limit_mbps):
            yield Finding(
                OUTGOING_OVER,
                Severity.FAULT,
                f"{recorder.name}: {figure(outgoing)} of {figure(recorder.outgoing_limit_mbps)} Mb/s outgoing",
                "Beyond its limit a recorder sends stuttering pictures, or none.",
                "View fewer cameras at once, or use substreams.",
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
                f"{count(device.viewed_streams, 'stream')} at once leave the site through {device.name}.",
                "View fewer cameras at once, use substreams, or order a faster line.",
                (device.id,),
            )
    if topology.unwatched:
        yield Finding(
            NO_WAY_TO_VIEWER,
            Severity.FAULT,
            f"{names_listed([facts.name(viewer) for viewer in topology.unwatched])}: no path to the recorder",
            "It is planned for viewing, but no link leads to the recorder.",
            "Add a link, or set its number of streams to 0.",
            topology.unwatched,
        )


def upload_load_mbps(facts: Facts, device: NetworkDevice) -> float | None:
    """What is watched through a device's line to the internet, in Mb/s; None where there is no such line."""
    if device.upload_mbps is None:
        return None
    return sum(rate_mbps for _, watcher, rate_mbps in facts.topology.watched if watcher == device.id)


FAR_PORTS = FindingKind("far-end-ports", "wiring", button="Use larger switch")


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
                f"No PoE port is left for {count(len(cameras) - powered, 'camera')} behind the bridge.",
                f"Use the type “{larger.label}”." if larger else "Add a second switch there.",
                tuple(device.id for device in there) + tuple(camera.id for camera in cameras),
                set_fields([switch.id], f"Change {switch.name} to {larger.label}", **larger.fits())
                if larger and switch
                else None,
            )


RULES = (
    dangling,
    misplaced,
    wrong_ports,
    fibre_ports,
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
