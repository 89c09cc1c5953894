"""A stand-in that answers searches (WS-Discovery), on multicast and on its own address."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import cast

from eager_lens.onsite.open_protocol.discovery import Announced, answer_to, matches, search_of


class Discoverable(asyncio.DatagramProtocol):
    """Answers searches for the devices that are to be found behind a socket. ``announced`` is asked at each search, since a
    device may have been set up, or be off, by then; each comes with the way its answer goes out (None: this socket)."""

    def __init__(
        self, announced: Callable[[], list[tuple[Announced, Callable[[bytes, tuple[str, int]], None] | None]]]
    ) -> None:
        self._announced = announced

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        self._transport = cast(asyncio.DatagramTransport, transport)

    def datagram_received(self, data: bytes, address: tuple[str, int]) -> None:
        search = search_of(data)
        if search is None:
            return
        for device, send in self._announced():
            if matches(device, search):
                (send or self._transport.sendto)(answer_to(device, search), address)

    def error_received(self, error: Exception) -> None:
        """An asker that is gone, or that there is no way back to: nothing to be done about it."""
