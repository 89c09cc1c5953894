"""A search for devices (WS-Discovery), and who answers it."""

from __future__ import annotations

import asyncio
import socket
from collections.abc import Callable, Sequence

from eager_lens.onsite.ws_discovery import GROUP, PORT, Answered, answers_of, search_text

LISTEN_S = 2.5
AGAIN_S = 0.6
MOST_ANSWERS = 20_000


class _Search(asyncio.DatagramProtocol):
    def __init__(self, message_id: str, heard: Callable[[str, Answered], None]) -> None:
        self._message_id, self._heard, self._left = message_id, heard, MOST_ANSWERS

    def datagram_received(self, data: bytes, address: tuple[str, int]) -> None:
        if self._left:
            self._left -= 1
            for one in answers_of(data, self._message_id):
                self._heard(address[0], one)


async def search(
    hosts: Sequence[str], heard: Callable[[str, Answered], None], port: int = PORT, listen_s: float = LISTEN_S
) -> None:
    """Search on the interfaces with these addresses, twice; ``heard`` is told who answered, with the address it came from."""
    loop = asyncio.get_running_loop()
    message_id, text = search_text()
    transports = []
    for host in hosts:
        opened = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        opened.setblocking(False)
        try:
            opened.bind((host, 0))
            opened.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_IF, socket.inet_aton(host))
            opened.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_TTL, 1)
            transport, _ = await loop.create_datagram_endpoint(lambda: _Search(message_id, heard), sock=opened)
        except OSError:
            opened.close()
            continue
        transports.append(transport)
    try:
        for _ in range(2):
            for transport in transports:
                transport.sendto(text, (GROUP, port))
            await asyncio.sleep(AGAIN_S)
        await asyncio.sleep(max(0.0, listen_s - 2 * AGAIN_S))
    finally:
        for transport in transports:
            transport.close()
