"""What a check of the site read: as it comes in, and as it is kept. No password is ever in it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, StringConstraints

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.job.model import Address
from eager_lens.core.job.texts import FIRST_YEAR, LAST_YEAR
from eager_lens.core.site_check.told import Told, Word
from eager_lens.core.validation import AnySign, Number, Plain, Whole

MOST_DEVICES = 20_000
MOST_AT_ONE = 512
"""So many devices that are told apart at one address: out of their box all of a make may be there."""
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
    that are read, all where it is empty; ``first_addresses``: the default addresses of the makes are looked at too."""

    search: bool = True
    sweep: bool = True
    log_in: bool = True
    default_passwords: bool = False
    stream: bool = True
    substream: bool = True
    clock: bool = True
    channels: bool = True
    events: bool = True
    first_addresses: bool = False
    only: Annotated[tuple[Word, ...], Field(max_length=MOST_DEVICES)] = ()
    stream_s: Annotated[Number, Field(ge=2, le=600)] = 5


class Heard(Plain):
    """What answered at an address: by TCP, by ARP, by a search; one MAC address, or several where several hold it.

    ``told_mac``: what it says of itself in a search; it counts only where nothing else shows a MAC address. ``urls``: where it
    says that it speaks the open protocol. ``notes``: what of its answer is not by the standard.
    """

    address: Address
    mac_addresses: Annotated[tuple[Word, ...], Field(max_length=MOST_AT_ONE)] = ()
    endpoints: Annotated[tuple[Word, ...], Field(max_length=MOST_AT_ONE)] = ()
    told_mac: Word = ""
    urls: Annotated[tuple[Word, ...], Field(max_length=MOST_AT_ONE)] = ()
    name: Word = ""
    hardware: Word = ""
    serial: Word = ""
    firmware: Word = ""
    notes: Annotated[tuple[Word, ...], Field(max_length=8)] = ()
    by: Annotated[tuple[Word, ...], Field(max_length=8)] = ()

    def is_shared(self, arp_heard: bool) -> bool:
        """Whether several devices hold the address. One device may have several names in a search: they count only where no MAC
        addresses could be heard."""
        return len(self.mac_addresses) > 1 or (not arp_heard and len(self.endpoints) > 1)


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


class DeviceRead(Plain):
    """What was read of one device of the job, at an address.

    Attributes:
        clock_off_s: seconds by which its clock is ahead of the laptop's; ``clock_by``: told by sender reports (RTCP), by the
            open protocol or by its page (HTTP), which count whole seconds.
        told: what it tells by the open protocol; None where it does not speak it, and ``why_not_told`` says so.
        other_certificate: SHA-256 of a certificate that is not the remembered one; nothing was sent then.
        events_open: whether its event port takes a connection.
        trouble: anything odd that it answered, in a sentence.
    """

    device: Word
    address: Address
    login: Login = "not tried"
    default_works: bool | None = None
    main: StreamRead | None = None
    substream: StreamRead | None = None
    clock_off_s: AnySign | None = None
    clock_by: Literal["", "RTCP", "open protocol", "HTTP"] = ""
    told: Told | None = None
    why_not_told: Word = ""
    other_certificate: Word = ""
    events_open: bool | None = None
    trouble: Word = ""


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

    def heard_and_told(self) -> list[Heard]:
        """What was heard, with what the devices that were read told of who they are."""
        told = {read.address: read.told for read in self.read if read.told is not None}
        return [_with_told(one, told.get(one.address)) for one in self.heard]

    def of_device(self, device_id: str) -> DeviceRead | None:
        """What was read of a device."""
        return next((one for one in self.read if one.device == device_id), None)


def _with_told(heard: Heard, told: Told | None) -> Heard:
    """What was heard at an address, with the identity that the device there told."""
    if told is None or len(heard.mac_addresses) > 1:
        return heard
    values: dict[str, str] = {}
    if told.identity is not None:
        name = " ".join((told.identity.make, told.identity.model)).strip()
        values = {"serial": told.identity.serial, "firmware": told.identity.firmware, "hardware": name}
    interfaces = told.network.interfaces if told.network is not None else ()
    own = [one.mac_address for one in interfaces if one.address == heard.address] or [
        one.mac_address for one in interfaces[:1]
    ]
    values["told_mac"] = own[0] if own else ""
    return heard.model_copy(update={name: text for name, text in values.items() if text})
