"""From file to file between the open formats, told apart by file ending."""

from __future__ import annotations

from pathlib import Path

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import FileTrouble, RefusedInput, advice_for
from eager_lens.core.exchange.camera_import import Problem, guess_mapping, read_cameras
from eager_lens.core.exchange.table_in import read_table
from eager_lens.core.exchange.table_out import camera_table, csv_bytes, job_tables, xlsx_bytes
from eager_lens.core.files import write_whole
from eager_lens.core.handover.modes import sheets_of
from eager_lens.core.job.file import ENDING, job_text, read_job
from eager_lens.core.job.model import Job

READS = (ENDING, ".csv", ".tsv", ".txt", ".xlsx")
WRITES = (ENDING, ".csv", ".xlsx", ".html", ".pdf")


def load(path: Path) -> tuple[Job, tuple[Problem, ...]]:
    """The job in a job file, or a new job with the cameras of a list; with what could not be taken.

    Raises:
        EagerLensError: when the file cannot be read or is of no known kind.
    """
    name = path.name.lower()
    if name.endswith((ENDING, ".json")):
        return read_job(path)[0], ()
    if not name.endswith(READS):
        raise RefusedInput("", f"{path} has no ending that can be read; those are {', '.join(READS)}")
    table = read_table(path)
    job = Job(name=path.stem[:200] or "New job")
    result = read_cameras(table, guess_mapping(table), job)
    if not result.cameras:
        trouble = f" {result.problems[0].sentence()}" if result.problems else ""
        raise RefusedInput("", f"{path} holds no camera that could be taken.{trouble}")
    return result.edit().apply(job), result.problems


def convert(source: Path, target: Path, date: str) -> tuple[Problem, ...]:
    """Write what is in ``source`` as ``target``; returns what could not be taken from a list.

    Raises:
        EagerLensError: when either cannot be read or written; the target is then as it was.
    """
    name = target.name.lower()
    if not name.endswith(WRITES):
        raise RefusedInput("", f"{target} has no ending that can be written; those are {', '.join(WRITES)}")
    job, problems = load(source)
    data = rendered(job, name, date)
    try:
        write_whole(target, data)
    except OSError as error:
        raise FileTrouble(advice_for(error, target, "Writing")) from error
    return problems


def rendered(job: Job, ending: str, date: str) -> bytes:
    """A job in the format that a file name's ending asks for."""
    if ending.endswith(ENDING):
        return job_text(job).encode("utf-8")
    if ending.endswith(".csv"):
        return csv_bytes(camera_table(job))
    if ending.endswith(".xlsx"):
        return xlsx_bytes(job_tables(job))
    sheets = sheets_of("as built", assess(job), date)
    if ending.endswith(".html"):
        from eager_lens.core.exchange.html import handover_html

        return handover_html(sheets).encode("utf-8")
    from eager_lens.core.exchange.pdf import handover_pdf  # loads reportlab, which most commands do not need

    return handover_pdf(sheets)
