"""Setting devices in the real window: look, agree, watch, stop, put back; what it leaves in the job and its log."""

import os
import tempfile
from unittest import mock

from PySide6.QtCore import Qt

from eager_lens.core.commission.ledger import ledger_beside, runs_in
from eager_lens.core.job.file import write_job
from eager_lens.core.records.event_log.log_file import log_beside
from eager_lens.core.records.event_log.verify import entries_of
from eager_lens.desk.pages.bench.page import SET_DEVICES
from tests.desk.base import WindowCase
from tests.onsite.commission.in_memory import boxed_job


class SetDevices(WindowCase):
    def setUp(self):
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        patched = mock.patch.dict(
            os.environ, {"XDG_RUNTIME_DIR": folder.name, "XDG_CACHE_HOME": f"{folder.name}/cache"}
        )
        patched.start()
        self.addCleanup(patched.stop)

    def opened(self, many=2):
        path = self.folder / "depot.lens.json"
        write_job(path, boxed_job(many), None)
        self.session.open(path)
        self.window.go("bench")
        page = self.window.pages["bench"]
        page.show_view(SET_DEVICES)
        self.view = page.set_devices
        self.addCleanup(self.view.controls.here.stop_and_wait)
        return self.view

    def start_stand_ins(self):
        self.click(self.view.controls.start_here)
        self.until(lambda: self.view.controls.here.site is not None, 60)

    def look(self):
        self.click(self.view.look)
        self.until(lambda: self.view.looked is not None, 60)

    def states(self):
        return {row.state for row in self.view.shown_rows()}

    def runs(self):
        return runs_in(ledger_beside(self.session.path))

    def test_from_the_box_to_the_plan_and_back(self):
        view = self.opened()
        self.start_stand_ins()
        self.look()
        self.assertIn("3 devices", view._words.text())
        self.assertIn("nothing is sent before you say so", view._words.text())
        self.assertEqual(self.states(), {"to be set"})
        self.assertTrue(view._cautions.isVisible())
        self.assertEqual(self.runs(), [])
        # The keyboard is where the next step is.
        self.assertTrue(view.begin.hasFocus())
        self.key(view.begin, Qt.Key.Key_Space)
        self.until(lambda: view.setting.is_running, 5)
        self.until(lambda: not view.setting.is_running, 120)
        self.assertEqual(self.states(), {"set"})
        ticked = {tick.step for tick in self.session.job.commissioning}
        self.assertLessEqual({"cam-1/set-up", "cam-1/settings", "cam-1/rec-1", "rec-1/set-up"}, ticked)
        clocks = {one.device: one.outcome for one in self.session.job.checks if one.check == "clock"}
        self.assertEqual(clocks.get("cam-1"), "passed")
        self.session.undo()
        self.assertEqual((self.session.job.commissioning, self.session.job.checks), ((), ()))
        self.session.log.flush()
        entries = [one.event for one in entries_of(log_beside(self.session.path)) if one.event.kind == "set device"]
        address = next(one for one in entries if "address" in one.values and one.about == ("cam-1",))
        self.assertIn("172.30.0.50/24 → 172.22.40.40/24", address.values["address"])
        self.assertNotIn(view.controls.here.site.password, log_beside(self.session.path).read_text("utf-8"))
        self.click(view.put_back)
        self.until(lambda: view.looked is not None and view.looked.puts_back, 20)
        self.assertEqual(view.begin.text(), "Put them back")
        self.click(view.begin)
        self.until(lambda: view.setting.is_running, 5)
        self.until(lambda: not view.setting.is_running, 120)
        self.assertTrue(self.runs()[-1].head.puts_back)
        wrong = [line for line in self.runs()[-1].lines if line.state not in ("begun", "done")]
        self.assertEqual(wrong, [])

    def test_it_is_stopped_and_gone_on_with(self):
        view = self.opened(1)
        self.start_stand_ins()
        self.look()
        self.click(view.begin)
        self.until(lambda: any(line.state == "done" for line in view.lines.values()), 60)
        self.click(view.stop)
        self.until(lambda: not view.setting.is_running, 60)
        self.assertTrue(self.runs()[-1].stopped)
        self.assertIn("not begun", view._words.text())
        self.look()
        self.assertEqual(self.states(), {"to be set"})
        self.assertNotIn("User", {row.what for row in view.shown_rows() if row.name == "Recorder 1"})

    def test_nothing_answers_and_nothing_is_sent(self):
        view = self.opened(1)
        self.start_stand_ins()
        self.session.select(["cam-1"])
        view.controls.selected.setChecked(True)
        self.assertIn("1 selected device", view.controls.selected.text())
        self.look()
        self.assertEqual({row.name for row in view.shown_rows()}, {"Camera 1"})
        view.controls.selected.setChecked(False)
        self.assertIsNone(view.looked)  # what was looked at is no longer what would be set

    def test_a_job_without_a_file_says_what_to_do(self):
        self.window.open_demo()
        self.window.go("bench")
        page = self.window.pages["bench"]
        page.show_view(SET_DEVICES)
        self.assertFalse(page.set_devices.look.isEnabled())
