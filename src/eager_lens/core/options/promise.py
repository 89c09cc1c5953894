"""What a recorder can be held to: days kept through simulated years, the promise in 95 of 100, and what makes it uncertain.

The rates' ranges hold 8 of 10 cases; as standard deviations of the logarithm they are divided by 1.2816. NumPy is loaded
with this module: only work off the window's thread imports it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures import CameraFigures, input_clip_s, thin_share
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Camera, Schedule, Thin
from eager_lens.core.recording.week import DAYS, MODES, Mode, WeekPlan, day_hours
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.disk import GB_PER_MBPS_HOUR
from eager_lens.core.sizing.spread import Z_OF_RANGE, Streams, Years, simulated_years

YEARS = 1000
PROMISED_SHARE = 0.95

CURVE_POINTS = 61
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
        years: how many were simulated. days: the mean plan's days, as told everywhere else.
        promised_days: kept on the worst day of the year, in 95 of 100 years. typical_days: on the middle day of the middle year.
        longest_days: on the day of the year on which pictures are oldest, in 95 of 100 years no more than this.
        curve: pairs of days and the share of years in which the worst day keeps at least so many.
        reasons: where the uncertainty comes from, most first.
    """

    recorder_id: str
    years: int
    days: float
    promised_days: float
    typical_days: float
    longest_days: float
    curve: tuple[tuple[float, float], ...]
    reasons: tuple[SpreadReason, ...]

    def share_with(self, least_days: float) -> float:
        """The share of years in which so many days are kept all the year round, read off the curve."""
        xs, ys = zip(*self.curve, strict=True)
        return float(np.interp(least_days, xs, ys, left=1.0, right=0.0))


def promise(assessment: Assessment, recorder_id: str, years: int = YEARS) -> Promise | None:
    """The promise of a recorder; None while it has no space or nothing is written there.

    Raises:
        RefusedInput: when hardly anything is written, so that there is no telling how long it is kept.
    """
    got, recorder = assessment.recorder(recorder_id), assessment.facts.recorders[recorder_id]
    if got.trouble or got.days is None:
        return None
    cameras = [camera for camera in assessment.facts.cameras_on[recorder_id] if _stores(assessment, camera)]
    if not cameras:
        return None
    streams = streams_of(assessment, cameras)
    activity, shared = assessment.job.activity, stream_assumptions().shared_share

    def simulated(rates_known: bool) -> Years:
        return simulated_years(
            streams,
            got.usable_tb * 1000,
            years=years,
            shared_share=shared,
            day_spread=activity.day_spread,
            busy_days=activity.busy_days,
            busy_factor=activity.busy_factor,
            seed=activity.seed,
            rates_known=rates_known,
        )

    try:
        through = simulated(rates_known=False)
        days_alone = float(np.var(np.log(np.maximum(simulated(rates_known=True).worst, 1e-9))))
    except ValueError as error:
        raise RefusedInput("events_per_h", "so little is recorded that whole years may stay empty") from error
    # What the recorder erases is gone, whatever would fit.
    most = math.inf if recorder.erase_after_days is None else recorder.erase_after_days
    through = Years(*(np.minimum(each, most) for each in through))
    worst = np.sort(through.worst)
    shares = np.linspace(0, 1, CURVE_POINTS)
    return Promise(
        recorder_id,
        years,
        got.days,
        float(np.quantile(worst, 1 - PROMISED_SHARE)),
        float(np.median(through.median)),
        float(np.quantile(through.best, PROMISED_SHARE)),
        tuple((float(np.quantile(worst, at)), float(1 - at)) for at in shares),
        _reasons(assessment, cameras, streams, shared, days_alone),
    )


def caution(assessment: Assessment, recorder_id: str, years: int = YEARS) -> float:
    """How many times the mean day's bytes must be reckoned with, so that the days hold in 95 of 100 years."""
    got = promise(assessment, recorder_id, years)
    return 1.0 if got is None or got.promised_days <= 0 else got.days / got.promised_days


def _stores(assessment: Assessment, camera: Camera) -> bool:
    return assessment.camera(camera.id).gb_per_day > 0


def streams_of(assessment: Assessment, cameras: Sequence[Camera]) -> Streams:
    """The cameras' streams as the simulation takes them."""
    figures = [assessment.camera(camera.id) for camera in cameras]
    hours_of_week = {schedule.id: _hours_by_day(schedule) for schedule in assessment.job.schedules}
    empty = _hours_by_day(Schedule(id="none", name="none", plan=WeekPlan()))
    hours = [hours_of_week.get(camera.schedule, empty) for camera in cameras]
    codecs = {camera.codec for camera in cameras}
    numbers = {codec: at for at, codec in enumerate(sorted(codecs))}
    return Streams(
        gb_per_h=np.array([one.rate_mbps * GB_PER_MBPS_HOUR for one in figures]),
        log_down=np.array([_log_spread(one.rate_mbps, one.low_mbps) for one in figures]),
        log_up=np.array([_log_spread(one.high_mbps, one.rate_mbps) for one in figures]),
        group=np.array([numbers[c.codec] if _assumed(f) else -1 for c, f in zip(cameras, figures, strict=True)]),
        always_h=np.array([one["continuous"] for one in hours]),
        motion_h=np.array([one["motion"] for one in hours]),
        input_h=np.array([one["alarm input"] for one in hours]),
        either_h=np.array([one["motion or alarm"] for one in hours]),
        idle_h=np.array([one["off"] for one in hours]),
        events_per_h=np.array([float(camera.events_per_h) for camera in cameras]),
        inputs_per_h=np.array([float(camera.inputs_per_h) for camera in cameras]),
        clip_s=np.array(
            [float(camera.pre_recording_s + camera.event_s + camera.post_recording_s) for camera in cameras]
        ),
        input_clip_s=np.array([float(camera.event_s + sum(input_clip_s(camera))) for camera in cameras]),
        between=np.array([_thin(c, c.kept_between_events, f) for c, f in zip(cameras, figures, strict=True)]),
        idle=np.array([_thin(c, c.kept_when_off, f) for c, f in zip(cameras, figures, strict=True)]),
    )


def _thin(camera: Camera, thin: Thin, figures: CameraFigures) -> float:
    return thin_share(camera, thin, figures.rate_mbps, figures.key_share)


def _assumed(figures: CameraFigures) -> bool:
    return figures.rate_origin == "assumed"


def _log_spread(more: float, less: float) -> float:
    return math.log(more / less) / Z_OF_RANGE if less > 0 else 0.0


def _hours_by_day(schedule: Schedule) -> dict[Mode, list[float]]:
    days = [day_hours(schedule.plan.of_day(day)) for day in DAYS]
    return {mode: [day[mode] for day in days] for mode in MODES}


def _reasons(
    assessment: Assessment, cameras: Sequence[Camera], streams: Streams, shared: float, days_alone: float
) -> tuple[SpreadReason, ...]:
    """Shares of the variance of the logarithm of days kept, to first order: each stream by its part of what is stored."""
    stored = np.array([assessment.camera(camera.id).gb_per_day for camera in cameras])
    weight = stored / stored.sum()
    deviation = weight * (streams.log_down + streams.log_up) / 2
    own = deviation**2 * np.where(streams.group >= 0, 1 - shared, 1.0)
    in_common = sum(
        float(deviation[streams.group == group].sum()) ** 2 * shared for group in np.unique(streams.group) if group >= 0
    )
    whole = float(own.sum()) + in_common + days_alone
    if whole <= 0:
        return ()
    most = np.argsort(-own)
    reasons = [
        SpreadReason(
            cameras[at].id,
            f"The picture of {cameras[at].name}",
            float(own[at]) / whole,
            "measure its rate, or a clip of it" if streams.group[at] >= 0 else "measured or set already",
        )
        for at in most[:MOST_REASONS]
    ]
    if len(cameras) > MOST_REASONS:
        rest = float(own[most[MOST_REASONS:]].sum()) / whole
        reasons.append(
            SpreadReason("others", f"The pictures of {len(cameras) - MOST_REASONS} more cameras", rest, "measure some")
        )
    reasons.append(SpreadReason("encoders", ALL_SHARED, in_common / whole, "measure a camera of each make"))
    reasons.append(SpreadReason("days", DAYS_DIFFER, days_alone / whole, "count events for some days"))
    return tuple(sorted(reasons, key=lambda reason: -reason.share))
