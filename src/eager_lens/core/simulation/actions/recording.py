"""Actions at a recorder, on its own monitor: channels added, taken out, named, refreshed; a walk past, a clip found again."""

from __future__ import annotations

from datetime import datetime

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Recorder
from eager_lens.core.simulation.actions.base import (
    ActionField,
    ActionKind,
    ActionOutcome,
    Values,
    number_of,
    recorded,
    recorder_trouble,
    stand_in,
)
from eager_lens.core.simulation.channels import camera_side, free_channel, one_round, same_maker
from eager_lens.core.simulation.clocks import shown, shown_apart_s
from eager_lens.core.simulation.motion_chain import taking
from eager_lens.core.simulation.parts import Entry, RecordedClip, Unit, UnitRole
from eager_lens.core.simulation.site import Site
from eager_lens.core.units import count

FOUND_WITHIN_S = 60.0
"""A search by time looks at the minute that was asked for."""


def _channel(recorder: Unit, text: str, held: bool) -> int:
    device = recorder.device
    assert isinstance(device, Recorder)
    if not (text.isascii() and text.isdigit()):
        raise RefusedInput("channel", f"{text!r} was given; a channel is a number of 1 to {device.channels}")
    number = int(text)
    if held and number not in recorder.entries:
        raise RefusedInput("channel", f"nothing is on channel {number} of {recorder.name}")
    return number


def _add(site: Site, recorder: Unit, values: Values) -> ActionOutcome:
    trouble = recorder_trouble(recorder)
    device = recorder.device
    if trouble or not isinstance(device, Recorder):
        return recorded(site, recorder, ActionOutcome(False, trouble))
    address = number_of(values.get("address", ""), "address")
    protocol = "own" if values.get("protocol") == "own" else "open"
    meant = site.units.get(values.get("camera", ""))
    password = stand_in(values.get("password", "own"), meant or recorder)
    twice = next((n for n, entry in recorder.entries.items() if entry.address == address), None)
    if twice is not None:
        return recorded(
            site,
            recorder,
            ActionOutcome(False, f"{address_text(address)} is on channel {twice} of {recorder.name} already"),
        )
    text = values.get("channel", "")
    number = _channel(recorder, text, held=False) if text else free_channel(recorder)
    if number is None:
        return recorded(
            site, recorder, ActionOutcome(False, f"{recorder.name} has no channel left of {device.channels}")
        )
    if not 1 <= number <= device.channels:
        return recorded(
            site, recorder, ActionOutcome(False, f"{recorder.name} has no channel {number}; it has {device.channels}")
        )
    if number in recorder.entries:
        return recorded(site, recorder, ActionOutcome(False, f"Channel {number} of {recorder.name} is taken"))
    name = values.get("name", "") or (meant.name if meant else "")
    recorder.entries[number] = Entry(
        address, "own" if protocol == "own" else "open", password, name, since_s=site.now_s
    )
    site.listens(recorder, address)
    site.want_round(recorder)
    return recorded(
        site,
        recorder,
        ActionOutcome(
            True,
            f"{recorder.name}: {address_text(address)} is added on channel {number}; refresh before you believe its status",
        ),
    )


def _take_own_make(site: Site, recorder: Unit, values: Values) -> ActionOutcome:
    """The maker's own protocol, all at once: every camera of the make that is heard, with one password for all."""
    trouble = recorder_trouble(recorder)
    if trouble:
        return recorded(site, recorder, ActionOutcome(False, trouble))
    side = camera_side(recorder) or recorder.sides[0]
    held = {entry.address for entry in recorder.entries.values()}
    added = 0
    for unit, far_side in site.heard(recorder, side):
        if unit.role == "camera" and same_maker(recorder, unit) and far_side.address and far_side.address not in held:
            planned = next(
                (p.channel for p in getattr(unit.device, "registered", ()) if p.recorder == recorder.id), None
            )
            number = free_channel(recorder, planned)
            if number is None:
                return recorded(
                    site, recorder, ActionOutcome(False, f"{recorder.name} has no channel left; {added} added")
                )
            password = stand_in(values.get("password", "site"), unit)
            recorder.entries[number] = Entry(far_side.address, "own", password, unit.given_name, since_s=site.now_s)
            site.listens(recorder, far_side.address)
            held.add(far_side.address)
            added += 1
    site.want_round(recorder)
    return recorded(
        site,
        recorder,
        ActionOutcome(True, f"{recorder.name} found {count(added, 'camera')} of its own make and added them"),
    )


def _remove(site: Site, recorder: Unit, values: Values) -> ActionOutcome:
    number = _channel(recorder, values.get("channel", ""), held=True)
    del recorder.entries[number]
    return recorded(site, recorder, ActionOutcome(True, f"{recorder.name}: channel {number} is free"))


def _rename(site: Site, recorder: Unit, values: Values) -> ActionOutcome:
    number = _channel(recorder, values.get("channel", ""), held=True)
    entry = recorder.entries[number]
    entry.name = values.get("name", "")
    camera = site.units.get(entry.from_unit)
    if camera is not None and entry.shown == "receiving":
        camera.given_name = entry.name
    return recorded(site, recorder, ActionOutcome(True, f"{recorder.name}: channel {number} is “{entry.name}”"))


def _refresh(site: Site, recorder: Unit, values: Values) -> ActionOutcome:
    trouble = recorder_trouble(recorder)
    if trouble:
        return recorded(site, recorder, ActionOutcome(False, trouble))
    one_round(site, recorder, 0)
    receiving = sum(entry.shown == "receiving" for entry in recorder.entries.values())
    return ActionOutcome(True, f"{recorder.name}: {receiving} of {count(len(recorder.entries), 'channel')} receiving")


def _walk(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    """Somebody walks past: the camera sends an event, and a recorder that gets it keeps a clip."""
    if not unit.runs:
        return recorded(site, unit, ActionOutcome(False, f"{unit.name} sees nothing: it does not run"))
    trouble = f"no recorder receives {unit.name}"
    for found in taking(site, unit):
        trouble = found.trouble
        if not trouble:
            recorder = found.recorder
            recorder.clips.append(RecordedClip(found.channel, site.now_s, shown(site, recorder)))
            stamp = recorder.clips[-1].stamp
            return recorded(
                site,
                unit,
                ActionOutcome(
                    True, f"Somebody walks past {unit.name}: {recorder.name} keeps a clip, stamped {stamp:%H:%M:%S}"
                ),
            )
    return recorded(site, unit, ActionOutcome(False, f"Somebody walks past {unit.name} and nothing is kept: {trouble}"))


def _find(site: Site, recorder: Unit, values: Values) -> ActionOutcome:
    """Look a clip up by the time of day that somebody remembers: the recorder searches by its own clock."""
    trouble = recorder_trouble(recorder)
    if trouble:
        return recorded(site, recorder, ActionOutcome(False, trouble))
    number = _channel(recorder, values.get("channel", ""), held=True)
    try:
        wanted = datetime.strptime(values.get("time", "").strip(), "%H:%M").time()
    except ValueError:
        raise RefusedInput("time", f"{values.get('time', '')!r} was given; wanted is a time of day as 14:05") from None
    moment = datetime.combine(site.local().date(), wanted)
    hits = [
        clip
        for clip in recorder.clips
        if clip.channel == number and -5 <= (clip.stamp - moment).total_seconds() < FOUND_WITHIN_S + 5
    ]
    if hits:
        return recorded(
            site,
            recorder,
            ActionOutcome(
                True, f"{recorder.name} finds {count(len(hits), 'clip')} of channel {number} at {wanted:%H:%M}"
            ),
        )
    off_s = shown_apart_s(site, recorder)
    why = f"; its clock is {abs(off_s):.0f} s {'ahead' if off_s > 0 else 'behind'}" if abs(off_s) > 5 else ""
    return recorded(
        site,
        recorder,
        ActionOutcome(False, f"{recorder.name} finds nothing of channel {number} at {wanted:%H:%M}{why}"),
    )


RECORDER: tuple[UnitRole, ...] = ("recorder",)
CHANNEL = ActionField("channel", "Channel", "channel")
NAME = ActionField("name", "Name")

RECORDING = (
    ActionKind(
        "add",
        "Add a camera",
        RECORDER,
        _add,
        (
            ActionField("address", "Address", "address"),
            CHANNEL,
            ActionField("protocol", "Protocol", "choice", ("open", "own")),
            ActionField("password", "Password", "password"),
            NAME,
        ),
        "By hand: address, protocol, user and password",
    ),
    ActionKind(
        "own make",
        "Take all of its own make",
        RECORDER,
        _take_own_make,
        (ActionField("password", "One password for all", "password"),),
        "The maker's own protocol, automatically; it tries one password on all",
    ),
    ActionKind("refresh", "Refresh the channels", RECORDER, _refresh, tip="Before a status is believed"),
    ActionKind("rename", "Name a channel", RECORDER, _rename, (CHANNEL, NAME)),
    ActionKind("remove", "Free a channel", RECORDER, _remove, (CHANNEL,)),
    ActionKind(
        "find",
        "Find a clip by its time",
        RECORDER,
        _find,
        (CHANNEL, ActionField("time", "Time of day")),
        "By the recorder's clock; if clocks differ it finds nothing, or the wrong minute",
    ),
    ActionKind("walk", "Walk past it", ("camera",), _walk),
)
