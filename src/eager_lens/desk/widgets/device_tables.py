"""What the tables of devices on several pages have in common: taking rows out, pasting lists, adding more."""

from __future__ import annotations

from typing import Any

from eager_lens.core.job.edits import add_like, remove_devices
from eager_lens.core.units import count
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.record_table import RecordTable


def removes_devices(table: RecordTable, session: Session) -> None:
    """Let Delete take the selected devices out; undo brings them back, so nobody is asked."""

    def remove(parts: list[Any]) -> None:
        if parts:
            whom = parts[0].name if len(parts) == 1 else count(len(parts), "device")
            session.apply(remove_devices([part.id for part in parts], f"Remove {whom}"))
            session.tell_step(f"{whom} removed")

    table.delete_asked.connect(remove)


def add_more_like(session: Session, how_many: int) -> None:
    """Add cameras like the selected one."""
    known = {camera.id for camera in session.job.cameras}
    selected = [device_id for device_id in session.selected if device_id in known]
    if not selected:
        session.notice("Select the camera to copy first", needs=True)
        return
    before = known
    if session.apply(add_like(selected[0], how_many)):
        session.select(camera.id for camera in session.job.cameras if camera.id not in before)
