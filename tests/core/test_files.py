"""Files outside: read with a bound, written as a whole, through links, with the rights that they had."""

import errno
import multiprocessing
import os
import stat
import unittest
from pathlib import Path
from unittest import mock

from eager_lens.core.errors import DamagedFile, FileTrouble
from eager_lens.core.files import PRIVATE, file_name, folder_lock, read_whole, require_file, sweep, write_whole
from tests.support import FolderCase


def mode_of(path):
    return stat.S_IMODE(path.stat().st_mode)


class Reading(FolderCase):
    def test_no_more_than_the_bound(self):
        path = self.folder / "a"
        path.write_bytes(b"x" * 100)
        self.assertEqual(read_whole(path, 100, "list"), b"x" * 100)
        with self.assertRaises(DamagedFile) as caught:
            read_whole(path, 99, "list")
        self.assertIn("too large for a list", str(caught.exception))

    def test_what_is_no_file_is_told_at_once(self):
        os.mkfifo(self.folder / "pipe")
        for path, words in (
            (self.folder / "pipe", "device or a pipe"),
            (Path("/dev/zero"), "device or a pipe"),
            (self.folder, "that is a folder"),
            (self.folder / "none", "no such file"),
        ):
            for read in (read_whole, require_file):
                with self.subTest(str(path)), self.assertRaises(FileTrouble) as caught:
                    read(path, 100, "list")
                self.assertIn(words, str(caught.exception))

    def test_a_file_without_end(self):
        """Files of the system say that they hold nothing, and never end."""
        with self.assertRaises(FileTrouble):
            read_whole(Path("/proc/self/mem"), 1000, "list")


class Writing(FolderCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "job.txt"

    def left(self):
        return sorted(path.name for path in self.folder.iterdir())

    def test_through_a_link_its_target_is_written(self):
        (self.folder / "deep").mkdir()
        target = self.folder / "deep" / "real.txt"
        target.write_bytes(b"old")
        self.path.symlink_to(target)
        write_whole(self.path, b"new")
        self.assertTrue(self.path.is_symlink())
        self.assertEqual(target.read_bytes(), b"new")

    def test_a_link_that_leads_nowhere_yet_is_filled(self):
        self.path.symlink_to(self.folder / "later.txt")
        write_whole(self.path, b"new")
        self.assertEqual((self.folder / "later.txt").read_bytes(), b"new")

    def test_rights_are_kept_and_never_wider_than_asked(self):
        for mode in (0o600, 0o640, 0o444, 0o755):
            with self.subTest(oct(mode)):
                self.path.write_bytes(b"old")
                self.path.chmod(mode)
                write_whole(self.path, b"new")
                self.assertEqual(mode_of(self.path), mode)
                write_whole(self.path, b"new", PRIVATE, PRIVATE)
                self.assertEqual(mode_of(self.path), mode & PRIVATE)
                self.path.unlink()

    def test_a_new_file_keeps_to_the_mask(self):
        before = os.umask(0o027)
        self.addCleanup(os.umask, before)
        write_whole(self.path, b"new")
        self.assertEqual(mode_of(self.path), 0o640)

    def test_a_full_disk_at_any_call_leaves_the_old_file_whole_and_nothing_else(self):
        self.path.write_bytes(b"old")
        full = OSError(errno.ENOSPC, "No space left on device")
        for call in ("os.open", "os.fsync", "os.link", "pathlib.Path.replace"):
            with self.subTest(call), mock.patch(call, side_effect=full), self.assertRaises(OSError):
                write_whole(self.path, b"new")
            self.assertEqual(self.path.read_bytes(), b"old")
            self.assertEqual(self.left(), ["job.txt"])

    def test_a_file_system_without_files_that_have_no_name(self):
        real = os.open

        def without(path, flags, *mode, **more):
            if flags & os.O_TMPFILE == os.O_TMPFILE:
                raise OSError(errno.EOPNOTSUPP, "Operation not supported")
            return real(path, flags, *mode, **more)

        with mock.patch("os.open", without):
            write_whole(self.path, b"new", PRIVATE)
        self.assertEqual((self.path.read_bytes(), mode_of(self.path)), (b"new", PRIVATE))
        self.assertEqual(self.left(), ["job.txt"])

    def test_what_somebody_who_died_left_is_swept_and_what_lives_is_not(self):
        for name in (".job.txt.0123456789ab.part", ".job.txt.ba9876543210.part"):
            (self.folder / name).write_bytes(b"half")
        (self.folder / ".other.txt.0123456789ab.part").write_bytes(b"another file's")
        (self.folder / ".job.txt.notes.part").write_bytes(b"somebody's own")
        with (self.folder / ".job.txt.ba9876543210.part").open("rb") as held:
            import fcntl

            fcntl.flock(held, fcntl.LOCK_EX)
            sweep(self.path)
            self.assertEqual(
                self.left(), [".job.txt.ba9876543210.part", ".job.txt.notes.part", ".other.txt.0123456789ab.part"]
            )

    def test_a_device_or_a_folder_is_never_renamed_over(self):
        os.mkfifo(self.path)
        with self.assertRaises(OSError):
            write_whole(self.path, b"new")
        self.assertTrue(stat.S_ISFIFO(self.path.stat().st_mode))
        with self.assertRaises(IsADirectoryError):
            write_whole(self.folder, b"new")

    def test_long_names_of_any_letters(self):
        for name in ("漢" * 80, "a" * 250, "é" * 120):
            with self.subTest(name[:3]):
                write_whole(self.folder / name, b"new")
                self.assertEqual((self.folder / name).read_bytes(), b"new")

    def test_one_at_a_time_in_a_folder(self):
        """Processes that add to a number in a file lose no step."""
        self.path.write_text("0", "utf-8")
        context = multiprocessing.get_context("fork")
        workers = [context.Process(target=_count_up, args=(self.path,)) for _ in range(4)]
        for worker in workers:
            worker.start()
        for worker in workers:
            worker.join(60)
        self.assertEqual(self.path.read_text("utf-8"), "200")


def _count_up(path):
    for _ in range(50):
        with folder_lock(path.parent):
            write_whole(path, str(int(path.read_text("utf-8")) + 1).encode())


class Names(unittest.TestCase):
    def test_one_step_of_a_path_that_file_systems_take(self):
        for name, ending, wanted in (
            ("Depot", ".pdf", "Depot.pdf"),
            ("../../etc/passwd", ".pdf", "-..-etc-passwd.pdf"),
            ("..", ".pdf", "job.pdf"),
            ("a\0b\nc", "-rule-../x.pdf", "a-b-c-rule-..-x.pdf"),
        ):
            self.assertEqual(file_name(name, ending), wanted)
        self.assertLess(len(os.fsencode(file_name("漢" * 200, ".lens.json"))), 255)
