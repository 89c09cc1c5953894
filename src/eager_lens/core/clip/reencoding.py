"""What would other settings give here: the clip's own pictures, encoded again.

A camera's encoder is not ours, so its rate is not taken from ours: the same pictures are encoded twice, at the clip's
settings and at the wanted ones, and the ratio of the two goes on what was measured. Another codec is compared at equal
fidelity (luma PSNR against the clip's pictures), not at an equal number on a scale that each codec has for itself.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import Any, NamedTuple, cast

import av
import numpy as np
from av.video.codeccontext import VideoCodecContext
from numpy.typing import NDArray

from eager_lens.core.clip.container import ClipRate, opened, refused
from eager_lens.core.clip.encoding import encoder, pixels_of
from eager_lens.core.reference.streams import Codec, Quality, stream_assumptions

MOST_FRAMES = 300
LARGEST_WIDTH_PX = 960
"""Pictures are encoded at no more than this width, both times, since the ratio hardly changes and the time does."""

PRESET = "veryfast"
QUALITY_STEP = 4.0
"""Another codec is encoded at two more qualities so far apart, and its rate read off where fidelity is equal."""


class Settings(NamedTuple):
    """What a stream is set to."""

    width_px: int
    fps: float
    codec: Codec
    quality: Quality
    key_frame_s: float


class Encoded(NamedTuple):
    """What our encoder made of the pictures: rate in Mb/s, luma PSNR in dB against them."""

    rate_mbps: float
    psnr_db: float


class Reencoding(NamedTuple):
    """The outcome: what the camera would send by the ratio, and both encodes."""

    settings: Settings
    rate_mbps: float
    ratio: float
    as_clip: Encoded
    as_wanted: Encoded


def settings_of(clip: ClipRate, quality: Quality) -> Settings:
    """The settings that a clip was sent with; its quality is not told by it, so the plan's is taken."""
    return Settings(clip.width_px, clip.fps, clip.codec, quality, clip.key_frame_s or 2.0)


def tried(
    path: Path, clip: ClipRate, quality: Quality, wanted: Settings, step: Callable[[float], None] = lambda share: None
) -> Reencoding:
    """Encode a clip's pictures at its own and at other settings.

    Args:
        path, clip: the clip and what was measured of it. quality: what it was sent with, as the plan has it.
        wanted: the other settings; frame rate and width no larger than the clip's.
        step: told the share that is done; may raise to stop.

    Raises:
        RefusedInput: when the settings ask for more than the clip holds, or its pictures cannot be decoded.
    """
    if wanted.fps > clip.fps * 1.001 or wanted.width_px > clip.width_px:
        raise refused(
            path,
            f"it has {clip.fps:g} fps at {clip.width_px} px; more than it holds cannot be tried, "
            "record a clip at the larger settings",
        )
    own = settings_of(clip, quality)
    frames = _decoded(path, clip, lambda share: step(0.2 * share))
    other_codec = wanted.codec != own.codec
    runs = 2 + 2 * other_codec

    def encoded(settings: Settings, crf: float, at: int) -> Encoded:
        return _encoded(frames, clip, settings, crf, lambda share: step(0.2 + 0.8 * (at + share) / runs))

    as_clip = encoded(own, _quantiser(own), 0)
    as_wanted = encoded(wanted, _quantiser(wanted), 1)
    rate = as_wanted.rate_mbps
    if other_codec:
        # At the clip's own size and frame rate the codecs' fidelities can be compared, and the rate read off at which
        # they are equal. By how much that differs from the rate at the number in between goes on the wanted rate.
        alike = own._replace(codec=wanted.codec)
        middle = _quantiser(alike)
        points = [encoded(alike, middle + shift, 2 + at) for at, shift in enumerate((-QUALITY_STEP, QUALITY_STEP))]
        rate *= _at_equal_fidelity(points, as_clip) / math.sqrt(points[0].rate_mbps * points[1].rate_mbps)
    ratio = rate / as_clip.rate_mbps
    return Reencoding(wanted, clip.rate_mbps * ratio, ratio, as_clip, as_wanted)


def _at_equal_fidelity(points: list[Encoded], reference: Encoded) -> float:
    """The rate between (or just beyond) two encodes at which fidelity is the reference's, straight in the logarithm."""
    better, worse = points
    span = better.psnr_db - worse.psnr_db
    part = min(max((reference.psnr_db - worse.psnr_db) / span, -0.5), 1.5) if span > 1e-6 else 0.5
    return math.exp(math.log(worse.rate_mbps) + part * (math.log(better.rate_mbps) - math.log(worse.rate_mbps)))


def _quantiser(settings: Settings) -> float:
    table = stream_assumptions()
    return table.mjpeg_scale[settings.quality] if settings.codec == "mjpeg" else table.crf[settings.quality]


def _decoded(path: Path, clip: ClipRate, step: Callable[[float], None]) -> list[NDArray[np.uint8]]:
    """The first pictures of the clip from its first key frame on, not wider than they are encoded."""
    width, height = _size(clip, min(clip.width_px, LARGEST_WIDTH_PX))
    most = min(MOST_FRAMES, clip.frames.size_bytes.size)
    found: list[NDArray[np.uint8]] = []
    try:
        with opened(path) as (container, stream):
            stream.thread_type = "SLICE"
            for frame in container.decode(stream):
                found.append(_bytes_of(frame.reformat(width=width, height=height, format="yuv420p")))
                step(len(found) / most)
                if len(found) >= most:
                    break
    except (av.error.FFmpegError, ValueError) as error:
        raise refused(path, "its pictures cannot be decoded, so nothing can be tried on them") from error
    if len(found) < 2:
        raise refused(path, "too few of its pictures can be decoded to try anything")
    return found


def _size(clip: ClipRate, width_px: int) -> tuple[int, int]:
    """An even size of this width in the clip's shape."""
    return max(16, width_px // 2 * 2), max(16, round(clip.height_px * width_px / clip.width_px / 2) * 2)


def _encoded(
    frames: list[NDArray[np.uint8]], clip: ClipRate, settings: Settings, quality: float, step: Callable[[float], None]
) -> Encoded:
    """Encode every so many pictures of the clip. The rate is that of the full size, by the pixels."""
    shrunk = min(1.0, LARGEST_WIDTH_PX / clip.width_px)
    width, height = _size(clip, round(settings.width_px * shrunk))
    coder = encoder(settings.codec, width, height, settings.fps, settings.key_frame_s, quality, PRESET)
    kept = list(_every(frames, clip.fps / settings.fps))
    decoder = cast(VideoCodecContext, av.CodecContext.create({"h265": "hevc"}.get(settings.codec, settings.codec), "r"))
    total, errors = 0, []
    waiting: deque[NDArray[np.uint8]] = deque()

    def take(packets: list[Any]) -> None:
        nonlocal total
        for packet in packets:
            total += packet.size
            compare(decoder.decode(packet))

    def compare(decoded: Iterable[av.VideoFrame]) -> None:
        # Pictures come out in the order in which they went in.
        for one in decoded:
            if waiting:
                errors.append(_squared_error(one, waiting.popleft()))

    for number, picture in enumerate(kept):
        source = av.VideoFrame.from_ndarray(picture, format="yuv420p").reformat(
            width=width, height=height, format=pixels_of(settings.codec)
        )
        source.pts = number
        waiting.append(_bytes_of(source)[:height, :width].copy())
        take(coder.encode(source))
        step((number + 1) / len(kept))
    take(coder.encode(None))
    compare(decoder.decode(None))
    mean = max(float(np.mean(errors)) if errors else 0.0, 1e-3)
    rate = 8e-6 * total / len(kept) * settings.fps / shrunk**2
    return Encoded(rate, 10 * math.log10(255**2 / mean))


def _bytes_of(frame: av.VideoFrame) -> NDArray[np.uint8]:
    """A frame's planes below one another, luma first."""
    return cast(NDArray[np.uint8], frame.to_ndarray())


def _squared_error(decoded: av.VideoFrame, source: NDArray[np.uint8]) -> float:
    high, wide = source.shape
    luma = _bytes_of(decoded)[:high, :wide]
    return float(np.mean((luma.astype(np.float32) - source) ** 2))


def _every(frames: list[NDArray[np.uint8]], step: float) -> Iterator[NDArray[np.uint8]]:
    """Frames so far apart, the nearest of the clip to each."""
    at = 0.0
    while round(at) < len(frames):
        yield frames[round(at)]
        at += step
