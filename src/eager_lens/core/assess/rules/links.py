"""Findings about the wiring: sockets, loads, power on a device, ways that are missing or doubled."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.finding import Finding, Severity, names_listed
from eager_lens.core.assess.topology import Supply
from eager_lens.core.assess.traits import NEAR_SHARE
from eager_lens.core.job.model import NetworkDevice, Recorder
from eager_lens.core.job.wiring import unplug
from eager_lens.core.reference.device_kinds import device_kinds
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most

SPARE_SHARE = 0.2
"""Share of a power budget that is usually left spare."""


def _suppliers(facts: Facts) -> tuple[Recorder | NetworkDevice, ...]:
    return (*facts.job.network, *facts.job.recorders)


def dangling(facts: Facts) -> Iterator[Finding]:
    """A link with an end that is not there, or with both ends on one device."""
    lost = facts.topology.wiring.dangling
    if lost:
        yield Finding(
            "dangling-link",
            Severity.FAULT,
            "wiring",
            f"{count(len(lost), 'link')} with an end that is not there",
            f"{names_listed([facts.link_name(link) for link in lost])}: it carries nothing.",
            "Take it out, and plug the device in again.",
            tuple(end for link in lost for end in (link.a, link.b) if end in facts.by_device_id),
            unplug(link.id for link in lost),
        )


def sockets(facts: Facts) -> Iterator[Finding]:
    """Sockets used twice, that do not exist, or too few of them."""
    used = facts.topology.wiring.sockets
    for device in _suppliers(facts):
        mine = used.get(device.id, {})
        plugged = sum(len(links) for links in mine.values())
        for port, links in sorted(mine.items()):
            if port and len(links) > 1:
                yield Finding(
                    "socket-twice",
                    Severity.FAULT,
                    "wiring",
                    f"Socket {port} of {device.name} is used by {len(links)} links",
                    "One of them is written down wrongly, and will be searched for in the wrong place.",
                    "Give one of them another socket in the table of links.",
                    (device.id,),
                )
            if port > device.ports:
                yield Finding(
                    "no-such-socket",
                    Severity.FAULT,
                    "wiring",
                    f"{device.name} has no socket {port}",
                    f"It has {count(device.ports, 'socket')}.",
                    "Correct the number, or take a kind with more sockets.",
                    (device.id,),
                )
        if plugged > device.ports:
            yield Finding(
                "too-few-sockets",
                Severity.FAULT,
                "wiring",
                f"{device.name} has {count(device.ports, 'socket')} for {count(plugged, 'link')}",
                f"{count(plugged - device.ports, 'device')} would have nowhere to plug in.",
                "Take a larger kind, or move some to another switch.",
                (device.id,),
            )


def loops(facts: Facts) -> Iterator[Finding]:
    """Two paths between two devices."""
    closing = set(facts.topology.wiring.loops)
    for link in facts.job.links:
        if link.id in closing:
            yield Finding(
                "loop",
                Severity.FAULT,
                "wiring",
                f"{facts.link_name(link)} closes a loop",
                "Simple switches send broadcasts round a loop without end, and the whole network stands still.",
                "Take one of the links out, unless all switches on it run a spanning tree.",
                (link.a, link.b),
                unplug([link.id], f"Unplug {facts.link_name(link)}"),
            )


def link_loads(facts: Facts) -> Iterator[Finding]:
    """More on a link than it carries."""
    topology = facts.topology
    for link in facts.job.links:
        if link.id not in topology.loads:
            continue
        capacity, worst = topology.wiring.capacity_mbps[link.id], topology.loads.worst_mbps(link.id)
        if worst <= NEAR_SHARE * capacity or at_most(worst, NEAR_SHARE * capacity):
            continue
        over = not at_most(worst, capacity)
        yield Finding(
            "link-over" if over else "link-near",
            Severity.FAULT if over else Severity.DOUBT,
            "wiring",
            f"{facts.link_name(link)}: {figure(worst)} of {figure(capacity)} Mb/s",
            "Above what a link carries, streams stall and pictures are lost."
            if over
            else "Key frames come in bursts; little is left for them.",
            "A faster link, a second recorder nearer the cameras, or lower rates.",
            (link.a, link.b),
        )


def cut_off(facts: Facts) -> Iterator[Finding]:
    """Cameras that hang on nothing, or on something without a way to their recorder."""
    cut = facts.topology.cut_off
    if cut:
        yield Finding(
            "cut-off",
            Severity.FAULT,
            "wiring",
            f"No way to the recorder from {names_listed([facts.name(camera) for camera in cut])}",
            "They are plugged in, but no link joins what they hang on with a recorder of theirs.",
            "Join the two with a link, or record them elsewhere.",
            tuple(cut),
        )
    loose = facts.topology.loose
    if loose:
        yield Finding(
            "not-plugged",
            Severity.DOUBT,
            "wiring",
            f"{count(len(loose), 'camera')} not plugged in anywhere",
            f"{names_listed([facts.name(camera) for camera in loose[:4]])}: "
            "loads and power leave them out until they are.",
            "Choose them and put them on a switch.",
            tuple(loose),
        )


def power(facts: Facts) -> Iterator[Finding]:
    """A device that is to feed more than it can."""
    for device in _suppliers(facts):
        supply = facts.topology.supplies.get(device.id)
        if supply is None:
            continue
        if supply.cameras > device.powered_ports:
            yield Finding(
                "powered-sockets",
                Severity.FAULT,
                "wiring",
                f"{device.name} has {count(device.powered_ports, 'powered socket')} for {count(supply.cameras, 'camera')}",
                "A camera on a socket without power stays dark.",
                "Take a kind with more powered sockets, an injector, or another switch.",
                (device.id,),
            )
        elif device.budget_w > 0:
            yield from _budget(device, supply)


def _budget(device: Recorder | NetworkDevice, supply: Supply) -> Iterator[Finding]:
    draw = f"{figure(supply.draw_w)} of {figure(device.budget_w)} W"
    if not at_most(supply.draw_w, device.budget_w):
        yield Finding(
            "power-over",
            Severity.FAULT,
            "wiring",
            f"{device.name}: {draw} at night",
            "Above its budget a switch turns sockets off, the last ones first, when infrared and heaters come on.",
            "Move cameras to another switch, or take one with a larger budget.",
            (device.id,),
        )
    elif not at_most(supply.draw_w, (1 - SPARE_SHARE) * device.budget_w):
        spare = 100 * (1 - supply.draw_w / device.budget_w)
        yield Finding(
            "power-near",
            Severity.DOUBT,
            "wiring",
            f"{device.name}: {draw} at night, {figure(spare, 2)} % spare",
            f"{100 * SPARE_SHARE:g} % spare is usual: after a power cut all cameras start at once.",
            "Move a camera or two to another switch.",
            (device.id,),
        )
    elif not at_most(supply.set_aside_w, device.budget_w):
        yield Finding(
            "set-aside-over",
            Severity.DOUBT,
            "wiring",
            f"{device.name} sets {figure(supply.set_aside_w)} W aside by class; {figure(device.budget_w)} W are there",
            f"The draw of {figure(supply.draw_w)} W would fit, but a switch that sets aside by class refuses the last cameras.",
            "Use a switch that counts the real draw, or one with a larger budget.",
            (device.id,),
        )


def unknown_kind(facts: Facts) -> Iterator[Finding]:
    """Devices of a kind that the table does not hold."""
    strange = [device for device in facts.job.network if device.kind and device.kind not in device_kinds()]
    if strange:
        yield Finding(
            "unknown-kind",
            Severity.NOTE,
            "wiring",
            f"{names_listed([device.name for device in strange])}: a size that is not known here",
            "Their sockets and budget count as they are written down.",
            "Choose a size from the list, or leave it empty and type sockets and budget.",
            tuple(device.id for device in strange),
        )


RULES = (dangling, sockets, loops, cut_off, power, link_loads, unknown_kind)
