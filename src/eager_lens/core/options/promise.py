"""What a recorder can be held to: the chance that so many days are kept all the year round, and what makes it uncertain."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures import CameraFigures, erased
from eager_lens.core.job.model import Camera
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.promise import Keeping
from eager_lens.core.sizing.rate_spread import Z_OF_RANGE

CURVE_POINTS = 31
LEAST_SHARE, MOST_SHARE = 0.004, 0.996
"""The curve spans the days that are kept in this many years and in that many."""

MOST_REASONS = 12
ALL_SHARED = "All together: what is assumed of encoders and noise filters"
DAYS_DIFFER = "How much goes on, day by day and in the busy season"


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
        curve: pairs of days and the share of years in which the worst day keeps at least so many.
        reasons: where the uncertainty comes from, most first.
    """

    recorder_id: str
    promised_days: float
    mean_days: float
    longest_days: float
    curve: tuple[tuple[float, float], ...]
    reasons: tuple[SpreadReason, ...]


def promise(assessment: Assessment, recorder_id: str) -> Promise | None:
    """The promise of a recorder with its curve; None while it has no space or nothing is written there."""
    got, keeping = assessment.recorder(recorder_id), assessment.facts.keeping[recorder_id]
    if keeping is None or got.promised_days is None or got.mean_days is None:
        return None
    recorder, cameras = assessment.facts.recorders[recorder_id], assessment.facts.cameras_on[recorder_id]
    storing = [camera for camera in cameras if assessment.camera(camera.id).gb_per_day > 0]
    ends = (keeping.promised(MOST_SHARE), keeping.promised(LEAST_SHARE))
    days = [ends[0] + (ends[1] - ends[0]) * at / (CURVE_POINTS - 1) for at in range(CURVE_POINTS)]
    return Promise(
        recorder_id,
        got.promised_days,
        got.mean_days,
        erased(keeping.longest(), recorder),
        tuple((each, share_with(assessment, recorder_id, each)) for each in days),
        _reasons(storing, [assessment.camera(camera.id) for camera in storing], keeping),
    )


def share_with(assessment: Assessment, recorder_id: str, days: float) -> float:
    """The share of years in which so many days are kept all the year round; 1 where nothing fills up."""
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


def _reasons(cameras: Sequence[Camera], figures: Sequence[CameraFigures], keeping: Keeping) -> tuple[SpreadReason, ...]:
    """Shares of the variance of the logarithm of days kept, to first order: each stream by its part of what is stored."""
    shared = stream_assumptions().shared_share
    stored = sum(one.gb_per_day for one in figures)
    common: dict[str, float] = {}
    own: list[tuple[float, Camera, bool]] = []
    for camera, one in zip(cameras, figures, strict=True):
        part = one.gb_per_day / stored * _log_deviation(one)
        assumed = one.rate_origin == "assumed"
        if assumed:
            common[camera.codec] = common.get(camera.codec, 0.0) + part
        own.append((part * part * (1 - shared if assumed else 1.0), camera, assumed))
    in_common = sum(part * part * shared for part in common.values())
    days_alone = keeping.log_variance_of_days()
    whole = sum(part for part, _, _ in own) + in_common + days_alone
    if whole <= 0:
        return ()
    own.sort(key=lambda each: -each[0])
    reasons = [
        SpreadReason(
            camera.id,
            f"The picture of {camera.name}",
            part / whole,
            "measure its rate, or a clip of it" if assumed else "measured or set already",
        )
        for part, camera, assumed in own[:MOST_REASONS]
    ]
    if len(own) > MOST_REASONS:
        rest = sum(part for part, _, _ in own[MOST_REASONS:]) / whole
        reasons.append(
            SpreadReason("others", f"The pictures of {len(own) - MOST_REASONS} more cameras", rest, "measure some")
        )
    reasons.append(SpreadReason("encoders", ALL_SHARED, in_common / whole, "measure a camera of each make"))
    reasons.append(SpreadReason("days", DAYS_DIFFER, days_alone / whole, "count events for some days"))
    return tuple(sorted(reasons, key=lambda reason: -reason.share))
