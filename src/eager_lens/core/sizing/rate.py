"""Assumed bit rate of a stream from its picture, codec, quality and kind of view, by the fitted model."""

import math
from functools import cache, lru_cache
from typing import Literal, NamedTuple

from eager_lens.core.reference.stream_fit import stream_fit
from eager_lens.core.reference.streams import Codec, Point, Quality, Scene, stream_assumptions
from eager_lens.core.sizing.rate_spread import mean_of_halves
from eager_lens.core.sizing.stream_model import Picture, frame_bits, mjpeg_quantiser

Halves = tuple[tuple[float, float], tuple[float, float]]
"""Mb/s of key and of other frames, by day and by night."""


class StreamRate(NamedTuple):
    """Mean rate in Mb/s over day and night, and between what it lies in 8 of 10 cases; the means of its two parts, and what it
    is by day and by night."""

    rate_mbps: float
    low_mbps: float
    high_mbps: float
    key_part_mbps: float
    other_part_mbps: float
    day_mbps: float
    night_mbps: float


SEEN_DETAIL = 1.08
"""Detail of a view over that which is estimated from noisy pictures of it, in logarithms: without it, rates of the 465 encodes
come out 7 % low in the middle (5 to 8 % by codec), with it within 2 %."""


SEEN_MJPEG_HIGH = 3.0
"""MJPEG spends its bits on fine grain, of which a picture's mean gradient tells little: views full of it took up to three
times what the model says of them."""


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
        encoder_factor: what cameras' encoders need, times what those that were measured needed.
    """

    h265_saved_share: float
    h265_saved_least_share: float
    h265_saved_most_share: float
    noise_kept_share: float
    dark_share: float
    encoder_factor: float


@cache
def usual_assumptions() -> Assumed:
    """Those of the table."""
    table = stream_assumptions()
    return Assumed(
        table.codecs["h265"].saved_share,
        table.h265_saved_least,
        table.h265_saved_most,
        table.noise_kept[1],
        table.dark_share,
        table.encoder_factor[1],
    )


Doubt = Literal["model", "kind of view", "encoder", "h265", "quality", "noise"]
Doubts = dict[Doubt, tuple[float, float]]
"""By what is not known: how far both ends of 8 in 10 cases lie below and above the middle, in logarithms."""


class Estimated(NamedTuple):
    """An assumed rate, what makes it uncertain, and by how much (logarithm) it falls by day and by night for each step that the
    quantiser grows."""

    rate: StreamRate
    doubts: Doubts
    log_per_step: tuple[float, float]


@lru_cache(maxsize=20_000)
def estimate(
    width_px: int,
    height_px: int,
    fps: float,
    key_frame_s: float,
    codec: Codec,
    quality: Quality,
    scene_id: str,
    seen: Seen | None = None,
    given: Assumed | None = None,
    busy_share: float | None = None,
) -> Estimated:
    """Mean rate of a stream whose view is of a kind that the table knows. An assumption, never a measurement; with what makes it
    uncertain.

    The model is fitted to encodes (``stream_model``); the kind of view gives its properties by day and by night, a camera
    lets through so much of the noise, a codec saves so much on the one whose fit it uses, and camera encoders need more than
    those that were measured. The range joins, in logarithms and squares, the spread of real scenes of a kind, the model's own
    error, and what each assumption does to this very stream: another middle of the quality scale, more or less noise, another
    encoder, what a codec may save. The rate is the mean of that distribution, which lies above its middle. No range is wider than
    ``widest_range``: where noise is about as strong as the quantiser's step the model is steepest, and that is where a camera's
    noise filter and its rate control work against it, so quality and noise are taken to move it less there.

    A still (``seen``) takes the place of the kind's detail, by day and in proportion by night, and of its noise by day; the
    spread of the kind then counts for less (``still_leaves``), since motion and the night are still not known.

    ``busy_share`` is the share of the time in which something goes on; None: what is usual for the kind of view. Motion is
    in proportion to it, but for what moves by itself.

    Raises:
        KeyError: when there is no such kind of view.
    """
    table, own = stream_assumptions(), given or usual_assumptions()
    view = _View(width_px, height_px, fps, key_frame_s, codec, table.scenes[scene_id], seen, own, busy_share)
    noises = [end / table.noise_kept[1] for end in table.noise_kept]
    cases = [[view.parts(quality, sign * table.quality_step, noise) for noise in noises] for sign in (1, 0, -1)]
    doubts = _doubts_beside(codec, seen is not None, own)
    beside = mean_of_halves(*joined(doubts))
    for_step = _log_per_step(cases, table.quality_step)
    cases = _narrowed(cases, doubts, math.log(table.widest_range))
    dark = own.dark_share
    day_key, night_key, day_other, night_other = (
        beside * _mean(cases, half, part) for part in (0, 1) for half in (0, 1)
    )
    key_part, other_part = day_key + (night_key - day_key) * dark, day_other + (night_other - day_other) * dark
    (_, coarser, _), (cleaner, usual, noisier), (_, finer, _) = cases
    middle_mbps = _whole(usual, dark)
    doubts["quality"] = _ends(*(_whole(each, dark) / middle_mbps for each in (coarser, finer)))
    doubts["noise"] = _ends(*(_whole(each, dark) / middle_mbps for each in (cleaner, noisier)))
    down, up = joined(doubts)
    rate = StreamRate(
        key_part + other_part,
        middle_mbps * math.exp(-down),
        middle_mbps * math.exp(up),
        key_part,
        other_part,
        day_key + day_other,
        night_key + night_other,
    )
    return Estimated(rate, doubts, for_step)


Cases = list[list[Halves]]
"""By quality (coarser, usual, finer) and by noise (less, usual, more)."""


def _log_per_step(cases: Cases, quality_step: float) -> tuple[float, float]:
    """By how much a rate falls for a step of the quantiser, by day and by night, between a coarser and a finer setting."""
    coarser, _, finer = (row[1] for row in cases)
    day, night = (
        max(LEAST_LOG_PER_STEP, math.log(sum(fine) / sum(coarse)) / (2 * quality_step))
        for coarse, fine in zip(coarser, finer, strict=True)
    )
    return day, night


LEAST_LOG_PER_STEP = 0.02
"""A picture that hardly gets smaller by a coarser quantiser is counted as if it did by so much: it has little to lose."""


def _narrowed(cases: Cases, doubts: Doubts, widest_log: float) -> Cases:
    """The cases, nearer to the usual one where the range of day or of night would be wider than is believable with them."""
    day, night = (_share_left(cases, doubts, widest_log, half) for half in (0, 1))
    if day == night == 1:
        return cases
    usual = cases[1][1]
    return [[(_between(usual[0], case[0], day), _between(usual[1], case[1], night)) for case in row] for row in cases]


def _share_left(cases: Cases, doubts: Doubts, widest_log: float, half: int) -> float:
    """How much of the way from the usual case to the others is left, in logarithms, so that a range is no wider than this."""
    usual = sum(cases[1][1][half])
    coarser, finer, cleaner, noisier = (
        math.log(sum(case[half]) / usual) for case in (cases[0][1], cases[2][1], cases[1][0], cases[1][2])
    )

    def width(share: float) -> float:
        sides: Doubts = {
            **doubts,
            "quality": (-share * coarser, share * finer),
            "noise": (-share * cleaner, share * noisier),
        }
        return sum(joined(sides))

    if width(1.0) <= widest_log:
        return 1.0
    low, high = 0.0, 1.0
    for _ in range(NARROWING_STEPS):
        middle = (low + high) / 2
        low, high = (middle, high) if width(middle) <= widest_log else (low, middle)
    return low


NARROWING_STEPS = 20


def _between(usual: tuple[float, float], case: tuple[float, float], share: float) -> tuple[float, float]:
    """Key and other frames of a case moved towards the usual one: so much of the way is left, in logarithms."""
    whole, key = sum(case), case[0]
    moved = sum(usual) ** (1 - share) * whole**share
    return moved * key / whole, moved * (whole - key) / whole


def _mean(cases: Cases, half: int, part: int) -> float:
    """Mean over what is assumed of quality and noise."""
    return sum(
        by_quality * by_noise * case[half][part]
        for by_quality, row in zip(ENDS, cases, strict=True)
        for by_noise, case in zip(ENDS, row, strict=True)
    )


def _ends(low: float, high: float) -> tuple[float, float]:
    """Both ends over the middle, as logarithms below and above it."""
    return -math.log(low), math.log(high)


def joined(doubts: Doubts) -> tuple[float, float]:
    """All doubts together, below and above: independent of each other, so by the root of the sum of squares."""
    return math.hypot(*(down for down, _ in doubts.values())), math.hypot(*(up for _, up in doubts.values()))


def _doubts_beside(codec: Codec, is_seen: bool, own: Assumed) -> Doubts:
    """What is not known beside quality and noise."""
    table, assumed = stream_assumptions(), stream_assumptions().codecs[codec]
    fit, leaves = stream_fit().codecs[assumed.model], table.still_leaves if is_seen else 1.0
    doubts: Doubts = {"model": _ends(fit.low, fit.high), "kind of view": _ends(table.low**leaves, table.high**leaves)}
    if assumed.model == "mjpeg" and is_seen:
        doubts["model"] = _ends(fit.low, SEEN_MJPEG_HIGH)
    if assumed.model != "mjpeg":
        least, middle, most = table.encoder_factor
        doubts["encoder"] = _ends(least / middle, most / middle)
    if codec == "h265":
        left = 1 - own.h265_saved_share
        doubts["h265"] = _ends((1 - own.h265_saved_most_share) / left, (1 - own.h265_saved_least_share) / left)
    return doubts


def _whole(halves: Halves, dark_share: float) -> float:
    day, night = (sum(half) for half in halves)
    return day + (night - day) * dark_share


ENDS = (0.305, 0.39, 0.305)
"""Weights of the low end, the middle and the high end of 8 in 10 cases: with them three points have the variance of a normal
variable."""


class _View(NamedTuple):
    """A stream of a kind of view, for any quality and share of noise."""

    width_px: int
    height_px: int
    fps: float
    key_frame_s: float
    codec: Codec
    scene: Scene
    seen: Seen | None
    own: Assumed
    busy_share: float | None

    def parts(self, quality: Quality, step: float = 0.0, noise: float = 1.0) -> Halves:
        """What it sends at a quality, so many steps of the quantiser's scale off, with so many times the noise."""
        table = stream_assumptions()
        assumed = table.codecs[self.codec]
        if assumed.model == "mjpeg":
            # Twice the scale is twice the step between levels, as six steps of the other scale are.
            quantiser = mjpeg_quantiser(table.mjpeg_scale[quality] * 2 ** (step / 6))
        else:
            quantiser = table.crf[quality] + step
        return self._half(self.scene.day, quantiser, noise, True), self._half(self.scene.night, quantiser, noise, False)

    def _motion(self) -> float:
        """How many times as much moves as is usual for the kind of view: in proportion to the time that something goes on."""
        if self.busy_share is None:
            return self.scene.moves
        times = min(self.busy_share / self.scene.busy_share, stream_assumptions().busiest_factor)
        return self.scene.moves * (1 + self.scene.by_events * (times - 1))

    def _half(self, point: Point, quantiser: float, noise: float, by_day: bool) -> tuple[float, float]:
        assumed = stream_assumptions().codecs[self.codec]
        every_frame = assumed.model == "mjpeg"
        others = 0 if every_frame else max(1, round(min(self.key_frame_s * self.fps, 1e9))) - 1
        properties = point.at(self.width_px)
        properties["noise_sigma"] *= self.own.noise_kept_share * noise
        motion = self._motion()
        properties["motion_mad"] *= motion
        for name in ("moving_share", "moving_share_1s"):
            properties[name] = min(1.0, properties[name] * motion)
        if self.seen is not None:
            usual = self.scene.day.at(self.seen.width_px)
            properties["detail_log"] *= SEEN_DETAIL * self.seen.detail_log / usual["detail_log"]
            flat = properties["flat_share"] + self.seen.flat_share - usual["flat_share"]
            properties["flat_share"] = min(1.0, max(0.0, flat))
            if by_day:
                properties["noise_sigma"] = self.seen.noise_sigma
        coefficients = stream_fit().codecs[assumed.model].coefficients
        key, other = frame_bits(Picture(**properties), self.fps, quantiser, float(others), coefficients)
        saved = self.own.h265_saved_share if self.codec == "h265" else assumed.saved_share
        needs = 1.0 if every_frame else self.own.encoder_factor
        a_second = 1e-6 * self.width_px * self.height_px * self.fps * (1 - saved) * needs / (others + 1)
        return key * a_second, others * other * a_second
