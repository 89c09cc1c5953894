"""Links while they are being rewritten: what is plugged in where is at hand, so that a port costs what its device has, not what
the job has."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from eager_lens.core.job.model import Device, Link, fresh_ids_after
from eager_lens.core.job.wiring import PortsInUse, assign_port, free_ports, leave_ports, use_ports


class Plugged:
    """Links in their order. ``taken`` are ids that no new one may get."""

    def __init__(self, links: Iterable[Link] = (), taken: Iterable[str] = ()) -> None:
        self._links: dict[str, Link] = {}
        self._by_device: dict[str, dict[str, None]] = {}
        self._used: PortsInUse = {}
        for link in links:
            self.put(link)
        self._ids = fresh_ids_after("link", (*taken, *self._links))

    def all(self) -> tuple[Link, ...]:
        """All links."""
        return tuple(self._links.values())

    def of(self, device_id: str) -> list[Link]:
        """Those of a device."""
        return [self._links[link_id] for link_id in self._by_device.get(device_id, ())]

    def put(self, link: Link) -> None:
        """Add a link that has its id and ports."""
        self._links[link.id] = link
        use_ports(self._used, link)
        for end in (link.a, link.b):
            self._by_device.setdefault(end, {})[link.id] = None

    def take_out(self, link: Link) -> bool:
        """Take a link out; whether it was there."""
        there = self._links.pop(link.id, None)
        if there is None:
            return False
        leave_ports(self._used, there)
        for end in (link.a, link.b):
            self._by_device[end].pop(link.id, None)
        return True

    def free_ports(self, device: Device) -> list[int]:
        """The numbers of a device's free ports, lowest first."""
        return free_ports(device, self._used)

    def join(self, a: Device, b: Device, wants_power: bool = False, **fields: Any) -> None:
        """Join two devices, each on its next fitting port; one that has none left gets a link without (0 is no port)."""
        a_port = assign_port(a, self.free_ports(a), wants_power=False)
        b_port = assign_port(b, self.free_ports(b), wants_power)
        self.put(Link(id=next(self._ids), a=a.id, a_port=a_port, b=b.id, b_port=b_port, **fields))
