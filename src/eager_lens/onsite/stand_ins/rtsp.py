"""An RTSP server (RFC 2326) for one camera: digest log-in, RTP over the same connection or over UDP, session timeouts."""

from __future__ import annotations

import asyncio
import contextlib
import secrets
import socket
import struct
import time
from collections.abc import Awaitable, Callable, Mapping, Sequence
from typing import NamedTuple
from urllib.parse import urlsplit

from eager_lens.core.errors import RefusedInput
from eager_lens.onsite.stand_ins.gate import Gate
from eager_lens.onsite.stand_ins.rtp import Cut, description
from eager_lens.onsite.stand_ins.sending import Link, Sender
from eager_lens.onsite.stand_ins.timepiece import StandInClock

TIMEOUT_S = 60.0
MOST_SESSIONS = 12
MOST_HEAD_BYTES, MOST_BODY_BYTES = 16_384, 16_384
MOST_WAITING_BYTES = 4 * 2**20
"""A client that reads slower than it is sent to gets frames left out beyond this."""

METHODS = ("OPTIONS", "DESCRIBE", "SETUP", "PLAY", "PAUSE", "TEARDOWN", "GET_PARAMETER")
WORDS = {
    200: "OK",
    400: "Bad Request",
    401: "Unauthorized",
    403: "Forbidden",
    404: "Not Found",
    405: "Method Not Allowed",
    415: "Unsupported Media Type",
    453: "Not Enough Bandwidth",
    454: "Session Not Found",
    455: "Method Not Valid in This State",
    461: "Unsupported Transport",
    505: "RTSP Version Not Supported",
}

Source = Callable[[], Awaitable[Cut]]
Pair = Callable[[], tuple[socket.socket, socket.socket]]


class Request(NamedTuple):
    """A request: method, address, headers by lower-case name."""

    method: str
    url: str
    headers: Mapping[str, str]

    @property
    def path(self) -> str:
        """The path without the slash that it begins with, nor the track."""
        path = urlsplit(self.url).path.strip("/")
        return path.removesuffix("/track1")


class Bad(Exception):
    """A request that is none."""


async def read_request(reader: asyncio.StreamReader) -> Request | None:
    """The next request; RTCP that a client sends in between is passed over. None at the end.

    Raises:
        Bad: when it is malformed or too large.
    """
    while True:
        try:
            first = await reader.readexactly(1)
            if first == b"$":
                head = await reader.readexactly(3)
                await reader.readexactly(struct.unpack(">H", head[1:])[0])
                continue
            text = first + await reader.readuntil(b"\r\n\r\n")
        except asyncio.IncompleteReadError:
            return None
        except asyncio.LimitOverrunError:
            raise Bad from None
        break
    lines = text.decode("utf-8", "replace").lstrip("\r\n").split("\r\n")
    words = lines[0].split(" ")
    if len(words) != 3 or not words[2].startswith("RTSP/"):
        raise Bad
    headers = {}
    for line in lines[1:]:
        name, colon, value = line.partition(":")
        if colon:
            headers[name.strip().lower()] = value.strip()
    length = headers.get("content-length", "0")
    if not length.isdigit() or int(length) > MOST_BODY_BYTES:
        raise Bad
    try:
        await reader.readexactly(int(length))
    except asyncio.IncompleteReadError:
        return None
    return Request(words[0], words[1], headers)


class Session:
    """One client's stream: set up, playing, paused."""

    def __init__(self, cut: Cut, path: str) -> None:
        self.id = secrets.token_hex(8)
        self.cut, self.path = cut, path
        self.channels: tuple[int, int] | None = None
        self.sockets: tuple[socket.socket, socket.socket] | None = None
        self.client: tuple[str, tuple[int, int]] = ("", (0, 0))
        self.sender: Sender | None = None
        self.task: asyncio.Task[None] | None = None
        self.touched_s = time.monotonic()

    def stop(self) -> None:
        """Send nothing any more."""
        if self.task is not None:
            self.task.cancel()
            self.task = None

    def close(self) -> None:
        """Stop, and give its sockets back."""
        self.stop()
        for one in self.sockets or ():
            with contextlib.suppress(OSError):
                asyncio.get_running_loop().remove_reader(one.fileno())
            one.close()
        self.sockets = None


class RtspServer:
    """The streams of a camera, by path.

    Attributes:
        sent_octets: bytes of all payloads sent so far, by path.
    """

    def __init__(
        self,
        name: str,
        gate: Gate,
        clock: StandInClock,
        link: Link,
        sources: Mapping[str, Source],
        udp_pair: Pair,
        timeout_s: float = TIMEOUT_S,
    ) -> None:
        self._name, self._gate, self._clock, self._link = name, gate, clock, link
        self._sources, self._udp_pair, self._timeout_s = sources, udp_pair, timeout_s
        self.sessions: dict[str, Session] = {}
        self._gone_octets: dict[str, int] = {}

    def sent_octets(self, path: str) -> int:
        """Bytes of payload sent so far on a path."""
        now = sum(one.sender.octets for one in self.sessions.values() if one.path == path and one.sender is not None)
        return self._gone_octets.get(path, 0) + now

    async def watch(self) -> None:
        """End sessions over UDP of which nothing was heard for too long; until cancelled."""
        while True:
            await asyncio.sleep(min(5.0, self._timeout_s / 4))
            for session in list(self.sessions.values()):
                if session.sockets is not None and time.monotonic() - session.touched_s > self._timeout_s:
                    self._end(session)

    def serve_only(self, sources: Mapping[str, Source]) -> None:
        """Send other streams from now on. What is being sent ends, as on a camera that is set otherwise."""
        self._sources = sources
        self.close()

    def close(self) -> None:
        """End all sessions."""
        for session in list(self.sessions.values()):
            self._end(session)

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """One connection, to its end."""
        own: set[str] = set()
        try:
            while True:
                try:
                    request = await read_request(reader)
                except Bad:
                    writer.write(b"RTSP/1.0 400 Bad Request\r\nConnection: close\r\n\r\n")
                    break
                if request is None:
                    break
                status, headers, body = await self._answered(request, writer, own)
                self._write(writer, request, status, headers, body)
                await writer.drain()
        except (ConnectionError, TimeoutError):
            pass
        finally:
            for one in own:
                session = self.sessions.get(one)
                # What goes over UDP lives until its timeout; what goes over this connection ends with it.
                if session is not None and session.channels is not None:
                    self._end(session)
            writer.close()

    def _write(
        self, writer: asyncio.StreamWriter, request: Request, status: int, headers: Mapping[str, str], body: str
    ) -> None:
        lines = [f"RTSP/1.0 {status} {WORDS[status]}", f"CSeq: {request.headers.get('cseq', '0')}"]
        lines += [f"{name}: {value}" for name, value in headers.items()]
        lines.append(f"Date: {self._clock.http_date()}")
        if body:
            lines.append(f"Content-Length: {len(body.encode())}")
        writer.write(("\r\n".join(lines) + "\r\n\r\n" + body).encode())

    async def _answered(
        self, request: Request, writer: asyncio.StreamWriter, own: set[str]
    ) -> tuple[int, dict[str, str], str]:
        if request.method == "OPTIONS":
            return 200, {"Public": ", ".join(METHODS)}, ""
        if request.method not in METHODS:
            return 405, {"Allow": ", ".join(METHODS)}, ""
        admitted = self._gate.admits(request.method, request.headers.get("authorization", ""))
        if admitted == "locked":
            return 403, {}, ""
        if admitted != "in":
            return 401, {"WWW-Authenticate": self._gate.challenge()}, ""
        if request.method == "DESCRIBE":
            return await self._describe(request, writer)
        if request.method == "SETUP":
            return await self._set_up(request, writer, own)
        session = self.sessions.get(request.headers.get("session", "").partition(";")[0])
        if session is None:
            return (200, {}, "") if request.method == "GET_PARAMETER" else (454, {}, "")
        session.touched_s = time.monotonic()
        name = {"Session": session.id}
        if request.method == "PLAY":
            return self._play(session, request, writer)
        if request.method == "PAUSE":
            session.stop()
        elif request.method == "TEARDOWN":
            self._end(session)
            own.discard(session.id)
        return 200, name, ""

    async def _cut(self, path: str) -> Cut | int:
        source = self._sources.get(path)
        if source is None:
            return 404
        try:
            return await source()
        except RefusedInput:
            return 415

    async def _describe(self, request: Request, writer: asyncio.StreamWriter) -> tuple[int, dict[str, str], str]:
        cut = await self._cut(request.path)
        if isinstance(cut, int):
            return cut, {}, ""
        base = request.url.rstrip("/") + "/"
        headers = {"Content-Type": "application/sdp", "Content-Base": base}
        host = writer.get_extra_info("sockname")[0]
        return 200, headers, description(cut, host, self._name, request.url.rstrip("/"))

    async def _set_up(
        self, request: Request, writer: asyncio.StreamWriter, own: set[str]
    ) -> tuple[int, dict[str, str], str]:
        if len(self.sessions) >= MOST_SESSIONS:
            return 453, {}, ""
        cut = await self._cut(request.path)
        if isinstance(cut, int):
            return cut, {}, ""
        session = Session(cut, request.path)
        for wanted in request.headers.get("transport", "").split(","):
            answer = self._transport(session, wanted.strip(), writer)
            if answer:
                self.sessions[session.id] = session
                own.add(session.id)
                headers = {"Transport": answer, "Session": f"{session.id};timeout={self._timeout_s:.0f}"}
                return 200, headers, ""
        return 461, {}, ""

    def _transport(self, session: Session, wanted: str, writer: asyncio.StreamWriter) -> str:
        """Set a session's transport up as it is wanted; the answer, empty where it is not taken."""
        parts = wanted.split(";")
        values = dict(part.partition("=")[::2] for part in parts[1:])
        if "multicast" in values:
            return ""
        try:
            if parts[0].upper() == "RTP/AVP/TCP":
                low, _, high = values.get("interleaved", "0-1").partition("-")
                session.channels = (int(low), int(high or int(low) + 1))
                if not all(0 <= one <= 255 for one in session.channels):
                    return ""
                return f"RTP/AVP/TCP;unicast;interleaved={session.channels[0]}-{session.channels[1]}"
            if parts[0].upper() in ("RTP/AVP", "RTP/AVP/UDP"):
                low, _, high = values.get("client_port", "").partition("-")
                ports = (int(low), int(high or int(low) + 1))
                if not all(0 < one < 65_536 for one in ports):
                    return ""
                session.sockets = self._udp_pair()
                session.client = (writer.get_extra_info("peername")[0], ports)
                self._listen(session)
                own = [one.getsockname()[1] for one in session.sockets]
                return f"RTP/AVP;unicast;client_port={ports[0]}-{ports[1]};server_port={own[0]}-{own[1]}"
        except ValueError:
            return ""
        return ""

    def _listen(self, session: Session) -> None:
        """A receiver's reports keep a session over UDP alive."""
        assert session.sockets is not None
        reports = session.sockets[1]

        def heard() -> None:
            with contextlib.suppress(OSError):
                reports.recv(2048)
                session.touched_s = time.monotonic()

        asyncio.get_running_loop().add_reader(reports.fileno(), heard)

    def _play(
        self, session: Session, request: Request, writer: asyncio.StreamWriter
    ) -> tuple[int, dict[str, str], str]:
        if session.task is not None:
            return 200, {"Session": session.id}, ""
        send, report = self._over_tcp(session, writer) if session.channels is not None else self._over_udp(session)
        if session.sender is not None:
            self._count(session)
        sender = session.sender = Sender(session.cut, self._clock, self._link, send, report)
        session.task = asyncio.get_running_loop().create_task(sender.run())
        info = f"url={request.url.rstrip('/')}/track1;seq={sender.sequence};rtptime={sender.first_stamp}"
        return 200, {"Session": session.id, "Range": "npt=now-", "RTP-Info": info}, ""

    @staticmethod
    def _over_tcp(
        session: Session, writer: asyncio.StreamWriter
    ) -> tuple[Callable[[Sequence[bytes]], bool], Callable[[bytes], None]]:
        assert session.channels is not None
        data, control = session.channels

        def send(packets: Sequence[bytes]) -> bool:
            if writer.transport.get_write_buffer_size() > MOST_WAITING_BYTES:
                return False
            writer.write(b"".join(struct.pack(">cBH", b"$", data, len(one)) + one for one in packets))
            return True

        def report(packet: bytes) -> None:
            writer.write(struct.pack(">cBH", b"$", control, len(packet)) + packet)

        return send, report

    @staticmethod
    def _over_udp(session: Session) -> tuple[Callable[[Sequence[bytes]], bool], Callable[[bytes], None]]:
        assert session.sockets is not None
        (data, control), (host, ports) = session.sockets, session.client

        def send(packets: Sequence[bytes]) -> bool:
            try:
                for one in packets:
                    data.sendto(one, (host, ports[0]))
            except OSError:
                return False
            return True

        def report(packet: bytes) -> None:
            with contextlib.suppress(OSError):
                control.sendto(packet, (host, ports[1]))

        return send, report

    def _count(self, session: Session) -> None:
        if session.sender is not None:
            self._gone_octets[session.path] = self._gone_octets.get(session.path, 0) + session.sender.octets

    def _end(self, session: Session) -> None:
        self._count(session)
        self.sessions.pop(session.id, None)
        session.close()
