"""Assumed bit rate of a stream from its picture, codec and scene."""

from typing import NamedTuple

from eager_lens.core.reference.streams import Codec, Quality, Scene, stream_assumptions


class StreamRate(NamedTuple):
    """Mean rate in Mb/s and the range in which other scenes of the kind lie, with its two parts in Mb/s."""

    rate_mbps: float
    low_mbps: float
    high_mbps: float
    key_part_mbps: float
    other_part_mbps: float


def assumed_rate(
    width_px: int, height_px: int, fps: float, key_frame_s: float, codec: Codec, quality: Quality, scene: Scene
) -> StreamRate:
    """Mean rate of a stream, from a table of bits per pixel. An assumption, never a measurement.

    ``rate = pixels x codec x quality x (key_bpp x keys/s + other_bpp x others/s)``, where there is one key frame each
    ``key_frame_s`` seconds, though never more than ``fps`` a second; with MJPEG every frame is a key frame.
    """
    table = stream_assumptions()
    keys_per_s = fps if codec == "mjpeg" else min(fps, 1 / key_frame_s)
    factor = width_px * height_px * table.codec_factor[codec] * table.quality_factor[quality] / 1e6
    key_part = factor * scene.key_bpp * keys_per_s
    other_part = factor * scene.other_bpp * (fps - keys_per_s)
    rate = key_part + other_part
    return StreamRate(rate, rate * table.low, rate * table.high, key_part, other_part)
