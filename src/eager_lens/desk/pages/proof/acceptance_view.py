"""The acceptance tests: on the left every device with how far it is, on the right its tests, planned against measured."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.proof import site_tests, tests_by_device
from eager_lens.core.assess.finding import Severity, names_listed
from eager_lens.core.clip.in_subprocess import measuring
from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.model import Camera, Job
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import attach_photo, latest_checks, record_checks
from eager_lens.core.records.acceptance.from_clip import clip_check
from eager_lens.core.records.acceptance.planned import planned
from eager_lens.core.records.acceptance.recording import device_name, result_words, typed_checks
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.records.event_log.photos import keep_photo
from eager_lens.core.reference.acceptance import SITE, AcceptanceTest, acceptance_test
from eager_lens.desk.asking import CLIP_FILE, Asker, FileKind
from eager_lens.desk.pages.proof.picture_measure import PictureMeasure
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, beside, button, column, label
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable, type_into

if TYPE_CHECKING:
    from eager_lens.core.clip.measure import Measured

PHOTOS = FileKind("Photos", (".jpg", ".jpeg", ".png"))
RESULT = 2
"""The column of results."""
SYMPTOM_OF = {
    "picture": "no-picture",
    "night": "night",
    "stream": "no-picture",
    "clock": "wrong-time",
    "clip": "no-clip",
    "motion": "no-motion",
    "chain": "no-motion",
    "link": "stutters",
    "rssi": "comes-and-goes",
    "remote": "remote",
}
"""What is seen where a test fails, as the fault finder has it."""
SHOWN = ("All devices", "Tests to do", "Failed")


def now_text() -> str:
    """Now, as results bear it."""
    return datetime.datetime.now().isoformat(timespec="seconds")


class DeviceRow(NamedTuple):
    """A row on the left: what is tested, and how far it is."""

    id: str
    name: str
    passed: int
    failed: int
    tests: tuple[AcceptanceTest, ...]


class TestRow(NamedTuple):
    """A row on the right: a test, and its last result on each of the selected devices."""

    id: str
    test: AcceptanceTest
    on: tuple[str, ...]
    checks: tuple[Check | None, ...]


def _device_mark(one: DeviceRow, assessment: Assessment) -> Mark:
    return Severity.FAULT if one.failed else "done" if one.passed == len(one.tests) else None


def _test_mark(one: TestRow, assessment: Assessment) -> Mark:
    outcomes = {check.outcome if check else None for check in one.checks}
    return Severity.FAULT if "failed" in outcomes else "done" if outcomes == {"passed"} else None


def _result(one: TestRow, assessment: Assessment) -> str:
    made = [check for check in one.checks if check is not None]
    if len(one.checks) == 1 and made:
        words = result_words(one.test, made[0])
        return f"{made[0].outcome}{' ' if words else ''}{words}"
    passed = sum(check.outcome == "passed" for check in made)
    return f"{passed} of {len(one.checks)} passed" if made else ""


def _planned(one: TestRow, assessment: Assessment) -> str:
    words = {planned(one.test, device_id, assessment).words for device_id in one.on}
    return words.pop() if len(words) == 1 else "differs"


def _result_words(one: TestRow, assessment: Assessment) -> str:
    """How a test is made, what to note, and what the plan expects."""
    plan = _planned(one, assessment)
    return f"{one.test.how} Note {one.test.value}.{f' Planned: {plan}.' if plan else ''}"


def _only(one: TestRow, name: str) -> str:
    texts = {getattr(check, name) for check in one.checks if check is not None}
    return texts.pop() if len(texts) == 1 else ""


class AcceptanceView(QWidget):
    """Devices, their tests, and what is to be known of the test that is selected."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self._latest: dict[tuple[str, str], Check] = {}
        self._taking = False
        self.busy = Busy(session, self)
        self._make_tables()
        self._make_detail()
        self._lay_out()

    # ---- parts ------------------------------------------------------------------------------------------------------

    def _make_tables(self) -> None:
        self.shown = Choice()
        self.shown.setAccessibleName("Which devices are shown")
        self.shown.addItems(SHOWN)
        self.shown.currentIndexChanged.connect(lambda _: self.show_assessment(self.session.assessment))
        self.devices = RecordTable(
            self.session,
            (
                TableColumn("device", "Device", lambda one, a: one.name, width=150, mark=_device_mark, stretch=True),
                TableColumn(
                    "passed", "Passed", lambda one, a: f"{one.passed} of {len(one.tests)}", align="right", width=74
                ),
            ),
        )
        self.devices.empty_words = "No devices to show. Add devices on the Wiring page, or show all devices above."
        self.devices.selectionModel().selectionChanged.connect(lambda *_: self._device_selected())
        self.tests = RecordTable(
            self.session,
            (
                TableColumn("test", "Test", lambda one, a: one.test.heading, width=132),
                TableColumn("planned", "Planned", _planned, width=180),
                TableColumn(
                    "result",
                    "Result",
                    _result,
                    self._typed,
                    lambda one, job: () if one.test.unit else ("passed", "failed"),
                    width=150,
                    stretch=True,
                    mark=_test_mark,
                ),
                TableColumn("by", "By", lambda one, a: _only(one, "by"), width=56),
            ),
            shares_selection=False,
        )
        self.tests.empty_words = "Select a device on the left to see its tests."
        self.tests.installEventFilter(self)
        self.tests.delete_asked.connect(self._withdraw)
        self.tests.selectionModel().selectionChanged.connect(lambda *_: self._show_detail())

    def _make_detail(self) -> None:
        self._whose = label("", "heading")
        self._how = label("", "small", wrap=True)
        self._caution = label("", "caution", wrap=True)
        self._history = label("", "small", wrap=True)
        self.passed = button(
            "Passed", partial(self._record, "passed"), "main", "For the selected tests; type to enter a result"
        )
        self.failed = button("Failed …", partial(self._begin_typing, "failed "), tip="Type what you saw after it")
        self.withdraw = button(
            "Withdraw …",
            partial(self._begin_typing, "withdrawn "),
            tip="For a wrong entry: type the reason. It stays on record but no longer counts",
        )
        self.enter = button("Enter a value", partial(self._begin_typing, ""))
        self.measure = button("Measure on a picture …", self._measure, tip="Mark something of known size")
        self.clip = button(
            "From a clip …", self._ask_clip, tip="Read a clip from the recorder and record what it shows"
        )
        self.attach = button(
            "Attach a photo …", self._attach, tip="The photo is kept beside the job, and its hash in the event log"
        )
        self.fault = button("Find the fault …", self._find_fault, tip="With the most useful questions")
        self.picture = PictureMeasure(self.session, self._picture_done)
        self.picture.hide()

    def _lay_out(self) -> None:
        buttons = flow(
            self.passed, self.failed, self.enter, self.withdraw, self.measure, self.clip, self.attach, self.fault
        )
        reading = self.busy.line("Reading the clip")
        parts = (self._whose, self.tests, self.picture, reading, self._how, self._caution, buttons, self._history)
        whole = column(*parts, spacing=SPACE.TIGHT)
        whole.setStretch(1, 3)
        whole.setStretch(2, 5)
        self.setLayout(column(beside(column(self.shown, self.devices, spacing=SPACE.TIGHT), whole)))

    # ---- what is shown ----------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw both tables."""
        self._latest = latest_checks(assessment.job)
        self._taking = True
        self.devices.show_parts(self._device_rows(assessment), assessment)
        self._taking = False
        self._show_tests()

    def _device_rows(self, assessment: Assessment) -> list[DeviceRow]:
        facts = assessment.facts
        wanted = SHOWN[self.shown.currentIndex()]
        rows = []
        # Cameras first: there are most of them, and each is stood before.
        devices = sorted(facts.devices, key=lambda device: not isinstance(device, Camera))
        needed = tests_by_device(facts)
        made = {device_id for device_id, _ in self._latest}
        for device_id, tests in (*((device.id, needed[device.id]) for device in devices), (SITE, site_tests(facts))):
            outcomes = (
                [check.outcome for test in tests if (check := self._latest.get((device_id, test.id)))]
                if device_id in made
                else []
            )
            passed, failed = outcomes.count("passed"), outcomes.count("failed")
            if not tests or (wanted == "Failed" and not failed) or (wanted == "Tests to do" and passed == len(tests)):
                continue
            rows.append(DeviceRow(device_id, device_name(device_id, assessment), passed, failed, tests))
        return rows

    def _device_selected(self) -> None:
        if not self._taking:
            self._show_tests()

    def _show_tests(self) -> None:
        records = self.devices.records
        devices: list[DeviceRow] = self.devices.selected_parts() or [records.at(0)] if records.rowCount() else []
        self._whose.setText(names_listed([one.name for one in devices], 4))
        on: dict[str, list[str]] = {}
        for device in devices:
            for test in device.tests:
                on.setdefault(test.id, []).append(device.id)
        rows = []
        for test_id, ids in on.items():
            known = acceptance_test(test_id)
            if known is not None:
                rows.append(TestRow(test_id, known, tuple(ids), tuple(self._latest.get((one, test_id)) for one in ids)))
        self.tests.show_parts(rows, self.session.assessment)
        if rows and not self.tests.selected_parts():
            self.tests.lead_to(rows[0].id)
        self._show_detail()

    def _row(self) -> TestRow | None:
        index = self.tests.currentIndex()
        part = self.tests.records.at(index.row()) if index.isValid() else None
        return part if isinstance(part, TestRow) else None

    def _show_detail(self) -> None:
        one = self._row()
        for part in (
            self.passed,
            self.failed,
            self.enter,
            self.withdraw,
            self.measure,
            self.clip,
            self.attach,
            self.fault,
        ):
            part.setVisible(one is not None)
        self._how.setText(_result_words(one, self.session.assessment) if one else "")
        self._caution.setText(one.test.caution if one else "")
        self._caution.setVisible(bool(one and one.test.caution))
        self._history.setText(self._history_of(one) if one else "")
        self._history.setVisible(bool(self._history.text()))
        if one is None:
            self._leave_picture()
            return
        single = len(one.on) == 1
        self.passed.setVisible(not one.test.unit)
        self.enter.setVisible(bool(one.test.unit) and single)
        self.measure.setVisible(one.id == "density" and single)
        self.clip.setVisible(one.id in ("clip", "stream") and single)
        self.withdraw.setVisible(any(check is not None for check in one.checks))
        self.attach.setVisible(single and one.checks[0] is not None)
        self.fault.setVisible(
            single and one.on[0] != SITE and _test_mark(one, self.session.assessment) is Severity.FAULT
        )
        if one.id != "density" or not single or self.picture.camera_id != one.on[0]:
            self._leave_picture()

    def _history_of(self, one: TestRow) -> str:
        """Every time that the test was made on the device, the latest first."""
        if len(one.on) != 1:
            return ""
        made = [c for c in self.session.job.checks if (c.device, c.check) == (one.on[0], one.id)]
        lines = [
            " · ".join(
                part
                for part in (
                    check.at.replace("T", " "),
                    check.by,
                    check.outcome,
                    result_words(one.test, check),
                    check.how if check.how != "typed" else "",
                    ""
                    if check.counts
                    else f"withdrawn by {check.withdrawn_by or 'nobody named'}: {check.withdrawn_why}",
                    f"{len(check.photos)} photo{'s' if len(check.photos) != 1 else ''}" if check.photos else "",
                )
                if part
            )
            for check in reversed(made[-5:])
        ]
        lines += [
            f"Snag {snag.state}: {snag.text}{f' ({snag.owner})' if snag.owner else ''}"
            for snag in self.session.job.snags
            if (snag.device, snag.check) == (one.on[0], one.id)
        ]
        return "\n".join(lines)

    # ---- what is done -----------------------------------------------------------------------------------------------

    def _typed(self, parts: Sequence[TestRow], text: str, job: Job) -> Edit:
        ids = list(dict.fromkeys(device for part in parts for device in part.on))
        tests = [part.test for part in parts]
        return typed_checks(tests, ids, text, self.session.assessment, self.session.person, now_text())

    def _record(self, text: str) -> None:
        parts = self.tests.selected_parts()
        if parts:
            self.session.attempt(lambda: self._typed(parts, text, self.session.job))
            self.tests.setFocus()

    def _withdraw(self, parts: Sequence[TestRow]) -> None:
        """Delete withdraws nothing by itself: it opens the result, and the reason is typed behind it."""
        if any(check is not None for part in parts for check in part.checks):
            self._begin_typing("withdrawn ")

    def _begin_typing(self, text: str) -> None:
        """Open the result's cell with what is typed already."""
        index = self.tests.currentIndex()
        if index.isValid():
            type_into(self.tests, self.tests.records.index(index.row(), RESULT), text)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Typing opens the result, whichever cell of the row has the keyboard; Return records it. No key records one by itself."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and self._row() is not None:
            free = not event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
            if free and event.key() == Qt.Key.Key_Space:
                self._begin_typing("")
                return True
            if free and event.text().isprintable() and event.text():
                self._begin_typing(event.text())
                return True
        return super().eventFilter(watched, event)

    def _measure(self) -> None:
        one = self._row()
        camera = None if one is None else self.session.assessment.facts.by_device_id.get(one.on[0])
        if isinstance(camera, Camera):
            path = self.asker.open_file("A picture of this camera", (PHOTOS,))
            if path is not None and self.picture.begin(camera, path):
                self.picture.show()

    def _ask_clip(self) -> None:
        """Read a clip off the window's thread, and put what it shows on record."""
        one = self._row()
        camera = None if one is None else self.session.assessment.facts.by_device_id.get(one.on[0])
        if one is None or not isinstance(camera, Camera):
            return
        path = self.asker.open_file("A clip of this camera", (CLIP_FILE,))
        if path is None:
            return
        test_id, label_words, fps = one.id, one.test.label, camera.fps

        def read(found: Measured) -> None:
            job, by = self.session.job, self.session.person
            check = clip_check(test_id, camera, job, path.name, found.rate, by, now_text())
            self.session.apply(record_checks([check], f"{label_words} {check.outcome}: {camera.name}"))

        self.busy.begin(lambda task: measuring(path, fps), read)

    def _find_fault(self) -> None:
        one = self._row()
        if one is not None:
            self.session.fault_asked.emit(one.on, SYMPTOM_OF.get(one.id, ""))

    def _picture_done(self) -> None:
        self._leave_picture()
        self.tests.setFocus()

    def _leave_picture(self) -> None:
        self.picture.hide()
        self.picture.clear()

    def _attach(self) -> None:
        """Keep a photo beside the job, and put it on the last result."""
        one = self._row()
        check = one.checks[0] if one is not None else None
        if check is None:
            return
        if self.session.path is None:
            self.session.notice("Save the job first: photos are kept in a folder beside its file.", needs=True)
            return
        path = self.asker.open_file("A photo of this test", (PHOTOS,))
        if path is not None:
            self._take_photo(check, path, self.session.path)

    def _take_photo(self, check: Check, path: Path, job_path: Path) -> None:
        try:
            digest = keep_photo(job_path, path)
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)
            return
        if digest in check.photos:
            self.session.notice(f"{path.name} is attached already")
            return
        self.session.log.note(Event("photo", f"Attach {path.name}", (check.device,), photos=(digest,)))
        self.session.apply(attach_photo(check, digest))

    def lead_to(self, subject: str) -> None:
        """Show a device's tests."""
        if self.shown.currentIndex():
            self.shown.setCurrentIndex(0)
        self.devices.lead_to(subject)
        self.tests.setFocus()
