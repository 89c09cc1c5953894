"""What a clip from the recorder proves: that it was found, when it begins, and that it is as the stream was planned."""

from __future__ import annotations

from typing import TYPE_CHECKING

from eager_lens.core.clock.zones import zone_named
from eager_lens.core.job.model import Camera, Job
from eager_lens.core.job.proof import Check
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.units import figure

if TYPE_CHECKING:
    from eager_lens.core.clip.container import ClipRate  # with the library that reads clips

FPS_OFF = 0.5
"""A frame rate counts as planned when it is no farther off."""


def clip_check(test_id: str, camera: Camera, job: Job, name: str, rate: ClipRate, by: str, at: str) -> Check:
    """The result of a test from a clip: ``clip`` (it was found) or ``stream`` (it is as planned).

    Args:
        name: of the clip's file. rate: as it was measured. by, at: who and when.
    """
    labels = stream_assumptions().codec_label
    codec = labels.get(rate.codec, rate.codec)
    seen = f"{codec}, {rate.width_px} × {rate.height_px}, {figure(rate.fps)} fps, {figure(rate.rate_mbps)} Mb/s"
    as_planned = (
        rate.codec == camera.codec
        and (rate.width_px, rate.height_px) == (camera.width_px, camera.height_px)
        and abs(rate.fps - camera.fps) <= FPS_OFF
    )
    zone = zone_named(job.time_zone)
    begun = f"{rate.begun.astimezone(zone):%Y-%m-%d %H:%M:%S}" if rate.begun else "at a time that is not in it"
    value = f"{seen}; {name}" if test_id == "stream" else f"begins {begun}; {name}"
    passed = as_planned or test_id != "stream"
    return Check(
        device=camera.id,
        check=test_id,
        outcome="passed" if passed else "failed",
        by=by[:200],
        at=at,
        value=value[:200],
        how="clip",
    )
