"""The firm's own lists on this computer: kept from a job, taken into one, and carried to a colleague."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import file_name
from eager_lens.core.job.file import ENDING as JOB_ENDING
from eager_lens.core.job.file import read_job, write_job
from eager_lens.core.job.firm import (
    ENDING,
    FIRM_LISTS,
    FirmLists,
    firm_text,
    joined,
    lists_of,
    read_firm,
    take_lists,
    write_firm,
)
from eager_lens.core.job.model import Job
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.background import waited_for
from eager_lens.desk.session import Session
from eager_lens.desk.templates import FOLDER as TEMPLATES
from eager_lens.desk.writing import export

FIRM_FILE = FileKind("A firm's lists", (ENDING, ".json"))


class Firm:
    """What a window does with the firm's lists."""

    def __init__(self, session: Session, asker: Asker) -> None:
        self._session, self._asker = session, asker
        self._path = session.config_folder / FIRM_LISTS
        self._folder = session.config_folder / TEMPLATES

    def keep(self) -> None:
        """Keep the job's lists as the firm's, beside those that are kept already."""

        def act() -> None:
            mine = lists_of(self._session.job)
            if mine == FirmLists():
                self._session.notice(
                    "This job has no lists of its own: no make profiles, mounting list, prices or rates."
                )
                return
            write_firm(self._path, joined(read_firm(self._path), mine))
            self._session.notice(f"Kept as the firm's: {mine.words}. New jobs begin with them.")

        self._with_errors_shown(act)

    def take(self) -> None:
        """Have the job go by the firm's lists."""

        def act() -> None:
            firm = read_firm(self._path)
            if firm == FirmLists():
                self._session.notice(
                    "The firm has no lists on this computer yet: keep those of a job, or import a file."
                )
            elif self._session.apply(take_lists(firm)):
                self._session.tell_step(f"Taken from the firm's lists: {firm.words}")

        self._with_errors_shown(act)

    def export(self) -> None:
        """Write the firm's lists as one file."""

        def act() -> None:
            path = file_to_write(self._asker, "Export the firm's lists", FIRM_FILE, Path.home() / f"firm{ENDING}")
            if path is not None:
                export(self._session, path, waited_for(self._text, "Reading the firm's lists…").encode())

        self._with_errors_shown(act)

    def take_file(self) -> None:
        """Take a colleague's file in."""
        path = self._asker.open_file("A firm's lists", (FIRM_FILE,))
        if path is None:
            return

        def act() -> None:
            theirs = waited_for(lambda: self._taken_in(path), f"Reading {path.name}…")
            self._session.notice(
                f"Taken in from {path.name}: {theirs.words}. Take them into a job by “Use the firm's lists”."
            )

        self._with_errors_shown(act)

    def _taken_in(self, path: Path) -> FirmLists:
        """What a file holds, once it is among the firm's own."""
        theirs = read_firm(path)
        for template in theirs.templates:
            target = self._folder / file_name(template.name, JOB_ENDING)
            if not target.exists():  # one of that name here stays
                target.parent.mkdir(parents=True, exist_ok=True)
                write_job(target, template, None)
        write_firm(self._path, joined(read_firm(self._path), theirs.model_copy(update={"templates": ()})))
        return theirs

    def _text(self) -> str:
        """The firm's lists and templates as one file."""
        templates = tuple(read_job(path).job for path in sorted(self._folder.glob(f"*{JOB_ENDING}")))
        return firm_text(joined(read_firm(self._path), FirmLists(templates=templates)))

    def begun(self, job: Job) -> Job:
        """A new job, with the firm's lists where there are any that can be read."""
        try:
            firm = read_firm(self._path)
            return job if firm == FirmLists() else take_lists(firm).apply(job)
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return job

    def handlers(self) -> dict[str, Callable[[], object]]:
        """Its commands, by their ids."""
        return {
            "firm-keep": self.keep,
            "firm-take": self.take,
            "firm-export": self.export,
            "firm-import": self.take_file,
        }

    def _with_errors_shown(self, act: Callable[[], None]) -> None:
        try:
            act()
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
