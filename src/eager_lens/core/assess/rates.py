"""A camera's bit rate: measured, entered, carried from the settings at which it was measured, set, or estimated."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

from eager_lens.core.job.measured import measured_elsewhere
from eager_lens.core.job.model import Camera, changed
from eager_lens.core.recording.clips import recorded_share
from eager_lens.core.reference.stream_fit import stream_fit
from eager_lens.core.reference.streams import Scene, stream_assumptions
from eager_lens.core.sizing.control import Sent, sent
from eager_lens.core.sizing.rate import Assumed, Estimated, Seen, StreamRate, estimate

Origin = Literal["plan", "assumed", "entered", "measured", "worked out"]

MEASURED_SPREAD = (0.9, 1.15)
"""A rate read off a device is a moment's rate; its own spread is far smaller than that of a guess."""

MOST_DEMANDING = "yard-dark"
"""The kind of view that costs most; it stands for one that is not known."""


class Rate(NamedTuple):
    """What a camera's main stream sends, where that comes from, and what the picture would ask for by the model."""

    sent: Sent
    origin: Origin
    asked: StreamRate


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


def estimate_of(camera: Camera, assumed: Assumed | None = None) -> Estimated:
    """The same, with what makes it uncertain."""
    seen = camera.seen
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
        recorded_share(camera.events_per_h, camera.event_s, 0, 0),
    )


def sent_by(camera: Camera, asked: StreamRate) -> Sent:
    """What a camera sends by the model, under its rate control."""
    moving = recorded_share(camera.events_per_h, camera.event_s, 0, 0) if camera.rate_control == "smart codec" else 0.0
    return sent(asked, camera.rate_control, camera.cap_mbps, moving)


def rate_of(camera: Camera, assumed: Assumed | None = None) -> Rate:
    """The rate of a camera.

    A rate read by day or by night only has its other half from the model. One that was measured at other settings is carried
    to those of now by the model's ratio, and is an estimate then.
    """
    asked = assumed_rate_of(camera, assumed)
    model = sent_by(camera, asked)
    if camera.measured_mbps is None:
        return Rate(model, "plan" if holds_its_rate(camera) else "assumed", asked)
    elsewhere, at = measured_elsewhere(camera), model
    if elsewhere is not None:
        other = changed(camera, **elsewhere.model_dump())
        at = sent_by(other, assumed_rate_of(other, assumed))
    by_model = {"day": at.day_mbps, "night": at.night_mbps}.get(camera.measured_when, at.mean_mbps)
    mean = camera.measured_mbps * (model.mean_mbps / by_model)
    low, high = _spread(camera, carried=elsewhere is not None)
    day, night = (each * mean / model.mean_mbps for each in (model.day_mbps, model.night_mbps))
    origin: Origin = "measured"
    if elsewhere is not None:
        origin = "assumed"
    elif not camera.measured_when and not camera.measured_from:
        origin = "entered"
    return Rate(Sent(mean, mean * low, mean * high, max(day, night) * high, day, night), origin, asked)


def _spread(camera: Camera, carried: bool) -> tuple[float, float]:
    """Both ends of 8 in 10 cases over a rate that was read: by how it was, and by the model's error where it was carried."""
    table, fit = stream_assumptions(), stream_fit().codecs[stream_assumptions().codecs[camera.codec].model]
    rate = camera.measured_mbps or 1.0
    if camera.measured_low_mbps is not None and camera.measured_high_mbps is not None:
        own = (min(1.0, camera.measured_low_mbps / rate), max(1.0, camera.measured_high_mbps / rate))
    elif camera.measured_when or camera.measured_from:
        own = MEASURED_SPREAD
    else:
        # Nobody said that it was read off the running camera: it may as well be a data sheet's.
        own = (table.low, table.high)
    steps = carried + 0.5 * (camera.measured_when in ("day", "night"))
    low, high = (
        math.hypot(math.log(end), *([math.log(error) * steps] if steps else []))
        for end, error in zip(own, (fit.low, fit.high), strict=True)
    )
    return math.exp(-low), math.exp(high)
