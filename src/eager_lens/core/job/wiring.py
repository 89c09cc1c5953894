"""Edits of the wiring: what hangs on what, and on which port."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Literal

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, add_network_device, with_parts
from eager_lens.core.job.model import (
    Camera,
    Device,
    Job,
    Link,
    NetworkDevice,
    PowerUnit,
    RadioPlan,
    changed,
    fresh_ids,
)
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.reference.device_types import DeviceType, device_types
from eager_lens.core.units import count


def types_of(job: Job) -> dict[str, DeviceType]:
    """All device kinds that a job knows by id: those of the reference table, with its own over them."""
    return {**device_types(), **{kind.id: kind for kind in job.device_types}}


PortsInUse = dict[str, dict[int, list[str]]]
"""By device and port number: the links plugged in there; radio links need none. 0 stands for one not named."""


def ports_in_use(links: Iterable[Link]) -> PortsInUse:
    """The ports that links are plugged into."""
    used: PortsInUse = {}
    for link in links:
        use_ports(used, link)
    return used


def use_ports(used: PortsInUse, link: Link) -> None:
    """Note the ports that a link is plugged into."""
    if link.medium != "radio":
        for device, port in ((link.a, link.a_port), (link.b, link.b_port)):
            used.setdefault(device, {}).setdefault(port, []).append(link.id)


def leave_ports(used: PortsInUse, link: Link) -> None:
    """Note that a link is plugged in no more."""
    if link.medium != "radio":
        for device, port in ((link.a, link.a_port), (link.b, link.b_port)):
            used[device][port].remove(link.id)
            if not used[device][port]:
                del used[device][port]


def free_ports(device: Device, used: PortsInUse) -> list[int]:
    """The numbers of a device's free ports, lowest first; links without a number take the highest ones.

    A port for the internet is none of them.
    """
    ports = getattr(device, "ports", 1)
    taken = used.get(device.id, {})
    wan_port = getattr(device, "wan_port", 0)
    free = [number for number in range(1, ports + 1) if number not in taken and number != wan_port]
    unnamed = len(taken.get(0, ()))
    return free[: max(0, len(free) - unnamed)]


def assign_port(device: Device, free: list[int], wants_power: bool) -> int:
    """Take the port that fits best out of the free ones: the first with power, or the first without; 0: none left.

    Ports with power are kept for what wants it, so that an uplink does not cost a camera its place.
    """
    powered = getattr(device, "poe_ports", 0)
    fitting = [number for number in free if (number <= powered) == wants_power]
    if not free:
        return 0
    number = (fitting or free)[0]
    free.remove(number)
    return number


def on_uplinks(job: Job, link: Link) -> Link:
    """A fibre moved off copper: an end on a PoE port, which is a copper socket, goes to a free port without power where there
    is one."""
    devices = {device.id: device for device in (*job.network, *job.recorders) if device.id in (link.a, link.b)}
    used = ports_in_use(one for one in job.links if one.id != link.id)
    for end, port_field in ((link.a, "a_port"), (link.b, "b_port")):
        device = devices.get(end)
        if device is not None and 0 < getattr(link, port_field) <= device.poe_ports:
            uplinks = [number for number in free_ports(device, used) if number > device.poe_ports]
            if uplinks:
                link = changed(link, **{port_field: uplinks[0]})
    return link


def make_fibre(link: Link, label: str) -> Edit:
    """Fibre instead of copper, on sockets that take it."""
    return Edit(
        label,
        lambda job: with_parts(
            job,
            links=tuple(
                on_uplinks(job, changed(one, medium="fibre", long_reach=False)) if one.id == link.id else one
                for one in job.links
            ),
        ),
    )


def put_on(job: Job, device_ids: Sequence[str], on_id: str) -> Edit:
    """Plug devices into another's next free ports.

    Cameras are taken out of wherever they were plugged in before. Any other device that already has a way to the new one
    is moved: the first link of that way is taken out, for a second way would close a loop. Else both networks are joined.

    Raises:
        RefusedInput: when the device is gone, is one of them, or has too few free ports.
    """
    devices = {device.id: device for device in job.devices()}
    on = devices.get(on_id)
    moving = [device_id for device_id in dict.fromkeys(device_ids) if device_id in devices and device_id != on_id]
    if on is None or not moving:
        raise RefusedInput("links", "select the devices to connect, and another device of the job to connect them to")
    cameras = {camera.id for camera in job.cameras}
    leaving = cameras.intersection(moving)
    kept = tuple(link for link in job.links if not leaving & {link.a, link.b})
    joined = {frozenset((link.a, link.b)) for link in kept}
    moving = [device_id for device_id in moving if frozenset((device_id, on_id)) not in joined]
    first = {_first_link(kept, device_id, on_id) for device_id in moving if device_id not in cameras}
    kept = tuple(link for link in kept if link.id not in first)
    by_radio = [device_id for device_id in moving if _by_radio(on, devices[device_id])]
    used = ports_in_use(kept)
    free = free_ports(on, used)
    if len(free) < len(moving) - len(by_radio):
        raise RefusedInput(
            "ports",
            f"{on.name} has {count(len(free), 'free port')} for {count(len(moving), 'device')}; "
            "select fewer, or a device with more ports",
        )
    new = []
    for link_id, device_id in zip(fresh_ids("link", (link.id for link in job.links), len(moving)), moving, strict=True):
        device = devices[device_id]
        if device_id in by_radio:
            new.append(Link(id=link_id, a=device_id, b=on_id, medium="radio", radio=RadioPlan()))
            continue
        own = assign_port(device, free_ports(device, used), wants_power=False)
        new.append(
            Link(id=link_id, a=device_id, a_port=own, b=on_id, b_port=assign_port(on, free, _wants_power(device)))
        )
    whom = devices[moving[0]].name if len(moving) == 1 else count(len(moving), "device")
    return Edit(f"Connect {whom} to {on.name}", lambda present: with_parts(present, links=(*kept, *new)))


def _first_link(links: Sequence[Link], start: str, goal: str) -> str | None:
    """The first link of the shortest way from one device to another; None where there is no way."""
    around: dict[str, list[Link]] = {}
    for link in links:
        around.setdefault(link.a, []).append(link)
        around.setdefault(link.b, []).append(link)
    first: dict[str, str | None] = {start: None}
    waiting = [start]
    for here in waiting:
        for link in around.get(here, ()):
            other, _ = link.far_end(here)
            if other not in first:
                first[other] = first[here] or link.id
                waiting.append(other)
    return first.get(goal)


def _by_radio(on: Device, device: Device) -> bool:
    """Two bridges are joined by radio, and a camera to an access point that has no port to spare for it."""
    if not isinstance(on, NetworkDevice) or on.role != "bridge":
        return False
    is_bridge = isinstance(device, NetworkDevice) and device.role == "bridge"
    return is_bridge or (isinstance(device, Camera) and on.radio_end == "access point" and on.poe_ports == 0)


def _wants_power(device: Device) -> bool:
    return getattr(device, "poe_class", None) is not None


def unplug(link_ids: Iterable[str], label: str | None = None) -> Edit:
    """Take links out."""
    gone = frozenset(link_ids)
    return Edit(
        label or f"Unplug {count(len(gone), 'link')}",
        lambda job: with_parts(job, links=tuple(link for link in job.links if link.id not in gone)),
    )


def unplug_cameras(camera_ids: Iterable[str]) -> Edit:
    """Take out every link that ends at one of some cameras."""
    gone = frozenset(camera_ids)
    return Edit(
        f"Unplug {count(len(gone), 'camera')}",
        lambda job: with_parts(job, links=tuple(link for link in job.links if not gone & {link.a, link.b})),
    )


def unplug_devices(job: Job, device_ids: Iterable[str]) -> Edit:
    """Take out the links of network devices and recorders to one another; the cameras on them stay."""
    gone = frozenset(device_ids)
    cameras = {camera.id for camera in job.cameras}
    links = [
        link.id for link in job.links if gone & {link.a, link.b} and link.a not in cameras and link.b not in cameras
    ]
    return unplug(links, f"Unplug {count(len(gone), 'device')}")


def set_link(link_ids: Iterable[str], label: str, **fields: Any) -> Edit:
    """Change links."""
    wanted = frozenset(link_ids)
    return Edit(
        label,
        lambda job: with_parts(
            job, links=tuple(changed(link, **fields) if link.id in wanted else link for link in job.links)
        ),
    )


# ---- power units -------------------------------------------------------------------------------------------------

UnitKind = Literal["injector", "supply", "ups"]

UNIT_WORDS: dict[UnitKind, str] = {"injector": "injector", "supply": "power supply", "ups": "UPS"}


def add_unit(kind: UnitKind, feeds: Sequence[str] = (), **fields: Any) -> Edit:
    """Add an injector, power supply or UPS that feeds some devices."""

    def apply(job: Job) -> Job:
        (new_id,) = fresh_ids("pow", (unit.id for unit in job.power_units), 1)
        alike = sum(unit.kind == kind for unit in job.power_units)
        usual = {"injector": {"budget_w": 30}, "supply": {"budget_w": 24}, "ups": {"budget_w": 500, "battery_wh": 430}}
        blank = PowerUnit(id=new_id, name=f"{sentence_case(UNIT_WORDS[kind])} {alike + 1}")
        return with_parts(
            job,
            power_units=(
                *job.power_units,
                changed(blank, **{"kind": kind, "feeds": tuple(feeds), **usual[kind], **fields}),
            ),
        )

    return Edit(f"Add {'an' if kind == 'injector' else 'a'} {UNIT_WORDS[kind]}", apply)


def set_unit(unit_ids: Iterable[str], label: str, **fields: Any) -> Edit:
    """Change power units."""
    wanted = frozenset(unit_ids)
    return Edit(
        label,
        lambda job: with_parts(
            job, power_units=tuple(changed(unit, **fields) if unit.id in wanted else unit for unit in job.power_units)
        ),
    )


def remove_units(unit_ids: Iterable[str]) -> Edit:
    """Take power units out."""
    gone = frozenset(unit_ids)
    return Edit(
        f"Remove {count(len(gone), 'power unit')}",
        lambda job: with_parts(job, power_units=tuple(unit for unit in job.power_units if unit.id not in gone)),
    )


# ---- device kinds ------------------------------------------------------------------------------------------------


def add_of_kind(kind: DeviceType) -> Edit:
    """Add a network device of a kind."""
    return add_network_device(**kind.fits())


def set_kind(job: Job, kind_id: str, words: str, fields: Mapping[str, Any]) -> Edit:
    """Change a device kind in this job; one of the reference table becomes the job's own then.

    Devices keep the figures that they were given; selecting the kind again brings the new ones.

    Raises:
        RefusedInput: when there is no such kind.
    """
    known = types_of(job)
    if kind_id not in known:
        raise RefusedInput("kind", f"{kind_id!r} is not a device type of this job")
    own = changed(known[kind_id], **fields)

    def apply(present: Job) -> Job:
        kept = tuple(kind for kind in present.device_types if kind.id != kind_id)
        return with_parts(present, device_types=(*kept, own))

    return Edit(words, apply)


def add_kind(like: DeviceType, label: str) -> Edit:
    """Add a kind of the job's own, to begin with like another."""

    def apply(job: Job) -> Job:
        (new_id,) = fresh_ids("kind", (kind.id for kind in job.device_types), 1)
        return with_parts(job, device_types=(*job.device_types, changed(like, id=new_id, label=label)))

    return Edit(f"Add the device type “{label}”", apply)


def remove_kinds(kind_ids: Iterable[str]) -> Edit:
    """Take kinds of the job's own out; a reference kind that it had changed is as before again."""
    gone = frozenset(kind_ids)
    return Edit(
        f"Remove {count(len(gone), 'device type')}",
        lambda job: with_parts(job, device_types=tuple(kind for kind in job.device_types if kind.id not in gone)),
    )
