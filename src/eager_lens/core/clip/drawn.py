"""Clips that ship as code: a drawn fixed view with somebody walking through, to try the measuring with, and to test it.

A picture is a wall with texture and edges, foliage that sways, a walker, and new noise in each frame.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple, cast

import av
import numpy as np
from av.video.stream import VideoStream
from numpy.typing import NDArray

from eager_lens.core.clip.encoding import ENCODER_OF, encoder_options, pixels_of, set_up
from eager_lens.core.reference.streams import Codec


class Drawn(NamedTuple):
    """A drawn clip's settings: picture in px, frames a second, length in s, noise in levels, walkers."""

    width_px: int = 640
    height_px: int = 360
    fps: int = 15
    duration_s: float = 8.0
    noise_sigma: float = 2.0
    walkers: int = 1
    seed: int = 1


DRAWN = Drawn()


def frames_of(drawn: Drawn) -> Iterator[NDArray[np.uint8]]:
    """The clip's luma pictures (H, W), one after the other."""
    random = np.random.default_rng(drawn.seed)
    high, wide = drawn.height_px, drawn.width_px
    y, x = np.mgrid[0:high, 0:wide].astype(np.float64)
    view = 110 + 30 * np.sin(x / wide * 5) * np.cos(y / high * 3)
    for scale in (1, 2, 4, 8):
        grain = random.normal(0, 5, (high // scale + 1, wide // scale + 1))
        view += np.kron(grain, np.ones((scale, scale)))[:high, :wide]
    for at in range(0, wide, max(16, wide // 12)):
        view[high // 6 : high // 2, at : at + max(6, wide // 40)] -= 35
    leaves = slice(0, max(8, high // 5)), slice(wide * 3 // 4, wide)
    for number in range(round(drawn.duration_s * drawn.fps)):
        now = number / drawn.fps
        picture = view.copy()
        picture[leaves] = np.roll(view[leaves], round(2 * np.sin(3 * now)), axis=1)
        for walker in range(drawn.walkers):
            left = int((0.06 * now + walker / max(1, drawn.walkers)) % 1 * wide)
            picture[high // 2 : high * 9 // 10, left : left + max(4, wide // 24)] = 60 + 12 * walker
        picture += random.normal(0, drawn.noise_sigma, picture.shape)
        yield np.clip(picture, 0, 255).astype(np.uint8)


def write_clip(
    path: Path,
    drawn: Drawn = DRAWN,
    codec: Codec = "h264",
    quality: float = 28,
    key_frame_s: float = 2.0,
    container: str | None = None,
    begun: str = "",
) -> Path:
    """Draw a clip and write it to a file; ``container`` is the format where the name does not tell it, ``begun`` what the file
    says of when it was recorded."""
    with av.open(str(path), "w", format=container) as out:
        if begun:
            out.metadata["creation_time"] = begun
        options = encoder_options(codec, quality, "veryfast")
        stream = cast(VideoStream, out.add_stream(ENCODER_OF[codec], rate=Fraction(drawn.fps), options=options))
        set_up(stream.codec_context, codec, drawn.width_px, drawn.height_px, drawn.fps, key_frame_s)
        for picture in frames_of(drawn):
            frame = av.VideoFrame.from_ndarray(picture, format="gray").reformat(format=pixels_of(codec))
            out.mux(stream.encode(frame))
        out.mux(stream.encode())
    return path


def write_repeated(clip: Path, path: Path, times: int) -> Path:
    """A long clip made quickly: the frames of a short one repeated, with continuous times."""
    with av.open(str(clip)) as given, av.open(str(path), "w") as out:
        source = given.streams.video[0]
        stream = out.add_stream_from_template(source)
        packets = [packet for packet in given.demux(source) if packet.size]
        assert source.average_rate is not None
        step = round(1 / (source.average_rate * packets[0].time_base))
        base, data = packets[0].time_base, [(bytes(packet), packet.is_keyframe) for packet in packets]
        for number, (content, is_key) in enumerate(data * times):
            packet = av.Packet(content)
            packet.time_base, packet.is_keyframe = base, is_key
            packet.pts = packet.dts = number * step
            packet.stream = stream
            out.mux(packet)
    return path
