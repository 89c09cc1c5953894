"""A recorder's channels as a job plans them beside the recordings that it told."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from eager_lens.core.commission.act import Act, ByHand, SettingRow
from eager_lens.core.job.make_profiles import profile_of
from eager_lens.core.job.model import Camera, Job, Recorder
from eager_lens.core.site_check.told import Told

TAKES_JOBS = ("recording", "receiver")


def channel_acts(job: Job, recorder: Recorder, told: Told, why_not: Callable[[Camera], str]) -> Iterator[Act | ByHand]:
    """The cameras that are to be registered at a recorder and are not, in the order of their channels.

    Args:
        why_not: why the recorder is not told of a camera; empty where it is.
    """
    takes = told.recordings is not None and all(name in told.services for name in TAKES_JOBS)
    held = {one.address for one in told.recordings or ()}
    for channel, camera in _wanted(job, recorder):
        if camera.address and camera.address in held:
            continue
        profile = profile_of(camera.make, job.make_profiles)
        why = why_not(camera) if takes else "the recorder does not take cameras by the open protocol"
        if why:
            what = f"Channel {channel}: {camera.name}, {camera.address or 'no address'}, open protocol, user {profile.user_name}"
            yield ByHand(kind="channel", what=what, why=why)
            continue
        stream = f"rtsp://{camera.address}:{profile.rtsp_port}/{profile.main_stream_path}"
        row = SettingRow(what=f"channel {channel}", now="none", will_be=f"{camera.name} at {camera.address}")
        values = {"camera": camera.id, "name": camera.name, "stream": stream, "user": profile.user_name}
        yield Act(kind="channel", at=str(channel), settings=(row,), values=values)


def _wanted(job: Job, recorder: Recorder) -> list[tuple[int, Camera]]:
    found = [
        (place.channel, camera)
        for camera in job.cameras
        for place in camera.registered
        if place.recorder == recorder.id
    ]
    return sorted(found, key=lambda one: one[0])
