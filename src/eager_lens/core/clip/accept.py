"""What a clip or a still shows taken into the plan: one edit, of a clip with the settings that it was sent with."""

from __future__ import annotations

from typing import Any

from eager_lens.core.clip.container import ClipRate
from eager_lens.core.clip.still import Still
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Camera, MeasuredWhen, SeenPicture
from eager_lens.core.units import figure


def accept(
    camera: Camera, clip: ClipRate, night: ClipRate | None = None, dark_share: float = 0.5, by_night: bool = False
) -> Edit:
    """Take a clip's rate, range and settings over; with a second clip, the mean of day and night by ``dark_share``.

    The settings are those of the first clip. ``by_night``: whether a clip that is the only one was recorded by night.
    """

    def mean(name: str) -> float:
        by_day: float = getattr(clip, name)
        return by_day if night is None else by_day + (getattr(night, name) - by_day) * dark_share

    source = f"clip {clip.name}, {figure(clip.duration_s)} s"
    if night is not None:
        source += f", and by night {night.name}, {figure(night.duration_s)} s"
    when: MeasuredWhen = "day and night" if night is not None else "night" if by_night else "day"
    fields: dict[str, Any] = {
        "measured_when": when,
        "measured_mbps": mean("rate_mbps"),
        "measured_low_mbps": mean("low_mbps"),
        "measured_high_mbps": mean("high_mbps"),
        "measured_from": source[:200],
        "codec": clip.codec,
        "width_px": clip.width_px,
        "height_px": clip.height_px,
        "fps": clip.fps,
    }
    if clip.key_frame_s is not None:
        fields["key_frame_s"] = clip.key_frame_s
    return set_each(f"Use {clip.name} for {camera.name}", {camera.id: fields})


def seen_in(still: Still) -> SeenPicture:
    """As the job keeps it."""
    return SeenPicture(
        source=still.name[:200],
        width_px=still.width_px,
        detail_log=still.detail_log,
        flat_share=still.flat_share,
        noise_sigma=still.noise_sigma,
    )


def accept_still(camera: Camera, still: Still) -> Edit:
    """Let a camera's assumed rate follow from what the still shows. A measured rate stands as it is."""
    return set_each(f"Use {still.name} for {camera.name}", {camera.id: {"seen": seen_in(still)}})
