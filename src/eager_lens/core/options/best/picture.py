"""The best picture that keeps its days: settings for each camera of a recorder, within storage and every load limit.

What a picture is worth is stated, not hidden: each doubling of its width counts one (half beyond what its purpose needs),
the frame rate 1 - exp(-fps / 4), which says that 8 to 12 frames a second are nearly all, each step of quality one half; times the
camera's importance. Who must be told apart is not recorded at low quality.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.codes import Code
from eager_lens.core.assess.figures import placing_of
from eager_lens.core.assess.rates import assumed_rate_of, holds_its_rate
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.optics.placing import width_for
from eager_lens.core.options.best.programme import Broken, Limit, Option, Selected, best_choice, broken
from eager_lens.core.reference.resolutions import smaller_than
from eager_lens.core.reference.streams import QUALITIES, Codec, Quality
from eager_lens.core.sizing.disk import GB_PER_MBPS_HOUR
from eager_lens.core.sizing.rate import Assumed, usual_assumptions
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_least
from eager_lens.core.wiring.network import link_loads

FPS_STEPS = (30.0, 25.0, 20.0, 15.0, 12.0, 10.0, 8.0, 6.0, 5.0, 4.0, 3.0, 2.0, 1.0)
LEAST_WIDTH_PX = 640
WIDTH_WORTH, BEYOND_NEED, FPS_WORTH, QUALITY_WORTH = 1.0, 0.5, 1.0, 0.5
BASE_WIDTH_PX, FPS_SCALE = 640.0, 4.0
ROUNDS = 4
ENOUGH_OVER = 0.03
"""An answer that promises so much more than asked is near enough to the best one."""

CURVE_POINTS = 9


class Allowed(NamedTuple):
    """What may be changed: the range of frame rates, lower resolution, H.265 where the recorder takes it."""

    least_fps: float = 5.0
    most_fps: float = 15.0
    smaller_pictures: bool = True
    h265: bool = True


ALLOWED, USUAL = Allowed(), usual_assumptions()


class Setting(NamedTuple):
    """One setting of a camera's stream, its rate in Mb/s and its worth before importance."""

    width_px: int
    height_px: int
    fps: float
    codec: Codec
    quality: Quality
    rate_mbps: float
    worth: float

    def fields(self) -> dict[str, Any]:
        """As fields of the camera."""
        return {
            "width_px": self.width_px,
            "height_px": self.height_px,
            "fps": self.fps,
            Code.CODEC: self.codec,
            "quality": self.quality,
        }


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
        needed_tb: space that it takes to keep the days in 95 of 100 years.
        quality_share: worth, from 0 (everything at its least) to 1 (everything at its best).
        now_share: the same of the settings of now; now_tb: the space that those take.
        gap_share: by how much of its worth a better answer might exceed it.
        promised_days: checked by simulation, None on points of the curve.
        changes: cameras that change, those that give up most first. tight: limits that are nearly used up.
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


class NoneFits(RefusedInput):
    """No choice keeps the limits. The text says which, by how much, and what is the cheapest way out."""


def worth_of(camera: Camera, width_px: int, fps: float, quality: Quality) -> float:
    """What a picture is worth, before the camera's importance."""
    need_px = _needed_px(camera)
    wide = math.log2(width_px / BASE_WIDTH_PX)
    if need_px and width_px > need_px:
        wide -= (1 - BEYOND_NEED) * math.log2(width_px / max(need_px, BASE_WIDTH_PX / 4))
    return WIDTH_WORTH * wide + FPS_WORTH * -math.expm1(-fps / FPS_SCALE) + QUALITY_WORTH * QUALITIES.index(quality)


def _needed_px(camera: Camera) -> int | None:
    """The width that its purpose needs; None where no purpose or target is given."""
    seen = placing_of(camera)
    if not camera.purpose or seen is None:
        return None
    return width_for(camera.purpose, camera.sensor_width_mm, camera.focal_mm, seen.sight_m)


def settings_for(
    camera: Camera, recorder: Recorder, allowed: Allowed, rate_mbps: float, assumed: Assumed = USUAL
) -> list[Setting]:
    """The settings that a camera may have, none of them dearer and no better than another, cheapest first.

    A measured rate is carried to other settings by the model's ratio.
    """
    if holds_its_rate(camera):
        # Its rate is set and does not follow from its settings: only what it has now is told of it.
        worth = worth_of(camera, camera.width_px, camera.fps, camera.quality)
        return [Setting(camera.width_px, camera.height_px, camera.fps, camera.codec, camera.quality, rate_mbps, worth)]
    now_model = _model_mbps(
        camera, assumed, camera.width_px, camera.height_px, camera.fps, camera.codec, camera.quality
    )
    ratio = rate_mbps / now_model
    codecs: list[Codec] = [camera.codec]
    if allowed.h265 and "h265" in recorder.codecs and camera.codec != "h265":
        codecs.append("h265")
    least_fps = min(max(allowed.least_fps, camera.least_fps), camera.fps)
    rates = {camera.fps, *(fps for fps in FPS_STEPS if least_fps <= fps <= max(allowed.most_fps, camera.fps))}
    found = []
    for width, height in _sizes(camera, allowed):
        for fps in rates:
            if fps < least_fps:
                continue
            for codec in codecs:
                for quality in _qualities(camera):
                    rate = ratio * _model_mbps(camera, assumed, width, height, fps, codec, quality)
                    worth = worth_of(camera, width, fps, quality)
                    found.append(Setting(width, height, fps, codec, quality, rate, worth))
    found.sort(key=lambda setting: (setting.rate_mbps, -setting.worth))
    front: list[Setting] = []
    for setting in found:
        if not front or setting.worth > front[-1].worth + 1e-12:
            front.append(setting)
    return front


def _sizes(camera: Camera, allowed: Allowed) -> list[tuple[int, int]]:
    """Sizes that cameras offer in the camera's shape, none under what its purpose needs."""
    need = _needed_px(camera) or LEAST_WIDTH_PX
    sizes = [(camera.width_px, camera.height_px)]
    if allowed.smaller_pictures:
        smaller = smaller_than(camera.width_px, camera.height_px)
        sizes += [size for size in smaller if size[0] >= need and at_least(size[0], LEAST_WIDTH_PX)]
    return sizes


def _qualities(camera: Camera) -> tuple[Quality, ...]:
    """Who must be told apart is not recorded at low quality, unless that is what the camera has."""
    if camera.purpose in ("identify", "recognise") and camera.quality != "low":
        return tuple(quality for quality in QUALITIES if quality != "low")
    return QUALITIES


def _model_mbps(
    camera: Camera, assumed: Assumed, width: int, height: int, fps: float, codec: Codec, quality: Quality
) -> float:
    fields = {"width_px": width, "height_px": height, "fps": fps, Code.CODEC: codec, "quality": quality}
    return assumed_rate_of(camera.model_copy(update=fields), assumed).rate_mbps


class _Task(NamedTuple):
    """Everything that the programme is made of."""

    assessment: Assessment
    recorder: Recorder
    cameras: tuple[Camera, ...]
    settings: tuple[tuple[Setting, ...], ...]
    loads: tuple[Limit, ...]
    days: float

    def options(self) -> list[list[Option]]:
        return [
            [Option(setting.rate_mbps, camera.importance * setting.worth) for setting in settings]
            for camera, settings in zip(self.cameras, self.settings, strict=True)
        ]

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


def best_picture(
    assessment: Assessment,
    recorder_id: str,
    allowed: Allowed = ALLOWED,
    step: Callable[[float], None] = lambda share: None,
) -> Best:
    """The best settings of a recorder's cameras that keep the days asked in 95 of 100 years, checked by an assessment.

    Raises:
        NoneFits: when even the least settings break a limit.
        RefusedInput: when nothing is recorded there.
    """
    task = _task(assessment, recorder_id, allowed)
    space_gb = assessment.recorder(recorder_id).usable_tb * 1000
    reserve = _reserve(assessment, recorder_id)
    step(0.2)
    found: Best | None = None
    for number in range(ROUNDS):
        best = _solved(task, space_gb, reserve)
        step(0.2 + 0.8 * (number + 1) / ROUNDS)
        days = assess(best.edit.apply(assessment.job), assessment).recorder(recorder_id).promised_days
        promised = math.inf if days is None else days
        best = best._replace(promised_days=promised)
        if at_least(promised, task.days) and (found is None or best.quality_share > found.quality_share):
            found = best
        if task.days <= promised <= task.days * (1 + ENOUGH_OVER):
            break
        # A little more than what was missing, since the next settings are uncertain in their own way.
        reserve *= min(2.0, max(0.5, task.days / promised)) * (1.002 + 0.01 * number)
    if found is None:
        raise NoneFits(
            "days", f"the settings that were found keep {figure(best.promised_days or 0.0)} of {figure(task.days)} days"
        )
    return found


def trade_curve(
    assessment: Assessment, recorder_id: str, allowed: Allowed = ALLOWED
) -> Iterator[tuple[float, list[Best]]]:
    """The best picture for other amounts of space, from the least that fits to where more brings nothing.

    Yields the share that is done and the points so far, by rising space. Points are not checked by an assessment.
    """
    task = _task(assessment, recorder_id, allowed)
    reserve = _reserve(assessment, recorder_id)
    ends = []
    for pick in (min, max):
        rates = [pick(setting.rate_mbps for setting in settings) for settings in task.settings]
        ends.append(sum(task.gb_a_day(at, rate) for at, rate in enumerate(rates)) * task.days * reserve)
    points: list[Best] = []
    for number in range(CURVE_POINTS):
        space_gb = ends[0] * 1.0001 * (ends[1] / ends[0]) ** (number / (CURVE_POINTS - 1))
        try:
            points.append(_solved(task, space_gb, reserve))
        except NoneFits:
            if number == CURVE_POINTS - 1 and not points:
                raise
        yield (number + 1) / CURVE_POINTS, list(points)


def _reserve(assessment: Assessment, recorder_id: str) -> float:
    """By how much the space for a promise of the days asked exceeds what the mean stores in them."""
    keeping, days = assessment.facts.keeping[recorder_id], assessment.job.retention.least_days
    mean_gb = assessment.recorder(recorder_id).gb_per_day * days
    return 1.0 if keeping is None or mean_gb <= 0 else keeping.space_gb_for(days) / mean_gb


def _task(assessment: Assessment, recorder_id: str, allowed: Allowed) -> _Task:
    recorder = assessment.facts.recorders[recorder_id]
    figures = assessment.facts.camera_figures
    cameras = tuple(c for c in assessment.facts.cameras_on[recorder_id] if figures[c.id].gb_per_day > 0)
    if assessment.recorder(recorder_id).mean_days is None or not cameras:
        raise RefusedInput(recorder.name, "it has no space, or nothing is recorded on it, so nothing can be improved")
    assumed = assessment.job.assumed.as_assumed()
    settings = tuple(tuple(settings_for(c, recorder, allowed, figures[c.id].rate_mbps, assumed)) for c in cameras)
    days = assessment.job.retention.least_days
    if days <= 0:
        raise RefusedInput("days", "no days to keep are asked, so everything fits; say how many first")
    return _Task(assessment, recorder, cameras, settings, tuple(_loads(assessment, cameras)), days)


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
    for camera in cameras:
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


def _solved(task: _Task, space_gb: float, reserve: float) -> Best:
    options = task.options()
    storage = task.storage(task.recorder, space_gb, reserve)
    limits = [storage, *task.loads]
    hopeless = broken(options, limits)
    if hopeless:
        raise NoneFits(hopeless[0].limit.name, _why_none(task, hopeless[0]))
    try:
        selected = best_choice(options, limits)
    except TimeoutError as error:
        raise RefusedInput(
            "best picture", f"{error}; allow fewer settings, or fewer cameras on the recorder"
        ) from error
    assert selected is not None
    return _told(task, selected, options, limits, storage)


def _why_none(task: _Task, worst: Broken) -> str:
    """Which limit cannot be met, by how much, and the cheapest way out."""
    limit, least = worst.limit, worst.least
    dearest = max(
        limit.weights, key=lambda at: limit.weights[at] * min(setting.rate_mbps for setting in task.settings[at])
    )
    floor = f"allow {task.cameras[dearest].name} less, which takes most of it"
    if limit.unit == "GB":
        more_tb, days = (least - limit.most) / 1000, task.days * limit.most / least
        return (
            f"with every camera at its least, {figure(least / 1000)} TB are needed to keep {figure(task.days)} days in 95 of "
            f"100 years, and there are {figure(limit.most / 1000)}: add {figure(more_tb)} TB, ask for {figure(days)} days, "
            f"or {floor}"
        )
    return (
        f"with every camera at its least, {figure(least)} {limit.unit} come of {figure(max(0.0, limit.most))} that are left: "
        f"raise the limit by {figure(least - limit.most)} {limit.unit}, or {floor}"
    )


def _told(task: _Task, selected: Selected, options: list[list[Option]], limits: list[Limit], storage: Limit) -> Best:
    picked = [settings[at] for settings, at in zip(task.settings, selected.options, strict=True)]
    now = [
        Option(
            task.assessment.camera(camera.id).rate_mbps,
            camera.importance * worth_of(camera, camera.width_px, camera.fps, camera.quality),
        )
        for camera in task.cameras
    ]
    least = sum(min(option.worth for option in each) for each in options)
    most = sum(max(option.worth for option in each) for each in options)
    span = max(most - least, 1e-9)
    values: dict[str, dict[str, Any]] = {}
    changes = []
    for at, (camera, setting) in enumerate(zip(task.cameras, picked, strict=True)):
        words = _words(camera, setting)
        if not words:
            continue
        values[camera.id] = setting.fields()
        gain = camera.importance * setting.worth - now[at].worth
        gb_now, gb_then = (task.gb_a_day(at, rate) for rate in (now[at].cost, setting.rate_mbps))
        changes.append(Change(camera.id, camera.name, words, gb_now, gb_then, gain))
    changes.sort(key=lambda change: change.worth_change)
    cost = [setting.rate_mbps for setting in picked]
    tight = []
    for limit in limits:
        used = sum(weight * cost[at] for at, weight in limit.weights.items())
        if limit.weights and used > 0.97 * limit.most:
            tight.append(limit.name)
    return Best(
        set_each(f"Best picture on {count(len(values), 'camera')} of {task.recorder.name}", values),
        sum(weight * cost[at] for at, weight in storage.weights.items()) / 1000,
        (selected.worth - least) / span,
        (sum(option.worth for option in now) - least) / span,
        sum(weight * now[at].cost for at, weight in storage.weights.items()) / 1000,
        selected.gap,
        None,
        tuple(changes),
        tuple(tight),
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
    return ", ".join(parts)
