"""From file to file between the open formats, told apart by file ending."""

from __future__ import annotations

import datetime
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.model_changes import figures_of
from eager_lens.core.errors import FileTrouble, RefusedInput, advice_for
from eager_lens.core.files import read_whole, set_aside, write_whole
from eager_lens.core.incoming.camera_import import Column, Problem, guess_mapping, kinds_of_trouble, read_cameras
from eager_lens.core.incoming.devices_in import devices_in
from eager_lens.core.incoming.number_marks import Decimal, decimal_words
from eager_lens.core.incoming.table_in import LARGEST_TABLE_BYTES, sheet_named, table_from_bytes
from eager_lens.core.job.edits import with_parts
from eager_lens.core.job.fields import NETWORK_FIELDS, RECORDER_FIELDS
from eager_lens.core.job.file import ENDING, LARGEST_FILE_BYTES, job_from_text, job_text, read_job, write_job
from eager_lens.core.job.model import Job, NetworkDevice, Recorder, changed
from eager_lens.core.outgoing.formats.reader import Reader
from eager_lens.core.outgoing.formats.table_out import camera_table, csv_bytes, job_tables, spoiled_words, xlsx_bytes
from eager_lens.core.outgoing.handover.modes import sheets_of
from eager_lens.core.outgoing.handover.printable import date_words, stand_ins, warning
from eager_lens.core.records.sealed.vault import sealed_path
from eager_lens.core.scan.recognising import is_scan

READS = (ENDING, ".csv", ".tsv", ".txt", ".xlsx")
STANDARD = Path("-")
"""Standard input or output in place of a file."""

WRITES = (ENDING, ".csv", ".xlsx", ".html", ".pdf")


class Options(NamedTuple):
    """How a conversion is to be done: whether a target may be replaced, what kinds the files are where their names do not say it,
    and the decimal mark of a list whose columns do not show it."""

    replace: bool = False
    from_ending: str = ""
    to_ending: str = ""
    decimal: Decimal | None = None


class Loaded(NamedTuple):
    """A job out of a file. ``troubles``: what of a list could not be taken, or not for certain, one sentence for each kind.
    ``is_whole``: no row was left out and no number guessed; cells that name what a new job does not have do not count. ``hint``:
    what is to be known of what was written."""

    job: Job
    troubles: tuple[str, ...] = ()
    is_whole: bool = True
    hint: str = ""


def load(path: Path, ending: str = "", decimal: Decimal | None = None) -> Loaded:
    """The job in a job file, or a new job with the cameras of a list.

    Args:
        path: ``-`` for standard input. ending: what kind it is, where the name does not say it. decimal: the mark of decimals in a
            list where its columns do not show it; None: a guess, which is told.

    Raises:
        EagerLensError: when the file cannot be read or is of no known kind.
    """
    if path == STANDARD:
        return _loaded(
            sys.stdin.buffer.read(LARGEST_FILE_BYTES + 1), "standard input", ending, "Standard input", decimal
        )
    name = ending or path.name.lower()
    if name.endswith((ENDING, ".json")):
        return Loaded(read_job(path).job)
    if not name.endswith(READS):
        raise RefusedInput("", f"{path}: the file ending must be one of {', '.join(READS)}")
    return _from_list(read_whole(path, LARGEST_TABLE_BYTES, "list of cameras"), str(path), path.stem, decimal)


def _loaded(data: bytes, name: str, ending: str, title: str, decimal: Decimal | None) -> Loaded:
    """As ``load``, for what was read already; a job is told from a list by its first character."""
    if len(data) > LARGEST_FILE_BYTES:
        raise RefusedInput("", f"{name} is larger than any job")
    if ending.endswith(".json") or (not ending and data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"{")):
        return Loaded(job_from_text(data.decode("utf-8-sig", "replace")))
    return _from_list(data, name, title, decimal)


def _from_list(data: bytes, name: str, title: str, decimal: Decimal | None) -> Loaded:
    """A new job of a list of cameras; of a workbook that this program wrote, with its recorders and network devices."""
    table = table_from_bytes(data, name)
    job = Job(name=title[:200] or "New job")
    if is_scan(table, job):
        raise RefusedInput(
            "", f"{name} is a scan list, not a camera list; open a job and compare it under Addresses, Compare a scan"
        )
    job, beside = _with_others(job, data, name)
    mapping = guess_mapping(table)
    unsure = mapping.unsure
    if decimal is not None:
        for at in unsure:
            mapping = mapping.with_decimal(decimal, at)
        unsure = ()
    result = read_cameras(table, mapping, job)
    if not result.cameras:
        trouble = f" {result.problems[0].sentence()}" if result.problems else ""
        raise RefusedInput("", f"{name} has no camera that could be imported.{trouble}")
    guessed = (unsure_words(mapping.columns[at]) for at in unsure)
    troubles = (*kinds_of_trouble([*beside, *result.problems]), *guessed)
    return Loaded(_with_ids(result.edit().apply(job), result.ids), troubles, not (result.left_out or unsure))


def _with_others(job: Job, data: bytes, name: str) -> tuple[Job, list[Problem]]:
    problems: list[Problem] = []
    for sheet, fields, blank in (
        ("Recorders", RECORDER_FIELDS, Recorder(id="rec-1", name="Recorder")),
        ("Network", NETWORK_FIELDS, NetworkDevice(id="net-1", name="Device")),
    ):
        table = sheet_named(data, name, sheet)
        if table is not None:
            devices, troubles = devices_in(table, fields, blank, job)
            job = with_parts(job, **{sheet.lower(): tuple(devices)})
            problems += troubles
    return job, problems


def _with_ids(job: Job, told: Sequence[str]) -> Job:
    """The job's cameras under the ids that the list gave them, where these are their own."""
    others = {device.id for device in (*job.network, *job.recorders)}
    ids = [one if one and one not in others else camera.id for one, camera in zip(told, job.cameras, strict=True)]
    if len(set(ids)) != len(ids):
        return job
    return with_parts(job, cameras=tuple(changed(one, id=new) for one, new in zip(job.cameras, ids, strict=True)))


def unsure_words(column: Column) -> str:
    """What was made of a column whose decimal mark nothing shows."""
    assert column.marks is not None
    read = dict(decimal_words(column.marks.example))[column.marks.decimal]
    which = column.marks.example or "numbers"
    return f"{column.heading}: {which} is ambiguous and was read as {read}; use --decimal to choose."


def convert(source: Path, target: Path, reader: Reader, options: Options) -> Loaded:
    """Write what is in ``source`` as ``target``; returns what was read, with what could not be taken.

    Raises:
        EagerLensError: when either cannot be read or written; the target is then as it was. A target that is there is refused
            unless it may be replaced; the previous version of a job is kept then.
    """
    ending = options.to_ending or (ENDING if target == STANDARD else target.name.lower())
    if not ending.endswith(WRITES):
        raise RefusedInput("", f"{target}: the file ending must be one of {', '.join(WRITES)}")
    if target != STANDARD:
        require_free(target, options.replace)
    loaded = load(source, options.from_ending, options.decimal)
    if target == STANDARD:
        sys.stdout.flush()
        sys.stdout.buffer.write(rendered(loaded.job, ending, reader))
        return loaded
    if ending.endswith(ENDING):
        write_job(target, loaded.job, None, force=options.replace, figures=figures_of(assess(loaded.job)))
        # Its devices' ids may be those of the job before, which would lend them its passwords.
        set_aside(sealed_path(target, ENDING))
        return loaded
    data = rendered(loaded.job, ending, reader)
    try:
        write_whole(target, data)
    except OSError as error:
        raise FileTrouble(advice_for(error, target, "Writing")) from error
    if ending.endswith(".csv"):
        return loaded._replace(hint=spoiled_words(camera_table(loaded.job)))
    return loaded._replace(hint=warning(loaded.job)) if ending.endswith(".pdf") else loaded


def require_free(target: Path, replace: bool) -> None:
    """That a command does not write over what is there without being told to.

    Raises:
        RefusedInput: when a file is there and may not be replaced.
    """
    if not replace and (target.exists() or target.is_symlink()):
        raise RefusedInput("", f"{target} exists already and was left as it is; use --replace to overwrite it")


def rendered(job: Job, ending: str, reader: Reader) -> bytes:
    """A job in the format that a file name's ending asks for."""
    if ending.endswith(ENDING):
        return job_text(job, figures=figures_of(assess(job))).encode("utf-8")
    if ending.endswith(".csv"):
        return csv_bytes(camera_table(job))
    if ending.endswith(".xlsx"):
        return xlsx_bytes(job_tables(job))
    sheets = sheets_of("as built", assess(job), date_words(reader, datetime.date.today()))
    if ending.endswith(".html"):
        from eager_lens.core.outgoing.formats.html import handover_html

        return handover_html(sheets, reader.paper).encode("utf-8")
    from eager_lens.core.outgoing.formats.pdf import handover_pdf  # loads reportlab, which most commands do not need

    language = reader.locale.replace("_", "-") or "en"
    return handover_pdf(sheets, paper=reader.paper, language=language, stand_ins=stand_ins(job))
