"""Which sheets were handed out, by the event log: only what stands there is believed of a sheet that comes back.

A sheet brings along the state that it was made from, and against that the job's later changes are known. Whoever can write the
file can write that state too, and so have an old result pass for the newer one. So its hash is noted when a sheet is made.
"""

from __future__ import annotations

import hashlib
from pathlib import Path

from eager_lens.core.errors import FileTrouble
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.records.event_log.verify import entries_of
from eager_lens.core.records.field_sheet.saved import Base


def base_digest(base: Base) -> str:
    """The hash of the state that a sheet was made from."""
    return hashlib.sha256(base.model_dump_json().encode()).hexdigest()


def handed_out_event(sheet: str, base: Base, name: str) -> Event:
    """What is noted when a sheet is made."""
    return Event("export", f"Hand out {name}", values={"sheet": sheet, "base": base_digest(base)})


def base_handed_out(log: Path | None, sheet: str) -> str:
    """The hash of the state that a sheet was handed out with; empty where no log tells of it."""
    if log is None or not log.exists():
        return ""
    found = ""
    try:
        for entry in entries_of(log):
            if entry.event.kind == "export" and entry.event.values.get("sheet") == sheet:
                found = str(entry.event.values.get("base", ""))
    except FileTrouble:
        return ""
    return found
