"""Assumed bit rate of a stream from its picture, codec, quality and kind of view, by the fitted model."""

import math
from functools import lru_cache
from typing import NamedTuple

from eager_lens.core.reference.stream_fit import stream_fit
from eager_lens.core.reference.streams import Codec, Point, Quality, stream_assumptions
from eager_lens.core.sizing.stream_model import Picture, frame_bits, mjpeg_quantiser


class StreamRate(NamedTuple):
    """Mean rate in Mb/s over day and night, and the range in which other scenes of the kind lie; the means of its two
    parts, and what it is by day and by night."""

    rate_mbps: float
    low_mbps: float
    high_mbps: float
    key_part_mbps: float
    other_part_mbps: float
    day_mbps: float
    night_mbps: float


@lru_cache(maxsize=20_000)
def assumed_rate(
    width_px: int, height_px: int, fps: float, key_frame_s: float, codec: Codec, quality: Quality, scene_id: str
) -> StreamRate:
    """Mean rate of a stream whose view is of a kind that the table knows. An assumption, never a measurement.

    The model is fitted to encodes (``stream_model``); the kind of view gives its properties by day and by night, a camera
    lets through so much of the noise, a codec saves so much on the one whose fit it uses. The range joins, in
    logarithms and squares, the spread of real scenes of a kind with the model's own error.

    Raises:
        KeyError: when there is no such kind of view.
    """
    table = stream_assumptions()
    scene, assumed = table.scenes[scene_id], table.codecs[codec]
    fit = stream_fit().codecs[assumed.model]
    every_frame = assumed.model == "mjpeg"
    quantiser = mjpeg_quantiser(table.mjpeg_scale[quality]) if every_frame else table.crf[quality]
    others = 0 if every_frame else max(1, round(min(key_frame_s * fps, 1e9))) - 1

    def parts(point: Point) -> tuple[float, float]:
        """Mb/s of key and of other frames."""
        properties = point.at(width_px)
        properties["noise_sigma"] *= table.noise_kept
        key, other = frame_bits(Picture(**properties), fps, quantiser, float(others), fit.coefficients)
        a_second = 1e-6 * width_px * height_px * fps * (1 - assumed.saved_share) / (others + 1)
        return key * a_second, others * other * a_second

    (day_key, day_other), (night_key, night_other) = parts(scene.day), parts(scene.night)
    dark = table.dark_share
    key_part, other_part = day_key + (night_key - day_key) * dark, day_other + (night_other - day_other) * dark
    rate = key_part + other_part
    low = math.exp(-math.hypot(math.log(table.low), math.log(fit.low)))
    high = math.exp(math.hypot(math.log(table.high), math.log(fit.high)))
    return StreamRate(rate, rate * low, rate * high, key_part, other_part, day_key + day_other, night_key + night_other)
