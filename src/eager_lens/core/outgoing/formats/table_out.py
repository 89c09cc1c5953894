"""Tables as CSV and XLSX. Cells that a spreadsheet would take for a formula are made harmless."""

import csv
import io
import re
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.incoming.camera_import import ID_HEADING
from eager_lens.core.incoming.cells import Cell, harmless
from eager_lens.core.job.fields import CAMERA_FIELDS, NETWORK_FIELDS, RECORDER_FIELDS, DeviceField
from eager_lens.core.job.model import Device, Job
from eager_lens.core.plain_text import cleaned
from eager_lens.core.present.parts import parts_list
from eager_lens.core.units import count

MOST_IN_A_CELL = 32_000
"""Workbooks hold no longer text in one cell."""

_SHEET_NAME_TABOO = str.maketrans(dict.fromkeys("[]:*?/\\", " "))


class Table(NamedTuple):
    """A table with a name, headings and rows; numbers stay numbers."""

    name: str
    headings: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]


def csv_bytes(table: Table) -> bytes:
    """One table as CSV (RFC 4180): comma, UTF-8 with a mark at its start so that spreadsheets read it as such."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow([harmless(heading) for heading in table.headings])
    writer.writerows([[harmless(cell) for cell in row] for row in table.rows])
    return text.getvalue().encode("utf-8-sig")


_ZEROS = re.compile(r"0\d+|\d{16,}|\d+[eE]\d+|[\d]+[.,]\d*0")
_DATE = re.compile(r"\d{1,4}[-/]\d{1,2}(?:[-/]\d{1,4})?|\d{1,2}\.\d{1,2}\.\d{2,4}", re.ASCII)


def spoiled_in_csv(table: Table) -> tuple[int, str]:
    """How many texts of a table a spreadsheet changes when it opens the CSV, taking them for numbers or dates; and one of them:
    ``000123`` becomes 123, ``3-4`` a date. A workbook says which cells are texts, and keeps them."""
    found = [
        cell
        for row in table.rows
        for cell in row
        if isinstance(cell, str) and (_ZEROS.fullmatch(cell) or _DATE.fullmatch(cell))
    ]
    return len(found), found[0] if found else ""


def spoiled_words(table: Table) -> str:
    """What to say of that when a CSV is written; empty where nothing is spoiled."""
    many, example = spoiled_in_csv(table)
    if not many:
        return ""
    return f"A spreadsheet program changes {count(many, 'cell')} of this CSV, such as {example}; XLSX keeps them as they are."


def xlsx_bytes(tables: Sequence[Table], step: Callable[[float], None] = lambda share: None) -> bytes:
    """Tables as the sheets of one XLSX workbook, headings bold and kept in sight. ``step`` is told the share that is done,
    and may raise to stop."""
    import openpyxl  # loaded only when something is exported
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    def text(sheet: Any, cell: Cell) -> Any:
        """A text as one: the library takes #N/A and the like for errors, and loses them."""
        if not isinstance(cell, str) or not cell.startswith("#"):
            return cell
        told = WriteOnlyCell(sheet, cell)
        told.data_type = "s"
        return told

    book = openpyxl.Workbook(write_only=False)
    book.remove(book.active)
    for done, table in enumerate(tables):
        sheet = book.create_sheet(table.name.translate(_SHEET_NAME_TABOO)[:31])
        sheet.append(list(table.headings))
        for at, row in enumerate(table.rows):
            sheet.append([text(sheet, _xlsx_cell(cell)) for cell in row])
            if at % 50 == 0:
                step(0.5 * (done + at / len(table.rows)) / len(tables))
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        sheet.freeze_panes = "A2"
        for at, heading in enumerate(table.headings):
            longest = max([len(heading), *(len(str(row[at])) for row in table.rows[:200])])
            sheet.column_dimensions[get_column_letter(at + 1)].width = min(50, longest + 2)
    data = io.BytesIO()
    book.save(data)
    return data.getvalue()


def _xlsx_cell(cell: Cell) -> Cell:
    # Characters that XML cannot hold would make the whole workbook unreadable.
    return harmless(cleaned(cell)[:MOST_IN_A_CELL] if isinstance(cell, str) else cell)


def _device_table(name: str, fields: Sequence[DeviceField], devices: Sequence[Device], job: Job) -> Table:
    """Devices with all their fields, in the form that import reads back; last their ids, by which it knows them again."""
    rows = tuple((*(_cell(field, device, job) for field in fields), device.id) for device in devices)
    return Table(name, (*(field.heading_with_unit for field in fields), ID_HEADING), rows)


def _cell(field: DeviceField, device: Device, job: Job) -> Cell:
    value = getattr(device, field.id, None)
    if field.align == "right" and isinstance(value, int | float) and field.id != "reserve_share":
        return value
    return field.show(device, job)


def camera_table(job: Job) -> Table:
    """All cameras."""
    return _device_table("Cameras", CAMERA_FIELDS, job.cameras, job)


def job_tables(job: Job) -> list[Table]:
    """Cameras, recorders and network devices."""
    return [
        camera_table(job),
        _device_table("Recorders", RECORDER_FIELDS, job.recorders, job),
        _device_table("Network", NETWORK_FIELDS, job.network, job),
    ]


def parts_table(facts: Facts) -> Table:
    """The parts list."""
    rows = tuple((part.group, part.what, part.quantity, part.unit, part.note) for part in parts_list(facts))
    return Table("Parts", ("Group", "What", "Quantity", "Unit", "Note"), rows)
