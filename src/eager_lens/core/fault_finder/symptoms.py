"""What would be seen of a camera on the simulated site, and the causes of the table that faults there stand for."""

from __future__ import annotations

from collections.abc import Iterable, Set

from eager_lens.core.fault_finder.on_site import SUBSTREAM_MBPS, answer_on_site
from eager_lens.core.fault_finder.site_view import SiteView
from eager_lens.core.simulation.clocks import shown_apart_s
from eager_lens.core.simulation.motion_chain import taking

CAUSES_OF: dict[str, frozenset[str]] = {
    "twin": frozenset({"intruder"}),
    "address-taken": frozenset({"twin"}),
    "out-of-box": frozenset({"out-of-box"}),
    "wrong-subnet": frozenset({"subnet"}),
    "wrong-password": frozenset({"password"}),
    "default-password": frozenset({"password"}),
    "protocol-off": frozenset({"protocol"}),
    "slow-start": frozenset({"starting"}),
    "broken": frozenset({"dead"}),
    "frozen-lease": frozenset({"lease"}),
    "night-noise": frozenset({"night-rate"}),
    "clock-hour": frozenset({"no-server", "clock-far"}),
    "clock-days": frozenset({"no-server", "clock-far"}),
    "clock-drift": frozenset({"no-server", "clock-far"}),
    "time-zone": frozenset({"zone"}),
    "rule-off": frozenset({"rule-off"}),
    "rule-blind": frozenset({"rule-blind"}),
    "event-target": frozenset({"event-target"}),
    "unplugged": frozenset({"cable"}),
    "slow-link": frozenset({"slow-pair"}),
    "wet-plug": frozenset({"wet"}),
    "port-off": frozenset({"unpowered"}),
    "budget": frozenset({"budget"}),
    "night-budget": frozenset({"budget"}),
    "supply-off": frozenset({"supply"}),
    "switch-off": frozenset({"switch-off"}),
    "other-vlan": frozenset({"vlan"}),
    "uplink-out": frozenset({"uplink"}),
    "uplink-narrow": frozenset({"peaks"}),
    "loop": frozenset({"loop"}),
    "weak-radio": frozenset({"radio-weak"}),
    "long-reach-slow": frozenset({"long-reach"}),
    "no-channel": frozenset({"channel-full"}),
    "old-entry": frozenset({"entry"}),
    "other-codec": frozenset({"codec"}),
    "overload": frozenset({"overload"}),
    "recorder-off": frozenset({"recorder-off"}),
    "recorder-clock": frozenset({"recorder-clock"}),
    "events-off": frozenset({"events-off"}),
    "schedule-gap": frozenset({"schedule"}),
    "drive-failed": frozenset({"drive"}),
    "overwritten": frozenset({"erased"}),
    "no-internet": frozenset({"no-internet"}),
    "no-gateway": frozenset({"gateway"}),
    "relay-off": frozenset({"relay"}),
    "viewer-password": frozenset({"viewer-password"}),
    "slow-upload": frozenset({"upload"}),
}
"""By the name of a fault on the site, the causes of the table that it is. A clock that is wrong and asks nobody is both: log-ins
fail by the first, and it came to be by the second."""

SHARED_FAULTS = frozenset(
    {"budget", "switch-off", "uplink-out", "uplink-narrow", "loop", "weak-radio", "supply-off"}
    | {"overload", "recorder-off"}
)
"""Faults of a part that several cameras hang on."""

WRONG_CLOCK_S = 60.0
"""A clock that is off by less is noticed by nobody."""


def true_causes(at: SiteView, faults: Iterable[str]) -> frozenset[str]:
    """The causes of the table that hold on the site after faults: their own, and what they brought about."""
    found = frozenset().union(*(CAUSES_OF[fault] for fault in faults))
    if "recorder-off" in found and at.host is at.recorder:
        found = found - {"recorder-off"} | {"switch-off"}  # the recorder is what it is plugged into
    further = [unit for cable, unit in at.planned_path() if cable not in at.own_cables]
    if "uplink" in found and further and further[0] is at.recorder:
        found = found - {"uplink"} | {"recorder-lead"}  # the uplink of the only switch is the recorder's own cable
    return found | {"locked"} if at.unit.access.locked_until_s > at.site.now_s else found


def symptoms_of(at: SiteView, traits: Set[str]) -> list[str]:
    """What would be seen of the camera, by who watches it or sets it up; empty where nobody would notice anything.

    ``traits`` are those of its plan (``traits_of_fault``): who records on motion, who watches from outside.
    """
    found = _of_picture(at)
    if at.heard_at() is None:
        found.append("not-found")
    if not found and _fails_at_night(at):
        found.append("night")
    if _shows(at) and abs(shown_apart_s(at.site, at.unit)) >= WRONG_CLOCK_S:
        found.append("wrong-time")
    if at.comes:
        found += _of_recordings(at, traits)
        if "viewer" in traits and _fails_outside(at):
            found.append("remote")
    return found


def _shows(at: SiteView) -> bool:
    """Whether there is a picture of it, with a clock in its corner."""
    seen = at.seen()
    return seen is not None and seen.unit_id == at.unit.id and seen.status in ("receiving", "alternating")


def _of_picture(at: SiteView) -> list[str]:
    seen = at.seen()
    if seen is not None and seen.status == "alternating":
        kinds = {one.kind for one in at.lost()}
        if at.at_address().twins or "wet" in kinds:
            return ["comes-and-goes"]
        return ["comes-and-goes", "stutters"] if kinds & {"weak", "loop"} else ["stutters"]
    if at.comes:
        return []
    if seen is not None and seen.status == "receiving":
        return ["comes-and-goes"]  # it is another's picture
    recorder = at.recorder
    return ["no-picture"] if recorder is None or not recorder.runs else ["no-picture", "red"]


def _fails_at_night(at: SiteView) -> bool:
    streams = [unit.stream for unit in at.site.units.values() if unit.stream is not None]
    by_night = any(one.night_times != 1 for one in streams) or any(
        unit.feeding.infrared_w for unit in at.site.units.values()
    )
    return by_night and at.comes and not at.in_the_dark(everywhere=True).comes


def _of_recordings(at: SiteView, traits: Set[str]) -> list[str]:
    chain = next(iter(taking(at.site, at.unit)), None)
    broken = "events" in traits and chain is not None and bool(chain.trouble)
    recorder = at.recorder
    clock_off = recorder is not None and abs(shown_apart_s(at.site, recorder)) >= WRONG_CLOCK_S
    gone = answer_on_site(at, "oldest") in ("younger", "there is none at all")
    return (["no-motion"] if broken else []) + (["no-clip"] if broken or clock_off or gone else [])


def _fails_outside(at: SiteView) -> bool:
    if answer_on_site(at, "one-picture") != "yes":
        return True
    wanted_mbps = sum(camera.substream_mbps or SUBSTREAM_MBPS for camera in at.site.job.cameras)
    return wanted_mbps > at.site.outside.upload_mbps
