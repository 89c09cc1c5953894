"""Switches and links of a job that is built from an enquiry: a star, every run within reach, PoE with something to spare."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.enquiry.enquiry import Enquiry, has_own_switch
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import (
    Attachment,
    Camera,
    Device,
    Job,
    NetworkDevice,
    Recorder,
    changed,
    fresh_ids,
)
from eager_lens.core.job.wiring import free_ports
from eager_lens.core.planning.attaching import RECORDER_POWERED_PORTS
from eager_lens.core.planning.plugged import Plugged
from eager_lens.core.planning.switch_sizes import FIBRE_SWITCHES, feeds, switch_for
from eager_lens.core.reference.device_types import DeviceType, device_types

LEAD_M = 3.0
"""A lead between devices in one place."""

ON_RECORDERS: tuple[Attachment, ...] = ("recorder PoE ports", "bridged PoE ports")


class Star:
    """The switches and links as they are planned."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.switches: list[NetworkDevice] = []
        self.links = Plugged()
        self._names = {device.name for device in job.devices()}

    def add_switches(self, place: str, cameras: Sequence[Camera], others: int) -> list[NetworkDevice]:
        """Switches of a place that take its cameras, as few as can be; the first has ports for other devices too."""
        left = list(cameras)
        made: list[tuple[DeviceType, list[Camera]]] = []
        while left or not made:
            # Every further switch takes one port of the first.
            free_for = others + 1 if not made else 1
            here = len(left)
            while (kind := switch_for(left[:here], free_for + (here < len(left)))) is None:
                here -= 1
            if left and not here:
                raise RefusedInput("cameras", f"no switch in the list can take {left[0].name}")
            made.append((kind, left[:here]))
            left = left[here:]
        switches = [self._switch(place, kind) for kind, _ in made]
        for switch, (_, own) in zip(switches, made, strict=True):
            for camera in own:
                self.links.join(camera, switch, wants_power=True)
        for further in switches[1:]:
            self.links.join(further, switches[0], length_m=LEAD_M)
        return switches

    def for_fibre(self, place: str, hub: NetworkDevice | Recorder, many: int) -> NetworkDevice:
        """What takes so many fibres: the hub where enough ports without power are free on it, else a fibre switch beside it.

        Raises:
            RefusedInput: when there is none that takes so many.
        """
        slots = [port for port in self.links.free_ports(hub) if port > hub.poe_ports]
        if isinstance(hub, NetworkDevice) and hub.poe_ports and len(slots) >= many:
            return hub
        kinds = [kind for kind in device_types().values() if kind.id in FIBRE_SWITCHES and kind.ports > many]
        if not kinds:
            raise RefusedInput(
                "places",
                f"no switch in the list takes {many} fibres; create some of the places, and add the rest later",
            )
        core = self._switch(place, kinds[0])
        self.links.join(core, hub, length_m=LEAD_M)
        return core

    def _switch(self, place: str, kind: DeviceType) -> NetworkDevice:
        taken = [device.id for device in (*self.job.network, *self.switches)]
        (new_id,) = fresh_ids("net", taken, 1)
        name, number = f"{place} switch", 2
        while name in self._names:
            name, number = f"{place} switch {number}", number + 1
        self._names.add(name)
        made = NetworkDevice(id=new_id, name=name, place=place, **kind.fits())
        self.switches.append(made)
        return made


def wired(job: Job, enquiry: Enquiry) -> Job:
    """The job with its switches and links: cameras within reach of the main place there, the others on their own place's
    switch, which hangs on the main one by fibre.

    Raises:
        RefusedInput: when cameras are to hang on the ports of more than one recorder.
    """
    star = Star(job)
    far = {place.name: place for place in enquiry.places[1:] if place.cameras and has_own_switch(place)}
    near = [camera for camera in job.cameras if camera.place not in far]
    recorders = list(job.recorders)
    if enquiry.attachment in ON_RECORDERS:
        if len(recorders) > 1:
            raise RefusedInput(
                "attachment",
                f"{len(job.cameras)} cameras need {len(recorders)} recorders, but a place can be connected to the ports of "
                "only one; select the LAN or a camera interface",
            )
        on_it = _on_ports(near)
        near = near[len(on_it) :]
        recorders = [_with_ports(recorders[0], on_it, others=1 + len(far) + len(job.network))]
        for camera in on_it:
            star.links.join(camera, recorders[0], wants_power=True)
    hub: NetworkDevice | Recorder = recorders[0]
    if near or enquiry.attachment not in ON_RECORDERS:
        (hub, *_) = star.add_switches(enquiry.places[0].name, near, len(far) + len(recorders) + len(job.network))
    # Fibre comes first: it needs the slots beside the copper ports.
    core = star.for_fibre(enquiry.places[0].name, hub, len(far)) if far else hub
    for name, place in far.items():
        (edge, *_) = star.add_switches(name, [camera for camera in job.cameras if camera.place == name], 1)
        star.links.join(
            edge, core, medium="fibre", length_m=max(place.distance_m, LEAD_M), outdoor=place.other_building
        )
    if hub is not recorders[0]:
        for recorder in recorders:
            star.links.join(recorder, hub, length_m=LEAD_M)
    for router in job.network:
        # Apart from the cameras the router is on the recorders; else on what all hang on.
        ends: list[Device] = [hub] if enquiry.attachment in ("LAN", "bridged PoE ports") else [*recorders]
        if len(ends) > len(free_ports(router, {})):
            (office, *_) = star.add_switches(enquiry.places[0].name, [], len(ends) + 1)
            for recorder in recorders:
                star.links.join(recorder, office, length_m=LEAD_M)
            ends = [office]
        for end in ends:
            star.links.join(router, end, length_m=LEAD_M)
    recorders = [changed(recorder, attachment=enquiry.attachment) for recorder in recorders]
    return changed(job, network=(*job.network, *star.switches), links=star.links.all(), recorders=tuple(recorders))


def _on_ports(cameras: Sequence[Camera]) -> list[Camera]:
    """The first cameras, as many as the PoE ports of a recorder take and feed."""
    ports, budget_w = max(RECORDER_POWERED_PORTS.items())
    many = min(ports, len(cameras))
    while not feeds(budget_w, cameras[:many]):
        many -= 1
    return list(cameras[:many])


def _with_ports(recorder: Recorder, cameras: Sequence[Camera], others: int) -> Recorder:
    """The recorder with PoE ports for cameras, as few as can be, and ports for other devices."""
    powered, budget_w = next(
        (ports, watts)
        for ports, watts in sorted(RECORDER_POWERED_PORTS.items())
        if ports >= len(cameras) and feeds(watts, cameras)
    )
    return changed(recorder, poe_ports=powered, budget_w=budget_w, ports=powered + others)
