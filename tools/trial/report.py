"""The one table that a trial ends with."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple


class Row(NamedTuple):
    """One thing that was tried: how often, how often it failed, the first failure with its seed, and what was measured."""

    name: str
    tried: int
    failed: int
    first: str = ""
    measured: str = ""
    timed: bool = False
    """Whether it depends on the machine's pace, and on what else runs on it."""


class Failures:
    """Counts failures and keeps the first."""

    def __init__(self) -> None:
        self.count = 0
        self.first = ""

    def add(self, what: str) -> None:
        """One more."""
        self.count += 1
        self.first = self.first or what


def table(rows: Iterable[Row]) -> str:
    """Rows as a table for a terminal, and for a page of docs as it is."""
    lines = [("what", "tried", "failed", "measured", "first failure")]
    lines += [(row.name, f"{row.tried:,}", f"{row.failed:,}", row.measured, row.first[:200]) for row in rows]
    widths = [max(len(line[at]) for line in lines) for at in range(4)]
    return "\n".join(_line(line, widths) for line in [lines[0], tuple("-" * w for w in (*widths, 13)), *lines[1:]])


def _line(cells: Sequence[str], widths: Sequence[int]) -> str:
    sides = ("<", ">", ">", "<")
    shown = [f"{cell:{side}{width}}" for cell, side, width in zip(cells, sides, widths, strict=False)]
    return "| " + " | ".join([*shown, cells[4]]) + " |"


def percentile(values: Sequence[float], share: float) -> float:
    """The value below which so large a share lies; 0 without values."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))] if ordered else 0.0
