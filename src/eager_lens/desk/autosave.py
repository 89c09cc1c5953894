"""Copies of unsaved work, kept apart from the job's own file, and found again after a crash.

Each running window owns three files: ``ID.lens.json`` (the work), ``ID.owner`` (whose it is, and how the job's own file was
when it was seen last) and ``ID.lock``, on which it holds a lock for as long as it lives. The system lets go of the lock at
any death, so a copy whose lock can be had was left behind. A copy counts whatever became of the other two.
"""

from __future__ import annotations

import contextlib
import datetime
import fcntl
import json
import os
import socket
import threading
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any, NamedTuple

import platformdirs

from eager_lens.core.errors import FileTrouble, RefusedInput
from eager_lens.core.files import PRIVATE, is_held, read_whole, real_path, sweep, write_whole
from eager_lens.core.job.file import ENDING, RowTexts, Stamp, job_text
from eager_lens.core.job.model import Job
from eager_lens.core.validation import parse_json

OWNER, LOCK = ".owner", ".lock"
LARGEST_OWNER_BYTES = 2**16


class LeftWork(NamedTuple):
    """Work that a window left behind: the copy, the job's own file (empty if it had none) and its stamp when it was seen
    last (None: not known), the job's name, and when the copy was written."""

    copy: Path
    job_path: str
    job_name: str
    modified_s: float
    stamp: Stamp | None = None
    is_sure: bool = True
    """Whether its window is known to be gone; on a file system without locks that may not be known."""

    def kept_words(self) -> str:
        """When it was kept, in words, and whether its window may still be there."""
        if not self.is_sure:
            return f"{self._when()}; its window may still be open, which cannot be told on this file system (it has no locks)"
        return self._when()

    def _when(self) -> str:
        return datetime.datetime.fromtimestamp(self.modified_s).strftime("%d %B %Y, %H:%M")


def folder() -> Path:
    """Where the copies are kept."""
    return Path(platformdirs.user_state_dir("eager-lens")) / "autosave"


class Autosave:
    """The copy that belongs to this window."""

    def __init__(self, where: Path) -> None:
        self._where = where
        self._id = os.urandom(16).hex()
        self._lock: IO[bytes] | None = None
        self._owner_text = ""
        # Copies are written on another thread; one that is still being written when the work is saved or given up
        # must not come to life afterwards.
        self._guard = threading.Lock()
        self.epoch = 0

    @property
    def copy(self) -> Path:
        """The file that holds the work."""
        return self._where / f"{self._id}{ENDING}"

    def write(
        self,
        job: Job,
        path: Path | None,
        epoch: int,
        stamp: Stamp | None = None,
        rows: RowTexts | None = None,
        step: Callable[[float], None] = lambda share: None,
    ) -> None:
        """Keep the work as it was at ``epoch``; does nothing when it was saved or given up since. Any thread.

        ``step`` is told while the text is made, many times a second.

        Raises:
            OSError: when it cannot be written. FileTrouble: when it could not be read again.
        """
        data = job_text(job, rows, step).encode("utf-8")
        digest = stamp.digest if stamp else ""
        owner = json.dumps({"path": str(path or ""), "name": job.name, "stamp": digest, "process": _process()})
        with self._guard:
            if epoch != self.epoch:
                return
            self._where.mkdir(mode=0o700, parents=True, exist_ok=True)
            if self._lock is None:
                held = os.open(_beside(self.copy, LOCK), os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, PRIVATE)
                self._lock = os.fdopen(held, "rb+")
                with contextlib.suppress(OSError):  # a file system without locks: the note of the process has to do
                    fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            if owner != self._owner_text:
                write_whole(_beside(self.copy, OWNER), owner.encode("utf-8"), PRIVATE, PRIVATE)
                self._owner_text = owner
            write_whole(self.copy, data, PRIVATE, PRIVATE)

    def clear(self) -> None:
        """The work is saved or given up: take the copy away."""
        with self._guard:
            self.epoch += 1
            self._owner_text = ""
            _remove(self.copy)
            if self._lock is not None:
                self._lock.close()
                self._lock = None


def left_work(where: Path, own: Path | None = None) -> list[LeftWork]:
    """Copies whose window is gone, as far as that can be told, newest first; ``own``: the copy of the window that asks."""
    found = []
    for copy in where.glob(f"*{ENDING}"):
        try:
            about = _about(copy)
            # Programs of before held the lock on the owner's file.
            held = {is_held(_beside(copy, LOCK)), is_held(_beside(copy, OWNER))}
            lives = _lives(str(about.get("process") or "")) if "not known" in held else None
            if "held" in held or lives or copy == own:
                continue
            stamp = str(about.get("stamp") or "")
            name = str(about.get("name") or "") or "a job"
            found.append(
                LeftWork(
                    copy,
                    str(about.get("path") or ""),
                    name,
                    copy.stat().st_mtime,
                    Stamp(stamp) if stamp else None,
                    "not known" not in held or lives is False,
                )
            )
        except OSError:
            continue  # its window gave it up in this moment
    return sorted(found, key=lambda work: -work.modified_s)


def left_of(where: Path, job_path: Path, own: Path | None = None) -> LeftWork | None:
    """The newest work that was left of one job file."""
    wanted = real_path(job_path)
    return next(
        (work for work in left_work(where, own) if work.job_path and real_path(Path(work.job_path)) == wanted), None
    )


def discard(work: LeftWork) -> None:
    """Take left work away."""
    _remove(work.copy)


def _process() -> str:
    """This process, by its computer, number and start: the number alone is given again."""
    return f"{socket.gethostname()} {os.getpid()} {_start_of(os.getpid())}"


def _start_of(pid: int) -> str:
    """When a process began, in ticks since the computer did (proc(5)); empty where there is none."""
    try:
        return Path(f"/proc/{pid}/stat").read_text("utf-8", "replace").rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""


def _lives(process: str) -> bool | None:
    """Whether a process lives; None where that is not known, as of another computer's."""
    host, _, rest = process.partition(" ")
    pid, _, start = rest.partition(" ")
    if host != socket.gethostname() or not pid.isdigit():
        return None
    return start != "" and _start_of(int(pid)) == start


def _beside(copy: Path, ending: str) -> Path:
    return copy.with_name(copy.name.removesuffix(ENDING) + ending)


def _remove(copy: Path) -> None:
    """The copy first: what is left of a removal that was cut short hides nothing."""
    for path in (copy, _beside(copy, OWNER), _beside(copy, LOCK)):
        with contextlib.suppress(OSError):
            sweep(path)
            path.unlink()


def _about(copy: Path) -> dict[str, Any]:
    """What is known of a copy's owner; nothing when that was cut short, which does not make the copy any worse."""
    try:
        about = parse_json(read_whole(_beside(copy, OWNER), LARGEST_OWNER_BYTES, "note").decode("utf-8"))
    except (FileTrouble, UnicodeDecodeError, RefusedInput):
        return {}
    return about if isinstance(about, dict) else {}
