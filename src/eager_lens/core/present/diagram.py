"""The wiring as a diagram: boxes, what stands in them, and lines between, drawn from the job and folded where it is large.

Cameras that hang on one device and stand in one place are one box until it is opened. Where there are many devices,
switches that carry nothing but cameras are folded too: into one box a place.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.limits import load_severity, power_severity
from eager_lens.core.assess.rules.links import upload_load_mbps
from eager_lens.core.job.model import Camera, Link, NetworkDevice, Recorder
from eager_lens.core.units import count, figure
from eager_lens.core.wiring.layered import Size, Spot, Stack, placed

BoxKind = Literal["internet", "router", "switch", "bridge", "other", "recorder", "cameras", "camera", "folded", "loose"]

MOST_OPEN = 40
"""With more devices than this, switches that carry nothing but cameras are folded by place."""

MOST_RECORDERS = 6
"""In such a job, more recorders than this on one switch are folded too."""

DEVICE_SIZE, SMALL_SIZE = Size(170, 46), Size(170, 28)

LOOSE = "loose"
"""The box of the cameras that are connected to nothing."""


@dataclass(frozen=True)
class Box:
    """A box of the diagram.

    Attributes:
        id: its own; that of the device where it stands for one.
        kind: what it stands for. ``title``, ``words``, ``figure_words``: its name, a line below, a figure at its right.
        bar_share: power or rate against its limit, drawn as a bar; None: no bar. ``bar_words`` say of what,
            ``bar_severity`` how near it is.
        severity: the worst finding of what it stands for.
        devices: ids of all that it stands for.
        opens: True: can be opened, False: can be folded, None: neither. ``fold``: the name under which it is toggled.
        spot: where it stands.
    """

    id: str
    kind: BoxKind
    title: str
    words: str
    figure_words: str
    bar_share: float | None
    bar_words: str
    bar_severity: Severity | None
    severity: Severity | None
    devices: tuple[str, ...]
    opens: bool | None
    fold: str
    spot: Spot


class Line(NamedTuple):
    """A line between two boxes: the links that it stands for, their load and the share of what they carry.

    ``in_tree`` tells the lines that hold the diagram together from those that close a second way.
    """

    id: str
    a: str
    b: str
    links: tuple[str, ...]
    load_mbps: float
    share: float
    capacity_mbps: float | None
    medium: str
    severity: Severity | None
    in_tree: bool


@dataclass(frozen=True)
class Diagram:
    """All boxes and lines. ``box_of`` tells by device id in which box it is drawn."""

    boxes: dict[str, Box]
    lines: tuple[Line, ...]
    box_of: dict[str, str]

    @property
    def width(self) -> float:
        """How wide it is."""
        return max((box.spot.x + box.spot.width for box in self.boxes.values()), default=0.0)

    @property
    def height(self) -> float:
        """How tall it is."""
        return max((box.spot.y + box.spot.height for box in self.boxes.values()), default=0.0)


class _Draft(NamedTuple):
    """A box before it has a place."""

    id: str
    kind: BoxKind
    devices: tuple[str, ...]
    opens: bool | None
    fold: str


def diagram(assessment: Assessment, toggled: frozenset[str] = frozenset(), most_open: int = MOST_OPEN) -> Diagram:
    """The diagram of a job. ``toggled`` are boxes that somebody opened or folded, against what their size asks for."""
    facts = assessment.facts
    return _Drawing(facts, _marks(assessment), toggled, most_open).made()


def _marks(assessment: Assessment) -> dict[str, Severity]:
    marks: dict[str, Severity] = {}
    for finding in assessment.findings:
        if finding.severity > Severity.NOTE and finding.stage == "wiring":
            for subject in finding.subjects:
                marks[subject] = max(marks.get(subject, Severity.NOTE), finding.severity)
    return marks


class _Bar(NamedTuple):
    """A share of a limit with its words, and how near it is; None: no bar."""

    share: float | None
    words: str
    severity: Severity | None


NO_BAR = _Bar(None, "", None)


def _bar(load: float, limit: float, words: str) -> _Bar:
    return _Bar(load / limit, words, load_severity(load, limit))


class _Drawing:
    """One diagram in the making."""

    def __init__(self, facts: Facts, marks: Mapping[str, Severity], toggled: frozenset[str], most_open: int) -> None:
        self.facts, self.marks, self.toggled = facts, marks, toggled
        self.devices: dict[str, NetworkDevice | Recorder] = {device.id: device for device in facts.suppliers}
        lost = {link.id for link in facts.topology.wiring.dangling}
        self.links = [link for link in facts.job.links if link.id not in lost]
        self.hanging = facts.topology.hanging
        self.is_large = len(self.devices) > most_open
        self.drafts: dict[str, _Draft] = {}
        self.parent: dict[str, str] = {}

    # ---- the tree --------------------------------------------------------------------------------------------

    def made(self) -> Diagram:
        roots: list[Stack] = []
        reached: set[str] = set()
        for root in self._roots():
            if root not in reached:
                roots.append(self._tree(root, reached))
        loose = self._loose()
        if loose is not None:
            roots.append(loose)
        sizes = {draft.id: self._size(draft) for draft in self.drafts.values()}
        spots = placed(roots, sizes)
        boxes = {draft.id: self._box(draft, spots[draft.id]) for draft in self.drafts.values()}
        box_of = {device: box.id for box in boxes.values() if box.kind != "internet" for device in box.devices}
        return Diagram(boxes, tuple(self._lines(box_of)), box_of)

    def _roots(self) -> list[str]:
        """Where to begin: routers with a line out, other routers, then what has most links; recorders last."""

        facts_between = self.facts.between

        def order(device: NetworkDevice | Recorder) -> tuple[int, int]:
            rank = 3 if isinstance(device, Recorder) else 2
            if isinstance(device, NetworkDevice) and device.role == "router":
                rank = 0 if device.upload_mbps is not None else 1
            return rank, -len(facts_between[device.id])

        return [device.id for device in sorted(self.devices.values(), key=order)]

    def _tree(self, root: str, reached: set[str]) -> Stack:
        """What hangs on a device, by shortest ways, as stacks."""
        children: dict[str, list[str]] = {}
        reached.add(root)
        waiting = [root]
        for here in waiting:
            for link in self.facts.between[here]:
                other = link.far_end(here)[0]
                if other not in reached:
                    reached.add(other)
                    self.parent[other] = here
                    children.setdefault(here, []).append(other)
                    waiting.append(other)
        stack = self._stack(root, children)
        device = self.devices[root]
        if isinstance(device, NetworkDevice) and device.upload_mbps is not None:
            internet = self._draft(f"internet {root}", "internet", (root,))
            stack.boxes.insert(0, internet)
        return stack

    def _stack(self, device_id: str, children: Mapping[str, list[str]]) -> Stack:
        """A device and what hangs on it: recorders, cameras, then switches and bridges; a far switch below its bridge."""
        kind = self._kind(device_id)
        stack = Stack([self._draft(device_id, kind, (device_id,))])
        below = children.get(device_id, [])
        inner = below[0] if len(below) == 1 and kind == "bridge" and self._is_client(device_id) else None
        if inner is not None and not self.hanging.get(device_id) and self._kind(inner) != "recorder":
            lower = self._stack(inner, children)
            return Stack(stack.boxes + lower.boxes, lower.below)
        recorders = [one for one in below if one in self.facts.recorders]
        others = [one for one in below if one not in self.facts.recorders]
        if self.is_large and len(recorders) > MOST_RECORDERS and f"{device_id} > recorders" not in self.toggled:
            stack.below.append(Stack([self._draft(f"{device_id} > recorders", "folded", tuple(recorders), True)]))
        else:
            stack.below += [self._stack(one, children) for one in recorders]
        stack.below += self._camera_stacks(device_id)
        folded: dict[str, list[str]] = {}
        for other in others:
            if self._carries_only_cameras(other, children):
                folded.setdefault(self.devices[other].place, []).append(other)
            else:
                stack.below.append(self._stack(other, children))
        for place, switches in folded.items():
            stack.below += self._folded_stacks(device_id, place, switches, children)
        return stack

    def _is_client(self, device_id: str) -> bool:
        device = self.devices[device_id]
        return isinstance(device, NetworkDevice) and device.radio_end == "client"

    def _carries_only_cameras(self, device_id: str, children: Mapping[str, list[str]]) -> bool:
        return self.is_large and not children.get(device_id) and bool(self.hanging.get(device_id))

    def _folded_stacks(
        self, parent: str, place: str, switches: list[str], children: Mapping[str, list[str]]
    ) -> list[Stack]:
        box_id = f"{parent} > {place}"
        if box_id in self.toggled:
            return [self._stack(one, children) for one in switches]
        cameras = [camera for one in switches for group in self.hanging[one].values() for camera in group]
        return [Stack([self._draft(box_id, "folded", (*switches, *cameras), True)])]

    def _camera_stacks(self, device_id: str) -> list[Stack]:
        stacks = []
        for place, cameras in self.hanging.get(device_id, {}).items():
            box_id = f"{device_id} / {place}"
            if len(cameras) == 1:
                stacks.append(Stack([self._draft(cameras[0], "camera", (cameras[0],))]))
            elif box_id in self.toggled:
                # The first of them carries the sign that folds them again.
                for at, camera in enumerate(cameras):
                    stacks.append(Stack([self._draft(camera, "camera", (camera,), False if at == 0 else None, box_id)]))
                    self.parent[camera] = box_id
            else:
                stacks.append(Stack([self._draft(box_id, "cameras", tuple(cameras), True)]))
        return stacks

    def _loose(self) -> Stack | None:
        feeders = self.facts.topology.wiring.feeders
        loose = tuple(camera.id for camera in self.facts.job.cameras if camera.id not in feeders)
        return Stack([self._draft(LOOSE, "loose", loose)]) if loose else None

    def _draft(
        self, box_id: str, kind: BoxKind, devices: tuple[str, ...], opens: bool | None = None, fold: str = ""
    ) -> str:
        self.drafts[box_id] = _Draft(box_id, kind, devices, opens, fold or box_id)
        return box_id

    def _kind(self, device_id: str) -> BoxKind:
        device = self.devices[device_id]
        if isinstance(device, Recorder):
            return "recorder"
        kinds: dict[str, BoxKind] = {"router": "router", "switch": "switch", "bridge": "bridge"}
        return kinds.get(device.role, "other")

    @staticmethod
    def _size(draft: _Draft) -> Size:
        return SMALL_SIZE if draft.kind in ("camera", "internet") else DEVICE_SIZE

    # ---- what stands in a box --------------------------------------------------------------------------------

    def _box(self, draft: _Draft, spot: Spot) -> Box:
        title, words, figure_words, bar = self._said(draft)
        severity = max((self.marks[one] for one in draft.devices if one in self.marks), default=None)
        if draft.kind == "internet":
            severity = None
        return Box(
            draft.id,
            draft.kind,
            title,
            words,
            figure_words,
            bar.share,
            bar.words,
            bar.severity,
            severity,
            draft.devices,
            draft.opens,
            draft.fold,
            spot,
        )

    def _said(self, draft: _Draft) -> tuple[str, str, str, _Bar]:
        facts = self.facts
        if draft.kind == "internet":
            router = self.devices[draft.devices[0]]
            assert isinstance(router, NetworkDevice) and router.upload_mbps is not None
            used = upload_load_mbps(facts, router) or 0.0
            out = f"{figure(used)} of {figure(router.upload_mbps)} Mb/s"
            return "Internet", "", out, _bar(used, router.upload_mbps, "of the internet upload")
        if draft.kind in ("cameras", "loose"):
            cameras = [facts.find_camera(one) for one in draft.devices]
            title = "Not connected" if draft.kind == "loose" else cameras[0].place or "No place"
            return title, count(len(cameras), "camera"), self._load_words(cameras), NO_BAR
        if draft.kind == "camera":
            camera = facts.find_camera(draft.devices[0])
            return camera.name, "", f"{figure(facts.camera_figures[camera.id].load_mbps, 2)} Mb/s", NO_BAR
        if draft.kind == "folded" and draft.devices[0] in facts.recorders:
            incoming = sum(facts.recorder_figures[one].incoming_mbps for one in draft.devices)
            return "Recorders", count(len(draft.devices), "recorder"), f"{figure(incoming)} Mb/s", NO_BAR
        if draft.kind == "folded":
            switches = [one for one in draft.devices if one in self.devices]
            cameras_here = len(draft.devices) - len(switches)
            place = self.devices[switches[0]].place or "No place"
            words = count(len(switches), "switch", "switches")
            return place, words, count(cameras_here, "camera"), NO_BAR
        device = self.devices[draft.id]
        if isinstance(device, Recorder):
            got = facts.recorder_figures[device.id]
            words = f"{got.cameras}/{count(device.channels, 'channel')}"
            bar = _bar(got.incoming_mbps, device.incoming_limit_mbps, "of its incoming limit")
            return device.name, words, f"{figure(got.incoming_mbps)} Mb/s", bar
        supply = facts.topology.supplies.get(device.id)
        if supply is not None and device.budget_w:
            words = f"{device.poe_ports} PoE, {device.ports - device.poe_ports} uplink"
            severity = power_severity(supply.draw_w, device.budget_w)
            bar = _Bar(supply.draw_w / device.budget_w, "of its PoE budget at night", severity)
            return device.name, words, f"{figure(supply.draw_w)} W", bar
        air_share = facts.topology.air_share.get(device.id)
        if air_share is not None:
            return (
                device.name,
                device.radio_end,
                f"{figure(100 * air_share, 2)} %",
                _bar(air_share, 1.0, "of its airtime"),
            )
        return device.name, self._device_words(device), "", NO_BAR

    def _device_words(self, device: NetworkDevice) -> str:
        if device.radio_end:
            return device.radio_end
        pool = next((one for one in self.facts.job.subnets if device.address and one.gateway == device.address), None)
        if pool is not None and pool.pool_first:
            return f"leases .{pool.pool_first.rpartition('.')[2]} to .{pool.pool_last.rpartition('.')[2]}"
        if device.viewed_streams and device.upload_mbps is None:
            return f"views {count(device.viewed_streams, 'stream')}"
        return count(device.ports, "port")

    def _load_words(self, cameras: list[Camera]) -> str:
        load_mbps = sum(self.facts.camera_figures[camera.id].load_mbps for camera in cameras)
        return f"{figure(load_mbps)} Mb/s"

    # ---- lines -----------------------------------------------------------------------------------------------

    def _lines(self, box_of: Mapping[str, str]) -> Iterable[Line]:
        bundles: dict[tuple[str, str], list[Link]] = {}
        for link in self.links:
            one, other = box_of.get(link.a), box_of.get(link.b)
            if one is not None and other is not None and one != other:
                key = (one, other) if (other, one) not in bundles else (other, one)
                bundles.setdefault(key, []).append(link)
        for (one, other), links in bundles.items():
            yield self._line(one, other, links)
        for draft in self.drafts.values():
            if draft.kind == "internet":
                yield self._internet_line(draft)

    def _line(self, one: str, other: str, links: list[Link]) -> Line:
        topology = self.facts.topology
        loads = [(topology.loads.worst_mbps(link.id), link) for link in links if link.id in topology.loads]
        shares = [load / topology.wiring.capacity_mbps[link.id] for load, link in loads]
        carried = [topology.wiring.capacity_mbps.get(link.id) for link in links]
        if any(link in topology.wiring.misplaced for link in links) or any(
            link.id in topology.wiring.loops for link in links
        ):
            severity: Severity | None = Severity.FAULT
        else:
            severity = load_severity(max(shares, default=0.0), 1.0)
        return Line(
            " ".join(link.id for link in links[:1]),
            one,
            other,
            tuple(link.id for link in links),
            sum(load for load, _ in loads),
            max(shares, default=0.0),
            carried[0] if len(links) == 1 else None,
            links[0].medium,
            severity,
            len(links) > 1 or self._is_tree(links[0]),
        )

    def _is_tree(self, link: Link) -> bool:
        if link.a in self.devices and link.b in self.devices:
            return self.parent.get(link.a) == link.b or self.parent.get(link.b) == link.a
        return True

    def _internet_line(self, draft: _Draft) -> Line:
        router = self.devices[draft.devices[0]]
        assert isinstance(router, NetworkDevice) and router.upload_mbps is not None
        load = upload_load_mbps(self.facts, router) or 0.0
        share = load / router.upload_mbps
        severity = load_severity(load, router.upload_mbps)
        return Line(draft.id, draft.id, router.id, (), load, share, router.upload_mbps, "copper", severity, True)
