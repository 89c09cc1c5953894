"""The event log of the open job: what is done in this window is put behind what stands in the file beside the job.

Entries wait for a moment, so that a drag is one of them. A job that has no file yet has its entries kept until it is saved.
Opening and looking alone writes nothing: a log begins with the first thing that is done.
"""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QObject, QTimer, Signal

from eager_lens import __version__
from eager_lens.core.errors import EagerLensError, advice_for
from eager_lens.core.files import read_whole, write_whole
from eager_lens.core.job.model import Job
from eager_lens.core.records.event_log.entry import Event, LogEntry
from eager_lens.core.records.event_log.events_of_steps import StepKind, events_of
from eager_lens.core.records.event_log.log_file import LARGEST_BYTES, WHAT, How, append, head_of, log_beside

PROGRAM = f"Eager Lens {__version__}"
WRITE_AFTER_MS, TRIED_AGAIN_MS = 300, 5_000
LAST_WAIT_S = 0.5
"""When the job is left there is no later: so long another program's lock is waited for."""
MOST_WAITING = 20_000
"""So many entries are kept while they cannot be written; the oldest are given up first, which an entry tells."""


class HasLog(Protocol):
    """What the log has to know of its session."""

    path: Path | None

    @property
    def person(self) -> str:
        """Who is at the keyboard, as entered."""
        ...


class JobLog(QObject):
    """Takes events in, and writes them beside the job's file."""

    written = Signal()
    """Entries were put into the file."""
    failed = Signal(str)
    """They could not be: why. Told once, until it works again."""

    def __init__(self, session: HasLog, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._waiting: list[tuple[Event, datetime]] = []
        self._given_up = 0
        self._gesture: str | None = None
        self.trouble = ""
        self._timer = QTimer(self, singleShot=True, interval=WRITE_AFTER_MS)
        self._timer.timeout.connect(self.flush)

    @property
    def path(self) -> Path | None:
        """The log's file; None while the job has none."""
        return None if self._session.path is None else log_beside(self._session.path)

    def note(self, event: Event) -> None:
        """Take an event in."""
        self._gesture = None
        self._waiting.append((event, datetime.now().astimezone()))
        if len(self._waiting) > MOST_WAITING:
            del self._waiting[0]
            self._given_up += 1
        self._timer.start(WRITE_AFTER_MS)

    def step(self, kind: StepKind, words: str, before: Job, after: Job, gesture: str | None = None) -> None:
        """Take a step of work in; steps of one gesture are one entry, as they are one step of undo."""
        if gesture and gesture == self._gesture and self._waiting:
            del self._waiting[-1]
        for event in events_of(kind, words, before, after):
            self.note(event)
        self._gesture = gesture

    def opened(self, words: str, digest: str | None) -> None:
        """A job was opened: what waited for another is not about this one."""
        self._timer.stop()
        self._waiting.clear()
        self._given_up, self.trouble = 0, ""
        self.note(Event("job opened", words, values={} if digest is None else {"sha256": digest}))

    def saved(self, path: Path, before: Path | None, digest: str) -> None:
        """The job was saved; under another name, its log goes along."""
        if before is not None and before != path:
            self._take_along(log_beside(before), log_beside(path))
        self.note(Event("saved", f"Save {path.name}", values={"sha256": digest}))
        self.flush(lasting=True)

    def _take_along(self, source: Path, target: Path) -> None:
        try:
            if source.exists() and not target.exists():
                write_whole(target, read_whole(source, LARGEST_BYTES, WHAT))
        except (OSError, EagerLensError) as error:
            self._fail(advice_for(error, target, "Writing") if isinstance(error, OSError) else str(error))

    def closed(self, unsaved: bool) -> None:
        """The job is left."""
        if unsaved and self.path is not None and not self._only_opened():
            self.note(Event("closed", "Leave the job; steps since the last save are not in a file"))
        self.flush(wait_s=LAST_WAIT_S)
        self._timer.stop()
        self._waiting.clear()

    def _only_opened(self) -> bool:
        return all(event.kind == "job opened" for event, _ in self._waiting) and not (self.path and self.path.exists())

    def flush(self, lasting: bool = False, wait_s: float = 0.0) -> None:
        """Write what waits, if there is a file to write it beside, and if anything was done. Where that fails it is tried
        again a little later."""
        self._timer.stop()
        path = self.path
        if path is None or all(event.kind == "job opened" for event, _ in self._waiting):
            return
        events = list(self._waiting)
        if self._given_up:
            events.insert(0, (Event("line lost", f"{self._given_up} entries could not be written"), events[0][1]))
        # Never waits for a lock: anybody who may read the log can hold one. What waits is written a little later.
        how = How(lasting, wait_s=wait_s, like=self._session.path)
        try:
            append(path, events, self._session.person, PROGRAM, how)
        except EagerLensError as error:
            self._fail(str(error))
            self._timer.start(TRIED_AGAIN_MS)
            return
        self._waiting.clear()
        self._given_up, self._gesture, self.trouble = 0, None, ""
        self.written.emit()

    def _fail(self, words: str) -> None:
        was, self.trouble = self.trouble, words
        if not was:
            self.failed.emit(f"The event log could not be written; its entries are kept and tried again. {words}")

    def head(self) -> LogEntry | None:
        """The last entry that is written; None while there is none.

        Raises:
            FileTrouble: when the log cannot be read.
        """
        self.flush()
        return None if self.path is None else head_of(self.path)
