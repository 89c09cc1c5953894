"""What a clip was sent as: frame sizes, rate, frame rate and key frames, from the container alone. Nothing is decoded.

Frames are read one by one, so that a clip of any length takes little memory and can be stopped. Needs PyAV and NumPy.
"""

from __future__ import annotations

import math
from array import array
from collections.abc import Callable, Generator, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
from av.container import InputContainer
from av.video.stream import VideoStream
from numpy.typing import NDArray

from eager_lens.core.errors import EagerLensError, RefusedInput
from eager_lens.core.files import require_file
from eager_lens.core.reference.streams import CODECS, Codec
from eager_lens.core.sizing.rate_spread import Z_OF_RANGE

CODEC_OF: dict[str, Codec] = {"h264": "h264", "hevc": "h265", "mjpeg": "mjpeg"}
LEAST_SIDE_PX, LARGEST_SIDE_PX, LARGEST_PX = 16, 20_000, 70_000_000
LARGEST_CLIP_BYTES = 2**40
FIRST_YEAR = 2000
STEP_FRAMES = 500
LEAST_FRAMES = 8

UNEVEN = 1.5
"""A frame interval that differs from the median by this factor counts as uneven ..."""
UNEVEN_SHARE = 0.08
"""... and where more than this share of all do, the frame rate varies."""

BLOCK_S = 10.0
"""The rate's own variation is told between stretches of this length, or of a key-frame interval where that is longer."""
LEAST_SPREAD, SHORT_SPREAD = 0.05, 0.15
"""The least half width of a measured rate's range, and that of a clip too short to show any variation."""


class FrameSizes(NamedTuple):
    """Frames in the order in which they were sent: time in s from the first, size in bytes, and which are key frames."""

    time_s: NDArray[np.float64]
    size_bytes: NDArray[np.int64]
    is_key: NDArray[np.bool_]


@dataclass(frozen=True)
class ClipRate:
    """What a clip was sent as.

    Attributes:
        name: the file's name.
        codec, width_px, height_px, fps: as found. ``key_frame_s`` is None where fewer than two key frames were seen.
        duration_s: frames over fps. rate_mbps: mean over whole key-frame intervals.
        low_mbps, high_mbps: the range (8 of 10) of its own stretches of 10 s.
        key_bytes, other_bytes: mean size of key and other frames; other_bytes is None where every frame is a key frame.
        frames: every frame's time, size and kind.
        notes: what to know of these figures.
        begun: when it was recorded by what the file says of itself, which may be when it was exported; None where it does not.
    """

    name: str
    codec: Codec
    width_px: int
    height_px: int
    fps: float
    key_frame_s: float | None
    duration_s: float
    rate_mbps: float
    low_mbps: float
    high_mbps: float
    key_bytes: float
    other_bytes: float | None
    frames: FrameSizes
    notes: tuple[str, ...]
    begun: datetime | None = None


def refused(path: Path, problem: str) -> RefusedInput:
    """The error for a clip that cannot be used."""
    return RefusedInput(path.name, problem)


@contextmanager
def opened(path: Path, as_sent: bool = True) -> Generator[tuple[InputContainer, VideoStream], None, None]:
    """A clip's container and its picture stream.

    Args:
        as_sent: whether it has to be coded as a camera sends it; to look at pictures any coding will do.

    Raises:
        RefusedInput: when it cannot be read, or holds no pictures that can be used.
    """
    if require_file(path, LARGEST_CLIP_BYTES, "clip") == 0:
        raise refused(path, "the file is empty (0 bytes); record or copy it again")
    try:
        container = av.open(str(path))
    except (*BROKEN, OSError) as error:
        cut = path.suffix.lower() in (".mp4", ".mov", ".m4v")
        raise refused(
            path,
            "it is not a video that can be read"
            + (", or it is incomplete: its index is missing. Export it again" if cut else ""),
        ) from error
    with container, _typed(path):
        if not container.streams.video:
            raise refused(path, "it has sound only, no picture" if container.streams.audio else "it has no picture")
        stream = container.streams.video[0]
        width, height = int(stream.width or 0), int(stream.height or 0)
        if not width or not height:
            raise refused(path, "its resolution cannot be read: the header is missing, damaged or implausible")
        require_size(path, width, height)
        # A stream that the library knows no decoder for has no codec context at all.
        name = stream.codec_context.name if stream.codec_context is not None else "an unknown codec"
        if stream.codec_context is None and not as_sent:
            raise refused(path, "its codec cannot be decoded here; export it as MP4 (H.264)")
        if as_sent and name not in CODEC_OF:
            raise refused(
                path,
                f"its codec is {name}, but recorders send {', '.join(CODECS)}. Export the clip as the camera sent it, not "
                "converted",
            )
        yield container, stream


BROKEN = (av.error.FFmpegError, ArithmeticError, AttributeError, LookupError, TypeError, ValueError)
"""What the library raises on files that are broken: some of it finds no stream where its header promised one."""


@contextmanager
def _typed(path: Path) -> Iterator[None]:
    """While a clip is read: whatever the library fails on is told as the clip's fault."""
    try:
        yield
    except EagerLensError:
        raise
    except BROKEN as error:
        raise refused(path, "it is damaged and cannot be read to its end; copy or export it again") from error


def require_size(path: Path, width_px: int, height_px: int) -> None:
    """Refuse a picture that is too small to tell anything, or larger than any camera's.

    Raises:
        RefusedInput: naming its size and what can be read.
    """
    if min(width_px, height_px) < LEAST_SIDE_PX or width_px * height_px > LARGEST_PX or width_px > LARGEST_SIDE_PX:
        raise refused(
            path,
            f"its resolution of {width_px} × {height_px} px is outside the range that can be read: {LEAST_SIDE_PX} px a side "
            f"to {LARGEST_PX // 10**6} MP",
        )


def measured_rate(
    path: Path, step: Callable[[float], None] = lambda share: None, planned_fps: float | None = None
) -> ClipRate:
    """Read a clip's frames and what they come to.

    Args:
        path: the clip. step: told the share that is read; may raise to stop. planned_fps: for a bare stream that carries no times.

    Raises:
        RefusedInput: with one sentence that says what is wrong with the clip.
    """
    with opened(path) as (container, stream):
        found = _read(path, container, stream, step)
        return _rate_of(path, container, stream, found, planned_fps)


class _Found(NamedTuple):
    times: array[float]
    sizes: array[int]
    keys: bytearray
    broken: bool


def _read(path: Path, container: InputContainer, stream: VideoStream, step: Callable[[float], None]) -> _Found:
    # Packed, 17 bytes a frame: a day at 25 fps takes 37 MB.
    times, sizes, keys = array("d"), array("q"), bytearray()
    whole, seen, broken = max(1, path.stat().st_size), 0, False
    try:
        for packet in container.demux(stream):
            if not packet.size:
                continue
            # Sent in decoding order; the presentation time of a stream without B-frames is the same.
            stamp = packet.dts if packet.dts is not None else packet.pts
            times.append(math.nan if stamp is None else float(stamp * packet.time_base))
            sizes.append(packet.size)
            keys.append(bool(packet.is_keyframe))
            seen += packet.size
            if len(sizes) % STEP_FRAMES == 0:
                step(min(1.0, seen / whole))
    except av.error.FFmpegError:
        broken = True
    return _Found(times, sizes, keys, broken)


def _rate_of(
    path: Path, container: InputContainer, stream: VideoStream, found: _Found, planned_fps: float | None
) -> ClipRate:
    sizes, is_key = np.array(found.sizes, dtype=np.int64), np.frombuffer(bytes(found.keys), dtype=np.bool_)
    notes: list[str] = []
    if sizes.size == 0:
        raise refused(path, "it has no frames: it was cut off before the first")
    if sizes.size == 1:
        raise refused(path, "it has only one frame; record at least two key-frame intervals, better a minute")
    if sizes.size < LEAST_FRAMES:
        raise refused(
            path, f"it has only {sizes.size} frames; record at least two key-frame intervals, better a minute"
        )
    if not is_key.any():
        raise refused(path, "it has no key frame, so no picture can be shown; record it again")
    first = int(np.argmax(is_key))
    if first:
        notes.append(f"{first} frames before the first key frame were left out")
    time_s, fps = _times(path, stream, np.array(found.times), planned_fps, notes)
    said_s = float(container.duration / av.time_base) if container.duration else None
    spans_s = float(time_s[-1] - time_s[0]) + 1 / fps
    if found.broken or (said_s is not None and np.isfinite(spans_s) and spans_s < 0.9 * said_s - 1):
        of_length = f" of {said_s:.0f} s" if said_s else ""
        raise refused(path, f"it is cut off after {spans_s:.0f} s{of_length}; copy or export it again")
    time_s, sizes, is_key = time_s[first:] - time_s[first], sizes[first:], is_key[first:]
    codec = CODEC_OF[stream.codec_context.name]
    key_at = np.flatnonzero(is_key)
    key_frame_s = None
    end = sizes.size
    if codec == "mjpeg":
        notes.append("every frame is a key frame, so it has no key-frame interval")
    elif key_at.size < 2:
        notes.append(
            "only one key frame was seen: the bit rate is that of this clip, the key-frame interval is unknown"
        )
    else:
        key_frame_s = float(np.median(np.diff(key_at))) / fps
        # A part of an interval would count a key frame for too few others.
        end = int(key_at[-1]) if sizes.size - key_at[-1] < 0.999 * np.median(np.diff(key_at)) else sizes.size
        if np.ptp(np.diff(key_at)) > 0.25 * np.median(np.diff(key_at)):
            notes.append("key frames come at irregular intervals, as with smart codecs")
    whole, keys = sizes[:end], is_key[:end]
    rate_mbps = 8e-6 * float(whole.mean()) * fps
    low, high = _spread(whole, fps, key_frame_s, notes)
    others = whole[~keys]
    return ClipRate(
        name=path.name,
        codec=codec,
        width_px=int(stream.width),
        height_px=int(stream.height),
        fps=fps,
        key_frame_s=key_frame_s,
        duration_s=sizes.size / fps,
        rate_mbps=rate_mbps,
        low_mbps=rate_mbps * low,
        high_mbps=rate_mbps * high,
        key_bytes=float(whole[keys].mean()),
        other_bytes=float(others.mean()) if others.size else None,
        frames=FrameSizes(time_s, sizes, is_key),
        notes=tuple(notes),
        begun=_begun(container),
    )


def _begun(container: InputContainer) -> datetime | None:
    """What the file says of when it was begun; None where it says nothing that can be."""
    try:
        begun = datetime.fromisoformat(str(container.metadata.get("creation_time", "")))
    except ValueError:
        return None
    aware = begun if begun.tzinfo else begun.replace(tzinfo=UTC)
    # Clocks that were never set say 1904 or 1970.
    return aware.astimezone(UTC) if aware.year >= FIRST_YEAR else None


def _times(
    path: Path, stream: VideoStream, times: NDArray[np.float64], planned_fps: float | None, notes: list[str]
) -> tuple[NDArray[np.float64], float]:
    """Every frame's time and the frame rate."""
    if np.isnan(times).mean() > 0.5:
        rate: Any = stream.codec_context.framerate
        fps = float(rate) if rate else planned_fps
        if not fps:
            raise refused(path, "it is a raw stream without a frame rate; export it as MP4, MKV or MPEG-TS")
        source = "the one in its header" if rate else "the planned one"
        notes.append(f"a raw stream has no time stamps; the frame rate of {fps:g} fps is {source}")
        return np.arange(times.size) / fps, fps
    known = ~np.isnan(times)
    times = np.interp(np.arange(times.size), np.flatnonzero(known), times[known])
    gaps = np.diff(np.sort(times))
    middle = float(np.median(gaps))
    if middle <= 0:
        raise refused(path, "its frames have no usable time stamps; export it again")
    uneven = np.mean((gaps > UNEVEN * middle) | (gaps < middle / UNEVEN))
    if uneven > UNEVEN_SHARE:
        low, high = np.quantile(gaps, (0.05, 0.95))
        raise refused(
            path,
            f"its frames are {1000 * low:.0f} to {1000 * high:.0f} ms apart; set the camera to a fixed frame rate and record "
            "again",
        )
    # Single frames that were lost leave gaps; the frame rate is that of the others.
    steady = gaps[(gaps <= UNEVEN * middle) & (gaps >= middle / UNEVEN)]
    lost = int(np.sum(np.round(gaps / steady.mean()) - 1))
    if lost > 0:
        notes.append(f"about {lost} frames are missing")
    fps = 1 / float(steady.mean())
    near = round(fps)
    if near and abs(fps - near) < 0.01 * near:
        fps = float(near)
    return times, fps


def _spread(sizes: NDArray[np.int64], fps: float, key_frame_s: float | None, notes: list[str]) -> tuple[float, float]:
    """The range of the rate as factors, from the clip's own stretches."""
    block = max(round(BLOCK_S * fps), round((key_frame_s or 0) * fps), 1)
    if key_frame_s is not None and key_frame_s < BLOCK_S:
        # Whole intervals, so that no stretch has a key frame more than the next.
        interval = max(1, round(key_frame_s * fps))
        block = max(1, round(BLOCK_S * fps / interval)) * interval
    count = sizes.size // block
    if count < 3:
        notes.append("too short to show how the bit rate varies, so ±15 % is assumed; record a minute or more")
        return 1 / (1 + SHORT_SPREAD), 1 + SHORT_SPREAD
    means = sizes[: count * block].reshape(count, block).mean(axis=1)
    spread = max(Z_OF_RANGE * float(np.std(np.log(means), ddof=1)), math.log1p(LEAST_SPREAD))
    return math.exp(-spread), math.exp(spread)
