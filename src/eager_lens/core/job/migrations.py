"""Older versions of the job file, brought up to today's one step at a time.

A step takes the parsed document of version N and returns that of version N + 1. It works on plain JSON values, never
on the job's classes, so that it stays true when those change. What is not shaped as expected is left for the reader to
refuse.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

FORMAT = "eager-lens-job"
VERSION = 5

Step = Callable[[dict[str, Any]], dict[str, Any]]
Document = dict[str, Any]

LISTS_1 = {
    "weeks": "schedules",
    "seasons": "exceptions",
    "power": "power_units",
    "kinds": "device_types",
    "habits": "make_profiles",
    "bring_up": "commissioning",
}
DEVICE_1 = {"hardware_address": "mac_address", "address_way": "address_assignment"}
PORTS_1 = {"powered_ports": "poe_ports", "port_class": "poe_port_class"}
NETWORK_1 = {
    **DEVICE_1,
    **PORTS_1,
    "kind": "device_type",
    "power_class": "poe_class",
    "shows": "viewed_streams",
    "shows_main": "views_main_streams",
}
KEYS_1: dict[str, dict[str, str]] = {
    "recorders": {
        **DEVICE_1,
        **PORTS_1,
        "camera_subnet": "camera_interface_subnet",
        "camera_address": "camera_interface_address",
        "before_memory_mb": "pre_recording_memory_mb",
        "event_port": "event_tcp_port",
        "takes_small": "fetches_substreams",
        "level": "raid_level",
        "spares": "hot_spares",
    },
    "network": NETWORK_1,
    "cameras": {
        **DEVICE_1,
        "week": "schedule",
        "pre_s": "pre_recording_s",
        "post_s": "post_recording_s",
        "input_pre_s": "input_pre_recording_s",
        "input_post_s": "input_post_recording_s",
        "between": "kept_between_events",
        "idle_kept": "kept_when_off",
        "small_mbps": "substream_mbps",
        "surge_noted": "surge_protected",
        "power_class": "poe_class",
        "aux_power": "power_input",
        "movement_rule": "motion_rule_on",
        "rule": "motion_rule",
        "event_port": "event_tcp_port",
    },
    "seasons": {"week": "schedule"},
    "kinds": {**PORTS_1, "power_class": "poe_class", "shows": "viewed_streams"},
    "power": {"power_class": "poe_class"},
}
"""Keys that have other names since version 2, by the list as it was called."""

MODES_1 = {
    "always": "continuous",
    "movement": "motion",
    "input": "alarm input",
    "either": "motion or alarm",
    "idle": "off",
}
ASSIGNMENTS_1 = {
    "planned": "static",
    "frozen": "static from a lease",
    "reserved": "DHCP reservation",
    "recorder": "by the recorder",
}
KEPT_1 = {"small stream": "substream"}
VALUES_1: dict[str, dict[str, str]] = {
    "address_assignment": ASSIGNMENTS_1,
    "rate_control": {"quality": "VBR", "capped": "capped VBR", "constant": "CBR", "quiet": "smart codec"},
    "kept_between_events": KEPT_1,
    "kept_when_off": KEPT_1,
    "outcome": {"left out": "skipped"},
    "check": {"movement": "motion"},
    "attachment": {
        "main network": "LAN",
        "own ports": "recorder PoE ports",
        "own network": "camera interface",
        "passed through": "bridged PoE ports",
    },
}
"""Values that have other names since version 2, by the key as it is now called."""


def _with_modes(plan: Any) -> Any:
    """A week of spans with its modes by their names of now."""
    if not isinstance(plan, dict):
        return plan
    return {
        day: [
            [*span[:2], MODES_1.get(span[2], span[2])]
            if isinstance(span, list) and len(span) == 3 and isinstance(span[2], str)
            else span
            for span in spans
        ]
        if isinstance(spans, list)
        else spans
        for day, spans in plan.items()
    }


def _from_1(document: Document) -> Document:
    """Version 2 has the trade's words as keys: ``mac_address``, ``schedule``, ``poe_class`` and so on."""
    new: Document = {}
    for name, value in document.items():
        keys = KEYS_1.get(name, {})
        rows = value
        if isinstance(value, list):
            rows = [_row(row, keys) if isinstance(row, dict) else row for row in value]
            if name == "weeks":
                rows = [
                    {key: _with_modes(one) if key in ("plan", "alarms") else one for key, one in row.items()}
                    if isinstance(row, dict)
                    else row
                    for row in rows
                ]
        new[LISTS_1.get(name, name)] = rows
    rehearsal = new.get("rehearsal")
    if isinstance(rehearsal, dict):
        new["rehearsal"] = {"actions" if key == "deeds" else key: value for key, value in rehearsal.items()}
    return new


def _row(row: Document, keys: Mapping[str, str]) -> Document:
    new = {}
    for key, value in row.items():
        name = keys.get(key, key)
        known = VALUES_1.get(name, {})
        new[name] = known.get(value, value) if isinstance(value, str) else value
    return new


def _from_2(document: Document) -> Document:
    """Version 3 has no seed for the spread of days kept, which is worked out without chance, says when a rate was measured
    (one of before stood for day and night), and takes another share of the noise where nobody had set one."""
    new = dict(document)
    if isinstance(activity := new.get("activity"), dict):
        new["activity"] = {key: value for key, value in activity.items() if key != "seed"}
    if isinstance(assumed := new.get("assumed"), dict) and assumed.get("noise_kept_share") == 0.6:
        new["assumed"] = {key: value for key, value in assumed.items() if key != "noise_kept_share"}
    if isinstance(cameras := new.get("cameras"), list):
        new["cameras"] = [
            {**camera, "measured_when": "day and night"}
            if isinstance(camera, dict) and camera.get("measured_mbps") is not None
            else camera
            for camera in cameras
        ]
    return new


CODES_3 = {
    "clad-cable": "cca-cable",
    "set-aside-over": "allocated-over",
    "no-week": "no-schedule",
    "empty-week": "empty-schedule",
    "unused-week": "unused-schedule",
    "exception-without-week": "exception-without-schedule",
    "powered-ports": "too-few-poe-ports",
    "internet-port": "wan-port",
    "before-key-frame": "pre-recording-short",
    "before-memory": "pre-recording-memory",
    "nothing-after": "no-post-recording",
    "input-nothing-after": "no-alarm-post-recording",
    "same-hardware": "same-mac-address",
    "group-hardware": "group-mac-address",
    "port-without-power": "port-without-poe",
    "no-camera-side": "no-camera-subnet",
    "camera-side-outside": "camera-interface-outside",
    "camera-side-taken": "camera-interface-taken",
    "wrong-side": "wrong-interface",
    "sides-share-subnet": "interfaces-share-subnet",
    "rate-unlikely": "rate-implausible",
    "no-way-to-viewer": "viewer-cut-off",
    "gone-check": "removed-device-test",
    "sheet-gaps": "cover-gaps",
    "far-ports": "far-end-ports",
    "over-class": "draw-over-class",
    "dangling-link": "link-without-device",
}


def _from_3(document: Document) -> Document:
    """Version 4 names findings by the terms of the trade; accepted findings keep their reasons."""
    if not isinstance(accepted := document.get("accepted"), list):
        return document
    rows = [
        {**row, "code": CODES_3.get(row["code"], row["code"])}
        if isinstance(row, dict) and isinstance(row.get("code"), str)
        else row
        for row in accepted
    ]
    return {**document, "accepted": rows}


def _from_4(document: Document) -> Document:
    """Version 5 has no page for a recorder's channels in make profiles: they are read by the open protocol."""
    if not isinstance(profiles := document.get("make_profiles"), list):
        return document
    kept = [
        {key: value for key, value in one.items() if key != "channels_path"} if isinstance(one, dict) else one
        for one in profiles
    ]
    return {**document, "make_profiles": kept}


STEPS: dict[int, Step] = {1: _from_1, 2: _from_2, 3: _from_3, 4: _from_4}
"""By the version that a step starts from."""


def migrated(document: Document, version: int, to: int = VERSION, steps: Mapping[int, Step] = STEPS) -> Document:
    """The document of ``version`` as one of version ``to``."""
    for start in range(version, to):
        document = steps[start](document)
    return document
