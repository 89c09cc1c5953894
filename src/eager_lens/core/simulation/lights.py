"""What a technician sees of a device without any network: its lights, and what they mean."""

from __future__ import annotations

from typing import Literal, NamedTuple

from eager_lens.core.simulation.air import MOST_BARS, signal_bars, trouble_of
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.segments import is_up
from eager_lens.core.simulation.site import Site
from eager_lens.core.units import count, figure

Light = Literal["dark", "lit", "blinking"]


class Lights(NamedTuple):
    """The three lights of a device: power, link, work."""

    power: Light
    link: Light
    work: Light


def lights_of(site: Site, unit: Unit) -> Lights:
    """The lights of a device now. Power blinks while it starts; work blinks while pictures go out or come in."""
    if not unit.is_lit:
        return Lights("dark", "dark", "dark")
    power: Light = "lit" if unit.runs else "blinking"
    linked = any(is_up(cable, site.units) for cable in site.cables_of(unit)) or bool(unit.host)
    work: Light = "blinking" if unit.runs and is_at_work(site, unit) else "dark"
    return Lights(power, "lit" if linked else "dark", work)


def is_at_work(site: Site, unit: Unit) -> bool:
    """Whether pictures go out of a camera, or into a recorder."""
    if unit.role == "recorder":
        return any(entry.shown in ("receiving", "alternating") for entry in unit.entries.values())
    return any(
        entry.from_unit == unit.id and entry.shown in ("receiving", "alternating")
        for recorder in site.recorders()
        for entry in recorder.entries.values()
    )


def state_words(site: Site, unit: Unit) -> str:
    """The lights in words."""
    lights = lights_of(site, unit)
    if lights.power == "dark":
        return "dark"
    if unit.phase == "broken":
        return "does not start"
    if unit.phase in ("starting", "updating"):
        return unit.phase
    if lights.link == "dark":
        return "ready, no link"
    return "pictures go" if lights.work == "blinking" else "ready"


def link_words(site: Site, unit: Unit) -> str:
    """What a device's links have agreed on, and how its radio stands; empty while it is dark."""
    if not unit.is_lit:
        return ""
    words = []
    speeds = sorted(
        {cable.mbps for cable in site.cables_of(unit) if cable.medium != "radio" and is_up(cable, site.units)}
    )
    if speeds:
        words.append(f"link {' and '.join(figure(speed) for speed in speeds)} Mb/s")
    for cable in site.cables_of(unit):
        if cable.medium == "radio":
            trouble = trouble_of(cable, site.units)
            bars = count(signal_bars(cable, site.units), "bar")
            words.append(f"radio: {trouble}" if trouble else f"radio joined, {bars} of {MOST_BARS}")
    return ", ".join(words)
