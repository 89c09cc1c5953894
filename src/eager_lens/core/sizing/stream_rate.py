"""A stream's bit rate with its range, from its settings and what can be measured in its picture."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple, Self

from pydantic import Field, model_validator

from eager_lens.core.calculator import Calculator
from eager_lens.core.reference.stream_fit import stream_fit
from eager_lens.core.reference.streams import Codec
from eager_lens.core.sizing.stream_model import Picture, frame_bits, mjpeg_quantiser
from eager_lens.core.units import figure
from eager_lens.core.validation import AnySign, Count, Number, Plain, Positive, Share

LARGEST_CRF, LARGEST_SCALE = 51.0, 31.0

BEYOND = 2.0
"""Properties are limited to the range of the data, extended by this factor at its upper end."""


class StreamRateIn(Plain):
    """A stream's settings and its picture. ``quality`` is crf, or the quantiser scale of MJPEG: lower is better.

    Properties that are null are not known, and follow from the others; ``tools/stream_rate/README.md`` says how each
    is measured.
    """

    width_px: Count
    height_px: Count
    fps: Positive
    codec: Codec
    quality: Annotated[Number, Field(le=LARGEST_CRF)]
    key_frame_s: Positive | None = None
    detail: Number
    noise_sigma: Number
    moving_share: Share
    detail_log: Number | None = None
    flat_share: Share | None = None
    noise_corr: Annotated[AnySign, Field(ge=-1, le=1)] | None = None
    motion_mad: Number | None = None
    moving_share_1s: Share | None = None

    @model_validator(mode="after")
    def _fits_the_codec(self) -> Self:
        if self.codec == "mjpeg":
            if not 1 <= self.quality <= LARGEST_SCALE:
                raise ValueError(f"quality: the quantiser scale of MJPEG is 1 to {LARGEST_SCALE:g}")
        elif self.key_frame_s is None:
            raise ValueError("key_frame_s: the key-frame interval is missing; only MJPEG needs none")
        return self


class StreamRateOut(Plain):
    """The mean rate, the mean frames, and the range in which 80 of 100 scenes with these properties lie."""

    mean_mbps: float
    key_frame_bytes: float
    other_frame_bytes: float | None
    low_mbps: float
    high_mbps: float


class Held(NamedTuple):
    """A picture within what the data say something about, and a note for each property that was held back."""

    picture: Picture
    notes: tuple[str, ...]


def held_picture(given: StreamRateIn) -> Held:
    """The properties, with those that are not known taken from the others and those far off brought back."""
    fit = stream_fit()
    detail_log = given.detail_log
    if detail_log is None:
        slope, offset = fit.detail_log
        detail_log = max(0.0, slope * math.log2(1 + given.detail) + offset)
    flat_share = given.flat_share
    if flat_share is None:
        slope, offset = fit.flat_share
        flat_share = min(1.0, max(0.0, slope * detail_log + offset))
    motion_mad = given.moving_share * fit.motion_level if given.motion_mad is None else given.motion_mad
    later = given.moving_share_1s
    if later is None:
        later = min(1.0, given.moving_share * fit.moving_share_1s)
    wanted = {
        "detail_log": detail_log,
        "flat_share": flat_share,
        "noise_sigma": given.noise_sigma,
        "noise_corr": fit.noise_corr if given.noise_corr is None else max(0.0, given.noise_corr),
        "moving_share": given.moving_share,
        "motion_mad": motion_mad,
        "moving_share_1s": max(later, given.moving_share),
    }
    notes = []
    held = {}
    for name, value in wanted.items():
        low, high = fit.ranges[name]
        held[name] = min(max(value, 0.0 if low > 0 else low), BEYOND * high)
        if held[name] < value:
            notes.append(
                f"{name.replace('_', ' ')} {figure(value)} is far beyond the data; {figure(held[name])} is used"
            )
    return Held(Picture(**held), tuple(notes))


def stream_rate(given: StreamRateIn) -> StreamRateOut:
    """The rate of a stream.

    Raises:
        OverflowError: when the picture is larger than a number can hold.
    """
    fit = stream_fit().codecs[given.codec]
    picture = held_picture(given).picture
    pixels = given.width_px * given.height_px
    if given.codec == "mjpeg":
        others, quality = 0, mjpeg_quantiser(given.quality)
    else:
        assert given.key_frame_s is not None
        others, quality = max(1, round(min(given.key_frame_s * given.fps, 1e9))) - 1, given.quality
    key, other = frame_bits(picture, min(max(given.fps, 0.1), 240.0), quality, float(others), fit.coefficients)
    key_bytes, other_bytes = pixels * key / 8, pixels * other / 8
    mean_mbps = 8e-6 * given.fps * (key_bytes + others * other_bytes) / (others + 1)
    return StreamRateOut(
        mean_mbps=mean_mbps,
        key_frame_bytes=key_bytes,
        other_frame_bytes=None if given.codec == "mjpeg" else other_bytes,
        low_mbps=mean_mbps * fit.low,
        high_mbps=mean_mbps * fit.high,
    )


STREAM_RATE = Calculator(
    name="stream-rate",
    title="The bit rate of a stream",
    formula="bits of a frame = sum over detail, noise and motion of gain x log2(1 + (scale x signal / step)^s) / s; "
    "mean = 8 fps (key + (n - 1) other) / n, n frames from key to key",
    source="fitted to measured encodes, tools/stream_rate/fit.py; 80 % range from scenes left out of the fit",
    input_model=StreamRateIn,
    output_model=StreamRateOut,
    run=stream_rate,
)
