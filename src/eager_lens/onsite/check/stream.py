"""A stream read for a while: what it is, how much it sends, and what time its camera takes it to be."""

from __future__ import annotations

import asyncio
import contextlib
import statistics
import struct
import time
from collections.abc import Callable
from typing import Any, NamedTuple
from urllib.parse import quote

import av
import av.error

from eager_lens.core.plain_text import cleaned
from eager_lens.core.site_check.readings import Opened, StreamRead
from eager_lens.onsite.rtsp_client import Locked, Refused, Silent, Talk, control_of

OPEN_S, SILENT_S = 8.0, 5.0
MOST_BYTES = 600 * 2**20
MOST_PACKETS = 200_000
MOST_CLOCKS = 400
LEAST_SPAN_S = 0.5
CODEC_NAMES = {"h264": "h264", "hevc": "h265", "mjpeg": "mjpeg"}


class Streamed(NamedTuple):
    """A stream that was read, and by its sender reports how far its camera's clock is ahead of this computer's."""

    read: StreamRead
    clock_off_s: float | None = None


class Asked(NamedTuple):
    """What a camera said when it was asked for its stream, before the stream was opened."""

    outcome: Opened
    words: str = ""
    locked: bool = False


async def ask(host: str, port: int, url: str, user: str, password: str) -> Asked:
    """Ask for a stream's description, once; it is opened only where that goes well, so that nobody is locked out by it."""
    writer = None
    try:
        async with asyncio.timeout(OPEN_S):
            reader, writer = await asyncio.open_connection(host, port)
            control_of(
                await Talk(reader, writer, user, password).ask("DESCRIBE", url, {"Accept": "application/sdp"}), url
            )
    except Locked as error:
        return Asked("refused", str(error), locked=True)
    except Refused as error:
        return Asked("refused", str(error))
    except Silent as error:
        return Asked("no answer", str(error))
    except TimeoutError:
        return Asked("no answer", "no answer in time")
    except (OSError, asyncio.IncompleteReadError, asyncio.LimitOverrunError, ValueError) as error:
        closed = isinstance(error, ConnectionRefusedError)
        words = "nothing listens at its stream port: is the open protocol on?" if closed else "the connection broke off"
        return Asked("no answer", words)
    finally:
        if writer is not None:
            with contextlib.suppress(Exception):
                writer.close()
    return Asked("opened")


def read_stream(
    host: str, port: int, path: str, user: str, password: str, for_s: float, stopped: Callable[[], bool]
) -> Streamed:
    """Read a stream for so many seconds. It takes a thread of its own; whatever the stream is made of, it ends."""
    login = f"{quote(user, safe='')}:{quote(password, safe='')}@" if user else ""
    url = f"rtsp://{login}{host}:{port}/{path}"
    options = {
        "rtsp_transport": "tcp",
        "allowed_media_types": "video",
        "analyzeduration": "300000",
        "fpsprobesize": "2",
    }
    counted = _Counted()
    try:
        with av.open(url, options=options, timeout=(OPEN_S, SILENT_S)) as opened:
            video = opened.streams.video
            if not video:
                return Streamed(StreamRead(outcome="not video", words="there is no video in it"))
            stream = video[0]
            until_s = time.monotonic() + for_s
            for packet in opened.demux(stream):
                now_s = time.time()
                if packet.size:
                    counted.take(packet, now_s)
                if time.monotonic() > until_s or stopped() or counted.octets > MOST_BYTES:
                    break
                if len(counted.sizes) >= MOST_PACKETS:
                    break
            context = stream.codec_context
            codec, size = context.name, (context.width, context.height)
    except (av.error.FFmpegError, OSError, ValueError, EOFError) as error:
        return Streamed(StreamRead(outcome="stopped" if counted.sizes else "no answer", words=_reason(error)))
    if counted.span_s < LEAST_SPAN_S:
        return Streamed(StreamRead(outcome="stopped", words="it opened, and hardly any pictures came"))
    if not all(size):
        return Streamed(StreamRead(outcome="stopped", words="it opened, and no picture can be made of what it sends"))
    return Streamed(counted.read(CODEC_NAMES.get(codec, codec), size), counted.clock_off_s(codec))


def _reason(error: Exception) -> str:
    text = cleaned(getattr(error, "strerror", "") or str(error) or type(error).__name__)
    return text.split("\n")[0].partition("; last error")[0][:160].lower()


class _Counted:
    """Packets as they come in."""

    def __init__(self) -> None:
        self.sizes: list[int] = []
        self.times_s: list[float] = []
        self.keys: list[int] = []
        self.octets = 0
        self._sender_reports: list[tuple[float | None, float]] = []

    def take(self, packet: Any, now_s: float) -> None:
        """Count a packet."""
        self.octets += packet.size
        stamp = packet.pts if packet.pts is not None else packet.dts
        if stamp is None and not self.times_s:
            return  # the first may come without a time
        if packet.is_keyframe:
            self.keys.append(len(self.sizes))
        self.sizes.append(packet.size)
        self.times_s.append(float(stamp * packet.time_base) if stamp is not None else self.times_s[-1])
        if len(self._sender_reports) < MOST_CLOCKS:
            self._sender_reports.append((_produced_s(packet), now_s))

    @property
    def span_s(self) -> float:
        """From the first picture to the last."""
        return self.times_s[-1] - self.times_s[0] if self.times_s else 0.0

    def read(self, codec: str, size: tuple[int, int]) -> StreamRead:
        """What was counted. The mean is that of whole groups of pictures, where there was one."""
        span_s = self.span_s
        fps = (len(self.sizes) - 1) / span_s if span_s > 0 else 0.0
        first, last = 0, len(self.sizes) - 1
        if codec != "mjpeg" and len(self.keys) >= 2:
            first, last = self.keys[0], self.keys[-1]
        whole_s = self.times_s[last] - self.times_s[first]
        mean = sum(self.sizes[first:last]) * 8 / whole_s / 1e6 if whole_s > 0 else 0.0
        gaps = [self.times_s[b] - self.times_s[a] for a, b in zip(self.keys, self.keys[1:], strict=False)]
        return StreamRead(
            outcome="opened",
            codec=codec,
            width_px=size[0],
            height_px=size[1],
            fps=max(0.0, round(fps, 3)),
            key_frame_s=round(statistics.median(gaps), 3) if gaps and statistics.median(gaps) > 0 else None,
            mean_mbps=max(0.0, mean),
            peak_mbps=max(0.0, self._peak_mbps()),
            read_s=max(0.0, span_s),
        )

    def _peak_mbps(self) -> float:
        """The busiest second."""
        most, total, start = 0, 0, 0
        for at, size in enumerate(self.sizes):
            total += size
            while self.times_s[at] - self.times_s[start] >= 1.0:
                total -= self.sizes[start]
                start += 1
            most = max(most, total)
        return most * 8 / 1e6

    def clock_off_s(self, codec: str) -> float | None:
        """By how much the camera's clock is ahead: its time of a picture beside the moment that it came in. The quickest of
        them tells it, since every delay makes a picture later. All but JPEG come out of the reader when the next begins."""
        shift = 0 if codec == "mjpeg" else 1
        announced = [
            produced - arrived
            for (produced, _), (_, arrived) in zip(self._sender_reports[shift:], self._sender_reports, strict=False)
            if produced is not None
        ]
        return max(announced, default=None)


def _produced_s(packet: Any) -> float | None:
    """When a packet was made by the sender's clock, seconds since 1970 (AVProducerReferenceTime, from RTCP sender reports)."""
    if not packet.has_sidedata("prft"):
        return None
    data = bytes(packet.get_sidedata("prft"))
    return float(struct.unpack_from("<q", data)[0]) / 1e6 if len(data) >= 8 else None
