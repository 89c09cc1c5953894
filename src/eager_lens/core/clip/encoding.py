"""Encoders set up to work as a camera does: no B-frames, key frames at fixed intervals only, one quantiser throughout."""

from __future__ import annotations

from fractions import Fraction
from typing import cast

import av
from av.video.codeccontext import VideoCodecContext

from eager_lens.core.reference.streams import Codec

ENCODER_OF: dict[Codec, str] = {"h264": "libx264", "h265": "libx265", "mjpeg": "mjpeg"}
LAMBDA_OF_SCALE = 118
"""The encoder library counts the quantiser scale of MJPEG in such units."""


def pixels_of(codec: Codec) -> str:
    """The pixel format that a codec takes."""
    return "yuvj420p" if codec == "mjpeg" else "yuv420p"


def encoder_options(codec: Codec, quality: float, preset: str) -> dict[str, str]:
    """What an encoder is told. ``quality`` is crf, or the quantiser scale of MJPEG."""
    if codec == "mjpeg":
        return {"flags": "+qscale", "global_quality": str(round(quality * LAMBDA_OF_SCALE))}
    own = {"h264": ("x264-params", "scenecut=0:qcomp=1"), "h265": ("x265-params", "scenecut=0:qcomp=1:log-level=none")}
    name, params = own[codec]
    return {"crf": f"{quality:g}", "preset": preset, "tune": "zerolatency", name: params}


def set_up(context: VideoCodecContext, codec: Codec, width_px: int, height_px: int, fps: float, key_s: float) -> None:
    """Give an encoder its picture and its key-frame interval."""
    rate = Fraction(fps).limit_denominator(1001)
    context.width, context.height, context.pix_fmt = width_px, height_px, pixels_of(codec)
    context.framerate, context.time_base = rate, 1 / rate
    context.gop_size = max(1, round(key_s * fps))


def encoder(
    codec: Codec, width_px: int, height_px: int, fps: float, key_s: float, quality: float, preset: str = "veryfast"
) -> VideoCodecContext:
    """An encoder by itself, without a file."""
    context = cast(VideoCodecContext, av.CodecContext.create(ENCODER_OF[codec], "w"))
    set_up(context, codec, width_px, height_px, fps, key_s)
    context.options = encoder_options(codec, quality, preset)
    return context
