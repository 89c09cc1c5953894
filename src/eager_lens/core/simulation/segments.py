"""Who hears whom: the broadcast domains that lit units and plugged cables make just now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from eager_lens.core.simulation.air import is_associated, radio_rests
from eager_lens.core.simulation.parts import Cable, Unit

InterfaceId = tuple[str, str]


class Segment(set[InterfaceId]):
    """Interfaces that hear each other, a broadcast domain. It is known by being itself: its members may become more."""

    __hash__ = object.__hash__  # type: ignore[assignment]

    def __eq__(self, other: object) -> bool:
        return self is other

    def __ne__(self, other: object) -> bool:
        return self is not other


INTERNET = "internet"
"""The name of a router's side at its WAN port."""

CAMERAS = "cameras"
"""The name of a recorder's side toward cameras on a network of their own."""


def interface_of(unit: Unit, port: int, cable_id: str = "") -> InterfaceId:
    """The side of a unit that a port belongs to."""
    if unit.role == "router" and port and port == getattr(unit.device, "wan_port", 0):
        return (unit.id, INTERNET)
    if unit.role == "recorder" and len(unit.sides) > 1:
        own_network = getattr(unit.device, "attachment", "") == "camera interface"
        if cable_id in unit.camera_cables or (not own_network and 0 < port <= unit.feeding.poe_ports):
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


class Segments:
    """The broadcast domains of a site, each by the interfaces that are in it. Domains that come together are joined, the smaller
    into the larger, so that a site that is plugged in cable by cable is worked out in step with its size. What comes apart
    is worked out anew."""

    def __init__(self, units: Mapping[str, Unit], cables: Iterable[Cable]) -> None:
        self.of: dict[InterfaceId, Segment] = {}
        cables = list(cables)
        for cable in cables:
            if is_up(cable, units) and not (cable.medium == "radio" and _rests(cable, cables, units)):
                self.join_cable(cable, units)
        for unit in units.values():
            if unit.host and unit.host in units and units[unit.host].runs:
                self._join((unit.id, ""), (unit.host, unit.host_side))

    def join_cable(self, cable: Cable, units: Mapping[str, Unit]) -> None:
        """A cable carries something: both ends hear each other, unless its port is in another VLAN."""
        if cable.is_apart:
            return
        self._join(
            interface_of(units[cable.a], cable.a_port, cable.id), interface_of(units[cable.b], cable.b_port, cable.id)
        )

    def _join(self, a: InterfaceId, b: InterfaceId) -> None:
        one, other = (self.of.get(interface) or self._alone(interface) for interface in (a, b))
        if one is other:
            return
        small, large = sorted((one, other), key=len)
        large |= small
        for interface in small:
            self.of[interface] = large

    def _alone(self, interface: InterfaceId) -> Segment:
        segment = self.of[interface] = Segment((interface,))
        return segment


def segments(units: Mapping[str, Unit], cables: Iterable[Cable]) -> dict[InterfaceId, Segment]:
    """By interface, the segment that it is in. A router's internet side is no part of its local one."""
    return Segments(units, cables).of
