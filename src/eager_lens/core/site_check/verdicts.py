"""What was read beside what is planned: a row for each device and each stranger, worst first."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_number, address_text, subnet_around, subnet_of
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.model import Camera, Device, Recorder
from eager_lens.core.scan.found import NOT_THE_DEVICE, Found, Outcome
from eager_lens.core.site_check.camera_lines import camera_lines
from eager_lens.core.site_check.consequences import KeptDays, kept_days, main_profile
from eager_lens.core.site_check.device_lines import device_lines
from eager_lens.core.site_check.evidence import FigureRead, Missing, evidence_of, missing_of, recordings_words
from eager_lens.core.site_check.lines import SiteCode, SiteLine
from eager_lens.core.site_check.matching import matched
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, Heard
from eager_lens.core.site_check.recorder_lines import cameras_held, days_lines, oldest_words, recorder_lines
from eager_lens.core.site_check.stream_texts import planned_words, profile_words, signed_duration, stream_read_words
from eager_lens.core.units import count

MOST_STRANGERS_SHOWN = 300
_NOT_IT = frozenset((SiteCode.SHARED, SiteCode.IN_ITS_PLACE, SiteCode.CONTRADICTED))
"""Lines of an answer that is not the device's own: nothing was read of the device then."""


class Row(NamedTuple):
    """A device, or a stranger (``device`` None), with what is planned, what was found, and the verdict on it.

    ``asked``: something of it was looked at. ``evidence``: what was read, and by which way; ``missing``: what was not, so that
    it is not called as planned; ``notes``: what of its answers is not by the standard.
    """

    id: str
    device: Device | None
    name: str
    address: str
    planned: str
    found: str
    lines: tuple[SiteLine, ...]
    asked: bool
    evidence: tuple[FigureRead, ...] = ()
    missing: tuple[Missing, ...] = ()
    notes: tuple[str, ...] = ()

    @property
    def is_compared(self) -> bool:
        """Whether all that makes it as planned was read: who answers, where, its settings and its clock."""
        return self.asked and not self.missing and not any(line.code in _NOT_IT for line in self.lines)

    @property
    def state(self) -> str:
        """What a table says of it in a word or two."""
        if self.severity is not None and (self.severity > Severity.NOTE or self.is_compared):
            return self.severity.word
        if self.is_compared:
            return "as planned"
        return "not compared" if self.asked else "not looked at"

    @property
    def severity(self) -> Severity | None:
        """The gravest of its lines; None where there is none."""
        return max((line.severity for line in self.lines), default=None)

    @property
    def verdict(self) -> str:
        """In words."""
        if self.lines:
            return " ".join(line.words for line in self.lines)
        return "As planned." if self.is_compared else "Not checked."


def rows_of(assessment: Assessment, run: CheckRun, days: Sequence[KeptDays] | None = None) -> list[Row]:
    """The rows of a run beside the plan as it is now, worst first.

    Args:
        days: what recorders keep with what was found (``consequences.kept_days``); worked out here where it is not given.
    """
    job = assessment.job
    kept = kept_days(assessment, run) if days is None else days
    heard = {one.address: one for one in run.heard_and_told()}
    reads = {read.device: read for read in run.read}
    rows, seen = [], set()
    everything, more = _without_flood(matched(job, list(heard.values()), run.arp_heard))
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
        rows.append(
            _row(assessment, kept, run, found, read, heard.get(found.seen.address) if found.seen is not None else None)
        )
    only = run.switches.only
    wanted = [row for row in rows if not only or (row.device is not None and row.device.id in only)]
    return sorted(wanted, key=lambda row: (_rank(row), row.name.lower()))


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
    """Worst first; what was not compared before what is as planned, and that before what was not looked at."""
    if row.severity is None:
        return 0 if row.asked else 1
    return -2 * row.severity - 2 - (not row.is_compared)


def _stranger_row(found: Found) -> Row:
    assert found.device is not None and found.seen is not None
    seen = found.seen
    code = SiteCode.CONTRADICTED if found.outcome == "contradicted" else SiteCode.IN_ITS_PLACE
    line = SiteLine(Severity.FAULT, code, found.words)
    planned = f"{found.device.name}, {found.device.mac_address or 'no MAC address noted'}"
    return Row(
        f"place-{found.id}", found.device, found.device.name, seen.address, planned, _seen_words(found), (line,), True
    )


def _row(
    assessment: Assessment,
    days: Sequence[KeptDays],
    run: CheckRun,
    found: Found,
    read: DeviceRead | None,
    heard: Heard | None,
) -> Row:
    device = found.device
    lines = list(_place_lines(assessment, found, run))
    if read is not None and device is not None:
        lines += _read_lines(assessment, days, run, device, read)
    elif isinstance(device, Recorder):
        lines += days_lines(days, device)
    is_there = device is not None and found.seen is not None and found.outcome in _IN_PLACE
    missing = missing_of(device, found, read, run) if device is not None and is_there else ()
    if missing and not run.stopped and not any(line.code in _SAYS_WHY for line in lines):
        lines.append(SiteLine(Severity.NOTE, SiteCode.NOT_COMPARED, _missing_words(missing)))
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
        (*evidence_of(found, read, heard), *_of_recorder(assessment, run, device, read)),
        missing,
        tuple(dict.fromkeys((*(heard.notes if heard else ()), *(read.told.notes if read and read.told else ())))),
    )


def _of_recorder(
    assessment: Assessment, run: CheckRun, device: Device | None, read: DeviceRead | None
) -> Iterator[FigureRead]:
    if isinstance(device, Recorder) and read is not None:
        words = oldest_words(cameras_held(assessment, run, device, read))
        if words:
            yield FigureRead("oldest pictures", words, "open protocol, search")


_IN_PLACE: tuple[Outcome, ...] = ("as planned", "by address alone", "elsewhere")


_SAYS_WHY = frozenset(
    (
        SiteCode.REFUSED,
        SiteCode.LOCKED,
        SiteCode.SET_UP,
        SiteCode.PLAIN_TEXT,
        SiteCode.CERTIFICATE,
        SiteCode.PROTOCOL_OFF,
        SiteCode.NO_PAGE,
        SiteCode.NO_STREAM,
        SiteCode.STREAM_STOPS,
        SiteCode.ODD,
        SiteCode.ELSEWHERE,
    )
)
"""Lines that say already why nothing more was read."""


def _missing_words(missing: Sequence[Missing]) -> str:
    """Why a device that answers is not called as planned, and what makes that it can be."""
    whats = " and ".join((", ".join(one.what for one in missing[:-1]), missing[-1].what)).removeprefix(" and ")
    hows = "; ".join(dict.fromkeys(one.how for one in missing if one.how))
    return f"It answers, but was not compared: {whats} not read{f' ({hows})' if hows else ''}."


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


def _read_lines(
    assessment: Assessment, days: Sequence[KeptDays], run: CheckRun, device: Device, read: DeviceRead
) -> Iterator[SiteLine]:
    yield from device_lines(assessment.job, run, device, read)
    if isinstance(device, Camera):
        yield from camera_lines(assessment, days, device, read)
    if isinstance(device, Recorder):
        yield from recorder_lines(assessment, days, run, device, read)


def _planned_words(device: Device | None) -> str:
    if device is None:
        return "not in the job"
    parts = [device.address or "no address"]
    if isinstance(device, Camera):
        parts.append(planned_words(device))
    return ", ".join(parts)


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
            parts.append(stream_read_words(main))
        elif (profile := main_profile(read)) is not None:
            parts.append(f"set to {profile_words(profile)}")
        if read.clock_off_s is not None:
            parts.append(f"clock {signed_duration(read.clock_off_s)}")
        if read.told is not None and read.told.recordings is not None:
            parts.append(recordings_words(read.told.recordings))
    return ", ".join(parts)


def headline(rows: Sequence[Row], run: CheckRun, under_way: bool = False) -> str:
    """The run in a sentence; ``under_way``: it goes on."""
    devices = [row for row in rows if row.device is not None]
    wrong = sum(row.severity in (Severity.FAULT, Severity.WARNING) for row in rows)
    if not run.heard:
        return "Looking …" if under_way else "Nothing answered."
    compared = [row for row in devices if row.is_compared]
    fine = sum(row.severity in (None, Severity.NOTE) for row in compared)
    unlike = f"{wrong} to check" if wrong else "nothing to correct"
    stopped = "; stopped before the end" if run.stopped and not under_way else ""
    begun = "So far " if under_way else ""
    open_ones = f" ({len(compared)} compared)" if len(compared) < len(devices) else ""
    return f"{begun}{fine} of {count(len(devices), 'device')}{open_ones} as planned, {unlike}{stopped}."
