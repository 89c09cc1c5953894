"""Opening, saving and leaving jobs, with the questions that go with it. Nothing is written over or given up unasked."""

from __future__ import annotations

from pathlib import Path

from eager_lens.core.errors import ChangedOnDisk, EagerLensError
from eager_lens.core.files import PREVIOUS
from eager_lens.core.job.file import ENDING, stamp_of
from eager_lens.core.records.event_log.log_file import log_beside
from eager_lens.core.records.sealed.vault import sealed_path
from eager_lens.core.site_check.run_file import runs_beside
from eager_lens.desk.asking import JOB_FILE, Asker, file_to_write
from eager_lens.desk.autosave import LeftWork, discard, left_of
from eager_lens.desk.session import Session


def held_beside(path: Path) -> list[Path]:
    """What lies beside a job file and belongs to that job alone: sealed passwords, event log, runs of the site check."""
    return [one for one in (sealed_path(path, ENDING), log_beside(path), runs_beside(path)) if one.exists()]


class JobFiles:
    """What a window does with job files. Every method says whether it came to pass; troubles go out as notices."""

    def __init__(self, session: Session, asker: Asker) -> None:
        self._session, self._asker = session, asker

    def may_leave(self) -> bool:
        """Ask what is to become of unsaved work; False when the person would rather stay."""
        self._session.check_file()  # what was removed under us is not saved, though nothing was edited
        if not self._session.unsaved:
            return True
        answers = ("Save", "Discard changes", "Cancel")
        text = f"“{self._session.job.name}” has unsaved changes."
        answer = self._asker.ask("Unsaved changes", text, answers, 2)
        if answer == 0:
            return self.save()
        return answer == 1

    def open(self, path: Path) -> bool:
        """Open a job file, once what is open may be left."""
        if not self.may_leave():
            return False
        work = left_of(self._session.autosave_folder, path, self._session.own_copy)
        if work is not None:
            answers = ("Recover unsaved work", "Open the saved file", "Cancel")
            text = (
                f"A window with {path.name} ended with unsaved work, kept {work.kept_words()}. If you open the saved file, the "
                "unsaved work stays on the start page."
            )
            answer = self._asker.ask("Unsaved work", text, answers, 2)
            if answer != 1:
                return answer == 0 and self._take_up(work)
        try:
            self._session.open(path)
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return False
        return True

    def save(self) -> bool:
        """Save to the job's file, asking for one if it has none."""
        if self._session.path is None:
            return self.save_as()
        return self._save_to(self._session.path)

    def save_as(self) -> bool:
        """Ask for a file and save to it."""
        proposed = self._session.beside(ENDING)
        path = file_to_write(self._asker, "Save the job", JOB_FILE, proposed)
        return path is not None and self._save_to(path)

    def _save_to(self, path: Path) -> bool:
        held = held_beside(path) if path != self._session.path else []
        if held and not self._may_replace(path, held):
            return False
        try:
            try:
                # It was asked already whether another file may be written over.
                self._session.save_as(path, force=path != self._session.path, aside=held)
            except ChangedOnDisk as trouble:
                answers = (
                    "Overwrite; keep the other as previous version",
                    "Save under another name…",
                    "Do not save",
                )
                answer = self._asker.ask("Changed on disk", str(trouble), answers, 2)
                if answer != 0:
                    return answer == 1 and self.save_as()
                self._session.save_as(path, force=True)
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return False
        self._session.notice(f"Saved: {path}")
        return True

    def _may_replace(self, path: Path, held: list[Path]) -> bool:
        """Ask what is to become of what lies beside another job: its devices have the same ids as these, so that its passwords
        would be given to devices of this one."""
        names = ", ".join(one.name for one in held)
        own = self._session.path
        along = "those of this job are copied along" if own is not None and held_beside(own) else "this job has none"
        text = (
            f"Files of the replaced job are beside {path.name}: {names}. Two jobs must not share passwords or a log, so these "
            f"files become previous versions ({PREVIOUS}), and {along}."
        )
        answers = ("Replace; keep these as previous versions", "Do not save")
        return self._asker.ask("Another job's passwords and log", text, answers, 1) == 0

    def take_up(self, work: LeftWork) -> bool:
        """Open work that a window left behind."""
        if not self.may_leave():
            return False
        return self._take_up(work)

    def _take_up(self, work: LeftWork) -> bool:
        """Open left work, after a question if its file is not as it was then."""
        if work.job_path and stamp_of(Path(work.job_path)) != work.stamp:
            name = Path(work.job_path).name
            answers = ("Recover unsaved work", "Cancel")
            text = (
                f"{name} was changed, renamed or removed since the unsaved work was kept ({work.kept_words()}). You can still "
                "recover the work; saving asks before it overwrites anything."
            )
            if self._asker.ask("The file has changed", text, answers, 1) != 0:
                return False
        try:
            self._session.recover(work)
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return False
        return True

    def give_up(self, work: LeftWork) -> bool:
        """Take left work away, after a question: it cannot be brought back."""
        text = f"The unsaved work on “{work.job_name}” cannot be recovered afterwards."
        if self._asker.ask("Discard unsaved work", text, ("Discard", "Keep"), 1) != 0:
            return False
        discard(work)
        return True
