"""A secret is planted as a device's password; then everything is written that the program writes. It may stand nowhere but
sealed, in no way of writing it."""

from __future__ import annotations

import base64
import io
import os
import tempfile
import zipfile
from pathlib import Path
from typing import Any

from tools.trial.forked import forked
from tools.trial.report import Failures, Row

from eager_lens.core.job.file import ENDING
from eager_lens.core.outgoing.formats.reader import Reader
from eager_lens.core.outgoing.handover.convert import Options, convert
from eager_lens.core.records.sealed.vault import Vault, create, sealed_path

SECRET = "Planted-Secret-77"
PASSPHRASE = "kettle ninety moss parade"
FORMS = tuple(
    form
    for text in (SECRET, PASSPHRASE)
    for form in (
        text.encode(),
        text.encode("utf-16-le"),
        text.encode("utf-16-be"),
        base64.b64encode(text.encode()),
        text.encode().hex().encode(),
        text[::-1].encode(),
    )
)


def planted_secret() -> list[Row]:
    """Write everything, then search it."""
    failures = Failures()
    with tempfile.TemporaryDirectory(prefix="trial-") as name:
        folder = Path(name)
        child = forked(lambda: _write_everything(folder))
        _, status = os.waitpid(child, 0)
        if status:
            failures.add(f"the window ended by status {status}")
        pieces = 0
        for path in sorted(folder.rglob("*")):
            if path.is_file():
                for where, data in _pieces(path):
                    pieces += 1
                    if any(form in data for form in FORMS):
                        failures.add(f"{path.relative_to(folder)} {where}")
    if pieces < 12:
        failures.add(f"only {pieces} files were written")
    return [Row("a planted secret, searched in all that is written", pieces, failures.count, failures.first)]


def _pieces(path: Path) -> list[tuple[str, bytes]]:
    """A file's bytes, what is packed in it, and the texts of its pages."""
    data = path.read_bytes()
    found = [("", data)]
    if data[:2] == b"PK":
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            found += [(name, archive.read(name)) for name in archive.namelist()]
    if data[:5] == b"%PDF-":
        import pypdfium2

        document = pypdfium2.PdfDocument(data)
        found += [(f"page {at}", document[at].get_textpage().get_text_range().encode()) for at in range(len(document))]
    return found


def _write_everything(folder: Path) -> None:
    import sys

    from PySide6.QtWidgets import QApplication
    from tools.trial.windows import demo_job, window_in, work_ended

    out, err = (os.open(folder / name, os.O_CREAT | os.O_WRONLY) for name in ("stdout.txt", "stderr.txt"))
    os.dup2(out, 1)
    os.dup2(err, 2)
    _, window = window_in(folder / "home")
    job = folder / f"job{ENDING}"
    session: Any = window.session
    session.start_job(demo_job())
    session.save_as(job)
    device = session.job.cameras[0].id
    vault = create(sealed_path(job, ENDING), PASSPHRASE)
    vault.change(lambda one: Vault({**one.passwords, device: SECRET}))
    vault.change(lambda one: Vault({**one.passwords, "other": SECRET}))
    window.go("bench")
    view = window.pages["bench"].passwords
    view._first.setText(PASSPHRASE)
    session._write_copy()
    session.save_as(folder / f"other{ENDING}")
    for ending in (".csv", ".xlsx", ".html", ".pdf", ENDING):
        convert(job, folder / f"out{ending}", Reader(), Options(replace=True))
    try:
        raise RuntimeError(f"{vault} {SECRET} {PASSPHRASE}")
    except RuntimeError as error:
        sys.excepthook(RuntimeError, RuntimeError("told"), error.__traceback__)
    session.apply(_rename())
    session._write_copy()
    work_ended(session._copying, 10)
    QApplication.processEvents()


def _rename() -> Any:
    from eager_lens.core.job.edits import set_job

    return set_job("name", name="Renamed")
