"""Cameras by what is asked of them at every edit: by trait, by recorder, by channel."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from eager_lens.core.assess.figures.devices import CameraFigures, Trait
from eager_lens.core.assess.incremental.traits import all_traits
from eager_lens.core.job.changes import Changes, checked_names
from eager_lens.core.job.model import Camera, Job
from eager_lens.core.recording.week import WeekPlan


class Known(NamedTuple):
    """What was told of a camera, and from what: while camera and plan are the same objects, it holds."""

    camera: Camera
    plan: WeekPlan | None
    figures: CameraFigures
    traits: tuple[Trait, ...]


class Groups(NamedTuple):
    """Cameras of a job, each group in the job's order.

    Attributes:
        with_trait: those that have a trait.
        cameras_on, streams_on: by recorder id, those registered there, and their figures.
        held: by recorder id and channel, the ids of those registered there.
        leading_nowhere: once for each place of theirs on a recorder that is not in the job.
    """

    with_trait: dict[Trait, list[Camera]]
    cameras_on: dict[str, list[Camera]]
    streams_on: dict[str, list[CameraFigures]]
    held: dict[str, dict[int, list[str]]]
    leading_nowhere: list[Camera]


def groups_of(job: Job, known: Mapping[str, Known]) -> Groups:
    """The groups of a job."""
    groups = Groups(
        {trait: [] for trait in all_traits()},
        {recorder.id: [] for recorder in job.recorders},
        {recorder.id: [] for recorder in job.recorders},
        {recorder.id: {} for recorder in job.recorders},
        [],
    )
    for camera in job.cameras:
        had = known[camera.id]
        for trait in had.traits:
            groups.with_trait[trait].append(camera)
        for place in camera.registered:
            if place.recorder in groups.held:
                groups.cameras_on[place.recorder].append(camera)
                groups.streams_on[place.recorder].append(had.figures)
                groups.held[place.recorder].setdefault(place.channel, []).append(camera.id)
            else:
                groups.leading_nowhere.append(camera)
    return groups


REGROUPED = checked_names("cameras.registered", "recorders.id", "schedules", "assumed")
"""What decides on which recorder and channel cameras are, or changes the figures of many."""


def groups_after(
    before: Groups, job: Job, known: Mapping[str, Known], had: Mapping[str, Known], since: Changes
) -> Groups:
    """The groups after an edit: those of before but for the cameras that changed.

    Args:
        before, had: the groups before the edit, and what was known of their cameras.
        job, known: the job now, and what is known of its cameras.
        since: what the edit changed.
    """
    if since.cameras is None or since.touch(REGROUPED):
        return groups_of(job, known)
    new = {camera.id: camera for camera in since.cameras}
    traits = {trait for one in new for trait in (*known[one].traits, *had[one].traits)}
    with_trait = before.with_trait | {
        trait: [camera for camera in job.cameras if trait in known[camera.id].traits] for trait in traits
    }
    recorders = {place.recorder for camera in since.cameras for place in camera.registered} & before.held.keys()
    cameras_on = before.cameras_on | {
        one: [new.get(camera.id, camera) for camera in before.cameras_on[one]] for one in recorders
    }
    streams_on = before.streams_on | {
        one: [known[camera.id].figures for camera in cameras_on[one]] for one in recorders
    }
    nowhere = [new.get(camera.id, camera) for camera in before.leading_nowhere]
    return Groups(with_trait, cameras_on, streams_on, before.held, nowhere)
