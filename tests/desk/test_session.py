"""The session: named undo, unsaved work, files changed by others, copies that outlive a kill."""

import gc
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
import unittest
import weakref
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt, QThreadPool
from PySide6.QtTest import QSignalSpy, QTest

from eager_lens.core.errors import ChangedOnDisk, FileTrouble, RefusedInput
from eager_lens.core.job.edits import Edit, set_fields, set_job, with_parts
from eager_lens.core.job.file import job_text, read_job, stamp_of
from eager_lens.core.pauses import pause
from eager_lens.desk.autosave import Autosave, LeftWork, discard, left_work
from eager_lens.desk.background import RIGHT_OF_WAY, start, waited_for
from eager_lens.desk.collector import GuiThreadCollector, freeze_long_lived
from eager_lens.desk.large_steps import is_large
from eager_lens.desk.preferences import Preferences, load_preferences, save_preferences
from tests.desk.base import SessionCase
from tests.support import camera, demo_job, job_with, week_of

ROOT = Path(__file__).parents[2]


def fps(value, gesture=None, label="Set frame rate"):
    return set_fields(["cam-1"], label, gesture, fps=value)


class History(SessionCase):
    def setUp(self):
        super().setUp()
        self.job = job_with([camera(1), camera(2)])
        self.session.start_job(self.job)

    def rate(self):
        return self.session.job.cameras[0].fps

    def test_undo_and_redo_by_name(self):
        self.session.apply(fps(5, label="Five"))
        self.session.apply(fps(6, label="Six"))
        self.assertEqual((self.session.undo_label, self.session.redo_label), ("Six", ""))
        self.session.undo()
        self.assertEqual((self.rate(), self.session.undo_label, self.session.redo_label), (5, "Five", "Six"))
        self.session.undo()
        self.assertIs(self.session.job, self.job)
        self.session.redo()
        self.session.redo()
        self.assertEqual((self.rate(), self.session.redo_label), (6, ""))

    def test_strokes_of_one_drag_are_one_step(self):
        for value in (5, 6, 7):
            self.session.apply(fps(value, gesture="drag 1"))
        self.session.apply(fps(8, gesture="drag 2"))
        self.session.undo()
        self.assertEqual(self.rate(), 7)
        self.session.undo()
        self.assertEqual(self.rate(), 12)

    def steps_back(self):
        """How many steps can be taken back, the last one first; all are done again."""
        labels = []
        while label := self.session.undo_label:
            labels.append(label)
            self.session.undo()
        for _ in labels:
            self.session.redo()
        return len(labels)

    def test_steps_that_change_many_devices_are_fewer(self):
        self.replace("eager_lens.desk.history.MOST_PARTS", 10)
        self.replace("eager_lens.desk.history.LEAST_STEPS", 3)
        for value in range(1, 21):
            self.session.apply(fps(value))
        self.assertEqual(self.steps_back(), 11, "ten cameras as they were, and the last step")
        for value in range(21, 41):
            self.session.apply(set_fields(["cam-1", "cam-2"], "Both", fps=value))
        self.assertEqual(self.steps_back(), 6)
        self.replace("eager_lens.desk.history.MOST_PARTS", 0)
        self.session.apply(fps(50))
        self.assertEqual(self.steps_back(), 3, "some in any case")

    def test_an_edit_after_undo_forgets_what_was_undone(self):
        self.session.apply(fps(5))
        self.session.undo()
        self.session.apply(fps(7))
        self.assertEqual(self.session.redo_label, "")

    def test_an_edit_that_changes_nothing_is_no_step(self):
        self.assertTrue(self.session.apply(fps(12)))
        self.assertEqual(self.session.undo_label, "")

    def test_an_edit_that_is_refused_changes_nothing_and_is_told(self):
        before = self.session.job
        self.assertFalse(self.session.apply(fps(0)))
        self.assertIs(self.session.job, before)
        self.assertTrue(self.notices[-1].needs)
        self.assertIn("fps: 0 was given", self.notices[-1].text)

    def test_every_change_is_assessed_and_announced_once(self):
        spy = QSignalSpy(self.session.assessed)
        self.session.apply(fps(5))
        self.session.undo()
        self.assertEqual(spy.count(), 2)
        self.assertIs(self.session.assessment.job, self.session.job)

    def test_a_foreign_error_is_no_edit_and_reaches_the_caller(self):
        def broken(job):
            raise KeyError("bug")

        with self.assertRaises(KeyError):
            self.session.apply(Edit("x", broken))

    def test_the_choice_is_shared_and_announced_only_when_it_changes(self):
        spy = QSignalSpy(self.session.selection_changed)
        self.session.select(["cam-1"])
        self.session.select(["cam-1"])
        self.assertEqual((spy.count(), self.session.selected), (1, ("cam-1",)))


class Files(SessionCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "job.lens.json"
        self.session.start_job(job_with([camera(1)]))

    def test_a_new_job_is_nothing_to_lose_until_it_is_edited(self):
        self.assertFalse(self.session.unsaved)
        self.session.apply(fps(4))
        self.assertTrue(self.session.unsaved)
        self.session.save_as(self.path)
        self.assertFalse(self.session.unsaved)
        self.session.apply(fps(5))
        self.assertTrue(self.session.unsaved)
        self.session.undo()
        self.assertFalse(self.session.unsaved)

    def test_recent_files_come_newest_first_and_once(self):
        other = self.folder / "other.lens.json"
        for path in (self.path, other, self.path):
            self.session.save_as(path, force=True)
        self.assertEqual(self.session.preferences.recent, (str(self.path), str(other)))
        self.assertEqual(load_preferences(self.folder / "config").recent[0], str(self.path))

    def test_two_windows_on_one_file(self):
        self.session.save_as(self.path)
        second = self.new_session()
        second.open(self.path)
        second.apply(fps(3))
        second.save_as(self.path)
        self.session.apply(fps(9))
        with self.assertRaises(ChangedOnDisk):
            self.session.save_as(self.path)
        self.assertEqual(read_job(self.path)[0].cameras[0].fps, 3)
        self.assertTrue(self.session.unsaved)
        self.session.save_as(self.path, force=True)
        self.assertEqual(read_job(self.path)[0].cameras[0].fps, 9)
        self.assertEqual(read_job(self.path.with_name("job.lens.json.previous"))[0].cameras[0].fps, 3)

    def test_a_change_on_disk_is_told_at_once_and_their_version_can_be_taken(self):
        self.session.save_as(self.path)
        self.session.apply(fps(9))
        self.path.write_text(job_text(job_with([camera(1)], name="Theirs")), "utf-8")
        for _ in range(100):
            QTest.qWait(20)
            if self.notices:
                break
        self.assertIn("changed on disk", self.notices[-1].text)
        self.notices[-1].act()
        self.assertEqual(self.session.job.name, "Theirs")
        self.session.redo()
        self.assertEqual(self.session.job.cameras[0].fps, 9)

    def test_a_file_that_cannot_be_opened_leaves_the_open_job_alone(self):
        self.session.apply(fps(9))
        before = self.session.job
        self.path.write_text("{", "utf-8")
        with self.assertRaises(FileTrouble):
            self.session.open(self.path)
        self.assertIs(self.session.job, before)
        self.assertEqual(self.session.undo_label, "Set frame rate")

    def test_a_save_that_fails_keeps_the_work_unsaved(self):
        self.session.apply(fps(4))
        with self.assertRaises(FileTrouble):
            self.session.save_as(self.folder / "nowhere" / "job.lens.json")
        self.assertTrue(self.session.unsaved)
        self.assertIsNone(self.session.path)

    def test_opening_starts_a_history_of_its_own(self):
        self.session.apply(fps(5))
        self.session.save_as(self.path)
        self.session.open(self.path)
        self.assertEqual(self.session.undo_label, "")


class Copies(SessionCase):
    def copies(self):
        return sorted((self.folder / "state").glob("*.lens.json"))

    def test_unsaved_work_is_copied_and_the_copy_goes_when_it_is_saved(self):
        self.session.start_job(job_with([camera(1)]))
        self.session.apply(fps(5))
        self.session._write_copy()
        self.wait_for_work()
        self.assertEqual(read_job(self.copies()[0])[0].cameras[0].fps, 5)
        self.session.save_as(self.folder / "job.lens.json")
        self.assertEqual(self.copies(), [])

    def test_a_copy_that_is_still_being_written_does_not_come_to_life_after_saving(self):
        autosave = Autosave(self.folder / "state")
        epoch = autosave.epoch
        autosave.clear()
        autosave.write(job_with(), None, epoch)
        self.assertEqual(self.copies(), [])

    def test_the_copy_of_a_living_window_is_not_offered(self):
        autosave = Autosave(self.folder / "state")
        autosave.write(job_with(), None, autosave.epoch)
        self.addCleanup(autosave.clear)
        code = (
            "import sys; from pathlib import Path; from eager_lens.desk.autosave import left_work;"
            "print(len(left_work(Path(sys.argv[1]))))"
        )
        self.assertEqual(self.python(code, self.folder / "state").strip(), "0")

    def python(self, code, *words):
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        command = [sys.executable, "-c", code, *map(str, words)]
        return subprocess.run(command, env=env, capture_output=True, text=True, check=True, timeout=60).stdout

    def test_work_outlives_a_kill_at_any_moment(self):
        """A process edits and copies without end and is killed; what it left opens whole and belongs to its file."""
        code = (
            "import sys; from pathlib import Path; from eager_lens.desk.autosave import Autosave;"
            "from tests.support import job_with, camera\n"
            "save = Autosave(Path(sys.argv[1])); n = 0\n"
            "while True:\n"
            "    n += 1\n"
            "    save.write(job_with([camera(1, note='x' * 3000)] , name=f'Edit {n}'), Path('/tmp/own.lens.json'), 0)\n"
            "    print(n, flush=True)\n"
        )
        env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
        for after in (1, 7, 23):
            with self.subTest(after=after):
                where = self.folder / f"kill {after}"
                process = subprocess.Popen(
                    [sys.executable, "-c", code, str(where)], env=env, stdout=subprocess.PIPE, text=True
                )
                for _ in range(after):
                    process.stdout.readline()
                process.send_signal(signal.SIGKILL)
                process.wait()
                process.stdout.close()
                (work,) = left_work(where)
                job = read_job(work.copy).job
                self.assertGreaterEqual(int(job.name.split()[1]), after)
                self.assertEqual(work.job_path, "/tmp/own.lens.json")
                discard(work)
                self.assertEqual(left_work(where), [])

    def test_recovered_work_belongs_to_its_file_again_unsaved(self):
        path = self.folder / "own.lens.json"
        path.write_text(job_text(job_with([camera(1)])), "utf-8")
        copy = self.folder / "copy.lens.json"
        copy.write_text(job_text(job_with([camera(1, fps=3)])), "utf-8")
        self.session.recover(LeftWork(copy, str(path), "Own", 0.0, stamp_of(path)))
        self.assertEqual((self.session.path, self.session.unsaved), (path, True))
        self.session.save_as(path)
        self.assertEqual(read_job(path)[0].cameras[0].fps, 3)

    def test_a_full_disk_for_copies_is_told(self):
        self.session.start_job(demo_job())
        self.session.apply(fps(4))
        with mock.patch("eager_lens.desk.autosave.write_whole", side_effect=OSError(28, "No space left on device")):
            self.session._write_copy()
            self.wait_for_work()
        self.assertIn("No safety copy", self.notices[-1].text)


class PreferenceFile(SessionCase):
    def test_there_and_back(self):
        save_preferences(self.folder, Preferences(dark=True))
        self.assertEqual(load_preferences(self.folder), Preferences(dark=True))
        path = self.folder / "preferences.json"
        path.write_text(path.read_text("utf-8").replace("{", '{"lengths": "imperial",', 1), "utf-8")
        self.assertEqual(load_preferences(self.folder), Preferences(dark=True), "a setting that is gone costs no other")

    def test_what_cannot_be_read_counts_as_none(self):
        for text in ("", "{", '{"dark": 5}', '{"unknown": 1}', "[]"):
            with self.subTest(text):
                (self.folder / "preferences.json").write_text(text, "utf-8")
                self.assertEqual(load_preferences(self.folder), Preferences())

    def test_a_folder_that_cannot_be_written_is_no_failure(self):
        (self.folder / "file").write_text("", "utf-8")
        save_preferences(self.folder / "file", Preferences())


if __name__ == "__main__":
    unittest.main()


class LargeSteps(SessionCase):
    """A step that changes very much is worked out while the window goes on."""

    def test_it_is_large_by_new_cameras_or_by_what_the_figures_of_all_go_by(self):
        few = job_with((camera(1), camera(2)))
        with mock.patch("eager_lens.desk.large_steps.MANY_NEW", 1):
            self.assertFalse(is_large(few, set_fields(["cam-1"], "Set", fps=7).apply(few)))
            self.assertTrue(is_large(few, set_fields(["cam-1", "cam-2"], "Set", fps=7).apply(few)))
        other_week = with_parts(few, schedules=(week_of("motion"),))
        self.assertFalse(is_large(few, other_week))
        with mock.patch("eager_lens.desk.large_steps.MANY", 1):
            self.assertTrue(is_large(few, other_week))
            self.assertFalse(is_large(few, set_job("name", name="Another").apply(few)))

    def test_figures_and_undo_are_as_after_any_other(self):
        few = job_with((camera(1), camera(2)))
        self.session.start_job(few)
        with (
            mock.patch("eager_lens.desk.large_steps.MANY_NEW", 0),
            mock.patch("eager_lens.desk.session.waited_for", side_effect=waited_for) as waited,
        ):
            self.session.apply(set_fields(["cam-1"], "Set", fps=7))
            waited.assert_called_once()
        self.assertEqual(self.session.assessment.job.cameras[0].fps, 7)
        self.assertIs(self.session.assessment.job, self.session.job)
        self.session.undo()
        self.assertEqual(self.session.job, few)


class WindowFirst(SessionCase):
    def test_work_waits_while_an_edit_is_worked_out_and_goes_on_after_it(self):
        RIGHT_OF_WAY.take()
        begun = time.monotonic()
        done = threading.Event()

        def waits():
            RIGHT_OF_WAY.wait()
            done.set()

        threading.Thread(target=waits, daemon=True).start()
        self.assertFalse(done.wait(0.02))
        while not done.is_set() and time.monotonic() - begun < 5:
            QTest.qWait(5)
        self.assertTrue(done.is_set())

    def test_nobody_waits_for_ever_for_a_window_that_stands_still(self):
        RIGHT_OF_WAY.take()
        begun = time.monotonic()
        thread = threading.Thread(target=RIGHT_OF_WAY.wait)
        thread.start()
        thread.join(5)
        self.assertFalse(thread.is_alive())
        self.assertGreater(time.monotonic() - begun, RIGHT_OF_WAY.LONGEST_S / 2)

    def test_work_waits_while_the_window_does_something_else(self):
        steps = []

        def work(task):
            while len(steps) < 10_000:
                steps.append(time.monotonic())
                yield 0.5

        task = start(work)
        self.addCleanup(task.cancel)
        self.until(lambda: steps)
        begun = time.monotonic()
        busy_s = 10 * RIGHT_OF_WAY.ASKED_EVERY_S
        while time.monotonic() - begun < busy_s:
            pass  # as the toolkit's own code does when it lays a page out
        meanwhile = [at for at in steps if at > begun + RIGHT_OF_WAY.ASKED_EVERY_S]
        self.assertLess(len(meanwhile), 3)
        before = len(steps)
        self.until(lambda: len(steps) > before + 5)

    def test_work_that_tells_nothing_can_be_stopped_at_its_pauses(self):
        rounds = []

        def work(task):
            yield 0.0
            while len(rounds) < 1000:
                pause()
                rounds.append(time.monotonic())
                time.sleep(0.005)

        task = start(work)
        told = []
        task.cancelled.connect(lambda: told.append("cancelled"))
        self.until(lambda: rounds)
        task.cancel()
        self.until(lambda: told)
        self.assertLess(len(rounds), 1000)

    def test_work_sends_nothing_itself(self):
        """A task may be deleted at the moment in which another thread sends one of its signals; the process ends then."""
        sent = []

        def work(task):
            yield from (0.0, 0.5)
            return "found"

        task = start(work)
        for one in (task.progressed, task.done, task.over):
            one.connect(lambda *_: sent.append(threading.get_ident()), Qt.ConnectionType.DirectConnection)
        self.until(lambda: len(sent) >= 4)
        self.assertEqual(set(sent), {threading.get_ident()})

    def test_what_is_waited_for_gives_its_result_or_its_error(self):
        self.assertEqual(waited_for(lambda: 7, "Waiting…"), 7)
        with self.assertRaises(RefusedInput):
            waited_for(self.refuse, "Waiting…")

    def refuse(self):
        raise RefusedInput("x", "no")

    def test_rubbish_is_looked_for_on_this_thread_only(self):
        self.addCleanup(gc.enable)
        garbage = GuiThreadCollector()
        self.assertFalse(gc.isenabled())
        threads = []

        class Ring:
            def __del__(self):
                threads.append(threading.current_thread())

        ring = Ring()
        ring.own = ring
        del ring
        with mock.patch("eager_lens.desk.collector.YOUNG", 0):
            garbage.look()
        self.assertEqual(threads, [threading.main_thread()])

    def test_what_was_kept_out_is_looked_through_after_eight_jobs(self):
        self.addCleanup(gc.enable)
        self.addCleanup(gc.unfreeze)
        self.replace("eager_lens.desk.collector.GuiThreadCollector.opened", 0)
        garbage = GuiThreadCollector()
        ring = weakref.WeakSet()
        ring.own = ring  # holds itself
        is_there = weakref.ref(ring)
        freeze_long_lived()
        del ring
        gc.collect()
        for _ in range(6):
            freeze_long_lived()
            garbage.look()
        self.assertIsNotNone(is_there(), "it was kept out")
        freeze_long_lived()
        garbage.look()
        self.assertIsNone(is_there())
        self.assertGreater(gc.get_freeze_count(), 0)


class Start(unittest.TestCase):
    def test_nothing_is_looked_through_for_rubbish_until_the_job_is_drawn(self):
        code = (
            "import gc, os\n"
            "os.environ['XDG_CONFIG_HOME'] = os.environ['XDG_STATE_HOME'] = os.environ['FOLDER']\n"
            "from eager_lens.desk import start\n"
            "app, looks = start.application(), []\n"
            "gc.disable()\n"
            "gc.callbacks.append(lambda phase, info: looks.append(phase))\n"
            "window = start._loaded(None, True, False)\n"
            "window.show(); app.processEvents()\n"
            "print(window.session.job.name, looks, gc.get_freeze_count() > 50_000)\n"
            "window.session.close(); os._exit(0)"
        )
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual(self.printed(code, FOLDER=folder), f"{demo_job().name} [] True\n")

    def test_what_is_waited_for_is_over_although_the_program_is_told_to_end(self):
        code = (
            "import time; from PySide6.QtCore import QTimer; from PySide6.QtWidgets import QApplication\n"
            "from eager_lens.desk.background import waited_for\n"
            "app = QApplication([])\n"
            "QTimer.singleShot(0, lambda: print(waited_for(lambda: time.sleep(0.8) or 'saved', 'Saving…')))\n"
            "QTimer.singleShot(300, app.quit)\n"
            "app.exec()\n"
        )
        self.assertEqual(self.printed(code), "saved\n")

    def test_what_is_waited_for_is_over_although_its_window_went_away_meanwhile(self):
        code = (
            "import time; from PySide6.QtWidgets import QApplication, QWidget\n"
            "from eager_lens.desk.background import waited_for\n"
            "app = QApplication([]); window = QWidget(); window.show(); window.activateWindow(); app.processEvents()\n"
            "window.deleteLater(); print(waited_for(lambda: time.sleep(0.6) or 'saved', 'Saving…'))\n"
        )
        self.assertEqual(self.printed(code), "saved\n")

    def printed(self, code, **environment):
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", **environment}
        ended = subprocess.run(
            [sys.executable, "-c", code], env=environment, capture_output=True, text=True, timeout=60, check=False
        )
        self.assertEqual(ended.returncode, 0, ended.stderr)
        return ended.stdout


class Background(SessionCase):
    """Work off the window's thread."""

    def ends_of(self, work, wait_first):
        task = start(work)
        if wait_first:
            QThreadPool.globalInstance().waitForDone(5000)
        heard = []
        task.done.connect(lambda value: heard.append(("done", value)))
        task.failed.connect(lambda text: heard.append(("failed", text)))
        task.cancelled.connect(lambda: heard.append(("cancelled",)))
        self.wait_for_work()
        return heard

    def test_an_end_before_anybody_listens_is_still_told(self):
        def works(task):
            yield 0.5
            return 7

        def fails(task):
            yield 0.5
            raise RefusedInput("x", "no")

        self.assertEqual(self.ends_of(works, wait_first=True), [("done", 7)])
        self.assertEqual(self.ends_of(fails, wait_first=True), [("failed", "x: no")])

    def test_work_that_ended_while_being_stopped_is_dropped(self):
        def works(task):
            yield 0.5
            task.cancel()
            return 7

        self.assertEqual(self.ends_of(works, wait_first=True), [("cancelled",)])

    def test_a_mistake_inside_leaves_nobody_waiting(self):
        def breaks(task):
            yield 0.5
            raise ZeroDivisionError

        ends_of = self.ends_of(breaks, wait_first=True)
        self.assertEqual(ends_of, [("failed", "an internal error occurred (ZeroDivisionError)")])
        self.assertEqual([type(error) for error in self.troubles], [ZeroDivisionError])
        self.troubles.clear()

    def test_no_kind_of_mistake_is_swallowed(self):
        for kind in (RuntimeError, RecursionError, NotImplementedError, KeyError, AssertionError):

            def breaks(task, kind=kind):
                yield 0.5
                raise kind("inside")

            with self.subTest(kind.__name__):
                (end,) = self.ends_of(breaks, wait_first=True)
                self.assertEqual(end[0], "failed")
                self.assertIn(kind.__name__, end[1])
                self.assertEqual([type(error) for error in self.troubles], [kind])
                self.troubles.clear()

    def test_stopped_work_is_told_as_that(self):
        def waits(task):
            task.cancel()
            task.step(0.5)
            yield 1.0

        self.assertEqual(self.ends_of(waits, wait_first=False), [("cancelled",)])
