"""Actions of somebody who looks for a fault: reading what is set on a page or at a switch, and putting it right."""

from __future__ import annotations

from typing import Literal

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.errors import RefusedInput
from eager_lens.core.simulation.actions.base import (
    WEB,
    ActionField,
    ActionKind,
    ActionOutcome,
    Values,
    entered,
    recorded,
    recorder_trouble,
)
from eager_lens.core.simulation.air import signal_bars
from eager_lens.core.simulation.clocks import shown
from eager_lens.core.simulation.disturbance import is_looped
from eager_lens.core.simulation.parts import Antenna, Unit
from eager_lens.core.simulation.site import Site
from eager_lens.core.units import figure

FINDER_TEST = "finder test"
"""The fault finder does it, never a hand."""
INFRARED = {"full": 1.0, "half": 0.5, "off": 0.0}
ALIGNED_DB = 15.0
"""What an antenna that was aligned anew has above what the slowest rate needs, where the plan does not say (assumed)."""


def _read_page(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    other, words = entered(site, unit, values)
    if other is None:
        return recorded(
            site, unit, ActionOutcome(False, f"The settings of {unit.name} stay without_source_checks: {words}")
        )
    side, clock = other.sides[0], other.clock
    parts = [
        f"address {address_text(side.address)}/{side.prefix}",
        f"gateway {address_text(side.gateway) if side.gateway else 'none'}",
        f"clock {shown(site, other):%d %b %H:%M:%S}, zone {clock.zone}",
        f"time server {address_text(clock.server) if clock.server else 'none'}",
    ]
    if other.role == "camera":
        parts += [
            f"open protocol {'on' if other.access.open_on else 'off'}",
            f"motion rule {'off' if other.rule == 'off' else 'on'}",
            f"events go to {address_text(other.event_target) if other.event_target else 'nobody'}",
        ]
        if other.stream is not None:
            dark = " (by night now)" if site.is_dark_for(other) else ""
            rate_mbps = other.stream.rate_mbps * other.stream.times(site.is_dark_for(other))
            parts.append(f"sends {figure(rate_mbps)} Mb/s{dark}")
    if other.antenna is not None:
        parts += _radio_words(site, other, other.antenna)
    lead = f"{words}; " if words else ""
    return recorded(site, unit, ActionOutcome(not words, f"{lead}{other.name}: {', '.join(parts)}"))


def _radio_words(site: Site, unit: Unit, antenna: Antenna) -> list[str]:
    bars = [str(signal_bars(cable, site.units)) for cable in site.cables_of(unit) if cable.medium == "radio"]
    return [
        f"radio {antenna.end or 'not set'}",
        f"network “{antenna.network}”, key “{antenna.key}”",
        f"signal {', '.join(bars)} of 4 bars",
    ]


def _read_ports(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    """What a switch shows of its ports."""
    if not unit.is_lit:
        return recorded(site, unit, ActionOutcome(False, f"{unit.name} is dark: {unit.feeding.why_dark or 'no power'}"))
    lines = []
    for cable in sorted(site.cables_of(unit), key=lambda one: one.port_at(unit.id)):
        far = site.units[cable.far_end(unit.id)[0]]
        port = cable.port_at(unit.id)
        up = cable.plugged and far.is_lit
        fed = "gives power" if far.feeding.source == unit.id else ""
        refused = far.feeding.why_dark if not far.is_lit and far.feeding.lead == "cable" else ""
        vlan = "in another VLAN than the others" if cable.is_apart else ""
        state = f"link {figure(cable.mbps)} Mb/s" if up else "no link"
        lines.append(f"{port} ({far.name}): {', '.join(one for one in (state, fed, refused, vlan) if one)}")
    flicker = "; all lights flicker without a pause" if is_looped(site, unit) else ""
    return recorded(site, unit, ActionOutcome(True, f"{unit.name}, ports: {'; '.join(lines)}{flicker}"))


def _set_port(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    text = values.get("port", "").strip()
    here = {cable.port_at(unit.id): cable for cable in site.cables_of(unit)}
    if not (text.isascii() and text.isdigit() and int(text) in here):
        ports = ", ".join(map(str, sorted(here)))
        raise RefusedInput("port", f"{text!r} was given; something is plugged into {ports}")
    here[int(text)].is_apart = False
    unit.feeding.ports_off.discard(int(text))
    site.changed()
    return recorded(
        site, unit, ActionOutcome(True, f"{unit.name}, port {text}: its power is on, it is in the cameras' VLAN")
    )


def _read_channel(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    text = values.get("channel", "").strip()
    entry = unit.entries.get(int(text)) if text.isascii() and text.isdigit() else None
    if not unit.runs or entry is None:
        why = "it does not run" if not unit.runs else f"nothing is on channel {text or '–'}"
        return recorded(site, unit, ActionOutcome(False, f"{unit.name} tells nothing: {why}"))
    parts = [
        f"“{entry.name}” at {address_text(entry.address)}, {entry.shown}",
        "its schedule records now" if entry.is_scheduled else "its schedule does not record now",
        "events are taken" if unit.recording.takes_events else "no events are taken",
        "the drives are healthy" if unit.recording.drives_work else "no drive works",
        f"kept for {figure(unit.recording.keeps_days)} days",
        f"the recorder's clock shows {shown(site, unit):%H:%M:%S}",
    ]
    return recorded(site, unit, ActionOutcome(True, f"{unit.name}, channel {text}: {'; '.join(parts)}"))


def _take_events(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    if trouble := recorder_trouble(unit):
        return recorded(site, unit, ActionOutcome(False, trouble))
    unit.recording.takes_events = True
    return recorded(site, unit, ActionOutcome(True, f"{unit.name} takes events"))


def _schedule(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    trouble = recorder_trouble(unit) or ("" if unit.entries else f"{unit.name} has no channel yet")
    if trouble:
        return recorded(site, unit, ActionOutcome(False, trouble))
    for entry in unit.entries.values():
        entry.is_scheduled = True
    return recorded(site, unit, ActionOutcome(True, f"{unit.name} records all its channels as planned"))


def _drive(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    unit.recording.drives_work = True
    return recorded(site, unit, ActionOutcome(True, f"{unit.name} has a new drive"))


def _rule(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    other, words = entered(site, unit, values)
    if other is None:
        return recorded(site, unit, ActionOutcome(False, f"The motion rule of {unit.name} stays: {words}"))
    other.rule = "on"
    return recorded(site, unit, ActionOutcome(not words, f"The motion rule of {other.name} is on, over the whole area"))


def _infrared(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    level = values.get("level", "half")
    if level not in INFRARED:
        raise RefusedInput("level", f"{level!r} was given; infrared is {', '.join(INFRARED)}")
    other, words = entered(site, unit, values)
    if other is None:
        return recorded(site, unit, ActionOutcome(False, f"The infrared of {unit.name} stays: {words}"))
    other.feeding.infrared_share = INFRARED[level]
    site.changed(other, wiring=False)
    return recorded(site, unit, ActionOutcome(not words, f"The infrared of {other.name} is at {level}"))


def _cap(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    other, words = entered(site, unit, values)
    if other is None or other.stream is None:
        return recorded(
            site, unit, ActionOutcome(False, f"The rate of {unit.name} stays: {words or 'it sends no stream'}")
        )
    other.stream.night_times = 1.0
    site.changed(other, wiring=False)
    return recorded(site, unit, ActionOutcome(not words, f"The rate of {other.name} is capped, by night too"))


def _supply(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    needed_w = sum(
        one.feeding.draw_w + one.feeding.infrared_w
        for cable in site.cables_of(unit)
        for one in (site.units[cable.far_end(unit.id)[0]],)
        if one.feeding.lead == "cable"
    )
    unit.feeding.budget_w = max(unit.feeding.budget_w, 1.25 * needed_w)
    site.changed()
    return recorded(site, unit, ActionOutcome(True, f"{unit.name} is replaced by one of {unit.feeding.budget_w:.0f} W"))


def _align(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    if unit.antenna is None:
        return ActionOutcome(False, f"{unit.name} has no radio")
    for cable in site.cables_of(unit):
        for end in (cable.a, cable.b) if cable.medium == "radio" else ():
            antenna = site.units[end].antenna
            if antenna is not None and (antenna.spare_db is None or antenna.spare_db < ALIGNED_DB):
                antenna.spare_db = ALIGNED_DB
    site.changed()
    return recorded(
        site, unit, ActionOutcome(True, f"The antennas of {unit.name} and its far end look at each other again")
    )


def _renew(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    for cable in site.cables_of(unit):
        if cable.medium == "copper":
            cable.is_wet, cable.plugged = False, True
            if cable.mbps < 100 and not cable.long_reach:
                cable.mbps = 100.0
    site.changed()
    return recorded(site, unit, ActionOutcome(True, f"The plugs of {unit.name} are crimped anew and sealed"))


def _finder_test(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    """A test that the fault finder asked for and the simulation answered: it is noted, and took its time."""
    return recorded(site, unit, ActionOutcome(True, values.get("words", "A test of the fault finder")))


def _replace(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    was = "It was broken" if unit.is_burnt else "It was not broken"
    unit.is_burnt = False
    site.changed()
    return recorded(site, unit, ActionOutcome(True, f"{unit.name} is replaced, set up as planned. {was}"))


SWITCHES: tuple[Literal["switch", "router", "recorder"], ...] = ("switch", "router", "recorder")
PORT = ActionField("port", "Port")
CHANNEL = ActionField("channel", "Channel", "channel")

SERVICING = (
    ActionKind(
        "read page",
        "Read its settings",
        ("camera", "bridge"),
        _read_page,
        (WEB,),
        "Address, clock, protocol, rule, events, radio",
    ),
    ActionKind(FINDER_TEST, "A test of the fault finder", ("camera",), _finder_test),
    ActionKind("read channel", "Read a channel's settings", ("recorder",), _read_channel, (CHANNEL,)),
    ActionKind(
        "read ports",
        "Read its ports",
        SWITCHES,
        _read_ports,
        tip="Link, speed, power and VLAN of each, and how it flickers",
    ),
    ActionKind("set port", "Port on, in the cameras' VLAN", SWITCHES, _set_port, (PORT,)),
    ActionKind("rule on", "Motion rule on", ("camera",), _rule, (WEB,)),
    ActionKind(
        "infrared",
        "Set its infrared",
        ("camera",),
        _infrared,
        (ActionField("level", "Level", "choice", tuple(INFRARED)), WEB),
        "It takes power on top, by night only",
    ),
    ActionKind("cap rate", "Cap its rate", ("camera",), _cap, (WEB,), "So that noise at night does not raise it"),
    ActionKind("take events", "Take events", ("recorder",), _take_events),
    ActionKind("schedule", "Record as planned", ("recorder",), _schedule),
    ActionKind("new drive", "Replace a drive", ("recorder",), _drive),
    ActionKind(
        "larger switch", "Replace by a larger one", ("switch",), _supply, tip="One with enough power for all infrared"
    ),
    ActionKind(
        "align", "Align its antenna", ("bridge",), _align, tip="With the far end: two people, and a ladder each"
    ),
    ActionKind("new plugs", "Crimp its plugs anew", ("camera",), _renew),
    ActionKind("replace", "Replace it", ("camera",), _replace, tip="The dearest test of all"),
)
