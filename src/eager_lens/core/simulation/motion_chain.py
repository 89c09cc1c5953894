"""The chain from somebody who walks past to a clip: the rule, where events go, who takes them, schedule and drives."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.simulation.parts import Entry, Unit
from eager_lens.core.simulation.reach import reached
from eager_lens.core.simulation.site import Site


class EventPath(NamedTuple):
    """A recorder that receives a camera, and why it keeps nothing of what moves there; empty: it keeps a clip."""

    recorder: Unit
    channel: int
    trouble: str


def taking(site: Site, camera: Unit) -> Iterator[EventPath]:
    """The recorders that receive a camera, each with the first broken link of the chain."""
    own = {side.address for side in camera.sides}
    for recorder in site.recorders():
        channel = next(
            (n for n, one in recorder.entries.items() if one.address in own and one.shown == "receiving"), None
        )
        if channel is not None:
            yield EventPath(recorder, channel, _trouble(site, camera, recorder, recorder.entries[channel]))


def _trouble(site: Site, camera: Unit, recorder: Unit, entry: Entry) -> str:
    if camera.rule == "off":
        return "its motion rule is off"
    target = camera.event_target or address_toward(site, recorder, camera)
    found = reached(site, camera, target)
    if found.unit is not recorder:
        why = found.why or "something else is there"
        return f"its event to {address_text(target)} does not reach {recorder.name}: {why}"
    if not recorder.recording.takes_events:
        return f"{recorder.name} takes no events"
    if not entry.is_scheduled:
        return f"the schedule of {recorder.name} does not record it now"
    if not recorder.recording.drives_work:
        return f"{recorder.name} has no drive that works"
    return "its motion rule sees only who comes close" if camera.rule == "blind" else ""


def address_toward(site: Site, recorder: Unit, camera: Unit) -> int:
    """A recorder's address on the side on which it hears a camera."""
    for side in recorder.sides:
        if any(unit is camera for unit, _ in site.heard(recorder, side)):
            return side.address
    return recorder.sides[0].address
