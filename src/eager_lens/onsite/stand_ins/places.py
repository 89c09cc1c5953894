"""Where a stand-in's sockets are opened: in a network namespace of its own, or on loopback addresses."""

from __future__ import annotations

import asyncio
import contextlib
import socket
import struct
from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from pathlib import Path

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.errors import RefusedInput
from eager_lens.core.virtual_site.stand_in import Described, NetworkInterface, StandIn
from eager_lens.onsite.loopback import as_loopback, as_open_port
from eager_lens.onsite.namespaces import Network
from eager_lens.onsite.open_protocol.discovery import GROUP

BACKLOG = 64


class Place(ABC):
    """The network as one stand-in has it."""

    @abstractmethod
    def tcp(self, port: int) -> list[socket.socket]:
        """Listening sockets at a port, at all its addresses."""

    @abstractmethod
    def udp(self, port: int, group: str = "", wire_only: bool = False) -> list[socket.socket]:
        """Sockets for datagrams at a port, that hear a multicast group too; ``wire_only``: before it has an address (DHCP)."""

    @abstractmethod
    def outgoing(self, kind: socket.SocketKind = socket.SOCK_STREAM) -> socket.socket:
        """A socket for going out with, not connected yet."""

    @abstractmethod
    def reach(self, address: int, port: int) -> tuple[str, int]:
        """Where an address and port of the plan are reached."""

    async def moved(self, at: int, interface: NetworkInterface) -> None:
        """As ``move``, from inside an event loop."""
        await asyncio.to_thread(self.move, at, interface)

    @abstractmethod
    def move(self, at: int, interface: NetworkInterface) -> None:
        """Give one of its interfaces another address, once its sockets are closed. This cannot run inside an event loop."""

    @abstractmethod
    def close(self) -> None:
        """Give it up, once its sockets are closed."""

    def udp_pair(self) -> tuple[socket.socket, socket.socket]:
        """Two sockets at an even port and the next, as RTP wants them (RFC 3550, 11)."""
        for _ in range(50):
            first = self._bound(0)
            port = first.getsockname()[1]
            if port % 2 == 0 and port < 65_535:
                with contextlib.suppress(OSError):
                    return first, self._bound(port + 1)
            first.close()
        raise OSError("no free pair of ports")

    @abstractmethod
    def _bound(self, port: int) -> socket.socket:
        """A datagram socket at a port, 0 for any, at its first address."""


def _socket(kind: socket.SocketKind) -> socket.socket:
    made = socket.socket(socket.AF_INET, kind)
    made.setblocking(False)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    return made


def _listening(made: socket.socket, host: str, port: int) -> socket.socket:
    try:
        made.bind((host, port))
        if made.type == socket.SOCK_STREAM:
            made.listen(BACKLOG)
    except OSError:
        made.close()
        raise
    return made


# ---- namespaces -----------------------------------------------------------------------------------------------------


class OwnNetwork(Place):
    """A network namespace with the interfaces of its device."""

    def __init__(self, stand_in: StandIn) -> None:
        self.stand_in = stand_in
        self.network = Network.new()

    def tcp(self, port: int) -> list[socket.socket]:
        with self.network.inside():
            return [_listening(_socket(socket.SOCK_STREAM), "0.0.0.0", port)]

    def udp(self, port: int, group: str = "", wire_only: bool = False) -> list[socket.socket]:
        with self.network.inside():
            made = _socket(socket.SOCK_DGRAM)
            made.setsockopt(socket.SOL_SOCKET, socket.SO_BROADCAST, 1)
            if wire_only:
                made.setsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, b"eth0\0")
            _listening(made, "0.0.0.0", port)
            for at, interface in enumerate(self.stand_in.interfaces if group else ()):
                if interface.address:
                    index = socket.if_nametoindex(f"eth{at}")
                    member = socket.inet_aton(group) + socket.inet_aton("0.0.0.0") + struct.pack("@i", index)
                    made.setsockopt(socket.IPPROTO_IP, socket.IP_ADD_MEMBERSHIP, member)
            return [made]

    def outgoing(self, kind: socket.SocketKind = socket.SOCK_STREAM) -> socket.socket:
        with self.network.inside():
            return _socket(kind)

    def reach(self, address: int, port: int) -> tuple[str, int]:
        return address_text(address), port

    def move(self, at: int, interface: NetworkInterface) -> None:
        from pyroute2 import IPRoute

        with self.network.inside():
            route = IPRoute()
        try:
            route.flush_addr(index=route.link_lookup(ifname=f"eth{at}")[0])
            _set(route, f"eth{at}", interface)
        finally:
            route.close()

    def close(self) -> None:
        self.network.close()

    def _bound(self, port: int) -> socket.socket:
        with self.network.inside():
            return _listening(_socket(socket.SOCK_DGRAM), "0.0.0.0", port)


class Wires:
    """The broadcast domains of a site: a bridge for each, in a network of their own, and the laptop's interfaces.

    This process is in the laptop's network.
    """

    def __init__(self, described: Described) -> None:
        from pyroute2 import IPRoute

        self._network = Network.new()
        self._laptop = Network.here()
        self._laptop_route = IPRoute()
        self._ends = 0
        with self._network.inside():
            self._route = IPRoute()
            _no_ipv6()
        _no_ipv6()
        self._bridges: dict[str, int] = {}
        for wire in described.wires:
            self._route.link("add", ifname=wire, kind="bridge")
            self._bridges[wire] = self._route.link_lookup(ifname=wire)[0]
            self._route.link("set", index=self._bridges[wire], state="up")
        _up(self._laptop_route, "lo")
        for at, (wire, addresses) in enumerate(described.wires.items()):
            name = f"bench{at}"
            self._plug(wire, self._laptop, name, f"02:1a:97:00:00:{at + 1:02x}")
            for number, prefix in addresses:
                _address(self._laptop_route, name, number, prefix)
            _up(self._laptop_route, name)

    def plug(self, place: OwnNetwork) -> None:
        """Connect a stand-in's interfaces to their wires."""
        from pyroute2 import IPRoute

        stand_in = place.stand_in
        with place.network.inside():
            _no_ipv6()
            if not stand_in.profile.answers_ping:
                Path("/proc/sys/net/ipv4/icmp_echo_ignore_all").write_text("1", "ascii")
            if stand_in.role == "router":
                Path("/proc/sys/net/ipv4/ip_forward").write_text("1", "ascii")
            route = IPRoute()
        try:
            _up(route, "lo")
            for at, interface in enumerate(stand_in.interfaces):
                self._plug(interface.wire, place.network, f"eth{at}", interface.mac_address)
                _set(route, f"eth{at}", interface)
        finally:
            route.close()

    def _plug(self, wire: str, network: Network, name: str, mac_address: str) -> None:
        self._ends += 1
        end = f"end{self._ends}"
        peer = {"ifname": name, "net_ns_fd": network.fd, "address": mac_address}
        self._route.link("add", ifname=end, kind="veth", peer=peer, master=self._bridges[wire], state="up")

    def close(self) -> None:
        """Take it all down."""
        self._route.close()
        self._laptop_route.close()
        self._network.close()
        self._laptop.close()


def _no_ipv6() -> None:
    with contextlib.suppress(OSError):
        Path("/proc/sys/net/ipv6/conf/all/disable_ipv6").write_text("1", "ascii")
        Path("/proc/sys/net/ipv6/conf/default/disable_ipv6").write_text("1", "ascii")


def _set(route: object, name: str, interface: NetworkInterface) -> None:
    if interface.address:
        _address(route, name, interface.address, interface.prefix)
    _up(route, name)
    if interface.gateway and interface.gateway != interface.address:
        with contextlib.suppress(Exception):  # a gateway outside the subnet is no way out, as on a real device
            route.route("add", dst="default", gateway=address_text(interface.gateway))  # type: ignore[attr-defined]


def _up(route: object, name: str) -> None:
    index = route.link_lookup(ifname=name)[0]  # type: ignore[attr-defined]
    route.link("set", index=index, state="up")  # type: ignore[attr-defined]


def _address(route: object, name: str, number: int, prefix: int) -> None:
    index = route.link_lookup(ifname=name)[0]  # type: ignore[attr-defined]
    broadcast = number | (0xFFFFFFFF >> prefix)
    route.addr(  # type: ignore[attr-defined]
        "add", index=index, address=address_text(number), prefixlen=prefix, broadcast=address_text(broadcast)
    )


# ---- loopback -------------------------------------------------------------------------------------------------------


class OnLoopback(Place):
    """Loopback addresses in place of the planned ones: 172.22.40.55 is 127.22.40.55."""

    def __init__(self, stand_in: StandIn) -> None:
        self._hosts = tuple(as_loopback(interface.address) for interface in stand_in.interfaces if interface.address)
        if not self._hosts:
            raise RefusedInput("address", f"{stand_in.name} has no address, so it cannot run on this computer")

    def tcp(self, port: int) -> list[socket.socket]:
        return self._at_all(socket.SOCK_STREAM, port)

    def udp(self, port: int, group: str = "", wire_only: bool = False) -> list[socket.socket]:
        return [] if wire_only else self._at_all(socket.SOCK_DGRAM, port)

    def _at_all(self, kind: socket.SocketKind, port: int) -> list[socket.socket]:
        made: list[socket.socket] = []
        try:
            for host in dict.fromkeys(self._hosts):
                made.append(_listening(_alone(kind), host, as_open_port(port)))
        except OSError:
            for one in made:
                one.close()
            raise
        return made

    def outgoing(self, kind: socket.SocketKind = socket.SOCK_STREAM) -> socket.socket:
        made = _socket(kind)
        made.bind((self._hosts[0], 0))
        return made

    def reach(self, address: int, port: int) -> tuple[str, int]:
        return as_loopback(address), as_open_port(port)

    def move(self, at: int, interface: NetworkInterface) -> None:
        hosts = list(self._hosts)
        hosts[at] = as_loopback(interface.address)
        self._hosts = tuple(hosts)

    def close(self) -> None:
        """There is nothing to give up."""

    def _bound(self, port: int) -> socket.socket:
        return _listening(_alone(socket.SOCK_DGRAM), self._hosts[0], port)


def _alone(kind: socket.SocketKind) -> socket.socket:
    """A socket whose address nobody else may have: datagram sockets would share it otherwise."""
    made = _socket(kind)
    if kind == socket.SOCK_DGRAM:
        made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 0)
    return made


def loopback_group(port: int) -> socket.socket:
    """A socket on the loopback interface that hears the discovery group, for all stand-ins there together."""
    made = _socket(socket.SOCK_DGRAM)
    _listening(made, GROUP, as_open_port(port))
    member = socket.inet_aton(GROUP) + socket.inet_aton("127.0.0.1")
    made.setsockopt(socket.IPPROTO_IP, socket.IP_ADD_MEMBERSHIP, member)
    return made


def told_apart(stand_ins: Sequence[StandIn]) -> Iterator[tuple[StandIn, str]]:
    """Of the stand-ins those that cannot run on loopback beside the others, each with why."""
    held: dict[str, StandIn] = {}
    for one in stand_ins:
        hosts = [as_loopback(interface.address) for interface in one.interfaces if interface.address]
        other = next((held[host] for host in hosts if host in held), None)
        if not hosts:
            yield one, "it has no address yet"
        elif other is not None:
            yield one, f"it shares its address with {other.name}, which loopback addresses cannot simulate"
        else:
            held.update(dict.fromkeys(hosts, one))
