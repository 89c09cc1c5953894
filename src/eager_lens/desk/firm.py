"""The firm's own lists on this computer: kept from a job, taken into one, and carried to a colleague."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import file_name
from eager_lens.core.firm.entries import Fate, FirmEntry, begin_with, entries, fates_of, put_together, take_entries
from eager_lens.core.firm.lists import ENDING, FIRM_LISTS, FirmLists, firm_text, lists_of, read_firm, write_firm
from eager_lens.core.job.file import ENDING as JOB_ENDING
from eager_lens.core.job.file import read_job, write_job
from eager_lens.core.job.model import Job
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.background import waited_for
from eager_lens.desk.panels.firm_view import FirmView
from eager_lens.desk.session import Session
from eager_lens.desk.templates import FOLDER as TEMPLATES
from eager_lens.desk.writing import export

FIRM_FILE = FileKind("A firm's lists", (ENDING, ".json"))


class Firm:
    """What a window does with the firm's lists. ``show`` puts a view in the page's place, ``left`` goes back to it."""

    def __init__(
        self, session: Session, asker: Asker, show: Callable[[QWidget], None], left: Callable[[], object]
    ) -> None:
        self._session, self._asker, self._show, self._left = session, asker, show, left
        self._path = session.config_folder / FIRM_LISTS
        self._folder = session.config_folder / TEMPLATES
        self.view: FirmView | None = None

    def keep(self) -> None:
        """Keep the job's lists as the firm's, beside those that are kept already; and remove what is kept no more."""

        def act() -> None:
            firm, mine = read_firm(self._path), lists_of(self._session.job)
            if mine == FirmLists() and firm == FirmLists():
                self._session.notice("This job has no make profiles, mounting list, prices or rates to save.")
                return
            found = entries(firm, mine)
            self._ask(
                "Save as the firm's lists", found, fates_of(found, over=True), lambda fates: self._put(found, fates)
            )

        self._with_errors_shown(act)

    def take(self) -> None:
        """Have the job go by the firm's lists."""

        def act() -> None:
            firm = read_firm(self._path)
            if firm == FirmLists():
                self._session.notice(
                    "The firm has no lists on this computer yet: save those of a job, or import a file."
                )
                return
            found = entries(lists_of(self._session.job), firm.model_copy(update={"label_stocks": (), "templates": ()}))
            self._ask(
                "Use the firm's lists in this job",
                found,
                fates_of(found, over=True),
                lambda fates: self._taken(found, fates),
            )

        self._with_errors_shown(act)

    def _taken(self, found: list[FirmEntry], fates: dict[str, Fate]) -> bool:
        edit = take_entries(found, fates)
        if not self._session.apply(edit):
            return False
        self._session.tell_step(edit.label)
        return True

    def export(self) -> None:
        """Write the firm's lists as one file."""

        def act() -> None:
            path = file_to_write(self._asker, "Export the firm's lists", FIRM_FILE, Path.home() / f"firm{ENDING}")
            if path is not None:
                export(
                    self._session,
                    path,
                    waited_for(lambda: firm_text(self._whole()), "Reading the firm's lists…").encode(),
                )

        self._with_errors_shown(act)

    def take_file(self) -> None:
        """Take a colleague's file in, by what is chosen of it."""
        path = self._asker.open_file("A firm's lists", (FIRM_FILE,))
        if path is None:
            return

        def act() -> None:
            found = waited_for(lambda: entries(self._whole(), read_firm(path)), f"Reading {path.name}…")
            self._ask(f"Import {path.name}", found, fates_of(found, over=False), lambda fates: self._put(found, fates))

        self._with_errors_shown(act)

    def _ask(
        self, title: str, found: list[FirmEntry], fates: dict[str, Fate], done: Callable[[dict[str, Fate]], bool]
    ) -> None:
        if not any(one.state in ("new", "another", "only here") for one in found):
            self._session.notice(f"{title}: both sides are the same.")
            return
        self.view = FirmView(self._session, self._leave)
        self._show(self.view)
        self.view.show_entries(title, found, fates, done)

    def _leave(self) -> None:
        self.view = None
        self._left()

    def _put(self, found: list[FirmEntry], fates: dict[str, Fate]) -> bool:
        """Write what was chosen, with a way back."""
        before = self._whole()
        now = put_together(before, found, fates)

        def write(lists: FirmLists, instead_of: FirmLists) -> None:
            self._write_templates(lists.templates, instead_of.templates)
            write_firm(self._path, lists.model_copy(update={"templates": ()}))

        def undo() -> None:
            self._with_errors_shown(lambda: write(before, now))

        try:
            waited_for(lambda: write(now, before), "Writing the firm's lists…")
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return False
        many = sum(fate != "leave" for fate in fates.values())
        words = f"{count(many, 'entry', 'entries')} of the firm's lists changed. New jobs start with them."
        self._session.notice(words, action="Undo", act=undo)
        return True

    def _write_templates(self, templates: Sequence[Job], before: Sequence[Job]) -> None:
        """Templates as they are to be: new ones and others written, those that are gone removed."""
        names = {one.name for one in templates}
        for one in before:
            if one.name not in names:
                (self._folder / file_name(one.name, JOB_ENDING)).unlink(missing_ok=True)
        for one in templates:
            if one not in before:
                self._folder.mkdir(parents=True, exist_ok=True)
                write_job(self._folder / file_name(one.name, JOB_ENDING), one, None, force=True)

    def _whole(self) -> FirmLists:
        """The firm's lists with its templates."""
        templates = tuple(read_job(path).job for path in sorted(self._folder.glob(f"*{JOB_ENDING}")))
        return read_firm(self._path).model_copy(update={"templates": templates})

    def begun(self, job: Job) -> Job:
        """A new job, with the firm's lists where there are any that can be read."""
        try:
            firm = read_firm(self._path)
            return job if firm == FirmLists() else begin_with(firm, job)
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
