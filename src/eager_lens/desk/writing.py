"""Writing a file that somebody asked for: whole or not at all, told, and noted in the event log."""

from __future__ import annotations

import hashlib
from pathlib import Path

from eager_lens.core.errors import advice_for
from eager_lens.core.files import write_whole
from eager_lens.core.records.event_log.entry import Event
from eager_lens.desk.session import Session


def export(session: Session, path: Path, data: bytes) -> None:
    """Write a file, and tell so, or what went wrong."""
    try:
        write_whole(path, data)
    except OSError as error:
        session.notice(advice_for(error, path, "Writing"), needs=True)
    else:
        tell_written(session, path, data)


def tell_written(session: Session, path: Path, data: bytes, more: str = "") -> None:
    """Tell that a file was written, and note it in the log by its hash."""
    session.log.note(Event("export", f"Write {path.name}", values={"sha256": hashlib.sha256(data).hexdigest()}))
    session.notice(f"Written: {path}{more}")
