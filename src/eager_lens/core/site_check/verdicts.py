"""What was read beside what is planned: a row for each device and each stranger, worst first."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from enum import StrEnum
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_number, address_text, subnet_around, subnet_of
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.stream_words import cap_words_of
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.job.model import Camera, Device, Recorder
from eager_lens.core.scan.found import NOT_THE_DEVICE, Found
from eager_lens.core.site_check.consequences import passes_its_cap, rate_is_off, settings_read
from eager_lens.core.site_check.matching import matched
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, StreamRead
from eager_lens.core.units import count, days_figure, figure

HOUR_S, HOUR_NEAR_S = 3600.0, 60.0
MOST_CHANNELS_NAMED = 8
MOST_STRANGERS_SHOWN = 300
SUBSTREAM_OFF = 2.0
"""Factor by which a substream may exceed its planned rate before a verdict says so."""


class SiteCode(StrEnum):
    """What a line of a verdict is about."""

    SHARED = "two-on-one-address"
    IN_ITS_PLACE = "another-in-its-place"
    CONTRADICTED = "claims-to-be-another"
    ELSEWHERE = "at-another-address"
    NOT_HEARD = "not-heard"
    STRANGER = "stranger"
    BY_ADDRESS = "by-address-alone"
    NOT_REACHED = "subnet-not-reached"
    REFUSED = "password-refused"
    LOCKED = "locked"
    SET_UP = "set-up-wanted"
    PLAIN_TEXT = "password-in-plain-text"
    DEFAULT_PASSWORD = "default-password"
    NO_PAGE = "no-page"
    NO_STREAM = "no-stream"
    STREAM_STOPS = "stream-stops"
    SETTINGS = "settings-differ"
    RATE = "rate-higher"
    FEWER_DAYS = "fewer-days"
    SUBSTREAM = "substream"
    CLOCK = "clock-off"
    CHANNEL = "channel-not-receiving"
    EVENT_PORT = "event-port-closed"
    ODD = "odd-answer"


class SiteLine(NamedTuple):
    """One thing about a device: how grave, what, in words."""

    severity: Severity
    code: SiteCode
    words: str


class Row(NamedTuple):
    """A device, or a stranger (``device`` None), with what is planned, what was found, and the verdict on it.

    ``asked``: something of it was looked at, so that no line means that it is as planned.
    """

    id: str
    device: Device | None
    name: str
    address: str
    planned: str
    found: str
    lines: tuple[SiteLine, ...]
    asked: bool

    @property
    def severity(self) -> Severity | None:
        """The gravest of its lines; None where there is none."""
        return max((line.severity for line in self.lines), default=None)

    @property
    def verdict(self) -> str:
        """In words."""
        if self.lines:
            return " ".join(line.words for line in self.lines)
        return "As planned." if self.asked else "Not checked."


def rows_of(assessment: Assessment, run: CheckRun) -> list[Row]:
    """The rows of a run beside the plan as it is now, worst first."""
    job = assessment.job
    reads = {read.device: read for read in run.read}
    rows, seen = [], set()
    everything, more = _without_flood(matched(job, run.heard, run.arp_heard))
    if more:
        rows.append(_flood_row(more))
    taken = {one.device.id for one in everything if one.outcome in NOT_THE_DEVICE and one.device is not None}
    for found in everything:
        device = found.device
        if device is not None and found.outcome == "not heard" and device.id in taken:
            continue  # who stands in its place is told
        if device is not None and found.seen is not None and device.id in seen and found.outcome != "shared":
            continue
        read = reads.get(device.id) if device is not None else None
        if found.outcome in NOT_THE_DEVICE:
            rows.append(_stranger_row(found))
            continue
        if device is not None:
            seen.add(device.id)
        rows.append(_row(assessment, run, found, read))
    return sorted(rows, key=lambda row: (_rank(row), row.name.lower()))


def _without_flood(everything: list[Found]) -> tuple[list[Found], int]:
    """What was found without the strangers beyond those that anybody looks through, and how many they are."""
    strangers = [one for one in everything if one.outcome == "stranger"]
    if len(strangers) <= MOST_STRANGERS_SHOWN:
        return everything, 0
    kept = set(strangers[:MOST_STRANGERS_SHOWN])
    return [one for one in everything if one.outcome != "stranger" or one in kept], len(strangers) - len(kept)


def _flood_row(more: int) -> Row:
    words = (
        f"{more} more addresses outside the job answer. One device may be claiming one address after the other: find it by its "
        "MAC address, or check a smaller subnet."
    )
    line = SiteLine(Severity.WARNING, SiteCode.STRANGER, words)
    return Row("strangers", None, f"{more} more unknown devices", "", _planned_words(None), "", (line,), True)


def _rank(row: Row) -> int:
    """Worst first; what is as planned before what was not looked at."""
    return -row.severity - 1 if row.severity is not None else 0 if row.asked else 1


def _stranger_row(found: Found) -> Row:
    assert found.device is not None and found.seen is not None
    seen = found.seen
    code = SiteCode.CONTRADICTED if found.outcome == "contradicted" else SiteCode.IN_ITS_PLACE
    line = SiteLine(Severity.FAULT, code, found.words)
    planned = f"{found.device.name}, {found.device.mac_address or 'no MAC address noted'}"
    return Row(
        f"place-{found.id}", found.device, found.device.name, seen.address, planned, _seen_words(found), (line,), True
    )


def _row(assessment: Assessment, run: CheckRun, found: Found, read: DeviceRead | None) -> Row:
    device = found.device
    lines = list(_place_lines(assessment, found, run))
    if read is not None and device is not None:
        lines += _read_lines(assessment, run, device, read)
    if isinstance(device, Recorder):
        lines += _days_lines(device, run)
    name = device.name if device is not None else (found.seen.name if found.seen else "") or "Stranger"
    address = found.seen.address if found.seen is not None else getattr(device, "address", "")
    return Row(
        found.id,
        device,
        name,
        address,
        _planned_words(device),
        _found_words(found, read),
        tuple(sorted(lines, key=lambda line: -line.severity)),
        read is not None or (found.seen is not None and not run.stopped),
    )


_OUTCOMES = {
    "shared": (Severity.FAULT, SiteCode.SHARED),
    "elsewhere": (Severity.FAULT, SiteCode.ELSEWHERE),
    "not heard": (Severity.FAULT, SiteCode.NOT_HEARD),
    "stranger": (Severity.NOTE, SiteCode.STRANGER),
}


def _place_lines(assessment: Assessment, found: Found, run: CheckRun) -> Iterator[SiteLine]:
    if found.outcome == "not heard" and run.stopped:
        return  # it may still answer, or would have
    if found.outcome == "not heard" and found.device is not None and _is_beyond(found.device, run):
        yield SiteLine(*_beyond_words(assessment, found.device))
    elif found.outcome in _OUTCOMES:
        yield SiteLine(*_OUTCOMES[found.outcome], found.words + _way_there(found, run))
    elif found.outcome == "by address alone" and found.device is not None and found.device.mac_address:
        yield SiteLine(Severity.NOTE, SiteCode.BY_ADDRESS, f"{found.words} No log-in was tried there.")


def _way_there(found: Found, run: CheckRun) -> str:
    """Which address the laptop needs to reach a device that was overheard in another subnet; empty where it has one."""
    if found.outcome != "elsewhere" or found.seen is None or not found.seen.address:
        return ""
    number = address_number(found.seen.address)
    if _laptop_is_near(number, run):
        return ""
    near = number & 0xFFFFFF00 | (0xFE if number & 0xFF != 0xFE else 0xFD)
    return f" To reach it there the laptop needs {address_text(near)}/24 as well."


def _beyond_words(assessment: Assessment, device: Device) -> tuple[Severity, SiteCode, str]:
    plan = assessment.facts.subnets.get(device.subnet)
    if not device.address:
        return Severity.NOTE, SiteCode.NOT_REACHED, "Not checked: no address is planned for it."
    number = address_number(device.address)
    if plan is not None and number not in subnet_of(plan.cidr):
        near = address_text(number & 0xFFFFFF00 | 0xFE)
        words = f"Its planned address is outside {plan.cidr}: to reach it there the laptop needs {near}/24 as well."
        return Severity.FAULT, SiteCode.ELSEWHERE, words
    return Severity.NOTE, SiteCode.NOT_REACHED, "Not checked: the laptop has no address in its subnet."


def _is_beyond(device: Device, run: CheckRun) -> bool:
    if not device.address or not run.laptop:
        return not run.laptop
    return not _laptop_is_near(address_number(device.address), run)


def _laptop_is_near(number: int, run: CheckRun) -> bool:
    """Whether the laptop had an address in the subnet that an address is in."""
    own = (text.partition("/") for text in run.laptop)
    return any(number in subnet_around(address_number(address), int(prefix)) for address, _, prefix in own)


def _read_lines(assessment: Assessment, run: CheckRun, device: Device, read: DeviceRead) -> Iterator[SiteLine]:
    yield from _login_lines(read)
    if read.trouble:
        yield SiteLine(Severity.WARNING, SiteCode.ODD, read.trouble)
    if isinstance(device, Camera):
        yield from _stream_lines(assessment, run, device, read)
    yield from _clock_lines(read, run)
    if isinstance(device, Recorder):
        yield from _recorder_lines(assessment, run, device, read)


def _login_lines(read: DeviceRead) -> Iterator[SiteLine]:
    if read.default_works:
        words = "It accepts its default password, so anyone can log in: set a new one now."
        yield SiteLine(Severity.FAULT, SiteCode.DEFAULT_PASSWORD, words)
    if read.login == "refused":
        at = "Its stream" if read.main is not None and read.main.outcome == "refused" else "Its page"
        words = (
            f"{at} refused the noted password; the open protocol may need a separate user. Nothing more was tried, so that the "
            "account is not locked."
        )
        yield SiteLine(Severity.FAULT, SiteCode.REFUSED, words)
    elif read.login == "locked":
        yield SiteLine(
            Severity.FAULT,
            SiteCode.LOCKED,
            "Locked after too many wrong log-ins: wait, then find out which device keeps trying.",
        )
    elif read.login == "set-up wanted":
        yield SiteLine(Severity.FAULT, SiteCode.SET_UP, "Not set up yet: it needs its first password.")
    elif read.login == "plain text":
        words = "It asks for the password in plain text, so the password was not sent: switch on digest authentication."
        yield SiteLine(Severity.WARNING, SiteCode.PLAIN_TEXT, words)
    elif read.login == "not tried" and read.main is not None and read.main.outcome == "refused":
        yield SiteLine(Severity.WARNING, SiteCode.PLAIN_TEXT, f"Log-in failed: {read.main.words}.")
    elif read.login == "no answer":
        yield SiteLine(Severity.WARNING, SiteCode.NO_PAGE, "A device is there, but its web port does not answer.")


def _stream_lines(assessment: Assessment, run: CheckRun, camera: Camera, read: DeviceRead) -> Iterator[SiteLine]:
    main = read.main
    if main is None or main.outcome == "not tried" or read.login in ("refused", "locked"):
        return
    if main.outcome == "refused":
        if read.login == "in":
            words = (
                "Its page accepts the noted password, its stream does not: the open protocol may need a separate user."
            )
            yield SiteLine(Severity.FAULT, SiteCode.NO_STREAM, words)
        return
    if main.outcome != "opened":
        code = SiteCode.STREAM_STOPS if main.outcome == "stopped" else SiteCode.NO_STREAM
        yield SiteLine(Severity.FAULT, code, f"Its main stream does not open: {main.words}.")
        return
    settings = settings_read(camera, main)
    days = _days_words(assessment, run, camera)
    rates = f"sends {figure(main.mean_mbps)} Mb/s, {figure(assessment.camera(camera.id).load_mbps)} planned{days}"
    if settings:
        words = f"It runs at {_settings_words(main)}, planned {_planned_stream(camera)}; it {rates}."
        yield SiteLine(Severity.WARNING, SiteCode.SETTINGS, words)
    elif passes_its_cap(camera, main):
        words = (
            f"It {rates}. The planned maximum of {figure(camera.cap_mbps or 0.0)} Mb/s is not set, or the camera ignores "
            "it."
        )
        yield SiteLine(Severity.WARNING, SiteCode.RATE, words)
    elif rate_is_off(assessment, camera, main):
        words = f"It {rates}."
        yield SiteLine(Severity.WARNING, SiteCode.RATE, words)
    sub = read.substream
    if sub is not None and sub.outcome not in ("opened", "not tried"):
        yield SiteLine(Severity.WARNING, SiteCode.SUBSTREAM, f"Its substream does not open: {sub.words}.")
    elif sub is not None and sub.mean_mbps > camera.substream_mbps * SUBSTREAM_OFF:
        words = f"Its substream sends {figure(sub.mean_mbps)} Mb/s, {figure(camera.substream_mbps)} planned."
        yield SiteLine(Severity.NOTE, SiteCode.SUBSTREAM, words)


def _days_words(assessment: Assessment, run: CheckRun, camera: Camera) -> str:
    names = {recorder.id: recorder.name for recorder in assessment.job.recorders}
    parts = [
        f"{names.get(one.recorder, 'its recorder')} keeps {days_figure(one.found)} days instead of {days_figure(one.planned)}"
        for one in run.days
        if one.camera == camera.id
    ]
    return f": with it, {' and '.join(parts)}" if parts else ""


def _clock_lines(read: DeviceRead, run: CheckRun) -> Iterator[SiteLine]:
    off_s = read.clock_off_s
    if off_s is None or abs(off_s) <= CLOCK_WITHIN_S:
        return
    way = "ahead" if off_s > 0 else "behind"
    hours = round(off_s / HOUR_S)
    likely = ""
    if hours and abs(off_s - hours * HOUR_S) < HOUR_NEAR_S:
        likely = ": whole hours, so its time zone or daylight saving is probably wrong"
    elif run.laptop_synchronised is False:
        likely = "; the laptop's own clock is not synchronised, so check both"
    words = f"Its clock is {duration_words(abs(off_s))} {way}{likely}. A search by time finds the wrong minute."
    yield SiteLine(Severity.FAULT, SiteCode.CLOCK, words)


def duration_words(seconds: float) -> str:
    """A length of time, in the unit that reads best."""
    if seconds < 120:
        return f"{seconds:.1f} s" if seconds < 10 else f"{seconds:.0f} s"
    if seconds < 2 * HOUR_S:
        return f"{seconds / 60:.0f} min"
    if seconds < 48 * HOUR_S:
        return f"{seconds / HOUR_S:.1f} h"
    return f"{seconds / HOUR_S / 24:.0f} days"


def _recorder_lines(assessment: Assessment, run: CheckRun, recorder: Recorder, read: DeviceRead) -> Iterator[SiteLine]:
    if read.channels is not None:
        channels_read = {one.number: one for one in read.channels}
        bad: list[str] = []
        for camera in assessment.facts.cameras_on.get(recorder.id, ()):
            for number in (place.channel for place in camera.registered if place.recorder == recorder.id):
                channel = channels_read.get(number)
                if channel is None:
                    bad.append(f"{number} ({camera.name}): not set")
                elif channel.state != "receiving":
                    bad.append(f"{number} ({camera.name}): {channel.why or channel.state}")
        if bad:
            words = f"{count(len(bad), 'channel')} without a picture: {'; '.join(bad[:MOST_CHANNELS_NAMED])}{_and_more(bad)}."
            yield SiteLine(Severity.FAULT, SiteCode.CHANNEL, words)
    if read.events_open is False:
        words = f"Nothing accepts events at TCP port {recorder.event_tcp_port}, so motion would record nothing."
        yield SiteLine(Severity.FAULT, SiteCode.EVENT_PORT, words)


def _days_lines(recorder: Recorder, run: CheckRun) -> Iterator[SiteLine]:
    for one in (one for one in run.days if one.recorder == recorder.id and not one.camera):
        words = f"At the bit rates measured now it keeps {days_figure(one.found)} days instead of {days_figure(one.planned)}."
        yield SiteLine(Severity.WARNING if one.found < one.planned else Severity.NOTE, SiteCode.FEWER_DAYS, words)


def _and_more(all_of_them: Sequence[str]) -> str:
    more = len(all_of_them) - MOST_CHANNELS_NAMED
    return f" and {more} more" if more > 0 else ""


def _planned_words(device: Device | None) -> str:
    if device is None:
        return "not in the job"
    parts = [device.address or "no address"]
    if isinstance(device, Camera):
        parts.append(_planned_stream(device))
    return ", ".join(parts)


def _planned_stream(camera: Camera) -> str:
    size = f"{camera.width_px} × {camera.height_px}"
    cap = cap_words_of(camera)
    words = f"{_codec_words(camera.codec)} {size}, {figure(camera.fps)} fps, key-frame interval {figure(camera.key_frame_s)} s"
    return f"{words}, {cap}" if cap else words


def _codec_words(codec: str) -> str:
    return {"h264": "H.264", "h265": "H.265", "mjpeg": "MJPEG"}.get(codec, codec)


def _settings_words(stream: StreamRead) -> str:
    key = "" if stream.key_frame_s is None else f", key-frame interval {figure(stream.key_frame_s, 2)} s"
    size = f"{stream.width_px} × {stream.height_px}"
    return f"{_codec_words(stream.codec)} {size}, {figure(stream.fps)} fps{key}"


def _seen_words(found: Found) -> str:
    seen = found.seen
    if seen is None:
        return "no answer"
    return ", ".join(part for part in (seen.address, seen.mac_address) if part)


def _found_words(found: Found, read: DeviceRead | None) -> str:
    parts = [_seen_words(found)]
    if read is not None:
        main = read.main
        if main is not None and main.outcome == "opened":
            parts.append(f"{_settings_words(main)}, {figure(main.mean_mbps)} Mb/s")
        if read.clock_off_s is not None:
            sign = "+" if read.clock_off_s >= 0 else "-"
            parts.append(f"clock {sign}{duration_words(abs(read.clock_off_s))}")
        if read.channels is not None:
            receiving = sum(one.state == "receiving" for one in read.channels)
            parts.append(f"{receiving} of {count(len(read.channels), 'channel')} receiving")
    return ", ".join(parts)


def headline(rows: Sequence[Row], run: CheckRun, under_way: bool = False) -> str:
    """The run in a sentence; ``under_way``: it goes on."""
    devices = [row for row in rows if row.device is not None]
    wrong = sum(row.severity in (Severity.FAULT, Severity.WARNING) for row in rows)
    if not run.heard:
        return "Looking …" if under_way else "Nothing answered."
    fine = sum(row.asked and row.severity in (None, Severity.NOTE) for row in devices)
    unlike = f"{wrong} to check" if wrong else "nothing to correct"
    stopped = "; stopped before the end" if run.stopped and not under_way else ""
    begun = "So far " if under_way else ""
    return f"{begun}{fine} of {count(len(devices), 'device')} as planned, {unlike}{stopped}."
