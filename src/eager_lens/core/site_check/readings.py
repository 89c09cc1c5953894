"""What a check of the site read: as it comes in, and as it is kept. No password is ever in it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, StringConstraints

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.job.model import Address
from eager_lens.core.job.texts import FIRST_YEAR, LAST_YEAR
from eager_lens.core.validation import AnySign, Number, Plain, Whole

Word = Annotated[str, StringConstraints(strict=True, max_length=400)]
MOST_DEVICES = 20_000
MOST_STRANGERS = 3000
"""So many addresses that are not planned are taken down at the most."""


def _moment(text: str) -> str:
    if not FIRST_YEAR <= datetime.strptime(text, UTC_FORM).year <= LAST_YEAR:
        raise ValueError(f"{text} was given; use a year from {FIRST_YEAR} to {LAST_YEAR}")
    return text


def _with_prefix(text: str) -> str:
    address, slash, prefix = text.partition("/")
    address_number(address)
    if not (slash and prefix.isascii() and prefix.isdigit() and len(prefix) < 3 and int(prefix) <= 32):
        raise ValueError("enter an address with its prefix length, such as 172.22.40.9/24")
    return text


UTC_FORM = "%Y-%m-%dT%H:%M:%SZ"
Moment = Annotated[str, StringConstraints(strict=True), AfterValidator(_moment)]
"""A moment in UTC, as ``2026-03-02T12:00:00Z``."""

OwnAddress = Annotated[str, StringConstraints(strict=True), AfterValidator(_with_prefix)]

Login = Literal["not tried", "in", "open", "refused", "locked", "set-up wanted", "plain text", "no answer"]
"""How a log-in went: in; the page is open to all; refused; it has locked itself; it is not set up yet; it wants the password
in plain text, which was not sent; nothing that can be logged in at."""

Opened = Literal["opened", "refused", "no answer", "stopped", "not video", "not tried"]


class Switches(Plain):
    """What a check does, in its order; each can be left out. ``stream_s``: how long each stream is read; ``only``: the devices
    that are read, all where it is empty."""

    search: bool = True
    sweep: bool = True
    log_in: bool = True
    default_passwords: bool = False
    stream: bool = True
    substream: bool = True
    clock: bool = True
    channels: bool = True
    events: bool = True
    only: Annotated[tuple[Word, ...], Field(max_length=1000)] = ()
    stream_s: Annotated[Number, Field(ge=2, le=600)] = 5


class Heard(Plain):
    """What answered at an address: by TCP, by ARP, by a search; one MAC address, or several where several hold it.

    ``told_mac``: what it says of itself in a search; it counts only where nothing else shows a MAC address.
    """

    address: Address
    mac_addresses: Annotated[tuple[Word, ...], Field(max_length=16)] = ()
    endpoints: Annotated[tuple[Word, ...], Field(max_length=16)] = ()
    told_mac: Word = ""
    name: Word = ""
    hardware: Word = ""
    serial: Word = ""
    firmware: Word = ""
    by: Annotated[tuple[Word, ...], Field(max_length=8)] = ()


class StreamRead(Plain):
    """A stream as it was read. Rates in Mb/s of the coded pictures; the peak is that of the busiest second."""

    outcome: Opened
    words: Word = ""
    codec: Word = ""
    width_px: Whole = 0
    height_px: Whole = 0
    fps: Number = 0
    key_frame_s: Number | None = None
    mean_mbps: Number = 0
    peak_mbps: Number = 0
    read_s: Number = 0


class ChannelRead(Plain):
    """A channel as a recorder tells it."""

    number: Whole
    name: Word = ""
    address: Word = ""
    state: Word = ""
    why: Word = ""


class DeviceRead(Plain):
    """What was read of one device of the job, at an address.

    Attributes:
        clock_off_s: seconds by which its clock is ahead of the laptop's; ``clock_by``: told by sender reports (RTCP) or by
            its page (HTTP), which counts whole seconds.
        channels: None where it did not tell them. events_open: whether its event port takes a connection.
        trouble: anything odd that it answered, in a sentence.
    """

    device: Word
    address: Address
    login: Login = "not tried"
    default_works: bool | None = None
    main: StreamRead | None = None
    substream: StreamRead | None = None
    clock_off_s: AnySign | None = None
    clock_by: Literal["", "RTCP", "HTTP"] = ""
    channels: Annotated[tuple[ChannelRead, ...], Field(max_length=1024)] | None = None
    events_open: bool | None = None
    trouble: Word = ""


class KeptDays(Plain):
    """Days that a recorder promises: by the plan, and with what was read. ``camera``: with that camera's stream alone."""

    recorder: Word
    camera: Word = ""
    planned: Number
    found: Number


class CheckRun(Plain):
    """A check of the site: when (UTC, ISO 8601), how long it took, from where, what it did and what it read.

    Attributes:
        laptop: the laptop's own addresses (with their sizes) in the job's subnets.
        laptop_synchronised: whether the laptop's own clock is kept by a time server; None where the system does not say.
        arp_heard: whether it could listen for ARP, without which two devices on one address are easily missed.
        not_reached: subnets of the job that the laptop has no address in.
        here: it was the site of stand-ins on this computer. stopped: it is not through, or was ended before it was.
    """

    at: Moment
    took_s: Number = 0
    switches: Switches = Switches()
    laptop: Annotated[tuple[OwnAddress, ...], Field(max_length=200)] = ()
    laptop_synchronised: bool | None = None
    arp_heard: bool = False
    not_reached: Annotated[tuple[Word, ...], Field(max_length=5000)] = ()
    here: bool = False
    stopped: bool = False
    heard: Annotated[tuple[Heard, ...], Field(max_length=MOST_DEVICES)] = ()
    read: Annotated[tuple[DeviceRead, ...], Field(max_length=MOST_DEVICES)] = ()
    days: Annotated[tuple[KeptDays, ...], Field(max_length=MOST_DEVICES)] = ()

    def of_device(self, device_id: str) -> DeviceRead | None:
        """What was read of a device."""
        return next((one for one in self.read if one.device == device_id), None)
