"""The errors a person can act on.

EagerLensError
|- RefusedInput      a value that cannot be taken: where it stands, what was given, what is allowed
|- FileTrouble       a file that cannot be read or written
   |- DamagedFile    the file is not what it should be; it is left untouched
   |- ChangedOnDisk  somebody else wrote the file since it was opened
"""

from __future__ import annotations

import errno
from pathlib import Path

from eager_lens.core.plain_text import clipped

MOST_CHARACTERS = 600
"""A sentence for people is no longer than this: what was given may be of any length."""


class EagerLensError(Exception):
    """Base of every error whose text is meant to be read by the person at the desk."""

    def __init__(self, text: str) -> None:
        super().__init__(clipped(text, MOST_CHARACTERS))


class RefusedInput(EagerLensError, ValueError):
    """A value that cannot be taken.

    ``path`` names the field, as in ``devices[2].keep``; it is empty when the input as a whole is meant.
    """

    def __init__(self, path: str, problem: str) -> None:
        path, problem = clipped(path, 120), clipped(problem, MOST_CHARACTERS - 150)
        self.path = path
        self.problem = problem
        super().__init__(f"{path}: {problem}" if path else problem)

    def __reduce__(self) -> tuple[type[RefusedInput], tuple[str, str]]:
        """As it is carried from one process to another."""
        return type(self), (self.path, self.problem)


class FileTrouble(EagerLensError):
    """A file that cannot be read or written; the text says which file, why, and what to do next."""


class DamagedFile(FileTrouble):
    """The file is cut off, foreign, newer than this program, or mangled by hand. It is never written over."""


class ChangedOnDisk(FileTrouble):
    """The file was written by somebody else since it was opened here."""


def advice_for(error: OSError, path: Path, doing: str) -> str:
    """One sentence for an error of the operating system: what failed, on which file, and the next step."""
    reason = {
        errno.EACCES: "this account may not write there; select another folder or ask for permission",
        errno.EPERM: "the system does not permit it; select another folder",
        errno.EROFS: "the disk is read-only; select another folder",
        errno.ENOSPC: "the disk is full; free some space or select another disk, nothing was changed",
        errno.EDQUOT: "the disk quota is used up; free some space or select another disk",
        errno.ENOENT: "there is no such file or folder; check the name",
        errno.EISDIR: "that is a folder, not a file; select a file",
        errno.EWOULDBLOCK: "another program keeps it locked; close that program or wait, then try again",
        errno.EINVAL: "that file cannot be written; select another name",
        errno.ENXIO: "it is a device or a pipe, not a file; select a file",
        errno.ELOOP: "its symbolic links lead in a circle; select the file itself",
        errno.ENAMETOOLONG: "the name is too long; select a shorter one",
    }.get(error.errno or 0, f"{(error.strerror or str(error)).lower()}")
    return f"{doing} {path} failed: {reason}."
