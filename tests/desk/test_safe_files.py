"""Files of jobs under hard conditions: left work, files that go or change, links, names that exist, full disks."""

import errno
import json
import os
import signal
import stat
import subprocess
import sys
from pathlib import Path
from unittest import mock

from PySide6.QtWidgets import QApplication

from eager_lens.core.errors import ChangedOnDisk
from eager_lens.core.files import previous_version
from eager_lens.core.job.edits import Edit, set_fields, set_job
from eager_lens.core.job.file import ENDING, Stamp, job_text, read_job, stamp_of, write_job
from eager_lens.core.job.model import LongText
from eager_lens.desk import autosave
from eager_lens.desk.asking import JOB_FILE, FileKind, file_to_write
from eager_lens.desk.autosave import LOCK, OWNER, Autosave, LeftWork, left_of, left_work
from tests.desk.base import FakeAsker, SessionCase, WindowCase
from tests.support import camera, demo_job, job_with

ROOT = Path(__file__).parents[2]


def fps(value):
    return set_fields(["cam-1"], "Set frame rate", fps=value)


def left_behind(folder, path, job, stamp=None):
    """A copy as a window leaves it that was ended by force."""
    folder.mkdir(parents=True, exist_ok=True)
    code = (
        "import os, sys; from pathlib import Path; from eager_lens.desk.autosave import Autosave;"
        "from eager_lens.core.job.file import Stamp, read_job;"
        "one = Autosave(Path(sys.argv[1]));"
        "stamp = Stamp(sys.argv[4]) if sys.argv[4] else None;"
        "one.write(read_job(Path(sys.argv[2])).job, Path(sys.argv[3]) if sys.argv[3] else None, 0, stamp);"
        "os.kill(os.getpid(), 9)"
    )
    source = folder.parent / "source.json"
    source.write_text(job_text(job), "utf-8")
    words = [folder, source, path or "", stamp.digest if stamp else ""]
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    ended = subprocess.run([sys.executable, "-c", code, *map(str, words)], env=environment, timeout=60)
    assert ended.returncode == -signal.SIGKILL
    source.unlink()


class LeftBehind(WindowCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / f"own{ENDING}"
        self.stamp = write_job(self.path, job_with([camera(1)]), None)
        self.copies = self.folder / "state"

    def leave(self, stamp=None):
        left_behind(self.copies, self.path, job_with([camera(1, fps=3)]), stamp or self.stamp)

    def test_it_is_offered_when_its_file_is_opened_by_name(self):
        self.leave()
        self.asker.answers = [0]
        self.window.open_path(self.path)
        self.assertIn("ended with unsaved work", self.asker.asked[0])
        self.assertEqual((self.session.job.cameras[0].fps, self.session.path), (3, self.path))
        self.assertTrue(self.session.unsaved)
        self.wait_for_work()
        self.assertEqual([work.copy for work in left_work(self.copies)], [])
        self.session.save_as(self.path)
        self.assertEqual(read_job(self.path).job.cameras[0].fps, 3)

    def test_through_a_link_too(self):
        self.leave()
        link = self.folder / f"link{ENDING}"
        link.symlink_to(self.path)
        self.assertIsNotNone(left_of(self.copies, link))

    def test_the_file_can_be_opened_and_the_work_stays(self):
        self.leave()
        self.asker.answers = [1]
        self.window.open_path(self.path)
        self.assertNotEqual(self.session.job.cameras[0].fps, 3)
        self.assertEqual(len(left_work(self.copies)), 1)

    def test_neither_is_opened_when_somebody_thinks_it_over(self):
        self.leave()
        self.window.open_path(self.path)
        self.assertFalse(self.session.is_open)
        self.assertEqual(len(left_work(self.copies)), 1)

    def test_a_file_that_changed_in_between_is_asked_about_and_not_written_over(self):
        self.leave()
        write_job(self.path, job_with([camera(1)], name="Theirs"), self.stamp)
        self.asker.answers = [0, 1]
        self.window.open_path(self.path)
        self.assertIn("was changed, renamed or removed", self.asker.asked[-1])
        self.assertFalse(self.session.is_open)
        self.asker.answers = [0, 0]
        self.window.open_path(self.path)
        self.assertEqual(self.session.job.cameras[0].fps, 3)
        with self.assertRaises(ChangedOnDisk):
            self.session.save_as(self.path)
        self.assertEqual(read_job(self.path).job.name, "Theirs")

    def test_the_old_copy_goes_only_when_the_new_one_is_on_the_disk(self):
        self.leave()
        (old,) = left_work(self.copies)
        with mock.patch("eager_lens.desk.autosave.write_whole", side_effect=OSError(28, "No space left on device")):
            self.session.recover(old)
            self.wait_for_work()
            self.assertTrue(old.copy.exists())
            self.assertIn("disk is full", self.session.copy_trouble)
        self.session._write_copy()
        self.wait_for_work()
        self.assertEqual(self.session.copy_trouble, "")

    def test_an_owner_that_was_cut_short_hides_no_copy(self):
        self.leave()
        (work,) = left_work(self.copies)
        owner = work.copy.with_name(work.copy.name.removesuffix(ENDING) + OWNER)
        for content in (b"", b'{"path": "/ow', b"[]", b"\xff\xfe", b'{"path": 7}', None):
            owner.unlink(missing_ok=True)
            if content is not None:
                owner.write_bytes(content)
            with self.subTest(content):
                (found,) = left_work(self.copies)
                self.assertEqual(read_job(found.copy).job.cameras[0].fps, 3)
        work.copy.with_name(work.copy.name.removesuffix(ENDING) + LOCK).unlink()
        self.assertEqual(len(left_work(self.copies)), 1)

    def test_copies_are_for_their_owner_only(self):
        self.leave()
        for path in self.copies.iterdir():
            self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600, path.name)

    def test_without_locks_it_is_offered_and_said_so(self):
        """On a file system without locks nothing used to be offered, ever: it counted as held."""
        self.leave()
        none = OSError(errno.EOPNOTSUPP, "Operation not supported")
        with mock.patch("eager_lens.core.files.fcntl.flock", side_effect=none):
            (work,) = left_work(self.copies)
            # Its process is gone, which the note in the owner's file tells.
            self.assertTrue(work.is_sure)
            owner = work.copy.with_name(work.copy.name.removesuffix(ENDING) + OWNER)
            about = json.loads(owner.read_text())
            for process, offered in (
                ("elsewhere 12 34", True),
                (about["process"].split()[0] + f" {os.getpid()} 0", True),
                (autosave._process(), False),
                ("", True),
            ):
                with self.subTest(process):
                    owner.write_text(json.dumps({**about, "process": process}))
                    found = left_work(self.copies)
                    self.assertEqual(len(found), offered)
            (work,) = left_work(self.copies)
            self.assertFalse(work.is_sure)
            self.assertIn("no locks", work.kept_words())
            self.assertEqual(left_work(self.copies, work.copy), [])

    def test_without_locks_copies_are_written_all_the_same(self):
        none = OSError(errno.EOPNOTSUPP, "Operation not supported")
        with mock.patch("fcntl.flock", side_effect=none):
            left_behind(self.copies, self.path, job_with([camera(1)]))
            self.assertEqual(len(list(self.copies.glob(f"*{ENDING}"))), 1)

    def test_what_was_taken_up_from_a_job_without_a_file_has_none(self):
        left_behind(self.copies, None, job_with([camera(1, fps=3)], name="Never saved"))
        (work,) = left_work(self.copies)
        self.assertEqual((work.job_name, work.job_path, work.stamp), ("Never saved", "", None))
        self.assertTrue(self.window.files.take_up(work))
        self.assertIsNone(self.session.path)


class Copies(SessionCase):
    def test_a_failed_copy_is_told_at_once_and_stays_told_until_there_is_one(self):
        self.session.start_job(demo_job())
        self.session.apply(fps(4))
        full = OSError(28, "No space left on device")
        with mock.patch("eager_lens.desk.autosave.write_whole", side_effect=full):
            self.session._write_copy()
            self.wait_for_work()
            self.assertIn("No safety copy", self.notices[-1].text)
            self.assertTrue(self.session._autosave_timer.isActive())
            self.session._write_copy()
            self.wait_for_work()
            self.assertIn("disk is full", self.session.copy_trouble)
        self.session._write_copy()
        self.wait_for_work()
        self.assertEqual(self.session.copy_trouble, "")

    def test_a_mistake_while_copying_is_told_too(self):
        self.session.start_job(demo_job())
        self.session.apply(fps(4))
        with mock.patch.object(Autosave, "write", side_effect=RecursionError):
            self.session._write_copy()
            self.wait_for_work()
        self.assertIn("RecursionError", self.session.copy_trouble)
        self.assertEqual({type(error) for error in self.troubles}, {RecursionError})
        self.troubles.clear()

    def test_figures_that_fail_stop_neither_the_edit_nor_its_copy(self):
        self.session.start_job(demo_job())
        with mock.patch("eager_lens.desk.session.assess", side_effect=ZeroDivisionError):
            self.assertTrue(self.session.apply(fps(4)))
        self.assertEqual(self.session.job.cameras[0].fps, 4)
        self.assertIn("figures could not be calculated", self.notices[-1].text)
        self.assertTrue(self.session._autosave_timer.isActive())
        self.session._write_copy()
        self.wait_for_work()
        self.assertTrue(self.session._autosave.copy.exists())
        self.troubles.clear()
        self.session.undo()
        self.assertIs(self.session.assessment.job, self.session.job)

    def test_a_job_that_could_not_be_opened_again_is_not_written(self):
        path = self.folder / f"job{ENDING}"
        self.session.start_job(job_with([camera(1)]))
        self.session.save_as(path)
        before = path.read_bytes()
        worse = Edit("Go round the checks", lambda job: job.model_copy(update={"note": "x" * 5000}))
        self.session.apply(worse)
        with self.assertRaisesRegex(Exception, "could not be opened again"):
            self.session.save_as(path)
        self.assertEqual(path.read_bytes(), before)
        self.assertTrue(self.session.unsaved)
        self.assertIn("max_length=4000", repr(LongText))


class OnDisk(WindowCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / f"own{ENDING}"
        self.open_job(job_with([camera(1)]), "wiring")
        self.session.save_as(self.path)

    def test_a_file_that_is_gone_is_noticed_before_saved_is_claimed(self):
        self.assertFalse(self.session.unsaved)
        self.path.unlink()
        self.until(lambda: self.session.unsaved)
        self.assertIn("was removed or renamed", self.last_notice())
        self.wait_for_work()
        self.assertTrue(self.session._autosave.copy.exists())
        self.asker.answers = [0]
        self.assertTrue(self.window.files.save())
        self.assertIn("was removed or renamed", self.asker.asked[-1])
        self.assertEqual(read_job(self.path).job, self.session.job)

    def test_leaving_looks_at_the_file_even_if_nothing_was_heard(self):
        self.session._file.stop()
        self.path.unlink()
        self.assertFalse(self.window.files.may_leave())
        self.assertIn("unsaved changes", self.asker.asked[-1])

    def test_a_file_that_somebody_replaced(self):
        write_job(self.path, job_with([camera(1)], name="Theirs"), None, force=True)
        self.until(lambda: self.session.unsaved)
        self.assertIn("changed on disk", self.last_notice())
        self.notices[-1].act()
        self.assertEqual(self.session.job.name, "Theirs")

    def test_the_same_content_again_is_no_change(self):
        data = self.path.read_bytes()
        self.path.unlink()
        self.path.write_bytes(data)
        self.session.check_file()
        self.assertFalse(self.session.unsaved)

    def test_saving_through_a_link_writes_its_target(self):
        link = self.folder / f"link{ENDING}"
        link.symlink_to(self.path)
        self.window.open_path(link)
        self.session.apply(fps(4))
        self.assertTrue(self.window.files.save())
        self.assertTrue(link.is_symlink())
        self.assertEqual(read_job(self.path).job.cameras[0].fps, 4)
        self.assertTrue(previous_version(link).exists())
        self.assertEqual(previous_version(link), previous_version(self.path))

    def test_the_previous_version_is_no_wider_than_the_job(self):
        for mode in (0o600, 0o640):
            self.path.chmod(mode)
            self.session.apply(set_job("name", name=f"Mode {mode}"))
            self.assertTrue(self.window.files.save())
            for path in (self.path, previous_version(self.path)):
                self.assertEqual(stat.S_IMODE(path.stat().st_mode), mode & (0o600 if path != self.path else 0o777))

    def test_nothing_is_left_beside_the_job(self):
        for at in range(3):
            self.session.apply(set_job("name", name=f"Name {at}"))
            self.assertTrue(self.window.files.save())
        names = sorted(path.name for path in self.folder.iterdir() if path.is_file())
        self.assertEqual(names, [f"own{ENDING}", f"own{ENDING}.previous", "own.log.jsonl"])

    def test_a_file_beyond_the_limits_opens_without_a_name(self):
        text = job_text(job_with([camera(1)])).replace('"note": ""', f'"note": "{"y" * 4100}"', 1)
        much = self.folder / f"much{ENDING}"
        much.write_text(text, "utf-8")
        self.window.open_path(much)
        self.assertEqual((len(self.session.job.note), self.session.path), (4000, None))
        self.assertIn("the last 100 of 4,100", self.last_notice())
        self.assertEqual(much.read_text("utf-8"), text)

    def test_a_slow_save_keeps_the_window_painted(self):
        painted = []

        def slow(*given, **more):
            import time

            time.sleep(0.5)
            return write_job(*given, **more)

        self.session.apply(fps(4))
        watch = mock.Mock(side_effect=lambda: painted.append(QApplication.activeModalWidget()))
        from PySide6.QtCore import QTimer

        timer = QTimer(interval=20)
        timer.timeout.connect(watch)
        timer.start()
        with mock.patch("eager_lens.desk.session.write_job", slow):
            self.assertTrue(self.window.files.save())
        timer.stop()
        self.assertTrue([one for one in painted if one is not None])
        self.assertEqual(stamp_of(self.path), self.session._stamp)


class Names(SessionCase):
    def ask(self, typed, answers=()):
        asker = FakeAsker()
        asker.files, asker.answers = [self.folder / one for one in typed], list(answers)
        return file_to_write(asker, "Save", JOB_FILE, self.folder), asker

    def test_a_name_that_exists_is_asked_about_also_under_the_ending_that_is_added(self):
        (self.folder / f"there{ENDING}").write_text("x", "utf-8")
        for typed in ("there", f"there{ENDING}"):
            path, asker = self.ask([typed], [0])
            self.assertEqual(path, self.folder / f"there{ENDING}")
            self.assertIn("already exists", asker.asked[-1])
            self.assertIsNone(self.ask([typed])[0])
        path, _ = self.ask(["there", "new"], [1])
        self.assertEqual(path, self.folder / f"new{ENDING}")

    def test_endings_are_known_in_any_case(self):
        asker = FakeAsker()
        asker.files = [self.folder / "LIST.CSV"]
        self.assertEqual(file_to_write(asker, "x", FileKind("CSV", (".csv",)), self.folder).name, "LIST.CSV")

    def test_what_is_known_of_left_work_is_plain(self):
        work = LeftWork(Path("a"), "", "Name", 0.0, Stamp("x"))
        self.assertRegex(work.kept_words(), r"\d{4}")
