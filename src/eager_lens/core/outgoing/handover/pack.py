"""The pack: everything that is handed over, as files of one folder or of one ZIP."""

from __future__ import annotations

import hashlib
import io
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.model_changes import figures_of
from eager_lens.core.errors import RefusedInput
from eager_lens.core.files import file_name
from eager_lens.core.firm.label_stock import STOCKS, LabelStock
from eager_lens.core.job.file import job_text
from eager_lens.core.outgoing.formats.calendar import calendar_bytes
from eager_lens.core.outgoing.formats.html import handover_html
from eager_lens.core.outgoing.formats.pdf import handover_pdf
from eager_lens.core.outgoing.formats.reader import Reader
from eager_lens.core.outgoing.formats.table_out import csv_bytes, job_tables, parts_table, xlsx_bytes
from eager_lens.core.outgoing.handover.labels import labels_of, labels_pdf
from eager_lens.core.outgoing.handover.left_out import WithoutAddresses
from eager_lens.core.outgoing.handover.modes import MODE_RECORDS, Extras, Mode, sheets_of
from eager_lens.core.outgoing.handover.number_tables import handover_tables
from eager_lens.core.outgoing.handover.printable import date_words, stand_ins
from eager_lens.core.units import PLAIN, numbers_as

SUMS = "SHA256SUMS"


NOBODY, NO_EXTRAS = Reader(), Extras()


@dataclass(frozen=True)
class PackPlan:
    """What goes into a pack.

    Attributes:
        mode: for whom. day: of the sheets. reader: how numbers and dates are written, and the paper. stock: of the labels.
        extras: what stands beside the job. beside: files that are put in as they are, by their names (the diagram, the log,
            photos), where the mode may have them.
    """

    mode: Mode
    day: date
    reader: Reader = NOBODY
    stock: LabelStock = STOCKS[0]
    extras: Extras = NO_EXTRAS
    beside: Mapping[str, bytes] = field(default_factory=dict)


def pack_files(
    assessment: Assessment, plan: PackPlan, step: Callable[[float], None] = lambda share: None
) -> dict[str, bytes]:
    """The files of a pack by their names, with a list of their SHA-256 sums that ``sha256sum -c`` checks.

    ``step`` is told how far it is, and may raise to stop.
    """
    job, record, reader = assessment.job, MODE_RECORDS[plan.mode], plan.reader
    files: dict[str, bytes] = {}
    with numbers_as(reader.style):
        # Findings bear figures too: they are worded again where numbers are written in another way.
        worded = assessment if reader.style is PLAIN else assess(job)
        step(0.05)
        sheets = sheets_of(plan.mode, worded, date_words(reader, plan.day), plan.extras, lambda share: step(0.1))
        # The set bears the job's name as this copy may have it.
        stem = file_name(f"{sheets.title} {record.label.lower()}", "")
        language = reader.locale.replace("_", "-") or "en"
        files[f"{stem}.pdf"] = handover_pdf(
            sheets, lambda share: step(0.1 + 0.6 * share), reader.paper, language, stand_ins(job)
        )
        files[f"{stem}.html"] = handover_html(sheets, reader.paper).encode()
    step(0.75)
    tables = handover_tables(sheets, reader.style)
    if tables:
        files[f"{stem}.xlsx"] = xlsx_bytes(tables, lambda share: step(0.75 + 0.1 * share))
    for table in tables:
        files[f"tables/{file_name(table.name, '.csv')}"] = csv_bytes(table)
    step(0.88)
    if plan.mode != "offer":
        named = WithoutAddresses(job).job(job) if record.without_addresses else job
        files["schedules.ics"] = calendar_bytes(named, plan.day.year)
    if not record.without_addresses:
        files["labels.pdf"] = labels_pdf(labels_of(job), plan.stock)
        files["devices.xlsx"] = xlsx_bytes([*job_tables(job), parts_table(worded.facts)])
        files[file_name(job.name, ".lens.json")] = job_text(job, figures=figures_of(assessment)).encode()
        files |= plan.beside
    step(0.97)
    lines = (f"{hashlib.sha256(data).hexdigest()}  {name}\n" for name, data in sorted(files.items()))
    files[SUMS] = "".join(lines).encode()
    return files


MOST_BYTES = 4 * 2**30 - 2**20


def zipped(files: Mapping[str, bytes], day: date) -> bytes:
    """Files as one ZIP, the same for the same files and day.

    Raises:
        RefusedInput: when they are more than a ZIP holds.
    """
    if sum(map(len, files.values())) > MOST_BYTES:
        raise RefusedInput("photos", "they are too many for a ZIP file; write the pack as a folder")
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            entry = zipfile.ZipInfo(name, (max(1980, day.year), day.month, day.day, 0, 0, 0))
            entry.compress_type = (
                zipfile.ZIP_STORED if name.endswith((".jpg", ".png", ".xlsx")) else zipfile.ZIP_DEFLATED
            )
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, content)
    return data.getvalue()
