"""What the streams that were read mean for the days that are kept."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from pydantic import ValidationError

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.job.edits import set_each
from eager_lens.core.job.model import Camera, StreamSettings
from eager_lens.core.reference.streams import CODECS
from eager_lens.core.site_check.readings import CheckRun, KeptDays, StreamRead

MOST_ALONE = 8
"""So many cameras are worked out by themselves, those that differ most first."""

RATE_OFF_SHARE = 0.25
FPS_OFF = 0.5
KEY_FRAME_OFF_SHARE = 0.2
LEAST_DAYS_OFF = 0.1
LARGEST_MBPS = 10_000.0
"""The most that a camera of a job may send."""


def settings_read(camera: Camera, stream: StreamRead) -> dict[str, Any]:
    """The settings of a camera as its stream shows them, where they are other than planned."""
    if stream.outcome != "opened":
        return {}
    found: dict[str, Any] = {}
    if stream.codec in CODECS and stream.codec != camera.codec:
        found["codec"] = stream.codec
    if stream.width_px and (stream.width_px, stream.height_px) != (camera.width_px, camera.height_px):
        found |= {"width_px": stream.width_px, "height_px": stream.height_px}
    if stream.fps and abs(stream.fps - camera.fps) > FPS_OFF:
        found["fps"] = round(stream.fps, 2)
    if stream.key_frame_s and abs(stream.key_frame_s / camera.key_frame_s - 1) > KEY_FRAME_OFF_SHARE:
        found["key_frame_s"] = round(stream.key_frame_s, 2)
    return found if _is_possible(camera, found) else {}


def _is_possible(camera: Camera, settings: Mapping[str, Any]) -> bool:
    """Whether a job can hold these settings: a device may send anything, and then it is told, not worked with."""
    try:
        StreamSettings(**{**{name: getattr(camera, name) for name in StreamSettings.model_fields}, **settings})
    except ValidationError:
        return False
    return True


def rate_is_off(assessment: Assessment, camera: Camera, stream: StreamRead) -> bool:
    """Whether a stream's rate is beyond what the plan takes for possible, by a quarter of it at least."""
    figures = assessment.camera(camera.id)
    high = max(figures.high_mbps, figures.load_mbps) * (1 + RATE_OFF_SHARE)
    return stream.outcome == "opened" and stream.mean_mbps > high


def passes_its_cap(camera: Camera, stream: StreamRead) -> bool:
    """Whether more comes than a maximum lets through, by more than what a look of some seconds may show besides."""
    cap_mbps = cap_of(camera)
    return stream.outcome == "opened" and cap_mbps is not None and stream.mean_mbps > cap_mbps * (1 + CAP_OFF_SHARE)


CAP_OFF_SHARE = 0.1
"""An encoder's buffer lets more through for some seconds."""


def _as_read(camera: Camera, stream: StreamRead, settings: Mapping[str, Any]) -> dict[str, Any]:
    """Fields that make a camera in the plan send what its stream sent."""
    return {**settings, "measured_mbps": stream.mean_mbps, "measured_at": None}


def kept_days(
    assessment: Assessment, run: CheckRun, step: Callable[[float], None] = lambda share: None
) -> tuple[KeptDays, ...]:
    """Days promised with the streams as they were read, for each recorder with a camera whose stream is not as planned."""
    cameras = {camera.id: camera for camera in assessment.job.cameras}
    values: dict[str, dict[str, Any]] = {}
    for read in run.read:
        camera, stream = cameras.get(read.device), read.main
        if camera is None or stream is None or stream.outcome != "opened":
            continue
        if not 0 < stream.mean_mbps <= LARGEST_MBPS:
            continue
        settings = settings_read(camera, stream)
        if settings or rate_is_off(assessment, camera, stream):
            values[camera.id] = _as_read(camera, stream, settings)
    if not values:
        return ()
    by_change = sorted(values, key=lambda one: -abs(values[one]["measured_mbps"] - assessment.camera(one).load_mbps))
    found = list(_days(assessment, values, ""))
    for at, camera_id in enumerate(by_change[:MOST_ALONE]):
        step(at / min(MOST_ALONE, len(by_change)))
        found += _days(assessment, {camera_id: values[camera_id]}, camera_id)
    return tuple(found)


def _days(assessment: Assessment, values: Mapping[str, Mapping[str, Any]], camera_id: str) -> list[KeptDays]:
    after = assess(set_each("As read", values).apply(assessment.job))
    touched = {
        place.recorder for camera in assessment.job.cameras if camera.id in values for place in camera.registered
    }
    found = []
    for recorder in assessment.job.recorders:
        before_days = assessment.recorder(recorder.id).promised_days
        after_days = after.recorder(recorder.id).promised_days
        if recorder.id not in touched or before_days is None or after_days is None:
            continue
        if abs(before_days - after_days) >= LEAST_DAYS_OFF:
            found.append(KeptDays(recorder=recorder.id, camera=camera_id, planned=before_days, found=after_days))
    return found


def settings_at(camera: Camera, stream: StreamRead) -> StreamSettings:
    """The settings under which a stream's rate was read: the plan's, with what the stream shows otherwise."""
    own = {name: getattr(camera, name) for name in StreamSettings.model_fields}
    return StreamSettings(**{**own, **settings_read(camera, stream)})
