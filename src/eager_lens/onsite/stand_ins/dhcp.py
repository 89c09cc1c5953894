"""A DHCP server (RFC 2131) with a pool and reservations, as small as a stand-in's router needs."""

from __future__ import annotations

import asyncio
import struct
import time
from collections.abc import Mapping
from typing import NamedTuple, cast

PORT, CLIENT_PORT = 67, 68
COOKIE = b"\x63\x82\x53\x63"
HEAD_BYTES = 236
DISCOVER, OFFER, REQUEST, DECLINE, ACK, NAK, RELEASE = 1, 2, 3, 4, 5, 6, 7
TYPE, WANTED, SERVER, LEASE, MASK, ROUTER = 53, 50, 54, 51, 1, 3


class Asking(NamedTuple):
    """What a client asks: message type, transaction, MAC address, the address that it wants or has, the server it means."""

    kind: int
    xid: bytes
    mac_address: str
    wanted: int
    server: int
    flags: bytes


def asking_of(data: bytes) -> Asking | None:
    """Read a client's message; None for anything else."""
    if len(data) < HEAD_BYTES + 4 or data[0] != 1 or data[1:3] != b"\x01\x06" or data[236:240] != COOKIE:
        return None
    options, at = {}, 240
    while at < len(data) and data[at] != 255:
        if data[at] == 0:
            at += 1
            continue
        if at + 1 >= len(data):
            return None
        length = data[at + 1]
        options[data[at]] = data[at + 2 : at + 2 + length]
        at += 2 + length
    kind = options.get(TYPE, b"")
    if len(kind) != 1:
        return None
    own = int.from_bytes(data[12:16], "big")
    wanted = int.from_bytes(options.get(WANTED, b"")[:4], "big") or own
    server = int.from_bytes(options.get(SERVER, b"")[:4], "big")
    return Asking(kind[0], data[4:8], ":".join(f"{one:02x}" for one in data[28:34]), wanted, server, data[10:12])


class Leases:
    """The addresses of a pool: who has which until when, and what is reserved."""

    def __init__(self, first: int, last: int, reserved: Mapping[str, int], lease_s: float) -> None:
        self._first, self._last, self._reserved, self.lease_s = first, last, dict(reserved), lease_s
        self._held: dict[int, tuple[str, float]] = {}

    def address_for(self, mac_address: str, wanted: int = 0) -> int:
        """The address that a client is offered; 0 where the pool is exhausted."""
        if mac_address in self._reserved:
            return self._reserved[mac_address]
        own = next((number for number, (holder, _) in self._held.items() if holder == mac_address), 0)
        if own:
            return own
        if wanted and self._is_free(wanted):
            return wanted
        return next((number for number in range(self._first, self._last + 1) if self._is_free(number)), 0)

    def _is_free(self, number: int) -> bool:
        _, until_s = self._held.get(number, ("", 0.0))
        in_pool = self._first <= number <= self._last
        return in_pool and until_s <= time.monotonic() and number not in self._reserved.values()

    def take(self, mac_address: str, number: int) -> None:
        """A client has an address now."""
        self.release(mac_address)
        self._held[number] = (mac_address, time.monotonic() + self.lease_s)

    def release(self, mac_address: str) -> None:
        """A client gives its address back."""
        self._held = {number: held for number, held in self._held.items() if held[0] != mac_address}


class DhcpServer(asyncio.DatagramProtocol):
    """Leases addresses of a pool. ``own`` is the router's address, which it gives as gateway too."""

    def __init__(self, leases: Leases, own: int, prefix: int) -> None:
        self._leases, self._own, self._prefix = leases, own, prefix

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        self._transport = cast(asyncio.DatagramTransport, transport)

    def datagram_received(self, data: bytes, address: tuple[str, int]) -> None:
        asking = asking_of(data)
        if asking is None or (asking.server and asking.server != self._own):
            return
        reply = self.reply_to(asking)
        if reply is not None:
            self._transport.sendto(reply, ("255.255.255.255", CLIENT_PORT))

    def reply_to(self, asking: Asking) -> bytes | None:
        """The answer to a client, None where there is none."""
        if asking.kind == RELEASE:
            self._leases.release(asking.mac_address)
            return None
        if asking.kind not in (DISCOVER, REQUEST):
            return None
        number = self._leases.address_for(asking.mac_address, asking.wanted)
        if asking.kind == DISCOVER:
            return self._packet(asking, OFFER, number) if number else None
        if not number or (asking.wanted and asking.wanted != number):
            return self._packet(asking, NAK, 0)
        self._leases.take(asking.mac_address, number)
        return self._packet(asking, ACK, number)

    def _packet(self, asking: Asking, kind: int, number: int) -> bytes:
        hardware = bytes.fromhex(asking.mac_address.replace(":", "")).ljust(16, b"\x00")
        head = struct.pack(">BBBB4sH2sIIII", 2, 1, 6, 0, asking.xid, 0, asking.flags, 0, number, self._own, 0)
        mask = 0xFFFFFFFF << (32 - self._prefix) & 0xFFFFFFFF
        values = [(TYPE, bytes((kind,))), (SERVER, self._own.to_bytes(4, "big"))]
        if kind != NAK:
            values += [
                (LEASE, round(self._leases.lease_s).to_bytes(4, "big")),
                (MASK, mask.to_bytes(4, "big")),
                (ROUTER, self._own.to_bytes(4, "big")),
            ]
        options = b"".join(bytes((code, len(value))) + value for code, value in values)
        return head + hardware + b"\x00" * 192 + COOKIE + options + b"\xff"
