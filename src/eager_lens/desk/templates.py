"""Jobs that somebody saved as patterns for others: files in a folder of their own, offered on the start page."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import file_name
from eager_lens.core.firm.template import as_template
from eager_lens.core.job.file import ENDING, read_job, write_job
from eager_lens.desk.asking import Asker
from eager_lens.desk.background import waited_for
from eager_lens.desk.session import Session

FOLDER = "templates"


class Templates:
    """What a window does with templates. ``opened`` is called when a job was begun from one, ``changed`` when one is gone."""

    def __init__(
        self,
        session: Session,
        asker: Asker,
        may_leave: Callable[[], bool],
        opened: Callable[[], object],
        changed: Callable[[], object],
    ) -> None:
        self._session, self._asker = session, asker
        self._may_leave, self._opened, self._changed = may_leave, opened, changed
        self._folder = session.config_folder / FOLDER

    def paths(self) -> list[Path]:
        """The templates there are, by name."""
        return sorted(self._folder.glob(f"*{ENDING}"), key=lambda path: path.name.casefold())

    def save(self) -> None:
        """Save the job as a template of its name, after a question if there is one already."""
        name = self._session.job.name
        path = self._folder / file_name(name, ENDING)
        answers = ("Replace", "Keep")
        if (
            path.exists()
            and self._asker.ask("Save as template", f"A template “{name}” already exists.", answers, 1) != 0
        ):
            return
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            job = self._session.job
            waited_for(lambda: write_job(path, as_template(job), None, force=True), f"Saving {name} as template…")
        except (OSError, EagerLensError) as error:
            self._session.notice(f"The template was not saved: {error}", needs=True)
            return
        self._session.notice("Saved as template on the start page, without customer, site, serials and measurements")

    def take(self, path: Path, begin: bool) -> None:
        """Begin a job from a template, which has no file of its own yet; or remove it, after a question."""
        if not begin:
            text = f"The template {path.name.removesuffix(ENDING)} cannot be recovered afterwards."
            if self._asker.ask("Remove the template", text, ("Remove", "Keep"), 1) == 0:
                path.unlink(missing_ok=True)
                self._changed()
        elif self._may_leave():
            try:
                self._session.start_job(waited_for(lambda: read_job(path), f"Opening {path.name}…").job)
            except EagerLensError as error:
                self._session.notice(str(error), needs=True)
                return
            self._opened()
