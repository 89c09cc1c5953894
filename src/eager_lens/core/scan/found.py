"""What was found on the network beside what was planned: which answer is which device, and what does not fit.

An answer is a device's when its MAC address is the device's; else by its serial; else by its address alone, where nothing
speaks against that. A serial or a MAC address that an answer only tells of itself can be told by any device on the wire: it
never outweighs a MAC address that was seen, and where the two contradict each other the answer is nobody's.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from typing import Literal, NamedTuple

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Device, Job
from eager_lens.core.planning.addressing import room_of
from eager_lens.core.units import count

Outcome = Literal[
    "as planned", "by address alone", "elsewhere", "shared", "stranger", "another device", "contradicted", "not heard"
]
NOT_THE_DEVICE: tuple[Outcome, ...] = ("another device", "contradicted")
"""Outcomes of an answer that names a device, and is not it."""


class ScanAnswer(NamedTuple):
    """What answered, as a list told it; empty texts for what is not known.

    ``mac_address`` was seen on the wire (ARP); ``told_mac_address`` is what the device says of itself.
    """

    address: str
    mac_address: str
    serial: str
    firmware: str
    name: str
    told_mac_address: str = ""


class Found(NamedTuple):
    """One line of the comparison. ``id`` is its own.

    Attributes:
        device: the device that it is, or whose address it holds; None for one that is not in the job.
        seen: what answered; None for a device that was not heard.
        outcome, words: how it compares, and what to do.
    """

    id: str
    device: Device | None
    seen: ScanAnswer | None
    outcome: Outcome
    words: str


WORST_FIRST: tuple[Outcome, ...] = (
    "shared",
    "contradicted",
    "another device",
    "elsewhere",
    "by address alone",
    "not heard",
    "stranger",
    "as planned",
)


def compared(job: Job, answers: Iterable[ScanAnswer]) -> list[Found]:
    """Compare a list of answers with the job, what needs somebody first.

    Raises:
        RefusedInput: when not one answer belongs to the job: it is the list of another site.
    """
    heard = list(dict.fromkeys(answers))
    devices = list(job.devices())
    match = _matcher(devices)
    matches = _without_rivals(heard, [match(seen) for seen in heard])
    holders = {device.address: device for device in devices if device.address}
    if heard and not any(one.device for one in matches) and not any(seen.address in holders for seen in heard):
        raise RefusedInput(
            "scan list",
            f"none of {count(len(heard), 'answer')} matches this job by MAC address, serial or IP address. Is this the list of "
            "another site?",
        )
    times = Counter(seen.address for seen in heard if seen.address)
    found = []
    for number, (seen, one) in enumerate(zip(heard, matches, strict=True)):
        outcome, words = _judged(job, seen, one, holders, times[seen.address])
        whose = holders.get(seen.address) if outcome == "another device" and one.device is None else one.device
        found.append(Found(f"seen-{number}", whose, seen, outcome, words))
    known = {one.device.id for one in found if one.device is not None and one.outcome not in NOT_THE_DEVICE}
    for device in devices:
        if device.id not in known and device.address:
            found.append(Found(f"silent-{device.id}", device, None, "not heard", NO_ANSWER))
    return sorted(found, key=lambda one: WORST_FIRST.index(one.outcome))


NO_ANSWER = "No answer. Check power, cable and subnet; some devices ignore searches."


class _Match(NamedTuple):
    """Which device an answer is, or claims to be. ``against``: what speaks against it, in a sentence; empty: nothing."""

    device: Device | None
    against: str = ""


class _Known:
    """The job's devices by what identifies them. What is noted on two devices identifies neither."""

    def __init__(self, devices: list[Device]) -> None:
        self.twins = Counter(device.mac_address for device in devices if device.mac_address)
        self.by_mac = {one.mac_address: one for one in devices if self.twins[one.mac_address] == 1}
        self.twin_at = {one.address: one for one in devices if self.twins[one.mac_address] > 1 and one.address}
        serials = Counter(one.serial.lower() for one in devices if one.serial)
        self.by_serial = {one.serial.lower(): one for one in devices if serials[one.serial.lower()] == 1}
        self.by_address = {one.address: one for one in devices if one.address}


def _matcher(devices: list[Device]) -> Callable[[ScanAnswer], _Match]:
    known = _Known(devices)

    def match(seen: ScanAnswer) -> _Match:
        if known.twins[seen.mac_address] > 1:
            # Noted on two devices, so one label was copied: the address tells which of them this is.
            twin = known.twin_at.get(seen.address)
            if twin is not None:
                return _Match(twin if twin.mac_address == seen.mac_address else None)
        device = known.by_mac.get(seen.mac_address) if seen.mac_address else None
        claimed = (
            device
            or (known.by_serial.get(seen.serial.lower()) if seen.serial else None)
            or (known.by_mac.get(seen.told_mac_address) if seen.told_mac_address else None)
        )
        if claimed is not None:
            return _Match(claimed, _against(claimed, seen))
        holder = known.by_address.get(seen.address)
        # At its address, and by its MAC address or serial another device: that is told of the address, not as a claim.
        return _Match(holder) if holder is not None and not _against(holder, seen) else _Match(None)

    return match


def _against(device: Device, seen: ScanAnswer) -> str:
    """What speaks against an answer's being a device."""
    own, serial = device.mac_address, device.serial
    if own and seen.mac_address and seen.mac_address != own:
        return f"its MAC address is {seen.mac_address}, not {own} as noted"
    if serial and seen.serial and not is_same_serial(serial, seen.serial):
        return f"its serial is {seen.serial}, not {serial} as noted"
    if own and not seen.mac_address and seen.told_mac_address and seen.told_mac_address != own:
        return f"it reports MAC address {seen.told_mac_address}, not {own} as noted"
    return ""


def _without_rivals(heard: list[ScanAnswer], matches: list[_Match]) -> list[_Match]:
    """The matches, where several answers are one device, judged against each other: a MAC address that was seen decides;
    without one nobody can say which of them it is."""
    claims: dict[str, list[int]] = {}
    for at, one in enumerate(matches):
        if one.device is not None and not one.against:
            claims.setdefault(one.device.id, []).append(at)
    judged = list(matches)
    for rivals in claims.values():
        macs = {heard[at].mac_address for at in rivals}
        if len(rivals) == 1 or (len(macs) == 1 and "" not in macs) or len({heard[at].address for at in rivals}) == 1:
            continue
        for at in rivals:
            device = judged[at].device
            if device is not None and not (device.mac_address and heard[at].mac_address == device.mac_address):
                judged[at] = _Match(device, "more than one address answers with its identity")
    return judged


def _judged(job: Job, seen: ScanAnswer, match: _Match, holders: dict[str, Device], times: int) -> tuple[Outcome, str]:
    device = match.device
    if times > 1 and seen.address:
        return "shared", (
            f"{times} devices answer at {seen.address}, so pictures come and go. Unplug all but one, change its address, then "
            "plug in the next."
        )
    if device is not None and match.against:
        return "contradicted", (f"Another device claims to be {device.name}: {match.against}. Read the labels.")
    if device is None:
        holder = holders.get(seen.address)
        if holder is None:
            return "stranger", "Not in the job: an office device, or a camera that is not listed yet."
        return "another device", (
            f"Another device answers at the address of {holder.name}: {_against(holder, seen)}. Find it by its MAC address, or "
            "plan a new address."
        )
    if not device.address or not seen.address:
        return "as planned", "Found; take it over to note its serial and MAC address."
    if device.address == seen.address:
        if is_recognised(device, seen):
            return "as planned", "At its planned address."
        if device.mac_address and not seen.mac_address:
            return (
                "by address alone",
                "Its planned address answers; no MAC address was seen to compare.",
            )
        return "by address alone", (
            "Its planned address answers; compare the last four digits on the label before you take it over."
        )
    words = f"Planned at {device.address}. Set that address, or take over the one that was found."
    subnet = next((plan for plan in job.subnets if plan.id == device.subnet), None)
    if subnet is not None and address_number(seen.address) not in room_of(subnet).subnet:
        words = (
            f"It answers outside {subnet.cidr}, where the recorder cannot reach it. Change its address to {device.address} "
            "first, from a laptop in its present subnet."
        )
    return "elsewhere", words


def is_recognised(device: Device, seen: ScanAnswer) -> bool:
    """Whether an answer shows more of a device than its address."""
    return bool(device.mac_address and device.mac_address in (seen.mac_address, seen.told_mac_address)) or bool(
        seen.serial and device.serial and is_same_serial(seen.serial, device.serial)
    )


LEAST_ALIKE = 6


def is_same_serial(one: str, other: str) -> bool:
    """Whether two serials are one: the label often has a part of what a device tells, such as without its model."""
    a, b = ("".join(text.lower().split()) for text in (one, other))
    return a == b or (min(len(a), len(b)) >= LEAST_ALIKE and (a in b or b in a))


def changes_of(found: Iterable[Found]) -> dict[str, dict[str, str]]:
    """By device what was heard of it and is not in the job: address, MAC address, serial and firmware."""
    values: dict[str, dict[str, str]] = {}
    for one in found:
        if one.device is None or one.seen is None or one.outcome in ("shared", *NOT_THE_DEVICE):
            continue
        read_fields = {
            "address": one.seen.address,
            "mac_address": one.seen.mac_address,
            "serial": one.seen.serial[:200],
            "firmware": one.seen.firmware[:200],
        }
        changes = {name: text for name, text in read_fields.items() if text and getattr(one.device, name) != text}
        if changes:
            values[one.device.id] = changes
    return values


def take_over(found: Iterable[Found]) -> Edit:
    """Take what was found into the job: address, MAC address, serial and firmware of the devices that were heard.

    Raises:
        RefusedInput: when nothing among them is a device that was heard by itself.
    """
    values = changes_of(found)
    if not values:
        raise RefusedInput("scan list", "nothing new to take over: everything found is already in the job")
    return set_each(f"Take over {count(len(values), 'device')} as found", values)
