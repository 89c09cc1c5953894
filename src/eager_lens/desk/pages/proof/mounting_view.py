"""The mounting: each device's checklist, with the caution at the step that can hurt."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity, names_listed
from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import read_whole
from eager_lens.core.job.model import Device
from eager_lens.core.job.proving import set_mounting_list, tick_mounting, untick_mounting
from eager_lens.core.job.rehearsal import Tick
from eager_lens.core.runbook.mounting import (
    DeviceStep,
    list_from_text,
    list_text,
    mounted_devices,
    steps_of_job,
    steps_with,
)
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.pages.proof.acceptance_view import now_text
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import beside, button, column, label, row
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.writing import export

LIST_FILE = FileKind("Mounting lists", (".json",))
LARGEST_LIST_BYTES = 2**20


class DeviceRow(NamedTuple):
    """A row on the left: a device, and how far its list is."""

    id: str
    name: str
    steps: tuple[DeviceStep, ...]

    @property
    def done(self) -> int:
        """Steps that are done or left out."""
        return sum(one.tick is not None for one in self.steps)


class StepRow(NamedTuple):
    """A row on the right: a step on the selected devices."""

    id: str
    stage: str
    steps: tuple[DeviceStep, ...]

    @property
    def text(self) -> str:
        """What to do; where devices differ in it, as the first has it."""
        return self.steps[0].text

    @property
    def caution(self) -> str:
        """What can hurt at it."""
        return self.steps[0].step.caution


def _device_mark(one: DeviceRow, assessment: Assessment) -> Mark:
    return "done" if one.done == len(one.steps) else None


def _step_mark(one: StepRow, assessment: Assessment) -> Mark:
    if all(step.tick is not None for step in one.steps):
        return "done"
    return Severity.WARNING if one.caution else None


def _noted(one: StepRow, assessment: Assessment) -> str:
    ticks = [step.tick for step in one.steps if step.tick is not None]
    if len(one.steps) > 1:
        return f"{len(ticks)} of {len(one.steps)}" if ticks else ""
    if not ticks:
        return "caution" if one.caution else ""
    tick = ticks[0]
    return " ".join(
        part for part in ("left out" if tick.outcome == "skipped" else "done", tick.by, tick.at[:10]) if part
    )


class MountingView(QWidget):
    """Devices on the left, the list of the selected ones on the right."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self._taking = False
        self.devices = RecordTable(
            session,
            (
                TableColumn("device", "Device", lambda one, a: one.name, width=150, mark=_device_mark, stretch=True),
                TableColumn("done", "Done", lambda one, a: f"{one.done} of {len(one.steps)}", align="right", width=74),
            ),
        )
        self.devices.empty_words = "Nothing to mount. Add cameras on the Wiring page."
        self.devices.selectionModel().selectionChanged.connect(lambda *_: self._device_selected())
        self.steps = RecordTable(
            session,
            (
                TableColumn("step", "Step", lambda one, a: one.text, width=380, mark=_step_mark, stretch=True),
                TableColumn("noted", "Noted", _noted, width=110),
            ),
            group_by=lambda one: one.stage,
            shares_selection=False,
        )
        self.steps.empty_words = "Select a device on the left to see its list."
        self.steps.installEventFilter(self)
        self.steps.selectionModel().selectionChanged.connect(lambda *_: self._show_detail())
        self._whose = label("", "heading")
        self._text = label("", "", wrap=True)
        self._caution = label("", "caution", wrap=True)
        self.done = button("Done", lambda: self._tick("done"), "main", "Space ticks and unticks")
        self.skip = button("Skip", lambda: self._tick("skipped"))
        self.undone = button("Untick", self._untick, "quiet")
        self.save_list = button("Save the list …", self._save_list, "quiet", "To edit it, or to pass it on")
        self.take_list = button("Load another list …", self._take_list, "quiet", "The firm's own, from a file")
        self.usual_list = button("Default list", self._usual_list, "quiet")
        self._lay_out()

    def _lay_out(self) -> None:
        marks = row(self.done, self.skip, self.undone, None)
        lists = row(self.save_list, self.take_list, self.usual_list, None)
        whole = column(self._whose, self.steps, self._text, self._caution, marks, lists, spacing=SPACE.TIGHT)
        whole.setStretch(1, 1)
        self.setLayout(column(beside(column(self.devices), whole)))

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw both tables."""
        ticks = {tick.step: tick for tick in assessment.job.mounting}
        rows = [_device_row(device, assessment, ticks) for device in mounted_devices(assessment.job)]
        self._taking = True
        self.devices.show_parts(rows, assessment)
        self._taking = False
        self.usual_list.setVisible(bool(assessment.job.mounting_list))
        self._show_steps()

    def _device_selected(self) -> None:
        if not self._taking:
            self._show_steps()

    def _show_steps(self) -> None:
        by_step: dict[str, list[DeviceStep]] = {}
        records = self.devices.records
        shown: list[DeviceRow] = self.devices.selected_parts() or [records.at(0)] if records.rowCount() else []
        self._whose.setText(names_listed([one.name for one in shown], 4))
        for device in shown:
            for one in device.steps:
                by_step.setdefault(one.step.id, []).append(one)
        order = {step.id: at for at, step in enumerate(steps_of_job(self.session.job))}
        rows = [StepRow(key, steps[0].step.stage, tuple(steps)) for key, steps in by_step.items()]
        rows.sort(key=lambda one: order.get(one.id, 0))
        self.steps.show_parts(rows, self.session.assessment)
        self._show_detail()

    def _selected(self) -> list[StepRow]:
        return [one for one in self.steps.selected_parts() if isinstance(one, StepRow)]

    def _show_detail(self) -> None:
        rows = self._selected()
        one = rows[0] if len(rows) == 1 else None
        self._text.setText(one.text if one else f"{count(len(rows), 'step')} selected" if rows else "")
        cautions = list(dict.fromkeys(row.caution for row in rows if row.caution))
        self._caution.setText("\n".join(cautions))
        self._caution.setVisible(bool(cautions))
        for part in (self.done, self.skip):
            part.setEnabled(bool(rows))
        self.undone.setEnabled(any(step.tick is not None for row in rows for step in row.steps))

    # ---- what is done -----------------------------------------------------------------------------------------------

    def _tick(self, outcome: str) -> None:
        keys = [step.key for one in self._selected() for step in one.steps]
        if keys:
            now, by = now_text(), self.session.person[:200]
            self.session.attempt(
                lambda: tick_mounting(
                    [Tick.model_validate({"step": key, "outcome": outcome, "by": by, "at": now}) for key in keys]
                )
            )
            self.steps.setFocus()

    def _untick(self) -> None:
        keys = [step.key for one in self._selected() for step in one.steps if step.tick is not None]
        if keys:
            self.session.apply(untick_mounting(keys))
            self.steps.setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Space ticks the selected steps, and takes ticks back."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Space:
            rows = self._selected()
            if rows and all(step.tick is not None for one in rows for step in one.steps):
                self._untick()
            elif rows:
                self._tick("done")
            return True
        return super().eventFilter(watched, event)

    # ---- the list itself --------------------------------------------------------------------------------------------

    def _save_list(self) -> None:
        path = file_to_write(
            self.asker, "Save the mounting list", LIST_FILE, self.session.beside(" mounting list.json")
        )
        if path is not None:
            export(self.session, path, list_text(steps_of_job(self.session.job)).encode())

    def _take_list(self) -> None:
        path = self.asker.open_file("A mounting list", (LIST_FILE,))
        if path is None:
            return
        try:
            steps = list_from_text(read_whole(path, LARGEST_LIST_BYTES, "mounting list").decode("utf-8", "replace"))
        except EagerLensError as error:
            self.session.notice(f"{path.name}: {error}", needs=True)
            return
        if self.session.apply(set_mounting_list(steps)):
            self.session.tell_step(f"{path.name} has {count(len(steps), 'step')}; ticks under the same id stay")

    def _usual_list(self) -> None:
        if self.session.apply(set_mounting_list(())):
            self.session.tell_step("Default list stands again")

    def lead_to(self, subject: str) -> None:
        """Show a device's list."""
        self.devices.lead_to(subject)


def _device_row(device: Device, assessment: Assessment, ticks: dict[str, Tick]) -> DeviceRow:
    return DeviceRow(device.id, device.name, tuple(steps_with(device, assessment, ticks)))
