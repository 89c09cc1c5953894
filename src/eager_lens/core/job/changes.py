"""What differs between two states of a job, by lists and fields, so that only that is calculated again."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.job.model import Camera, Job, NetworkDevice, Recorder
from eager_lens.core.validation import Plain

DEVICE_MODELS: dict[str, type[Plain]] = {"cameras": Camera, "recorders": Recorder, "network": NetworkDevice}
"""The lists whose changes are told field by field, as in ``cameras.name``."""

MOST_TOLD_APART = 500
"""Where more devices than this changed, all fields of their list are taken to have changed."""


class Changes(NamedTuple):
    """What an edit changed.

    Attributes:
        names: fields of the job, and fields of devices as ``list.field``.
        cameras: those that are other objects than before, or None where cameras came, went, moved or are too many.
    """

    names: frozenset[str]
    cameras: tuple[Camera, ...] | None

    def touch(self, reads: frozenset[str]) -> bool:
        """Whether anything of these lists and fields changed."""
        return not self.names.isdisjoint(reads)


def checked_names(*names: str) -> frozenset[str]:
    """Names of lists and fields as ``Changes`` tells them.

    Raises:
        ValueError: when the model has no such list or field.
    """
    for name in names:
        part, _, field = name.partition(".")
        if part not in Job.model_fields or (
            field and (part not in DEVICE_MODELS or field not in DEVICE_MODELS[part].model_fields)
        ):
            raise ValueError(f"a job has no {name!r}")
    return frozenset(names)


def changes(job: Job, before: Job) -> Changes:
    """What differs. The parts of a job never change in place, so that most are compared by identity alone."""
    names: set[str] = set()
    cameras: tuple[Camera, ...] | None = ()
    for name in Job.model_fields:
        new, old = getattr(job, name), getattr(before, name)
        if new is old:
            continue
        names.add(name)
        if name in DEVICE_MODELS:
            changed = _changed(new, old)
            names.update(f"{name}.{field}" for field in _fields(DEVICE_MODELS[name], changed))
            if name == "cameras":
                cameras = None if changed is None else tuple(new for new, _ in changed)
    return Changes(frozenset(names), cameras)


Pairs = list[tuple[Camera, Camera]]


def _changed(new: tuple[Camera, ...], old: tuple[Camera, ...]) -> Pairs | None:
    """The devices that are other objects, each with what it was; None where they are not the same devices in the same order."""
    if len(new) != len(old):
        return None
    pairs = [(one, was) for one, was in zip(new, old, strict=True) if one is not was]
    if len(pairs) > MOST_TOLD_APART or any(one.id != was.id for one, was in pairs):
        return None
    return pairs


def _fields(model: type[Plain], pairs: Pairs | None) -> set[str]:
    if pairs is None:
        return set(model.model_fields)
    return {name for name in model.model_fields for one, was in pairs if getattr(one, name) != getattr(was, name)}
