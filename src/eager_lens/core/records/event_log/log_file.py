"""The event log beside a job's file: entries are put behind those that are there, and nothing is ever rewritten.

Several windows may write to one log: appending takes the lock on the file and follows its last entry. What
was cut short by a death in the middle of a line was never an entry; it is taken away, and an entry says so.
"""

from __future__ import annotations

import contextlib
import os
import secrets
import stat
from collections.abc import Iterable, Sequence
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from eager_lens.core.errors import ChangedOnDisk, DamagedFile, FileTrouble, advice_for
from eager_lens.core.files import LOCK_WAIT_S, Locked, lock, require_file
from eager_lens.core.job.file import beside
from eager_lens.core.records.event_log.entry import MOST_BYTES, Event, LogEntry, line_of, read_line

ENDING = ".log.jsonl"
LARGEST_BYTES = 512 * 2**20
WHAT = "event log"


def log_beside(job_path: Path) -> Path:
    """Where the log of a job file is kept."""
    return beside(job_path, ENDING)


class How(NamedTuple):
    """How a log is written.

    Attributes:
        lasting: wait until it is on the disk, where a power cut leaves it. wait_s: how long somebody else's lock on the log is
            waited for. like: a file whose rights a new log gets: who may not read the job may not read its log. follows: the
            hash that the last entry must have; empty: any.
    """

    lasting: bool = False
    wait_s: float = LOCK_WAIT_S
    like: Path | None = None
    follows: str = ""


PLAINLY = How()
LASTING = How(lasting=True)


def append(path: Path, events: Sequence[tuple[Event, datetime]], by: str, program: str, how: How = PLAINLY) -> LogEntry:
    """Put events behind what is in a log, beginning it if need be.

    Args:
        path: the log. events: each with when it happened, with its zone. by: the person, as entered.
        program: name and version of the program. how: see there.

    Returns:
        The last entry.

    Raises:
        ChangedOnDisk: when another entry is last than ``how`` says.
        FileTrouble: when it cannot be written, or the last line there is no entry; what was there stays.
    """
    return extend(path, events, (), (), by, program, how)


def extend(
    path: Path,
    events: Iterable[tuple[Event, datetime]],
    lines: Iterable[bytes],
    heads: tuple[str, ...],
    by: str,
    program: str,
    how: How = PLAINLY,
) -> LogEntry:
    """Put lines of another log behind what is there, then events of which the first follows those as well.

    Args:
        path, events, by, program, how: as in ``append``. lines: of another log, without line ends, which are not in
            this one. heads: the hashes of those lines that nothing follows.

    Returns:
        The last entry.

    Raises:
        FileTrouble: as ``append``.
    """
    try:
        mode = 0o666 if how.like is None else stat.S_IMODE(how.like.stat().st_mode)
        handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC | os.O_NONBLOCK, mode)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Writing")) from error
    try:
        lock(handle, path, how.wait_s)
        require_file(path, LARGEST_BYTES, WHAT, "Writing")
        return _put(handle, path, list(events), list(lines), heads, by, program, how)
    except OSError as error:
        # Begun just now, on a disk that is full: no empty file is left.
        if not isinstance(error, Locked) and os.fstat(handle).st_size == 0:
            with contextlib.suppress(OSError):
                path.unlink()
        raise FileTrouble(advice_for(error, path, "Writing")) from error
    finally:
        os.close(handle)


def _put(
    handle: int,
    path: Path,
    events: list[tuple[Event, datetime]],
    lines: list[bytes],
    heads: tuple[str, ...],
    by: str,
    program: str,
    how: How,
) -> LogEntry:
    size, last, lost = _end_of(handle, path)
    if how.follows and (last is None or last.hash != how.follows):
        raise ChangedOnDisk(f"{path.name} was changed meanwhile by another window or program.")
    if last is None:
        # Its own name, so that no two logs begin with the same entry: by what they share logs of one job know each other.
        values = {"log": secrets.token_hex(8)}
        events.insert(0, (Event("log begun", "Begin the log", values=values), events[0][1]))
    elif lost:
        words = f"{lost} bytes of an incomplete entry were removed"
        events.insert(0, (Event("line lost", words, values={"bytes": lost}), events[0][1]))
    put = b"".join(line + b"\n" for line in lines)
    number = max([last.number if last else 0, *(read_line(line).number for line in lines)])
    previous = (*((last.hash,) if last else ()), *heads)
    line = b""
    for event, now in events:
        number += 1
        line = line_of(event, number, previous, now, by, program)
        put += line + b"\n"
        previous = (line[-66:-2].decode(),)
    written = read_line(line)  # before anything is written: nothing that cannot be read again gets into a log
    if lost:
        os.ftruncate(handle, size)
    _write(handle, put, size)
    if how.lasting:
        os.fsync(handle)
    return written


def _write(handle: int, data: bytes, size: int) -> None:
    """All of it or nothing: on a full disk the log ends where it did."""
    view = memoryview(data)
    try:
        while view:
            view = view[os.write(handle, view) :]
    except OSError:
        os.ftruncate(handle, size)
        raise


def _end_of(handle: int, path: Path) -> tuple[int, LogEntry | None, int]:
    """Where the last whole line ends, its entry (None in an empty file), and how many bytes lie behind it."""
    size = os.fstat(handle).st_size
    window = min(size, 2 * MOST_BYTES + 2)
    data = os.pread(handle, window, size - window)
    end = data.rfind(b"\n") + 1
    lost = len(data) - end
    if end == 0:
        if size > window or (size and not data.startswith(b'{"number":')):
            raise DamagedFile(f"{path} is not an {WHAT}; it was left as it is. Move it away, and a new one is started.")
        return 0, None, size
    line = data[data.rfind(b"\n", 0, end - 1) + 1 : end - 1]
    try:
        return size - lost, read_line(line), lost
    except ValueError as error:
        raise DamagedFile(
            f"The last entry of {path} was changed, or the file is not an {WHAT}, so nothing was added. “log verify” says "
            "where. Move it away, and a new one is started."
        ) from error


def head_of(path: Path) -> LogEntry | None:
    """The last entry of a log; None where there is no log, or an empty one.

    Raises:
        FileTrouble: when it cannot be read, or its last line is no entry.
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
    except FileNotFoundError:
        return None
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Reading")) from error
    try:
        require_file(path, LARGEST_BYTES, WHAT)
        return _end_of(handle, path)[1]
    finally:
        os.close(handle)
