"""Two logs of one job made one: what the other has and this one has not is put behind it, known by its hash."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from eager_lens.core.errors import RefusedInput
from eager_lens.core.records.event_log.entry import Event, LogEntry, hash_of, read_line
from eager_lens.core.records.event_log.log_file import LASTING, extend
from eager_lens.core.records.event_log.verify import lines_of, states_of, verify


def merge(path: Path, other: Path, now: datetime, by: str, program: str) -> LogEntry | None:
    """Put the entries of another log into this one; None when it has them all.

    Raises:
        RefusedInput: when the other log is not whole, or this one is not, or they are of two jobs.
        FileTrouble: when one cannot be read or written.
    """
    for log in (path, other):
        if log.exists() or log == other:
            found = verify(log)
            if not found.whole:
                raise RefusedInput(log.name, f"it is damaged, so nothing was merged: {found.troubles[0]}")
    if path.exists() and not (states_of(path) & states_of(other)):
        raise RefusedInput(
            other.name,
            "it is the log of another job: the two share no entry and no saved state of the job. Nothing was merged",
        )
    known = {hash_of(line.rstrip(b"\n")) for line in lines_of(path)} if path.exists() else set()
    theirs = [stripped for line in lines_of(other) if hash_of(stripped := line.rstrip(b"\n")) not in known]
    if not theirs:
        return None
    head = read_line(theirs[-1])
    event = Event(
        "merged", f"Merge {len(theirs):,} entries of {other.name}", values={"entries": len(theirs), "hash": head.hash}
    )
    return extend(path, [(event, now)], theirs, (head.hash,), by, program, LASTING)
