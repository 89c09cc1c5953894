"""The latest check of the site as a handover sheet."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.outgoing.formats.sheets import Sheet, SheetColumn, SheetTable
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.take_over import local_words
from eager_lens.core.site_check.verdicts import Row, headline, rows_of


def site_check_sheet(assessment: Assessment, run: CheckRun) -> Sheet:
    """The rows of a run, what differs from the plan first."""
    rows = rows_of(assessment, run)
    what = "stand-ins on a computer, not the real site" if run.here else "over the network"
    intro = f"Checked {local_words(assessment.job, run)}, {what}. {headline(rows, run)}"
    columns = (
        SheetColumn("Device", 0.2),
        SheetColumn("Found", 0.35),
        SheetColumn("Verdict", 0.45),
    )
    return Sheet("Site check", intro, (SheetTable(columns, _cells(rows)),))


def _cells(rows: Sequence[Row]) -> tuple[tuple[str, ...], ...]:
    return tuple((row.name, row.found, _verdict(row)) for row in rows)


def _verdict(row: Row) -> str:
    word = f"{sentence_case(row.severity.word)}: " if row.severity is not None else ""
    return f"{word}{row.verdict}"
