"""Streams as a job plans them."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.job.model import Camera
from eager_lens.core.reference.streams import Codec, Quality

SUBSTREAM_PX, SUBSTREAM_FPS, SUBSTREAM_KEY_FRAME_S = (640, 360), 10.0, 2.0
"""A substream is planned by its rate alone; this is what fits into it."""


class StreamPlanned(NamedTuple):
    """A stream as it is to be. ``cap_mbps``: None for no maximum; ``constant``: it always sends that much."""

    codec: Codec
    size_px: tuple[int, int]
    fps: float
    key_frame_s: float
    cap_mbps: float | None
    constant: bool
    quality: Quality


def main_planned(camera: Camera) -> StreamPlanned:
    """The main stream of a camera."""
    size = (camera.width_px, camera.height_px)
    constant = camera.rate_control == "CBR" and camera.cap_mbps is not None
    return StreamPlanned(camera.codec, size, camera.fps, camera.key_frame_s, cap_of(camera), constant, camera.quality)


def substream_planned(camera: Camera) -> StreamPlanned | None:
    """The substream of a camera; None where none is planned. Never larger than half of the main stream, in steps of eight as
    encoders take them."""
    if not camera.substream_mbps:
        return None
    full = (camera.width_px, camera.height_px)
    width_px, height_px = (min(own, main // 16 * 8) for own, main in zip(SUBSTREAM_PX, full, strict=True))
    codec: Codec = "h264" if camera.codec == "mjpeg" else camera.codec
    fps = min(camera.fps, SUBSTREAM_FPS)
    return StreamPlanned(
        codec, (width_px, height_px), fps, SUBSTREAM_KEY_FRAME_S, camera.substream_mbps, False, "medium"
    )
