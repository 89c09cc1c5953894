"""SNTP (RFC 4330, over NTP version 4's packets): a server that gives a device's own time, and a question to one."""

from __future__ import annotations

import asyncio
import contextlib
import socket
import struct
import time
from collections.abc import Callable
from typing import cast

import ntplib

from eager_lens.onsite.stand_ins.timepiece import NTP_EPOCH_S, StandInClock

PORT = 123
ANSWER_S = 2.0
STRATUM = 3
PACKET_BYTES = 48


class TimeServer(asyncio.DatagramProtocol):
    """Answers questions for the time with what the device's clock shows."""

    def __init__(self, clock: StandInClock) -> None:
        self._clock = clock

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        self._transport = cast(asyncio.DatagramTransport, transport)

    def datagram_received(self, data: bytes, address: tuple[str, int]) -> None:
        if len(data) < PACKET_BYTES or data[0] & 7 not in (1, 3):
            return
        version = data[0] >> 3 & 7
        now = self._clock.ntp_parts()
        head = struct.pack(">BBbb", version << 3 | 4, STRATUM, 6, -20)
        root = struct.pack(">II4s", 0, 1 << 8, b"LOCL")
        times = struct.pack(">II", *now) + data[40:48] + struct.pack(">II", *now) + struct.pack(">II", *now)
        self._transport.sendto(head + root + times, address)


class _Question(asyncio.DatagramProtocol):
    def __init__(self, answered: asyncio.Future[tuple[ntplib.NTPStats, float]]) -> None:
        self._answered = answered

    def datagram_received(self, data: bytes, address: tuple[str, int]) -> None:
        stats = ntplib.NTPStats()
        with contextlib.suppress(ntplib.NTPException, struct.error):
            stats.from_data(data)
            if not self._answered.done():
                self._answered.set_result((stats, time.time()))


async def ahead_of_here_s(opened: Callable[[], socket.socket], host: str, port: int = PORT) -> float | None:
    """Seconds by which a time server is ahead of this computer's clock; None where none answers."""
    loop = asyncio.get_running_loop()
    answered: asyncio.Future[tuple[ntplib.NTPStats, float]] = loop.create_future()
    transport = None
    try:
        transport, _ = await loop.create_datagram_endpoint(lambda: _Question(answered), sock=opened())
        packet = ntplib.NTPPacket(version=4, mode=3, tx_timestamp=time.time() + NTP_EPOCH_S)
        transport.sendto(packet.to_data(), (host, port))
        stats, arrived_s = await asyncio.wait_for(answered, ANSWER_S)
    except (OSError, TimeoutError):
        return None
    finally:
        if transport is not None:
            transport.close()
    stats.dest_timestamp = arrived_s + NTP_EPOCH_S
    return float(stats.offset)
