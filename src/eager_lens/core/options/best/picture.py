"""The best picture that keeps its days: settings for each camera of a recorder, within storage and every load limit.

Where the days can be kept without a loss on any camera, caps first, nothing is lost, and what is left over improves what it
improves most. Where they cannot, quality is given up before frames and frames before resolution, of each as little as can be,
importance counted, and nobody gets more than now. What a picture is worth
stands in ``settings``.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.cap_edit import cap_each
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.options.best.programme import Broken, Limit, Option, best_choice, broken
from eager_lens.core.options.best.reasons import reasons_of
from eager_lens.core.options.best.settings import (
    ALLOWED,
    GIVEN,
    Allowed,
    Given,
    Offers,
    Setting,
    as_it_is,
    settings_for,
)
from eager_lens.core.pauses import with_pauses
from eager_lens.core.sizing.control import CAPPED
from eager_lens.core.sizing.disk import GB_PER_MBPS_HOUR
from eager_lens.core.units import count, days_figure, figure
from eager_lens.core.validation import at_least
from eager_lens.core.wiring.network import link_loads

ROUNDS = 8
ENOUGH_OVER = 0.03
"""An answer that promises so much more than asked is near enough to the best one."""

CURVE_POINTS = 9


class Change(NamedTuple):
    """What happens to one camera: in words, and what it stores a day now and then. ``id`` is the camera's."""

    id: str
    name: str
    words: str
    gb_now: float
    gb_then: float
    worth_change: float


class Best(NamedTuple):
    """The answer.

    Attributes:
        needed_tb: space that it takes to promise the days; estimated on points of the curve.
        quality_share: worth, from 0 (everything at its least) to 1 (everything at its best).
        now_share: the same of the settings of now; now_tb: the space that those take.
        gap_share: by how much of its worth a better answer might exceed it.
        promised_days: checked by simulation, None on points of the curve.
        changes: cameras that change, those that give up most first. tight: limits that are nearly used up.
        reasons: why it is so, in a few lines. given: what cameras give up.
    """

    edit: Edit
    needed_tb: float
    quality_share: float
    now_share: float
    now_tb: float
    gap_share: float
    promised_days: float | None
    changes: tuple[Change, ...]
    tight: tuple[str, ...]
    reasons: tuple[str, ...]
    given: Given


class NoneFits(RefusedInput):
    """No choice keeps the limits. The text says which, by how much, and what is the cheapest way out."""


class Task(NamedTuple):
    """A recorder's cameras and all that may be set on them, for ``best_picture`` and ``trade_curve``; ``now`` has each camera as
    it is, ``now_tb`` the space that this takes."""

    assessment: Assessment
    recorder: Recorder
    cameras: tuple[Camera, ...]
    now: tuple[Setting, ...]
    settings: tuple[Offers, ...]
    loads: tuple[Limit, ...]
    days: float
    now_tb: float
    allowed: Allowed

    def gb_a_day(self, at: int, rate_mbps: float) -> float:
        """What a camera stores at a rate."""
        return rate_mbps * self.assessment.camera(self.cameras[at].id).stored_h_per_day * GB_PER_MBPS_HOUR

    def storage(self, recorder: Recorder, space_gb: float, reserve: float) -> Limit:
        """The limit of a recorder's space: the days, times what must be kept free for the worst of 95 years."""
        weights = {
            at: self.gb_a_day(at, 1.0) * self.days * reserve
            for at, camera in enumerate(self.cameras)
            if any(place.recorder == recorder.id for place in camera.registered)
        }
        return Limit(f"space of {recorder.name}", weights, space_gb, "GB")


def task_of(assessment: Assessment, recorder_id: str, allowed: Allowed = ALLOWED) -> Task:
    """What may be set on a recorder's cameras, and what that is worth.

    Raises:
        RefusedInput: when nothing is recorded there, or no days are asked.
    """
    recorder = assessment.facts.recorders[recorder_id]
    figures = assessment.facts.camera_figures
    cameras = tuple(c for c in assessment.facts.cameras_on[recorder_id] if figures[c.id].gb_per_day > 0)
    if assessment.recorder(recorder_id).keeps != "days" or not cameras:
        raise RefusedInput(recorder.name, "it has no storage or records nothing, so nothing can be improved")
    assumed = assessment.job.assumed.as_assumed()
    hours = assessment.facts.schedule_hours
    settings = tuple(
        settings_for(c, recorder, allowed, figures[c.id].rate_mbps, assumed, hours.get(c.schedule))
        for c in with_pauses(cameras, 1)
    )
    now = tuple(as_it_is(c, figures[c.id].rate_mbps, allowed.weights) for c in cameras)
    days = assessment.job.retention.least_days
    if days <= 0:
        raise RefusedInput("days", "no retention is entered, so everything fits; enter the days first")
    return Task(
        assessment,
        recorder,
        cameras,
        now,
        settings,
        tuple(_loads(assessment, cameras)),
        days,
        _needed_tb(assessment, recorder_id),
        allowed,
    )


def best_picture(task: Task, step: Callable[[float], None] = lambda share: None) -> Best:
    """The best settings of a recorder's cameras that promise the days asked, checked by an assessment.

    Raises:
        NoneFits: when even the least settings break a limit.
    """
    assessment, recorder_id = task.assessment, task.recorder.id
    space_gb = assessment.recorder(recorder_id).usable_tb * 1000
    reserve = _reserve(_with_caps(task), recorder_id)
    found: Best | None = None
    for number in range(ROUNDS):
        best = _solved(task, space_gb, reserve)
        step((number + 1) / ROUNDS)
        after = assess(best.edit.apply(assessment.job), assessment)
        days = after.recorder(recorder_id).promised_days
        promised = math.inf if days is None else days
        best = best._replace(
            promised_days=promised,
            needed_tb=_needed_tb(after, recorder_id),
            changes=tuple(one._replace(gb_then=after.camera(one.id).gb_per_day) for one in best.changes),
        )
        if at_least(promised, task.days) and (found is None or best.quality_share > found.quality_share):
            found = best
        if task.days <= promised <= task.days * (1 + ENOUGH_OVER):
            break
        # A little more than what was missing, since the next settings are uncertain in their own way.
        reserve *= min(2.0, max(0.5, task.days / promised)) * (1.002 + 0.01 * number)
    if found is None:
        raise NoneFits(
            "days",
            f"the settings found keep {days_figure(best.promised_days or 0.0)} of {figure(task.days)} days",
        )
    return found


def trade_curve(task: Task) -> Iterator[tuple[float, list[Best]]]:
    """The best picture for other amounts of space, from the least that fits to where more brings nothing.

    Yields the share that is done and the points so far, by rising space. Points are not checked by an assessment.
    """
    reserve = _reserve(_with_caps(task), task.recorder.id)
    ends = []
    for rates in (
        [each.less[0].rate_mbps for each in task.settings],
        [each.lossless[-1].rate_mbps for each in task.settings],
    ):
        ends.append(sum(task.gb_a_day(at, rate) for at, rate in enumerate(rates)) * task.days * reserve)
    points: list[Best] = []
    for number in range(CURVE_POINTS):
        space_gb = ends[0] * 1.0001 * (ends[1] / ends[0]) ** (number / (CURVE_POINTS - 1))
        try:
            found = _solved(task, space_gb, reserve)
            # Where frames alone suffice, more of them may go than with resolution beside: no point is shown that a smaller beats.
            if not points or found.quality_share > points[-1].quality_share:
                points.append(found)
        except NoneFits:
            if number == CURVE_POINTS - 1 and not points:
                raise
        yield (number + 1) / CURVE_POINTS, list(points)


def _needed_tb(assessment: Assessment, recorder_id: str) -> float:
    """The space that it takes to promise the days asked."""
    keeping, days = assessment.facts.keeping[recorder_id], assessment.job.retention.least_days
    if keeping is None:
        return assessment.recorder(recorder_id).gb_per_day * days / 1000
    return keeping.space_gb_for(days) / 1000


def _reserve(assessment: Assessment, recorder_id: str) -> float:
    """By how much that exceeds what the mean stores in these days."""
    mean_tb = assessment.recorder(recorder_id).gb_per_day * assessment.job.retention.least_days / 1000
    return _needed_tb(assessment, recorder_id) / mean_tb if mean_tb > 0 else 1.0


def _with_caps(task: Task) -> Assessment:
    """The job with the caps that may be set: what must be kept free goes by it, since they come before all else."""
    if not task.allowed.caps:
        return task.assessment
    capping = cap_each(task.cameras)
    return task.assessment if capping is None else assess(capping.apply(task.assessment.job), task.assessment)


def _loads(assessment: Assessment, cameras: Sequence[Camera]) -> Iterator[Limit]:
    """What recorders take in and links carry, less what comes from other cameras and other streams."""
    facts, topology = assessment.facts, assessment.facts.topology
    number = {camera.id: at for at, camera in enumerate(cameras)}
    rate = [assessment.camera(camera.id).rate_mbps for camera in cameras]
    for recorder in assessment.job.recorders:
        times: dict[int, float] = {}
        for camera in facts.cameras_on[recorder.id]:
            if camera.id in number:
                times[number[camera.id]] = times.get(number[camera.id], 0.0) + 1
        if times:
            others = assessment.recorder(recorder.id).incoming_mbps - sum(n * rate[at] for at, n in times.items())
            yield Limit(f"incoming of {recorder.name}", times, recorder.incoming_limit_mbps - others, "Mb/s")
    wiring = topology.wiring
    ways: dict[tuple[str, bool], dict[int, float]] = {}
    for camera in with_pauses(cameras):
        for place in camera.registered:
            for link_id, load in link_loads(wiring.network, [(camera.id, place.recorder, 1.0)]).items():
                for forth, share in ((True, load.forth_mbps), (False, load.back_mbps)):
                    if share:
                        weights = ways.setdefault((link_id, forth), {})
                        weights[number[camera.id]] = weights.get(number[camera.id], 0.0) + share
    links = {link.id: link for link in assessment.job.links}
    for (link_id, forth), weights in ways.items():
        load = topology.loads[link_id]
        others = (load.forth_mbps if forth else load.back_mbps) - sum(n * rate[at] for at, n in weights.items())
        name = facts.link_name(links[link_id])
        yield Limit(f"link {name}", weights, wiring.capacity_mbps[link_id] - others, "Mb/s")


def _solved(task: Task, space_gb: float, reserve: float) -> Best:
    """With nothing given up where that is possible; else with quality given up, then frames, then resolution: the first that fits,
    and of that as little as can be."""
    storage = task.storage(task.recorder, space_gb, reserve)
    limits = [storage, *task.loads]
    hopeless: list[Broken] = []
    for at, given in enumerate(GIVEN):
        options = [_options(task, camera, at) for camera in with_pauses(range(len(task.cameras)))]
        hopeless = broken(options, limits)
        if not hopeless:
            selected = best_choice(options, limits)
            assert selected is not None
            picked = [own.by_given[at][n] for own, n in zip(task.settings, selected.options, strict=True)]
            return _best_of(task, picked, selected.gap, limits, storage, given)
    raise NoneFits(hopeless[0].limit.name, _why_none(task, hopeless[0]))


def _options(task: Task, camera: int, given: int) -> list[Option]:
    importance = task.cameras[camera].importance
    return [Option(one.rate_mbps, importance * one.worth) for one in task.settings[camera].by_given[given]]


def _why_none(task: Task, worst: Broken) -> str:
    """Which limit cannot be met, by how much, and the cheapest way out."""
    limit, least = worst.limit, worst.least
    dearest = max(limit.weights, key=lambda at: limit.weights[at] * task.settings[at].less[0].rate_mbps)
    floor = f"allow lower settings for {task.cameras[dearest].name}, which needs most"
    if limit.unit == "GB":
        more_tb, days = (least - limit.most) / 1000, task.days * limit.most / least
        return (
            f"even with every camera at its minimum, {figure(task.days)} days need {figure(least / 1000)} TB, and there are "
            f"{figure(limit.most / 1000)}: add {figure(more_tb)} TB, ask for {days_figure(days)} days, or {floor}"
        )
    return (
        f"even with every camera at its minimum, {figure(least)} of {figure(max(0.0, limit.most))} {limit.unit} are used: "
        f"raise the limit by {figure(least - limit.most)} {limit.unit}, or {floor}"
    )


def _best_of(
    task: Task, picked: Sequence[Setting], gap: float, limits: Sequence[Limit], storage: Limit, given: Given
) -> Best:
    def sum_of(settings: Sequence[Setting]) -> float:
        return sum(camera.importance * one.worth for camera, one in zip(task.cameras, settings, strict=True))

    def space_tb(settings: Sequence[Setting]) -> float:
        return sum(weight * settings[at].rate_mbps for at, weight in storage.weights.items()) / 1000

    least = sum_of([each.less[0] for each in task.settings])
    most = sum_of([each.lossless[-1] for each in task.settings])
    span = max(most - least, 1e-9)
    values: dict[str, dict[str, Any]] = {}
    changes = []
    for at, (camera, now, setting) in enumerate(zip(task.cameras, task.now, picked, strict=True)):
        words = _words(camera, setting)
        if not words:
            continue
        values[camera.id] = setting.fields(camera)
        gain = camera.importance * (setting.worth - now.worth)
        gb_now, gb_then = (task.gb_a_day(at, one.rate_mbps) for one in (now, setting))
        changes.append(Change(camera.id, camera.name, words, gb_now, gb_then, gain))
    changes.sort(key=lambda change: change.worth_change)
    tight = []
    for limit in limits:
        used = sum(weight * picked[at].rate_mbps for at, weight in limit.weights.items())
        if limit.weights and used > 0.97 * limit.most:
            tight.append(limit.name)
    return Best(
        set_each(f"Best picture on {count(len(values), 'camera')} of {task.recorder.name}", values),
        space_tb(picked),
        (sum_of(picked) - least) / span,
        (sum_of(task.now) - least) / span,
        task.now_tb,
        gap,
        None,
        tuple(changes),
        tuple(tight),
        reasons_of(list(zip(task.cameras, picked, strict=True)), given, task.assessment.job) if changes else (),
        given,
    )


def _words(camera: Camera, setting: Setting) -> str:
    """What changes, as ``15 → 8 fps, high → medium``."""
    parts = []
    if setting.width_px != camera.width_px:
        parts.append(f"{camera.width_px} → {setting.width_px} px")
    if setting.fps != camera.fps:
        parts.append(f"{figure(camera.fps)} → {figure(setting.fps)} fps")
    if setting.quality != camera.quality:
        parts.append(f"{camera.quality} → {setting.quality} quality")
    if setting.codec != camera.codec:
        parts.append(f"{camera.codec} → {setting.codec}")
    if setting.key_frame_s != camera.key_frame_s:
        parts.append(f"key frames {figure(camera.key_frame_s)} → {figure(setting.key_frame_s)} s")
    if setting.rate_control == "smart codec" != camera.rate_control:
        parts.append(f"{camera.rate_control} → {setting.rate_control}")
    if setting.cap_mbps is not None and setting.rate_control in CAPPED and setting.cap_mbps != cap_of(camera):
        parts.append(f"at most {figure(setting.cap_mbps)} Mb/s")
    return ", ".join(parts)
