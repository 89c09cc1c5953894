"""Maximum bit rates that cameras are planned with until somebody types one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from eager_lens.core.job.model import Camera
from eager_lens.core.reference.caps import usual_cap_mbps
from eager_lens.core.sizing.control import CAPPED

FOLLOWED = ("width_px", "height_px", "fps", "codec", "scene")
"""What the usual maximum depends on."""


def usual_cap_of(camera: Camera) -> float | None:
    """The usual maximum of a camera's main stream in Mb/s; None where one is not usual."""
    return usual_cap_mbps(camera.width_px, camera.height_px, camera.fps, camera.codec, camera.scene)


def usual_cap_fields(camera: Camera) -> dict[str, Any]:
    """The fields that hold a camera to its usual maximum, in the mode that it has where that has one; none where none is usual."""
    cap_mbps = usual_cap_of(camera)
    if cap_mbps is None:
        return {}
    control = camera.rate_control if camera.rate_control in CAPPED else "capped VBR"
    return {"rate_control": control, "cap_mbps": cap_mbps, "cap_assumed": True}


def lacks_cap(camera: Camera) -> bool:
    """Whether a camera has no maximum where one is usual, and was not read below it."""
    if camera.rate_control in CAPPED and camera.cap_mbps is not None:
        return False
    cap_mbps = usual_cap_of(camera)
    return cap_mbps is not None and (camera.measured_mbps is None or camera.measured_mbps > cap_mbps)


def capped(camera: Camera) -> Camera:
    """The camera held to its usual maximum."""
    return camera.model_copy(update=usual_cap_fields(camera))


def cap_of_new(camera: Camera, given: Iterable[str]) -> Camera:
    """A new camera with what nobody gave: a cap where no mode without one and no rate was given."""
    given = set(given)
    if given & {"cap_mbps", "measured_mbps"}:
        if "rate_control" not in given and camera.cap_mbps is not None:
            return camera.model_copy(update={"rate_control": "capped VBR"})
        return camera
    return camera if "rate_control" in given and camera.rate_control not in CAPPED else capped(camera)


def cap_after(camera: Camera, new: Camera, fields: Mapping[str, Any]) -> dict[str, Any]:
    """What else changes of the cap when fields of a camera change: one that is typed is no assumption any more, a mode that needs
    one gets the usual one, and an assumed one follows what it depends on."""
    if "cap_assumed" in fields:
        return {}
    if "cap_mbps" in fields:
        return {"cap_assumed": False}
    if "rate_control" in fields and new.rate_control in ("capped VBR", "CBR") and new.cap_mbps is None:
        return usual_cap_fields(new)
    if camera.cap_assumed and any(name in fields for name in FOLLOWED):
        cap_mbps = usual_cap_of(new)
        return {"cap_mbps": cap_mbps, "cap_assumed": cap_mbps is not None}
    return {}
