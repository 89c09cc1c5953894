"""What a recorder makes of its channels: receiving, alternating, refused, silent, and why."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.assess.limits import BURSTY_SHARE
from eager_lens.core.job.make_profiles import maker_of
from eager_lens.core.job.model import Recorder
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.simulation.access import WORDS, log_in, log_in_open
from eager_lens.core.simulation.air import ONE_BAR_LOST_SHARE, radio_rests, signal_bars
from eager_lens.core.simulation.disturbance import losses
from eager_lens.core.simulation.leases import LEASE_S
from eager_lens.core.simulation.parts import NOT_ASKED, Cable, Entry, Side, Status, Unit
from eager_lens.core.simulation.reach import reached, take_address
from eager_lens.core.simulation.segments import CAMERAS, is_up
from eager_lens.core.simulation.site import Site, Weight
from eager_lens.core.units import figure
from eager_lens.core.validation import at_most

RETRY_S = 60.0
"""A recorder tries a channel that gives no picture again after so long (assumed)."""


class SeenCamera(NamedTuple):
    """What a channel comes to: its status, why, and who answers."""

    status: Status
    why: str
    unit_id: str = ""


def same_maker(one: Unit, other: Unit) -> bool:
    """Whether two units speak one maker's own protocol."""
    maker = maker_of(one.device.make) if one.device else ""
    return bool(maker) and other.device is not None and maker_of(other.device.make) == maker


def look(site: Site, recorder: Unit, entry: Entry, taken_mbps: float) -> SeenCamera:
    """What a channel comes to now; ``taken_mbps`` is what the channels before it bring already."""
    found = reached(site, recorder, entry.address)
    if found.unit is None:
        return SeenCamera("silent", found.why)
    unit = found.unit
    if unit.role != "camera" or unit.stream is None:
        return SeenCamera("silent", f"{unit.name} answers at {address_text(entry.address)}, and is no camera", unit.id)
    if entry.protocol == "own":
        if not same_maker(recorder, unit):
            return SeenCamera("refused", f"{unit.name} is of another make; it takes the open protocol", unit.id)
        outcome = log_in(site, unit, entry.password)
    else:
        outcome = log_in_open(site, unit, entry.password, recorder)
    if outcome != "in":
        return SeenCamera("refused", f"{unit.name}: {WORDS[outcome]}", unit.id)
    refusal = not_taken(recorder, unit, taken_mbps, site.is_dark_for(unit))
    if refusal:
        return SeenCamera("silent", refusal, unit.id)
    if found.twins:
        return SeenCamera(
            "alternating", f"several devices hold {address_text(entry.address)}; now it is {unit.name}", unit.id
        )
    slow = _too_slow(site, unit)
    if not slow and site.is_disturbed:
        slow = next((loss.why for loss in losses(site, unit, recorder, recorder)), "")
    if slow:
        return SeenCamera("alternating", slow, unit.id)
    return SeenCamera("receiving", "", unit.id)


def not_taken(recorder: Unit, camera: Unit, taken_mbps: float, dark: bool = False) -> str:
    """Why a recorder does not take a camera's stream, by day or in the dark; empty when it does."""
    device, stream = recorder.device, camera.stream
    assert isinstance(device, Recorder) and stream is not None
    labels = stream_assumptions().codec_label
    if stream.codec not in device.codecs:
        return f"{camera.name} sends {labels[stream.codec]}, which {recorder.name} does not take"
    if not at_most(stream.pixels, device.largest_megapixels * 1e6):
        return (
            f"{camera.name} sends {figure(stream.pixels / 1e6)} megapixels, "
            f"{recorder.name} takes {figure(device.largest_megapixels)}"
        )
    if not at_most(taken_mbps + stream.rate_mbps * stream.times(dark), device.incoming_limit_mbps):
        return f"{recorder.name} takes {figure(device.incoming_limit_mbps)} Mb/s in, and they are used up"
    return ""


def _too_slow(site: Site, camera: Unit) -> str:
    """What on a camera's own link breaks its pictures up; empty when nothing does."""
    assert camera.stream is not None
    for cable in site.cables_of(camera):
        if not is_up(cable, site.units) or (
            cable.medium == "radio" and radio_rests(camera, site.cables_of(camera), site.units)
        ):
            continue
        if cable.medium == "radio" and signal_bars(cable, site.units) == 1:
            return f"one bar of signal: the picture drops out {100 * ONE_BAR_LOST_SHARE:.0f} % of the time"
        peak_mbps = camera.stream.peak_mbps * camera.stream.times(site.is_dark_for(camera))
        if is_too_narrow(cable, peak_mbps):
            slow = "a port in long-reach mode" if cable.long_reach else "its link"
            return (
                f"{slow} carries {figure(cable.mbps)} Mb/s, its stream peaks at "
                f"{figure(peak_mbps)}: the picture breaks up"
            )
    return ""


def is_too_narrow(cable: Cable, peak_mbps: float) -> bool:
    """Whether a stream breaks up on a cable: its key frames come in bursts, for which a slow link has to have room besides."""
    share = BURSTY_SHARE if cable.medium != "radio" and cable.mbps <= NARROW_MBPS else 1.0
    return peak_mbps > share * cable.mbps


NARROW_MBPS = 10.0
"""A link that came up so slowly has no room to spare for bursts."""


def one_round(site: Site, recorder: Unit, mark: int) -> None:
    """A recorder looks at all its channels; what changed is told."""
    site.round_begins(recorder)
    if not recorder.runs:
        return
    _take_own_ports(site, recorder)
    taken_mbps = 0.0
    waiting = False
    for number in sorted(recorder.entries):
        entry = recorder.entries[number]
        seen = look(site, recorder, entry, taken_mbps)
        unit = site.units.get(seen.unit_id)
        if seen.status in ("receiving", "alternating") and unit is not None and unit.stream is not None:
            taken_mbps += unit.stream.rate_mbps * unit.stream.times(site.is_dark_for(unit))
        if (seen.status, seen.why) != (entry.shown, entry.why):
            if seen.status != entry.shown:
                entry.since_s = site.now_s
                why = f": {seen.why}" if seen.why else ""
                site.tell(recorder, f"{recorder.name}, channel {number}: {seen.status}{why}", _weight(seen, entry))
            entry.shown, entry.why = seen.status, seen.why
        entry.from_unit = seen.unit_id
        waiting = waiting or seen.status in ("refused", "silent")
    if waiting:
        site.want_round(recorder, RETRY_S)  # a wrong password is tried again and again, as recorders do


def _weight(seen: SeenCamera, entry: Entry) -> Weight:
    return "plain" if seen.status == "receiving" or entry.why == NOT_ASKED else "lesson"


def settle_rounds(site: Site) -> None:
    """Recorders look soon after a change that may concern them: of an address that they have on a channel, of a camera on
    their own ports, or of anything that passes others on."""
    stirred = site.take_stirred()
    if stirred is None or any(unit.role not in ("camera", "laptop", "phone") for unit in stirred[0]):
        concerned = list(site.recorders())
    else:
        units, numbers = stirred
        concerned = site.listeners(numbers)
        for recorder in site.recorders() if units else ():
            side = camera_side(recorder)
            if side is not None:
                members = site.segment(recorder, side)
                if any((unit.id, "") in members for unit in units):
                    concerned.append(recorder)
    for recorder in concerned:
        if recorder.runs:
            site.want_round(recorder)


# ---- own ports ---------------------------------------------------------------------------------------------------


def camera_side(recorder: Unit) -> Side | None:
    """A recorder's side toward cameras on a network of their own."""
    return next((side for side in recorder.sides if side.name == CAMERAS), None)


def _take_own_ports(site: Site, recorder: Unit) -> None:
    """Cameras of its own make on its own ports: a recorder sets them up, gives them addresses, and registers them."""
    side = camera_side(recorder)
    if side is None or not recorder.access.is_set_up:
        return
    for unit, far_side in list(site.heard(recorder, side)):
        if unit.role == "camera" and not unit.access.is_set_up and same_maker(recorder, unit):
            _adopt(site, recorder, side, unit, far_side)


def _adopt(site: Site, recorder: Unit, side: Side, unit: Unit, far_side: Side) -> None:
    number = free_channel(recorder, _planned_channel(unit, recorder))
    if number is None:
        site.tell(recorder, f"{recorder.name} has no channel left for {unit.name}", "lesson")
        return
    server = site.servers.get(recorder.id)
    if not side.is_near(far_side.address) and server is not None:
        free = server.free(site.now_s)
        if not free:
            return
        server.leases[unit.mac_address] = (free[0], site.now_s + LEASE_S * 365)
        take_address(site, unit, far_side, free[0], side.prefix, side.address)
    unit.access.is_set_up, unit.access.password = True, recorder.access.password
    unit.clock.zone, unit.clock.server = recorder.clock.zone, side.address
    unit.clock.polled += 1
    site.event_queue.after(1.0, unit.id, "poll clock", unit.clock.polled)
    recorder.entries[number] = Entry(far_side.address, "own", unit.access.password, unit.name, since_s=site.now_s)
    site.listens(recorder, far_side.address)
    site.tell(
        recorder,
        f"{recorder.name} found {unit.name} on its own ports: set up with the recorder's password, at "
        f"{address_text(far_side.address)}, on channel {number}",
    )


def _planned_channel(unit: Unit, recorder: Unit) -> int | None:
    places: Iterable[object] = getattr(unit.device, "registered", ())
    return next((p.channel for p in places if p.recorder == recorder.id), None)  # type: ignore[attr-defined]


def free_channel(recorder: Unit, wanted: int | None = None) -> int | None:
    """A free channel: the wanted one if it is free, else the lowest; None when there is none."""
    device = recorder.device
    assert isinstance(device, Recorder)
    if wanted is not None and wanted <= device.channels and wanted not in recorder.entries:
        return wanted
    return next((number for number in range(1, device.channels + 1) if number not in recorder.entries), None)
