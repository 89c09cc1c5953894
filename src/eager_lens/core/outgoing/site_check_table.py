"""A run as a table, for CSV and XLSX."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.incoming.cells import Cell
from eager_lens.core.outgoing.formats.table_out import Table
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.verdicts import Row

HEADINGS = (
    "Device",
    "Address",
    "Planned",
    "Found",
    "Weight",
    "Verdict",
    "Mean, Mb/s",
    "Peak, Mb/s",
    "Frame rate, fps",
    "Read for, s",
    "Clock off, s",
    "Read by",
)


def run_table(rows: Sequence[Row], run: CheckRun) -> Table:
    """The rows of a run, with the figures as numbers."""
    return Table(f"Site check {run.at[:10]}", HEADINGS, tuple(_cells(row, run) for row in rows))


def _cells(row: Row, run: CheckRun) -> tuple[Cell, ...]:
    read = run.of_device(row.device.id) if row.device is not None else None
    main = read.main if read is not None and read.main is not None and read.main.outcome == "opened" else None
    figures: tuple[Cell, ...] = ("", "", "", "")
    if main is not None:
        figures = (round(main.mean_mbps, 3), round(main.peak_mbps, 3), round(main.fps, 2), round(main.read_s, 1))
    clock: Cell = read.clock_off_s if read is not None and read.clock_off_s is not None else ""
    ways = "; ".join(f"{one.what}: {one.value} ({one.way})" for one in row.evidence)
    return (row.name, row.address, row.planned, row.found, row.state, row.verdict, *figures, clock, ways)
