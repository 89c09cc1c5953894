"""Stand-ins without sockets: what is asked of them goes from call to call, and time jumps ahead where all wait. For trials of
hundreds of sites, in which a minute may take a millisecond."""

from __future__ import annotations

import asyncio
import selectors
import socket
import time
from collections.abc import AsyncIterator, Callable, Iterable, Mapping, Sequence
from contextlib import asynccontextmanager
from typing import Any
from urllib.parse import urlsplit

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.virtual_site.stand_in import NetworkInterface, StandIn
from eager_lens.onsite.bounded_http import Http, HttpAnswer
from eager_lens.onsite.check.network import Network
from eager_lens.onsite.commission.wire import Wire
from eager_lens.onsite.open_protocol.endpoints import USUAL_PORTS
from eager_lens.onsite.stand_ins.device import Device
from eager_lens.onsite.stand_ins.places import Place
from eager_lens.onsite.stand_ins.web import Answer, Asked

NO_ANSWER_S = 3.0


class _Jumping(selectors.DefaultSelector):
    """Waits for nothing, and counts how long it would have waited."""

    def __init__(self) -> None:
        super().__init__()
        self.jumped_s = 0.0

    def select(self, timeout: float | None = None) -> list[Any]:
        found = super().select(0)
        if not found and timeout:
            self.jumped_s += timeout
        elif not found and timeout is None:
            return super().select(0.001)
        return found


class JumpingLoop(asyncio.SelectorEventLoop):
    """An event loop whose time jumps to the next moment at which anything happens."""

    def __init__(self) -> None:
        self._jumping = _Jumping()
        super().__init__(self._jumping)

    def time(self) -> float:
        """Seconds since some moment, with those that were jumped."""
        return super().time() + self._jumping.jumped_s


class NoNetwork(Place):
    """The place of a stand-in that serves no socket."""

    def tcp(self, port: int) -> list[socket.socket]:
        return []

    def udp(self, port: int, group: str = "", wire_only: bool = False) -> list[socket.socket]:
        return []

    def outgoing(self, kind: socket.SocketKind = socket.SOCK_STREAM) -> socket.socket:
        raise OSError("there is no network here")

    def reach(self, address: int, port: int) -> tuple[str, int]:
        return address_text(address), port

    def move(self, at: int, interface: NetworkInterface) -> None:
        """There is nothing to move."""

    async def moved(self, at: int, interface: NetworkInterface) -> None:
        """Nor is there a thread to wait for, while which the time of the loop would jump."""

    def close(self) -> None:
        """There is nothing to give up."""

    def _bound(self, port: int) -> socket.socket:
        raise OSError("there is no network here")


Asks = Callable[[Device, str], None]
"""Told of each question to a device, with its name, before it is answered; may change the device, or raise ``OSError``."""


class MemorySite:
    """Stand-ins that are reached in this process.

    Attributes:
        devices: by id. pinned: by address the MAC address that is reached there, where several hold it. unclear: questions to an
            address that several held, while none of them was pinned: any of them may have answered.
    """

    def __init__(self, stand_ins: Iterable[StandIn], asks: Asks = lambda device, name: None) -> None:
        self.devices = {one.id: Device(one, NoNetwork(), _no_streams) for one in stand_ins}
        self.pinned: dict[str, str] = {}
        self.unclear: list[str] = []
        self._asks = asks

    async def start(self) -> None:
        """Start all of them."""
        for device in self.devices.values():
            await device.start()

    async def stop(self) -> None:
        """End all of them."""
        for device in self.devices.values():
            await device.stop()

    def holders(self, host: str, port: int) -> list[Device]:
        """The devices that answer at an address and port, as it is pinned."""
        found = []
        for device in self.devices.values():
            for one in device.stand_in.interfaces:
                wanted = self.pinned.get(host, one.mac_address)
                answers = device.is_open and device.stand_in.profile.http_port == port
                if answers and address_text(one.address) == host and one.mac_address == wanted:
                    found.append(device)
        return found

    async def answer(self, method: str, url: str, headers: Mapping[str, str], body: bytes) -> Answer:
        """What is answered at an address.

        Raises:
            TimeoutError: when nobody is there.
        """
        parts = urlsplit(url)
        holders = self.holders(parts.hostname or "", parts.port or USUAL_PORTS["http"])
        if not holders:
            await asyncio.sleep(NO_ANSWER_S)
            raise TimeoutError
        device = holders[0]
        question = body.decode("utf-8", "replace").partition("Body><")[2].partition(" ")[0].partition(">")[0]
        name = question.rpartition(":")[2].strip("/")
        if len(holders) > 1:
            self.unclear.append(name)
        self._asks(device, name)
        if not device.is_open:
            raise OSError("the connection was closed")
        return await device.answer(Asked(method, parts.path, headers, body, "127.0.0.1"))


async def _no_streams(stream: object) -> Any:
    raise OSError("no streams are sent here")


class _MemoryHttp(Http):
    """Asks the devices of a site in this process."""

    def __init__(self, site: MemorySite) -> None:
        super().__init__()
        self._site = site

    async def ask(
        self, method: str, url: str, headers: Sequence[tuple[str, str]] = (), body: bytes = b""
    ) -> HttpAnswer:
        """As ``Http.ask``."""
        given = {name.lower(): value for name, value in headers}
        answer = await self._site.answer(method, url, given, body)
        told = tuple((name.lower(), value) for name, value in answer.headers.items())
        return HttpAnswer(answer.status, told, answer.body.encode(), time.time())


class MemoryWire(Wire):
    """Reaches the devices of a site in this process."""

    def __init__(self, site: MemorySite) -> None:
        super().__init__(Network({}))
        self._site = site

    def http(self, certificate: str) -> Http:
        return _MemoryHttp(self._site)

    async def is_open(self, host: str, port: int) -> bool:
        return bool(self._site.holders(host, port))


class MemoryPins:
    """Tells devices on one address apart; see ``onsite.check.pins``."""

    def __init__(self, site: MemorySite) -> None:
        self._site = site

    @asynccontextmanager
    async def only(self, number: int, mac_address: str) -> AsyncIterator[None]:
        """Speak to one device at an address meanwhile."""
        address = address_text(number)
        self._site.pinned[address] = mac_address
        try:
            yield
        finally:
            del self._site.pinned[address]
