"""The session: the job that is open, its history, its file, and what is selected in it.

It is the only thing that pages talk to. Widgets hold no truth of their own: they show the session's assessment and
hand it edits. Everything here runs on the window's thread, except the writing of files.
"""

import sys
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QThreadPool, QTimer, Signal

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.finding import Stage
from eager_lens.core.assess.model_changes import figures_of, since_then
from eager_lens.core.errors import EagerLensError, FileTrouble, advice_for
from eager_lens.core.files import file_name, set_aside
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.file import ENDING, RowTexts, Stamp, read_job, stamp_of, surplus_words, write_job
from eager_lens.core.job.model import EMPTY_JOB, Job
from eager_lens.core.present.working import FigureRef, Working
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.records.sealed.vault import take_along
from eager_lens.desk import preferences as prefs
from eager_lens.desk.autosave import Autosave, LeftWork, discard
from eager_lens.desk.background import RIGHT_OF_WAY, Task, Work, waited_for
from eager_lens.desk.background import start as start_work
from eager_lens.desk.collector import freeze_long_lived
from eager_lens.desk.file_watch import FileWatch
from eager_lens.desk.history import History
from eager_lens.desk.job_log import JobLog
from eager_lens.desk.large_steps import is_large

AUTOSAVE_AFTER_MS = 500
"""At most this much work, and what it takes to write the copy, is lost when the program is ended by force."""
COPY_AGAIN_MS = 5000
"""So long after a safety copy failed it is tried again."""


@dataclass(frozen=True)
class Notice:
    """A line for the person: what happened, whether it needs them, and at most one thing to do about it, for as long as
    ``still`` says that it does what it says."""

    text: str
    needs: bool = False
    action: str = ""
    act: Callable[[], None] | None = None
    still: Callable[[], bool] = lambda: True


NOT_WORKED_OUT = (
    "The figures could not be calculated after this step; those shown are from before it. Your work is kept; undo the step to "
    "get the figures again."
)


def _worked_out(before: Job, after: Job, figures: Assessment) -> Assessment:
    """The figures after a step. A large one is waited for, and what is in sight is painted meanwhile: so the job and its figures
    change together, afterwards."""

    def work_out() -> Assessment:
        return assess(after, figures)

    return waited_for(work_out, f"Calculating {after.name}…") if is_large(before, after) else work_out()


class Session(QObject):
    """The open job. See the module's text."""

    opened = Signal()
    """Another job is open, and what is told of it follows: views out of sight release the previous one."""
    assessed = Signal(object)
    """An Assessment, after every change of the job."""
    state_changed = Signal()
    """File, unsaved mark or history changed."""
    noticed = Signal(object)
    """A Notice."""
    selection_changed = Signal()
    """Other devices are selected."""
    working_made = Signal(object)
    """A Working that a view made itself."""
    working_asked = Signal(object)
    """A FigureRef whose working somebody wants to see."""
    going = Signal(str, object)
    """Lead to a stage, and there to a subject's id (or an empty text)."""
    preferences_changed = Signal()
    command_asked = Signal(str)
    """A command of the window, by its id."""
    list_pasted = Signal(str)
    """A block of text was pasted into a table that is a list of its own rather than cells."""
    fault_asked = Signal(object, str)
    """A fault is looked for: on devices, by id, and what is seen there; empty where that is not known."""
    results_brought = Signal(object, object)
    """Entries of another log whose results may go into the job, and the log's file."""

    def __init__(self, config_folder: Path, autosave_folder: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.config_folder = config_folder
        self.preferences = prefs.load_preferences(config_folder)
        self.job: Job = EMPTY_JOB
        self.assessment: Assessment = assess(self.job)
        self.is_open = False
        self.times_opened = 0
        self.path: Path | None = None
        self.selected: tuple[str, ...] = ()
        self._saved_job: Job | None = None
        self._stamp: Stamp | None = None
        self.history = History()
        self.autosave_folder = autosave_folder
        self._autosave = Autosave(autosave_folder)
        self._rows = RowTexts()
        # A thread of their own: safety copies wait for no other work.
        self._copying = QThreadPool(self, maxThreadCount=1)
        self.copy_trouble = ""
        """Why there is no safety copy of the unsaved work; empty while there is one, or none is needed."""
        self._autosave_timer = QTimer(self, singleShot=True, interval=AUTOSAVE_AFTER_MS)
        self._autosave_timer.timeout.connect(self._write_copy)
        self._file = FileWatch(self)
        self._file.changed.connect(self.check_file)
        self.log = JobLog(self, self)
        self.log.failed.connect(lambda words: self.notice(words, needs=True))

    # ---- edits and history ---------------------------------------------------------------------------------------

    def apply(self, edit: Edit) -> bool:
        """Make an edit; False, with a notice, when the job cannot take it. Nothing has changed then."""
        try:
            job = edit.apply(self.job)
        except EagerLensError as error:
            self.noticed.emit(Notice(str(error), needs=True))
            return False
        # Equal by value: typing the same text again must not become a step of undo.
        if job == self.job:
            return True
        # Remember before becoming: history keeps the job that undo goes back to.
        self.history.remember(self.job, edit.label, edit.gesture)
        self.log.step("edit", edit.label, self.job, job, edit.gesture)
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
        label, before = self.undo_label, self.history.undo(self.job)
        if before is not None:
            self.log.step("undo", label, self.job, before)
            self._become(before)

    def redo(self) -> None:
        """Do the step again that was taken back last."""
        label, after = self.redo_label, self.history.redo(self.job)
        if after is not None:
            self.log.step("redo", label, self.job, after)
            self._become(after)

    @property
    def undo_label(self) -> str:
        """The name of the step that undo takes back; empty when there is none."""
        return self.history.undo_label

    @property
    def redo_label(self) -> str:
        """The name of the step that redo does again; empty when there is none."""
        return self.history.redo_label

    def _become(self, job: Job) -> None:
        RIGHT_OF_WAY.take()
        try:
            assessment = _worked_out(self.job, job, self.assessment)
        except Exception as error:  # noqa: BLE001  (a mistake in a rule costs its figures, not the work)
            self.job = job
            sys.excepthook(type(error), error, error.__traceback__)
            self.notice(NOT_WORKED_OUT, needs=True)
        else:
            # Both together, before any signal: a slot must never see a job beside figures of another.
            self.job, self.assessment = job, assessment
            self.assessed.emit(self.assessment)
        # Not restarted at each edit: work without a pause is copied too.
        if not self._autosave_timer.isActive() or self._autosave_timer.interval() > AUTOSAVE_AFTER_MS:
            self._autosave_timer.start(AUTOSAVE_AFTER_MS)
        self.state_changed.emit()

    # ---- what is selected ------------------------------------------------------------------------------------------

    def select(self, ids: Iterable[str]) -> None:
        """Select devices; every page shows the same choice."""
        new = tuple(ids)
        if new != self.selected:
            self.selected = new
            self.selection_changed.emit()

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

    def tell_step(self, text: str, needs: bool = False) -> None:
        """Tell of the step that was just made, with an Undo that takes back this step and no other."""
        made = self.job
        self.noticed.emit(Notice(text, needs, "Undo", self.undo, lambda: self.job is made))

    # ---- files ---------------------------------------------------------------------------------------------------

    @property
    def unsaved(self) -> bool:
        """Whether there is work that is in no file."""
        # Identity first: after most edits it answers without comparing thousands of parts.
        return self.is_open and self.job is not self._saved_job and self.job != self._saved_job

    def start_job(self, job: Job) -> None:
        """Open a job that has no file yet. It is nothing to lose until it is edited."""
        self._take(job, None, None)
        self.log.opened(f"Start {job.name}", None)

    def open(self, path: Path) -> None:
        """Open a job file. One that holds more than a job may is opened without a file of its own, so that saving cannot
        write over what was left out.

        Raises:
            FileTrouble: when it cannot be read; what is open stays open.
        """
        job, stamp, surplus, figures = waited_for(lambda: read_job(path), f"Opening {path.name}…")
        if surplus:
            self._take(job, None, None)
            self.notice(f"{surplus_words(surplus)} Saving asks for another name.", needs=True)
            return
        self._take(job, path, stamp)
        self.log.opened(f"Open {path.name}", stamp.digest)
        self._remember(path)
        if words := since_then(figures, self.assessment):
            self.notice(words, needs=True)

    def recover(self, work: LeftWork) -> None:
        """Open left work. It belongs to its own file again, unsaved; saving asks first if that file changed since.

        The copy that it came from goes only when this window's own copy is on the disk.

        Raises:
            FileTrouble: when the copy cannot be read.
        """
        job, _, surplus, _ = waited_for(lambda: read_job(work.copy), f"Opening {work.job_name}…")
        path = Path(work.job_path) if work.job_path and not surplus else None
        self._take(job, path, work.stamp)
        self.log.opened("Recover unsaved work", None)
        self.log.note(Event("work recovered", f"Recover unsaved work on {job.name}"))
        self._saved_job = None
        self.state_changed.emit()
        if surplus:
            self.notice(f"{surplus_words(surplus)} Saving asks for another name.", needs=True)
        else:
            self._write_copy(then=lambda: discard(work))

    @property
    def own_copy(self) -> Path:
        """This window's own safety copy, which is no left work."""
        return self._autosave.copy

    def beside(self, ending: str) -> Path:
        """Where something that is made from the job is proposed to be written: beside its file, under its name."""
        name = self.path.name.removesuffix(ENDING) if self.path else self.job.name
        folder = self.path.parent if self.path else Path.home()
        return folder / file_name(name, ending)

    def save_as(self, path: Path, force: bool = False, aside: Sequence[Path] = ()) -> None:
        """Save, to this file from now on. ``aside``: what lies beside another job that is replaced, and becomes previous versions.

        Raises:
            ChangedOnDisk: when somebody else wrote the file since it was seen last.
            FileTrouble: when it cannot be written; the work is still here, unsaved.
        """
        before, job, figures = self.path, self.job, figures_of(self.assessment)
        # Under a new name there is no earlier version of ours to protect; the question about existing files was asked
        # before.
        expected = self._stamp if path == before else None
        self._file.stop()
        try:
            stamp = waited_for(
                lambda: write_job(path, job, expected, force, self._rows, figures), f"Saving {path.name}…"
            )
        finally:
            self._file.watch(before)
        # Only after the job is written: a failed save must not move passwords or logs.
        for one in aside:
            set_aside(one)
        self.path, self._stamp, self._saved_job = path, stamp, job
        self._drop_copy()
        self._remember(path)
        self._file.watch(path)
        self.log.saved(path, before, stamp.digest)
        self.state_changed.emit()
        if before is not None and before != path and (words := take_along(before, path, ENDING)):
            self.notice(words, needs=True)

    def close(self) -> None:
        """Give the open job up, with its autosave copy."""
        if self.is_open:
            self.log.closed(self.unsaved)
        self._drop_copy()
        self._file.stop()
        self.is_open = False

    def _drop_copy(self) -> None:
        """Nothing is unsaved any more, or nobody wants it."""
        self._autosave_timer.stop()
        self._autosave.clear()
        self.copy_trouble = ""

    def _take(self, job: Job, path: Path | None, stamp: Stamp | None) -> None:
        # First, so that a job whose figures cannot be worked out leaves what is open as it is.
        assessment = waited_for(lambda: assess(job), f"Calculating {job.name}…")
        if self.is_open:
            self.log.closed(self.unsaved)
        self._drop_copy()
        self.path, self._stamp, self._saved_job = path, stamp, job
        self.history.clear()
        self._rows = RowTexts()
        self.is_open = True
        self.times_opened += 1  # a view that remembers parts by id forgets them in another job
        self.selected = ()
        self.job = job
        self.assessment = assessment
        self._file.watch(path)
        # Views out of sight let go of the previous job here, so that freezing below does not keep it alive.
        self.opened.emit()
        freeze_long_lived()
        self.assessed.emit(self.assessment)
        self.selection_changed.emit()
        self.state_changed.emit()

    def check_file(self) -> None:
        """Look whether the job's file is still as this window saw it last; if not, the work here is in no file, and that
        is told."""
        path = self.path
        if not self.is_open or path is None or self._saved_job is None:
            return
        stamp = stamp_of(path)
        if path.exists():
            self._file.watch(path)
        if stamp == self._stamp:
            return
        self._saved_job = None
        self._autosave_timer.start(0)
        self.state_changed.emit()
        if path.exists():
            self.notice(
                f"{path.name} was changed on disk by another program. Saving asks before it overwrites that version.",
                needs=True,
                action="Open that version",
                act=lambda: self._reopen(path),
            )
        else:
            self.notice(
                f"{path.name} was removed or renamed. The work in this window is no longer in a file; save it.",
                needs=True,
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
            self.history.offer(mine, "Go back to your own version")
            self.state_changed.emit()

    def _remember(self, path: Path) -> None:
        self.set_preferences(self.preferences.with_recent(path))

    @property
    def person(self) -> str:
        """Who is at the keyboard, as entered: what is proved and noted bears this name."""
        return self.preferences.person

    def set_preferences(self, preferences: prefs.Preferences) -> None:
        """Change what this person prefers, and keep it."""
        if preferences != self.preferences:
            RIGHT_OF_WAY.take()
            self.preferences = preferences
            prefs.save_preferences(self.config_folder, preferences)
            self.preferences_changed.emit()

    def _write_copy(self, then: Callable[[], None] = lambda: None) -> None:
        """Bring the safety copy up to date, off the window's thread; ``then`` is done when it is on the disk."""
        if not self.unsaved:
            self._autosave.clear()
            self._tell_copy("")
            return
        job, path, stamp, autosave = self.job, self.path, self._stamp, self._autosave
        # A copy that is still being written when the job is closed must not appear afterwards; the epoch tells it.
        epoch = autosave.epoch

        def work(task: Task) -> Work[None]:
            yield 0.0
            try:
                autosave.write(job, path, epoch, stamp, self._rows, task.step)
            except OSError as error:
                raise FileTrouble(advice_for(error, autosave.copy.parent, "Writing a safety copy to")) from error

        def done(_: object) -> None:
            self._tell_copy("")
            then()

        task = start_work(work, self, self._copying)
        task.done.connect(done)
        task.failed.connect(self._tell_copy)

    def _tell_copy(self, trouble: str) -> None:
        """Keep in sight that there is no safety copy, and try again, for as long as that is so."""
        if trouble and not self.copy_trouble:
            self.notice(f"No safety copy could be written: {trouble} Save the job.", needs=True)
        if trouble != self.copy_trouble:
            self.copy_trouble = trouble
            self.state_changed.emit()
        if trouble and not self._autosave_timer.isActive():
            self._autosave_timer.start(COPY_AGAIN_MS)
