"""The tables of sheets for spreadsheets: what is a number on paper is a number there, its unit in the heading.

Sheets hold texts, written as their reader has numbers. Columns of figures stand to the right; in them ``151 of 256`` becomes two
columns, ``15.2 (13.8 TiB)`` too, and ``176 m`` beside ``3 pieces`` a number and its unit. What is no number stays a text.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from eager_lens.core.incoming.cells import Cell
from eager_lens.core.outgoing.formats.sheets import SheetSet, SheetTable
from eager_lens.core.outgoing.formats.table_out import Table
from eager_lens.core.units import PLAIN, NumberStyle

NOTHING = ("", "—", "–")


def handover_tables(sheets: SheetSet, style: NumberStyle = PLAIN) -> list[Table]:
    """The tables of the sheets, for CSV and XLSX: each named by its sheet. ``style``: how numbers are written on the sheets."""
    tables: list[Table] = []
    for sheet in sheets.sheets:
        parts = [block for block in sheet.blocks if isinstance(block, SheetTable) and block.rows]
        for at, block in enumerate(parts, 1):
            name = sheet.title if len(parts) == 1 else f"{sheet.title} {at}"
            columns = [
                part
                for number, column in enumerate(block.columns)
                for part in _columns(
                    column.heading, [row[number] for row in block.rows], column.align == "right", _Numbers(style)
                )
            ]
            rows = tuple(zip(*(column.cells for column in columns), strict=True))
            tables.append(Table(name, tuple(column.heading for column in columns), rows))
    return tables


class _Column(NamedTuple):
    heading: str
    cells: Sequence[Cell]


class _Numbers:
    """Numbers as a style writes them."""

    def __init__(self, style: NumberStyle) -> None:
        self._decimal, self._group = style.decimal, style.group
        groups = rf"(?:{re.escape(style.group)}\d{{3}})*" if style.group else ""
        self.pattern = rf"[-−]?\d+{groups}(?:{re.escape(style.decimal)}\d+)?"

    def value(self, text: str) -> float | int:
        """The number that a text is."""
        bare = text.replace(self._group, "") if self._group else text
        bare = bare.replace(self._decimal, ".").replace("−", "-")
        return float(bare) if "." in bare else int(bare)


def _columns(heading: str, cells: Sequence[str], is_figures: bool, numbers: _Numbers) -> Iterable[_Column]:
    """A column as one or two of numbers."""
    one = numbers.pattern
    if not is_figures:
        return [_Column(heading, cells)]
    told = [cell for cell in cells if cell not in NOTHING]
    pairs = _matched(rf"({one}) of ({one})", told)
    if pairs:
        return _split(heading, f"{heading}: limit", cells, pairs, numbers)
    behind = _matched(rf"({one}) \(({one}) ([^\d()]+)\)", told)
    if behind and len({match[3] for match in behind.values()}) == 1:
        unit = next(iter(behind.values()))[3]
        return _split(heading, f"{heading.rpartition(',')[0] or heading}, {unit}", cells, behind, numbers)
    with_unit = _matched(rf"({one})[ \u2009\u00a0]([^\d\s]\D*)", told)
    if with_unit:
        units = {match[2] for match in with_unit.values()}
        values = [numbers.value(with_unit[cell][1]) if cell in with_unit else "" for cell in cells]
        if len(units) == 1:
            return [_Column(f"{heading}, {next(iter(units))}", values)]
        return [_Column(heading, values), _Column("Unit", [_unit(with_unit.get(cell)) for cell in cells])]
    return [_Column(heading, [_cell(cell, numbers) for cell in cells])]


def _matched(pattern: str, told: Sequence[str]) -> dict[str, re.Match[str]]:
    """The matches of all cells that say anything; none where one does not match."""
    found = {cell: match for cell in told if (match := re.fullmatch(pattern, cell)) is not None}
    return found if len(found) == len(set(told)) else {}


def _split(
    heading: str, second: str, cells: Sequence[str], found: dict[str, re.Match[str]], numbers: _Numbers
) -> Iterable[_Column]:
    for at, words in ((1, heading), (2, second)):
        yield _Column(words, [numbers.value(found[cell][at]) if cell in found else "" for cell in cells])


def _unit(match: re.Match[str] | None) -> str:
    return "" if match is None else match[2]


def _cell(cell: str, numbers: _Numbers) -> Cell:
    if cell in NOTHING:
        return ""
    return numbers.value(cell) if re.fullmatch(numbers.pattern, cell) else cell
