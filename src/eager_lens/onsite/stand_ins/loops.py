"""A stretch of a drawn scene, encoded as a camera is planned to encode it, to be sent over and over again.

It is whole groups of pictures, so that its end goes on at its beginning. What a scene does not need of the planned bit rate
is sent as filler data (H.264 7.4.1, type 12; H.265 7.4.2.2, type 38), as an encoder at constant rate does.
"""

from __future__ import annotations

import hashlib
import math
import re
import struct
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple, cast

import av
import numpy as np
from av.video.codeccontext import VideoCodecContext

from eager_lens.core.clip.encoding import ENCODER_OF, pixels_of, set_up
from eager_lens.core.files import PRIVATE, write_whole
from eager_lens.core.motion.places import presets
from eager_lens.core.motion.scene import NOON_S, DrawnScene
from eager_lens.core.reference.streams import Codec
from eager_lens.core.virtual_site.stand_in import StreamSent

LONGEST_S = 60.0
"""A longer key-frame interval is cut to this, so that a stretch stays small."""

LEAST_S = 2.0
QUALITIES = (36, 44, 51)
"""Of H.264 and H.265 the quantisers (crf) that are tried, best first."""

_QUICK = (
    "open-gop=0:log-level=none:pools=none:frame-threads=1:info=0:rc-lookahead=0:early-skip=1:rskip=2:rd=1:fast-intra=1:subme=0:"
    "me=dia:merange=16:max-merge=1:no-sao=1:no-weightp=1:aq-mode=0:min-cu-size=32:no-psy-rd=1"
)
"""What makes H.265 quick to encode: nobody looks for quality in these pictures."""

FORMAT = b"EL-loop-2"
_START = re.compile(b"\x00\x00\x00?\x01")
FILLER = {"h264": b"\x0c", "h265": b"\x4c\x01"}
SMALLEST_FILLER = 8


class Loop(NamedTuple):
    """An encoded stretch: per frame its units (NAL units without start codes; one JPEG picture), and which are key frames.

    ``parameter_sets``: what a decoder needs before the first frame (VPS, SPS, PPS); none for MJPEG.
    """

    codec: Codec
    fps: float
    frames: tuple[tuple[bytes, ...], ...]
    keys: tuple[bool, ...]
    parameter_sets: tuple[bytes, ...]

    @property
    def duration_s(self) -> float:
        """How long it lasts."""
        return len(self.frames) / self.fps

    @property
    def rate_mbps(self) -> float:
        """What its units come to, in Mb/s."""
        return sum(len(unit) for frame in self.frames for unit in frame) * 8 / self.duration_s / 1e6


def loop_of(stream: StreamSent, kept_in: Path | None = None) -> Loop:
    """The stretch of a stream at its planned bit rate; what was encoded before is read from ``kept_in``, and kept there."""
    return filled(_drawn_loop(stream, kept_in), stream.rate_mbps)


def _drawn_loop(stream: StreamSent, kept_in: Path | None) -> Loop:
    if kept_in is None:
        return encoded(stream)
    path = kept_in / f"{_key(stream)}.loop"
    if path.is_file():
        try:
            kept = _unpacked(path.read_bytes())
        except (ValueError, struct.error, IndexError):
            kept = None  # damaged, or of an older version: it is encoded again
        if kept is not None and fits(kept, stream):
            return kept
    made = encoded(stream)
    kept_in.mkdir(parents=True, exist_ok=True)
    write_whole(path, _packed(made), PRIVATE, PRIVATE)
    return made


def _key(stream: StreamSent) -> str:
    # MJPEG has no filler data: its rate is made by the encoder.
    rate = stream.rate_mbps if stream.codec == "mjpeg" else 0.0
    text = repr((FORMAT, stream._replace(path="", rate_mbps=round(rate, 2))))
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def fits(loop: Loop, stream: StreamSent) -> bool:
    """Whether a stretch leaves room for the planned bit rate."""
    return stream.codec == "mjpeg" or loop.rate_mbps <= stream.rate_mbps


def encoded(stream: StreamSent) -> Loop:
    """Draw and encode a stretch: as good as fits into the planned bit rate, of three qualities. A rate that even the
    coarsest does not reach stays as near to it as that."""
    key_s = min(stream.key_frame_s, LONGEST_S)
    pictures = _pictures(stream, frames_of(stream))
    for crf in QUALITIES:
        loop = _encoded(stream, pictures, key_s, crf)
        if fits(loop, stream):
            break
    return loop


def frames_of(stream: StreamSent) -> int:
    """How many frames a stretch has."""
    key_s = min(stream.key_frame_s, LONGEST_S)
    return max(1, round(key_s * stream.fps)) * max(1, math.ceil(LEAST_S / key_s))


def scene_of(stream: StreamSent) -> tuple[DrawnScene, float]:
    """The scene that a stream shows, and the second of its day at which the stretch begins: somebody is in the middle of the way
    then, the first who comes after noon."""
    scene = DrawnScene(presets()[stream.scene], 1)
    for visit in scene.visits:
        if visit.begins_s >= NOON_S and visit.counts:
            going = visit.there()
            return scene, (going.begins_s + going.ends_s) / 2 - frames_of(stream) / stream.fps / 2
    return scene, NOON_S


def _pictures(stream: StreamSent, many: int) -> list[av.VideoFrame]:
    """The scene, drawn small and made as large as the picture is planned."""
    scene, begins_s = scene_of(stream)
    frames = []
    for at in range(many):
        drawn = np.clip(scene.picture(begins_s + at / stream.fps), 0, 255).astype(np.uint8)
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(drawn), format="gray")
        frame = frame.reformat(width=stream.width_px, height=stream.height_px, format=pixels_of(stream.codec))
        frame.pts = at
        frames.append(frame)
    return frames


def _encoded(stream: StreamSent, pictures: list[av.VideoFrame], key_s: float, crf: int) -> Loop:
    context = cast(VideoCodecContext, av.CodecContext.create(ENCODER_OF[stream.codec], "w"))
    set_up(context, stream.codec, stream.width_px, stream.height_px, stream.fps, key_s)
    context.options = _options(stream, key_s, crf)
    context.time_base = 1 / Fraction(stream.fps).limit_denominator(1001)
    context.thread_count = 1
    packets = [packet for frame in pictures for packet in context.encode(frame)] + list(context.encode())
    if stream.codec == "mjpeg":
        return Loop("mjpeg", stream.fps, tuple((bytes(one),) for one in packets), (True,) * len(packets), ())
    frames, keys, sets = [], [], {}
    for packet in packets:
        units = [unit for unit in _START.split(bytes(packet)) if unit]
        for unit in units:
            if (name := _set_name(stream.codec, unit)) is not None:
                sets[name] = unit
        kept = tuple(unit for unit in units if _is_wanted(stream.codec, unit))
        frames.append(kept)
        keys.append(bool(packet.is_keyframe))
    return Loop(stream.codec, stream.fps, tuple(frames), tuple(keys), tuple(sets[name] for name in sorted(sets)))


def _options(stream: StreamSent, key_s: float, crf: int) -> dict[str, str]:
    if stream.codec == "mjpeg":
        kbps = max(16, round(stream.rate_mbps * 1000))
        size = {"b": f"{kbps}k", "maxrate": f"{kbps}k", "bufsize": f"{kbps}k"}
        return {**size, "huffman": "default", "qmin": "2", "qmax": "31"}
    frames = max(1, round(key_s * stream.fps))
    common = f"keyint={frames}:min-keyint={frames}:scenecut=0:bframes=0:repeat-headers=1"
    own = {
        "h264": ("x264-params", common),
        "h265": ("x265-params", f"{common}:{_QUICK}"),
    }
    name, params = own[stream.codec]
    return {"crf": str(crf), "preset": "ultrafast", "tune": "zerolatency", name: params}


def unit_type(codec: Codec, unit: bytes) -> int:
    """The type of a NAL unit."""
    return unit[0] & 0x1F if codec == "h264" else (unit[0] >> 1) & 0x3F


def _set_name(codec: Codec, unit: bytes) -> int | None:
    """Which parameter set a unit is, by its type; None for any other."""
    kind = unit_type(codec, unit)
    return kind if kind in ((7, 8) if codec == "h264" else (32, 33, 34)) else None


def _is_wanted(codec: Codec, unit: bytes) -> bool:
    """Without access unit delimiters and what the encoder says of itself."""
    return unit_type(codec, unit) not in ((6, 9) if codec == "h264" else (35, 39, 40))


def filled(loop: Loop, rate_mbps: float) -> Loop:
    """The stretch with filler data up to a bit rate, spread evenly over its frames."""
    head = FILLER.get(loop.codec)
    missing = rate_mbps * 1e6 / 8 * loop.duration_s - sum(len(unit) for frame in loop.frames for unit in frame)
    if head is None or missing < SMALLEST_FILLER * len(loop.frames):
        return loop
    each = missing / len(loop.frames)
    frames, given = [], 0.0
    for at, frame in enumerate(loop.frames, 1):
        size = round(each * at - given)
        given += size
        frames.append((*frame, head + b"\xff" * (size - len(head) - 1) + b"\x80"))
    return loop._replace(frames=tuple(frames))


def _packed(loop: Loop) -> bytes:
    parts = [FORMAT, struct.pack(">6sdI", loop.codec.encode(), loop.fps, len(loop.parameter_sets))]
    for unit in loop.parameter_sets:
        parts += [struct.pack(">I", len(unit)), unit]
    for frame, key in zip(loop.frames, loop.keys, strict=True):
        parts.append(struct.pack(">BI", key, len(frame)))
        for unit in frame:
            parts += [struct.pack(">I", len(unit)), unit]
    return b"".join(parts)


def _unpacked(data: bytes) -> Loop:
    if not data.startswith(FORMAT):
        raise ValueError("another format")
    at = len(FORMAT)
    codec, fps, many = struct.unpack_from(">6sdI", data, at)
    at += struct.calcsize(">6sdI")

    def unit() -> bytes:
        nonlocal at
        (size,) = struct.unpack_from(">I", data, at)
        at += 4 + size
        if at > len(data):
            raise ValueError("cut short")
        return data[at - size : at]

    sets = tuple(unit() for _ in range(many))
    frames, keys = [], []
    while at < len(data):
        key, units = struct.unpack_from(">BI", data, at)
        at += 5
        frames.append(tuple(unit() for _ in range(units)))
        keys.append(bool(key))
    if not frames:
        raise ValueError("no frames")
    return Loop(codec.rstrip(b"\x00").decode(), fps, tuple(frames), tuple(keys), sets)
