"""The four ways of attaching cameras, as edits that rewrite the wiring of a job.

``main network``: cameras and recorders hang on switches, the router too. ``own network``: the same switches, but the
router hangs on the recorder's second port, so that the cameras' traffic stays apart. ``own ports``: cameras whose
cable ends in the recorder's own place are plugged into its PoE ports; switches farther off hang on it.
``passed through``: the same, with the recorder's ports working as a plain switch.

A camera's run never changes its length: only such cameras are moved whose cable ends where the new port is, or which
hang on nothing.
"""

from __future__ import annotations

from collections.abc import Iterable, Set
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, with_parts
from eager_lens.core.job.model import (
    Attachment,
    Camera,
    Device,
    Job,
    Link,
    NetworkDevice,
    Recorder,
    changed,
    fresh_ids_after,
)
from eager_lens.core.job.wiring import assign_port
from eager_lens.core.pauses import pause, with_pauses
from eager_lens.core.plain_text import inside
from eager_lens.core.planning.plugged import Plugged
from eager_lens.core.planning.switch_sizes import switch_for
from eager_lens.core.reference.device_types import device_types
from eager_lens.core.wiring.together import Together

ATTACHMENTS: tuple[Attachment, ...] = ("LAN", "camera interface", "recorder PoE ports", "bridged PoE ports")

ATTACHMENT_WORDS: dict[Attachment, str] = {
    "LAN": "Switches of the main network",
    "camera interface": "Camera interface",
    "recorder PoE ports": "The recorder's PoE ports",
    "bridged PoE ports": "The recorder's PoE ports, bridged",
}

UPLINKS = 1
"""Ports that a switch keeps for the way on."""

MOST_ON_A_SWITCH = 48

RECORDER_POWERED_PORTS = {4: 60.0, 8: 120.0, 16: 250.0}
"""PoE ports that recorders usually come with, and the watts that those then give."""


def attach(job: Job, attachment: Attachment) -> Edit:
    """Attach all cameras in one of the four ways, as one step.

    Raises:
        RefusedInput: when the job has no camera or no recorder.
    """
    rewired = attached(job, attachment)
    lists = {name: getattr(rewired, name) for name in ("network", "recorders", "links")}
    return Edit(f"Attach cameras: {inside(ATTACHMENT_WORDS[attachment])}", lambda present: with_parts(present, **lists))


def attached(job: Job, attachment: Attachment) -> Job:
    """The job with its wiring rewritten.

    Raises:
        RefusedInput: when the job has no camera or no recorder.
    """
    if not job.recorders or not job.cameras:
        raise RefusedInput("cameras", "add a camera and a recorder first; then their wiring can be planned")
    plan = _Rewiring(job)
    if attachment in ("LAN", "camera interface"):
        plan.onto_switches(off=plan.recorders.keys() | plan.router_ids())
    else:
        plan.onto_the_recorders()
        plan.onto_switches(off=plan.router_ids())
    if attachment == "LAN":
        plan.routers_on_switches()
    else:
        plan.routers_on_recorders()
    for recorder in plan.recorders.values():
        plan.recorders[recorder.id] = changed(recorder, attachment=attachment)
    return with_parts(
        job,
        network=tuple(plan.network.values()),
        recorders=tuple(plan.recorders.values()),
        links=plan.links.all(),
    )


class _Switches(NamedTuple):
    """The switches of a job by id, with their place in its list; and the first of each place."""

    order: dict[str, int]
    in_place: dict[str, str]


class _Rewiring:
    """The parts of a job while its wiring is rewritten, and the steps of doing so."""

    def __init__(self, job: Job) -> None:
        known = {device.id for device in job.devices()}
        self.network: dict[str, NetworkDevice] = {device.id: device for device in job.network}
        self.recorders: dict[str, Recorder] = {recorder.id: recorder for recorder in job.recorders}
        self.cameras: dict[str, Camera] = {camera.id: camera for camera in job.cameras}
        self.links = Plugged((link for link in job.links if {link.a, link.b} <= known), (link.id for link in job.links))
        self._switch_ids = fresh_ids_after("net", job.device_ids())
        self._names = {device.name for device in job.devices()}
        self.own: dict[str, list[Camera]] = {recorder_id: [] for recorder_id in self.recorders}
        """The cameras of each recorder."""
        for camera in job.cameras:
            self.own[self._own_recorder(camera).id].append(camera)
        self.linked_to_router = {
            device_id
            for router in self._routers()
            for device_id in self._group(router.id, passing_recorders=True)
            if device_id in self.recorders
        }

    # ---- looking ---------------------------------------------------------------------------------------------

    def router_ids(self) -> set[str]:
        """The routers, by id."""
        return {router.id for router in self._routers()}

    def _routers(self) -> list[NetworkDevice]:
        return [device for device in self.network.values() if device.role == "router"]

    def _group(self, start: str, passing_recorders: bool = False) -> set[str]:
        """All that hangs together with a device; recorders are its rim unless they pass on."""
        found, waiting = {start}, [start]
        while waiting:
            here = waiting.pop()
            if here != start and here in self.recorders and not passing_recorders:
                continue
            for link in self.links.of(here):
                other, _ = link.far_end(here)
                if other not in found:
                    found.add(other)
                    waiting.append(other)
        return found

    def _feeders(self) -> dict[str, Link]:
        links = ((camera_id, self.links.of(camera_id)) for camera_id in self.cameras)
        return {camera_id: its_own[0] for camera_id, its_own in links if its_own}

    def _own_recorder(self, camera: Camera) -> Recorder:
        ids = (place.recorder for place in camera.registered if place.recorder in self.recorders)
        return self.recorders[next(ids, next(iter(self.recorders)))]

    def _switches(self) -> _Switches:
        switches = {device.id: at for at, device in enumerate(self.network.values()) if device.role == "switch"}
        in_place: dict[str, str] = {}
        for switch_id in switches:
            in_place.setdefault(self.network[switch_id].place, switch_id)
        return _Switches(switches, in_place)

    def _switch_of(self, recorder: Recorder, switches: _Switches) -> NetworkDevice | None:
        """The switch that a recorder hangs on, else one in its place, else the first of the job."""
        ends = {link.far_end(recorder.id)[0] for link in self.links.of(recorder.id)} & switches.order.keys()
        if ends:
            return self.network[min(ends, key=lambda one: switches.order[one])]
        found = switches.in_place.get(recorder.place, next(iter(switches.order), None))
        return None if found is None else self.network[found]

    # ---- changing --------------------------------------------------------------------------------------------

    def _plug(self, a_id: str, b_id: str, wants_power: bool) -> None:
        self.links.join(self._device(a_id), self._device(b_id), wants_power)

    def _device(self, device_id: str) -> Device:
        return self.network.get(device_id) or self.recorders.get(device_id) or self.cameras[device_id]

    def _unplug(self, links: Iterable[Link]) -> None:
        for link in list(links):
            self.links.take_out(link)

    def _add_switch(self, place: str, camera_ids: list[str]) -> NetworkDevice:
        """A switch for as many of the cameras as one can take."""
        own = [self.cameras[camera_id] for camera_id in camera_ids[:MOST_ON_A_SWITCH]]
        fitting = (switch_for(own[:many], UPLINKS) for many in range(len(own), 0, -1))
        kind = next((kind for kind in fitting if kind is not None), device_types()["powered-8"])
        new_id = next(self._switch_ids)
        subnet = next((recorder.subnet for recorder in self.recorders.values() if recorder.place == place), "")
        switch = NetworkDevice(id=new_id, name=f"{place or 'Main'} switch", place=place, subnet=subnet, **kind.fits())
        if switch.name in self._names:
            switch = changed(switch, name=f"{switch.name} {new_id.removeprefix('net-')}")
        self._names.add(switch.name)
        self.network[new_id] = switch
        return switch

    def _room(self, switch: NetworkDevice) -> int:
        """Free ports with power, one of all ports being kept for the way on."""
        free = self.links.free_ports(switch)
        powered = sum(number <= switch.poe_ports for number in free)
        return max(0, min(powered, len(free) - 1))

    def onto_switches(self, off: Set[str]) -> None:
        """Put cameras that hang on one of some devices, on a recorder that is not theirs, or on nothing, on switches where
        their cable ends."""
        feeders = self._feeders()
        waiting: dict[str, list[str]] = {}
        for camera in self.cameras.values():
            link = feeders.get(camera.id)
            hung_on = self._far_end(link, camera)
            strange = hung_on in self.recorders and hung_on != self._own_recorder(camera).id
            if link is None or hung_on in off or strange:
                place = {**self.network, **self.recorders}[hung_on].place if link else camera.place
                waiting.setdefault(place, []).append(camera.id)
        switches: dict[str, list[NetworkDevice]] = {}
        for device in self.network.values():
            if device.role == "switch":
                switches.setdefault(device.place, []).append(device)
        for place, camera_ids in waiting.items():
            self._unplug([feeders[camera_id] for camera_id in camera_ids if camera_id in feeders])
            roomy = (switch for switch in switches.get(place, ()) if self._room(switch))
            while camera_ids:
                pause()
                switch = next(roomy, None) or self._add_switch(place, camera_ids)
                room = self._room(switch) or 1
                for camera_id in camera_ids[:room]:
                    self._plug(camera_id, switch.id, wants_power=True)
                del camera_ids[:room]

    def onto_the_recorders(self) -> None:
        """Put cameras whose cable ends in their recorder's place on its PoE ports, as many as such recorders have."""
        feeders = self._feeders()
        for recorder in list(self.recorders.values()):
            near = [c for c in with_pauses(self.own[recorder.id]) if self._ends_at(c, recorder, feeders.get(c.id))]
            if not near:
                continue
            most = max(RECORDER_POWERED_PORTS)
            powered = recorder.poe_ports
            if powered < len(near):
                powered = max(powered, next((n for n in RECORDER_POWERED_PORTS if n >= len(near)), most))
                recorder = changed(
                    recorder,
                    poe_ports=powered,
                    ports=max(recorder.ports, powered + 2),
                    budget_w=max(recorder.budget_w, RECORDER_POWERED_PORTS.get(powered, 0.0)),
                )
                self.recorders[recorder.id] = recorder
            on_it = sum(
                c in self.cameras for c in (link.far_end(recorder.id)[0] for link in self.links.of(recorder.id))
            )
            moving = [c for c in near if self._far_end(feeders.get(c.id), c) != recorder.id][: powered - on_it]
            left = {self._far_end(feeders.get(camera.id), camera) for camera in moving}
            self._unplug([feeders[camera.id] for camera in moving if camera.id in feeders])
            self._low_sockets_free(recorder)
            for camera in moving:
                self._plug(camera.id, recorder.id, wants_power=True)
            # A switch that has nothing left to join is left over.
            for switch_id in left & self.network.keys():
                ends = {link.far_end(switch_id)[0] for link in self.links.of(switch_id)}
                if ends <= self.recorders.keys():
                    self._unplug(self.links.of(switch_id))

    def _low_sockets_free(self, recorder: Recorder) -> None:
        """Move what is no camera off a recorder's PoE ports; those are for cameras."""
        for link in self.links.of(recorder.id):
            at_a = link.a == recorder.id
            other, _ = link.far_end(recorder.id)
            if other not in self.cameras and 0 < (link.a_port if at_a else link.b_port) <= recorder.poe_ports:
                self.links.take_out(link)
                port = assign_port(recorder, self.links.free_ports(recorder), wants_power=False)
                self.links.put(changed(link, **{"a_port" if at_a else "b_port": port}))

    def _ends_at(self, camera: Camera, recorder: Recorder, link: Link | None) -> bool:
        if link is None:
            return camera.place == recorder.place
        other = self._far_end(link, camera)
        if other == recorder.id:
            return True
        device = self.network.get(other)
        return link.medium == "copper" and device is not None and device.place == recorder.place

    @staticmethod
    def _far_end(link: Link | None, camera: Camera) -> str:
        return "" if link is None else link.far_end(camera.id)[0]

    def join_recorders(self) -> None:
        """Join every recorder with the switches on which its cameras hang, where nothing joins them yet."""
        feeders, switches = self._feeders(), self._switches()
        networks = Together()  # a recorder is the rim of each that it is on, and joins none
        for link in with_pauses(self.links.all()):
            if link.a not in self.recorders and link.b not in self.recorders:
                networks.join(link.a, link.b)
        for recorder in list(self.recorders.values()):
            on_it = [link.far_end(recorder.id)[0] for link in self.links.of(recorder.id)]
            for hung_on in dict.fromkeys(
                self._far_end(feeders.get(camera.id), camera) for camera in self.own[recorder.id]
            ):
                if hung_on not in self.network or _is_on_one(networks, on_it, hung_on):
                    continue
                pause()
                main = self._switch_of(recorder, switches)
                if main is not None and not _is_on_one(networks, on_it, main.id):
                    self._plug(recorder.id, main.id, wants_power=False)
                    on_it.append(main.id)
                if not _is_on_one(networks, on_it, hung_on):
                    if main and main.id != hung_on:
                        self._plug(hung_on, main.id, wants_power=False)
                        networks.join(hung_on, main.id)
                    else:
                        self._plug(hung_on, recorder.id, wants_power=False)
                        on_it.append(hung_on)

    def routers_on_switches(self) -> None:
        """Put routers on the recorders' switches, off the recorders, where they belonged together before."""
        for router in self._routers():
            self._unplug(link for link in self.links.of(router.id) if link.far_end(router.id)[0] in self.recorders)
        self.join_recorders()
        switches = self._switches()
        for router in self._routers():
            for recorder_id in sorted(self.linked_to_router) or list(self.recorders)[:1]:
                switch = self._switch_of(self.recorders[recorder_id], switches)
                if switch is not None and router.id not in self._group(switch.id):
                    self._plug(router.id, switch.id, wants_power=False)

    def routers_on_recorders(self) -> None:
        """Take routers off the cameras' switches and put them on the recorders; what they joined is joined without."""
        for router in self._routers():
            for link in self.links.of(router.id):
                other, _ = link.far_end(router.id)
                if not self.links.take_out(link):
                    continue
                group = self._group(other)
                if other not in self.recorders and not group & self.cameras.keys():
                    # An office switch without cameras stays on its router, and hangs on no recorder besides.
                    self._unplug(one for one in self.links.all() if _joins(one, group, self.recorders.keys()))
                    self.links.put(link)
        self.join_recorders()
        for router in self._routers():
            for recorder_id in sorted(self.linked_to_router) or list(self.recorders)[:1]:
                recorder = self.recorders[recorder_id]
                if not self.links.free_ports(recorder):
                    self.recorders[recorder_id] = changed(recorder, ports=recorder.ports + 1)
                self._plug(router.id, recorder_id, wants_power=False)


def _joins(link: Link, group: Set[str], recorders: Set[str]) -> bool:
    """Whether a link joins a device of a group with a recorder."""
    return any(one in recorders and other in group - recorders for one, other in ((link.a, link.b), (link.b, link.a)))


def _is_on_one(networks: Together, some: Iterable[str], wanted: str) -> bool:
    """Whether a device hangs together with one of some."""
    top = networks.top(wanted)
    return any(networks.top(one) == top for one in some)
