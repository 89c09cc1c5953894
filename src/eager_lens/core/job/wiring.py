"""Edits of the wiring: what hangs on what, and on which socket."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, with_parts
from eager_lens.core.job.model import Device, Job, Link, changed, fresh_ids
from eager_lens.core.units import count


def sockets_used(links: Iterable[Link]) -> dict[str, dict[int, list[str]]]:
    """By device and socket number: the links plugged in there; radio links need none. 0 stands for one not named."""
    used: dict[str, dict[int, list[str]]] = {}
    for link in (link for link in links if link.medium != "radio"):
        for device, port in ((link.a, link.a_port), (link.b, link.b_port)):
            used.setdefault(device, {}).setdefault(port, []).append(link.id)
    return used


def free_sockets(device: Device, used: dict[str, dict[int, list[str]]]) -> list[int]:
    """The numbers of a device's free sockets, lowest first; links without a number take the highest ones."""
    ports = getattr(device, "ports", 1)
    taken = used.get(device.id, {})
    free = [number for number in range(1, ports + 1) if number not in taken]
    unnamed = len(taken.get(0, ()))
    return free[: max(0, len(free) - unnamed)]


def put_on(job: Job, device_ids: Sequence[str], on_id: str) -> Edit:
    """Plug devices into another's next free sockets, out of wherever cameras among them were plugged in before.

    Raises:
        RefusedInput: when the device is gone, is one of them, or has too few free sockets.
    """
    devices = {device.id: device for device in job.devices()}
    on = devices.get(on_id)
    moving = [device_id for device_id in dict.fromkeys(device_ids) if device_id in devices and device_id != on_id]
    if on is None or not moving:
        raise RefusedInput(
            "links", "choose the devices to plug in, and another device that is in the job to plug them into"
        )
    cameras = {camera.id for camera in job.cameras}
    leaving = cameras.intersection(moving)
    kept = tuple(link for link in job.links if not leaving & {link.a, link.b})
    joined = {frozenset((link.a, link.b)) for link in kept}
    moving = [device_id for device_id in moving if frozenset((device_id, on_id)) not in joined]
    by_radio = [device_id for device_id in moving if _is_bridge(on) and _is_bridge(devices[device_id])]
    used = sockets_used(kept)
    free = free_sockets(on, used)
    if len(free) < len(moving) - len(by_radio):
        raise RefusedInput(
            "ports",
            f"{on.name} has {count(len(free), 'free socket')} for {count(len(moving), 'device')}; "
            "choose fewer, or a kind with more sockets",
        )
    new = []
    for link_id, device_id in zip(fresh_ids("link", (link.id for link in job.links), len(moving)), moving, strict=True):
        if device_id in by_radio:
            new.append(Link(id=link_id, a=device_id, b=on_id, medium="radio"))
            continue
        own = free_sockets(devices[device_id], used)
        new.append(Link(id=link_id, a=device_id, a_port=own[0] if own else 0, b=on_id, b_port=free.pop(0)))
    whom = devices[moving[0]].name if len(moving) == 1 else count(len(moving), "device")
    return Edit(f"Put {whom} on {on.name}", lambda present: with_parts(present, links=(*kept, *new)))


def _is_bridge(device: Device) -> bool:
    return getattr(device, "role", "") == "bridge"


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


def set_link(link_ids: Iterable[str], label: str, **fields: Any) -> Edit:
    """Change links."""
    wanted = frozenset(link_ids)
    return Edit(
        label,
        lambda job: with_parts(
            job, links=tuple(changed(link, **fields) if link.id in wanted else link for link in job.links)
        ),
    )
