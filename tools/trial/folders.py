"""Folders in which nothing can be written: full, read-only, gone. What was there stays whole, what failed is told, and
nothing is said to be written that is not.

Full and read-only folders are file systems of their own in a name space of the child; where the system does not allow
that, they are left out and the table says so.
"""

from __future__ import annotations

import contextlib
import ctypes
import os
import shutil
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tools.trial.forked import forked
from tools.trial.report import Failures, Row
from tools.trial.windows import demo_job, work_ended

from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.edits import set_job
from eager_lens.core.job.file import ENDING, write_job
from eager_lens.core.records.sealed.vault import ENDING as SEALED
from eager_lens.core.records.sealed.vault import Costs, OpenVault, Vault, key_of, sealed, unsealed

CLONE_NEWNS, CLONE_NEWUSER = 0x00020000, 0x10000000
ROOM_KB = 512
KEY = key_of("trial", b"salt" * 4, Costs(2**14, 1, 1))


def bad_folders() -> list[Row]:
    """Each writer in each kind of bad folder."""
    return [_tried(name, spoil) for name, spoil in (("full", _fill), ("read-only", _forbid), ("gone", _take_away))]


def _tried(name: str, spoil: Callable[[Path], None]) -> Row:
    failures, left_out = Failures(), 0
    # A folder of safety copies that is gone is made again.
    writers = {writer: act for writer, act in WRITERS.items() if (name, writer) != ("gone", "safety copy")}
    for writer, act in writers.items():
        with tempfile.TemporaryDirectory(prefix="trial-") as made:
            outcome = Path(made) / "told.txt"
            child = forked(
                lambda act=act, made=made, outcome=outcome: _write_in(Path(made) / "disk", spoil, act, outcome)
            )  # type: ignore[misc]
            os.waitpid(child, 0)
            how = outcome.read_text("utf-8") if outcome.exists() else "it ended without a word"
        if how == "skipped":
            left_out += 1
        elif how:
            failures.add(f"{writer}: {how}")
    tried = len(writers) - left_out
    return Row(
        f"a folder that is {name}", tried, failures.count, failures.first, "not allowed here" if left_out else ""
    )


def _write_in(disk: Path, spoil: Callable[[Path], None], act: Callable[[Any, Path], None], outcome: Path) -> None:
    from tools.trial.windows import window_in

    disk.mkdir()
    if spoil is not _take_away and not _own_disk(disk):
        outcome.write_text("skipped", "utf-8")
        return
    path = disk / f"job{ENDING}"
    stamp = write_job(path, demo_job(), None)
    (disk / f"job{SEALED}").write_bytes(sealed(Vault({"cam-1": "first"}), KEY))
    before = {one.name: one.read_bytes() for one in disk.iterdir()}
    _, window = window_in(outcome.parent / "home")
    window.session.open(path)
    window.session.apply(set_job("note", note="x" * 3000))
    notices: list[str] = []
    window.session.noticed.connect(lambda notice: notices.append(notice.text))
    spoil(disk)
    failed = ""
    try:
        act(window, disk)
    except EagerLensError as error:
        failed = str(error)
    trouble = ""
    if not failed and not any("failed" in text or "No safety copy" in text for text in notices):
        trouble = f"it was not told: {notices}"
    if any(text.startswith(("Written", "Saved")) for text in notices):
        trouble = f"it was said to be written: {notices}"
    if disk.exists():
        after = {one.name: one.read_bytes() for one in disk.iterdir() if one.suffix not in ("", ".lock")}
        if after != before:
            trouble = f"files changed: {sorted(after)}"
    assert stamp is not None
    outcome.write_text(trouble, "utf-8")


def _own_disk(disk: Path) -> bool:
    """Give the child a small file system of its own at a place; whether that was allowed."""
    libc = ctypes.CDLL(None, use_errno=True)
    if libc.unshare(CLONE_NEWNS if os.geteuid() == 0 else CLONE_NEWNS | CLONE_NEWUSER) != 0:
        return False
    # What is mounted here is nobody else's business.
    private = subprocess.run(["mount", "--make-rprivate", "/"], capture_output=True)
    mounted = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={ROOM_KB}k", "trial", str(disk)], capture_output=True
    )
    return private.returncode == 0 and mounted.returncode == 0


def _fill(disk: Path) -> None:
    with (disk / "filler").open("wb", buffering=0) as file, contextlib.suppress(OSError):
        while file.write(b"x" * 1024):
            pass


def _forbid(disk: Path) -> None:
    subprocess.run(["mount", "-o", "remount,ro", str(disk)], check=True, capture_output=True)


def _take_away(disk: Path) -> None:
    shutil.rmtree(disk)


# ---- writers -------------------------------------------------------------------------------------------------------


def _save(window: Any, disk: Path) -> None:
    window.session.save_as(disk / f"job{ENDING}", force=True)


def _save_as(window: Any, disk: Path) -> None:
    window.session.save_as(disk / f"other{ENDING}")


def _export(data: Callable[[Any], bytes], name: str) -> Callable[[Any, Path], None]:
    def write(window: Any, disk: Path) -> None:
        from eager_lens.desk.writing import export

        export(window.session, disk / name, data(window))

    return write


def _copy(window: Any, disk: Path) -> None:
    from PySide6.QtWidgets import QApplication

    from eager_lens.desk.autosave import Autosave

    window.session._autosave = Autosave(disk)
    window.session._write_copy()
    work_ended(window.session._copying, 10)
    for _ in range(5):
        QApplication.processEvents()


def _seal(window: Any, disk: Path) -> None:
    data = sealed(Vault({"cam-1": "first"}), KEY)
    path = disk / f"job{SEALED}"
    held = OpenVault(path, KEY, unsealed(data, KEY, "x"), "")
    held.change(lambda vault: Vault({**vault.passwords, "cam-2": "x" * 2000}))


def _csv(window: Any) -> bytes:
    from eager_lens.core.outgoing.formats.table_out import camera_table, csv_bytes

    return csv_bytes(camera_table(window.session.job)) * 20


def _diagram(window: Any) -> bytes:
    from eager_lens.core.progress import finished
    from eager_lens.desk.theme import look
    from eager_lens.desk.wiring_file import wiring_svg

    window.go("wiring")
    return finished(wiring_svg(window.pages["wiring"].diagram.diagram.shown, "Wiring", look.on_paper())) * 5


WRITERS: dict[str, Callable[[Any, Path], None]] = {
    "save": _save,
    "save as": _save_as,
    "safety copy": _copy,
    "passwords": _seal,
    "camera list": _export(_csv, "out.csv"),
    "diagram": _export(_diagram, "out.svg"),
}
