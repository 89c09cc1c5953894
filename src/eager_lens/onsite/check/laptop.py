"""This computer on the network: its interfaces, its clock, whom its ARP cache knows, and what it overhears."""

from __future__ import annotations

import ctypes
import fcntl
import socket
import struct
from collections.abc import Callable
from pathlib import Path

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.site_check.scope import Interface

ETHER_ARP = 0x0806
SIOCGIFHWADDR = 0x8927
MOST_AT_ONCE = 500
_UNSYNCHRONISED = 0x0040
_TIMEX_BYTES = 512


def interfaces() -> list[Interface]:
    """The interfaces that have an IPv4 address, but the loopback. To be called outside an event loop."""
    from pyroute2 import IPRoute

    with IPRoute() as route:
        names = {link["index"]: link.get("ifname") for link in route.get_links()}
        found = []
        for one in route.get_addr(family=socket.AF_INET):
            address = one.get("address")
            if address and not address.startswith("127."):
                found.append(Interface(str(names.get(one["index"], "")), address_number(address), one["prefixlen"]))
        return found


def is_synchronised() -> bool | None:
    """Whether this computer's clock is kept by a time server, as the kernel has it (adjtimex(2)); None where it says nothing."""
    try:
        libc = ctypes.CDLL(None)
        buffer = ctypes.create_string_buffer(_TIMEX_BYTES)
        if libc.adjtimex(buffer) < 0:
            return None
    except (OSError, AttributeError):
        return None
    # struct timex: modes (int, padded to a long), offset, freq, maxerror, esterror (longs), status (int).
    long_bytes = struct.calcsize("l")
    (status,) = struct.unpack_from("i", buffer, 5 * long_bytes)
    return not status & _UNSYNCHRONISED


def arp_cache() -> dict[str, str]:
    """By address the MAC address that this computer remembers."""
    found = {}
    try:
        lines = Path("/proc/net/arp").read_text("ascii").splitlines()[1:]
    except OSError:
        return {}
    for line in lines:
        words = line.split()
        if len(words) >= 4 and words[3] != "00:00:00:00:00:00":
            found[words[0]] = words[3].lower()
    return found


def arp_socket() -> socket.socket | None:
    """A socket that asks by ARP, and overhears it on all interfaces; None where this account may not."""
    try:
        opened = socket.socket(socket.AF_PACKET, socket.SOCK_DGRAM, socket.htons(ETHER_ARP))
    except OSError:
        return None
    opened.setblocking(False)
    return opened


def ask_arp(opened: socket.socket, interface: Interface, number: int) -> None:
    """Ask who has an address (RFC 826). All who have it answer, not only the one that is remembered."""
    try:
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asker:
            hardware = fcntl.ioctl(asker, SIOCGIFHWADDR, struct.pack("256s", interface.name.encode()[:15]))[18:24]
        own, wanted = interface.address.to_bytes(4, "big"), number.to_bytes(4, "big")
        question = struct.pack(">HHBBH", 1, 0x0800, 6, 4, 1) + hardware + own + b"\x00" * 6 + wanted
        opened.sendto(question, (interface.name, ETHER_ARP, 0, 0, b"\xff" * 6))
    except OSError:
        return  # an interface that went away meanwhile: nobody answers


def overheard(opened: socket.socket, claim: Callable[[str, str], None]) -> None:
    """Tell each address that somebody was heard to hold, with the MAC address: from answers, and from questions too."""
    for _ in range(MOST_AT_ONCE):
        try:
            data = opened.recv(256)
        except OSError:
            return
        if len(data) < 28 or data[:6] != b"\x00\x01\x08\x00\x06\x04":
            continue
        mac, number = data[8:14], int.from_bytes(data[14:18], "big")
        if number:
            claim(address_text(number), ":".join(f"{one:02x}" for one in mac))
