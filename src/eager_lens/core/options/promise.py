"""The promise of a recorder: the probability that a number of days is kept all year, and its causes of uncertainty."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import CameraFigures, erased
from eager_lens.core.assess.figures.rates import estimate_of
from eager_lens.core.job.capping import lacks_cap
from eager_lens.core.job.model import Camera
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.promise import Keeping
from eager_lens.core.sizing.rate import Assumed, Doubt
from eager_lens.core.sizing.rate_spread import Z_OF_RANGE

CURVE_POINTS = 31
LEAST_SHARE, MOST_SHARE = 0.004, 0.996
"""The curve spans the days that are kept in this many years and in that many."""

MOST_REASONS = 12
ALL_SHARED = "All cameras: assumptions about encoders and noise filters"
MOTION_DIFFERS = "How often motion triggers, events and false alarms"
DAYS_DIFFER = "Activity from day to day and in the busy season"


class SpreadReason(NamedTuple):
    """A share (0 to 1) of the variance of days kept and what it comes from; ``id`` is the camera's where it is one."""

    id: str
    words: str
    share: float
    remedy: str


class Promise(NamedTuple):
    """The spread of days kept at a recorder.

    Attributes:
        promised_days, mean_days: as everywhere else. longest_days: on the day of the year on which recordings are oldest, in 95
            of 100 years no more than this.
        curve: pairs of days and the probability that the worst day keeps at least that many.
        reasons: where the uncertainty comes from, most first.
    """

    recorder_id: str
    promised_days: float
    mean_days: float
    longest_days: float
    curve: tuple[tuple[float, float], ...]
    reasons: tuple[SpreadReason, ...]


def promise(
    assessment: Assessment, recorder_id: str, progress: Callable[[float], None] = lambda share: None
) -> Promise | None:
    """The promise of a recorder with its curve; None while it has no space or nothing is written there. ``progress`` is given
    the share (0 to 1) that is done, point by point."""
    got, keeping = assessment.recorder(recorder_id), assessment.facts.keeping[recorder_id]
    if keeping is None or got.keeps != "days" or got.promised_days is None or got.mean_days is None:
        return None
    recorder = assessment.facts.recorders[recorder_id]
    ends = (keeping.promised(MOST_SHARE), keeping.promised(LEAST_SHARE))
    curve = []
    for at in range(CURVE_POINTS):
        share = at / (CURVE_POINTS - 1)
        progress(share)
        days = ends[0] + (ends[1] - ends[0]) * share
        curve.append((days, share_with(assessment, recorder_id, days)))
    return Promise(
        recorder_id,
        got.promised_days,
        got.mean_days,
        erased(keeping.longest(), recorder),
        tuple(curve),
        _reasons(_spread(assessment, recorder_id, keeping)),
    )


def share_with(assessment: Assessment, recorder_id: str, days: float) -> float:
    """Probability (0 to 1) that a number of days is kept all year; 1 if the drives never fill."""
    keeping = assessment.facts.keeping[recorder_id]
    after = assessment.facts.recorders[recorder_id].erase_after_days
    if after is not None and days > after:
        return 0.0
    return 1.0 if keeping is None else keeping.share(days)


def _log_deviation(figures: CameraFigures) -> float:
    """Standard deviation of the logarithm of a rate, both sides together."""
    if figures.low_mbps <= 0 or figures.high_mbps <= 0:
        return 0.0
    return math.log(figures.high_mbps / figures.low_mbps) / Z_OF_RANGE / 2


class _Stream(NamedTuple):
    """A stream that stores: its part of the deviation of what is stored, whether its rate is an estimate, and its part of the
    variance by how much of the time motion stores."""

    camera: Camera
    part: float
    is_assumed: bool
    by_motion: float


class _Spread(NamedTuple):
    """Variance of the logarithm of days kept, to first order: each stream by its part of what is stored; what estimates have in
    common, by codec; and activity."""

    streams: tuple[_Stream, ...]
    by_codec: dict[str, float]
    days: float

    def own(self, stream: _Stream) -> float:
        """The variance that a stream has by itself."""
        return stream.part**2 * (1 - stream_assumptions().shared_share * stream.is_assumed)

    @property
    def in_common(self) -> float:
        """The variance that estimates have in common."""
        return stream_assumptions().shared_share * sum(part**2 for part in self.by_codec.values())

    @property
    def motion(self) -> float:
        """The variance by how often motion starts a recording."""
        return sum(stream.by_motion for stream in self.streams)

    @property
    def whole(self) -> float:
        """All of it."""
        return sum(map(self.own, self.streams)) + self.in_common + self.motion + self.days


def _spread(assessment: Assessment, recorder_id: str, keeping: Keeping) -> _Spread:
    cameras = assessment.facts.cameras_on[recorder_id]
    figures = [assessment.camera(camera.id) for camera in cameras]
    stored = sum(one.gb_per_day for one in figures)
    streams, by_codec = [], dict[str, float]()
    for camera, one in zip(cameras, figures, strict=True):
        if one.gb_per_day > 0:
            share, (_, second, _) = one.gb_per_day / stored, one.by_motion.moments()
            by_motion = share**2 * math.log(max(second, 1.0))
            stream = _Stream(camera, share * _log_deviation(one), one.rate_origin == "assumed", by_motion)
            streams.append(stream)
            if stream.is_assumed:
                by_codec[camera.codec] = by_codec.get(camera.codec, 0.0) + stream.part
    return _Spread(tuple(streams), by_codec, keeping.log_variance_of_days())


def _reasons(spread: _Spread) -> tuple[SpreadReason, ...]:
    """Where the variance comes from: cameras, most first, what they have in common, and activity."""
    whole = spread.whole
    if whole <= 0:
        return ()
    own = sorted(spread.streams, key=spread.own, reverse=True)
    reasons = [
        SpreadReason(
            stream.camera.id,
            f"The picture of {stream.camera.name}",
            spread.own(stream) / whole,
            "measure its bit rate, or read a clip" if stream.is_assumed else "measured or set already",
        )
        for stream in own[:MOST_REASONS]
    ]
    if len(own) > MOST_REASONS:
        rest = sum(map(spread.own, own[MOST_REASONS:])) / whole
        reasons.append(
            SpreadReason("others", f"The pictures of {len(own) - MOST_REASONS} more cameras", rest, "measure some")
        )
    is_free = any(lacks_cap(stream.camera) for stream in spread.streams)
    remedy = "set maximum bit rates" if is_free else "measure a camera of each make"
    reasons.append(SpreadReason("encoders", ALL_SHARED, spread.in_common / whole, remedy))
    if spread.motion > 0:
        reasons.append(
            SpreadReason(
                "motion", MOTION_DIFFERS, spread.motion / whole, "count events, or try the motion rule and apply it"
            )
        )
    reasons.append(SpreadReason("days", DAYS_DIFFER, spread.days / whole, "count events for some days"))
    return tuple(sorted(reasons, key=lambda reason: -reason.share))


Source = Doubt | Literal["read", "motion", "days"]


def shares_by_source(assessment: Assessment, recorder_id: str) -> dict[Source, float]:
    """The same variance by what is not known instead of by camera; empty where there is none. ``read`` is that of rates that were
    read, entered or set, ``motion`` that of starts on motion, ``days`` that of activity. The shares come to 1."""
    keeping = assessment.facts.keeping.get(recorder_id)
    if keeping is None or keeping.space_gb <= 0:
        return {}
    spread, shared, found = (
        _spread(assessment, recorder_id, keeping),
        stream_assumptions().shared_share,
        dict[Source, float](),
    )
    whole, assumed = spread.whole, assessment.job.assumed.as_assumed()
    if whole <= 0:
        return {}
    for stream in spread.streams:
        variance = spread.own(stream)
        if stream.is_assumed:
            variance += shared * stream.part * spread.by_codec[stream.camera.codec]
        for source, share in _sources(stream, assumed).items():
            found[source] = found.get(source, 0.0) + share * variance / whole
    return {**found, "motion": spread.motion / whole, "days": spread.days / whole}


def _sources(stream: _Stream, assumed: Assumed) -> dict[Source, float]:
    """Shares of a stream's variance by what is not known of it."""
    if not stream.is_assumed or stream.camera.measured_mbps is not None:
        return {"read": 1.0}
    doubts = estimate_of(stream.camera, assumed).doubts
    squares = {name: (down + up) ** 2 for name, (down, up) in doubts.items()}
    return {name: square / sum(squares.values()) for name, square in squares.items()}
