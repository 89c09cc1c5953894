"""Ways out for cameras that nothing feeds, or not with enough: a feeding port, an injector, a supply with its wires."""

from __future__ import annotations

import math
from collections.abc import Iterator

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.power import area_at_20_c_mm2, supply_volts
from eager_lens.core.assess.finding import Finding
from eager_lens.core.assess.limits import LOWEST_SHARE
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Camera, Link, NetworkDevice, PowerUnit, Recorder, changed
from eager_lens.core.job.wiring import add_unit, free_ports, set_link
from eager_lens.core.options.remedies.devices import larger_switch
from eager_lens.core.options.remedies.long_run import LEAD_M
from eager_lens.core.power.dc import dc_run
from eager_lens.core.power.poe import POE_CLASSES
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most

AREAS_MM2 = (0.75, 1.0, 1.5, 2.5)
"""Wires that are sold everywhere."""

SPARE_FACTOR = 1.25
"""A supply is taken so much larger than what it feeds."""


def give_power(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """Over the cable first, where what it hangs on gives power; else supplies whose wires are reckoned."""
    cameras = [one for one in map(assessment.facts.by_device_id.get, finding.subjects) if isinstance(one, Camera)]
    over_cable = {}
    for camera in cameras:
        link, hung_on, port = _hangs_on(camera, assessment)
        if link is not None and link.medium == "copper" and hung_on is not None and 0 < port <= hung_on.poe_ports:
            over_cable[camera.id] = {"poe_class": class_for(camera.power_w)}
    if over_cable:
        classes = sorted({fields["poe_class"] for fields in over_cable.values()})
        words = f"PoE class {' or '.join(map(str, classes))} for {count(len(over_cable), 'camera')}"
        yield set_each(words, over_cable)
    for volts in sorted({camera.power_input for camera in cameras}):
        fed = [camera for camera in cameras if camera.power_input == volts]
        for place in dict.fromkeys(camera.place for camera in fed):
            there = [camera for camera in fed if camera.place == place]
            whom = there[0].name if len(there) == 1 else f"{count(len(there), 'camera')} of {place}"
            words = f"{volts} power supply beside {whom}, {figure(LEAD_M)} m of lead (needs mains there)"
            yield _supply(words, there, place, LEAD_M)
        if len(fed) == 1 and fed[0].cable_m:
            _, hung_on, _ = _hangs_on(fed[0], assessment)
            if hung_on is not None:
                words = f"{volts} power supply beside {hung_on.name}, {figure(fed[0].cable_m)} m of lead"
                yield _supply(words, fed, hung_on.place, fed[0].cable_m)


def class_for(power_w: float) -> int:
    """The lowest PoE class from 3 up that supplies the watts; otherwise the highest."""
    classes = range(3, len(POE_CLASSES))
    return next((one for one in classes if at_most(power_w, POE_CLASSES[one].device_w)), len(POE_CLASSES) - 1)


def powered_port(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """For a camera on a port that gives it too little, or nothing: a free port that does, an injector, a larger switch."""
    camera = assessment.facts.by_device_id.get(finding.subjects[0])
    if isinstance(camera, Camera) and camera.poe_class is not None:
        link, hung_on, _ = _hangs_on(camera, assessment)
        if link is not None and hung_on is not None and camera.poe_class <= hung_on.poe_port_class:
            free = free_ports(hung_on, assessment.facts.topology.wiring.ports_in_use)
            for port in [one for one in free if one <= hung_on.poe_ports][:1]:
                end = "b_port" if link.a == camera.id else "a_port"
                yield set_link([link.id], f"Move {camera.name} to port {port} of {hung_on.name}", **{end: port})
        if link is not None and link.medium == "copper" and hung_on is not None:
            gives_w = POE_CLASSES[camera.poe_class].allocated_w
            fields = {"poe_class": camera.poe_class, "budget_w": gives_w, "place": hung_on.place}
            words = f"Injector of PoE class {camera.poe_class} for {camera.name}, beside {hung_on.name}"
            unit = add_unit("injector", [camera.id], **fields)
            yield Edit(words, unit.apply)
    yield from larger_switch(finding, assessment)


def _hangs_on(camera: Camera, assessment: Assessment) -> tuple[Link | None, NetworkDevice | Recorder | None, int]:
    link = assessment.facts.topology.wiring.feeders.get(camera.id)
    if link is None:
        return None, None, 0
    device_id, port = link.far_end(camera.id)
    device = assessment.facts.by_device_id.get(device_id)
    return link, device if isinstance(device, NetworkDevice | Recorder) else None, port


def _supply(words: str, cameras: list[Camera], place: str, length_m: float) -> Edit:
    """A supply with some watts to spare, on the thinnest wire over which enough arrives; the thickest where none does, for the
    findings to say so."""
    draw_w = sum(camera.power_w for camera in cameras)
    budget_w = math.ceil(draw_w * SPARE_FACTOR / 10) * 10.0
    outdoor = any(camera.outdoor for camera in cameras)
    blank = PowerUnit(id="pow-0", name="x", output=cameras[0].power_input, length_m=length_m)
    wires = (changed(blank, area_mm2=area) for area in AREAS_MM2)
    fits = (
        one.area_mm2
        for one in wires
        if dc_run(supply_volts(one), draw_w, length_m, area_at_20_c_mm2(one, outdoor), LOWEST_SHARE).voltage_ok
    )
    area_mm2 = next(fits, AREAS_MM2[-1])
    fields = {"output": cameras[0].power_input, "budget_w": budget_w, "place": place}
    made = add_unit("supply", [camera.id for camera in cameras], length_m=length_m, area_mm2=area_mm2, **fields)
    return Edit(f"{words} ({figure(area_mm2)} mm²)", made.apply)
