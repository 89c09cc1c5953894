"""How a recorder stand-in fetches a stream: RTSP over one connection, with digest log-in; so that "receiving" is earned."""

from __future__ import annotations

import asyncio
import errno
import os
import time
from collections.abc import Awaitable, Callable
from typing import Literal

from eager_lens.core.virtual_site.stand_in import ChannelSet
from eager_lens.onsite.digest import DigestLogin
from eager_lens.onsite.rtsp_client import BROKEN, NoReply, Refused, RtspConversation, described

ANSWER_S = 8.0
SILENT_S = 5.0

Shown = Literal["not asked yet", "receiving", "refused", "silent"]


Connect = Callable[[], Awaitable[tuple[asyncio.StreamReader, asyncio.StreamWriter]]]


class Channel:
    """A recorder's channel at work.

    Attributes:
        shown: what it shows; why: the reason where it is no picture. octets: what came in so far.
    """

    def __init__(self, setting: ChannelSet) -> None:
        self.setting = setting
        self.shown: Shown = "not asked yet"
        self.why = ""
        self.octets = 0
        self.heard_s = 0.0

    async def fetch(self, connect: Connect, url: str, for_s: float) -> None:
        """Fetch for so long, then let go; what is shown stays."""
        writer: asyncio.StreamWriter | None = None
        try:
            async with asyncio.timeout(ANSWER_S):
                reader, writer = await connect()
                talk = RtspConversation(
                    reader, writer, DigestLogin(self.setting.user, self.setting.password), self._packet
                )
                video = described(await talk.ask("DESCRIBE", url, {"Accept": "application/sdp"}), url)
                transport = {"Transport": "RTP/AVP/TCP;unicast;interleaved=0-1"}
                await talk.ask("SETUP", video.control, transport)
                await talk.ask("PLAY", url)
            until_s = time.monotonic() + for_s
            while time.monotonic() < until_s:
                async with asyncio.timeout(SILENT_S):
                    await talk.packets()
                self.shown, self.why = "receiving", ""
                self.heard_s = time.monotonic()
        except Refused as error:
            self.shown, self.why = "refused", str(error)
        except NoReply as error:
            self.shown, self.why = "silent", str(error)
        except TimeoutError:
            self.shown, self.why = "silent", "no answer, or no picture, in time"
        except BROKEN as error:
            self.shown, self.why = "silent", _reason(error)
        finally:
            if writer is not None:
                writer.close()

    def _packet(self, channel: int, packet: bytes) -> None:
        self.octets += len(packet)


_REASONS = {
    errno.ECONNREFUSED: "nothing listens there",
    errno.ECONNRESET: "it closed the connection",
    errno.EPIPE: "it closed the connection",
    errno.EHOSTUNREACH: "no device answers at its address",
    errno.ENETUNREACH: "its subnet cannot be reached from here",
}


def _reason(error: BaseException) -> str:
    if isinstance(error, EOFError):
        return "it ended the connection"
    number = getattr(error, "errno", None)
    return _REASONS.get(number or 0) or (os.strerror(number).lower() if number else "no answer")
