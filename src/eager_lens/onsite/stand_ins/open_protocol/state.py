"""A stand-in as its services see it: the description that it was started with, its clock and users, and where it is."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta, timezone, tzinfo
from typing import Any, NamedTuple, Protocol
from xml.etree.ElementTree import Element

from eager_lens.core.clock.zones import zone_named
from eager_lens.core.job.make_profiles import TLS_PORT
from eager_lens.core.virtual_site.stand_in import NetworkInterface, StandIn
from eager_lens.onsite.open_protocol.discovery import Announced
from eager_lens.onsite.open_protocol.names import (
    ANALYTICS,
    DEVICE,
    DEVICE_PATH,
    EVENTS,
    IMAGING,
    MEDIA,
    MEDIA2,
    RECEIVER,
    RECORDING,
    REPLAY,
    SEARCH,
    SERVICES,
)
from eager_lens.onsite.stand_ins.fetching import Channel
from eager_lens.onsite.stand_ins.gate import Gate
from eager_lens.onsite.stand_ins.timepiece import StandInClock

OF_CAMERAS = (DEVICE, MEDIA, MEDIA2, IMAGING, ANALYTICS, EVENTS)
OF_RECORDERS = (DEVICE, EVENTS, RECORDING, SEARCH, REPLAY, RECEIVER)


class Begun(NamedTuple):
    """What of a recorder has no channel yet: by token a receiver's address, and by token a recording's name."""

    receivers: dict[str, str]
    recordings: dict[str, str]


class Owner(Protocol):
    """What the services need of the device that they belong to."""

    stand_in: StandIn
    clock: StandInClock
    gate: Gate
    channels: dict[int, Channel]
    is_set_up: bool

    def announced(self) -> Announced:
        """What it answers to a search."""

    def root_url(self) -> str:
        """Scheme, host and port at which it is reached."""

    def stream_url(self, path: str) -> str:
        """The address of one of its streams."""

    def set_user(self, name: str, password: str) -> None:
        """Take a user, and with the first one be set up."""

    def password_trouble(self, password: str) -> str:
        """Why it does not take a password; empty where it does."""

    def moves_at(self, at_s: float) -> bool:
        """Whether its motion rule sees anything at a moment of its own clock."""

    def drop_user(self, name: str) -> None:
        """Let a user in no more."""

    def change(self, **values: Any) -> None:
        """Be set otherwise. ``values``: fields of ``StandIn``."""

    def restart(self, at: int = 0, interface: NetworkInterface | None = None) -> None:
        """Go away and start again, at another address where one is given."""

    def register(self, number: int, channel: Channel) -> None:
        """Take a camera on a channel, and look at it."""


class Served:
    """One stand-in's services."""

    def __init__(self, owner: Owner) -> None:
        self._owner = owner
        self.clock, self.gate, self.channels = owner.clock, owner.gate, owner.channels
        self.announced, self.set_user, self.password_trouble = owner.announced, owner.set_user, owner.password_trouble
        self.stream_url, self.moves_at = owner.stream_url, owner.moves_at
        self.change, self.restart, self.register = owner.change, owner.restart, owner.register
        self.drop_user = owner.drop_user
        self.begun = Begun({}, {})
        role = owner.stand_in.role
        own = OF_CAMERAS if role == "camera" else OF_RECORDERS if role == "recorder" else (DEVICE,)
        self.services = own
        self.by_word = {SERVICES[namespace]: namespace for namespace in own}

    @property
    def stand_in(self) -> StandIn:
        """It, as it is set now."""
        return self._owner.stand_in

    @property
    def is_set_up(self) -> bool:
        """Whether it has its first user."""
        return self._owner.is_set_up

    @property
    def zone(self) -> tzinfo:
        """The zone that its clock is in: a named one, or a fixed offset in minutes, as ``+60``."""
        name = self.stand_in.time_zone
        return timezone(timedelta(minutes=int(name))) if name[:1] in "+-" else zone_named(name)

    def told_url(self, namespace: str) -> str:
        """Where it says that a service is."""
        root = self._owner.root_url()
        if self.stand_in.is_loose:
            # As devices do that were moved: they tell an address that they had before.
            scheme, _, rest = root.partition("://")
            root = f"{scheme}://0.0.0.0:{rest.rpartition(':')[2]}"
        return root + path_of(namespace)

    def url(self, namespace: str) -> str:
        """Where a service is."""
        return self._owner.root_url() + path_of(namespace)

    def ports(self) -> dict[str, tuple[int, bool]]:
        """Its ports by name, and whether each is on."""
        profile = self.stand_in.profile
        tls = self.stand_in.tls_only
        found = {"HTTP": (profile.http_port, not tls), "HTTPS": (TLS_PORT, tls)}
        if self.stand_in.role in ("camera", "recorder"):
            found["RTSP"] = (profile.rtsp_port, bool(self.stand_in.streams))
        return found


Answering = Callable[[Served, Element], str]
"""What answers a question: the XML inside the answer's element.

Raises:
    Refusal: when it is refused.
"""


def path_of(namespace: str) -> str:
    """The path of a service on a stand-in."""
    if namespace == DEVICE:
        return DEVICE_PATH
    return f"{DEVICE_PATH.rpartition('/')[0]}/{SERVICES[namespace].replace(' ', '')}"
