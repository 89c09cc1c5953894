"""Which device of the job answered where."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Job
from eager_lens.core.scan.found import Found, ScanAnswer, compared
from eager_lens.core.site_check.readings import Heard


def answers_of(heard: Iterable[Heard], arp_heard: bool) -> list[ScanAnswer]:
    """What was heard as a list of answers: one for each device, also where several hold one address.

    Where ARP was listened to, MAC addresses count devices; a device may have several names in a search. Where it was not,
    the names do.
    """
    answers = []
    for one in heard:
        macs = list(one.mac_addresses)
        if arp_heard or not one.endpoints:
            each = macs or [""]
        else:
            each = macs if len(macs) >= len(one.endpoints) else [*macs, *[""] * (len(one.endpoints) - len(macs))]
        alone = len(each) == 1
        for at, mac in enumerate(each):
            serial, firmware, told_mac = (one.serial, one.firmware, one.told_mac) if alone else ("", "", "")
            name = one.name or one.hardware
            # Two that say nothing of themselves are still two.
            name = name if alone else f"{name} ({at + 1})"
            answers.append(ScanAnswer(one.address, mac, serial, firmware, name, told_mac))
    return answers


def is_certain(found: Found, on_loopback: bool = False) -> bool:
    """Whether what answered may be given the password of the device that it was matched with.

    A device whose MAC address is noted was seen to have it, on this wire; one whose MAC address is not noted stands at its
    planned address, and nothing that it tells speaks against it. On loopback no MAC addresses are to be seen.
    """
    device, seen = found.device, found.seen
    if device is None or seen is None or not seen.address:
        return False
    if device.mac_address and not on_loopback:
        return found.outcome in ("as planned", "elsewhere") and seen.mac_address == device.mac_address
    return found.outcome in ("as planned", "by address alone") and seen.address == device.address


def matched(job: Job, heard: Sequence[Heard], arp_heard: bool) -> list[Found]:
    """What was heard beside the plan, worst first; also where nothing that was heard belongs to the job. A recorder's second
    interface, and a router's in further subnets, are no strangers."""
    known = {recorder.camera_interface_address for recorder in job.recorders} | {plan.gateway for plan in job.subnets}
    known -= {device.address for device in job.devices()}
    answers = answers_of((one for one in heard if one.address not in known), arp_heard)
    try:
        return compared(job, answers)
    except RefusedInput:
        strangers = [Found(f"seen-{at}", None, seen, "stranger", "Not in the job.") for at, seen in enumerate(answers)]
        return [*compared(job, ()), *strangers]
