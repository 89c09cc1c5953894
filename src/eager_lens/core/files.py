"""The one way to files outside: read with a bound, written as a whole or not at all.

Everything that the program writes for somebody goes through ``write_whole``, everything that it reads from somebody
through ``read_whole`` (or ``require_file``, where a library opens the file itself).
"""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
import stat
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Literal

from eager_lens.core.errors import DamagedFile, FileTrouble, advice_for

PRIVATE = 0o600
"""The mode of what nobody else may read: passwords, safety copies."""

PREVIOUS = ".previous"
_PART_ENDING = ".part"


def read_whole(path: Path, most_bytes: int, what: str, doing: str = "Reading") -> bytes:
    """The bytes of a file.

    Args:
        path: the file. most_bytes: more than this is refused before it is read. what: what it should be, for the
            message ("job file"). doing: what is being done, for the message.

    Raises:
        FileTrouble: when it cannot be read, or is no file but a folder, device or pipe.
        DamagedFile: when it is larger than anything of its kind.
    """
    try:
        # A pipe that nobody writes to would wait for ever, so it is looked at before anything is read.
        with os.fdopen(os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC), "rb") as file:
            status = os.fstat(file.fileno())
            _require_plain(status, path, doing)
            # Room is made for as much as is asked for, so no more is asked for than there is.
            data = file.read(min(status.st_size, most_bytes) + 1)
            if len(data) == status.st_size + 1:
                data += file.read(most_bytes + 1 - len(data))  # it grew while it was read
    except OSError as error:
        raise FileTrouble(advice_for(error, path, doing)) from error
    if len(data) > most_bytes:
        raise DamagedFile(f"{path} is larger than {_size_words(most_bytes)}, too large for a {what}.")
    return data


def require_file(path: Path, most_bytes: int, what: str, doing: str = "Reading") -> int:
    """Make sure that something is a file of a bearable size, for a library that opens it itself; its size in bytes.

    Raises:
        FileTrouble, DamagedFile: as ``read_whole``.
    """
    try:
        status = path.stat()
        _require_plain(status, path, doing)
        path.open("rb").close()  # whether this account may read it
    except OSError as error:
        raise FileTrouble(advice_for(error, path, doing)) from error
    if status.st_size > most_bytes:
        raise DamagedFile(f"{path} is larger than {_size_words(most_bytes)}, too large for a {what}.")
    return status.st_size


def _require_plain(status: os.stat_result, path: Path, doing: str) -> None:
    if stat.S_ISDIR(status.st_mode):
        raise IsADirectoryError(errno.EISDIR, os.strerror(errno.EISDIR), str(path))
    if not stat.S_ISREG(status.st_mode):
        raise FileTrouble(f"{doing} {path} failed: it is a device or a pipe, not a file; select a file.")


def real_path(path: Path) -> Path:
    """Where a file really is: links are followed, as far as they lead anywhere (a ring of them is no error here)."""
    return Path(os.path.realpath(path))


def previous_version(path: Path) -> Path:
    """Where the version before the last save is kept: beside the file itself, wherever a link to it may lie."""
    real = real_path(path)
    return real.with_name(real.name + PREVIOUS)


def set_aside(path: Path) -> None:
    """Make what is there the previous version; nothing where there is nothing.

    Raises:
        FileTrouble: when it cannot be.
    """
    try:
        with contextlib.suppress(FileNotFoundError):
            real_path(path).replace(previous_version(path))
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Saving")) from error


def _size_words(size_bytes: int) -> str:
    return f"{size_bytes / 2**20:g} MiB"


def write_whole(path: Path, data: bytes, mode: int = 0o666, most_mode: int = 0o777) -> None:
    """Write a file so that at every moment either the old or the new content is there, whole.

    A symbolic link is followed: its target is written and the link stays. What is there already keeps its mode and owner.

    Args:
        path: the file. data: its new content. mode: that of a new file, before the account's mask.
        most_mode: bits that the file may have at most, whether it is new or not.

    Raises:
        OSError: when it cannot be written; the old content is untouched and no temporary file is left.
    """
    path = real_path(path)
    try:
        old: os.stat_result | None = path.stat()
    except FileNotFoundError:
        old = None
    if old is not None and not stat.S_ISREG(old.st_mode):
        # Renaming over a device or a pipe would take it away.
        code = errno.EISDIR if stat.S_ISDIR(old.st_mode) else errno.EINVAL
        raise OSError(code, os.strerror(code), str(path))
    sweep(path)
    handle, part = _new_part(path, (mode & most_mode) if old is None else PRIVATE)
    try:
        try:
            if old is not None:
                _keep_rights(handle, old, most_mode)
            with open(handle, "wb", closefd=False) as file:
                file.write(data)
            os.fsync(handle)
            part = part or _named(handle, path)
            part.replace(path)
        finally:
            os.close(handle)
    except BaseException:
        if part is not None:
            with contextlib.suppress(OSError):
                part.unlink()
        raise
    _sync_folder(path.parent)


def _new_part(path: Path, mode: int) -> tuple[int, Path | None]:
    """A file to write to: without a name where the file system has that, so that a death in the middle leaves nothing."""
    try:
        return os.open(path.parent, os.O_TMPFILE | os.O_WRONLY | os.O_CLOEXEC, mode), None
    except OSError as error:
        if error.errno not in (errno.EOPNOTSUPP, errno.EISDIR, errno.EINVAL, errno.ENOENT) or not path.parent.is_dir():
            raise
    part = _part_of(path)
    handle = os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, mode)
    fcntl.flock(handle, fcntl.LOCK_EX)
    return handle, part


def _named(handle: int, path: Path) -> Path:
    """Give a file without a name one, from which it can be renamed: there is no call that does both."""
    part = _part_of(path)
    folder = os.open(path.parent, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        # With a folder given, Python makes the call that follows the link to the open file.
        os.link(f"/proc/self/fd/{handle}", part, src_dir_fd=folder, follow_symlinks=True)
    finally:
        os.close(folder)
    return part


def _part_of(path: Path) -> Path:
    return path.with_name(f"{_part_prefix(path)}{os.urandom(6).hex()}{_PART_ENDING}")


def _part_prefix(path: Path) -> str:
    return f".{_cut(path.name, 120)}."


def _cut(name: str, most_bytes: int) -> str:
    """A name cut to a number of bytes, as file systems count."""
    return os.fsencode(name)[:most_bytes].decode("utf-8", "ignore")


def file_name(name: str, ending: str) -> str:
    """A name of a job or device as that of a file: one step of a path, and no longer than file systems take."""
    plain = "".join("-" if letter in "/\\" or not letter.isprintable() else letter for letter in f"{name}{ending}")
    stem, tail = plain[: len(name)], plain[len(name) :]
    return f"{_cut(stem, 160).strip('. ') or 'job'}{tail[-80:]}"


def sweep(path: Path) -> None:
    """Take away what somebody who died while writing this file left beside it."""
    prefix = _part_prefix(path)
    with contextlib.suppress(OSError):
        for part in list(path.parent.iterdir()):
            middle = part.name.removeprefix(prefix).removesuffix(_PART_ENDING)
            if part.name == f"{prefix}{middle}{_PART_ENDING}" and len(middle) == 12 and is_held(part) == "free":
                part.unlink(missing_ok=True)


Held = Literal["free", "held", "not known"]


def is_held(path: Path) -> Held:
    """Whether somebody who lives holds the lock on a file; "not known" on a file system without locks."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except FileNotFoundError:
        return "free"
    except OSError:
        return "not known"
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        return "held" if error.errno in (errno.EWOULDBLOCK, errno.EACCES) else "not known"
    finally:
        os.close(handle)
    return "free"


def _keep_rights(handle: int, old: os.stat_result, most_mode: int) -> None:
    if (old.st_uid, old.st_gid) != (os.geteuid(), os.getegid()):
        # Only some accounts may give a file away; where it cannot be, the writer owns it.
        with contextlib.suppress(OSError):
            os.fchown(handle, old.st_uid, old.st_gid)
    with contextlib.suppress(OSError):  # file systems of other systems know no modes
        os.fchmod(handle, stat.S_IMODE(old.st_mode) & most_mode)


def _sync_folder(folder: Path) -> None:
    """Make the rename itself last through a power cut; some file systems cannot, which is no failure of the save."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


LOCK_WAIT_S = 3.0
"""How long a lock is waited for: who writes holds it for some thousandths of a second. But anybody who may read a file can
hold a lock on it, for as long as they like."""


class Locked(OSError):
    """Somebody else holds the lock, and did not let go in time."""

    def __init__(self, path: Path) -> None:
        super().__init__(errno.EWOULDBLOCK, "another program holds a lock on it", str(path))


def lock(handle: int, path: Path, wait_s: float = LOCK_WAIT_S) -> None:
    """Have an open file or folder for oneself; on a file system without locks it is as it would be without this.

    Raises:
        Locked: when somebody else has it for longer than ``wait_s``.
    """
    ends_s = time.monotonic() + wait_s
    while True:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            if error.errno not in (errno.EWOULDBLOCK, errno.EACCES):
                return
        else:
            return
        if time.monotonic() >= ends_s:
            raise Locked(path)
        time.sleep(0.005)


@contextlib.contextmanager
def folder_lock(folder: Path, wait_s: float = LOCK_WAIT_S) -> Iterator[None]:
    """Keep others who ask the same from reading and writing in between; nothing is left in the folder.

    Raises:
        Locked: when somebody else keeps it for longer than ``wait_s``.
        OSError: when the folder is not there or cannot be opened.
    """
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        lock(handle, folder, wait_s)
        yield
    finally:
        os.close(handle)
