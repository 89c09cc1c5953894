"""The files of a handover, made off the window's thread: sheets in each format, and the wiring diagram of a pack."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Generator
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.job.model import Job
from eager_lens.core.outgoing.formats.reader import Reader
from eager_lens.core.outgoing.formats.sheets import Drawing, SheetSet
from eager_lens.core.outgoing.formats.table_out import camera_table, csv_bytes, job_tables, xlsx_bytes
from eager_lens.core.outgoing.handover.modes import Extras, Mode, sheets_of
from eager_lens.core.outgoing.handover.number_tables import handover_tables
from eager_lens.core.outgoing.handover.printable import date_words, stand_ins
from eager_lens.core.present.diagram import diagram
from eager_lens.core.units import PLAIN, numbers_as
from eager_lens.desk.asking import PDF, FileKind
from eager_lens.desk.pages.handover.beside import Beside
from eager_lens.desk.theme import look
from eager_lens.desk.wiring_file import wiring_png, wiring_svg

HTML = FileKind("HTML", (".html",))
CSV = FileKind("CSV", (".csv",))
XLSX = FileKind("XLSX workbook", (".xlsx",))

Progress = Callable[[float], None]
Sheets = Callable[[Progress], SheetSet]


class Wanted(NamedTuple):
    """For whom sheets are made, how that reader has numbers, dates and paper, and what a return visit is compared with."""

    mode: Mode
    reader: Reader
    earlier: Path | None = None

    @property
    def compared(self) -> Path | None:
        """The earlier state, where it is asked for."""
        return self.earlier if self.mode == "return visit" else None


def wiring_drawing(assessment: Assessment) -> Generator[float, None, bytes]:
    """The wiring diagram as SVG."""
    return wiring_svg(diagram(assessment), assessment.job.name, look.on_paper())


def with_wiring(extras: Extras, assessment: Assessment, progress: Progress) -> Extras:
    """The same with the drawing of the wiring; none where nothing is connected."""
    if not assessment.job.links:
        return extras
    drawing = wiring_png(diagram(assessment), look.on_paper())
    while True:
        try:
            progress(0.1 * next(drawing))
        except StopIteration as end:
            return replace(extras, wiring=Drawing(end.value, assessment.job.name))


def sheets_maker(wanted: Wanted, assessment: Assessment, beside: Beside) -> Sheets:
    """What makes the sheets that are wanted, as their reader has numbers."""

    def sheets(progress: Progress) -> SheetSet:
        reader = wanted.reader
        worded = assessment if reader.style is PLAIN else assess(assessment.job)
        with numbers_as(reader.style):
            date = date_words(reader, datetime.date.today())
            extras = with_wiring(beside.extras(worded, wanted.compared), worded, progress)
            return sheets_of(wanted.mode, worded, date, extras, progress)

    return sheets


def pdf_of(job: Job, sheets: Sheets, reader: Reader, progress: Progress) -> bytes:
    """Sheets as PDF; names that no font here can print as the devices' numbers."""
    from eager_lens.core.outgoing.formats.pdf import handover_pdf  # loads a layout engine that no other page needs

    language = reader.locale.replace("_", "-") or "en"
    return handover_pdf(sheets(progress), progress, reader.paper, language, stand_ins(job))


def _html(sheets: Sheets, reader: Reader, progress: Progress) -> bytes:
    from eager_lens.core.outgoing.formats.html import handover_html

    return handover_html(sheets(progress), reader.paper).encode("utf-8")


def _xlsx(job: Job, sheets: Sheets, reader: Reader, progress: Progress) -> bytes:
    return xlsx_bytes([*job_tables(job), *handover_tables(sheets(progress), reader.style)], progress)


def _csv(path: Path, job: Job, sheets: Sheets, reader: Reader, progress: Progress) -> dict[Path, bytes]:
    """A CSV holds one table: the camera list under the name that was given, the sheets' tables beside it."""
    files = {path: csv_bytes(camera_table(job))}
    for table in handover_tables(sheets(progress), reader.style):
        name = table.name.lower().replace(" ", "-")
        files[path.with_name(f"{path.stem}-{name}.csv")] = csv_bytes(table)
    return files


MAKERS: dict[FileKind, Callable[[Path, Job, Sheets, Reader, Progress], dict[Path, bytes]]] = {
    PDF: lambda path, job, sheets, reader, progress: {path: pdf_of(job, sheets, reader, progress)},
    HTML: lambda path, job, sheets, reader, progress: {path: _html(sheets, reader, progress)},
    XLSX: lambda path, job, sheets, reader, progress: {path: _xlsx(job, sheets, reader, progress)},
    CSV: lambda path, job, sheets, reader, progress: _csv(path, job, sheets, reader, progress),
}
"""The files of an export, by kind."""
