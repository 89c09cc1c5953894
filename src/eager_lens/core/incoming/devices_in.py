"""Recorders and network devices out of the tables that this program writes: a job that went out as a workbook comes back."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, TypeVar

from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.camera_import import ID_HEADING, Problem
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.job.fields import DeviceField
from eager_lens.core.job.model import Device, Job, changed

D = TypeVar("D", bound=Device)


def devices_in(table: RawTable, fields: Sequence[DeviceField], blank: D, job: Job) -> tuple[list[D], list[Problem]]:
    """The devices of a table whose headings are this program's own; what cannot be taken of one is told and left at its default.

    Args:
        table: with headings. fields: of these devices. blank: one with an id and a name of its own, for what a row leaves open.
        job: what cells may name.
    """
    by_heading = {field.heading_with_unit: field for field in fields}
    columns = [(at, by_heading[heading]) for at, heading in enumerate(table.rows[0]) if heading in by_heading]
    id_at = next((at for at, heading in enumerate(table.rows[0]) if heading == ID_HEADING), None)
    found: list[D] = []
    problems: list[Problem] = []
    taken = set(job.device_ids())
    for number, row in zip(table.numbers[1:], table.rows[1:], strict=True):
        device = blank
        told = row[id_at].strip() if id_at is not None else ""
        prefix = blank.id.rpartition("-")[0]
        fresh = (f"{prefix}-{at}" for at in range(1, len(taken) + 2) if f"{prefix}-{at}" not in taken)
        device = changed(device, id=told if told and told not in taken else next(fresh))
        taken.add(device.id)
        # A type brings ports and power; what stands in the row beside it counts over that, so it comes later.
        for at, field in columns:
            if row[at]:
                device = _taken(device, field, row[at], number, job, problems)
        found.append(device)
    return found, problems


def _taken(device: D, field: DeviceField, text: str, number: int, job: Job, problems: list[Problem]) -> D:
    try:
        values: dict[str, Any] = field.parse(text, device, job)
        return changed(device, **values)
    except (RefusedInput, ValueError) as error:
        problem = error.problem if isinstance(error, RefusedInput) else str(error)
        problems.append(Problem(number, field.heading, text, problem, True))
        return device
