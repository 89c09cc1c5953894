"""What is known of each camera by itself, taken over from before where neither it nor its schedule changed."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from operator import attrgetter

from eager_lens.core.assess.figures.devices import NO_HOURS, CameraFigures, camera_figures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.incremental.groups import Known
from eager_lens.core.assess.incremental.traits import traits_of
from eager_lens.core.job.changes import Changes
from eager_lens.core.job.model import Camera, Job
from eager_lens.core.pauses import with_pauses
from eager_lens.core.recording.week import Mode

WHO_AND_WHERE = frozenset(
    {"id", "name", "place", "make", "mac_address", "serial", "firmware", "subnet", "address", "note", "registered"}
)
"""Fields by which no figure of a camera goes. All others may: cameras of a large job are set alike in dozens."""

_what_figures_go_by = attrgetter(*(name for name in Camera.model_fields if name not in WHO_AND_WHERE))


def known_cameras(
    job: Job,
    hours: dict[str, dict[Mode, float]],
    before: Facts | None,
    had: Mapping[str, Known],
    since: Changes | None,
) -> dict[str, Known]:
    """What is known of each camera.

    Args:
        hours: by schedule id, its hours a day in each mode.
        before, had: the facts before an edit, and what was known of the cameras then. since: what the edit changed.
    """
    plans = {schedule.id: schedule.plan for schedule in job.schedules}
    assumed = job.assumed.as_assumed()
    alike: dict[Hashable, CameraFigures] = {}

    def known_of(camera: Camera) -> Known:
        key = _what_figures_go_by(camera)
        figures = alike.get(key)
        if figures is None:
            figures = alike[key] = camera_figures(camera, hours.get(camera.schedule, NO_HOURS), assumed)
        return Known(camera, plans.get(camera.schedule), figures, traits_of(camera, figures))

    if before is None or since is None or before.job.assumed != job.assumed:
        return {camera.id: known_of(camera) for camera in with_pauses(job.cameras)}
    if since.cameras is not None and "schedules" not in since.names:
        return {**had, **{camera.id: known_of(camera) for camera in since.cameras}}
    known = {}
    for camera in with_pauses(job.cameras):
        was = had.get(camera.id)
        holds = was is not None and was.camera is camera and was.plan is plans.get(camera.schedule)
        known[camera.id] = was if was is not None and holds else known_of(camera)
    return known
