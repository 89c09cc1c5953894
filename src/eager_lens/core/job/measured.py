"""A measured bit rate holds for the settings at which it was read; a camera that is set otherwise remembers them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from eager_lens.core.job.capping import cap_after
from eager_lens.core.job.model import Camera, StreamSettings, changed

SETTINGS = tuple(StreamSettings.model_fields)


def settings_of(camera: Camera) -> StreamSettings:
    """The settings of a camera's main stream as they are now."""
    return StreamSettings(**{name: getattr(camera, name) for name in SETTINGS})


def with_settings(camera: Camera, fields: Mapping[str, Any]) -> Camera:
    """The camera with some fields changed. Where that changes settings under a measured rate, it keeps those that it was
    measured at, so that the rate can be carried to the new ones and is not taken for measured there.

    Raises:
        RefusedInput: as ``changed``.
    """
    new = changed(camera, **fields)
    new = new.model_copy(update=cap_after(camera, new, fields))
    if "measured_mbps" in fields:
        return new if new.measured_at is None or "measured_at" in fields else changed(new, measured_at=None)
    if camera.measured_mbps is None or camera.measured_at is not None or settings_of(new) == settings_of(camera):
        return new
    return changed(new, measured_at=settings_of(camera))


def measured_elsewhere(camera: Camera) -> StreamSettings | None:
    """The settings at which a camera's rate was measured, where they are not those of now."""
    at = camera.measured_at
    return None if camera.measured_mbps is None or at is None or at == settings_of(camera) else at
