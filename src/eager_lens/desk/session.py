"""The session: the job that is open, its history, its file, and what is chosen in it.

It is the only thing that pages talk to. Widgets hold no truth of their own: they show the session's assessment and
hand it edits. Everything here runs on the window's thread, except the writing of autosave copies.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.finding import Stage
from eager_lens.core.assess.working import FigureRef, Working
from eager_lens.core.errors import EagerLensError, advice_for
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.file import ENDING, Stamp, read_job, write_job, write_whole
from eager_lens.core.job.model import EMPTY_JOB, Job
from eager_lens.desk import preferences as prefs
from eager_lens.desk.autosave import Autosave
from eager_lens.desk.background import Task, Work
from eager_lens.desk.background import start as start_work

AUTOSAVE_AFTER_MS = 1500
MOST_STEPS = 500


@dataclass(frozen=True)
class Notice:
    """A line for the person: what happened, whether it needs them, and at most one thing to do about it."""

    text: str
    needs: bool = False
    action: str = ""
    act: Callable[[], None] | None = None


class _Step(NamedTuple):
    before: Job
    label: str
    gesture: str | None


class Session(QObject):
    """The open job. See the module's text."""

    assessed = Signal(object)
    """An Assessment, after every change of the job."""
    state_changed = Signal()
    """File, unsaved mark or history changed."""
    noticed = Signal(object)
    """A Notice."""
    chosen_changed = Signal()
    """Other devices are chosen."""
    working_made = Signal(object)
    """A Working that a view made itself."""
    working_asked = Signal(object)
    """A FigureRef whose working somebody wants to see."""
    going = Signal(str, object)
    """Lead to a stage, and there to a subject's id (or an empty text)."""
    preferences_changed = Signal()
    command_asked = Signal(str)
    """A command of the window, by its id."""

    def __init__(self, config_folder: Path, autosave_folder: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._config_folder = config_folder
        self.preferences = prefs.load_preferences(config_folder)
        self.job: Job = EMPTY_JOB
        self.assessment: Assessment = assess(self.job)
        self.is_open = False
        self.times_opened = 0
        self.path: Path | None = None
        self.chosen: tuple[str, ...] = ()
        self._saved_job: Job | None = None
        self._stamp: Stamp | None = None
        self._undo: list[_Step] = []
        self._redo: list[_Step] = []
        self.autosave_folder = autosave_folder
        self._autosave = Autosave(autosave_folder)
        self._autosave_timer = QTimer(self, singleShot=True, interval=AUTOSAVE_AFTER_MS)
        self._autosave_timer.timeout.connect(self._write_copy)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._seen_on_disk)

    # ---- edits and history ---------------------------------------------------------------------------------------

    def apply(self, edit: Edit) -> bool:
        """Make an edit; False, with a notice, when the job cannot take it. Nothing has changed then."""
        try:
            job = edit.apply(self.job)
        except EagerLensError as error:
            self.noticed.emit(Notice(str(error), needs=True))
            return False
        if job == self.job:
            return True
        last = self._undo[-1] if self._undo else None
        if not (edit.gesture and last and last.gesture == edit.gesture):
            self._undo.append(_Step(self.job, edit.label, edit.gesture))
            del self._undo[:-MOST_STEPS]
        self._redo.clear()
        self._become(job)
        return True

    def attempt(self, make: Callable[[], Edit]) -> bool:
        """Make an edit that may be refused already while it is put together."""
        try:
            edit = make()
        except EagerLensError as error:
            self.noticed.emit(Notice(str(error), needs=True))
            return False
        return self.apply(edit)

    def undo(self) -> None:
        """Take the last step back."""
        if self._undo:
            step = self._undo.pop()
            self._redo.append(_Step(self.job, step.label, None))
            self._become(step.before)

    def redo(self) -> None:
        """Do the step again that was taken back last."""
        if self._redo:
            step = self._redo.pop()
            self._undo.append(_Step(self.job, step.label, None))
            self._become(step.before)

    @property
    def undo_label(self) -> str:
        """The name of the step that undo takes back; empty when there is none."""
        return self._undo[-1].label if self._undo else ""

    @property
    def redo_label(self) -> str:
        """The name of the step that redo does again; empty when there is none."""
        return self._redo[-1].label if self._redo else ""

    def _become(self, job: Job) -> None:
        self.job = job
        self.assessment = assess(job, self.assessment)
        # Not started anew at each edit: work that never pauses is copied too.
        if not self._autosave_timer.isActive():
            self._autosave_timer.start()
        self.assessed.emit(self.assessment)
        self.state_changed.emit()

    # ---- what is chosen ------------------------------------------------------------------------------------------

    def choose(self, ids: Iterable[str]) -> None:
        """Choose devices; every page shows the same choice."""
        new = tuple(ids)
        if new != self.chosen:
            self.chosen = new
            self.chosen_changed.emit()

    def go(self, stage: Stage, subject: str = "") -> None:
        """Lead to a stage and a subject in it."""
        self.going.emit(stage, subject)

    def show_working(self, ref: FigureRef) -> None:
        """Show how a figure came about."""
        self.working_asked.emit(ref)

    def tell_working(self, working: Working) -> None:
        """Show a working that was made already."""
        self.working_made.emit(working)

    def notice(self, text: str, needs: bool = False, action: str = "", act: Callable[[], None] | None = None) -> None:
        """Tell the person something."""
        self.noticed.emit(Notice(text, needs, action, act))

    # ---- files ---------------------------------------------------------------------------------------------------

    @property
    def unsaved(self) -> bool:
        """Whether there is work that is in no file."""
        return self.is_open and self.job is not self._saved_job and self.job != self._saved_job

    def start_job(self, job: Job) -> None:
        """Open a job that has no file yet. It is nothing to lose until it is edited."""
        self._take(job, None, None)

    def open(self, path: Path) -> None:
        """Open a job file.

        Raises:
            FileTrouble: when it cannot be read; what is open stays open.
        """
        job, stamp = read_job(path)
        self._take(job, path, stamp)
        self._remember(path)

    def recover(self, copy: Path, own_path: str) -> None:
        """Open left work. It belongs to its own file again, unsaved; saving asks first if that file changed since.

        Raises:
            FileTrouble: when the copy cannot be read.
        """
        job, _ = read_job(copy)
        stamp = None
        path = Path(own_path) if own_path else None
        if path is not None and path.exists():
            try:
                _, stamp = read_job(path)
            except EagerLensError:
                path = None
        self._take(job, path, stamp)
        self._saved_job = None
        self._write_copy()
        self.state_changed.emit()

    def export(self, path: Path, data: bytes) -> None:
        """Write a file that was asked for, and tell so, or what went wrong."""
        try:
            write_whole(path, data)
        except OSError as error:
            self.notice(advice_for(error, path, "Writing"), needs=True)
        else:
            self.notice(f"Written: {path}")

    def beside(self, ending: str) -> Path:
        """Where something that is made from the job is proposed to be written: beside its file, under its name."""
        name = self.path.name.removesuffix(ENDING) if self.path else self.job.name.replace("/", "-")[:80]
        return (self.path.parent if self.path else Path.home()) / f"{name}{ending}"

    def save_as(self, path: Path, force: bool = False) -> None:
        """Save, to this file from now on.

        Raises:
            ChangedOnDisk: when somebody else wrote the file since it was seen last.
            FileTrouble: when it cannot be written; the work is still here, unsaved.
        """
        expected = self._stamp if path == self.path else None
        self._unwatch()
        try:
            self._stamp = write_job(path, self.job, expected, force)
        finally:
            self._watch(self.path)
        self.path = path
        self._saved_job = self.job
        self._autosave_timer.stop()
        self._autosave.clear()
        self._remember(path)
        self._watch(path)
        self.state_changed.emit()

    def close(self) -> None:
        """Give the open job up, with its autosave copy."""
        self._autosave_timer.stop()
        self._autosave.clear()
        self._unwatch()
        self.is_open = False

    def _take(self, job: Job, path: Path | None, stamp: Stamp | None) -> None:
        self._autosave_timer.stop()
        self._autosave.clear()
        self.path, self._stamp, self._saved_job = path, stamp, job
        self._undo.clear()
        self._redo.clear()
        self.is_open = True
        self.times_opened += 1  # a view that remembers parts by id forgets them in another job
        self.chosen = ()
        self.job = job
        self.assessment = assess(job)
        self._watch(path)
        self.assessed.emit(self.assessment)
        self.chosen_changed.emit()
        self.state_changed.emit()

    def _unwatch(self) -> None:
        if self._watcher.files():
            self._watcher.removePaths(self._watcher.files())

    def _watch(self, path: Path | None) -> None:
        self._unwatch()
        if path is not None and path.exists():
            self._watcher.addPath(str(path))

    def _seen_on_disk(self, name: str) -> None:
        """The file changed under us: say so before somebody's work is written over."""
        path = Path(name)
        if self.path is None or path != self.path or not path.exists():
            return
        try:
            _, stamp = read_job(path)
        except EagerLensError:
            stamp = None
        self._watch(path)
        if stamp != self._stamp:
            self.notice(
                f"{path.name} was changed on disk by someone else. Saving will ask before it writes over that.",
                needs=True,
                action="Open their version",
                act=lambda: self._reopen(path),
            )

    def _reopen(self, path: Path) -> None:
        mine, had = self.job, self.unsaved
        try:
            self.open(path)
        except EagerLensError as error:
            self.notice(str(error), needs=True)
            return
        if had:
            # Nothing is lost: the own work is one step of redo away.
            self._redo.append(_Step(mine, "Go back to your own version", None))
            self.state_changed.emit()

    def _remember(self, path: Path) -> None:
        self.set_preferences(self.preferences.with_recent(path))

    def set_preferences(self, preferences: prefs.Preferences) -> None:
        """Change what this person prefers, and keep it."""
        if preferences != self.preferences:
            self.preferences = preferences
            prefs.save_preferences(self._config_folder, preferences)
            self.preferences_changed.emit()

    def _write_copy(self) -> None:
        if not self.unsaved:
            self._autosave.clear()
            return
        job, path, autosave = self.job, self.path, self._autosave
        epoch = autosave.epoch

        def work(task: Task) -> Work[None]:
            yield 0.0
            autosave.write(job, path, epoch)

        def failed(error: str) -> None:
            self.notice(f"No safety copy could be written: {error}", needs=True)

        start_work(_told(work), self).failed.connect(failed)


def _told(work: Callable[[Task], Work[None]]) -> Callable[[Task], Work[None]]:
    """Work whose errors of the system become errors for people."""

    def wrapped(task: Task) -> Work[None]:
        try:
            yield from work(task)
        except OSError as error:
            raise EagerLensError(error.strerror or str(error)) from error

    return wrapped
