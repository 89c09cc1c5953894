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


class Seen(NamedTuple):
    """What a still picture of the view shows: its width, and the properties that one picture tells."""

    width_px: int
    detail_log: float
    flat_share: float
    noise_sigma: float


@lru_cache(maxsize=20_000)
def assumed_rate(
    width_px: int,
    height_px: int,
    fps: float,
    key_frame_s: float,
    codec: Codec,
    quality: Quality,
    scene_id: str,
    seen: Seen | None = None,
) -> StreamRate:
    """Mean rate of a stream whose view is of a kind that the table knows. An assumption, never a measurement.

    The model is fitted to encodes (``stream_model``); the kind of view gives its properties by day and by night, a camera
    lets through so much of the noise, a codec saves so much on the one whose fit it uses. The range joins, in
    logarithms and squares, the spread of real scenes of a kind with the model's own error. A still of the view
    (``seen``) takes the place of the kind's detail, by day and in proportion by night, and of its noise by day; the
    spread of the kind then counts for less (``still_leaves``), since movement and the night are still not known.

    Raises:
        KeyError: when there is no such kind of view.
    """
    table = stream_assumptions()
    scene, assumed = table.scenes[scene_id], table.codecs[codec]
    fit = stream_fit().codecs[assumed.model]
    every_frame = assumed.model == "mjpeg"
    quantiser = mjpeg_quantiser(table.mjpeg_scale[quality]) if every_frame else table.crf[quality]
    others = 0 if every_frame else max(1, round(min(key_frame_s * fps, 1e9))) - 1

    def parts(point: Point, by_day: bool) -> tuple[float, float]:
        """Mb/s of key and of other frames."""
        properties = point.at(width_px)
        properties["noise_sigma"] *= table.noise_kept
        if seen is not None:
            usual = scene.day.at(seen.width_px)
            properties["detail_log"] *= seen.detail_log / usual["detail_log"]
            flat = properties["flat_share"] + seen.flat_share - usual["flat_share"]
            properties["flat_share"] = min(1.0, max(0.0, flat))
            if by_day:
                properties["noise_sigma"] = seen.noise_sigma
        key, other = frame_bits(Picture(**properties), fps, quantiser, float(others), fit.coefficients)
        a_second = 1e-6 * width_px * height_px * fps * (1 - assumed.saved_share) / (others + 1)
        return key * a_second, others * other * a_second

    (day_key, day_other), (night_key, night_other) = parts(scene.day, True), parts(scene.night, False)
    dark = table.dark_share
    key_part, other_part = day_key + (night_key - day_key) * dark, day_other + (night_other - day_other) * dark
    rate = key_part + other_part
    leaves = 1.0 if seen is None else table.still_leaves
    low = math.exp(-math.hypot(leaves * math.log(table.low), math.log(fit.low)))
    high = math.exp(math.hypot(leaves * math.log(table.high), math.log(fit.high)))
    return StreamRate(rate, rate * low, rate * high, key_part, other_part, day_key + day_other, night_key + night_other)
