"""A clip's measurement taken into the plan: one edit, with the settings that the clip was sent with."""

from __future__ import annotations

from typing import Any

from eager_lens.core.clip.container import ClipRate
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Camera
from eager_lens.core.units import figure


def accept(camera: Camera, day: ClipRate, night: ClipRate | None = None, dark_share: float = 0.5) -> Edit:
    """Take a clip's rate, range and settings over; with a second clip, the mean of day and night by ``dark_share``.

    The settings are those of the day's clip.
    """

    def mean(name: str) -> float:
        by_day: float = getattr(day, name)
        return by_day if night is None else by_day + (getattr(night, name) - by_day) * dark_share

    told = f"clip {day.name}, {figure(day.duration_s)} s"
    if night is not None:
        told += f", and by night {night.name}, {figure(night.duration_s)} s"
    fields: dict[str, Any] = {
        "measured_mbps": mean("rate_mbps"),
        "measured_low_mbps": mean("low_mbps"),
        "measured_high_mbps": mean("high_mbps"),
        "measured_from": told[:200],
        "codec": day.codec,
        "width_px": day.width_px,
        "height_px": day.height_px,
        "fps": day.fps,
    }
    if day.key_frame_s is not None:
        fields["key_frame_s"] = day.key_frame_s
    return set_each(f"Take {day.name} for {camera.name}", {camera.id: fields})
