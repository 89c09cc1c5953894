"""Reading in a process of its own: what comes back, and how it ends when it takes too much."""

import os
import resource
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import numpy as np

from eager_lens.core.errors import DamagedFile, EagerLensError, RefusedInput
from eager_lens.core.subprocess_reader import BeyondLimit, Limits, run_in_subprocess, running_in_subprocess

HERE = "tests.core.test_subprocess_reader"


def doubled(number, *, step):
    step(0.5)
    print("what a library prints is no answer")
    return 2 * number


def counted(number, *, step):
    for at in range(number):
        yield np.full(3, at)


def refuses(*, step):
    raise RefusedInput("cameras[3].fps", "a number is needed")


def damaged(*, step):
    raise DamagedFile("It is damaged.")


def mistaken(*, step):
    raise KeyError("secret of the file")


def takes_memory(*, step):
    kept = []
    while True:
        kept.append(bytearray(20_000_000))


def waits_for_ever(note, *, step):
    """As a watch does: it tells nothing until there is something to tell."""
    Path(note).write_text(f"{os.getpid()} {resource.getrlimit(resource.RLIMIT_CORE)[0]}")
    while True:
        time.sleep(100)


def never_ends(*, step):
    while True:
        time.sleep(0.01)


def dies(*, step):
    os.abort()


class Apart(unittest.TestCase):
    def test_an_answer_and_progress(self):
        shares = []
        self.assertEqual(run_in_subprocess(f"{HERE}:doubled", 21, step=shares.append), 42)
        self.assertIn(0.5, shares)

    def test_parts_come_one_by_one_in_order(self):
        parts = []
        for _ in running_in_subprocess(f"{HERE}:counted", 40, part=parts.append):
            pass
        self.assertEqual([int(part[0]) for part in parts], list(range(40)))

    def test_errors_for_people_come_through_as_they_are(self):
        with self.assertRaises(RefusedInput) as caught:
            run_in_subprocess(f"{HERE}:refuses")
        self.assertEqual((caught.exception.path, caught.exception.problem), ("cameras[3].fps", "a number is needed"))
        with self.assertRaises(DamagedFile) as caught:
            run_in_subprocess(f"{HERE}:damaged")
        self.assertEqual(str(caught.exception), "It is damaged.")

    def test_any_other_error_is_one_sentence_about_the_file(self):
        for target in ("mistaken", "dies", "is_not_there"):
            with self.subTest(target), self.assertRaises(EagerLensError) as caught:
                run_in_subprocess(f"{HERE}:{target}", what="list.xlsx")
            self.assertIn("list.xlsx cannot be read", str(caught.exception))
            self.assertNotIn("secret", str(caught.exception))

    def test_memory_is_bounded(self):
        with self.assertRaises(BeyondLimit) as caught:
            run_in_subprocess(f"{HERE}:takes_memory", limits=Limits(memory_mb=200))
        self.assertIn("more than 200 MB", str(caught.exception))

    def test_time_is_bounded(self):
        with self.assertRaises(BeyondLimit) as caught:
            run_in_subprocess(f"{HERE}:never_ends", limits=Limits(time_s=0.5))
        self.assertIn("longer than 0.5 s", str(caught.exception))

    def test_who_stops_ends_the_child(self):
        others = set(_children())  # earlier tests in this process may have left a helper running
        running = running_in_subprocess(f"{HERE}:never_ends", limits=Limits(time_s=None))
        next(running)
        children = set(_children()) - others
        running.close()
        self.assertTrue(children)
        self.assertFalse(children & set(_children()))


class ParentGone(unittest.TestCase):
    def test_a_child_ends_when_its_parent_is_killed(self):
        with tempfile.TemporaryDirectory() as folder:
            note = Path(folder) / "child"
            words = (
                "from eager_lens.core.subprocess_reader import Limits, running_in_subprocess\n"
                f"for _ in running_in_subprocess('{HERE}:waits_for_ever', {str(note)!r}, limits=Limits(time_s=None)): pass"
            )
            environment = {**os.environ, "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)}
            with subprocess.Popen([sys.executable, "-c", words], env=environment) as parent:
                _until(lambda: note.exists() and note.read_text().count(" "))
                child, core_bytes = note.read_text().split()
                self.assertEqual(core_bytes, "0")  # no core dump either
                self.assertTrue(Path(f"/proc/{child}").exists())
                parent.kill()
            _until(lambda: not _lives(child))


def _lives(pid):
    try:
        return Path(f"/proc/{pid}/stat").read_text("ascii").rpartition(")")[2].split()[0] != "Z"
    except FileNotFoundError:
        return False


def _until(so, seconds=60):
    ends = time.monotonic() + seconds
    while not so():
        if time.monotonic() > ends:
            raise AssertionError("it did not come")
        time.sleep(0.02)


READERS = ("incoming.table_in", "clip.measure", "clip.reencoding", "clip.still", "tried_rule.small_pictures")


class Loaded(unittest.TestCase):
    def test_readers_load_neither_the_job_nor_the_window(self):
        loads = "".join(f"import eager_lens.core.{reader}; " for reader in READERS)
        command = [sys.executable, "-c", f"import sys; {loads}print(*sorted(sys.modules))"]
        environment = {**os.environ, "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)}
        loaded = subprocess.run(command, env=environment, capture_output=True, text=True, check=True).stdout.split()
        self.assertIn("eager_lens.core.clip.container", loaded)
        for heavy in ("pydantic", "scipy", "PySide6", "eager_lens.core.job.model"):
            self.assertNotIn(heavy, loaded)


def _children():
    return Path(f"/proc/self/task/{os.getpid()}/children").read_text("ascii").split()
