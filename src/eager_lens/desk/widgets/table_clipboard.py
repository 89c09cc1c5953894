"""Cells of a table on the clipboard: copied as a spreadsheet takes them, and pasted as one edit."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.errors import EagerLensError
from eager_lens.core.incoming.cells import pasted_cell, typed_cell
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.model import Job
from eager_lens.core.units import count
from eager_lens.desk.widgets.record_model import GroupRow, RecordModel, TableColumn


def copied(records: RecordModel, rows: Sequence[int]) -> str:
    """Rows with headings, cells apart by tabs."""
    lines = [[records.heading(column) for column in records.columns]]
    for row in rows:
        cells = (str(records.index(row, at).data() or "") for at in range(records.columnCount()))
        lines.append([pasted_cell(cell) for cell in cells])
    return "\n".join("\t".join(line) for line in lines)


def cells_of(text: str) -> list[list[str]]:
    """The cells of a pasted text, line by line."""
    return [[typed_cell(cell) for cell in line.split("\t")] for line in text.rstrip("\r\n").splitlines()]


def is_list(lines: list[list[str]], records: RecordModel) -> bool:
    """Whether a pasted block begins with headings: then it is a list of its own."""
    known = {column.heading.lower() for column in records.columns} | {"name", "camera", "ip", "address"}
    cells = [cell.strip().lower() for cell in lines[0]]
    return len(lines) > 1 and sum(cell.split(",")[0] in known for cell in cells) >= max(1, len(cells) // 2)


def block_edit(records: RecordModel, row: int, column: int, lines: list[list[str]]) -> Edit:
    """One edit for a block of cells from a cell on; any cell that cannot be taken refuses the whole, and nothing has changed.

    Raises:
        EagerLensError: when the block has more lines than rows are left.
    """
    rows = [r for r in range(row, records.rowCount()) if not isinstance(records.at(r), GroupRow)]
    if len(lines) > len(rows):
        raise EagerLensError(
            f"{count(len(lines), 'row')} pasted, but only {count(len(rows), 'row')} left below; include the headings to add "
            "rows"
        )
    ids = [records.at(one).id for one in rows[: len(lines)]]

    def apply(job: Job) -> Job:
        for part_id, cells in zip(ids, lines, strict=True):
            for offset, cell in enumerate(cells):
                at = column + offset
                if at < len(records.columns):
                    job = _typed(records.columns[at], part_id, cell, job)
        return job

    return Edit(f"Paste {count(len(lines), 'row')}", apply)


def _typed(column: TableColumn, part_id: str, text: str, job: Job) -> Job:
    """The job after a text was typed for one part; columns that are worked out are passed over."""
    if column.edit is None:
        return job
    lists = (job.cameras, job.recorders, job.network, job.subnets, job.schedules, job.links, job.power_units)
    part = next((part for parts in lists for part in parts if part.id == part_id), None)
    return job if part is None else column.edit([part], text, job).apply(job)
