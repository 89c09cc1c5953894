"""Setting devices over the network: look first, agree to a table of what differs, watch it being done, put it back."""

from __future__ import annotations

import contextlib
import tempfile
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QTimer
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.commission.act import SetPlan
from eager_lens.core.commission.afterwards import events_of_run, steps_done
from eager_lens.core.commission.ledger import ActLine, Run, ledger_beside, put_back_plan, runs_in
from eager_lens.core.commission.plan import Wishes
from eager_lens.core.commission.report import CAUTIONS, cut_off_words, intent_words, outcome_words, settings_words
from eager_lens.core.errors import EagerLensError, RefusedInput
from eager_lens.core.job.edits import Edit, tick_steps
from eager_lens.core.job.file import ENDING
from eager_lens.core.job.rehearsal import Tick
from eager_lens.core.records.sealed.vault import open_vault, sealed_path
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.take_over import take_over
from eager_lens.core.units import count
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.bench.set_devices.controls import SetControls
from eager_lens.desk.pages.bench.set_devices.rows import COLUMNS, SettingRow, rows_of
from eager_lens.desk.pages.bench.site_check.site_here import SiteHereProcess
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.onsite.commission.start import looking_at, planning, setting_devices
from eager_lens.onsite.here import SiteHere

NOTHING_YET = (
    "Nothing looked at yet. Plug the devices in, then press “Look at the devices”: what differs from the plan is listed here, and "
    "nothing is sent before you agree. To try it, start stand-ins out of the box."
)
NO_FILE = "Save the job first: the state of a run is kept beside its file, so that it can be gone on with and put back."
REFRESH_MS = 300


class Looked(NamedTuple):
    """What a look found: the plan, where it went, and with which passwords it was made."""

    plan: SetPlan
    here: SiteHere | None
    passwords: dict[str, str]
    puts_back: bool = False


class Outcome(NamedTuple):
    """What came of a run, and what the devices told afterwards (None: it was stopped)."""

    run: Run
    after: CheckRun | None


class SetDevicesView(QWidget):
    """What differs, what is being set, and what came of it."""

    def __init__(self, session: Session, here: SiteHereProcess) -> None:
        super().__init__()
        self.session = session
        self.controls = SetControls(session, here)
        self.controls.changed.connect(self._drop)
        session.selection_changed.connect(self._follow)
        self.looked: Looked | None = None
        self.lines: dict[tuple[str, str], ActLine] = {}
        self._fresh: list[ActLine] = []
        self._opened = -1
        self._stop: Path | None = None
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self.busy = Busy(session, self)
        self.busy.changed.connect(self._show_controls)
        self.setting = Busy(session, self)
        self.setting.stop_button.hide()
        self.setting.changed.connect(self._show_controls)
        self.setting.changed.connect(self._over)
        self._make_parts()
        self._lay_out()
        self._refresh = QTimer(self, interval=REFRESH_MS)
        self._refresh.timeout.connect(self._show_fresh)

    def _make_parts(self) -> None:
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.look = button("Look at the devices", self._look, "main", "Reads them as they are now; nothing is set")
        self.begin = button(
            "Set them", self._set, "main", "Sends what is listed, device by device, and reads each back"
        )
        self.put_back = button(
            "Put the last run back …", self._ask_back, tip="Restores what was read before it; users and passwords stay"
        )
        self.stop = button(
            "Stop after these settings", self._stop_soon, tip="What is being set is finished and read back"
        )
        self._cautions = label("\n".join(CAUTIONS), "caution", wrap=True)
        self._cut_off, self._not_reached = label("", "caution", wrap=True), label("", "caution", wrap=True)
        self._cut_off.hide()
        self.table = RecordTable(self.session, COLUMNS, shares_selection=False)
        self.table.setAccessibleName("What is set")
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._selected())
        self._means = label("", "small", wrap=True)

    def _lay_out(self) -> None:
        head = row(self._words, self.look, self.begin, self.stop, self.put_back, spacing=SPACE.HALF)
        head.setStretch(0, 1)
        layout = column(
            head,
            self.controls,
            self._cautions,
            self._cut_off,
            self._not_reached,
            self.busy.line("Looking at the devices"),
            self.setting.line("Setting the devices"),
            self.table,
            self._means,
            spacing=SPACE.HALF,
        )
        layout.setStretch(7, 1)
        self.setLayout(layout)

    # ---- what is shown ----------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Follow the plan; another job has other runs."""
        if self._opened != self.session.times_opened:
            self._opened = self.session.times_opened
            self.busy.stop()
            self._stop_soon()
            self._drop()
            self._show_cut_off()
        path = self.session.path
        sealed = None if path is None else sealed_path(path, ENDING)
        self.controls.show_job(assessment.job, sealed if sealed is not None and sealed.exists() else None)
        self._show()

    def _follow(self) -> None:
        if self.isVisible():
            self.show_assessment(self.session.assessment)

    def _ledger(self) -> Path | None:
        return None if self.session.path is None else ledger_beside(self.session.path)

    def _last_run(self) -> Run | None:
        path = self._ledger()
        try:
            runs = runs_in(path) if path is not None else []
            return runs[-1] if runs else None
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)
            return None

    def _show_cut_off(self) -> None:
        run = self._last_run()
        words = cut_off_words(run) if run is not None and not run.is_over else ()
        more = " Look at the devices again and set them: what was done is not repeated."
        self._cut_off.setText(
            f"The last run was cut off. {' '.join(words)}{more}" if run is not None and not run.is_over else ""
        )
        self._cut_off.setVisible(bool(self._cut_off.text()))

    def _show(self) -> None:
        assessment = self.session.assessment
        if self.looked is None:
            why = "Looking …" if self.busy.is_running else NO_FILE if self.session.path is None else NOTHING_YET
            self.table.show_parts([], assessment, why_none=why)
            self._words.setText("Set the devices over the network")
        else:
            nothing = "Nothing differs: all devices that were looked at are as planned."
            self.table.show_parts(rows_of(self.looked.plan, self.lines), assessment, why_none=nothing)
            self._words.setText(self._head_words(self.looked))
        self._show_not_reached()
        self._show_controls()
        self._selected()

    def shown_rows(self) -> list[SettingRow]:
        """The rows of the table, as they stand in it."""
        records = self.table.records
        return [one for at in range(records.rowCount()) if isinstance(one := records.at(at), SettingRow)]

    def _head_words(self, looked: Looked) -> str:
        if self.lines:
            return settings_words(
                [(act, self.lines.get((one.device, act.key))) for one in looked.plan.devices for act in one.acts]
            )
        left = sum(bool(one.refused) for one in looked.plan.devices)
        alone = f" {count(left, 'device')} left alone." if left else ""
        return f"{intent_words(looked.plan)}{alone}"

    def _show_not_reached(self) -> None:
        far = self.looked.plan.not_reached if self.looked is not None and not self.lines else ()
        self._not_reached.setText("\n".join(f"Not reached: {words}." for words in far))
        self._not_reached.setVisible(bool(far))

    def _show_controls(self) -> None:
        looking, setting = self.busy.is_running, self.setting.is_running
        idle = not looking and not setting
        to_set = self.looked is not None and bool(self.looked.plan.to_set) and not self.lines
        self.look.setVisible(idle and not to_set)
        self.look.setEnabled(self.session.path is not None)
        self.begin.setVisible(idle and to_set)
        self.begin.setText("Put them back" if self.looked is not None and self.looked.puts_back else "Set them")
        self._cautions.setVisible(to_set and idle)
        self.stop.setVisible(setting)
        self.stop.setEnabled(self._stop is not None and not self._stop.exists())
        self.put_back.setVisible(idle and not to_set and self._ledger_exists())
        self.controls.setEnabled(idle)

    def _ledger_exists(self) -> bool:
        path = self._ledger()
        return path is not None and path.exists()

    def _selected(self) -> None:
        parts = self.table.selected_parts()
        one = parts[0] if parts else None
        now = f"{one.now} → {one.will_be}. " if one is not None and one.will_be else ""
        self._means.setText("" if one is None else f"{one.name}, {one.what}: {now}{one.why}")
        self._means.setVisible(one is not None)

    def _drop(self) -> None:
        """What was looked at is no longer what would be set."""
        if not self.setting.is_running:
            self.looked, self.lines = None, {}
            self._show()

    # ---- looking ----------------------------------------------------------------------------------------------------

    def _look(self) -> None:
        job, wishes, here = self.session.job, self.controls.wishes(), self.controls.target()
        sealed, may_ask = self.controls.taken_passphrase(), self.controls.asks.isChecked()
        self._drop()

        def work(task: Task) -> Work[Looked]:
            yield 0.0
            passwords = dict(open_vault(*sealed).vault.passwords) if sealed is not None else {}
            return Looked((yield from planning(job, wishes, passwords, here, may_ask)), here, passwords)

        self.busy.begin(work, self._take_look)
        self._show()

    def _take_look(self, looked: Looked) -> None:
        self.looked, self.lines = looked, {}
        self._show()
        if looked.plan.to_set:
            self.begin.setFocus()

    def _ask_back(self) -> None:
        run, here = self._last_run(), self.controls.target()
        plan = put_back_plan(run) if run is not None else SetPlan()
        if not plan.devices:
            self.session.notice("The last run set nothing that can be put back; users and passwords stay.", needs=True)
            return
        sealed = self.controls.taken_passphrase()

        def work(task: Task) -> Work[Looked]:
            yield 0.0
            passwords = dict(open_vault(*sealed).vault.passwords) if sealed is not None else {}
            return Looked(plan, here, passwords, puts_back=True)

        self.busy.begin(work, self._take_look)

    # ---- setting ----------------------------------------------------------------------------------------------------

    def _set(self) -> None:
        looked, ledger, job = self.looked, self._ledger(), self.session.job
        if looked is None or ledger is None:
            return
        self._folder = tempfile.TemporaryDirectory(prefix="eager-lens-")
        stop = self._stop = Path(self._folder.name) / "stop"
        may_ask, self._fresh = self.controls.asks.isChecked(), []

        def work(task: Task) -> Work[Outcome]:
            yield 0.0
            given = (job, looked.plan, looked.passwords, looked.here, ledger, stop, may_ask, looked.puts_back)
            run = yield from setting_devices(*given, told=self._fresh.append)
            if run.stopped or looked.puts_back:
                return Outcome(run, None)
            only = Wishes(tuple(one.device for one in looked.plan.to_set))
            return Outcome(run, (yield from looking_at(job, only, looked.passwords, looked.here)))

        self.setting.begin(work, self._take_outcome)
        self._refresh.start()
        self._show_controls()

    def _stop_soon(self) -> None:
        """What is being set is finished; nothing more is begun."""
        if self._stop is not None and self.setting.is_running:
            self._stop.touch()
            self._show_controls()

    def _show_fresh(self) -> None:
        """Rows move as they are done; the lines come from another thread."""
        if not self.setting.is_running:
            self._refresh.stop()
        if self._fresh:
            fresh, self._fresh[:] = list(self._fresh), []
            self.lines.update({(line.device, line.act): line for line in fresh})
            self._show()

    def _over(self) -> None:
        """However it ended, nobody asks for its stop any more."""
        if not self.setting.is_running and self._folder is not None:
            self._folder.cleanup()
            self._folder = self._stop = None

    def _take_outcome(self, outcome: Outcome) -> None:
        self._show_fresh()
        self.lines = {(line.device, line.act): line for line in outcome.run.lines}
        for event in events_of_run(outcome.run):
            self.session.log.note(event)
        self._note_in_job(outcome)
        self.session.tell_step(outcome_words(outcome.run))
        self._show_cut_off()
        self._show()

    def _note_in_job(self, outcome: Outcome) -> None:
        """Tick the steps that are done, and fill the tests that were answered, in one step that can be undone."""
        steps: list[Edit] = []
        job = self.session.job
        keys = set(steps_done(outcome.run)) - {tick.step for tick in job.commissioning if tick.outcome == "done"}
        if keys and not outcome.run.head.puts_back:
            now = datetime.now().strftime("%Y-%m-%d %H:%M")
            by = job.prepared_by
            steps.append(
                tick_steps([Tick(step=key, by=by, at=now, note="set over the network") for key in sorted(keys)])
            )
        if outcome.after is not None:
            with contextlib.suppress(RefusedInput):  # nothing new in it
                steps.append(take_over(self.session.assessment, outcome.after, job.prepared_by))
        if not steps:
            return
        words = f"Devices set over the network: {count(len(keys), 'step')} ticked"
        edit = Edit(words, lambda now: steps[-1].apply(steps[0].apply(now)) if len(steps) > 1 else steps[0].apply(now))
        self.session.apply(edit)

    def hideEvent(self, event: QHideEvent) -> None:
        """On return, what will be sent has to be looked at again."""
        self.controls.passphrase.clear()
        if not self.lines:
            self._drop()
