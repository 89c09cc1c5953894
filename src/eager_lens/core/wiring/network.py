"""A network of devices and links: the way that streams take, the load that they put on each link, what fails with what.

Devices and links are known by text ids. The functions here take plain values and know no job; a link joins two devices
and carries traffic both ways, each way by itself (full duplex).
"""

from __future__ import annotations

from collections import deque
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence, Set
from functools import cached_property
from typing import NamedTuple

from eager_lens.core.wiring.together import Together


class Wire(NamedTuple):
    """A link between two devices. ``capacity_mbps`` is what it carries each way."""

    id: str
    a: str
    b: str
    capacity_mbps: float


class Flow(NamedTuple):
    """Traffic from one device to another, in Mb/s."""

    source: str
    target: str
    rate_mbps: float


class Network:
    """Devices and the links between them. Links whose ends are not both known are left out.

    ``no_transit`` are devices that send and receive, but pass nothing on from one of their links to another.
    """

    def __init__(self, devices: Iterable[str], wires: Iterable[Wire], no_transit: Set[str] = frozenset()) -> None:
        self.no_transit = no_transit
        self.wires: dict[str, Wire] = {}
        self._around: dict[str, list[tuple[str, str]]] = {device: [] for device in devices}
        for wire in wires:
            if wire.a in self._around and wire.b in self._around and wire.a != wire.b:
                self.wires[wire.id] = wire
                self._around[wire.a].append((wire.id, wire.b))
                self._around[wire.b].append((wire.id, wire.a))
        self._routes: dict[str, dict[str, tuple[str, str]]] = {}
        self._cut_off: dict[str, dict[str, frozenset[str]]] = {}
        self.leaves: dict[str, tuple[str, str]] = {
            device: around[0] for device, around in self._around.items() if len(around) == 1
        }
        """By device with one link only: that link and its other end. Nearly all cameras are such."""
        self._inner = {
            device: [step for step in around if step[1] not in self.leaves] for device, around in self._around.items()
        }

    @property
    def devices(self) -> Iterable[str]:
        """All devices."""
        return self._around.keys()

    def trunk_with(self, target: str) -> Network:
        """The network without its leaves, but with the target even if it is one."""
        wires = list(self._trunk_wires)
        if target in self.leaves:
            wires.append(self.wires[self.leaves[target][0]])
        ends = dict.fromkeys(end for wire in wires for end in (wire.a, wire.b))
        return Network({target: None, **ends}, wires, self.no_transit)

    def cut_off_from(self, target: str) -> dict[str, frozenset[str]]:
        """``needed_by`` in the network without its leaves, found once and kept."""
        if target not in self._cut_off:
            self._cut_off[target] = needed_by(self.trunk_with(target), target)
        return self._cut_off[target]

    @cached_property
    def _trunk_wires(self) -> list[Wire]:
        return [wire for wire in self.wires.values() if wire.a not in self.leaves and wire.b not in self.leaves]

    def toward(self, target: str) -> dict[str, tuple[str, str]]:
        """The shortest way to a device, from all devices that are no leaves: the link to take and the next device.

        The devices are in the order of their distance. Those from which there is no way are not in the result. Of
        several ways of one length, that over the links that were listed first is taken, so that one network always
        gives one answer. It is found once, and kept.
        """
        if target in self._routes:
            return self._routes[target]
        route: dict[str, tuple[str, str]] = {}
        waiting = deque([target])
        while waiting:
            here = waiting.popleft()
            if here in self.no_transit and here != target:
                continue
            for wire_id, other in self._inner.get(here, ()):
                if other != target and other not in route:
                    route[other] = (wire_id, here)
                    waiting.append(other)
        self._routes[target] = route
        return route

    def reaches(self, source: str, target: str) -> bool:
        """Whether there is a way from one device to another."""
        _, entry = self.leaves.get(source, ("", source))
        _, goal = self.leaves.get(target, ("", target))
        if self.no_transit and _is_stopped(self, source, target, entry, goal):
            return False
        return source == target or entry in (goal, target) or entry in self.toward(goal)

    def reached_from(self, source: str, closed: Set[str] = frozenset()) -> set[str]:
        """All devices that traffic of a device reaches, itself among them; ``closed`` pass nothing on besides."""
        reached = {source}
        waiting = [source]
        while waiting:
            here = waiting.pop()
            if here != source and (here in self.no_transit or here in closed):
                continue
            for _, other in self._around.get(here, ()):
                if other not in reached:
                    reached.add(other)
                    waiting.append(other)
        return reached

    def without(self, gone: Set[str]) -> Network:
        """The network without some devices and links."""
        return Network(
            (device for device in self._around if device not in gone),
            (wire for wire in self.wires.values() if wire.id not in gone),
            self.no_transit,
        )

    def loop_links(self) -> list[str]:
        """Links beyond a tree: each closes a loop with links listed before it. What passes nothing on closes none."""
        together = Together()
        passing = (wire for wire in self.wires.values() if not self.no_transit & {wire.a, wire.b})
        return [wire.id for wire in passing if not together.join(wire.a, wire.b)]


class Load(NamedTuple):
    """Traffic on a link in Mb/s: from its end a to its end b, and back."""

    forth_mbps: float
    back_mbps: float

    @property
    def worst_mbps(self) -> float:
        """The busier of the two ways."""
        return max(self.forth_mbps, self.back_mbps)


class Loads(Mapping[str, Load]):
    """The load on each link by its id, and the streams for which there is no way.

    Kept as plain numbers: thousands of objects at each edit of a large job would keep the garbage collector busy.
    """

    def __init__(self, forth_mbps: dict[str, float], back_mbps: dict[str, float], unreached: Sequence[Flow]) -> None:
        self._forth_mbps, self._back_mbps = forth_mbps, back_mbps
        self.unreached = tuple(unreached)

    def __getitem__(self, wire_id: str) -> Load:
        return Load(self._forth_mbps[wire_id], self._back_mbps[wire_id])

    def worst_mbps(self, wire_id: str) -> float:
        """The busier way of a link."""
        return max(self._forth_mbps[wire_id], self._back_mbps[wire_id])

    def above(self, share: float, capacity_mbps: Mapping[str, float]) -> set[str]:
        """The links with more on their busier way than this share of what they carry."""
        return {
            wire_id
            for load in (self._forth_mbps, self._back_mbps)
            for wire_id, mbps in load.items()
            if mbps > share * capacity_mbps[wire_id]
        }

    def __contains__(self, wire_id: object) -> bool:
        return wire_id in self._forth_mbps

    def __iter__(self) -> Iterator[str]:
        return iter(self._forth_mbps)

    def __len__(self) -> int:
        return len(self._forth_mbps)


def link_loads(network: Network, streams: Iterable[tuple[str, str, float]]) -> Loads:
    """What streams (source, target, Mb/s) put on each link along the shortest way.

    Streams to one target, or to targets that are leaves of one device, are added up from the far ends inward, so that
    the time grows with devices and links and not with streams times the length of their ways.
    """
    forth = dict.fromkeys(network.wires, 0.0)
    back = dict.fromkeys(network.wires, 0.0)

    def put(wire_id: str, start: str, rate: float) -> None:
        (forth if network.wires[wire_id].a == start else back)[wire_id] += rate

    unreached: list[Flow] = []
    toward_goal: dict[str, dict[str, float]] = {}
    at_target: dict[str, float] = {}
    leaf, wires, closed = network.leaves.get, network.wires, bool(network.no_transit)
    present, goal, route, through = None, "", network.toward(""), {}
    for source, target, rate in streams:
        if target != present:  # streams mostly come target by target
            present = target
            _, goal = leaf(target, ("", target))
            route, through = network.toward(goal), toward_goal.setdefault(goal, {})
        first, entry = leaf(source, ("", source))
        if source == target or entry == target:
            if first and source != target:
                put(first, source, rate)
            continue
        if (entry != goal and entry not in route) or (closed and _is_stopped(network, source, target, entry, goal)):
            unreached.append(Flow(source, target, rate))
            continue
        if first:
            (forth if wires[first].a == source else back)[first] += rate
        at_target[target] = at_target.get(target, 0.0) + rate
        through[entry] = through.get(entry, 0.0) + rate
    for target, rate in at_target.items():
        if target in network.leaves:
            put(*network.leaves[target], rate)
    for goal, through in toward_goal.items():
        route = network.toward(goal)
        # From the last inward, all traffic of a device is known by the time it is passed on.
        for device in reversed(route):
            if device in through:
                wire_id, following = route[device]
                put(wire_id, device, through[device])
                through[following] = through.get(following, 0.0) + through[device]
    return Loads(forth, back, unreached)


def passed_on_route(network: Network, target: str, marked: frozenset[str]) -> dict[str, frozenset[str]]:
    """By device that is no leaf: which of the marked links and devices its shortest way to ``target`` passes.

    The device itself counts when it is marked; what the target hangs on as a leaf counts too. Devices from which there
    is no way are left out.
    """
    link, goal = network.leaves.get(target, ("", target))
    if goal in network.no_transit and goal != target:
        return {}
    passed = {goal: marked.intersection((link, goal))}
    for device, (wire_id, following) in network.toward(goal).items():
        passed[device] = passed[following] | marked.intersection((wire_id, device))
    return passed


def _is_stopped(network: Network, source: str, target: str, entry: str, goal: str) -> bool:
    """Whether what a source or a target hangs on passes nothing on."""
    return (entry in network.no_transit and entry not in (source, target)) or (
        goal in network.no_transit and goal not in (source, target)
    )


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


def stopped_by(network: Network, target: str, sources: Collection[str]) -> dict[str, set[str]]:
    """By device or link: the sources that lose their way to ``target`` when it fails, but for the failed one itself.

    Leaves are kept out of the search for dominators: they hang on what their other end hangs on. Targets that are
    leaves of one device share its search.
    """
    closed = network.no_transit
    hanging = {
        source: network.leaves[source]
        for source in sources
        if source in network.leaves
        and source != target
        and (network.leaves[source][1] not in closed or network.leaves[source][1] == target)
    }
    others = {source for source in sources if source not in network.leaves and source != target}
    groups: dict[str, set[str]] = {}
    for source, (_, entry) in hanging.items():
        groups.setdefault(entry, set()).add(source)
    link, root = network.leaves.get(target, ("", target))
    if root in closed and root != target:
        return {}
    cut = network.cut_off_from(root)
    reached = {target, root}.union(*cut.values())
    stops = {part: (_grouped(groups, lost) | (lost & others)) - {part} for part, lost in cut.items()}
    stopped = _grouped(groups, reached) | (reached & others)
    stops.update({wire_id: {source} for source, (wire_id, entry) in hanging.items() if entry in reached})
    stops[target] = stopped
    if link:
        stops[link], stops[root] = stopped, stopped - {root}
    return {part: lost for part, lost in stops.items() if lost}


def _grouped(groups: Mapping[str, set[str]], devices: Set[str]) -> set[str]:
    """All leaves of some devices."""
    return set().union(*(leaves for device, leaves in groups.items() if device in devices))


def _numbered(network: Network, target: str) -> tuple[list[str], Mapping[str, list[str]]]:
    """Devices and links in reverse postorder from the target, and for each those that lead to it."""
    around: dict[str, list[str]] = {}
    before: dict[str, list[str]] = {}
    for wire in network.wires.values():
        # A link is a node of its own in this graph, so that a link can be a single point of failure just as a device
        # can.
        open_ends = [end for end in (wire.a, wire.b) if end == target or end not in network.no_transit]
        for end in (wire.a, wire.b):
            before.setdefault(end, []).append(wire.id)
        for end in open_ends:
            around.setdefault(end, []).append(wire.id)
        around[wire.id], before[wire.id] = [wire.a, wire.b], open_ends
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
    return postorder[::-1], before


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
                    # The algorithm of Cooper, Harvey and Kennedy, "A Simple, Fast Dominance Algorithm"
                    # (2001): walk in reverse postorder until nothing changes.
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
