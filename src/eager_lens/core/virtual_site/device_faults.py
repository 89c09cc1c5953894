"""Faults of a camera itself: its address, users, clock, stream, motion rule."""

from __future__ import annotations

from collections.abc import Callable

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.errors import RefusedInput
from eager_lens.core.simulation.clocks import set_clock
from eager_lens.core.simulation.parts import DEFAULT_PASSWORD, Habit, Unit
from eager_lens.core.simulation.service import as_delivered
from eager_lens.core.simulation.site import Site
from eager_lens.core.virtual_site.commissioned import camera_cables
from eager_lens.core.virtual_site.fault import Fault

HOUR_S, DAY_S = 3600.0, 86_400.0
SLOW_START_S = 20.0
DRIFT_PPM = 4000.0
BEHIND_DAYS = 200.0
NIGHT_TIMES = 4.0
STRANGER = "stranger-"
FASTER = 2.0
"""Factor of frame rate and bit rate of a stream with wrong settings."""


def _twin(site: Site, unit: Unit) -> str:
    other = _another(site, unit)
    unit.sides[0].address = other.sides[0].address
    return f"{unit.name} holds {address_text(unit.sides[0].address)}, the address of {other.name}"


def _another(site: Site, unit: Unit) -> Unit:
    """Another camera, in the same subnet if there is one."""
    others = [one for one in site.units.values() if one.role == "camera" and one is not unit and one.sides[0].address]
    near = [one for one in others if one.sides[0].subnet == unit.sides[0].subnet] or others
    if not near:
        raise RefusedInput("fault", f"{unit.name} has no other camera whose address it could share")
    return near[0]


def _out_of_box(site: Site, unit: Unit) -> str:
    as_delivered(unit)
    return f"{unit.name} is as it came out of its box, at {address_text(unit.sides[0].address)}"


def _wrong_subnet(site: Site, unit: Unit) -> str:
    side = unit.sides[0]
    shift = 1 << (32 - side.prefix)
    side.address ^= shift
    side.gateway = side.gateway ^ shift if side.gateway else (side.address & ~(shift - 1)) | 1
    return f"{unit.name} is at {address_text(side.address)}, one subnet beside its own"


def _other_password(site: Site, unit: Unit) -> str:
    unit.access.password = unit.access.open_password = f"other:{unit.id}"
    return f"{unit.name} has another password than the one that is noted"


def _default_password(site: Site, unit: Unit) -> str:
    unit.access.password = unit.access.open_password = DEFAULT_PASSWORD
    return f"{unit.name} still has its default password"


def _protocol_off(site: Site, unit: Unit) -> str:
    unit.access.open_on = False
    return f"the open protocol of {unit.name} is off: no stream, no answer to a search"


def _slow_start(site: Site, unit: Unit) -> str:
    unit.phase, unit.ready_s = "starting", site.now_s + SLOW_START_S
    site.event_queue.after(SLOW_START_S, unit.id, "started", unit.boots)
    site.changed(unit, wiring=False)
    return f"{unit.name} answers after {SLOW_START_S:.0f} s only"


def _frozen_lease(site: Site, unit: Unit) -> str:
    stranger_id = f"{STRANGER}{unit.id}"
    stranger = Unit(
        stranger_id,
        "A telephone",
        "phone",
        f"06:{unit.mac_address[3:]}",
        "",
        unit.profile,
        unit.chance,
        phase="running",
    )
    stranger.sides[0].address, stranger.sides[0].prefix = unit.sides[0].address, unit.sides[0].prefix
    stranger.host = next((cable.far_end(unit.id)[0] for cable in camera_cables(site, unit)), "")
    stranger.access.is_set_up = True
    site.units[stranger_id] = stranger
    site.guest_came()
    site.changed()
    return f"the router leased {address_text(unit.sides[0].address)} to a telephone; {unit.name} has it as well"


def _other_settings(site: Site, unit: Unit) -> str:
    stream = unit.stream
    if stream is None:
        raise RefusedInput("fault", f"{unit.name} sends no stream")
    stream.fps, stream.rate_mbps, stream.peak_mbps = (
        stream.fps * FASTER,
        stream.rate_mbps * FASTER,
        stream.peak_mbps * FASTER,
    )
    return f"{unit.name} sends {stream.fps:g} fps instead of {stream.fps / FASTER:g}"


def _clock_hour(site: Site, unit: Unit) -> str:
    unit.clock.server = 0
    set_clock(site, unit, HOUR_S)
    return f"the clock of {unit.name} is an hour ahead, and asks nobody"


def _clock_drift(site: Site, unit: Unit) -> str:
    unit.clock.server, unit.clock.drift_ppm = 0, DRIFT_PPM
    return f"the clock of {unit.name} gains {DRIFT_PPM * 3600 / 1e6:.0f} s an hour, and asks nobody"


def _address_taken(site: Site, unit: Unit) -> str:
    other = _another(site, unit)
    other.sides[0].address = unit.sides[0].address
    site.changed(other, wiring=False)
    return f"{other.name} holds {address_text(unit.sides[0].address)}, the address of {unit.name}, as well"


def _broken(site: Site, unit: Unit) -> str:
    unit.is_burnt = True
    site.changed(unit, wiring=False)
    site.settle()
    return f"{unit.name} is broken and takes no power"


def _clock_days(site: Site, unit: Unit) -> str:
    unit.clock.server = 0
    set_clock(site, unit, -BEHIND_DAYS * DAY_S)
    return f"the clock of {unit.name} is {BEHIND_DAYS:.0f} days behind, and asks nobody"


def _time_zone(site: Site, unit: Unit) -> str:
    local = site.local().utcoffset()
    minutes = int((local.total_seconds() if local is not None else 0) // 60) + 60
    unit.clock.zone = f"{minutes:+d}"
    return f"the clock of {unit.name} stands at a fixed offset of {minutes:+d} min, an hour beside the local time"


def _night_noise(site: Site, unit: Unit) -> str:
    if unit.stream is None:
        raise RefusedInput("fault", f"{unit.name} sends no stream")
    unit.stream.night_times = NIGHT_TIMES
    site.is_disturbed = True
    return f"in the dark, noise makes {unit.name} send {NIGHT_TIMES:g} times the planned rate"


def _rule_off(site: Site, unit: Unit) -> str:
    unit.rule = "off"
    return f"the motion rule of {unit.name} is off"


def _rule_blind(site: Site, unit: Unit) -> str:
    unit.rule = "blind"
    return f"the motion rule of {unit.name} sees only who comes close"


def _event_target(site: Site, unit: Unit) -> str:
    if not unit.event_target:
        raise RefusedInput("fault", f"{unit.name} sends no events")
    unit.event_target ^= 1
    return f"{unit.name} sends its events to {address_text(unit.event_target)}, where nobody takes them"


def _cap_not_set(site: Site, unit: Unit) -> str:
    if unit.stream is None or unit.stream.cap_mbps is None:
        raise RefusedInput("fault", f"{unit.name} has no planned maximum bit rate that could be missing")
    unit.stream.cap_mbps = None
    return f"no maximum bit rate is set at {unit.name}"


def _habit(habit: Habit, words: str) -> Callable[[Site, Unit], str]:
    def put(site: Site, unit: Unit) -> str:
        unit.habits.add(habit)
        return f"{unit.name} {words}"

    return put


DEVICE_FAULTS = (
    Fault("twin", "holds the address of another camera", _twin),
    Fault("address-taken", "another camera holds its address as well", _address_taken),
    Fault("out-of-box", "not set up yet, at its default address", _out_of_box),
    Fault("wrong-subnet", "in the subnet beside its own", _wrong_subnet),
    Fault("wrong-password", "has another password than noted", _other_password),
    Fault("default-password", "still has its default password", _default_password),
    Fault("protocol-off", "its open protocol is off", _protocol_off),
    Fault("slow-start", "takes long until it answers", _slow_start),
    Fault("broken", "broken: takes no power", _broken),
    Fault("frozen-lease", "its address was leased to a telephone too", _frozen_lease),
    Fault("other-settings", "sends twice the planned frame rate", _other_settings),
    Fault("cap-not-set", "has no maximum bit rate set", _cap_not_set),
    Fault("loose-answers", "answers not quite by the standard", _habit("loose", "answers not quite by the standard")),
    Fault(
        "tls-only",
        "answers over TLS alone",
        _habit("tls-only", "answers over TLS alone, with a certificate of its own"),
    ),
    Fault(
        "wants-both",
        "wants two log-ins at once",
        _habit("wants-both", "wants both log-ins at once, HTTP's and the token"),
    ),
    Fault("refuses", "refuses a setting that it says it takes", _habit("refuses", "refuses how its stream is set")),
    Fault("slow", "takes ten times as long to start again", _habit("slow", "takes ten times as long to start again")),
    Fault("night-noise", "sends four times its rate in the dark", _night_noise, on_network=False),
    Fault("clock-hour", "its clock is an hour off", _clock_hour),
    Fault("clock-days", "its clock is 200 days behind", _clock_days),
    Fault("clock-drift", "its clock runs off", _clock_drift),
    Fault("time-zone", "its time zone is wrong", _time_zone),
    Fault("rule-off", "its motion rule is off", _rule_off),
    Fault("rule-blind", "its motion rule sees only who comes close", _rule_blind, on_network=False),
    Fault("event-target", "sends its events elsewhere", _event_target),
)
