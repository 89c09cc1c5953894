"""What the tests of the fault finder show on the simulated site: answers by what is so there, not by the table.

What would change the site (another port, another codec, a hand over the light sensor) is tried on a copy of it. What the
simulation does not know, nobody can say.
"""

from __future__ import annotations

from collections.abc import Callable

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.fault_finder.clock_outcome import HOUR_S, clock_outcome
from eager_lens.core.fault_finder.site_view import OWN, SiteView
from eager_lens.core.job.model import Recorder
from eager_lens.core.simulation.access import log_in, log_in_open
from eager_lens.core.simulation.air import radio_rests, signal_bars
from eager_lens.core.simulation.channels import is_too_narrow
from eager_lens.core.simulation.clocks import serves_time, shown_apart_s
from eager_lens.core.simulation.disturbance import LossKind, is_looped
from eager_lens.core.simulation.motion_chain import taking
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.reach import reached
from eager_lens.core.simulation.segments import INTERNET, interface_of, is_up
from eager_lens.core.validation import at_most

WAIT_S = 300.0
SLOW_MBPS = 10.0
"""A cable that came up at this speed has a pair open, unless its port is a long-reach port."""
CLIP_DAYS_AGO = 5.0
"""A clip that is looked for is so old."""
FULL_SHARE, MORE_TIMES = 0.95, 1.8
SUBSTREAM_MBPS = 0.6
"""Assumed of a substream that the plan does not give."""


def answer_on_site(at: SiteView, test_id: str) -> str | None:
    """What a test shows, in the table's words; None where the simulation cannot say."""
    found = _TESTS.get(test_id)
    return found(at) if found is not None else None


# ---- address and power ----------------------------------------------------------------------------------------------


def _status(at: SiteView) -> str:
    seen = at.seen()
    if seen is None:
        return "no entry, or no channel free"
    if seen.status in ("receiving", "alternating"):
        return "receiving" if seen.unit_id == at.unit.id else "connected, no picture"
    if seen.status == "refused":
        return "password refused"
    return "connected, no picture" if seen.unit_id == at.unit.id else "no connection"


def _ping(at: SiteView) -> str:
    if at.at_address().unit is None:
        return "no answer"
    return "some are lost" if {one.kind for one in at.lost()} & {"wet", "weak", "loop"} else "answers"


def _held(at: SiteView) -> str:
    found = at.at_address()
    if found.unit is None:
        return "none"
    return "{mac}" if found.unit is at.unit and not found.twins else "another, or two in turn"


def _stranger(at: SiteView) -> str:
    others = [unit for unit, _ in at.site.holding(at.planned) if unit is not at.unit and unit.runs]
    if not others:
        return "there is no other"
    return "a camera" if others[0].role == "camera" else "a telephone or another device"


def _search(at: SiteView) -> str:
    address = at.heard_at()
    if address is None:
        return "not in the list"
    if any(unit is not at.unit for unit, _ in at.site.holding(address)):
        return "at another device's address"
    return "at {address}" if address == at.planned else "at an unused address"


def _default_address(at: SiteView) -> str:
    address = at.heard_at()
    if address is None:
        return "it is not in the list"
    first = at.unit.profile.first_address
    return "yes" if first and address == address_number(first) else "no"


def _login(at: SiteView) -> str:
    found = at.at_address()
    if found.unit is None:
        return "nothing opens"
    if found.unit is not at.unit:
        return "another device's page" if found.unit.role != "phone" else "nothing opens"
    words = {"not set up": "wants first-use set-up", "in": "taken", "locked": "locked"}
    return words.get(log_in(at.site, at.unit, f"{OWN}{at.unit.id}"), "refused")


def _stream(at: SiteView) -> str:
    found = at.at_address()
    if found.unit is None or found.unit.role != "camera":
        return "nothing"
    if found.twins:
        return "breaks or stutters"
    outcome = log_in_open(at.site, found.unit, f"{OWN}{at.unit.id}", at.site.laptop)
    if outcome in ("off", "no user", "not set up"):
        return "nothing"
    if outcome != "in":
        return "refused"
    stream = at.unit.stream
    too_slow = stream is not None and any(is_too_narrow(one, stream.peak_mbps) for one in at.own_cables)
    return "breaks or stutters" if too_slow or at.lost() else "plays well"


def _protocol_set(at: SiteView) -> str:
    if _login(at) != "taken":
        return "the page cannot be reached"
    return "yes" if at.unit.access.open_on else "no"


def _wait(at: SiteView) -> str:
    at.site.run_to(at.site.now_s + WAIT_S)
    return "yes" if at.comes and not at.at_address().twins else "no"


def _is_slow(at: SiteView) -> bool:
    return any(one.mbps <= SLOW_MBPS and not one.long_reach for one in at.own_cables)


def _is_wet(at: SiteView) -> bool:
    """Whether water stands in a plug of its own, and it rains."""
    return at.site.rains and any(one.is_wet for one in at.own_cables)


def _link(at: SiteView) -> str:
    if at.link_is_up and _is_wet(at):
        return "goes on and off"
    return "on" if at.link_is_up else "off"


def _power(at: SiteView) -> str:
    host = at.host
    if at.unit.feeding.source:
        return "as planned, about {power_w}"
    if host is not None and any(one.port_at(host.id) in host.feeding.ports_off for one in at.own_cables):
        return "switched off"
    plugged = any(one.plugged for one in at.own_cables)
    if host is not None and host.runs and plugged and not at.unit.is_burnt and "W left" in at.unit.feeding.why_dark:
        return "refused: over the budget"
    return "none"


def _lamp(at: SiteView) -> str:
    return "yes" if at.unit.is_lit else "no"


def _others(at: SiteView) -> str | None:
    host = at.host
    if host is None:
        return None
    here = [cable.far_end(host.id)[0] for cable in at.site.cables_of(host)]
    cameras = [one for one in at.site.job.cameras if one.id in here and one.id != at.unit.id]
    there = [_is_there(SiteView(at.site, at.site.units[one.id], one)) for one in cameras]
    if not there:
        return None
    return "all" if all(there) else "some are missing" if any(there) else "none"


def _is_there(other: SiteView) -> bool:
    seen = other.seen()
    return other.unit.runs if seen is None else seen.status in ("receiving", "alternating")


def _swap_port(at: SiteView) -> str:
    def swap(view: SiteView) -> None:
        host = view.host
        for cable in view.own_cables:
            cable.is_apart = False
            if host is not None:
                host.feeding.ports_off.discard(cable.port_at(host.id))
            if cable.long_reach:
                cable.long_reach, cable.mbps = False, 100.0

    return "yes" if at.tried(swap).comes else "no"


def _cable_test(at: SiteView) -> str:
    bad = _is_slow(at) or any(not one.plugged for one in at.own_cables)
    return "a pair open or crossed" if bad else "every pair good"


def _short_cable(at: SiteView) -> str:
    """Another device on the same cable comes where port, cable and what is behind it are right."""

    def heal(view: SiteView) -> None:
        unit = view.unit
        unit.is_burnt = False
        unit.sides[0].address = view.planned
        unit.access.is_set_up = unit.access.open_on = True
        unit.access.password = unit.access.open_password = f"{OWN}{unit.id}"
        unit.clock.offset_s = 0.0
        unit.access.locked_until_s = 0.0

    healed = at.tried(heal)
    return "yes" if healed.link_is_up and healed.at_address().unit is not None and not healed.lost() else "no"


def _speed(at: SiteView) -> str:
    if not at.link_is_up:
        return "no link"
    if _is_slow(at):
        return "slower"
    return "errors count up" if _is_wet(at) else "as planned, none"


def _vlan_read(at: SiteView) -> str:
    return "no" if any(one.is_apart for one in at.own_cables) else "yes"


def _uplink_light(at: SiteView) -> str | None:
    host = at.host
    if host is None:
        return None
    if not host.runs:
        return "the switch is dark"
    further = [cable for cable, _ in at.planned_path() if cable not in at.own_cables]
    return None if not further else "on" if is_up(further[0], at.site.units) else "off"


def _route(at: SiteView) -> str | None:
    recorder = at.recorder
    if recorder is None or not recorder.sides[0].address:
        return None
    return "answers" if reached(at.site, at.site.laptop, recorder.sides[0].address).unit is recorder else "no answer"


def _router_plug(at: SiteView) -> str:
    for cable, unit in at.planned_path():
        if unit.role == "router" and interface_of(unit, cable.port_at(unit.id), cable.id)[1] == INTERNET:
            return "the WAN port"
    return "a LAN port"


def _recorder_runs(at: SiteView) -> str | None:
    recorder = at.recorder
    if recorder is None:
        return None
    if not recorder.is_lit:
        return "dark"
    linked = any(is_up(cable, at.site.units) for cable in at.site.cables_of(recorder))
    return "runs, link light on" if linked else "runs, link light off"


# ---- what gets lost -------------------------------------------------------------------------------------------------


def _wire_in(at: SiteView) -> str:
    return "yes" if radio_rests(at.unit, at.site.cables_of(at.unit), at.site.units) else "no"


def _signal(at: SiteView) -> str | None:
    radio = [cable for cable, _ in at.planned_path() if cable.medium == "radio"]
    if not radio:
        return None
    if not is_up(radio[0], at.site.units):
        return "not connected"
    return "6 dB or more weaker" if signal_bars(radio[0], at.site.units) == 1 else "as planned"


def _weather(at: SiteView) -> str:
    """What a person who watches the pictures can report."""
    kinds = _loss_kinds(at)
    if "wet" in kinds:
        return "after rain or in the heat"
    if "weak" in kinds:
        return "when vehicles pass, or in wind"
    return "when it gets dark" if at.comes and not at.in_the_dark(everywhere=True).comes else "no pattern"


def _loss_kinds(at: SiteView) -> set[LossKind]:
    return {one.kind for one in at.lost()}


def _loss(at: SiteView) -> str:
    found = at.at_address()
    if found.unit is None:
        return "all"
    kinds = _loss_kinds(at)
    if kinds & {"weak", "loop"} or _is_slow(at):
        return "a few all the time"
    return "many at once, then none" if kinds or found.twins else "none"


def _flicker(at: SiteView) -> str:
    return "yes" if is_looped(at.site, at.unit) else "no"


def _incoming(at: SiteView) -> str | None:
    recorder = at.recorder
    if recorder is None or not isinstance(recorder.device, Recorder):
        return None
    sending = {one.from_unit for one in recorder.entries.values()} | {at.unit.id}
    units = [at.site.units[one] for one in sending if one in at.site.units]
    total_mbps = sum(one.stream.rate_mbps for one in units if one.stream is not None and one.runs)
    below = at_most(total_mbps, FULL_SHARE * recorder.device.incoming_limit_mbps)
    return "well below" if below else "at or over the limit"


def _infrared(at: SiteView) -> str:
    return "yes" if at.comes and not at.in_the_dark(everywhere=False).comes else "no"


def _night_power(at: SiteView) -> str:
    night = at.in_the_dark(everywhere=True)
    over = _power(night) == "refused: over the budget"
    return (
        "yes" if night.unit.feeding.source else "no: over the budget" if over else "no, or on and off, without a reason"
    )


def _night_rate(at: SiteView) -> str:
    night = at.in_the_dark(everywhere=True)
    stream = night.unit.stream
    if not night.unit.runs or stream is None:
        return "no stream to read"
    return "twice or more" if stream.times(dark=True) >= MORE_TIMES else "near the plan"


def _other_codec(at: SiteView) -> str:
    def lower(view: SiteView) -> None:
        stream = view.unit.stream
        if stream is not None:
            stream.codec, stream.width_px, stream.height_px = "h264", 1280, 720
            stream.rate_mbps, stream.peak_mbps = min(stream.rate_mbps, 2.0), min(stream.peak_mbps, 4.0)

    return "yes" if at.tried(lower).comes else "no"


# ---- the recorder's entry, clocks, motion, remote viewing ------------------------------------------------------------


def _entry_read(at: SiteView) -> str:
    there = at.entry()
    if there is None:
        return "there is no entry"
    return "yes" if there[1].address == at.planned else "no"


def _retype(at: SiteView) -> str:
    there = at.entry()
    if there is None:
        return "no"
    entry, before = there[1], there[1].password
    entry.password = f"{OWN}{at.unit.id}"
    comes = at.comes
    entry.password = before
    return "yes" if comes else "no"


def _clock_words(at: SiteView, unit: Unit) -> str:
    return clock_outcome(shown_apart_s(at.site, unit))


def _clock(at: SiteView) -> str | None:
    seen = at.seen()
    shows = seen is not None and seen.unit_id == at.unit.id and seen.status in ("receiving", "alternating")
    return _clock_words(at, at.unit) if shows or _login(at) == "taken" else None


def _recorder_clock(at: SiteView) -> str | None:
    recorder = at.recorder
    if recorder is None or not recorder.runs:
        return None
    return "right" if _clock_words(at, recorder) == "right" else "off"


def _time_server(at: SiteView) -> str | None:
    if _login(at) != "taken":
        return None
    server = at.unit.clock.server
    found = reached(at.site, at.unit, server).unit if server else None
    return "as planned, answered" if found is not None and serves_time(found) else "none, or no answer"


def _mark(at: SiteView) -> str:
    return {"on": "yes", "blind": "only close by", "off": "no"}[at.unit.rule]


def _rule_read(at: SiteView) -> str:
    return "off" if at.unit.rule == "off" else "on"


def _event_sent(at: SiteView) -> str | None:
    recorder = at.recorder
    if recorder is None:
        return None
    own = {side.address for side in recorder.sides}
    planned = address_number(at.camera.event_target) if at.camera.event_target else 0
    return "yes" if at.unit.event_target in {*own, planned} - {0} else "to another address or port"


def _events_taken(at: SiteView) -> str | None:
    recorder = at.recorder
    if recorder is None:
        return None
    return "yes" if recorder.recording.takes_events else "switched off, or another port"


def _event_seen(at: SiteView) -> str | None:
    if at.recorder is None:
        return None
    sent = at.unit.rule == "on" and _event_sent(at) == "yes" and _events_taken(at) == "yes"
    return "yes" if sent and at.comes else "no"


def _schedule_hours(at: SiteView) -> str | None:
    there = at.entry()
    return None if there is None else "yes" if there[1].is_scheduled else "no"


def _drives(at: SiteView) -> str | None:
    recorder = at.recorder
    if recorder is None or not recorder.runs:
        return None
    return "healthy, recording" if recorder.recording.drives_work else "failed, or not recording"


def _oldest(at: SiteView) -> str | None:
    recorder = at.recorder
    if recorder is None or not recorder.runs:
        return None
    if not recorder.recording.drives_work:
        return "there is none at all"
    return "older" if recorder.recording.keeps_days >= CLIP_DAYS_AGO else "younger"


def _nearby(at: SiteView) -> str | None:
    """Whether a clip that is not where it should be is within an hour of it."""
    recorder = at.recorder
    if recorder is None or not recorder.runs:
        return None
    kept = recorder.recording.keeps_days >= CLIP_DAYS_AGO and any(not one.trouble for one in taking(at.site, at.unit))
    off_s = abs(shown_apart_s(at.site, recorder))
    return "yes" if kept and CLOCK_WITHIN_S < off_s <= HOUR_S + CLOCK_WITHIN_S else "no"


def _has_gateway(at: SiteView) -> bool:
    recorder = at.recorder
    return recorder is not None and bool(recorder.sides[0].gateway)


def _inside(at: SiteView) -> str:
    return "yes" if at.comes and at.site.outside.viewer_may else "no"


def _internet(at: SiteView) -> str:
    return "yes" if at.site.outside.has_internet else "no"


def _relay(at: SiteView) -> str:
    if not at.site.outside.has_internet or not _has_gateway(at):
        return "no connection"
    return "connected" if at.site.outside.relay_on else "off, or wrong code"


def _gateway_read(at: SiteView) -> str:
    return "yes" if _has_gateway(at) else "no"


def _one_picture(at: SiteView) -> str:
    if _relay(at) != "connected" or _inside(at) == "no":
        return "no picture"
    wanted_mbps = at.camera.substream_mbps or SUBSTREAM_MBPS
    return "yes" if at_most(wanted_mbps, at.site.outside.upload_mbps) else "stutters"


_TESTS: dict[str, Callable[[SiteView], str | None]] = {
    "status": _status,
    "ping": _ping,
    "default-address": _default_address,
    "held": _held,
    "stranger": _stranger,
    "search": _search,
    "login": _login,
    "stream": _stream,
    "protocol-set": _protocol_set,
    "entry-read": _entry_read,
    "retype": _retype,
    "wait": _wait,
    "link": _link,
    "power": _power,
    "lamp": _lamp,
    "others": _others,
    "swap-port": _swap_port,
    "cable-test": _cable_test,
    "short-cable": _short_cable,
    "speed": _speed,
    "vlan-read": _vlan_read,
    "uplink-light": _uplink_light,
    "route": _route,
    "router-plug": _router_plug,
    "recorder-runs": _recorder_runs,
    "wire-in": _wire_in,
    "signal": _signal,
    "weather": _weather,
    "loss": _loss,
    "flicker": _flicker,
    "incoming": _incoming,
    "infrared": _infrared,
    "night-power": _night_power,
    "night-rate": _night_rate,
    "other-codec": _other_codec,
    "clock": _clock,
    "recorder-clock": _recorder_clock,
    "time-server": _time_server,
    "mark": _mark,
    "rule-read": _rule_read,
    "event-sent": _event_sent,
    "events-taken": _events_taken,
    "event-seen": _event_seen,
    "schedule-hours": _schedule_hours,
    "drives": _drives,
    "oldest": _oldest,
    "nearby": _nearby,
    "inside": _inside,
    "internet": _internet,
    "relay": _relay,
    "gateway-read": _gateway_read,
    "one-picture": _one_picture,
}
"""The tests that the simulation can answer, by their ids in the table."""
