"""What a step of work is in the log: the step itself, and what it put on record."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Literal, TypeVar

from eager_lens.core.job.changes import DEVICE_MODELS
from eager_lens.core.job.model import Job
from eager_lens.core.job.proof import Check, Snag
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.reference.acceptance import SITE, acceptance_test
from eager_lens.core.validation import Plain

StepKind = Literal["edit", "undo", "redo"]
P = TypeVar("P", bound=Plain)


def events_of(kind: StepKind, words: str, before: Job, after: Job) -> Iterator[Event]:
    """The events of one step.

    Args:
        kind: how it came about. words: its name. before, after: the job before and after it.
    """
    yield Event(kind, words, changed_devices(before, after))
    names = _Names(after)
    for check in _new(before.checks, after.checks):
        yield _check(check, names)
    for walk in _new(before.walks, after.walks):
        yield Event(
            "measurement",
            f"Walk {'caught' if walk.caught else 'missed'}: {names(walk.camera)}",
            (walk.camera,),
            _values(walk),
        )
    for reading in _new(before.fill_readings, after.fill_readings):
        yield Event(
            "measurement", f"Read the drives of {names(reading.recorder)}", (reading.recorder,), _values(reading)
        )
    for snag in _new(before.snags, after.snags):
        yield _snag(snag, names)


class _Names:
    """The names of a job's devices, looked up when they are first asked for: most steps name none."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self._names: dict[str, str] | None = None

    def __call__(self, device_id: str) -> str:
        if device_id == SITE:
            return "the whole site"
        if self._names is None:
            self._names = {device.id: device.name for device in self._job.devices()}
        return self._names.get(device_id, device_id)


def _check(check: Check, names: Callable[[str], str]) -> Event:
    test = acceptance_test(check.check)
    label = test.label if test else check.check
    values = _values(check)
    if not check.counts:
        return Event("check", f"{label} withdrawn: {names(check.device)}", (check.device,), values)
    if test is not None and test.unit and check.measured is not None:
        values["unit"] = test.unit
    return Event("check", f"{label} {check.outcome}: {names(check.device)}", (check.device,), values, check.photos)


def _snag(snag: Snag, names: Callable[[str], str]) -> Event:
    return Event("snag", f"Snag {snag.state}: {names(snag.device)}", (snag.device,), _values(snag), snag.photos)


def _values(part: Plain) -> dict[str, Any]:
    """The fields of a part that say something."""
    fields = part.model_dump(mode="json", exclude={"photos"}, exclude_defaults=True)
    return {name: value for name, value in fields.items() if isinstance(value, str | int | float | bool)}


def changed_devices(before: Job, after: Job) -> tuple[str, ...]:
    """The ids of devices that are new, gone, or not as they were; parts never change in place, so identity tells."""
    found: dict[str, None] = {}
    for name in DEVICE_MODELS:
        old, new = getattr(before, name), getattr(after, name)
        found.update((part.id, None) for part in (*_new(old, new), *_new(new, old)))
    return tuple(found)


def _new(before: tuple[P, ...], after: tuple[P, ...]) -> Iterator[P]:
    if after is not before:
        known = {id(part) for part in before}
        yield from (part for part in after if id(part) not in known)
