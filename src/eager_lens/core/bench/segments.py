"""Who hears whom: the broadcast domains that lit units and plugged cables make just now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from eager_lens.core.bench.air import is_associated, radio_rests
from eager_lens.core.bench.parts import Cable, Unit

Foot = tuple[str, str]
Feet = frozenset[Foot]

INTERNET = "internet"
"""The name of a router's side at its internet socket."""

CAMERAS = "cameras"
"""The name of a recorder's side toward cameras on a network of their own."""


def foot_of(unit: Unit, port: int, cable_id: str = "") -> Foot:
    """The side of a unit that a socket belongs to."""
    if unit.role == "router" and port and port == getattr(unit.device, "wan_port", 0):
        return (unit.id, INTERNET)
    if unit.role == "recorder" and len(unit.sides) > 1:
        own_network = getattr(unit.device, "attachment", "") == "own network"
        if cable_id in unit.camera_cables or (not own_network and 0 < port <= unit.feeding.powered_ports):
            return (unit.id, CAMERAS)
    return (unit.id, "")


def is_up(cable: Cable, units: Mapping[str, Unit]) -> bool:
    """Whether a cable carries something: plugged in, power at both ends, and what passes on is running."""
    if not cable.plugged:
        return False
    ends = (units.get(cable.a), units.get(cable.b))
    if any(end is None or not end.is_lit or (end.passes_on and not end.runs) for end in ends):
        return False
    return cable.medium != "radio" or is_associated(cable, units)


def _rests(cable: Cable, cables: list[Cable], units: Mapping[str, Unit]) -> bool:
    """Whether a radio path rests because the camera at its end has a cable in."""
    return any(radio_rests(units[end], cables, units) for end in (cable.a, cable.b))


def segments(units: Mapping[str, Unit], cables: Iterable[Cable]) -> dict[Foot, Feet]:
    """By foot, all feet of its broadcast domain. A router's internet side is no part of its local one."""
    root: dict[Foot, Foot] = {}

    def top(foot: Foot) -> Foot:
        root.setdefault(foot, foot)
        while root[foot] != foot:
            root[foot] = root[root[foot]]
            foot = root[foot]
        return foot

    cables = list(cables)
    for cable in cables:
        if is_up(cable, units) and not (cable.medium == "radio" and _rests(cable, cables, units)):
            a = top(foot_of(units[cable.a], cable.a_port, cable.id))
            b = top(foot_of(units[cable.b], cable.b_port, cable.id))
            root[a] = b
    for unit in units.values():
        if unit.host and unit.host in units and units[unit.host].runs:
            root[top((unit.id, ""))] = top((unit.host, unit.host_side))
    members: dict[Foot, set[Foot]] = {}
    for foot in list(root):
        members.setdefault(top(foot), set()).add(foot)
    return {foot: frozen for group in members.values() for frozen in (frozenset(group),) for foot in group}
