"""Spare devices: bought, in the store or the van, and part of no plan until they are installed."""

from __future__ import annotations

from collections.abc import Iterable

from eager_lens.core.job.edits import DEVICE_LISTS, Edit, remove_devices, with_parts
from eager_lens.core.job.model import Camera, Device, Job, changed
from eager_lens.core.units import count
from eager_lens.core.validation import Plain


def mark_as_spare(ids: Iterable[str]) -> Edit:
    """Take devices out of the plan and keep them as spares: without links, channels and what was proved of them, with everything
    that they are."""
    wanted = frozenset(ids)

    def apply(job: Job) -> Job:
        spares = {
            f"spare_{name}": (
                *getattr(job, f"spare_{name}"),
                *(_bare(device) for device in getattr(job, name) if device.id in wanted),
            )
            for name in DEVICE_LISTS
        }
        return with_parts(remove_devices(wanted, "").apply(job), **spares)

    return Edit(f"Mark {count(len(wanted), 'device')} as spare", apply)


def install_spares(ids: Iterable[str]) -> Edit:
    """Put spares among the devices of the plan, as they are."""
    wanted = frozenset(ids)

    def apply(job: Job) -> Job:
        lists: dict[str, tuple[Plain, ...]] = {}
        for name in DEVICE_LISTS:
            spares: tuple[Device, ...] = getattr(job, f"spare_{name}")
            lists[name] = (*getattr(job, name), *(one for one in spares if one.id in wanted))
            lists[f"spare_{name}"] = tuple(one for one in spares if one.id not in wanted)
        return with_parts(job, **lists)

    return Edit(f"Install {count(len(wanted), 'spare device')}", apply)


def remove_spares(ids: Iterable[str]) -> Edit:
    """Take spares out of the job altogether."""
    gone = frozenset(ids)

    def apply(job: Job) -> Job:
        lists = {
            f"spare_{name}": tuple(one for one in getattr(job, f"spare_{name}") if one.id not in gone)
            for name in DEVICE_LISTS
        }
        return with_parts(job, **lists)

    return Edit(f"Remove {count(len(gone), 'spare device')}", apply)


def _bare(device: Device) -> Device:
    """A device that is registered nowhere."""
    return changed(device, registered=()) if isinstance(device, Camera) else device
