"""Findings about the list of devices itself."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.figures.devices import CameraFigures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.kept import of_devices, reads
from eager_lens.core.assess.incremental.traits import trait
from eager_lens.core.job.model import Camera
from eager_lens.core.units import count

SAME_NAME = FindingKind("same-name", "wiring")


@reads(*of_devices("name"), judges_by_names=True)
def same_name(facts: Facts) -> Iterator[Finding]:
    """Two devices of one name cannot be told apart in a search, on a label or in a report."""
    names = [device.name for device in facts.devices]
    if len({name.strip().casefold() for name in names}) == len(names):
        return
    by_name: dict[str, list[str]] = {}
    for device in facts.devices:
        by_name.setdefault(device.name.strip().casefold(), []).append(device.id)
    twins = [ids for ids in by_name.values() if len(ids) > 1]
    if twins:
        shared = [facts.name(ids[0]) for ids in twins]
        yield Finding(
            SAME_NAME,
            Severity.WARNING,
            f"{count(len(twins), 'name')} used more than once",
            f"{names_listed(shared)}: these devices cannot be told apart on labels, in a search or in the name of a clip.",
            "Name each after its place, for example “Kiosk till”.",
            tuple(device_id for ids in twins for device_id in ids),
        )


NO_PLACE = FindingKind("no-place", "wiring")


@trait
def has_no_place(camera: Camera, _: CameraFigures) -> bool:
    """Whether nobody can tell where it is."""
    return not camera.place.strip()


def no_place(facts: Facts) -> Iterator[Finding]:
    """A camera without a place is not found on site."""
    lost = facts.having(has_no_place)
    if lost:
        yield Finding(
            NO_PLACE,
            Severity.NOTE,
            f"{count(len(lost), 'camera')} without a place",
            "Lists and sheets are grouped by place, and the next technician will look for it.",
            "Enter the part of the building.",
            tuple(camera.id for camera in lost),
        )


RULES = (same_name, no_place)
