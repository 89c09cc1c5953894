"""What the simulated site is made of: units with their sides, users, clock, radio; cables; what a recorder remembers."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from random import Random
from typing import Literal, NamedTuple

from eager_lens.core.addressing.ipv4 import Subnet, subnet_around
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import Device, RadioPlan
from eager_lens.core.reference.roles import Role
from eager_lens.core.reference.streams import Codec

UnitRole = Role | Literal["supply", "laptop", "phone"]
Phase = Literal["off", "starting", "running", "updating", "broken"]

DEFAULT_PASSWORD = "default"
"""Stands for the password that a device comes with. Passwords are stand-ins: equal texts are equal passwords."""


NEVER_ASKED, GOT_NO_TIME = -1.0, -2.0
"""In place of the moment when a clock got the time last: it has not asked yet, or it asked in vain."""

NOT_ASKED = "not asked yet"
"""Why a new channel shows nothing."""


class Neighbour(NamedTuple):
    """Who is remembered to answer to an address, and until when."""

    unit_id: str
    until_s: float


@dataclass
class Side:
    """A unit's interface in one network: its address (a number, 0 for none), how it came to it, and whom it remembers.

    ``way`` is fixed, or lease: then it asks a DHCP server, and ``lease_until_s`` and ``server`` tell what it got.
    """

    name: str = ""
    address: int = 0
    prefix: int = 24
    gateway: int = 0
    assignment: Literal["fixed", "lease"] = "fixed"
    lease_until_s: float = 0.0
    server: str = ""
    asked: int = 0
    neighbours: dict[int, Neighbour] = field(default_factory=dict)

    @property
    def subnet(self) -> Subnet:
        """The subnet that it takes itself to be in."""
        return subnet_around(self.address, self.prefix)

    def is_near(self, number: int) -> bool:
        """Whether it would look for an address in its own network instead of asking its gateway."""
        return self.address != 0 and number in self.subnet


@dataclass
class Access:
    """Who may log in. ``password`` is the web user's; the open protocol's user has its own, None while there is none."""

    is_set_up: bool = False
    password: str = DEFAULT_PASSWORD
    recovery: bool = False
    open_on: bool = False
    open_password: str | None = None
    wrong: int = 0
    locked_until_s: float = 0.0


@dataclass
class DeviceClock:
    """A clock: seconds that it was off when it was set last (or delivered), its drift, zone, and whom it asks.

    ``zone`` is a named zone, or ``+60`` for a fixed offset in minutes, which knows no summer time. ``server`` is the
    address of a time server, 0 for none; ``polled`` counts changes of it, so that old polls are known as such.
    """

    offset_s: float = 0.0
    set_at_s: float = 0.0
    drift_ppm: float = 0.0
    zone: str = "UTC"
    server: int = 0
    poll_s: float = 1800.0
    polled: int = 0
    last_ok_s: float = NEVER_ASKED


@dataclass
class Antenna:
    """Radio: network name, key and end as they are set on the unit (empty: not set up), and the plan of its link."""

    end: Literal["", "access point", "client"] = ""
    network: str = ""
    key: str = ""
    plan: RadioPlan | None = None
    spare_db: float | None = None


@dataclass
class Stream:
    """A camera's main stream: mean and peak rate in Mb/s, codec, picture in pixels, frames a second, key-frame interval.

    ``cap_mbps``: the maximum that is set; None for none. ``night_times``: so many times the rates in the dark, where noise
    makes them another than planned. ``planned_mbps``: the mean that the job reckons with, however it is set.
    """

    rate_mbps: float
    peak_mbps: float
    codec: Codec
    width_px: int
    height_px: int
    fps: float = 12
    key_frame_s: float = 2
    night_times: float = 1.0
    cap_mbps: float | None = None
    planned_mbps: float = 0.0

    @property
    def pixels(self) -> int:
        """Picture size in pixels."""
        return self.width_px * self.height_px

    def times(self, dark: bool) -> float:
        """By how much the rates are to be multiplied now."""
        return self.night_times if dark else 1.0


Status = Literal["receiving", "alternating", "refused", "silent"]


@dataclass
class Entry:
    """A recorder's channel: where it looks, how it logs in, what it shows, and since when; whether its schedule records."""

    address: int
    protocol: Literal["own", "open"]
    password: str
    name: str = ""
    shown: Status = "silent"
    why: str = NOT_ASKED
    since_s: float = 0.0
    from_unit: str = ""
    is_scheduled: bool = True


class RecordedClip(NamedTuple):
    """A recorded event: channel, the moment it happened, and what the recorder's clock showed then."""

    channel: int
    at_s: float
    stamp: datetime


@dataclass
class Feeding:
    """A unit's power: how it is fed, what it draws, what it gives, and why it is dark.

    Attributes:
        lead: "mains": its own lead; "cable": over its network cable; "unit": from a supply or injector, ``unit_id``.
        lead_in: whether the lead of its own is plugged in.
        poe_class, draw_w: what it asks and takes over a cable. takes: volts of its own lead.
        budget_w, poe_port_class, poe_ports: what it gives. ports_off: those that give nothing all the same.
        infrared_w: what it takes on top in the dark, at full; infrared_share: how much of it is
        set. source: what feeds it now; why_dark: why nothing does.
    """

    lead: Literal["mains", "cable", "unit"] = "mains"
    lead_in: bool = False
    unit_id: str = ""
    poe_class: int | None = None
    draw_w: float = 0.0
    takes: str = ""
    budget_w: float = 0.0
    poe_port_class: int = 0
    poe_ports: int = 0
    ports_off: set[int] = field(default_factory=set)
    infrared_w: float = 0.0
    infrared_share: float = 1.0
    volts_ok: bool = True
    source: str = ""
    why_dark: str = ""


MotionRule = Literal["on", "off", "blind"]
"""A camera's motion rule; a blind one sees only who comes close."""


Habit = Literal["loose", "tls-only", "wants-both", "refuses", "slow"]
"""How a device speaks the open protocol: not quite by the standard, over TLS alone, or with two log-ins at once."""


@dataclass
class Recording:
    """What a recorder does besides looking: whether it takes events and its drives work, and how far back it keeps."""

    takes_events: bool = True
    drives_work: bool = True
    keeps_days: float = 31.0


@dataclass
class Outside:
    """The site seen from outside: internet, upload in Mb/s, the recorder's relay, and a viewer's user."""

    has_internet: bool = True
    upload_mbps: float = 1000.0
    relay_on: bool = True
    viewer_may: bool = True


@dataclass
class Unit:
    """A device of the simulated site. ``device`` is the job's own; None for what only the bench has (laptop, phones).

    ``camera_cables`` are a recorder's cables toward cameras on a network of their own; ``host`` (and its side) is what the
    laptop is plugged into, or a phone hangs on by radio. ``boots`` counts its starts, so that what was begun before the
    last one is known as such. ``is_burnt``: it takes no power any more.
    """

    id: str
    name: str
    role: UnitRole
    mac_address: str
    serial: str
    profile: MakeProfile
    chance: Random
    device: Device | None = None
    sides: list[Side] = field(default_factory=lambda: [Side()])
    feeding: Feeding = field(default_factory=Feeding)
    access: Access = field(default_factory=Access)
    clock: DeviceClock = field(default_factory=DeviceClock)
    antenna: Antenna | None = None
    stream: Stream | None = None
    event_target: int = 0
    rule: MotionRule = "on"
    recording: Recording = field(default_factory=Recording)
    is_burnt: bool = False
    habits: set[Habit] = field(default_factory=set)
    entries: dict[int, Entry] = field(default_factory=dict)
    clips: list[RecordedClip] = field(default_factory=list)
    firmware: str = ""
    given_name: str = ""
    camera_cables: frozenset[str] = frozenset()
    host: str = ""
    host_side: str = ""
    in_box_since_s: float | None = None
    cool_at_s: float = 0.0
    phase: Phase = "off"
    ready_s: float = 0.0
    boots: int = 0

    @property
    def is_lit(self) -> bool:
        """Whether it has power."""
        return self.phase != "off"

    @property
    def runs(self) -> bool:
        """Whether it does its work."""
        return self.phase == "running"

    @property
    def passes_on(self) -> bool:
        """Whether it joins what is plugged into it."""
        if self.role == "recorder":
            return getattr(self.device, "attachment", "") == "bridged PoE ports"
        return self.role in ("switch", "bridge", "other", "router") and not self.is_station

    @property
    def is_station(self) -> bool:
        """Whether it only watches."""
        return self.role == "other" and bool(getattr(self.device, "viewed_streams", 0))

    @property
    def last_four(self) -> str:
        """The end of the MAC address, as it is read from the label."""
        return self.mac_address.replace(":", "")[-4:]


@dataclass
class Cable:
    """A cable or radio path between two units and the ports that it is plugged into.

    ``is_apart``: its port is in another VLAN; ``is_wet``: water stands in a plug, and it fails while it rains.
    """

    id: str
    a: str
    a_port: int
    b: str
    b_port: int
    medium: Literal["copper", "fibre", "radio"]
    mbps: float
    long_reach: bool = False
    plugged: bool = True
    is_apart: bool = False
    is_wet: bool = False

    def far_end(self, unit_id: str) -> tuple[str, int]:
        """The unit at the other end, and its port."""
        return (self.b, self.b_port) if unit_id == self.a else (self.a, self.a_port)

    def port_at(self, unit_id: str) -> int:
        """The port at this unit."""
        return self.a_port if unit_id == self.a else self.b_port


@dataclass
class Server:
    """An DHCP server on a unit's side: what it may lease, to whom it did, and what it reserves.

    ``leases`` is by MAC address: the address, and until when; ``reserved`` by MAC address.
    """

    unit_id: str
    side_name: str
    subnet: Subnet
    first: int
    last: int
    gateway: int = 0
    leases: dict[str, tuple[int, float]] = field(default_factory=dict)
    reserved: dict[str, int] = field(default_factory=dict)

    def free(self, now_s: float) -> list[int]:
        """Addresses of the pool that are neither leased now nor reserved."""
        held = {number for number, until_s in self.leases.values() if until_s > now_s} | set(self.reserved.values())
        own = {self.subnet.network, self.subnet.broadcast, self.gateway}
        return [number for number in range(self.first, self.last + 1) if number not in held and number not in own]
