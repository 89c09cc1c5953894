"""A device port by port, as installers label patch fields: what is plugged in, its cable, its load, its power."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.power import camera_at_port_w
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.limits import load_severity
from eager_lens.core.job.fields import MATERIAL_WORDS
from eager_lens.core.job.model import Camera, Link, NetworkDevice, Recorder
from eager_lens.core.job.wiring import free_ports
from eager_lens.core.power.poe import POE_CLASSES
from eager_lens.core.units import figure


class PortRow(NamedTuple):
    """One port of a device.

    Attributes:
        id: of the row, unique in its table. port: number of the port; 0: not named, or radio.
        device_id, what: what is plugged in; empty and ``free`` where nothing is.
        link_id: the link; empty where nothing is plugged in.
        cable: medium, length and wire in words.
        load_mbps, capacity_mbps: load and what the link carries.
        draw_w, allocated_w: what is drawn over this port at night, and allocated by class; None where it feeds nothing.
        device_v: volts that arrive; None where they are not known or play no part.
        severity: FAULT where too few volts arrive or the link is over.
    """

    id: str
    port: int
    device_id: str
    what: str
    link_id: str
    cable: str
    load_mbps: float | None
    capacity_mbps: float | None
    draw_w: float | None
    allocated_w: float | None
    device_v: float | None
    severity: Severity | None


def port_rows(facts: Facts, device_id: str) -> list[PortRow]:
    """The ports of a device in order, then its links that use none by number, then radio. None for a camera."""
    device = facts.by_device_id.get(device_id)
    if not isinstance(device, NetworkDevice | Recorder):
        return []
    rows: list[PortRow] = []
    for link in facts.topology.wiring.links_at.get(device_id, ()):
        port = link.a_port if link.a == device_id else link.b_port
        rows.append(_row(facts, device, link, port))
    nothing = PortRow("", 0, "", "free", "", "", None, None, None, None, None, None)
    for port in free_ports(device, facts.topology.wiring.ports_in_use):
        rows.append(nothing._replace(id=f"free-{port}", port=port))
    if isinstance(device, NetworkDevice) and device.upload_mbps is not None:
        rows.append(nothing._replace(id="internet", port=device.wan_port, what="internet line"))
    return sorted(rows, key=lambda row: (row.port == 0, row.port))


def cable_words(link: Link, camera: Camera | None) -> str:
    """The cable of a link in words; that of a camera is the camera's own run."""
    length_m = camera.cable_m if camera is not None else link.length_m
    length = "" if length_m is None else f", {figure(length_m)} m"
    if link.medium != "copper":
        return f"{link.medium}{length}"
    material = camera.cable_material if camera is not None else link.cable_material
    awg = camera.awg if camera is not None else link.awg
    clad = f", {MATERIAL_WORDS[material]}" if material != "copper" else ""
    return f"{awg} AWG{clad}{length}{', long reach' if link.long_reach else ''}"


def _row(facts: Facts, device: NetworkDevice | Recorder, link: Link, port: int) -> PortRow:
    topology = facts.topology
    other_id, _ = link.far_end(device.id)
    camera = facts.by_device_id.get(other_id)
    load = topology.loads.worst_mbps(link.id) if link.id in topology.loads else None
    capacity = topology.wiring.capacity_mbps.get(link.id)
    draw_w = allocated_w = device_v = None
    severity = None if load is None or capacity is None else load_severity(load, capacity)
    if isinstance(camera, Camera) and link.medium == "copper" and device.poe_ports:
        if camera.poe_class is not None and camera.id not in facts.fed_by_unit:
            draw_w, allocated_w = (
                camera_at_port_w(camera, facts.passed_on_v(camera)),
                POE_CLASSES[camera.poe_class].allocated_w,
            )
        run = facts.run_of(camera)
        if run is not None:
            device_v = run.device_v
            if not run.voltage_ok:
                severity = Severity.FAULT
    return PortRow(
        id=link.id,
        port=port,
        device_id=other_id,
        what=facts.name(other_id),
        link_id=link.id,
        cable=cable_words(link, camera if isinstance(camera, Camera) else None),
        load_mbps=load,
        capacity_mbps=capacity,
        draw_w=draw_w,
        allocated_w=allocated_w,
        device_v=device_v,
        severity=severity,
    )
