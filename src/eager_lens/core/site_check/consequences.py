"""What the streams that were read mean for the days that are kept."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from pydantic import ValidationError

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.job.edits import set_each
from eager_lens.core.job.model import Camera, StreamSettings
from eager_lens.core.reference.streams import CODECS
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, StreamRead
from eager_lens.core.site_check.told import ProfileTold


class KeptDays(NamedTuple):
    """Days that a recorder promises: by the plan, and with what was read. ``camera``: with that camera's stream alone."""

    recorder: str
    camera: str
    planned: float
    found: float


MOST_ALONE = 8
"""So many cameras are worked out by themselves, those that differ most first."""

RATE_OFF_SHARE = 0.25
FPS_OFF = 0.5
KEY_FRAME_OFF_SHARE = 0.2
LEAST_DAYS_OFF = 0.1
LARGEST_MBPS = 10_000.0
"""The most that a camera of a job may send."""


def settings_found(camera: Camera, read: DeviceRead) -> dict[str, Any]:
    """As ``settings_unlike``, where a job can hold them."""
    found = settings_unlike(camera, read)
    return found if _is_possible(camera, found) else {}


def settings_unlike(camera: Camera, read: DeviceRead) -> dict[str, Any]:
    """The settings of a camera where they are other than planned: as its stream shows them, and what no stream shows as it is
    set. A maximum that is higher than planned, or none, is among them. A device may tell anything."""
    stream, profile = read.main, main_profile(read)
    found = _settings_told(camera, profile) if profile is not None else {}
    if stream is None or stream.outcome != "opened":
        return found
    cap = {name: value for name, value in found.items() if name in ("cap_mbps", "rate_control")}
    return {**_stream_unlike(camera, stream), **cap}


def main_profile(read: DeviceRead) -> ProfileTold | None:
    """The main stream as a device told that it is set."""
    return read.told.main_and_sub()[0] if read.told is not None else None


def _settings_told(camera: Camera, profile: ProfileTold) -> dict[str, Any]:
    size = (profile.width_px, profile.height_px)
    # The first generation of the media service has no word for H.265, so its H.264 may be either.
    may_be_either = profile.by == "media 1" and (profile.codec, camera.codec) == ("h264", "h265")
    return _unlike(camera, "" if may_be_either else profile.codec, size, profile.fps, profile.key_frame_s) | _cap_told(
        camera, profile
    )


def _unlike(camera: Camera, codec: str, size: tuple[int, int], fps: float, key_frame_s: float | None) -> dict[str, Any]:
    """What of a stream is other than planned; what is zero or None was not told."""
    found: dict[str, Any] = {}
    if codec in CODECS and codec != camera.codec:
        found["codec"] = codec
    if size[0] and size != (camera.width_px, camera.height_px):
        found |= {"width_px": size[0], "height_px": size[1]}
    if fps and abs(fps - camera.fps) > FPS_OFF:
        found["fps"] = round(fps, 2)
    if key_frame_s and abs(key_frame_s / camera.key_frame_s - 1) > KEY_FRAME_OFF_SHARE:
        found["key_frame_s"] = round(key_frame_s, 2)
    return found


def _cap_told(camera: Camera, profile: ProfileTold) -> dict[str, Any]:
    """A maximum that is not the planned one. A lower one than planned costs picture, not days, and is told all the same."""
    planned = cap_of(camera)
    if planned is None:
        return {}
    if profile.cap_mbps is None:
        return {"rate_control": "VBR"}
    if abs(profile.cap_mbps / planned - 1) > CAP_SET_OFF_SHARE:
        return {"cap_mbps": round(profile.cap_mbps, 3)}
    return {}


def settings_read(camera: Camera, stream: StreamRead) -> dict[str, Any]:
    """The settings of a camera as its stream shows them, where they are other than planned."""
    if stream.outcome != "opened":
        return {}
    found = _stream_unlike(camera, stream)
    return found if _is_possible(camera, found) else {}


def _stream_unlike(camera: Camera, stream: StreamRead) -> dict[str, Any]:
    return _unlike(camera, stream.codec, (stream.width_px, stream.height_px), stream.fps, stream.key_frame_s)


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


CAP_SET_OFF_SHARE = 0.05
"""Devices count a maximum in kbit/s, some of 1024 bits, and round it to what they take."""

CAP_OFF_SHARE = 0.1
"""An encoder's buffer lets more through for some seconds."""


def _as_read(camera: Camera, stream: StreamRead, settings: Mapping[str, Any]) -> dict[str, Any]:
    """Fields that make a camera in the plan send what its stream sent."""
    return {**settings, "measured_mbps": stream.mean_mbps, "measured_at": None}


def kept_days(
    assessment: Assessment, run: CheckRun, step: Callable[[float], None] = lambda share: None
) -> tuple[KeptDays, ...]:
    """Days promised with the streams as they were found, for each recorder with a camera whose stream is not as planned."""
    cameras = {camera.id: camera for camera in assessment.job.cameras}
    values: dict[str, dict[str, Any]] = {}
    for read in run.read:
        camera = cameras.get(read.device)
        if camera is not None and (found_values := _values_found(assessment, camera, read)):
            values[camera.id] = found_values
    if not values:
        return ()
    by_change = sorted(values, key=lambda one: -_change_mbps(assessment, one, values[one]))
    found = list(_days(assessment, values, ""))
    for at, camera_id in enumerate(by_change[:MOST_ALONE]):
        step(at / min(MOST_ALONE, len(by_change)))
        found += _days(assessment, {camera_id: values[camera_id]}, camera_id)
    return tuple(found)


def _values_found(assessment: Assessment, camera: Camera, read: DeviceRead) -> dict[str, Any]:
    """What of a camera is not as planned, as fields of a job: its settings, and its rate where it was measured."""
    stream, settings = read.main, settings_found(camera, read)
    if stream is None or stream.outcome != "opened" or not 0 < stream.mean_mbps <= LARGEST_MBPS:
        return settings
    if settings.get("rate_control") == "VBR" and len(settings) == 1:
        # Without its maximum it may send more than a look of some seconds shows: what its settings ask for counts.
        return settings
    return _as_read(camera, stream, settings) if settings or rate_is_off(assessment, camera, stream) else {}


def _change_mbps(assessment: Assessment, camera_id: str, values: Mapping[str, Any]) -> float:
    load_mbps = assessment.camera(camera_id).load_mbps
    return abs(float(values.get("measured_mbps", LARGEST_MBPS)) - load_mbps)


def _days(assessment: Assessment, values: Mapping[str, Mapping[str, Any]], camera_id: str) -> list[KeptDays]:
    after = assess(set_each("As read", values).apply(assessment.job), assessment)
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
            found.append(KeptDays(recorder.id, camera_id, before_days, after_days))
    return found


def settings_at(camera: Camera, stream: StreamRead) -> StreamSettings:
    """The settings under which a stream's rate was read: the plan's, with what the stream shows otherwise."""
    own = {name: getattr(camera, name) for name in StreamSettings.model_fields}
    return StreamSettings(**{**own, **settings_read(camera, stream)})
