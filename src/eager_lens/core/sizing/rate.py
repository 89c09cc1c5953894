"""Assumed bit rate of a stream from its picture, codec, quality and kind of view, by the fitted model."""

import math
from functools import cache, lru_cache
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


class Assumed(NamedTuple):
    """What no fit can know and a job may set for itself.

    Attributes:
        h265_saved_share, with its least and most: what H.265 saves on H.264 at like quality.
        noise_kept_share: share of the drawn scenes' noise that the cameras let through.
        dark_share: share of the day that is dark.
    """

    h265_saved_share: float
    h265_saved_least_share: float
    h265_saved_most_share: float
    noise_kept_share: float
    dark_share: float


@cache
def usual_assumptions() -> Assumed:
    """Those of the table."""
    table = stream_assumptions()
    return Assumed(
        table.codecs["h265"].saved_share,
        table.h265_saved_least,
        table.h265_saved_most,
        table.noise_kept,
        table.dark_share,
    )


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
    given: Assumed | None = None,
) -> StreamRate:
    """Mean rate of a stream whose view is of a kind that the table knows. An assumption, never a measurement.

    The model is fitted to encodes (``stream_model``); the kind of view gives its properties by day and by night, a camera
    lets through so much of the noise, a codec saves so much on the one whose fit it uses. The range joins, in
    logarithms and squares, the spread of real scenes of a kind with the model's own error and what a codec may save. A still
    (``seen``) takes the place of the kind's detail, by day and in proportion by night, and of its noise by day; the
    spread of the kind then counts for less (``still_leaves``), since motion and the night are still not known.

    Raises:
        KeyError: when there is no such kind of view.
    """
    table, own = stream_assumptions(), given or usual_assumptions()
    scene, assumed = table.scenes[scene_id], table.codecs[codec]
    fit = stream_fit().codecs[assumed.model]
    saved = own.h265_saved_share if codec == "h265" else assumed.saved_share
    every_frame = assumed.model == "mjpeg"
    quantiser = mjpeg_quantiser(table.mjpeg_scale[quality]) if every_frame else table.crf[quality]
    others = 0 if every_frame else max(1, round(min(key_frame_s * fps, 1e9))) - 1

    def parts(point: Point, by_day: bool) -> tuple[float, float]:
        """Mb/s of key and of other frames."""
        properties = point.at(width_px)
        properties["noise_sigma"] *= own.noise_kept_share
        if seen is not None:
            usual = scene.day.at(seen.width_px)
            properties["detail_log"] *= seen.detail_log / usual["detail_log"]
            flat = properties["flat_share"] + seen.flat_share - usual["flat_share"]
            properties["flat_share"] = min(1.0, max(0.0, flat))
            if by_day:
                properties["noise_sigma"] = seen.noise_sigma
        key, other = frame_bits(Picture(**properties), fps, quantiser, float(others), fit.coefficients)
        a_second = 1e-6 * width_px * height_px * fps * (1 - saved) / (others + 1)
        return key * a_second, others * other * a_second

    (day_key, day_other), (night_key, night_other) = parts(scene.day, True), parts(scene.night, False)
    dark = own.dark_share
    key_part, other_part = day_key + (night_key - day_key) * dark, day_other + (night_other - day_other) * dark
    rate = key_part + other_part
    leaves = 1.0 if seen is None else table.still_leaves
    more_saved = less_saved = 0.0
    if codec == "h265":
        more_saved = math.log((1 - own.h265_saved_most_share) / (1 - saved))
        less_saved = math.log((1 - own.h265_saved_least_share) / (1 - saved))
    low = math.exp(-math.hypot(leaves * math.log(table.low), math.log(fit.low), more_saved))
    high = math.exp(math.hypot(leaves * math.log(table.high), math.log(fit.high), less_saved))
    return StreamRate(rate, rate * low, rate * high, key_part, other_part, day_key + day_other, night_key + night_other)
