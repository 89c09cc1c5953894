"""Merging: another copy of the job, or the results of a colleague's log, held against the job that is open."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.file import ENDING, read_job
from eager_lens.core.job.merging import JobMerging, merging
from eager_lens.core.job.model import Job
from eager_lens.core.records.event_log.entry import LogEntry
from eager_lens.core.records.event_log.results import with_results
from eager_lens.desk.asking import JOB_FILE, Asker
from eager_lens.desk.background import waited_for
from eager_lens.desk.panels.merge_view import MergeView
from eager_lens.desk.session import Session


class JobMerger:
    """What a window does with copies of a job. ``show`` puts a view in the page's place, ``left`` goes back to it."""

    def __init__(
        self, session: Session, asker: Asker, show: Callable[[QWidget], None], left: Callable[[], object]
    ) -> None:
        self._session, self._asker, self._show, self._left = session, asker, show, left
        self.view: MergeView | None = None

    def merge_copy(self) -> None:
        """Ask for another copy of the job, find the version that both had, and show what differs."""
        other = self._asker.open_file("Another copy of this job", (JOB_FILE,), self._session.path)
        if other is None:
            return
        base_path = None
        if self._session.path is not None:
            # With what checks signatures, which only those who merge need.
            from eager_lens.core.records.event_log.common_version import common_version

            self._session.log.flush()
            base_path = common_version(self._session.path, other, ENDING)
        if base_path is None:
            answers = ("Select that version …", "There is none; ask about every difference", "Cancel")
            text = (
                "The logs of the two copies share no saved version. If you select it, only differences that both changed "
                "need a decision."
            )
            answer = self._asker.ask("The last common version", text, answers, 2)
            if answer == 2:
                return
            if answer == 0:
                base_path = self._asker.open_file("The last version that both had", (JOB_FILE,), other)
                if base_path is None:
                    return
        mine = self._session.job

        def work() -> tuple[Job | None, Job, JobMerging]:
            base = None if base_path is None else read_job(base_path).job
            theirs = read_job(other).job
            return base, theirs, merging(base, mine, theirs)

        try:
            base, theirs, found = waited_for(work, f"Comparing with {other.name}…")
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return
        since = f", both since {base_path.name}" if base_path is not None else ""
        self._ask(f"Merge {other.name}{since}", found, base, mine, theirs)

    def take_results(self, entries: Sequence[LogEntry], other: Path) -> None:
        """Show the results that a colleague's log brings; tests that both made, with different results, are asked about."""
        mine = self._session.job
        base, theirs = with_results(mine, entries)
        self._ask(f"Results in {other.name}", merging(base, mine, theirs), base, mine, theirs)

    def _ask(self, title: str, found: JobMerging, base: Job | None, mine: Job, theirs: Job) -> None:
        if not (found.taken or found.checks or found.questions):
            self._session.notice(f"{title}: nothing new")
            return
        self.view = MergeView(self._session, self._leave)
        self._show(self.view)
        self.view.show_merging(title, found, base, mine, theirs)

    def _leave(self) -> None:
        self.view = None
        self._left()
