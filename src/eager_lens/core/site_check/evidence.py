"""What a verdict rests on: each figure that was read with the way by which it was, and what is missing for a comparison."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from eager_lens.core.job.model import Camera, Device, Recorder
from eager_lens.core.scan.found import Found, is_recognised
from eager_lens.core.site_check.consequences import main_profile
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, Heard
from eager_lens.core.site_check.stream_texts import profile_words, signed_duration, stream_read_words
from eager_lens.core.site_check.told import RecordingTold, Told
from eager_lens.core.units import count, figure


class FigureRead(NamedTuple):
    """A figure: what it is, its value in words, and by which way it was read."""

    what: str
    value: str
    way: str


class Missing(NamedTuple):
    """What was not read, and what makes that it can be."""

    what: str
    how: str


OPEN = "open protocol"


def evidence_of(found: Found, read: DeviceRead | None, heard: Heard | None) -> tuple[FigureRead, ...]:
    """All that was read of a device, with the way of each."""
    return (*_of_place(found, heard), *(_of_read(read) if read is not None else ()))


def _of_place(found: Found, heard: Heard | None) -> Iterator[FigureRead]:
    seen = found.seen
    if seen is None or heard is None:
        return
    yield FigureRead("address", seen.address, ", ".join(heard.by))
    if seen.mac_address:
        yield FigureRead("MAC address", seen.mac_address, "ARP")
    elif seen.told_mac_address:
        yield FigureRead("MAC address", seen.told_mac_address, "as the device tells it")


def _of_read(read: DeviceRead) -> Iterator[FigureRead]:
    told = read.told
    if told is not None:
        way = f"{OPEN}, {'HTTPS' if told.is_secure else 'HTTP'} port {told.port}"
        if told.identity is not None:
            who = told.identity
            yield FigureRead("make and model", f"{who.make} {who.model}".strip() or "none told", way)
            yield FigureRead("serial", who.serial or "none told", OPEN)
            yield FigureRead("firmware", who.firmware or "none told", OPEN)
        if told.certificate:
            yield FigureRead("certificate", f"SHA-256 {told.certificate}", "TLS")
        profile = main_profile(read)
        if profile is not None:
            yield FigureRead("main stream as set", profile_words(profile), f"{OPEN}, {profile.by}")
        sub = told.main_and_sub()[1]
        if sub is not None:
            yield FigureRead("substream as set", profile_words(sub), f"{OPEN}, {sub.by}")
        if told.time is not None and (told.time.zone or told.time.servers):
            way_of = "by a time server" if told.time.by_time_server else "set by hand"
            servers = f", time server {', '.join(told.time.servers)}" if told.time.servers else ""
            yield FigureRead("time settings", f"zone {told.time.zone or 'not told'}, {way_of}{servers}", OPEN)
        if told.users:
            yield FigureRead("users", ", ".join(f"{one.name} ({one.level})" for one in told.users), OPEN)
        if told.motion is not None:
            yield from _of_motion(read)
        if told.recordings is not None:
            yield FigureRead("recordings", recordings_words(told.recordings), OPEN)
        if told.replay:
            yield FigureRead("playback", told.replay, f"{OPEN}, replay")
    for what, stream in (("main stream as sent", read.main), ("substream as sent", read.substream)):
        if stream is not None and stream.outcome == "opened":
            yield FigureRead(what, stream_read_words(stream), f"RTSP, {figure(stream.read_s, 2)} s")
    if read.clock_off_s is not None:
        yield FigureRead("clock", signed_duration(read.clock_off_s), read.clock_by)
    if told is not None:
        yield from _further(told)


def _further(told: Told) -> Iterator[FigureRead]:
    """What no verdict needs, and an installer may; and what was not read, with why."""
    network, main = told.network, told.main_and_sub()[0]
    if network is not None:
        parts = (
            ("gateway", network.gateway),
            ("DNS", " ".join(network.dns)),
            ("host name", network.host_name),
            ("ports", ", ".join(network.ports)),
        )
        yield FigureRead("network", ", ".join(f"{name} {text}" for name, text in parts if text) or "none told", OPEN)
    if told.night is not None:
        longest_ms = told.night.longest_exposure_ms
        exposure = "" if longest_ms is None else f", longest exposure {figure(longest_ms)} ms"
        yield FigureRead(
            "by night", f"infrared filter {told.night.infrared_filter or 'not told'}{exposure}", f"{OPEN}, imaging"
        )
    if main is not None and main.options is not None:
        takes = main.options
        spans = (("fps", takes.fps), ("Mb/s at most", takes.cap_mbps), ("frames between key frames", takes.key_frames))
        words = [f"{figure(one.least)} to {figure(one.most)} {unit}" for unit, one in spans if one is not None]
        sizes = [f"{width} × {height}" for width, height in takes.sizes]
        yield FigureRead("main stream may be", ", ".join((*sizes, *words)) or "none told", f"{OPEN}, {main.by}")
    if main is not None and main.snapshot:
        yield FigureRead("still picture", main.snapshot, f"{OPEN}, {main.by}")
    if told.scopes:
        yield FigureRead("says of itself", ", ".join(told.scopes), OPEN)
    for one in told.not_read:
        yield FigureRead(one.what, f"not read: {one.why}", OPEN)


def recordings_words(recordings: Sequence[RecordingTold]) -> str:
    """How many recordings run, and of how many that is not known."""
    running, open_ones = sum(one.is_running for one in recordings), sum(not one.state for one in recordings)
    words = f"{running} of {count(len(recordings), 'recording')} running"
    return f"{words}, {open_ones} not told" if open_ones else words


def _of_motion(read: DeviceRead) -> Iterator[FigureRead]:
    motion = read.told.motion if read.told is not None else None
    if motion is None:
        return
    rules = ", ".join(f"{one.name} ({one.kind})" for one in (*motion.rules, *motion.detectors))
    yield FigureRead("motion rules", rules or "none", f"{OPEN}, analytics")
    if motion.is_pulled is not None:
        words = "can be fetched" if motion.is_pulled else "could not be fetched"
        now = "" if motion.in_motion is None else "; motion now" if motion.in_motion else "; no motion now"
        yield FigureRead("motion events", words + now, f"{OPEN}, events")


def missing_of(device: Device, found: Found, read: DeviceRead | None, run: CheckRun) -> tuple[Missing, ...]:
    """What was not read of a device that is there, so that it cannot be called as planned."""
    return tuple(_missing(device, found, read, run))


def _missing(device: Device, found: Found, read: DeviceRead | None, run: CheckRun) -> Iterator[Missing]:
    how = _how_to_read(device, read, run)
    if found.seen is None or not is_recognised(device, found.seen):
        own = (
            "" if device.mac_address or device.serial else "note its MAC address or serial, or take over what was found"
        )
        yield Missing("who answers", own or how or "the laptop needs the right to listen for ARP")
    is_opened = read is not None and read.main is not None and read.main.outcome == "opened"
    if isinstance(device, Camera) and not is_opened and (read is None or main_profile(read) is None):
        yield Missing("stream settings", how)
    if isinstance(device, Camera | Recorder) and (read is None or read.clock_off_s is None):
        yield Missing("clock", how)


def _how_to_read(device: Device, read: DeviceRead | None, run: CheckRun) -> str:
    """What makes that a device can be read."""
    if read is None:
        return "its MAC address was not seen: give the laptop an address in its subnet, or the right to listen for ARP"
    if not run.switches.log_in:
        return "let the check log in"
    told = read.told
    if told is None:
        return (
            f"switch its open protocol on ({read.why_not_told})" if read.why_not_told else "switch its open protocol on"
        )
    if read.login == "not tried":
        return "note a user and a password for it"
    if read.login in ("refused", "locked"):
        return "note the right password for its open protocol"
    return "; ".join(f"{one.what}: {one.why}" for one in told.not_read[:2])
