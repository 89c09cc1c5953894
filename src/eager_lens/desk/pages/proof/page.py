"""Checks after mounting: passed or failed, by whom, when, with the value seen."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.proof import CHECKS, CheckKind
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, clear_check, set_check
from eager_lens.core.job.fields import IDENTITY, field_named
from eager_lens.core.job.model import Camera, Check, Job
from eager_lens.core.plain_text import inside
from eager_lens.core.units import count
from eager_lens.desk.session import Session
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.basics import label
from eager_lens.desk.widgets.columns import device_column, marks_by_subject
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable


class ProofPage(Page):
    """The table of cameras and checks."""

    stage = "proof"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._by = QLineEdit()
        self._by.setPlaceholderText("initials")
        self._by.setMaximumWidth(look.px(90))
        self._by.setAccessibleName("Initials of who checks")
        self._made: dict[tuple[str, str], Check] = {}
        columns = [
            device_column(field_named(IDENTITY, "name"), 170, "Camera"),
            *(self._column(kind, last=kind is CHECKS[-1]) for kind in CHECKS),
        ]
        self.cameras = RecordTable(session, columns)
        self.cameras.installEventFilter(self)
        self.action_row.addWidget(label("Checked by", "small"))
        self.action_row.addWidget(self._by)
        self.action_row.addWidget(
            label("Space: passed, failed, not made. Or type “passed 5 of 5”, “failed dark”.", "small")
        )
        self.action_row.addStretch(1)
        self.body.addWidget(self.cameras, 1)
        for kind in CHECKS:
            self.body.addWidget(label(f"{kind.label}: {kind.how} Note {kind.value}.", "small", wrap=True))
        self.body.addWidget(
            label(
                "At height: not alone, ladder secured. Housings may be hot; keep clear of traffic and of live parts.",
                "caution",
                wrap=True,
            )
        )

    def _column(self, kind: CheckKind, last: bool) -> TableColumn:
        def show(camera: Camera, assessment: Assessment) -> str:
            check = self._made.get((camera.id, kind.id))
            return "" if check is None else " ".join(part for part in (check.outcome, check.value) if part)

        def edit(parts: Sequence[Camera], text: str, job: Job) -> Edit:
            return self._typed(kind, [part.id for part in parts], text)

        def mark(camera: Camera, assessment: Assessment) -> Mark:
            check = self._made.get((camera.id, kind.id))
            return None if check is None else "done" if check.outcome == "passed" else Severity.FAULT

        def choices(camera: Camera, job: Job) -> Sequence[str]:
            return ("passed", "failed", "")

        return TableColumn(kind.id, kind.label, show, edit, choices, width=120, stretch=last, mark=mark)

    def _typed(self, kind: CheckKind, ids: list[str], text: str) -> Edit:
        """The edit for what was typed: an outcome, and behind it the value seen."""
        word, _, value = text.strip().partition(" ")
        whom = count(len(ids), "camera")
        if not word:
            edits = [clear_check(device_id, kind.id) for device_id in ids]
            return _all(edits, f"Clear {inside(kind.label)} on {whom}")
        outcomes: dict[str, Any] = {
            "passed": "passed",
            "p": "passed",
            "ok": "passed",
            "failed": "failed",
            "f": "failed",
        }
        outcome = outcomes.get(word.lower())
        if outcome is None:
            raise RefusedInput(kind.label, f"{word!r} was given; begin with passed or failed, then the value seen")
        now = datetime.datetime.now().isoformat(timespec="minutes")
        by = self._by.text().strip()
        made = [
            set_check(Check(device=i, check=kind.id, outcome=outcome, by=by, at=now, value=value.strip()[:200]))
            for i in ids
        ]
        return _all(made, f"{kind.label} {outcome} on {whom}")

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the table."""
        self._made = {(check.device, check.check): check for check in assessment.job.checks}
        self.cameras.show_parts(assessment.job.cameras, assessment, marks_by_subject(assessment, "proof"))

    def eventFilter(self, watched: Any, event: Any) -> bool:
        """Space goes round: not made, passed, failed."""
        if isinstance(event, QKeyEvent) and event.type() == QKeyEvent.Type.KeyPress and event.key() == Qt.Key.Key_Space:
            index = self.cameras.currentIndex()
            if index.isValid() and index.column() > 0:
                self._cycle(self.cameras.records.at(index.row()), CHECKS[index.column() - 1])
            return True
        return super().eventFilter(watched, event)

    def _cycle(self, camera: Camera, kind: CheckKind) -> None:
        check = self._made.get((camera.id, kind.id))
        following = "passed" if check is None else "failed" if check.outcome == "passed" else ""
        selected = [part.id for part in self.cameras.selected_parts()] or [camera.id]
        self.session.attempt(lambda: self._typed(kind, selected, following))

    def lead_to(self, subject: str) -> None:
        """Show a camera's row."""
        self.cameras.lead_to(subject)
        self.cameras.setFocus()


def _all(edits: list[Edit], words: str) -> Edit:
    """Several edits as one step."""

    def apply(job: Job) -> Job:
        for edit in edits:
            job = edit.apply(job)
        return job

    return Edit(words, apply)
