"""Pinning an address to one MAC address in this computer's neighbour table, so that of several devices on one address exactly one
is spoken to.

That takes a right (CAP_NET_ADMIN). A process that has it pins by itself; another asks through ``pkexec``, the desktop's own
authorisation dialog, for the system's ``ip`` alone, which then takes one line for each pin; nothing of this program runs with
more rights than before.
"""

from __future__ import annotations

import asyncio
import contextlib
import shutil
import subprocess
from collections.abc import AsyncIterator, Sequence
from typing import Protocol

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.site_check.scope import Interface

ASK_S = 120.0
"""So long somebody may take to type a password into the dialog."""
LINE_S = 5.0


class Table(Protocol):
    """What changes the neighbour table."""

    def pin(self, interface: str, address: str, mac_address: str) -> None:
        """Pin an address on an interface."""

    def let_go(self, interface: str, address: str) -> None:
        """Let the address be found as usual."""

    def close(self) -> None:
        """Change no more."""


class OwnTable:
    """Changed by this process, which has the right."""

    def __init__(self) -> None:
        from pyroute2 import IPRoute

        self._route = IPRoute()

    def _index(self, interface: str) -> int:
        return int(self._route.link_lookup(ifname=interface)[0])

    def pin(self, interface: str, address: str, mac_address: str) -> None:
        """Pin an address on an interface.

        Raises:
            OSError: when this process may not.
        """
        from pyroute2.netlink.exceptions import NetlinkError

        values = {"ifindex": self._index(interface), "lladdr": mac_address, "state": "permanent"}
        try:
            self._route.neigh("replace", dst=address, **values)
        except NetlinkError as error:
            raise OSError(error.code, str(error)) from error

    def let_go(self, interface: str, address: str) -> None:
        """Let the address be found as usual."""
        from pyroute2.netlink.exceptions import NetlinkError

        with contextlib.suppress(NetlinkError):
            self._route.neigh("del", dst=address, ifindex=self._index(interface))

    def close(self) -> None:
        """Change no more."""
        self._route.close()


class AskedTable:
    """Changed by the system's ``ip``, for which somebody gave the right in a dialog."""

    def __init__(self, command: Sequence[str]) -> None:
        self._running = subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
        )

    def _line(self, words: str) -> None:
        assert self._running.stdin is not None
        self._running.stdin.write(words + "\n")
        self._running.stdin.flush()

    def pin(self, interface: str, address: str, mac_address: str) -> None:
        """Pin an address on an interface, and wait until it is.

        Raises:
            OSError: when nobody gave the right.
        """
        self._line(f"neighbour replace {address} lladdr {mac_address} dev {interface} nud permanent")
        self._line(f"neighbour show {address} dev {interface}")
        assert self._running.stdout is not None
        if mac_address not in self._running.stdout.readline().lower():
            raise OSError("the right to pin a neighbour was not given")

    def let_go(self, interface: str, address: str) -> None:
        """Let the address be found as usual."""
        with contextlib.suppress(OSError):
            self._line(f"neighbour del {address} dev {interface}")

    def close(self) -> None:
        """End it."""
        with contextlib.suppress(OSError, subprocess.TimeoutExpired):
            assert self._running.stdin is not None
            self._running.stdin.close()
            self._running.wait(LINE_S)


def asking_command() -> list[str]:
    """What asks for the right; empty where this computer has nothing for it."""
    asks, tool = shutil.which("pkexec"), shutil.which("ip", path="/usr/sbin:/sbin:/usr/bin:/bin")
    return [asks, tool, "-force", "-batch", "-"] if asks and tool else []


class Pinning(Protocol):
    """What makes one of several devices on an address the only one that is reached."""

    def only(self, number: int, mac_address: str) -> contextlib.AbstractAsyncContextManager[None]:
        """Speak to one device at an address meanwhile."""


class Pins:
    """Pins addresses, one device at a time for each."""

    def __init__(self, table: Table, interfaces: Sequence[Interface]) -> None:
        self._table, self._interfaces = table, interfaces
        self._turns: dict[int, asyncio.Lock] = {}

    @contextlib.asynccontextmanager
    async def only(self, number: int, mac_address: str) -> AsyncIterator[None]:
        """Speak to one device at an address meanwhile.

        Raises:
            OSError: when it cannot be pinned; nothing may be sent then.
        """
        near = next((one for one in self._interfaces if number in one.subnet), None)
        if near is None:
            raise OSError("this computer is not in its subnet")
        address = address_text(number)
        async with self._turns.setdefault(number, asyncio.Lock()):
            await asyncio.to_thread(self._table.pin, near.name, address, mac_address)
            try:
                yield
            finally:
                await asyncio.to_thread(self._table.let_go, near.name, address)

    def close(self) -> None:
        """Pin no more."""
        self._table.close()


def pins_for(interfaces: Sequence[Interface], may_ask: bool) -> Pins | None:
    """What pins from here; None where this account may not, or nobody gave the right. To be called outside an event loop.

    Args:
        may_ask: whether somebody may be asked in a dialog.
    """
    if not interfaces:
        return None
    tables: list[Table] = [OwnTable()]
    with contextlib.suppress(OSError):
        if may_ask and (command := asking_command()):
            tables.append(AskedTable(command))
    kept = None
    for table in tables:
        if kept is None and _works(table, interfaces[0]):
            kept = table
        else:
            table.close()
    return Pins(kept, interfaces) if kept is not None else None


def _works(table: Table, interface: Interface) -> bool:
    """Whether it may pin: tried with the last address of the subnet, at which there is nobody."""
    number = interface.subnet.broadcast - 1
    if number == interface.address:
        number -= 1
    try:
        table.pin(interface.name, address_text(number), "02:00:00:00:00:01")
    except OSError:
        return False
    table.let_go(interface.name, address_text(number))
    return True
