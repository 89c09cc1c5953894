"""The site check in the real window: the stand-ins started, looked at, taken over, compared, stopped."""

import os
import tempfile
from unittest import mock

from PySide6.QtCore import Qt

from eager_lens.core.job.file import read_job, write_job
from eager_lens.core.records.event_log.log_file import log_beside
from eager_lens.core.records.event_log.verify import entries_of
from eager_lens.core.site_check.run_file import read_runs, runs_beside
from eager_lens.desk.pages.bench.page import PLAN, SITE_CHECK
from tests.desk.base import WindowCase
from tests.onsite.base import small_job, wait_encoded


class SiteCheck(WindowCase):
    def setUp(self):
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.place = folder.name
        own = {"XDG_RUNTIME_DIR": folder.name, "XDG_CACHE_HOME": f"{folder.name}/cache"}
        patched = mock.patch.dict(os.environ, own)
        patched.start()
        self.addCleanup(patched.stop)

    def opened(self, job=None):
        """The view, on a job that has a file."""
        path = self.folder / "depot.lens.json"
        write_job(path, job or small_job(2), None)
        self.session.open(path)
        self.window.go("bench")
        page = self.window.pages["bench"]
        page.show_view(SITE_CHECK)
        self.view = page.site_check
        self.addCleanup(self.view.controls.here.stop_and_wait)
        self.view.controls.seconds.show_value(2)
        return self.view

    def start_stand_ins(self):
        self.click(self.view.controls.start_here)
        self.until(lambda: self.view.controls.here.site is not None, 60)
        wait_encoded(self.place)

    def look(self):
        self.click(self.view.look)
        self.until(self.view.begin.isVisible, 30)
        self.click(self.view.begin)
        self.until(lambda: not self.view.busy.is_running, 90)

    def shown(self):
        return {one.row.name: one for one in self.view.shown_rows()}

    def test_from_the_stand_ins_to_as_built_and_back(self):
        view = self.opened()
        view.controls.fault.setCurrentIndex(view.controls.fault.findText("its clock is an hour off"))
        view.controls.fault_at.setCurrentText("Camera 2")
        self.start_stand_ins()
        self.assertEqual(view.controls.where.currentIndex(), 1)
        self.assertIn("an hour ahead", view.controls.here_words.text())
        self.look()
        rows = self.shown()
        self.assertEqual(rows["Camera 1"].row.lines, ())
        self.assertIn("60 min ahead", rows["Camera 2"].row.verdict)
        self.assertIn("1 to check", view._words.text())
        self.click(view.take)
        self.assertEqual(self.session.job.checks, ())
        self.until(view.taking.apply.isEnabled, 30)
        self.assertIn("New fault: 1 acceptance test failed", view.taking.effect.text())
        view.taking.rates.setChecked(True)
        self.until(view.taking.apply.isEnabled, 30)
        self.click(view.taking.apply)
        camera = self.session.job.cameras[0]
        self.assertIn("site check", camera.measured_from)
        self.assertEqual(
            {(one.check, one.outcome) for one in self.session.job.checks if one.device == "cam-2"},
            {
                ("stream", "passed"),
                ("clock", "failed"),
            },
        )
        self.session.undo()
        self.assertEqual(self.session.job.cameras[0].measured_from, "")
        self.session.log.flush()
        kinds = [entry.event.kind for entry in entries_of(log_beside(self.session.path))]
        self.assertEqual([kind for kind in kinds if kind in ("site check", "take over")], ["site check", "take over"])
        runs, problems = read_runs(runs_beside(self.session.path))
        self.assertEqual((len(runs), problems), (1, []))
        # Saved as a table, by what the person asks for.
        self.window.asker.files = [self.folder / "check.csv"]
        self.click(view.save)
        self.assertIn("Camera 2", (self.folder / "check.csv").read_text("utf-8-sig"))
        # Again, and what changed since.
        self.look()
        self.assertEqual(view.earlier.count(), 2)
        view.earlier.setCurrentIndex(1)
        self.assertEqual({one.since for one in self.shown().values()}, {""})
        self.click(view.controls.start_here)
        self.assertIsNone(view.controls.here.site)
        self.assertEqual(view.controls.where.currentIndex(), 0)
        # Whoever opens the job again finds the last check.
        self.session.open(self.session.path)
        self.assertEqual(len(view.runs), 2)

    def test_nothing_is_sent_before_somebody_says_so(self):
        view = self.opened()
        with mock.patch("eager_lens.desk.pages.bench.site_check.view.checking_site") as begun:
            self.click(view.look)
            self.until(view.begin.isVisible, 30)
            self.assertIn("Nothing: the laptop has no address in any subnet", view.ask_words.text())
            self.click(view.decline)
            self.assertFalse(view.begin.isVisible())
            # What is changed after the question is asked anew.
            self.click(view.look)
            self.until(view.begin.isVisible, 30)
            self.click(view.controls.more)
            self.click(view.controls.parts["stream"])
            self.assertFalse(view.begin.isVisible())
            begun.assert_not_called()

    def test_by_keyboard_and_stopped_half_way(self):
        view = self.opened(small_job(3))
        view.controls.start_here.setFocus()
        self.key(view.controls.start_here, Qt.Key.Key_Space)
        self.until(lambda: view.controls.here.site is not None, 60)
        view.look.setFocus()
        self.key(view.look, Qt.Key.Key_Space)
        self.until(view.begin.hasFocus, 30)
        self.key(view.begin, Qt.Key.Key_Space)
        self.until(lambda: view.run is not None and bool(view.run.heard), 60)
        self.assertNotIn("fault", {one.row.severity.word for one in self.shown().values() if one.row.severity})
        view.busy.stop_button.setFocus()
        self.key(view.busy.stop_button, Qt.Key.Key_Space)
        self.wait_for_work()
        self.assertFalse(view.busy.is_running)
        self.assertTrue(view.run.heard)  # what was read stays
        self.assertIn("stopped before the end", view._words.text())
        self.assertEqual(read_runs(runs_beside(self.session.path))[0], [])
        # Stand-ins that still end hold their addresses: others begin after them, and nobody stands still for it.
        here = view.controls.here
        with mock.patch("PySide6.QtCore.QProcess.waitForFinished", side_effect=AssertionError("stands still")):
            here.stop()
            here.start(self.session.job, [])
            self.assertTrue(here.is_starting)
            self.until(lambda: here.site is not None, 60)

    def test_a_job_without_devices_is_told_what_to_do(self):
        view = self.opened(small_job(0, recorders=(), network=(), links=()))
        self.click(view.controls.start_here)
        self.until(lambda: any("none of its devices would run" in one.text for one in self.notices), 60)
        self.assertFalse(view.controls.here.is_starting)

    def test_damaged_runs_are_told_and_the_job_opens(self):
        path = self.folder / "depot.lens.json"
        runs_beside(path).write_text("not json\n")
        self.opened()
        self.assertTrue(any("is not a run" in one.text for one in self.notices))
        self.assertEqual(read_job(path).job.name, "Test job")

    def test_watching_ticks_a_step_when_its_device_answers(self):
        self.opened()
        page = self.window.pages["bench"]
        page.show_view(PLAN)
        self.until(lambda: page.plan.placed, 30)
        page.show_view(SITE_CHECK)
        self.view.controls.fault.setCurrentIndex(self.view.controls.fault.findText("its cable is pulled"))
        self.view.controls.fault_at.setCurrentText("Camera 2")
        self.start_stand_ins()
        page.show_view(PLAN)
        plan = page.plan
        plan.table.lead_to("cam-1/plug")
        self.click(plan._watch_button)
        ticked = lambda: {one.step for one in self.session.job.commissioning}  # noqa: E731
        self.until(lambda: {"cam-1/plug", "cam-1/set-up"} <= ticked(), 60)
        # Camera 2 is not plugged in: it waits, and says for whom.
        self.until(lambda: "Camera 2 at 172.22.40.41" in plan._watch_words.text(), 30)
        self.assertTrue(any("Camera 1 answers at 172.22.40.40" in one.text for one in self.notices))
        self.click(plan.watch.stop_button)
        self.assertFalse(plan.watch.is_running)
        self.assertNotIn("cam-2/plug", ticked())
