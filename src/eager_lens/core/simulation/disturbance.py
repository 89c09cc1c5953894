"""What is lost on the way from a camera to a recorder: water in a plug, a weak radio link, peaks over a link, a loop."""

from __future__ import annotations

from typing import Literal, NamedTuple

from eager_lens.core.simulation.air import ONE_BAR_LOST_SHARE, signal_bars
from eager_lens.core.simulation.parts import Cable, Unit
from eager_lens.core.simulation.paths import path
from eager_lens.core.simulation.segments import interface_of, is_up
from eager_lens.core.simulation.site import Site
from eager_lens.core.units import figure

LossKind = Literal["wet", "weak", "peaks", "loop"]


class Loss(NamedTuple):
    """Something that gets lost: of which kind, and why in words."""

    kind: LossKind
    why: str


def losses(site: Site, camera: Unit, end: Unit, recorder: Unit | None = None) -> list[Loss]:
    """What is lost between a camera and another unit; ``recorder``: whose streams fill the links (none: only the camera's)."""
    cables = path(site, camera, end)
    found = [_of_cable(site, cable) for cable in cables]
    found += _peaks(site, camera, cables, recorder)
    if is_looped(site, camera):
        found.append(Loss("loop", "two cables join the same switches: a loop floods the network"))
    return [one for one in found if one is not None]


def _of_cable(site: Site, cable: Cable) -> Loss | None:
    if cable.is_wet and site.rains:
        return Loss("wet", "water stands in a plug: the link comes and goes while it rains")
    if cable.medium == "radio" and signal_bars(cable, site.units) == 1:
        lost = f"{100 * ONE_BAR_LOST_SHARE:.0f} % of the time"
        return Loss("weak", f"one bar of signal: the picture drops out {lost}")
    return None


def _peaks(site: Site, camera: Unit, cables: list[Cable], recorder: Unit | None) -> list[Loss | None]:
    """Links on the path whose load peaks above what they carry."""
    loads = {cable.id: 0.0 for cable in cables}
    sending = {camera.id: camera}
    for entry in recorder.entries.values() if recorder is not None else ():
        unit = site.units.get(entry.from_unit)
        if unit is not None and unit.runs and unit.stream is not None:
            sending[unit.id] = unit
    for unit in sending.values():
        way = cables if unit is camera or recorder is None else path(site, unit, recorder)
        for cable in way:
            if cable.id in loads and unit.stream is not None:
                loads[cable.id] += unit.stream.peak_mbps * unit.stream.times(site.is_dark_for(unit))
    return [
        Loss(
            "peaks",
            f"a link carries {figure(cable.mbps)} Mb/s, what passes it peaks at {figure(loads[cable.id])}",
        )
        for cable in cables
        if loads[cable.id] > cable.mbps
    ]


def is_looped(site: Site, unit: Unit) -> bool:
    """Whether a second cable joins what is joined already, in the broadcast domain of a unit."""
    members = site.segment(unit, unit.sides[0])
    top: dict[str, str] = {}

    def root(one: str) -> str:
        while top.setdefault(one, one) != one:
            one = top[one]
        return one

    for cable in site.cables.values():
        ends = [
            interface_of(site.units[one], port, cable.id)
            for one, port in ((cable.a, cable.a_port), (cable.b, cable.b_port))
        ]
        inside = all(end in members for end in ends) and is_up(cable, site.units) and not cable.is_apart
        if inside and all(site.units[one].passes_on for one in (cable.a, cable.b)):
            a, b = root(cable.a), root(cable.b)
            if a == b:
                return True
            top[a] = b
    return False
