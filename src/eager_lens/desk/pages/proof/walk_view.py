"""The walk test: announces walks, records caught or missed, and judges the result."""

from __future__ import annotations

from datetime import datetime
from typing import NamedTuple

from PySide6.QtCore import QTimer
from PySide6.QtGui import QHideEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import QApplication, QCheckBox, QLineEdit, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.limits import LEAST_CAUGHT_SHARE
from eager_lens.core.clock.zones import zone_named
from eager_lens.core.job.model import Camera
from eager_lens.core.job.place import was_dark
from eager_lens.core.job.proof import Walk
from eager_lens.core.job.proving import add_walks
from eager_lens.core.plain_text import inside
from eager_lens.core.records.acceptance.recording import measured_check
from eager_lens.core.records.acceptance.walk_test import ROUTES, Answer, WalkTest
from eager_lens.core.records.acceptance.walks import Caught, against, caught_by_kind
from eager_lens.core.reference.acceptance import acceptance_test
from eager_lens.core.tried_rule.tried import tried_rule_of
from eager_lens.core.units import figure
from eager_lens.core.validation import at_least
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.proof.acceptance_view import now_text
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

TICK_MS = 200
MOST_WALKS, LONGEST_PAUSE_S = 100, 600.0
WHOLE_PICTURE = "Whole picture"


class CaughtRow(NamedTuple):
    """A row of the results: a camera's walks of one zone and light."""

    id: str
    camera: str
    seen: Caught
    promised_share: float | None


def _verdict(one: CaughtRow) -> str:
    return "" if one.promised_share is None else against(one.promised_share, one.seen)


def _mark(one: CaughtRow, assessment: Assessment) -> Mark:
    return "done" if at_least(one.seen.share, LEAST_CAUGHT_SHARE) else Severity.FAULT


def _percent(share: float | None) -> str:
    return "" if share is None else f"{figure(100 * share, 3)} %"


COLUMNS = (
    TableColumn("camera", "Camera", lambda one, a: one.camera, width=130),
    TableColumn("zone", "Zone", lambda one, a: one.seen.zone, width=96),
    TableColumn("light", "Light", lambda one, a: "dark" if one.seen.dark else "day", width=50),
    TableColumn("caught", "Caught", lambda one, a: f"{one.seen.caught} of {one.seen.walks}", width=84, mark=_mark),
    TableColumn("rate", "Rate", lambda one, a: _percent(one.seen.share), align="right", width=62),
    TableColumn(
        "range",
        "True rate, 90 % range",
        lambda one, a: f"{_percent(one.seen.low_share)} to {_percent(one.seen.high_share)}",
        width=124,
    ),
    TableColumn("promised", "Predicted", lambda one, a: _percent(one.promised_share), align="right", width=116),
    TableColumn("verdict", "Result", lambda one, a: _verdict(one), width=300, stretch=True),
)


class WalkView(QWidget):
    """Who walks where, the call, and the count."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.test: WalkTest | None = None
        self._camera_id = ""
        self._promised: dict[tuple[str, MotionRule], float] = {}
        self.busy = Busy(session, self)
        self._make_controls()
        self._make_call()
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.empty_words = "No walks yet. Send a colleague out, and press “Start walks”."
        self._lay_out()
        self._clock = QTimer(self, interval=TICK_MS)
        self._clock.timeout.connect(self._tick)
        session.selection_changed.connect(self._follow_selection)
        self._show_call()

    # ---- parts ------------------------------------------------------------------------------------------------------

    def _make_controls(self) -> None:
        self.camera = Choice()
        self.camera.setAccessibleName("Camera")
        self.camera.currentIndexChanged.connect(lambda _: self._camera_selected())
        self.zone = Choice()
        self.zone.setAccessibleName("Zone")
        self.dark = QCheckBox("In the dark")
        self.walks = NumberField("How many walks", "walks")
        self.walks.show_value(8)
        self.pause = NumberField("Seconds between walks", "s apart")
        self.pause.show_value(20)
        for one in (self.walks, self.pause):
            one.refused.connect(lambda words: self.session.notice(words, needs=True))
        self.routes = QLineEdit("; ".join(ROUTES))
        self.routes.setAccessibleName("Routes, separated by semicolons")
        self.promise = button(
            "Predict", self._ask_promise, tip="Try the camera's rule in its scene, as on the Motion page"
        )

    def _make_call(self) -> None:
        self.call = label("", "verdict", wrap=True)
        self.call.setMinimumHeight(look.px(56))
        self.start = button("Start walks", self._start, "main")
        self.caught = button("Caught", lambda: self._answer("caught"), "main", "Key C")
        self.missed = button("Missed", lambda: self._answer("missed"), tip="Key M")
        self.not_walked = button("Not walked", lambda: self._answer("not walked"), "quiet", "Key N: does not count")
        self.stop = button("End", self._end, "quiet")
        for key, act in (("C", self.caught), ("M", self.missed), ("N", self.not_walked)):
            QShortcut(QKeySequence(key), self, act.click)
        for part in (self.caught, self.missed):
            part.setMinimumHeight(look.px(52))
            part.setMinimumWidth(look.px(140))

    def _lay_out(self) -> None:
        caution = label(
            "Walk where people will walk, at their pace; not on a track, a road with traffic or a roof, and not near running "
            "machines. In the dark, go with a second person and a lamp.",
            "caution",
            wrap=True,
        )
        what = row(self.camera, self.zone, self.dark, self.walks, self.pause, None)
        routes = row(label("Routes", "small"), self.routes, self.promise)
        answers = row(self.start, self.caught, self.missed, self.not_walked, self.stop, None)
        layout = column(
            what, routes, self.call, answers, self.busy.line("Trying the rule"), self.table, caution, spacing=SPACE.HALF
        )
        layout.setStretch(5, 1)
        self.setLayout(layout)

    # ---- what is shown ----------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Follow the job: its cameras, and all walks on record."""
        cameras = [camera for camera in assessment.job.cameras if camera.motion_rule_on]
        if self.camera.offer([(camera.id, camera.name) for camera in cameras]):
            self._follow_selection()
        self._camera_selected()
        self._show_table(assessment)
        self._show_call()

    def _show_table(self, assessment: Assessment) -> None:
        by_camera: dict[str, list[Walk]] = {}
        for walk in assessment.job.walks:
            by_camera.setdefault(walk.camera, []).append(walk)
        rows = []
        for camera_id, walks in by_camera.items():
            camera = assessment.facts.by_device_id.get(camera_id)
            promised = (
                self._promised.get((camera_id, camera.motion_rule or MotionRule()))
                if isinstance(camera, Camera)
                else None
            )
            for seen in caught_by_kind(walks):
                key = f"{camera_id}/{seen.zone}/{seen.dark}"
                rows.append(CaughtRow(key, assessment.facts.name(camera_id), seen, promised))
        self.table.show_parts(rows, assessment)

    def _selected_camera(self) -> Camera | None:
        part = self.session.assessment.facts.by_device_id.get(str(self.camera.currentData() or ""))
        return part if isinstance(part, Camera) else None

    def _follow_selection(self) -> None:
        if self.session.selected and self.test is None:
            at = self.camera.findData(self.session.selected[0])
            if at >= 0:
                self.camera.setCurrentIndex(at)

    def _camera_selected(self) -> None:
        """Another camera has other zones; whether it is dark there is known."""
        camera = self._selected_camera()
        self.start.setEnabled(camera is not None)
        self.promise.setEnabled(camera is not None)
        if camera is None or camera.id == self._camera_id:
            return
        self._camera_id = camera.id
        zones = [] if camera.motion_rule is None else [one for one in camera.motion_rule.zones if not one.leave_out]
        self.zone.clear()
        self.zone.addItems([f"Zone {at}" for at in range(1, len(zones) + 1)] or [WHOLE_PICTURE])
        now = datetime.now(zone_named(self.session.job.time_zone))
        self.dark.setChecked(was_dark(self.session.job, now))

    def _show_call(self) -> None:
        test = self.test
        running = test is not None and test.phase != "over"
        called = test is not None and test.phase == "called"
        if test is not None:
            self.call.setText(test.call)
        elif self.camera.count():
            self.call.setText("One person walks, one watches the recorder and answers here.")
        else:
            self.call.setText("No camera of the job has a motion rule switched on.")
        for part in (self.camera, self.zone, self.dark, self.walks, self.pause, self.routes):
            part.setEnabled(not running)
        self.start.setVisible(not running)
        for one in (self.caught, self.missed, self.not_walked):
            one.setVisible(running)
            one.setEnabled(called)
        self.stop.setVisible(running)

    # ---- walking ----------------------------------------------------------------------------------------------------

    def _start(self) -> None:
        camera = self._selected_camera()
        if camera is None:
            return
        routes = tuple(one.strip()[:100] for one in self.routes.text().split(";") if one.strip()) or ROUTES
        self._camera_id = camera.id
        walks = min(MOST_WALKS, max(1, round(self.walks.value or 1)))
        self.test = WalkTest(routes, walks, min(LONGEST_PAUSE_S, max(1.0, self.pause.value or 1.0)))
        self._clock.start()
        self._show_call()

    def _tick(self) -> None:
        if self.test is None:
            return
        if self.test.pass_time(TICK_MS / 1000):
            QApplication.beep()
            self.caught.setFocus()
        self._show_call()

    def _answer(self, answer: Answer) -> None:
        test = self.test
        if test is None or test.phase != "called":
            return
        route = test.route
        test.answer(answer)
        if answer != "not walked":
            walk = Walk(
                camera=self._camera_id,
                zone=self.zone.currentText(),
                route=route,
                dark=self.dark.isChecked(),
                caught=answer == "caught",
                at=now_text(),
                by=self.session.person[:200],
            )
            self.session.apply(add_walks([walk]))
        if len(test.answers) >= test.walks:
            self._end()
        self._show_call()

    def _end(self) -> None:
        """Count the walks, and put the test on record."""
        test, measured = self.test, acceptance_test("motion")
        self._clock.stop()
        if test is None or measured is None:
            return
        test.end()
        if test.walked:
            light = "in the dark" if self.dark.isChecked() else "by day"
            value = f"{test.caught} of {test.walked} caught, {light}, {inside(self.zone.currentText())}"
            percent = round(100 * test.caught / test.walked, 1)
            self.session.attempt(
                lambda: measured_check(
                    measured,
                    self._camera_id,
                    percent,
                    value,
                    "walk test",
                    self.session.assessment,
                    self.session.person,
                    now_text(),
                )
            )
        self._show_call()

    def _ask_promise(self) -> None:
        """Try the camera's rule where the Motion page does, and hold the walks against it."""
        camera = self._selected_camera()
        if camera is None:
            return
        trial, rule, camera_id = tried_rule_of(camera), camera.motion_rule or MotionRule(), camera.id

        def work(task: Task) -> Work[float | None]:
            source = yield from trial.source()
            outcome = (yield from trial.look(source, rule, "sample")).outcome
            return None if outcome is None or not outcome.visits else 1 - outcome.missed_share

        def take(share: float | None) -> None:
            if share is None:
                self.session.notice(f"{camera.name}: no visits in its scene, so nothing can be predicted", needs=True)
                return
            self._promised[camera_id, rule] = share
            self.session.notice(
                f"{camera.name}: its rule catches {figure(100 * share, 3)} % of visits in {trial.words}"
            )
            self._show_table(self.session.assessment)

        self.busy.begin(work, take)

    def hideEvent(self, event: QHideEvent) -> None:
        """A test that nobody looks at waits: its clock stands still."""
        self._clock.stop()

    def showEvent(self, event: object) -> None:
        """It goes on."""
        if self.test is not None and self.test.phase != "over":
            self._clock.start()
