"""A search for devices (WS-Discovery), who answers it, and who announces itself meanwhile."""

from __future__ import annotations

import asyncio
import contextlib
import socket
from collections.abc import Callable, Sequence

from eager_lens.onsite.check.pace import Pace
from eager_lens.onsite.open_protocol.discovery import GROUP, PORT, Answered, answers_of, search_text

LISTEN_S = 2.5
AGAIN_S = 0.6
MOST_ANSWERS = 20_000
Hears = Callable[[str, Answered], None]


class _Search(asyncio.DatagramProtocol):
    def __init__(self, message_ids: frozenset[str], heard: Hears) -> None:
        self._message_ids, self._heard, self._left = message_ids, heard, MOST_ANSWERS

    def datagram_received(self, data: bytes, address: tuple[str, int]) -> None:
        if self._left:
            self._left -= 1
            for one in answers_of(data, self._message_ids):
                self._heard(address[0], one)

    def error_received(self, error: Exception) -> None:
        """A port that is closed at a planned address: its device does not search, which the other ways tell."""


async def search(
    hosts: Sequence[str],
    heard: Hears,
    port: int = PORT,
    listen_s: float = LISTEN_S,
    planned: Sequence[str] = (),
    pace: Pace | None = None,
) -> None:
    """Search on the interfaces with these addresses, by type and without; ``heard`` is told who answered or announced itself,
    with the address that it came from.

    Args:
        planned: addresses that are asked one by one where they did not answer, since some switches filter multicast.
    """
    answered: set[str] = set()

    def hear(host: str, one: Answered) -> None:
        answered.add(host)
        heard(host, one)

    questions = [search_text(), search_text(with_type=True)]
    ids = frozenset(message_id for message_id, _ in questions)
    transports = [one for host in hosts if (one := await _opened(host, 0, ids, hear)) is not None]
    listener = await _opened("", port, ids, hear, hosts)
    try:
        for _, question in questions:
            for transport in transports:
                transport.sendto(question, (GROUP, port))
            await asyncio.sleep(AGAIN_S)
        if transports:
            for host in (one for one in planned if one not in answered):
                if pace is not None:
                    await pace.turn()
                transports[0].sendto(questions[0][1], (host, port))
        await asyncio.sleep(max(0.0, listen_s - 2 * AGAIN_S))
    finally:
        for opened in (*transports, listener):
            if opened is not None:
                opened.close()


async def _opened(
    host: str, port: int, ids: frozenset[str], heard: Hears, groups: Sequence[str] = ()
) -> asyncio.DatagramTransport | None:
    """A socket that asks from an address, or one that listens to announcements on the interfaces of ``groups``."""
    opened = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    opened.setblocking(False)
    try:
        if groups:
            opened.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            opened.bind((GROUP, port))
            for one in groups:
                with contextlib.suppress(OSError):
                    member = socket.inet_aton(GROUP) + socket.inet_aton(one)
                    opened.setsockopt(socket.IPPROTO_IP, socket.IP_ADD_MEMBERSHIP, member)
        else:
            opened.bind((host, port))
            opened.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_IF, socket.inet_aton(host))
            opened.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_TTL, 1)
        loop = asyncio.get_running_loop()
        transport, _ = await loop.create_datagram_endpoint(lambda: _Search(ids, heard), sock=opened)
    except OSError:
        opened.close()
        return None
    return transport
