"""Copies of unsaved work, kept apart from the job's own file, and found again after a crash.

Each running window owns one pair of files, ``ID.lens.json`` (the work) and ``ID.owner`` (whose it is), and holds a lock
on the second for as long as it lives. The system lets go of the lock at any death, so a pair whose lock can be had was
left behind.
"""

import contextlib
import fcntl
import json
import os
import threading
from pathlib import Path
from typing import IO, NamedTuple

import platformdirs

from eager_lens.core.job.file import ENDING, job_text, write_whole
from eager_lens.core.job.model import Job


class LeftWork(NamedTuple):
    """Work that a window left behind: the copy, the job's own file (empty if it had none), its name, its time."""

    copy: Path
    job_path: str
    job_name: str
    modified_s: float


def folder() -> Path:
    """Where the copies are kept."""
    return Path(platformdirs.user_state_dir("eager-lens")) / "autosave"


class Autosave:
    """The copy that belongs to this window."""

    def __init__(self, where: Path) -> None:
        self._where = where
        self._id = os.urandom(16).hex()
        self._lock: IO[str] | None = None
        # Copies are written on another thread; one that is still being written when the work is saved or given up
        # must not come to life afterwards.
        self._guard = threading.Lock()
        self.epoch = 0

    @property
    def copy(self) -> Path:
        """The file that holds the work."""
        return self._where / f"{self._id}{ENDING}"

    @property
    def _owner(self) -> Path:
        return self._where / f"{self._id}.owner"

    def write(self, job: Job, path: Path | None, epoch: int) -> None:
        """Keep the work as it was at ``epoch``; does nothing when it was saved or given up since. Any thread.

        Raises:
            OSError: when it cannot be written.
        """
        data = job_text(job).encode("utf-8")
        with self._guard:
            if epoch != self.epoch:
                return
            self._where.mkdir(parents=True, exist_ok=True)
            if self._lock is None:
                self._lock = self._owner.open("a+", encoding="utf-8")
                fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self._lock.seek(0)
            self._lock.truncate()
            json.dump({"path": str(path or ""), "name": job.name}, self._lock)
            self._lock.flush()
            write_whole(self.copy, data)

    def clear(self) -> None:
        """The work is saved or given up: take the copy away."""
        with self._guard:
            self.epoch += 1
            for path in (self.copy, self._owner):
                with contextlib.suppress(OSError):
                    path.unlink()
            if self._lock is not None:
                self._lock.close()
                self._lock = None


def left_work(where: Path) -> list[LeftWork]:
    """Copies whose window is gone, newest first."""
    found = []
    for owner in where.glob("*.owner"):
        copy = owner.with_name(owner.stem + ENDING)
        try:
            with owner.open("r+", encoding="utf-8") as file:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                about = json.load(file)
            found.append(LeftWork(copy, str(about["path"]), str(about["name"]), copy.stat().st_mtime))
        except (OSError, ValueError, KeyError, TypeError):
            # Held by a living window, or its owner died before anything was written.
            continue
    return sorted(found, key=lambda work: -work.modified_s)


def discard(work: LeftWork) -> None:
    """Take left work away."""
    for path in (work.copy, work.copy.with_name(work.copy.name.removesuffix(ENDING) + ".owner")):
        with contextlib.suppress(OSError):
            path.unlink()
