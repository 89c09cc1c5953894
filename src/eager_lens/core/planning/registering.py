"""Edits that give cameras their recorder and channel, and the book of who holds which channel."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_each, with_parts
from eager_lens.core.job.model import Camera, Job, Recorder, Registration, by_id
from eager_lens.core.units import count


def channels_held(cameras: Iterable[Camera]) -> dict[str, dict[int, list[str]]]:
    """By recorder id and channel: the ids of the cameras registered there (more than one is a fault)."""
    held: dict[str, dict[int, list[str]]] = {}
    for camera in cameras:
        for place in camera.registered:
            held.setdefault(place.recorder, {}).setdefault(place.channel, []).append(camera.id)
    return held


def free_channels(recorder: Recorder, held: dict[str, dict[int, list[str]]]) -> list[int]:
    """The recorder's channels that no camera holds, lowest first."""
    used = held.get(recorder.id, {})
    return [channel for channel in range(1, recorder.channels + 1) if channel not in used]


def fill_the_channels() -> Edit:
    """Give every camera without a recorder the next free channel: first of a recorder in its subnet, else of any.

    Cameras for which no channel is left stay as they are; a finding says so.
    """
    return Edit("Register all cameras", lambda job: with_parts(job, cameras=_filled(job)))


def _filled(job: Job) -> tuple[Camera, ...]:
    held = channels_held(job.cameras)
    free = {recorder.id: free_channels(recorder, held) for recorder in job.recorders}
    filled = []
    for camera in job.cameras:
        if not camera.registered:
            near = [recorder for recorder in job.recorders if camera.subnet and recorder.subnet == camera.subnet]
            target = next((recorder for recorder in (*near, *job.recorders) if free[recorder.id]), None)
            if target is not None:
                place = Registration(recorder=target.id, channel=free[target.id].pop(0))
                camera = camera.model_copy(update={"registered": (place,)})
        filled.append(camera)
    return tuple(filled)


def register_on(job: Job, camera_ids: Sequence[str], recorder_id: str, add: bool = False) -> Edit:
    """Register cameras on a recorder's next free channels, instead of where they were or (``add``) besides.

    Raises:
        RefusedInput: when the recorder is gone or has too few free channels.
    """
    recorder = by_id(job.recorders).get(recorder_id)
    if recorder is None:
        raise RefusedInput("recorder", "that recorder is no longer in the job; select another")
    moving = set(camera_ids)
    already = {
        camera.id
        for camera in job.cameras
        if camera.id in moving and any(place.recorder == recorder_id for place in camera.registered)
    }
    wanted = [camera_id for camera_id in camera_ids if camera_id not in already]
    free = free_channels(recorder, channels_held(job.cameras))
    if len(wanted) > len(free):
        raise RefusedInput(
            "channels",
            f"{recorder.name} has {count(len(free), 'free channel')} for {count(len(wanted), 'camera')}; "
            "select fewer, or a recorder with more channels",
        )
    cameras = by_id(job.cameras)
    values = {}
    for camera_id, channel in zip(wanted, free, strict=False):
        place = Registration(recorder=recorder_id, channel=channel)
        values[camera_id] = {"registered": (*cameras[camera_id].registered, place) if add else (place,)}
    return set_each(f"Register {count(len(wanted), 'camera')} on {recorder.name}", values)


def put_on_channel(job: Job, camera_id: str, recorder_id: str, channel: int) -> Edit:
    """Put a camera on a channel; a camera already there changes places with it."""
    cameras = by_id(job.cameras)
    camera = cameras[camera_id]
    old = next((place for place in camera.registered if place.recorder == recorder_id), None)
    new = Registration(recorder=recorder_id, channel=channel)
    others = tuple(place for place in camera.registered if place is not old) if old else ()
    values = {camera_id: {"registered": (*others, new)}}
    for holder in channels_held(job.cameras).get(recorder_id, {}).get(channel, []):
        if holder != camera_id:
            rest = tuple(
                place
                for place in cameras[holder].registered
                if (place.recorder, place.channel) != (recorder_id, channel)
            )
            values[holder] = {"registered": (*rest, old) if old else rest}
    return set_each(f"Register {camera.name} on channel {channel}", values)


def unregister(camera_ids: Sequence[str], recorder_id: str, job: Job) -> Edit:
    """Take cameras off a recorder."""
    cameras = by_id(job.cameras)
    values = {
        camera_id: {
            "registered": tuple(place for place in cameras[camera_id].registered if place.recorder != recorder_id)
        }
        for camera_id in camera_ids
    }
    return set_each(f"Unregister {count(len(camera_ids), 'camera')}", values)
