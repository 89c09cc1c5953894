"""Rows out of an XLSX workbook. Runs in a process of its own (``subprocess_reader``): what reads it bears anything but time."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable

from eager_lens.core.errors import DamagedFile

LARGEST_UNPACKED_BYTES = 160 * 2**20
MOST_PARTS = 2000
MOST_CELLS = 20_000_000
"""A sheet with one cell at its far corner is taken to be as large as that."""


def workbook_rows(
    data: bytes, name: str, most_rows: int, most_columns: int, title: str = "", *, step: Callable[[float], None]
) -> tuple[list[tuple[object, ...]], str]:
    """The rows of a sheet (the first, or the one of this title), blank ones too, up to one more than there may be; and its name.
    No rows where there is no sheet of that title.

    Raises:
        DamagedFile: when it is no workbook that can be read, or unpacks to more than any list.
    """
    from python_calamine import CalamineError, CalamineWorkbook

    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            parts = archive.infolist()
            if sum(part.file_size for part in parts) > LARGEST_UNPACKED_BYTES or len(parts) > MOST_PARTS:
                raise DamagedFile(
                    f"{name} unpacks to more than {LARGEST_UNPACKED_BYTES // 2**20} MiB, too much for a list."
                )
        step(0.05)
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        if not book.sheet_names:
            raise DamagedFile(f"{name} has no sheet.")
        if title and title not in book.sheet_names:
            return [], title
        sheet = book.get_sheet_by_name(title) if title else book.get_sheet_by_index(0)
        if sheet.total_height > MOST_CELLS // max(1, sheet.total_width):
            raise DamagedFile(
                f"{name} has {sheet.total_height:,} rows of {sheet.total_width:,} cells, too many for a list."
            )
        step(0.5)
        rows: list[tuple[object, ...]] = []
        for row in sheet.iter_rows():
            rows.append(tuple(_plain(cell) for cell in row[:most_columns]))
            if len(rows) > most_rows:
                break
        return rows, title or str(book.sheet_names[0])
    except (CalamineError, zipfile.BadZipFile, ValueError, KeyError, OSError, EOFError, NotImplementedError) as error:
        raise DamagedFile(
            f"{name} cannot be read as an XLSX workbook ({type(error).__name__}); save it again, or as CSV."
        ) from error


def _plain(cell: object) -> object:
    """A cell as a value that goes from one process to another: numbers stay numbers, all else becomes text."""
    return cell if cell is None or isinstance(cell, str | int | float) else str(cell)
