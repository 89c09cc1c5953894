"""What was found on the network beside what was planned: which answer is which device, and what does not fit.

An answer is a device's when its MAC address is the device's; else by its serial; else by its address alone, where the
device's MAC address is not known yet: then the label has to be read.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from typing import Literal, NamedTuple

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.addressing import room_of
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Device, Job
from eager_lens.core.units import count

Outcome = Literal["as planned", "by address alone", "elsewhere", "shared", "stranger", "another device", "not heard"]


class ScanAnswer(NamedTuple):
    """What answered, as a list told it; empty texts for what is not known."""

    address: str
    mac_address: str
    serial: str
    firmware: str
    name: str


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
    matched = [match(seen) for seen in heard]
    holders = {device.address: device for device in devices if device.address}
    if heard and not any(matched) and not any(seen.address in holders for seen in heard):
        raise RefusedInput(
            "scan list",
            f"none of {count(len(heard), 'answer')} belongs to this job, by MAC address, serial or address: "
            "is it the list of another site?",
        )
    times = Counter(seen.address for seen in heard if seen.address)
    found = []
    for number, (seen, device) in enumerate(zip(heard, matched, strict=True)):
        outcome, words = _judged(job, seen, device, holders, times[seen.address])
        whose = device or (holders.get(seen.address) if outcome == "another device" else None)
        found.append(Found(f"seen-{number}", whose, seen, outcome, words))
    known = {device.id for device in matched if device is not None}
    for device in devices:
        if device.id not in known and device.address:
            words = (
                "Off, not plugged in, in another subnet, or it ignores searches: look at its lights, then search again."
            )
            found.append(Found(f"silent-{device.id}", device, None, "not heard", words))
    return sorted(found, key=lambda one: WORST_FIRST.index(one.outcome))


def _matcher(devices: list[Device]) -> Callable[[ScanAnswer], Device | None]:
    by_hardware = {device.mac_address: device for device in devices if device.mac_address}
    twins = Counter(device.mac_address for device in devices if device.mac_address)
    twin_at = {device.address: device for device in devices if twins[device.mac_address] > 1 and device.address}
    by_serial = {device.serial.lower(): device for device in devices if device.serial}
    by_address = {device.address: device for device in devices if device.address and not device.mac_address}

    def match(seen: ScanAnswer) -> Device | None:
        if seen.mac_address and twins[seen.mac_address] == 1:
            return by_hardware[seen.mac_address]
        if twins[seen.mac_address] > 1 and seen.address in twin_at:
            # Noted on two devices, so one label was copied: the address tells which of them this is.
            return twin_at[seen.address] if twin_at[seen.address].mac_address == seen.mac_address else None
        if seen.serial and seen.serial.lower() in by_serial:
            return by_serial[seen.serial.lower()]
        return by_address.get(seen.address)

    return match


def _judged(
    job: Job, seen: ScanAnswer, device: Device | None, holders: dict[str, Device], times: int
) -> tuple[Outcome, str]:
    if times > 1 and seen.address:
        return "shared", (
            f"{times} devices answer on {seen.address}: pictures come and go. Unplug all but one, give each an address of its "
            "own, then plug the next in."
        )
    if device is None:
        holder = holders.get(seen.address)
        if holder is None:
            return "stranger", "Not in the job: an office device, or a camera that is not listed yet."
        return "another device", (
            f"Something else answers on {holder.name}'s address. Find it by its MAC address, or plan another."
        )
    if not device.address or not seen.address:
        return "as planned", "Heard; take it over to note what its label says."
    if device.address == seen.address:
        sure = bool(seen.mac_address and device.mac_address == seen.mac_address) or bool(
            seen.serial and seen.serial.lower() == device.serial.lower()
        )
        if sure:
            return "as planned", "At its planned address."
        return "by address alone", "Its planned address answers; read the last four on the label before taking it over."
    words = f"Planned at {device.address}. Give it that, or take what was found into the plan."
    subnet = next((plan for plan in job.subnets if plan.id == device.subnet), None)
    if subnet is not None and address_number(seen.address) not in room_of(subnet).subnet:
        words = (
            f"Alive, but in another subnet than {subnet.cidr}: nothing there reaches it. Change its address to {device.address} "
            "first, with a laptop in its own subnet."
        )
    return "elsewhere", words


def take_over(found: Iterable[Found]) -> Edit:
    """Take what was found into the job: address, MAC address, serial and firmware of the devices that were heard.

    Raises:
        RefusedInput: when nothing among them is a device that was heard by itself.
    """
    values: dict[str, dict[str, str]] = {}
    for one in found:
        if one.device is None or one.seen is None or one.outcome in ("shared", "another device"):
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
    if not values:
        raise RefusedInput("scan list", "nothing new to take over: what was heard is in the job already")
    return set_each(f"Take {count(len(values), 'device')} over as found", values)
