"""One stand-in at work: its services on its own sockets, its clock, its page."""

from __future__ import annotations

import asyncio
import contextlib
import json
import random
import socket
import ssl
from collections.abc import Callable, Coroutine
from html import escape
from typing import Any
from urllib.parse import parse_qs

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.job.make_profiles import TLS_PORT
from eager_lens.core.virtual_site.stand_in import NetworkInterface, StandIn, StreamSent
from eager_lens.onsite.open_protocol import discovery as ws_discovery
from eager_lens.onsite.open_protocol.names import DEVICE_PATH
from eager_lens.onsite.stand_ins import discovery, time_server
from eager_lens.onsite.stand_ins.certificate import tls_of
from eager_lens.onsite.stand_ins.dhcp import PORT as DHCP_PORT
from eager_lens.onsite.stand_ins.dhcp import DhcpServer, Leases
from eager_lens.onsite.stand_ins.fetching import Channel
from eager_lens.onsite.stand_ins.gate import Gate
from eager_lens.onsite.stand_ins.motion import Motion
from eager_lens.onsite.stand_ins.open_protocol.server import OpenProtocol
from eager_lens.onsite.stand_ins.places import OnLoopback, Place
from eager_lens.onsite.stand_ins.rtp import Cut
from eager_lens.onsite.stand_ins.rtsp import RtspServer
from eager_lens.onsite.stand_ins.sending import Link
from eager_lens.onsite.stand_ins.timepiece import StandInClock
from eager_lens.onsite.stand_ins.web import Answer, Asked, serve

POLL_TIME_S = 60.0
EVENT_EVERY_S = 30.0
MOST_FETCHED = 48
"""Streams that a recorder keeps open at once; with more channels it takes turns of ``TURN_S``."""
TURN_S = 4.0
SOON_S, SOON_TRIES, RETRY_S, REFUSED_S = 2.0, 5, 20.0, 60.0
ALWAYS_S = 1e9
ANSWERS_FIRST_S = 0.2

Cutter = Callable[[StreamSent], Coroutine[Any, Any, Cut]]


class Device:
    """A stand-in that runs, from ``start`` to ``stop``.

    Attributes:
        gate: who may log in. is_open: it has started. events: event messages that a recorder took, by who sent them.
    """

    def __init__(self, stand_in: StandIn, place: Place, cutter: Cutter) -> None:
        self.stand_in, self.place = stand_in, place
        self.clock = StandInClock(stand_in.clock_offset_s, stand_in.drift_ppm)
        self.is_set_up = stand_in.is_set_up
        passwords = tuple(dict.fromkeys((stand_in.password, stand_in.open_password)))
        profile = stand_in.profile
        self.gate = Gate(stand_in.name, {stand_in.user: passwords}, profile.tries, profile.locked_min)
        self.channels = {one.number: Channel(one) for one in stand_in.channels}
        self.events: dict[str, int] = {}
        self.rtsp = RtspServer(
            stand_in.name,
            self.gate,
            self.clock,
            Link(min((interface.link_mbps for interface in stand_in.interfaces), default=1000.0)),
            self._sources(),
            place.udp_pair,
        )
        self._cutter = cutter
        self._motion = Motion(stand_in)
        self.services = OpenProtocol(self)
        self._servers: list[asyncio.Server] = []
        self._transports: list[asyncio.BaseTransport] = []
        self._tasks: list[asyncio.Task[None]] = []
        self._starting: asyncio.Task[None] | None = None
        self._asking: asyncio.Task[None] | None = None
        self.is_open = False

    @property
    def is_discoverable(self) -> bool:
        """Whether it answers searches."""
        return self.stand_in.role in ("camera", "recorder") and self.stand_in.open_on

    async def start(self) -> None:
        """Open its services, once it has started.

        Raises:
            OSError: when an address or port of it is taken.
        """
        if self.stand_in.ready_after_s:
            self._spawn(self._start_later())
        else:
            await self._open()

    async def _start_later(self) -> None:
        await asyncio.sleep(self.stand_in.ready_after_s)
        with contextlib.suppress(OSError):
            await self._open()

    async def _open(self) -> None:
        one, profile = self.stand_in, self.stand_in.profile
        if one.role != "phone" and not one.tls_only:
            await self._serve_tcp(profile.http_port, self._serve_page)
        elif one.role != "phone":
            await self._serve_tcp(TLS_PORT, self._serve_page, tls_of(one.name))
        if one.streams and one.open_on and self.is_set_up:
            await self._serve_tcp(profile.rtsp_port, self.rtsp.serve)
            self._spawn(self.rtsp.watch())
        if one.event_port:
            await self._serve_tcp(one.event_port, self._serve_events)
        if one.role in ("recorder", "router"):
            await self._serve_udp(time_server.PORT, lambda: time_server.TimeServer(self.clock))
        if self.is_discoverable:
            await self._serve_udp(
                ws_discovery.PORT,
                lambda: discovery.Discoverable(lambda: [(self.announced(), None)]),
                "" if isinstance(self.place, OnLoopback) else ws_discovery.GROUP,
            )
        if one.pool is not None and one.interfaces:
            leases = Leases(*one.pool, one.reserved, one.lease_s)
            interface = one.interfaces[0]
            await self._serve_udp(
                DHCP_PORT, lambda: DhcpServer(leases, interface.address, interface.prefix), wire_only=True
            )
        self._ask_time()
        if one.event_target and one.role == "camera":
            self._spawn(self._send_events())
        for number, channel in self.channels.items():
            self._spawn(self._look(channel, number))
        self.is_open = True
        self._announce("Hello")

    def _sources(self) -> dict[str, Callable[[], Coroutine[Any, Any, Cut]]]:
        return {one.path: lambda one=one: self._cutter(one) for one in self.stand_in.streams}  # type: ignore[misc]

    # ---- what others set ------------------------------------------------------------------------------------------

    def change(self, **values: Any) -> None:
        """Be set otherwise, and act on it at once. ``values``: fields of ``StandIn``."""
        before = self.stand_in
        self.stand_in = before._replace(**values)
        if self.stand_in.streams != before.streams:
            self.rtsp.serve_only(self._sources())
        self._motion = Motion(self.stand_in)
        if {"time_server", "asks_server"} & values.keys() and self.is_open:
            self._ask_time()

    def register(self, number: int, channel: Channel) -> None:
        """Take a camera on a channel, and look at it."""
        self.channels[number] = channel
        if self.is_open:
            self._spawn(self._look(channel, number))

    def restart(self, at: int = 0, interface: NetworkInterface | None = None) -> None:
        """Go away and start again, at another address where one is given; what was asked is answered first."""
        self._starting = asyncio.get_running_loop().create_task(self._restarted(at, interface))

    async def _restarted(self, at: int, interface: NetworkInterface | None) -> None:
        await asyncio.sleep(ANSWERS_FIRST_S)
        await self._close()
        if interface is not None:
            await self.place.moved(at, interface)
            interfaces = list(self.stand_in.interfaces)
            interfaces[at] = interface
            self.stand_in = self.stand_in._replace(interfaces=tuple(interfaces))
        await asyncio.sleep(self.stand_in.restart_s)
        with contextlib.suppress(OSError):  # an address that another device holds on loopback
            await self._open()

    def _announce(self, what: ws_discovery.Announcement) -> None:
        """Tell everyone that it came or goes."""
        if not self.is_discoverable or not self.is_open:
            return
        with contextlib.suppress(OSError), self.place.outgoing(socket.SOCK_DGRAM) as opened:
            host, port = self.place.reach(self.stand_in.interfaces[0].address, ws_discovery.PORT)
            opened.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_IF, socket.inet_aton(host))
            opened.sendto(ws_discovery.announcement(self.announced(), what), (ws_discovery.GROUP, port))

    async def stop(self) -> None:
        """End all of it."""
        if self._starting is not None:
            self._starting.cancel()
            await asyncio.gather(self._starting, return_exceptions=True)
        await self._close()

    async def _close(self) -> None:
        self._announce("Bye")
        self.is_open = False
        for task in self._tasks:
            task.cancel()
        self.rtsp.close()
        for server in self._servers:
            server.close()
        for transport in self._transports:
            transport.close()
        await asyncio.gather(*self._tasks, return_exceptions=True)
        self._servers, self._transports, self._tasks = [], [], []

    def _spawn(self, work: Coroutine[Any, Any, None]) -> None:
        self._tasks.append(asyncio.get_running_loop().create_task(work))

    async def _serve_tcp(
        self,
        port: int,
        serving: Callable[[asyncio.StreamReader, asyncio.StreamWriter], Coroutine[Any, Any, None]],
        tls: ssl.SSLContext | None = None,
    ) -> None:
        async def until_cancelled(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            with contextlib.suppress(asyncio.CancelledError):  # the whole site ends
                await serving(reader, writer)

        for opened in self.place.tcp(port):
            self._servers.append(await asyncio.start_server(until_cancelled, sock=opened, ssl=tls))

    async def _serve_udp(
        self, port: int, protocol: Callable[[], asyncio.DatagramProtocol], group: str = "", wire_only: bool = False
    ) -> None:
        loop = asyncio.get_running_loop()
        for opened in self.place.udp(port, group, wire_only):
            transport, _ = await loop.create_datagram_endpoint(protocol, sock=opened)
            self._transports.append(transport)

    # ---- what it tells --------------------------------------------------------------------------------------------

    def announced(self) -> ws_discovery.Announced:
        """What it answers to a search."""
        one = self.stand_in
        kind = {"camera": "video_encoder", "recorder": "recorder"}.get(one.role, "network_device")
        url = self.root_url() + DEVICE_PATH
        return ws_discovery.Announced(one.interfaces[0].mac_address, one.name, one.make, url, kind, one.is_loose)

    def root_url(self) -> str:
        """Scheme, host and port at which it is reached."""
        one = self.stand_in
        scheme, own_port = ("https", TLS_PORT) if one.tls_only else ("http", one.profile.http_port)
        host, port = self.place.reach(one.interfaces[0].address, own_port)
        return f"{scheme}://{host}:{port}"

    def stream_url(self, path: str) -> str:
        """The address of one of its streams."""
        host, port = self.place.reach(self.stand_in.interfaces[0].address, self.stand_in.profile.rtsp_port)
        return f"rtsp://{host}:{port}/{path}"

    def moves_at(self, at_s: float) -> bool:
        """Whether its motion rule sees anything at a moment of its own clock."""
        return self._motion.moves_at(at_s)

    def answer_search(self, data: bytes, asker: tuple[str, int]) -> None:
        """Answer a search that was heard for it, from its own address."""
        with contextlib.suppress(OSError), self.place.outgoing(socket.SOCK_DGRAM) as opened:
            opened.sendto(data, asker)

    async def _serve_page(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        await serve(reader, writer, self.answer, self.clock)

    async def _serve_events(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        await serve(reader, writer, self._event, self.clock)

    async def _event(self, asked: Asked) -> Answer:
        if asked.method != "POST":
            return Answer(405, headers={"Allow": "POST"})
        self.events[asked.peer] = self.events.get(asked.peer, 0) + 1
        return Answer(204)

    async def answer(self, asked: Asked) -> Answer:
        """Answer a request, to a service of the open protocol or for its page."""
        path = asked.target.partition("?")[0]
        if self.stand_in.open_on and asked.method == "POST" and self.services.knows(path):
            return await self.services.answer(asked)
        return self.page(asked)

    def page(self, asked: Asked) -> Answer:
        """Answer a request for its page, which is for people."""
        path = asked.target.partition("?")[0]
        if not self.is_set_up:
            return self._first_use(asked, path)
        admitted = self.gate.admits(asked.method, asked.headers.get("authorization", ""))
        if admitted == "locked":
            wait_s = round(self.stand_in.profile.locked_min * 60)
            return Answer(
                403, _shown(self.stand_in, "Locked after too many wrong log-ins."), headers={"Retry-After": str(wait_s)}
            )
        if admitted != "in":
            challenge = {"WWW-Authenticate": self.gate.challenge()}
            return Answer(401, _shown(self.stand_in, "Log in to see this page."), headers=challenge)
        if path == "/":
            return Answer(200, _facts(self.stand_in, self.clock, self._channel_rows()))
        return Answer(404, _shown(self.stand_in, "There is no such page."))

    def _first_use(self, asked: Asked, path: str) -> Answer:
        """Until somebody gives it a password, it takes nothing else."""
        if asked.method == "POST" and path == "/set-up":
            given = parse_qs(asked.body.decode("utf-8", "replace")).get("password", [""])[0]
            trouble = self.password_trouble(given)
            if trouble:
                return Answer(422, _shown(self.stand_in, trouble))
            self.set_user(self.stand_in.user, given)
            return Answer(200, _shown(self.stand_in, "It is set up."))
        form = '<form method="post" action="/set-up"><label>First password <input type="password" name="password"></label></form>'
        return Answer(200, _shown(self.stand_in, "It is not set up yet. " + form, raw=True))

    def set_user(self, name: str, password: str) -> None:
        """Take a user, and with the first one be set up."""
        if not self.is_set_up:
            self.gate.users.clear()
            self.is_set_up = True
            if self.stand_in.streams and self.stand_in.open_on:
                self._spawn(self._serve_tcp(self.stand_in.profile.rtsp_port, self.rtsp.serve))
        self.gate.users[name] = (password,)

    def drop_user(self, name: str) -> None:
        """Let a user in no more."""
        self.gate.users.pop(name, None)
        self.gate.levels.pop(name, None)

    def password_trouble(self, password: str) -> str:
        """Why it does not take a password; empty where it does."""
        return _password_trouble(self.stand_in, password)

    def _channel_rows(self) -> list[tuple[str, str]]:
        return [
            (
                f"Channel {number}",
                f"{one.setting.name}, {address_text(one.setting.address)}: {one.shown} {one.why}".strip(),
            )
            for number, one in sorted(self.channels.items())
        ]

    # ---- what it does by itself -------------------------------------------------------------------------------------

    def _ask_time(self) -> None:
        """Ask whom it was told to ask, and nobody else any more."""
        if self._asking is not None:
            self._asking.cancel()
        if self.stand_in.time_server and self.stand_in.asks_server:
            self._spawn(self._go_by_server())
            self._asking = self._tasks[-1]

    async def _go_by_server(self) -> None:
        host, port = self.place.reach(self.stand_in.time_server, time_server.PORT)
        while True:
            ahead_s = await time_server.ahead_of_here_s(lambda: self.place.outgoing(socket.SOCK_DGRAM), host, port)
            if ahead_s is not None:
                self.clock.set_ahead(ahead_s)
            await asyncio.sleep(POLL_TIME_S if ahead_s is not None else 5.0)

    async def _send_events(self) -> None:
        """Tell its recorder now and then that something moved, as its scene has it."""
        one = self.stand_in
        while True:
            await asyncio.sleep(random.uniform(0.2, 1.0) * EVENT_EVERY_S)
            with contextlib.suppress(OSError, asyncio.IncompleteReadError, asyncio.LimitOverrunError, TimeoutError):
                async with asyncio.timeout(5.0):
                    reader, writer = await self._connect(one.event_target, one.event_target_port)
                    body = json.dumps({"device": one.name, "what": "motion"}).encode()
                    writer.write(
                        b"POST /events HTTP/1.1\r\nHost: recorder\r\nConnection: close\r\nContent-Type: application/json\r\n"
                        + f"Content-Length: {len(body)}\r\n\r\n".encode()
                        + body
                    )
                    await reader.readuntil(b"\r\n\r\n")
                    writer.close()

    async def _connect(self, address: int, port: int) -> tuple[asyncio.StreamReader, asyncio.StreamWriter]:
        opened = self.place.outgoing()
        try:
            await asyncio.get_running_loop().sock_connect(opened, self.place.reach(address, port))
            return await asyncio.open_connection(sock=opened)
        except BaseException:
            opened.close()
            raise

    async def _look(self, channel: Channel, number: int) -> None:
        """Fetch a channel's stream, again and again where it ends."""
        setting = channel.setting
        host, port = self.place.reach(setting.address, setting.rtsp_port)
        url = f"rtsp://{host}:{port}/{setting.path}"
        turns = -(-len(self.channels) // MOST_FETCHED)
        await asyncio.sleep(number % 20 * 0.05 + number % turns * TURN_S)
        tries = 0
        while True:
            for_s = ALWAYS_S if turns == 1 else TURN_S
            await channel.fetch(lambda: self._connect(setting.address, setting.rtsp_port), url, for_s)
            tries = 0 if channel.shown == "receiving" else tries + 1
            await asyncio.sleep(_pause_s(channel.shown, tries) or (turns - 1) * TURN_S + 0.5)


def _pause_s(shown: str, tries: int) -> float:
    """How long a recorder waits before it looks again: a camera may be starting, but one that refuses would lock itself."""
    if shown == "receiving":
        return 0.0
    return REFUSED_S if shown == "refused" else SOON_S if tries <= SOON_TRIES else RETRY_S


def _password_trouble(one: StandIn, given: str) -> str:
    kinds = (str.islower, str.isupper, str.isdigit, lambda text: not text.isalnum())
    has = sum(any(kind(character) for character in given) for kind in kinds)
    if given == "default":
        return "The default password may not stay."
    if len(given) < one.profile.password_least or has < one.profile.password_kinds:
        return f"A password of at least {one.profile.password_least} characters of {one.profile.password_kinds} kinds is wanted."
    return ""


def _shown(one: StandIn, words: str, raw: bool = False) -> str:
    return (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{escape(one.name)}</title><h1>{escape(one.name)}</h1>"
        f"<p>{words if raw else escape(words)}</p><p>A stand-in on this computer; no real device.</p></html>"
    )


def _facts(one: StandIn, clock: StandInClock, more: list[tuple[str, str]]) -> str:
    rows = [("Make and model", one.make or "not noted"), ("Serial", one.serial), ("Firmware", one.firmware)]
    for at, interface in enumerate(one.interfaces, 1):
        rows.append((f"Address {at}", f"{address_text(interface.address)}/{interface.prefix}, {interface.mac_address}"))
    rows.append(("Clock", clock.http_date()))
    for sent in one.streams:
        size = f"{sent.codec} {sent.width_px} x {sent.height_px}, {sent.fps:g} fps"
        rows.append((f"Stream /{sent.path}", f"{size}, {sent.rate_mbps:.2f} Mb/s"))
    rows += more
    table = "".join(f"<tr><th>{escape(name)}<td>{escape(value)}" for name, value in rows)
    return _shown(one, f"<table>{table}</table>", raw=True)
