"""Opening, saving and leaving jobs, with the questions that go with it. Nothing is written over or given up unasked."""

from __future__ import annotations

from pathlib import Path

from eager_lens.core.errors import ChangedOnDisk, EagerLensError
from eager_lens.core.job.file import ENDING
from eager_lens.desk.asking import JOB_FILE, Asker
from eager_lens.desk.autosave import LeftWork, discard
from eager_lens.desk.session import Session


class JobFiles:
    """What a window does with job files. Every method says whether it came to pass; troubles go out as notices."""

    def __init__(self, session: Session, asker: Asker) -> None:
        self._session, self._asker = session, asker

    def may_leave(self) -> bool:
        """Ask what is to become of unsaved work; False when the person would rather stay."""
        if not self._session.unsaved:
            return True
        answers = ("Save", "Give the changes up", "Stay here")
        text = f"“{self._session.job.name}” has changes that are in no file."
        answer = self._asker.choose("Unsaved changes", text, answers, 2)
        if answer == 0:
            return self.save()
        return answer == 1

    def open(self, path: Path) -> bool:
        """Open a job file, once what is open may be left."""
        if not self.may_leave():
            return False
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
        path = self._asker.save_file("Save the job", JOB_FILE, proposed)
        return path is not None and self._save_to(path)

    def _save_to(self, path: Path) -> bool:
        try:
            try:
                # The file dialog has asked already whether another file may be written over.
                self._session.save_as(path, force=path != self._session.path)
            except ChangedOnDisk as trouble:
                answers = (
                    "Write over it, keep theirs as the previous version",
                    "Save under another name…",
                    "Do not save",
                )
                answer = self._asker.choose("Changed on disk", str(trouble), answers, 2)
                if answer != 0:
                    return answer == 1 and self.save_as()
                self._session.save_as(path, force=True)
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return False
        self._session.notice(f"Saved: {path}")
        return True

    def take_up(self, work: LeftWork) -> bool:
        """Open work that a window left behind."""
        if not self.may_leave():
            return False
        try:
            self._session.recover(work.copy, work.job_path)
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return False
        discard(work)
        return True

    def give_up(self, work: LeftWork) -> bool:
        """Take left work away, after a question: it cannot be brought back."""
        text = f"The unsaved work on “{work.job_name}” cannot be brought back after this."
        if self._asker.choose("Give up unsaved work", text, ("Give it up", "Keep it"), 1) != 0:
            return False
        discard(work)
        return True
