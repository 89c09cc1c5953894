"""Reading a table of texts out of a CSV, an XLSX or pasted text, whatever its encoding and delimiter."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from eager_lens.core.errors import DamagedFile, FileTrouble, advice_for
from eager_lens.core.job.model import MOST_CAMERAS

LARGEST_TABLE_BYTES = 64 * 2**20
LARGEST_UNPACKED_BYTES = 512 * 2**20
MOST_ROWS = MOST_CAMERAS + 1000
MOST_COLUMNS = 200
MOST_CELL_CHARACTERS = 5000

DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab"}


@dataclass(frozen=True)
class RawTable:
    """Rows of texts as they stood in the file, the first row too; blank rows left out.

    Attributes:
        rows: the cells, trimmed; every row as long as the longest.
        numbers: the row number of each in the file, from 1.
        reading: how the file was read, in words (encoding and delimiter, or sheet name).
    """

    rows: tuple[tuple[str, ...], ...]
    numbers: tuple[int, ...]
    reading: str


def read_table(path: Path) -> RawTable:
    """The table in a CSV, TSV, text or XLSX file, told apart by what is in it and not by its name.

    Raises:
        FileTrouble: when it cannot be read.
        DamagedFile: when it is no table, or larger than any list of cameras.
    """
    try:
        if path.stat().st_size > LARGEST_TABLE_BYTES:
            raise DamagedFile(f"{path} is larger than {LARGEST_TABLE_BYTES // 2**20} MiB and no list of cameras.")
        data = path.read_bytes()
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Reading")) from error
    return table_from_bytes(data, str(path))


def table_from_bytes(data: bytes, name: str) -> RawTable:
    """As ``read_table``, for content already read; ``name`` is used in messages."""
    if data[:4] == b"PK\x03\x04":
        return _from_xlsx(data, name)
    text, encoding = _decoded(data)
    if "\0" in text:
        raise DamagedFile(f"{name} is not a text table (it holds zero bytes); save the list as CSV or XLSX.")
    return table_from_text(text, name, encoding)


def _decoded(data: bytes) -> tuple[str, str]:
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(encoding, errors="replace"), encoding.upper().removesuffix("-SIG")
    try:
        return data.decode("utf-8"), "UTF-8"
    except UnicodeDecodeError:
        # What spreadsheets in western Europe write when they do not write UTF-8; the few bytes that it does not
        # define are kept as question marks rather than refused.
        return data.decode("cp1252", errors="replace"), "Windows-1252"


def table_from_text(text: str, name: str = "the pasted text", encoding: str = "") -> RawTable:
    """The table in a text whose delimiter is found out.

    Raises:
        DamagedFile: when it has no row, or cannot be read as a table at all.
    """
    delimiter = _delimiter_of(text)
    rows: list[tuple[str, ...]] = []
    numbers: list[int] = []
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        for row in reader:
            cells = tuple(_cell(cell) for cell in row[:MOST_COLUMNS])
            if any(cells):
                rows.append(cells)
                numbers.append(reader.line_num)
            if len(rows) > MOST_ROWS:
                raise DamagedFile(
                    f"{name} has more than {MOST_ROWS:,} rows; a job holds at most {MOST_CAMERAS:,} cameras."
                )
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
    text = str(value).strip()[:MOST_CELL_CHARACTERS]
    # The mark that makes a cell harmless to a spreadsheet (see table_out) is not part of the text.
    return text[1:] if len(text) > 1 and text[0] == "'" and text[1] in "=+-@" else text


def _squared(rows: list[tuple[str, ...]], numbers: list[int], name: str, reading: str) -> RawTable:
    if not rows:
        raise DamagedFile(f"{name} holds no rows.")
    # Spreadsheets hand out empty columns behind the last one that is used.
    width = max(at + 1 for row in rows for at, cell in enumerate(row) if cell)
    padded = tuple((row + ("",) * width)[:width] for row in rows)
    return RawTable(padded, tuple(numbers), reading)


def _from_xlsx(data: bytes, name: str) -> RawTable:
    import zipfile  # these take a fifth of a second to load, and most sessions read no XLSX

    import openpyxl

    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(info.file_size for info in archive.infolist()) > LARGEST_UNPACKED_BYTES:
                raise DamagedFile(f"{name} unpacks to more than {LARGEST_UNPACKED_BYTES // 2**20} MiB and is no list.")
        book = openpyxl.load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        rows: list[tuple[str, ...]] = []
        numbers: list[int] = []
        for at, row in enumerate(sheet.iter_rows(max_col=MOST_COLUMNS, max_row=MOST_ROWS + 1, values_only=True), 1):
            cells = tuple(_cell(cell) for cell in row)
            if any(cells):
                rows.append(cells)
                numbers.append(at)
        title = sheet.title
    except DamagedFile:
        raise
    except Exception as error:
        raise DamagedFile(
            f"{name} cannot be read as an XLSX workbook ({type(error).__name__}); save it again, or as CSV."
        ) from error
    if len(rows) > MOST_ROWS:
        raise DamagedFile(f"{name} has more than {MOST_ROWS:,} rows; a job holds at most {MOST_CAMERAS:,} cameras.")
    return _squared(rows, numbers, name, f"sheet “{title}”")
