"""RTSP requests (RFC 2326) over one connection, with one log-in by digest, and the packets that come in between.

No library gets the address or the password: what goes over the connection is written here, it goes to the host that was
connected to, and no answer can send it elsewhere.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import NamedTuple
from urllib.parse import urljoin

from eager_lens.core.plain_text import cleaned
from eager_lens.onsite.digest import DigestLogin, NoDigest

LARGEST_BYTES = 65_536
MOST_HEADERS = 100
MOST_WORDS = 160
PACKET = b"$"
"""What a packet begins with, between answers."""


class Refused(Exception):
    """The camera does not let one in."""


class Locked(Refused):
    """It lets nobody in just now."""


class NotLoggedIn(Refused):
    """It wants a log-in that was not answered: nothing was sent.

    Attributes:
        plain_text: it wants the password in plain text.
    """

    def __init__(self, error: NoDigest) -> None:
        super().__init__(str(error))
        self.plain_text = error.plain_text


class NoReply(Exception):
    """There is no picture, for another reason."""


class Answer(NamedTuple):
    """An answer that helps: headers by lower-case name, and body."""

    headers: dict[str, str]
    body: str


PacketTaker = Callable[[int, bytes], None]


class RtspConversation:
    """Requests over a connection, logged in after the first question for it, once.

    Packets that come between answers (RFC 2326, 10.12) are given to ``take_packet`` with their channel.
    """

    def __init__(
        self,
        reader: asyncio.StreamReader,
        writer: asyncio.StreamWriter,
        login: DigestLogin | None,
        take_packet: PacketTaker = lambda channel, packet: None,
    ) -> None:
        self._reader, self._writer, self._login = reader, writer, login
        self._take_packet = take_packet
        self._number, self._session = 0, ""
        self._buffer = bytearray()

    async def ask(self, method: str, url: str, headers: dict[str, str] | None = None) -> Answer:
        """Ask; the answer.

        Raises:
            Refused, NoReply: when it is none that helps.
        """
        status, challenges, answer = await self._once(method, url, headers or {})
        if status == 401 and self._login is None:
            raise NotLoggedIn(NoDigest("it wants a log-in", plain_text=False))
        if status == 401 and self._login is not None and (not self._login.has_answered or self._login.is_proven):
            try:
                self._login.take(challenges)
            except NoDigest as error:
                raise NotLoggedIn(error) from error
            self._login.is_proven = False
            status, challenges, answer = await self._once(method, url, headers or {})
        if status == 401:
            raise Refused("user or password is wrong")
        if status in (403, 423, 429):
            raise Locked("it is locked after too many wrong log-ins")
        if 300 <= status < 400:
            raise NoReply("it redirects to another address, which is not followed")
        if status != 200:
            raise NoReply(f"it answered {status} to {method}")
        if self._login is not None:
            self._login.is_proven = self._login.has_answered
        self._session = answer.headers.get("session", self._session).partition(";")[0].strip()[:200]
        return answer

    async def end_session(self, url: str) -> None:
        """End what was set up; what comes after stands by itself."""
        await self.ask("TEARDOWN", url)
        self._session = ""

    async def packets(self) -> None:
        """Wait for what comes, and give on the packets in it; an answer in between is passed over. To be stopped at any time:
        nothing is lost by it."""
        # What came together with the answer to PLAY is counted even where nothing follows it.
        waiting = len(self._buffer)
        self._skim()
        if len(self._buffer) == waiting:
            await self._more()
            self._skim()
        while self._buffer[:1] not in (b"", PACKET) and b"\r\n\r\n" in self._buffer:
            await self._answer()
            self._skim()

    async def _more(self) -> None:
        data = await self._reader.read(LARGEST_BYTES)
        if not data:
            raise EOFError
        self._buffer += data

    def _skim(self) -> None:
        """Give on all whole packets that the buffer begins with."""
        data, at = self._buffer, 0
        while len(data) - at >= 4 and data[at] == PACKET[0]:
            end = at + 4 + (data[at + 2] << 8 | data[at + 3])
            if end > len(data):
                break
            self._take_packet(data[at + 1], bytes(data[at + 4 : end]))
            at = end
        del data[:at]

    async def _once(self, method: str, url: str, headers: dict[str, str]) -> tuple[int, list[str], Answer]:
        self._number += 1
        lines = [f"{method} {url} RTSP/1.0", f"CSeq: {self._number}"]
        lines += [f"{name}: {value}" for name, value in headers.items()]
        if self._session:
            lines.append(f"Session: {self._session}")
        authorisation = self._login.authorisation(method, url) if self._login is not None else None
        if authorisation:
            lines.append(f"Authorization: {authorisation}")
        self._writer.write(("\r\n".join(lines) + "\r\n\r\n").encode())
        await self._writer.drain()
        return await self._answer()

    async def _answer(self) -> tuple[int, list[str], Answer]:
        """The next answer, after the packets before it."""
        while True:
            self._skim()
            end = -1 if self._buffer[:1] == PACKET else self._buffer.find(b"\r\n\r\n")
            if end >= 0:
                break
            if len(self._buffer) > LARGEST_BYTES + 4:
                raise NoReply("its answer is too long")
            await self._more()
        text = bytes(self._buffer[:end])
        del self._buffer[: end + 4]
        first, *lines = text.decode("utf-8", "replace").lstrip("\r\n").split("\r\n")[:MOST_HEADERS]
        words = first.split(" ")
        if len(words) < 2 or not words[0].startswith("RTSP/") or not _is_status(words[1]):
            raise NoReply("the answer is not RTSP")
        headers: dict[str, str] = {}
        challenges = []
        for line in lines:
            name, _, value = (part.strip() for part in line.partition(":"))
            headers[name.lower()] = value
            if name.lower() == "www-authenticate":
                challenges.append(value)
        length = headers.get("content-length", "0")
        if not (length.isascii() and length.isdigit() and len(length) < 10 and int(length) <= LARGEST_BYTES):
            raise NoReply("its answer is too long")
        while len(self._buffer) < int(length):
            await self._more()
        body = bytes(self._buffer[: int(length)])
        del self._buffer[: int(length)]
        return int(words[1]), challenges, Answer(headers, body.decode("utf-8", "replace"))


def _is_status(text: str) -> bool:
    return len(text) == 3 and text.isascii() and text.isdigit()


class Described(NamedTuple):
    """The first video of a session description (SDP, RFC 8866).

    Attributes:
        control: where it is set up; session_control: where the whole is played. encoding: as in its ``rtpmap``, upper case.
        clock_hz: of its time stamps. parameter_sets: as the description gives them, in base64.
    """

    control: str
    session_control: str
    encoding: str
    clock_hz: int
    parameter_sets: tuple[str, ...]


_BY_NUMBER = {"26": ("JPEG", 90_000), "31": ("H261", 90_000), "32": ("MPV", 90_000), "33": ("MP2T", 90_000)}
"""Payload types that need no ``rtpmap`` (RFC 3551)."""


def described(answer: Answer, url: str) -> Described:
    """What is described in an answer to DESCRIBE.

    Raises:
        NoReply: when there is no video in it.
    """
    base = answer.headers.get("content-base") or answer.headers.get("content-location") or url
    sections: list[list[str]] = [[]]
    for line in answer.body.splitlines():
        if line.startswith("m="):
            sections.append([])
        sections[-1].append(line.strip())
    video = next((one for one in sections[1:] if one[0].startswith("m=video")), None)
    if video is None:
        raise NoReply("its description contains no video")
    number = (video[0].split(" ") + [""] * 4)[3]
    encoding, clock_hz = _BY_NUMBER.get(number, ("", 90_000))
    for value in _attributes(video, f"rtpmap:{number} "):
        encoding, _, rate = (part.strip() for part in value.upper().partition("/"))
        rate = rate.partition("/")[0]
        clock_hz = int(rate) if rate.isascii() and rate.isdigit() and 0 < len(rate) < 8 else 90_000
    sets: list[str] = []
    for value in _attributes(video, f"fmtp:{number} "):
        for part in value.split(";"):
            name, _, texts = part.strip().partition("=")
            if name.lower() in ("sprop-parameter-sets", "sprop-sps"):
                sets += texts.split(",")[:8]
    return Described(
        _control(base, next(iter(_attributes(video, "control:")), "")),
        _control(base, next(iter(_attributes(sections[0], "control:")), "")),
        cleaned(encoding)[:20],
        max(1, clock_hz),
        tuple(sets),
    )


def _attributes(section: list[str], name: str) -> list[str]:
    return [line.removeprefix(f"a={name}") for line in section if line.startswith(f"a={name}")]


def _control(base: str, control: str) -> str:
    """Where a control attribute leads (RFC 2326, C.1.1); only a name on this connection, wherever it says that it is."""
    if control in ("", "*"):
        found = base
    elif control.lower().startswith("rtsp://"):
        found = control
    elif control.startswith("/"):
        found = urljoin(base.replace("rtsp://", "http://", 1), control).replace("http://", "rtsp://", 1)
    else:
        found = f"{base.rstrip('/')}/{control}"
    return "".join(one for one in found if one.isprintable() and one != " ")[:1000]


def in_words(error: BaseException) -> str:
    """Why a talk broke off."""
    if isinstance(error, TimeoutError):
        return "no answer in time"
    if isinstance(error, ConnectionRefusedError):
        return "nothing listens at its stream port: is the open protocol on?"
    if isinstance(error, (Refused, NoReply)):
        return cleaned(str(error))[:MOST_WORDS]
    return "the connection was lost"


BROKEN = (Refused, NoReply, OSError, TimeoutError, EOFError, ValueError)
"""What a talk may end with."""
