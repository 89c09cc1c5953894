"""What stands beside the job's file and goes into its handover: site checks, the event log, photos, the sealed passwords."""

from __future__ import annotations

import contextlib
from collections.abc import Collection
from datetime import date, datetime
from pathlib import Path
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import read_whole
from eager_lens.core.job.file import ENDING as JOB_ENDING
from eager_lens.core.job.file import read_job
from eager_lens.core.outgoing.formats.sheets import Sheet
from eager_lens.core.outgoing.handover.modes import Extras
from eager_lens.core.outgoing.handover.proof_sheets import LogState
from eager_lens.core.outgoing.handover.visit import visit, visit_sheet
from eager_lens.core.outgoing.site_check_sheet import site_check_sheet
from eager_lens.core.records.event_log.log_file import LARGEST_BYTES as LARGEST_LOG_BYTES
from eager_lens.core.records.event_log.log_file import WHAT, log_beside
from eager_lens.core.records.event_log.photos import LARGEST_BYTES, photos_kept
from eager_lens.core.records.event_log.verify import entries_of, last_edits, verify
from eager_lens.core.records.sealed.vault import sealed_path
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.run_file import latest_run, read_runs, runs_beside

MOST_PHOTO_BYTES = 2 * 2**30
"""Photos beyond this stay in their folder; a pack is to be sent."""


class Beside(NamedTuple):
    """The files beside a job; all None while the job has no file."""

    job: Path | None

    @property
    def state(self) -> tuple[int, ...]:
        """Changes when one of them does."""
        if self.job is None:
            return ()
        return tuple(_changed_ns(path) for path in (runs_beside(self.job), log_beside(self.job)))

    def visit(self, assessment: Assessment, earlier: Path) -> Sheet:
        """The sheet of a return visit, compared with an earlier state of the job.

        Raises:
            FileTrouble: when that cannot be read.
        """
        before = assess(read_job(earlier).job)
        edits: dict[str, datetime] = {}
        runs: list[CheckRun] = []
        if self.job is not None:
            with contextlib.suppress(EagerLensError):
                edits = last_edits(entries_of(log_beside(self.job)))
            with contextlib.suppress(EagerLensError):
                runs = read_runs(runs_beside(self.job))[0]

        def since(ids: Collection[str]) -> date | None:
            known = [edits[one] for one in ids if one in edits]
            return max(known).date() if len(known) == len(ids) and known else None

        pair = (runs[0] if len(runs) > 1 else None, runs[-1] if runs else None)
        found = visit(before, assessment, date.today(), pair, since)
        return visit_sheet(found, earlier.name.removesuffix(JOB_ENDING), assessment)

    def extras(self, assessment: Assessment, earlier: Path | None = None) -> Extras:
        """What the sheets take from them. What cannot be read is told where it is looked at; the handover goes on without."""
        compared = None if earlier is None else self.visit(assessment, earlier)
        if self.job is None:
            return Extras(visit=compared)
        further: list[Sheet] = []
        with contextlib.suppress(EagerLensError):
            further.append(site_check_sheet(assessment, latest_run(runs_beside(self.job))))
        return Extras(tuple(further), self._log(), compared)

    def _log(self) -> LogState | None:
        if self.job is None:
            return None
        path = log_beside(self.job)
        with contextlib.suppress(EagerLensError):
            found = verify(path)
            if found.anchor is not None:
                signers = tuple(f"{key}, up to entry {number:,}" for key, number in found.signers.items())
                trouble = found.troubles[0] if found.troubles else ""
                return LogState(path.name, found.anchor.count, found.anchor.hash, signers, trouble)
        return None

    def files(self) -> dict[str, bytes]:
        """The log and the photos, by the names that they have in a pack."""
        if self.job is None:
            return {}
        found: dict[str, bytes] = {}
        log = log_beside(self.job)
        if log.exists():
            found[log.name] = read_whole(log, LARGEST_LOG_BYTES, WHAT)
        size = 0
        for photo in photos_kept(self.job):
            size += photo.stat().st_size
            if size > MOST_PHOTO_BYTES:
                break
            found[f"{photo.parent.name}/{photo.name}"] = read_whole(photo, LARGEST_BYTES, "photo")
        return found

    @property
    def sealed(self) -> Path | None:
        """The sealed passwords, if there are any."""
        path = None if self.job is None else sealed_path(self.job, JOB_ENDING)
        return path if path is not None and path.exists() else None


def _changed_ns(path: Path) -> int:
    """When a file was changed last; 0 where there is none."""
    try:
        return path.stat().st_mtime_ns
    except OSError:
        return 0
