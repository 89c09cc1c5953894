"""Reading a table of texts out of a CSV, an XLSX or pasted text, whatever its encoding and delimiter."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from eager_lens.core.errors import DamagedFile
from eager_lens.core.files import read_whole
from eager_lens.core.incoming.cells import typed_cell
from eager_lens.core.job.most import MOST_CAMERAS
from eager_lens.core.plain_text import cleaned
from eager_lens.core.subprocess_reader import run_in_subprocess

LARGEST_TABLE_BYTES = 24 * 2**20
MOST_ROWS = MOST_CAMERAS + 1000
MOST_COLUMNS = 200
MOST_LINES = 10 * MOST_ROWS
"""Blank lines count here too."""
STEP_ROWS = 500
MOST_CELL_CHARACTERS = 5000

WORKBOOK = b"PK\x03\x04"
"""What the bytes of a workbook begin with: it is a ZIP."""


class NoRows(DamagedFile):
    """A table without a row."""


DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab"}


@dataclass(frozen=True)
class RawTable:
    """Rows of texts as they stood in the file, the first row too; blank rows left out.

    Attributes:
        rows: the cells, trimmed; every row as long as the longest.
        numbers: the row number of each in the file, from 1.
        reading: how the file was read, in words (encoding and delimiter, or sheet name).
        is_workbook: whether it comes from a workbook, where a number is a number and has no marks.
    """

    rows: tuple[tuple[str, ...], ...]
    numbers: tuple[int, ...]
    reading: str
    is_workbook: bool = False


def read_table(path: Path, step: Callable[[float], None] = lambda share: None) -> RawTable:
    """The table in a CSV, TSV, text or XLSX file, told apart by what is in it and not by its name.

    ``step`` is told the share that is read, some times a second; it may raise to stop.

    Raises:
        FileTrouble: when it cannot be read.
        DamagedFile: when it is no table, or larger than any list of cameras.
    """
    return table_from_bytes(read_whole(path, LARGEST_TABLE_BYTES, "list of cameras"), str(path), step)


def table_from_bytes(data: bytes, name: str, step: Callable[[float], None] = lambda share: None) -> RawTable:
    """As ``read_table``, for content already read; ``name`` is used in messages."""
    if data[:4] == WORKBOOK:
        return _from_xlsx(data, name, step)
    text, encoding = decoded(data)
    if "\0" in text:
        raise DamagedFile(f"{name} is not a text table (it contains zero bytes); save the list as CSV or XLSX.")
    return table_from_text(text, name, encoding, step)


def decoded(data: bytes) -> tuple[str, str]:
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(encoding, errors="replace"), encoding.upper().removesuffix("-SIG")
    try:
        return data.decode("utf-8"), "UTF-8"
    except UnicodeDecodeError:
        # What spreadsheets in western Europe write when they do not write UTF-8; the few bytes that it does not
        # define are kept as question marks rather than refused.
        return data.decode("cp1252", errors="replace"), "Windows-1252"


def table_from_text(
    text: str,
    name: str = "the pasted text",
    encoding: str = "",
    step: Callable[[float], None] = lambda share: None,
) -> RawTable:
    """The table in a text whose delimiter is found out.

    Raises:
        DamagedFile: when it has no row, or cannot be read as a table at all.
    """
    if len(text) > LARGEST_TABLE_BYTES:
        raise DamagedFile(
            f"{name} is longer than {LARGEST_TABLE_BYTES // 2**20} million characters, too long for a list of cameras."
        )
    delimiter = _delimiter_of(text)
    rows: list[tuple[str, ...]] = []
    numbers: list[int] = []
    source = io.StringIO(text, newline="")
    reader = csv.reader(source, delimiter=delimiter)
    try:
        for row in reader:
            cells = tuple(_cell(cell) for cell in row[:MOST_COLUMNS])
            if any(cells):
                rows.append(cells)
                numbers.append(reader.line_num)
            if len(rows) > MOST_ROWS or reader.line_num > MOST_LINES:
                raise _too_long(name)
            if reader.line_num % STEP_ROWS == 0:
                step(min(1.0, source.tell() / max(1, len(text))))
    except csv.Error as error:
        raise DamagedFile(f"{name}, line {reader.line_num}: {error}; save the list as CSV or XLSX again.") from None
    reading = f"{DELIMITERS[delimiter]} between columns" + (f", {encoding}" if encoding else "")
    return _squared(rows, numbers, name, reading)


def _delimiter_of(text: str) -> str:
    """The delimiter that cuts the first lines into most columns, the same number in each."""
    lines = [line for line in text[:100_000].splitlines() if line.strip()][:20]

    def score(delimiter: str) -> tuple[int, int]:
        try:
            widths = [len(row) for row in csv.reader(lines, delimiter=delimiter)]
        except csv.Error:
            return (0, 0)
        usual = max(set(widths), key=widths.count) if widths else 0
        return (widths.count(usual) if usual > 1 else 0, usual)

    return max(DELIMITERS, key=score)


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    text = cleaned(str(value)[: 2 * MOST_CELL_CHARACTERS].strip()[:MOST_CELL_CHARACTERS])
    return typed_cell(text)


def _squared(rows: list[tuple[str, ...]], numbers: list[int], name: str, reading: str) -> RawTable:
    if not rows:
        raise NoRows(f"{name} has no rows.")
    # Spreadsheets hand out empty columns behind the last one that is used.
    width = max(at + 1 for row in rows for at, cell in enumerate(row) if cell)
    padded = tuple((row + ("",) * width)[:width] for row in rows)
    return RawTable(padded, tuple(numbers), reading)


def heading_parts(heading: str) -> tuple[str, str]:
    """A heading's words, and the unit behind them in brackets or after a comma: ``Price (EUR)``, ``Cable, m``."""
    text = heading.strip()
    whole = text[:-1] if text.endswith((")", "]")) else text
    closed = max(whole.rfind(")"), whole.rfind("]"))
    opens = min((at for at in (whole.find("(", closed + 1), whole.find("[", closed + 1)) if at >= 0), default=-1)
    if opens >= 0:
        return whole[:opens].strip(), whole[opens + 1 :].strip()
    before, comma, after = text.rpartition(",")
    return (before.strip(), after.strip()) if comma and after.strip() else (text, "")


def sheet_named(data: bytes, name: str, title: str) -> RawTable | None:
    """Another sheet of a workbook, by its title; None where there is none, or it has no row, or this is no workbook.

    Raises:
        DamagedFile: when the workbook cannot be read.
    """
    if data[:4] != WORKBOOK:
        return None
    try:
        return _from_xlsx(data, name, lambda share: None, title)
    except NoRows:
        return None


def _from_xlsx(data: bytes, name: str, step: Callable[[float], None], title: str = "") -> RawTable:
    found, title = run_in_subprocess(
        "eager_lens.core.incoming.workbook:workbook_rows",
        *(data, name, MOST_ROWS, MOST_COLUMNS, title),
        step=step,
        what=name,
    )
    rows: list[tuple[str, ...]] = []
    numbers: list[int] = []
    for at, row in enumerate(found, 1):
        cells = tuple(_cell(cell) for cell in row)
        if any(cells):
            rows.append(cells)
            numbers.append(at)
    if len(rows) > MOST_ROWS:
        raise _too_long(name)
    return replace(_squared(rows, numbers, name, f"sheet “{title}”"), is_workbook=True)


def _too_long(name: str) -> DamagedFile:
    return DamagedFile(f"{name} has more than {MOST_ROWS:,} rows; a job holds at most {MOST_CAMERAS:,} cameras.")
