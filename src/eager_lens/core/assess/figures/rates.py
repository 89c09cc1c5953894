"""A camera's bit rate: measured, entered, carried from the settings at which it was measured, set, or estimated."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Literal, NamedTuple

from eager_lens.core.job.measured import measured_elsewhere
from eager_lens.core.job.model import Camera, SeenPicture, changed
from eager_lens.core.recording.clips import recorded_share, share_ends
from eager_lens.core.reference.stream_fit import stream_fit
from eager_lens.core.reference.streams import Codec, Quality, Scene, stream_assumptions
from eager_lens.core.sizing.capped import NO_DEMAND, AtCap, Demand, at_cap, held_under
from eager_lens.core.sizing.control import CAMERA_PORT_MBPS, CAPPED, RateControl, Sent, demand_of, sent, sent_freely
from eager_lens.core.sizing.rate import Assumed, Estimated, Seen, StreamRate, estimate, usual_assumptions
from eager_lens.core.sizing.rate_spread import Z_OF_RANGE, HeldRate

Origin = Literal["plan", "assumed", "entered", "measured", "calculated"]

MEASURED_SPREAD = (0.9, 1.15)
"""What the meter, the hour and the season do to a rate that was read off a device, events apart."""

GLANCE_MIN = 1.0
DAY_MIN = 24 * 60.0
"""So long a rate was read when nobody says: as long as one looks at a page, or by its own words over day and night."""

MOST_DEMANDING = "yard-dark"
"""The kind of view that costs most; it stands for one that is not known."""


class SpreadUnderCap(NamedTuple):
    """How the range of an estimated rate under a cap comes about: deviations of what is asked for below and above its middle, and
    what the cap makes of it."""

    log_down: float
    log_up: float
    held: HeldRate


class Rate(NamedTuple):
    """What a camera's main stream sends, where that comes from, what the picture would ask for by the model, and where the rate
    is estimated under a cap, how its range comes about; and what the cap takes from the picture."""

    sent: Sent
    origin: Origin
    asked: StreamRate
    under_cap: SpreadUnderCap | None
    at_cap: AtCap | None


def cap_of(camera: Camera) -> float | None:
    """The maximum bit rate of a camera in Mb/s, where its rate control has one."""
    return camera.cap_mbps if camera.rate_control in CAPPED else None


def holds_its_rate(camera: Camera) -> bool:
    """Whether the camera holds a constant rate, whatever its other settings ask for."""
    return camera.rate_control == "CBR" and camera.cap_mbps is not None


def scene_of(camera: Camera) -> Scene:
    """The camera's scene; for one that the table does not know, the most demanding of the table."""
    scenes = stream_assumptions().scenes
    return scenes.get(camera.scene) or scenes[MOST_DEMANDING]


def assumed_rate_of(camera: Camera, assumed: Assumed | None = None) -> StreamRate:
    """The rate that a camera's settings and scene would give, whether or not one was measured."""
    return estimate_of(camera, assumed).rate


def estimate_of(camera: Camera, assumed: Assumed | None = None, busy_share: float | None = None) -> Estimated:
    """The same, with what makes it uncertain; of a share of the time in which something goes on that is not its own, too."""
    seen = camera.seen
    own_share = recorded_share(camera.events_per_h, camera.event_s, 0, 0)
    return estimate(
        camera.width_px,
        camera.height_px,
        camera.fps,
        camera.key_frame_s,
        camera.codec,
        camera.quality,
        scene_of(camera).id,
        None if seen is None else Seen(seen.width_px, seen.detail_log, seen.flat_share, seen.noise_sigma),
        assumed,
        own_share if busy_share is None else busy_share,
    )


def demand_by(camera: Camera, assumed: Assumed | None = None) -> Demand:
    """What a camera's picture asks for by the model over time."""
    busy_share = recorded_share(camera.events_per_h, camera.event_s, 0, 0)
    whole, still, busiest = (estimate_of(camera, assumed, busy_share=share) for share in (None, 0.0, 1.0))
    dark_share = (assumed or usual_assumptions()).dark_share
    return demand_of(whole, still, busiest, busy_share, dark_share, camera.rate_control)


def sent_by(camera: Camera, assumed: Assumed | None = None) -> Sent:
    """What a camera sends by the model, under its rate control."""
    asked = assumed_rate_of(camera, assumed)
    # Most of the search for the best picture is spent here.
    freely = sent_freely(asked) if camera.rate_control != "smart codec" and cap_of(camera) is None else None
    return freely or sent(asked, camera.rate_control, cap_of(camera), demand_by(camera, assumed))


def _carried_under_cap(camera: Camera, assumed: Assumed | None, times: float, spread: tuple[float, float]) -> Rate:
    """A rate that was read at other settings, under the cap of now: the picture asks for so many times what the model says."""
    asked, cap_mbps = assumed_rate_of(camera, assumed), min(camera.cap_mbps or CAMERA_PORT_MBPS, CAMERA_PORT_MBPS)
    if holds_its_rate(camera):
        return Rate(sent(asked, camera.rate_control, cap_mbps, NO_DEMAND), "plan", asked, None, None)
    scaled = StreamRate(*(each * times for each in asked))
    scaled = scaled._replace(low_mbps=scaled.rate_mbps * spread[0], high_mbps=scaled.rate_mbps * spread[1])
    demand = demand_by(camera, assumed)
    levels = tuple(level._replace(mbps=level.mbps * times) for level in demand.levels)
    demand = Demand(levels, -math.log(spread[0]), math.log(spread[1]))
    held = sent(scaled, camera.rate_control, cap_mbps, demand)
    return Rate(held, "assumed", asked, _spread_under(demand, cap_mbps), at_cap(demand, cap_mbps))


def at_cap_of(camera: Camera, assumed: Assumed | None = None) -> AtCap | None:
    """What a camera's cap takes from its picture by the model; None where it has none in force."""
    cap_mbps = cap_of(camera)
    return None if cap_mbps is None else at_cap(demand_by(camera, assumed), cap_mbps)


class _Planned(NamedTuple):
    """What the rate of a camera depends on while none was read: many cameras of a job are alike in it."""

    scene: str
    width_px: int
    height_px: int
    fps: float
    key_frame_s: float
    codec: Codec
    quality: Quality
    rate_control: RateControl
    cap_mbps: float | None
    seen: SeenPicture | None
    events_per_h: float
    event_s: float


_PLAIN = Camera(id="plain", name="plain")


@lru_cache(maxsize=20_000)
def _planned(settings: _Planned, assumed: Assumed | None) -> Rate:
    camera = _PLAIN.model_copy(update=settings._asdict())
    asked, cap_mbps = assumed_rate_of(camera, assumed), cap_of(camera)
    if holds_its_rate(camera):
        constant = sent(asked, camera.rate_control, cap_mbps, NO_DEMAND)
        return Rate(constant, "plan", asked, None, at_cap_of(camera, assumed))
    if cap_mbps is None:
        return Rate(sent_by(camera, assumed), "assumed", asked, None, None)
    demand = demand_by(camera, assumed)
    model = sent(asked, camera.rate_control, cap_mbps, demand)
    under_cap = _spread_under(demand, min(cap_mbps, CAMERA_PORT_MBPS))
    return Rate(model, "assumed", asked, under_cap, at_cap(demand, cap_mbps))


def rate_of(camera: Camera, assumed: Assumed | None = None) -> Rate:
    """The rate of a camera.

    A rate read by day or by night only has its other half from the model. One that was measured at other settings is carried
    to those of now by the model's ratio, and is an estimate then.
    """
    if camera.measured_mbps is None:
        return _planned(_Planned(*(getattr(camera, name) for name in _Planned._fields)), assumed)
    asked = assumed_rate_of(camera, assumed)
    cap_mbps = cap_of(camera)
    model = sent_by(camera, assumed)
    elsewhere, at = measured_elsewhere(camera), model
    if elsewhere is not None:
        at = sent_by(changed(camera, **elsewhere.model_dump()), assumed)
    by_model = {"day": at.day_mbps, "night": at.night_mbps}.get(camera.measured_when, at.mean_mbps)
    mean = camera.measured_mbps * (model.mean_mbps / by_model)
    low, high = _spread(camera, model.mean_mbps, assumed, carried=elsewhere is not None)
    day, night = (each * mean / model.mean_mbps for each in (model.day_mbps, model.night_mbps))
    if elsewhere is not None and cap_mbps is not None:
        return _carried_under_cap(camera, assumed, camera.measured_mbps / by_model, (low, high))
    # What was read above a cap, at the settings of now, stands: the camera does not hold it.
    high = high if cap_mbps is None else min(high, max(cap_mbps / mean, 1.0))
    origin: Origin = "measured"
    if elsewhere is not None:
        origin = "assumed"
    elif not camera.measured_when and not camera.measured_from:
        origin = "entered"
    return Rate(Sent(mean, mean * low, mean * high, max(day, night) * high, day, night), origin, asked, None, None)


def _spread_under(demand: Demand, cap_mbps: float) -> SpreadUnderCap:
    down, up = (round(log / Z_OF_RANGE, 9) for log in (demand.log_down, demand.log_up))
    return SpreadUnderCap(down, up, held_under(demand, cap_mbps))


def minutes_read(camera: Camera) -> float:
    """Over how long a camera's rate was read, in minutes; assumed where nobody says."""
    if camera.measured_min is not None:
        return camera.measured_min
    return DAY_MIN if camera.measured_when == "day and night" else GLANCE_MIN


def _chance_of_events(camera: Camera, mean_mbps: float, assumed: Assumed | None) -> tuple[float, float]:
    """How far the mean may lie below and above a rate that was read for so long, because more or less went on than usual:
    8 in 10 cases, in logarithms. By the model, the rate is one while something goes on and another while nothing does."""
    busy = recorded_share(camera.events_per_h, camera.event_s, 0, 0)
    if busy in (0.0, 1.0) or holds_its_rate(camera):
        return 0.0, 0.0
    still_mbps = estimate_of(camera, assumed, busy_share=0.0).rate.rate_mbps
    still_mbps = min(still_mbps, mean_mbps)
    least, most = share_ends(camera.events_per_h, camera.event_s, 60 * minutes_read(camera))
    quiet, lively = (still_mbps + (mean_mbps - still_mbps) * share / busy for share in (least, most))
    return max(0.0, math.log(lively / mean_mbps)), max(0.0, math.log(mean_mbps / quiet))


def _spread(camera: Camera, model_mbps: float, assumed: Assumed | None, carried: bool) -> tuple[float, float]:
    """Both ends of 8 in 10 cases over a rate that was read: by how it was and for how long, and by the model's error where it
    was carried."""
    table, fit = stream_assumptions(), stream_fit().codecs[stream_assumptions().codecs[camera.codec].model]
    rate = camera.measured_mbps or 1.0
    if camera.measured_low_mbps is not None and camera.measured_high_mbps is not None:
        own = (min(1.0, camera.measured_low_mbps / rate), max(1.0, camera.measured_high_mbps / rate))
    elif camera.measured_when or camera.measured_from:
        own = MEASURED_SPREAD
    else:
        # Nobody said that it was read off the running camera: it may as well be a data sheet's.
        own = (table.low, table.high)
    by_chance = (0.0, 0.0)
    if camera.measured_when and camera.measured_low_mbps is None:
        by_chance = _chance_of_events(camera, model_mbps, assumed)
    steps = carried + 0.5 * (camera.measured_when in ("day", "night"))
    low, high = (
        math.hypot(math.log(end), math.log(error) * steps, chance)
        for end, error, chance in zip(own, (fit.low, fit.high), by_chance, strict=True)
    )
    return math.exp(-low), math.exp(high)
