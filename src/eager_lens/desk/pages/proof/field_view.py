"""The field sheet: made for a telephone, and taken in again with what two people say differently side by side."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.errors import EagerLensError, RefusedInput
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.records.event_log.photos import put_photo
from eager_lens.core.records.field_sheet.content import MadeSheet, field_sheet
from eager_lens.core.records.field_sheet.handed_out import base_handed_out, handed_out_event
from eager_lens.core.records.field_sheet.merging import Conflict, Merging, Side, merged_edit, merging
from eager_lens.core.records.field_sheet.saved import ENDING, FieldFile, photo_bytes, read_field_file
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.background import Task, Work
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.writing import export

SHEET_FILE = FileKind("Field sheets", (".html",))
SAVED_FILE = FileKind("Saved field sheets", (ENDING, ".json"))
HOW = (
    "1. Create the sheet and send it to the telephone: one file, no network and no app needed.\n2. Open it there in the "
    "browser, fill it in on site, and save it as one small file.\n3. Read that file in here. Differences between the sheet and "
    "the job are shown below, and nothing is overwritten without asking."
)


class ConflictRow(NamedTuple):
    """A row of the table: a difference, and whose word counts so far."""

    id: str
    conflict: Conflict
    decided: Side | None


def _mark(one: ConflictRow, assessment: Assessment) -> Mark:
    return Severity.WARNING if one.decided is None else "done"


def _counts(one: ConflictRow, assessment: Assessment) -> str:
    return {"job": "the job's", "sheet": "the sheet's"}.get(one.decided or "", "")


COLUMNS = (
    TableColumn("what", "What differs", lambda one, a: one.conflict.what, width=200, mark=_mark),
    TableColumn("job", "In the job", lambda one, a: one.conflict.in_job, width=220),
    TableColumn("sheet", "On the sheet", lambda one, a: one.conflict.on_sheet, width=220),
    TableColumn("counts", "Use", _counts, width=100, stretch=True),
)


class FieldView(QWidget):
    """Making a sheet, and taking one in."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self.busy = Busy(session, self)
        self.file: FieldFile | None = None
        self.found: Merging | None = None
        self.decided: dict[str, Side] = {}
        self._handed_out = ""
        self._opened = -1
        self.which = Choice()
        self.which.setAccessibleName("Devices on the sheet")
        self.make = button("Create field sheet …", self._make, "main")
        self.take = button("Read saved sheet …", self._ask_saved)
        self._words = label("", "", wrap=True)
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.empty_words = "No difference to decide."
        self.table.doubleClicked.connect(lambda index: self._turn(index.row()))
        self.as_job = button("Use the job", lambda: self._decide("job"), tip="For the selected rows, or all")
        self.as_sheet = button("Use the sheet", lambda: self._decide("sheet"), tip="For the selected rows, or all")
        self.take_in = button("Read it in", self._take_in, "main")
        self.drop = button("Cancel", self._drop, "quiet")
        self._how = label(HOW, "small", wrap=True)
        self._decision = QWidget()
        answers = row(self.as_job, self.as_sheet, None, self.drop, self.take_in)
        decision = column(self._words, self.table, answers, spacing=SPACE.HALF)
        decision.setStretch(1, 1)
        self._decision.setLayout(decision)
        layout = column(
            row(self.which, self.make, self.take, None),
            self._how,
            self.busy.line("Working on the sheet"),
            self._decision,
            None,
            spacing=SPACE.HALF,
        )
        layout.setStretch(3, 1)
        self.setLayout(layout)
        session.selection_changed.connect(self._show_which)
        self._show()

    # ---- what is shown ----------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Hold the sheet that waits against the job as it is now."""
        if self._opened != self.session.times_opened:
            self._opened = self.session.times_opened
            self._drop()
        self._show_which()
        if self.file is not None:
            self._hold(self.file)

    def _show_which(self) -> None:
        at = max(0, self.which.currentIndex())
        many = len(self.session.selected)
        self.which.clear()
        self.which.addItem("All devices")
        if many:
            self.which.addItem(f"{count(many, 'selected device')}")
        self.which.setCurrentIndex(min(at, self.which.count() - 1))

    def _show(self) -> None:
        found = self.found
        self._decision.setVisible(found is not None)
        if found is None:
            return
        rows = [ConflictRow(one.key, one, self.decided.get(one.key)) for one in found.conflicts]
        left = sum(one.decided is None for one in rows)
        to_decide = f" {count(left, 'difference')} to decide." if left else ""
        self._words.setText(f"{found.words}{to_decide}")
        self.table.show_parts(rows, self.session.assessment)
        self.table.setVisible(bool(rows))
        self.as_job.setVisible(bool(rows))
        self.as_sheet.setVisible(bool(rows))
        self.take_in.setEnabled(not left)

    # ---- making -----------------------------------------------------------------------------------------------------

    def _make(self) -> None:
        assessment = self.session.assessment
        if not assessment.facts.devices:
            self.session.notice("The job has no devices yet, so there is nothing to fill in. Add cameras first.")
            return
        path = file_to_write(self.asker, "Create field sheet", SHEET_FILE, self.session.beside(" field sheet.html"))
        if path is None:
            return
        only = self.session.selected if self.which.currentIndex() == 1 else ()
        now = datetime.datetime.now().isoformat(timespec="minutes")

        def work(task: Task) -> Work[MadeSheet]:
            yield 0.1
            return field_sheet(assessment, now, only)

        def hand_out(made: MadeSheet) -> None:
            export(self.session, path, made.text.encode())
            self.session.log.note(handed_out_event(made.id, made.base, path.name))

        self.busy.begin(work, hand_out)

    # ---- taking in --------------------------------------------------------------------------------------------------

    def _ask_saved(self) -> None:
        path = self.asker.open_file("A saved field sheet", (SAVED_FILE,))
        if path is not None:
            self.read(path)

    def read(self, path: Path) -> None:
        """Read a saved sheet and show what it brings."""
        self._drop()
        self.session.log.flush()
        log = self.session.log.path

        def both(one: Path, step: object) -> tuple[FieldFile, str]:
            file = read_field_file(one)
            return file, base_handed_out(log, file.sheet)

        self.busy.read(path, both, self._take_file)

    def _take_file(self, read: tuple[FieldFile, str]) -> None:
        file, self._handed_out = read
        self._hold(file)
        self.file = file

    def _hold(self, file: FieldFile) -> None:
        try:
            self.found = merging(self.session.assessment, file, self._handed_out)
        except RefusedInput as error:
            self._drop()
            self.session.notice(sentence_case(str(error)), needs=True)
            return
        keys = {one.key for one in self.found.conflicts}
        self.decided = {key: side for key, side in self.decided.items() if key in keys}
        self._show()

    def _turn(self, at: int) -> None:
        part = self.table.records.at(at)
        if isinstance(part, ConflictRow):
            self.decided[part.id] = "job" if part.decided == "sheet" else "sheet"
            self._show()

    def _decide(self, side: Side) -> None:
        parts: Sequence[ConflictRow] = self.table.selected_parts()
        found = self.found
        if found is None:
            return
        keys = [one.id for one in parts] or [one.key for one in found.conflicts]
        self.decided.update(dict.fromkeys(keys, side))
        self._show()

    def _drop(self) -> None:
        self.file = self.found = None
        self.decided = {}
        self._show()

    def _take_in(self) -> None:
        found, job_path = self.found, self.session.path
        if found is None:
            return
        if found.file.photos and job_path is None:
            self.session.notice(
                "Save the job first: the sheet's photos are kept in a folder beside its file.", needs=True
            )
            return
        decided = dict(self.decided)

        def work(task: Task) -> Work[dict[str, str]]:
            kept: dict[str, str] = {}
            for at, (photo, address) in enumerate(found.file.photos.items()):
                yield at / len(found.file.photos)
                if job_path is not None:
                    kept[photo] = put_photo(job_path, photo_bytes(address))
            return kept

        self.busy.begin(work, lambda photos: self._apply(found, decided, photos))

    def _apply(self, found: Merging, decided: dict[str, Side], photos: dict[str, str]) -> None:
        try:
            edit = merged_edit(found, decided, photos)
        except RefusedInput as error:
            self.session.notice(sentence_case(error.problem) + ".")
            return
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)
            return
        self._drop()
        if self.session.apply(edit):
            self.session.tell_step(edit.label)
