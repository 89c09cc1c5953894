"""A camera's streams read for a while over one connection and one log-in: what they are, how much they send, and what time
the camera takes it to be."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import Awaitable, Callable, Sequence
from typing import NamedTuple

from eager_lens.core.site_check.readings import Login, StreamRead
from eager_lens.onsite.check.counting import Counted
from eager_lens.onsite.digest import DigestLogin
from eager_lens.onsite.open_protocol.endpoints import Endpoint
from eager_lens.onsite.rtsp_client import BROKEN, Locked, NotLoggedIn, Refused, RtspConversation, described, in_words

OPEN_S, SILENT_S = 8.0, 5.0
MOST_BYTES = 600 * 2**20
LEAST_SPAN_S = 0.5
IN_OR_OUT_S = 2.0
LISTENED_S = 0.25
"""So long packets are waited for at a time. Whoever wakes later than that, and as much again, was kept from working: what the
machine took counts neither as silence of the camera nor as delay of its pictures."""


class Wanted(NamedTuple):
    """A stream that is wanted: where it is on its device, and for how long it is read."""

    at: Endpoint
    for_s: float


class Streamed(NamedTuple):
    """What came of a camera's streams, in the order in which they were wanted.

    Attributes:
        login: how the log-in went; "no answer" where it did not come to one. clock_off_s: by its sender reports, how far its
            clock is ahead of this computer's; None without any.
    """

    reads: tuple[StreamRead, ...]
    login: Login
    clock_off_s: float | None = None


async def read_streams(
    host: str, login: DigestLogin | None, wanted: Sequence[Wanted], turn: Callable[[], Awaitable[None]]
) -> Streamed:
    """Read the streams of a camera one after the other; after a refusal none is asked for any more.

    ``turn`` is waited for before each connection.
    """
    reads: list[StreamRead] = []
    state: Login = "no answer"
    clock_off_s: float | None = None
    connection = _Connection(host, login, turn)
    try:
        for one in wanted:
            counted: Counted | None = None
            try:
                counted = await connection.opened(one.at)
                state = "in" if login is not None and login.has_answered else "open"
                await connection.read(counted, one.for_s)
                reads.append(_outcome(counted, "almost no pictures arrived"))
            except Refused as error:
                state = _state_after(error)
                reads.append(StreamRead(outcome="refused", words=in_words(error)))
            except BROKEN as error:
                reads.append(_broken(counted, error))
                await connection.end()
            if counted is not None and counted.clock_off_s() is not None and clock_off_s is None:
                clock_off_s = counted.clock_off_s()
            if reads[-1].outcome == "refused":
                break
    finally:
        await connection.end()
    return Streamed(tuple(reads), state, clock_off_s)


def _state_after(error: Refused) -> Login:
    if isinstance(error, NotLoggedIn):
        return "plain text" if error.plain_text else "not tried"
    return "locked" if isinstance(error, Locked) else "refused"


def _broken(counted: Counted | None, error: BaseException) -> StreamRead:
    """What was counted before it broke off, where that is enough."""
    if counted is not None and counted.pictures and counted.span_s >= IN_OR_OUT_S:
        return _outcome(counted, in_words(error))
    if counted is not None and counted.pictures:
        return StreamRead(outcome="stopped", words=in_words(error))
    return StreamRead(outcome="no answer", words=in_words(error))


def _outcome(counted: Counted, words: str) -> StreamRead:
    if counted.span_s < LEAST_SPAN_S:
        return StreamRead(outcome="stopped", words=f"it opened, but {words}")
    return counted.read()


class _Connection:
    """The connection to a camera: made when it is needed, and again where the camera ends it between two streams."""

    def __init__(self, host: str, login: DigestLogin | None, turn: Callable[[], Awaitable[None]]) -> None:
        self._host, self._login, self._turn = host, login, turn
        self._port = 0
        self._writer: asyncio.StreamWriter | None = None
        self._conversation: RtspConversation | None = None
        self._counted: Counted | None = None
        self._url = ""

    async def opened(self, at: Endpoint) -> Counted:
        """A stream set up and playing.

        Raises:
            Refused, NoReply, OSError, TimeoutError, EOFError: when it does not open.
        """
        if at.port != self._port:
            await self.end()
            self._port = at.port
        again = self._conversation is not None
        try:
            return await self._opened(at)
        except (ConnectionError, EOFError):
            # Some cameras end the connection with the stream on it. The log-in is the same one.
            if not again or (self._login is not None and not self._login.is_proven):
                raise
            await self.end()
            return await self._opened(at)

    async def _opened(self, at: Endpoint) -> Counted:
        async with asyncio.timeout(OPEN_S):
            if self._conversation is None:
                await self._turn()
                reader, self._writer = await asyncio.open_connection(self._host, self._port)
                self._conversation = RtspConversation(reader, self._writer, self._login, self._take)
            url = at.url(self._host)
            self._counted = None
            video = described(await self._conversation.ask("DESCRIBE", url, {"Accept": "application/sdp"}), url)
            counted = Counted(video.encoding, video.clock_hz, video.parameter_sets)
            await self._conversation.ask("SETUP", video.control, {"Transport": "RTP/AVP/TCP;unicast;interleaved=0-1"})
            self._url = video.session_control
            self._counted = counted
            await self._conversation.ask("PLAY", self._url, {"Range": "npt=0.000-"})
            return counted

    def _take(self, channel: int, packet: bytes) -> None:
        if self._counted is not None and channel == 0:
            self._counted.take(packet, time.time())
        elif self._counted is not None and channel == 1:
            self._counted.take_report(packet)

    async def read(self, counted: Counted, for_s: float) -> None:
        """Count what comes for so long from the first picture on, then end the stream.

        Raises:
            OSError, TimeoutError, EOFError, NoReply: when it breaks off before.
        """
        assert self._conversation is not None
        until_s = time.monotonic() + for_s
        pictures, since_s, woke_s = 0, time.monotonic(), time.monotonic()
        while counted.octets < MOST_BYTES and not counted.is_full:
            now_s = time.monotonic()
            away_s, woke_s = now_s - woke_s - LISTENED_S, now_s
            if away_s > LISTENED_S:
                counted.kept_away(away_s, pictures)
                until_s, since_s = until_s + away_s, since_s + away_s
            if now_s >= until_s:
                break
            if counted.pictures != pictures:
                until_s = until_s if pictures else now_s + for_s
                pictures, since_s = counted.pictures, now_s
            # What sends bytes, and never a picture, is silent too.
            patience_s = since_s + SILENT_S - now_s
            if patience_s <= 0:
                raise TimeoutError
            try:
                async with asyncio.timeout(min(patience_s, until_s - now_s, LISTENED_S)):
                    await self._conversation.packets()
            except TimeoutError:
                continue
        with contextlib.suppress(*BROKEN):
            async with asyncio.timeout(IN_OR_OUT_S):
                await self._conversation.end_session(self._url)
                return
        await self.end()

    async def end(self) -> None:
        """Let the connection go."""
        writer, self._writer, self._conversation, self._counted = self._writer, None, None, None
        if writer is not None:
            with contextlib.suppress(Exception):
                writer.close()
