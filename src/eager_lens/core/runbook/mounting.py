"""The mounting as checklists: which steps of the list each device has, and how far it is.

The list is data: the program's own, or the firm's, kept in the job. What a step asks for before it applies (``when``) is
told of each device here.
"""

from __future__ import annotations

import json
from functools import lru_cache
from importlib import resources
from typing import Any, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.make_profiles import box_minutes, profile_of
from eager_lens.core.job.model import Camera, Device, Job, NetworkDevice, Recorder
from eager_lens.core.job.proof import MountingStep
from eager_lens.core.job.rehearsal import Tick
from eager_lens.core.validation import Plain, read_document_of

FORMAT, VERSION = "eager-lens-mounting-list", 1
BOX_C = (20.0, 30.0)
"""Temperatures at which the time in the box is told."""


class MountingFile(Plain):
    """A list of mounting steps as it goes from firm to firm."""

    format: str
    version: int
    steps: tuple[MountingStep, ...]


class DeviceStep(NamedTuple):
    """A step on a device: its key in the job's ticks, the step, its text for this device, and what was noted."""

    key: str
    step: MountingStep
    text: str
    tick: Tick | None


@lru_cache(maxsize=1)
def usual_steps() -> tuple[MountingStep, ...]:
    """The program's own list."""
    text = resources.files("eager_lens.core.reference").joinpath("mounting.json").read_text("utf-8")
    return tuple(MountingStep.model_validate({**row, "when": tuple(row.get("when", ()))}) for row in json.loads(text))


def steps_of_job(job: Job) -> tuple[MountingStep, ...]:
    """The list that a job goes by."""
    return job.mounting_list or usual_steps()


def traits_of_device(device: Device, assessment: Assessment) -> frozenset[str]:
    """What a step may ask for, of a device."""
    found: set[str] = set()
    if isinstance(device, Camera):
        unit = assessment.facts.fed_by_unit.get(device.id)
        found |= {"camera", "outdoor" if device.outdoor else "indoor"}
        found |= {word for word in (device.housing, device.fixed_to) if word}
        found.add("supply" if device.poe_class is None else "poe")
        if unit is not None and unit.kind == "supply":
            found.add("supply")
        if profile_of(device.make, assessment.job.make_profiles).in_box_min > 0:
            found.add("box set-up")
    elif isinstance(device, NetworkDevice) and device.role == "bridge":
        # A bridge stands where the other end can be seen.
        found |= {"bridge", "outdoor"}
    elif isinstance(device, Recorder):
        found |= {"recorder", "indoor"}
    return frozenset(found)


def applies(step: MountingStep, traits: frozenset[str]) -> bool:
    """Whether a device has a step: of each thing that it asks for, one of its alternatives."""
    return all(any(word.strip() in traits for word in wanted.split("|")) for wanted in step.when)


def steps_on(device: Device, assessment: Assessment) -> list[DeviceStep]:
    """The steps that a device has, with what was noted of each."""
    ticks = {tick.step: tick for tick in assessment.job.mounting}
    return steps_with(device, assessment, ticks)


def steps_with(device: Device, assessment: Assessment, ticks: dict[str, Tick]) -> list[DeviceStep]:
    """As ``steps_on``, with the job's ticks by their key already."""
    traits = traits_of_device(device, assessment)
    found = []
    for step in steps_of_job(assessment.job):
        if applies(step, traits):
            key = f"{device.id}/{step.id}"
            found.append(DeviceStep(key, step, _filled(step.text, device, assessment.job), ticks.get(key)))
    return found


def mounting_minutes(device: Device, assessment: Assessment) -> float:
    """How long the mounting of a device takes, by the list."""
    return sum(one.step.minutes for one in steps_with(device, assessment, {}))


def _filled(text: str, device: Device, job: Job) -> str:
    if "{box}" not in text:
        return text
    profile = profile_of(device.make, job.make_profiles)
    minutes_by_temperature = ", ".join(f"{box_minutes(profile, c):.0f} min at {c:g} °C" for c in BOX_C)
    return text.replace("{box}", minutes_by_temperature)


def mounted_devices(job: Job) -> list[Device]:
    """The devices that are mounted by a list: cameras, bridge ends, recorders."""
    bridges = [device for device in job.network if device.role == "bridge"]
    return [*job.cameras, *bridges, *job.recorders]


def list_text(steps: tuple[MountingStep, ...]) -> str:
    """A list as a file, for a colleague."""
    rows: list[Any] = [step.model_dump(mode="json", exclude_defaults=True) for step in steps]
    return json.dumps({"format": FORMAT, "version": VERSION, "steps": rows}, ensure_ascii=False, indent=1) + "\n"


def list_from_text(text: str) -> tuple[MountingStep, ...]:
    """A list out of a file.

    Raises:
        RefusedInput: naming what is wrong with it.
    """
    found = read_document_of(text, MountingFile, FORMAT, VERSION, "mounting list")
    if not found.steps:
        raise RefusedInput("steps", "the list is empty")
    ids = [step.id for step in found.steps]
    twin = next((one for one in ids if ids.count(one) > 1), None) if len(ids) <= 500 else ids[0]
    if len(ids) > 500:
        raise RefusedInput("steps", f"{len(ids):,} were given; at most 500 are allowed")
    if twin is not None:
        raise RefusedInput("steps", f"the id {twin!r} is used more than once")
    return found.steps
