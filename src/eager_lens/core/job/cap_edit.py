"""One edit that holds cameras to their usual maximum bit rates."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import Any

from eager_lens.core.job.capping import lacks_cap, usual_cap_fields
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Camera, Job
from eager_lens.core.units import count, figure


def cap_values(cameras: Iterable[Camera]) -> dict[str, dict[str, Any]]:
    """By id the fields that cap those of the cameras that have no maximum, and were not read below it."""
    return {camera.id: usual_cap_fields(camera) for camera in cameras if lacks_cap(camera)}


def cap_each(cameras: Iterable[Camera]) -> Edit | None:
    """Caps for those of the cameras that want one, named by their figures; None where none does."""
    free = [camera for camera in cameras if lacks_cap(camera)]
    caps = [usual_cap_fields(camera)["cap_mbps"] for camera in free]
    return cap_edit([camera.id for camera in free], caps, free[0].name if len(free) == 1 else "") if free else None


def cap_edit(ids: Collection[str], caps_mbps: Collection[float], name: str = "") -> Edit:
    """The same for cameras whose caps are known; ``name`` is that of the only one. What each gets is looked up when it is done,
    since thousands may be named."""
    label = f"{cap_words(caps_mbps)} on {name or count(len(ids), 'camera')}"

    def apply(job: Job) -> Job:
        wanted = frozenset(ids)
        return set_each(label, cap_values(camera for camera in job.cameras if camera.id in wanted)).apply(job)

    return Edit(label, apply)


def cap_words(caps_mbps: Collection[float]) -> str:
    """As ``Cap at 1 to 4 Mb/s``."""
    least, most = min(caps_mbps), max(caps_mbps)
    return f"Cap at {figure(least)} Mb/s" if least == most else f"Cap at {figure(least)} to {figure(most)} Mb/s"
