"""A network of devices and links: the way that streams take, the load that they put on each link, what fails with what.

Devices and links are known by text ids. The functions here take plain values and know no job; a link joins two devices
and carries traffic both ways, each way by itself (full duplex).
"""

from collections import deque
from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple


class Wire(NamedTuple):
    """A link between two devices. ``capacity_mbps`` is what it carries each way."""

    id: str
    a: str
    b: str
    capacity_mbps: float


class Stream(NamedTuple):
    """Traffic from one device to another, in Mb/s."""

    source: str
    target: str
    rate_mbps: float


class Network:
    """Devices and the links between them. Links whose ends are not both known are left out."""

    def __init__(self, devices: Iterable[str], wires: Iterable[Wire]) -> None:
        self.wires: dict[str, Wire] = {}
        self._around: dict[str, list[tuple[str, str]]] = {device: [] for device in devices}
        for wire in wires:
            if wire.a in self._around and wire.b in self._around and wire.a != wire.b:
                self.wires[wire.id] = wire
                self._around[wire.a].append((wire.id, wire.b))
                self._around[wire.b].append((wire.id, wire.a))

    @property
    def devices(self) -> Iterable[str]:
        """All devices."""
        return self._around.keys()

    def toward(self, target: str) -> dict[str, tuple[str, str]]:
        """The shortest way to a device, from everywhere: by device, the link to take and the next device.

        Devices from which there is no way are not in the result. Of several ways of one length, that over the links
        that were listed first is taken, so that one network always gives one answer.
        """
        if target not in self._around:
            return {}
        way: dict[str, tuple[str, str]] = {}
        waiting = deque([target])
        while waiting:
            here = waiting.popleft()
            for wire_id, other in self._around[here]:
                if other != target and other not in way:
                    way[other] = (wire_id, here)
                    waiting.append(other)
        return way

    def loop_links(self) -> list[str]:
        """Links beyond a tree: each closes a loop with links listed before it."""
        root: dict[str, str] = {device: device for device in self._around}

        def top(device: str) -> str:
            while root[device] != device:
                root[device] = root[root[device]]
                device = root[device]
            return device

        closing = []
        for wire in self.wires.values():
            a, b = top(wire.a), top(wire.b)
            if a == b:
                closing.append(wire.id)
            root[a] = b
        return closing


class Load(NamedTuple):
    """Traffic on a link in Mb/s: from its end a to its end b, and back."""

    forth_mbps: float
    back_mbps: float

    @property
    def worst_mbps(self) -> float:
        """The busier of the two ways."""
        return max(self.forth_mbps, self.back_mbps)


class Loads(NamedTuple):
    """The load on each link, and the streams for which there is no way."""

    by_wire: dict[str, Load]
    unreached: tuple[Stream, ...]


def link_loads(network: Network, streams: Sequence[Stream]) -> Loads:
    """What streams put on each link along the shortest way.

    Streams to one target are added up from the far ends inward, so that the time grows with devices and links and not
    with streams times the length of their ways.
    """
    forth = dict.fromkeys(network.wires, 0.0)
    back = dict.fromkeys(network.wires, 0.0)
    unreached: list[Stream] = []
    by_target: dict[str, list[Stream]] = {}
    for stream in streams:
        by_target.setdefault(stream.target, []).append(stream)
    for target, wanted in by_target.items():
        way = network.toward(target)
        through: dict[str, float] = {}
        for stream in wanted:
            if stream.source in way:
                through[stream.source] = through.get(stream.source, 0.0) + stream.rate_mbps
            elif stream.source != target:
                unreached.append(stream)
        # ``way`` lists devices in the order of their distance: from the last inward, all traffic of a device is known
        # by the time it is passed on.
        for device in reversed(way):
            rate = through.get(device, 0.0)
            if rate:
                wire_id, following = way[device]
                (forth if network.wires[wire_id].a == device else back)[wire_id] += rate
                if following != target:
                    through[following] = through.get(following, 0.0) + rate
    return Loads({wire_id: Load(forth[wire_id], back[wire_id]) for wire_id in network.wires}, tuple(unreached))


def needed_by(network: Network, target: str) -> dict[str, frozenset[str]]:
    """By device or link: the devices that lose their way to ``target`` when it fails, the failed device itself among them.

    Only failures that cut somebody off are listed. What every way from a device to the target passes are its
    dominators, seen from the target; they form a tree (Cooper, Harvey and Kennedy, "A simple, fast dominance
    algorithm", 2001), and a failure cuts off all that hangs below it. A link is treated as a device of its own between
    its two ends.
    """
    order, preds = _numbered(network, target)
    above = _dominators(order, preds)
    below: dict[str, list[str]] = {}
    for node in order[1:]:
        below.setdefault(order[above[node]], []).append(node)
    cut: dict[str, frozenset[str]] = {}
    known = set(network.devices)
    for node in reversed(order[1:]):
        lost = frozenset({node} & known).union(*(cut[child] for child in below.get(node, ())))
        cut[node] = lost
    return {node: lost for node, lost in cut.items() if lost}


def _numbered(network: Network, target: str) -> tuple[list[str], Mapping[str, list[str]]]:
    """Devices and links in reverse postorder from the target, and for each those that lead to it."""
    around: dict[str, list[str]] = {}
    for wire in network.wires.values():
        for end in (wire.a, wire.b):
            around.setdefault(end, []).append(wire.id)
        around[wire.id] = [wire.a, wire.b]
    postorder: list[str] = []
    seen = {target}
    stack = [(target, iter(around.get(target, ())))]
    while stack:
        node, rest = stack[-1]
        for following in rest:
            if following not in seen:
                seen.add(following)
                stack.append((following, iter(around.get(following, ()))))
                break
        else:
            postorder.append(node)
            stack.pop()
    return postorder[::-1], around


def _dominators(order: list[str], preds: Mapping[str, list[str]]) -> dict[str, int]:
    """The nearest dominator of each node, as its place in ``order``."""
    place = {node: at for at, node in enumerate(order)}
    above: list[int | None] = [None] * len(order)
    above[0] = 0
    changed = True
    while changed:
        changed = False
        for at in range(1, len(order)):
            new: int | None = None
            for before in preds.get(order[at], ()):
                other = place.get(before)
                if other is not None and above[other] is not None:
                    new = other if new is None else _meet(above, other, new)
            if new != above[at]:
                above[at], changed = new, True
    return {node: above[at] or 0 for at, node in enumerate(order)}


def _meet(above: list[int | None], one: int, other: int) -> int:
    while one != other:
        while one > other:
            one = above[one] or 0
        while other > one:
            other = above[other] or 0
    return one
