"""Actions on a device's own page: first-use set-up, address, open protocol, clock, radio, event target, update."""

from __future__ import annotations

from eager_lens.core.addressing.ipv4 import address_text, mac_address
from eager_lens.core.clock.zones import zone_named
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Recorder
from eager_lens.core.simulation.access import password_trouble
from eager_lens.core.simulation.actions.base import (
    WEB,
    ActionField,
    ActionKind,
    ActionOutcome,
    Values,
    answering,
    entered,
    number_of,
    recorded,
    stand_in,
    with_prefix,
)
from eager_lens.core.simulation.build import planned_side
from eager_lens.core.simulation.clocks import set_clock
from eager_lens.core.simulation.parts import NEVER_ASKED, Unit, UnitRole
from eager_lens.core.simulation.reach import take_address
from eager_lens.core.simulation.segments import CAMERAS
from eager_lens.core.simulation.service import update
from eager_lens.core.simulation.site import Site

PAGED: tuple[UnitRole, ...] = ("camera", "bridge", "recorder")


def _zone(values: Values, site: Site) -> str:
    """A named zone, or a fixed offset as ``+60`` minutes; the job's own where none is given.

    Raises:
        RefusedInput: when it is neither.
    """
    text = values.get("zone", "").strip() or site.job.time_zone
    if text[:1] in "+-" and text[1:].isdigit() and int(text[1:]) <= 14 * 60:
        return text
    try:
        zone_named(text)
    except ValueError as error:
        raise RefusedInput("zone", str(error)) from None
    return text


def _set_up(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    """First use. A recorder is set up on its own monitor; everything else has to be reached from the laptop."""
    new, zone = stand_in(values.get("new", "own"), unit), _zone(values, site)
    other: Unit | None = unit
    words = ""
    if unit.role == "recorder":
        if not unit.runs:
            return recorded(
                site, unit, ActionOutcome(False, f"{unit.name} does not run yet; give it its time to start")
            )
    else:
        other, words = answering(site, unit)
    if other is None:
        return recorded(site, unit, ActionOutcome(False, f"{unit.name} cannot be set up: {words}"))
    if other.access.is_set_up:
        return recorded(
            site, unit, ActionOutcome(False, f"{words + '; ' if words else ''}{other.name} is set up already")
        )
    trouble = password_trouble(other.profile, new)
    if trouble:
        return recorded(site, unit, ActionOutcome(False, f"{other.name} does not take it: {trouble}"))
    other.access.is_set_up, other.access.password = True, new
    other.access.recovery = values.get("recovery", "yes") == "yes"
    other.clock.zone = zone
    set_clock(site, other, 0.0)
    if isinstance(other.device, Recorder):
        _addresses_of_recorder(site, other, other.device)
    site.changed(other, wiring=False)
    noted = "" if other.access.recovery else "; no recovery contact: a forgotten password means a factory reset"
    outcome = ActionOutcome(not words, f"{words + ', and ' if words else ''}{other.name} is set up{noted}")
    return recorded(site, unit, outcome, lesson=bool(noted))


def _addresses_of_recorder(site: Site, unit: Unit, device: Recorder) -> None:
    for side in unit.sides:
        cameras = side.name == CAMERAS
        subnet_id, address = (
            (device.camera_interface_subnet, device.camera_interface_address)
            if cameras
            else (device.subnet, device.address)
        )
        plan = planned_side(site.job, side.name, subnet_id, address)
        take_address(site, unit, side, plan.address, plan.prefix, plan.gateway)


def _entered(site: Site, unit: Unit, values: Values) -> tuple[Unit | None, str]:
    """As ``entered``; a recorder is reached on its own monitor."""
    if unit.role != "recorder":
        return entered(site, unit, values)
    return (unit, "") if unit.runs and unit.access.is_set_up else (None, f"{unit.name} is not set up")


def _address(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    lease = values.get("way") == "lease"
    number, prefix = (0, 24) if lease else with_prefix(values.get("address", ""), "address")
    gateway = number_of(values["gateway"], "gateway") if values.get("gateway") else 0
    other, words = _entered(site, unit, values)
    if other is None:
        return recorded(site, unit, ActionOutcome(False, f"The address of {unit.name} stays: {words}"))
    side = other.sides[0]
    side.assignment = "lease" if lease else "fixed"
    take_address(site, other, side, number, prefix, gateway)
    for own in site.laptop.sides:
        own.neighbours.pop(number, None)
    if lease:
        site.event_queue.after(2.0, other.id, "ask lease", 0)
    what = "asks for a lease" if lease else f"takes {address_text(number)}/{prefix}"
    return recorded(site, unit, ActionOutcome(not words, f"{words + ': ' if words else ''}{other.name} {what}"))


def _open_protocol(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    user = stand_in(values.get("new", "own"), unit)
    other, words = entered(site, unit, values)
    if other is None:
        return recorded(site, unit, ActionOutcome(False, f"The open protocol of {unit.name} stays as it is: {words}"))
    other.access.open_on = True
    other.access.open_password = user
    site.changed(other, wiring=False)
    words = f"{words}; " if words else ""
    return recorded(
        site, unit, ActionOutcome(not words, f"{words}the open protocol of {other.name} is on, with a user of its own")
    )


def _time(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    zone = _zone(values, site)
    server = values.get("server", "").strip()
    number = number_of(server, "server") if server else 0
    other, words = _entered(site, unit, values)
    if other is None:
        return recorded(site, unit, ActionOutcome(False, f"The clock of {unit.name} stays: {words}"))
    other.clock.zone, other.clock.server, other.clock.last_ok_s = zone, number, NEVER_ASKED
    other.clock.polled += 1
    if number:
        site.event_queue.after(1.0, other.id, "poll clock", other.clock.polled)
    else:
        set_clock(site, other, 0.0)
    site.changed(other, wiring=False)
    fixed = zone[:1] in "+-"
    source = f"asks {server} for the time" if number else "is set from the laptop"
    note = "; a fixed offset misses summer time" if fixed else ""
    return recorded(
        site,
        unit,
        ActionOutcome(not words, f"{words + '; ' if words else ''}{other.name} {source}, zone {zone}{note}"),
        fixed,
    )


def _radio(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    end = values.get("end", "client")
    if end not in ("access point", "client"):
        raise RefusedInput("end", f"{end!r} was given; a radio is an access point or a client")
    if unit.antenna is None:
        return ActionOutcome(False, f"{unit.name} has no radio")
    other, words = entered(site, unit, values)
    if other is None or other.antenna is None:
        return recorded(
            site, unit, ActionOutcome(False, f"The radio of {unit.name} stays: {words or 'what answered has no radio'}")
        )
    other.antenna.end = "access point" if end == "access point" else "client"
    other.antenna.network, other.antenna.key = values.get("network", ""), values.get("key", "")
    site.changed()
    return recorded(
        site,
        unit,
        ActionOutcome(
            not words, f"{words + '; ' if words else ''}{other.name} is the {end} of “{other.antenna.network}”"
        ),
    )


def _target(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    number = number_of(values.get("address", ""), "address")
    other, words = entered(site, unit, values)
    if other is None:
        return recorded(site, unit, ActionOutcome(False, f"The event target of {unit.name} stays: {words}"))
    other.event_target = number
    return recorded(
        site,
        unit,
        ActionOutcome(
            not words, f"{words + '; ' if words else ''}{other.name} sends its events to {address_text(number)}"
        ),
    )


def _update(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    other, words = _entered(site, unit, values)
    if other is None:
        return recorded(site, unit, ActionOutcome(False, f"{unit.name} is not updated: {words}"))
    if other.firmware == other.profile.firmware_now:
        return ActionOutcome(True, f"{other.name} is at {other.firmware} already")
    update(site, other)
    return ActionOutcome(not words, f"{words + '; ' if words else ''}{other.name} updates itself")


def _reserve(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    """A line in the router: this MAC address always gets that address."""
    server = site.servers.get(unit.id)
    if not unit.runs or server is None:
        return recorded(site, unit, ActionOutcome(False, f"{unit.name} does not run, or leases nothing"))
    number = number_of(values.get("address", ""), "address")
    try:
        hardware = mac_address(values.get("hardware", ""))
    except ValueError as error:
        raise RefusedInput("hardware", str(error)) from None
    if not hardware:
        raise RefusedInput("hardware", "a reservation is for a MAC address; read it from the label")
    if not server.subnet.is_host(number):
        return recorded(
            site,
            unit,
            ActionOutcome(False, f"{unit.name} does not take it: {address_text(number)} is outside its subnet"),
        )
    server.reserved[hardware] = number
    return recorded(site, unit, ActionOutcome(True, f"{unit.name} reserves {address_text(number)} for {hardware}"))


NEW = ActionField("new", "New password", "password")
ZONE = ActionField("zone", "Time zone", "zone")

SETTING = (
    ActionKind(
        "set up",
        "First-use set-up",
        PAGED,
        _set_up,
        (NEW, ZONE, ActionField("recovery", "Recovery contact", "yes")),
        "Region, time zone, first password, recovery contact; until then a device answers searches only",
    ),
    ActionKind(
        "address",
        "Change its address",
        PAGED,
        _address,
        (
            ActionField("address", "Address and size", "address"),
            ActionField("gateway", "Gateway", "address"),
            ActionField("way", "Way", "choice", ("fixed", "lease")),
            WEB,
        ),
    ),
    ActionKind(
        "open protocol",
        "Open protocol on, with a user",
        ("camera",),
        _open_protocol,
        (ActionField("new", "Its user's password", "password"), WEB),
        "Off out of the box on most; its user is another than the web user",
    ),
    ActionKind(
        "time",
        "Set its clock",
        PAGED,
        _time,
        (ActionField("server", "Time server", "address", hint="once, from the laptop"), ZONE, WEB),
    ),
    ActionKind(
        "radio",
        "Set its radio",
        ("bridge", "camera"),
        _radio,
        (
            ActionField("end", "End", "choice", ("access point", "client")),
            ActionField("network", "Network name"),
            ActionField("key", "Key (a stand-in)"),
            WEB,
        ),
        "Names and keys are case-sensitive; a camera's cable, while plugged in, wins over its radio",
    ),
    ActionKind(
        "target", "Set where its events go", ("camera",), _target, (ActionField("address", "Address", "address"), WEB)
    ),
    ActionKind(
        "reserve",
        "Reserve an address",
        ("router",),
        _reserve,
        (ActionField("hardware", "MAC address"), ActionField("address", "Address", "address")),
        "The device then asks for a lease and always gets this one",
    ),
    ActionKind(
        "update", "Update its firmware", PAGED, _update, (WEB,), "Restarts it; its power must not fail meanwhile"
    ),
)
