"""What a stream is taken to be before anybody has measured it: kinds of view, codecs, qualities. From two data files.

``stream_points.json`` holds the measured properties of drawn scenes by picture width, ``stream_assumptions.json`` which of
them stands for which kind of view, and what is assumed besides.
"""

import json
import math
from functools import cache
from pathlib import Path
from typing import Literal, NamedTuple

Codec = Literal["h264", "h265", "mjpeg"]
CODECS: tuple[Codec, ...] = ("h264", "h265", "mjpeg")

Quality = Literal["low", "medium", "high"]
QUALITIES: tuple[Quality, ...] = ("low", "medium", "high")

POINT_PROPERTIES = (
    "detail_log",
    "flat_share",
    "noise_sigma",
    "noise_corr",
    "moving_share",
    "motion_mad",
    "moving_share_1s",
)


class Point(NamedTuple):
    """A scene as it was measured: by picture width in px, the values of ``POINT_PROPERTIES``."""

    by_width: tuple[tuple[int, tuple[float, ...]], ...]

    def at(self, width_px: int) -> dict[str, float]:
        """The properties at a width: between two measured widths by the logarithm, beyond them as at the nearest."""
        widths = [width for width, _ in self.by_width]
        right = next((at for at, width in enumerate(widths) if width >= width_px), len(widths) - 1)
        left = right if width_px <= widths[0] or width_px >= widths[-1] else right - 1
        (low, a), (high, b) = self.by_width[left], self.by_width[right]
        part = 0.0 if low == high else math.log(width_px / low) / math.log(high / low)
        values = (one + (other - one) * part for one, other in zip(a, b, strict=True))
        return dict(zip(POINT_PROPERTIES, values, strict=True))


class Scene(NamedTuple):
    """A kind of view: the points that it is by day and by night.

    ``busy_share``: the share of the time in which something goes on that the points stand for; ``by_events``: the part of the
    motion that comes and goes with events (leaves move by themselves); ``moves``: what moves on the mean of a year over what does
    in the drawn scene.
    """

    id: str
    label: str
    day: Point
    night: Point
    busy_share: float
    by_events: float
    moves: float


class CodecAssumption(NamedTuple):
    """A codec: its words, whose fit it uses, the share that it is assumed to save on that, and why."""

    label: str
    model: Codec
    saved_share: float
    why: str


class StreamAssumptions(NamedTuple):
    """Everything that is assumed of streams.

    Attributes:
        low, high: the spread of real scenes of a kind, as factors.
        shared_share: share of that spread's variance, in logarithms, that all cameras of a job have in common.
        still_leaves: share of that spread, in logarithms, that is left when a still shows the view's detail.
        h265_saved_least, h265_saved_most: between what H.265 saves on H.264 in 8 of 10 cases.
        noise_kept: share of the drawn scenes' noise that a camera lets through, since cameras filter noise in time: least, middle
            and most in 8 of 10 cases.
        encoder_factor: what cameras' encoders need, times those that were measured, likewise.
        busiest_factor: so many times as much motion as usual is the most that events account for.
        quality_step: so far off may the middle of the quality scale lie, in steps of the quantiser.
        widest_range: the upper end of a range is no more than so many times the lower one.
        dark_share: share of the day that is dark.
        crf, mjpeg_scale: by quality, what the encoders are set to.
    """

    source: str
    low: float
    high: float
    shared_share: float
    still_leaves: float
    h265_saved_least: float
    h265_saved_most: float
    noise_kept: tuple[float, float, float]
    encoder_factor: tuple[float, float, float]
    quality_step: float
    widest_range: float
    busiest_factor: float
    dark_share: float
    codecs: dict[str, CodecAssumption]
    codec_label: dict[str, str]
    crf: dict[str, float]
    mjpeg_scale: dict[str, float]
    scenes: dict[str, Scene]


@cache
def stream_assumptions() -> StreamAssumptions:
    """The table, read once."""
    folder = Path(__file__).parent
    data = json.loads((folder / "stream_assumptions.json").read_text("utf-8"))
    measured = json.loads((folder / "stream_points.json").read_text("utf-8"))["points"]
    points = {
        name: Point(tuple((int(width), tuple(values)) for width, values in by_width.items()))
        for name, by_width in measured.items()
    }
    codecs = {
        codec: CodecAssumption(row["label"], row["model"], row["saved"], row["why"])
        for codec, row in data["codecs"].items()
    }
    return StreamAssumptions(
        source=data["source"],
        low=data["spread"]["low"],
        high=data["spread"]["high"],
        shared_share=data["spread"]["shared_share"],
        still_leaves=data["spread"]["still_leaves"],
        h265_saved_least=data["codecs"]["h265"]["least"],
        h265_saved_most=data["codecs"]["h265"]["most"],
        noise_kept=tuple(data["noise_kept"]),
        encoder_factor=tuple(data["encoder_factor"]),
        quality_step=data["quality_step"],
        widest_range=data["widest_range"],
        busiest_factor=data["busiest_factor"],
        dark_share=data["dark_share"],
        codecs=codecs,
        codec_label={codec: row.label for codec, row in codecs.items()},
        crf={quality: row["crf"] for quality, row in data["qualities"].items()},
        mjpeg_scale={quality: row["mjpeg_scale"] for quality, row in data["qualities"].items()},
        scenes={
            row["id"]: Scene(
                *(row["id"], row["label"], points[row["day"]], points[row["night"]]),
                *(row["busy_share"], row["by_events"], row.get("moves", 1.0)),
            )
            for row in data["scenes"]
        },
    )
