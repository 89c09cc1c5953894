"""The trial in its short form: a little of everything that it tries, and that it sees what is broken."""

import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from tests.support import takes_long
from tools.trial import kinds
from tools.trial.inputs import mutant, mutated_inputs
from tools.trial.kills import every_call
from tools.trial.kinds import KINDS, Kind
from tools.trial.report import Row, percentile, table

from eager_lens.core.errors import RefusedInput

ROOT = Path(__file__).parents[2]


DYING = """
import ctypes, sys
sys.path[:0] = [".", "src"]
from tools.trial import hands
from tests.support import takes_long

def dies(hand):
    hand._told("one click too many")
    ctypes.string_at(0)

hands.Hand.act = dies
row = hands.random_use(0.2, 3)[0]
print(row.failed, "failed,", row.first)
"""


def reads(data):
    """A reader with a fault of each sort."""
    if data.startswith(b"untyped"):
        raise KeyError("inside")
    if data.startswith(b"wordy"):
        raise RefusedInput("field", "x" * 5)
    if data.startswith(b"dies"):
        import os

        os.abort()
    if data.startswith(b"endless"):
        while True:
            pass
    if data.startswith(b"hungry"):
        return bytearray(10**9)
    return data


class Short(unittest.TestCase):
    @takes_long
    def test_nothing_fails(self):
        command = [sys.executable, "-m", "tools.trial", "--short"]
        ended = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, timeout=1200)
        self.assertEqual(ended.returncode, 0, ended.stdout[-4000:] + ended.stderr[-2000:])
        for part in (
            "killed at every call",
            "a folder that is full",
            "a planted secret",
            "two windows",
            "job files",
            "random use",
        ):
            self.assertIn(part, ended.stdout)


class Sees(unittest.TestCase):
    """A trial that cannot fail proves nothing."""

    def tried(self, *seeds):
        kind = Kind("faulty", ".x", 1, lambda _: list(seeds), lambda path: reads(path.read_bytes()))
        in_turn = mock.patch("tools.trial.inputs.mutant", lambda kind, seeds, seed, at: seeds[at % len(seeds)])
        with mock.patch("tools.trial.inputs.KINDS", (kind,)), in_turn:
            (row,) = mutated_inputs(40, 1)
        return row

    def test_what_is_read_or_refused_is_no_failure(self):
        self.assertEqual(self.tried(b"fine", b"wordy")[1:4], (40, 0, ""))

    def test_faults_are_counted_and_the_first_is_named_by_its_seed(self):
        row = self.tried(b"fine", b"untyped")
        self.assertEqual(row.failed, 20)
        self.assertIn("faulty 1:1: KeyError", row.first)

    def test_a_reader_that_ends_or_takes_all_memory_is_seen_and_the_rest_goes_on(self):
        row = self.tried(b"fine", b"dies", b"hungry", b"fine")
        self.assertEqual(row.failed, 20)
        self.assertIn("SIGABRT", row.first)

    def test_a_reader_without_end_is_ended_by_its_own_work_and_not_by_the_clock_on_the_wall(self):
        with mock.patch("tools.trial.inputs.MOST_S", 0.2):
            row = self.tried(b"endless", *[b"fine"] * 39)
        self.assertEqual((row.failed, row.first), (1, "faulty 1:0: no answer within 0.2 s of work"))

    @takes_long
    def test_a_window_that_dies_is_told_with_its_last_act_and_its_place(self):
        # From a process of its own, as the trial is: it forks, which one that has windows and threads must not.
        ended = subprocess.run([sys.executable, "-c", DYING], cwd=ROOT, capture_output=True, text=True, timeout=1200)
        self.assertIn("1 failed, ", ended.stdout, ended.stderr[-2000:])
        self.assertIn("one click too many on wiring; at __init__.py:", ended.stdout)

    def test_a_save_that_is_not_whole_is_seen(self):
        from eager_lens.core import files

        def plain(path, data, mode=0o666, most_mode=0o777):
            handle = files.os.open(path, files.os.O_CREAT | files.os.O_WRONLY | files.os.O_TRUNC)
            with files.os.fdopen(handle, "wb") as file:
                file.write(data)

        with mock.patch("eager_lens.core.job.file.write_whole", plain):
            row = every_call(8)[0]
        self.assertGreater(row.failed, 0)


class Inputs(unittest.TestCase):
    def test_an_input_comes_out_the_same_again(self):
        with tempfile.TemporaryDirectory() as name:
            for kind in KINDS[:6]:
                seeds = kind.seeds(Path(name))
                for number in range(len(seeds), len(seeds) + 30):
                    self.assertEqual(mutant(kind, seeds, 3, number), mutant(kind, seeds, 3, number), kind.name)

    def test_every_kind_takes_its_first_seed(self):
        with tempfile.TemporaryDirectory() as name:
            for kind in KINDS:
                path = Path(name) / f"seed{kind.ending}"
                path.write_bytes(kind.seeds(Path(name))[0])
                with self.subTest(kind.name):
                    kind.read(path)

    def test_spoiled_json_is_mostly_json_still(self):
        import json
        import random

        data = kinds._jobs(Path())[1]
        good = 0
        for at in range(50):
            try:
                json.loads(kinds.spoil_json(data, random.Random(at)))
                good += 1
            except ValueError:
                continue
        self.assertGreater(good, 40)


class Watched(unittest.TestCase):
    """A stall is what the program does itself, not what others take of the machine."""

    def test_who_only_waits_stands_in_nobodys_way(self):
        self.assertEqual(self.told("time.sleep(0.8)"), ["0"])

    def test_a_loop_that_stands_by_itself_is_seen_with_its_place(self):
        self.assertEqual(self.told("work(0.8)"), ["1", "True"])

    def told(self, act):
        code = (
            "import sys, time; from PySide6.QtCore import QCoreApplication, QTimer\n"
            "from tools.trial.watchdog import Watchdog\n"
            "def work(seconds):\n"
            "    ends = time.process_time() + seconds\n"
            "    while time.process_time() < ends: pass\n"
            "app = QCoreApplication([]); watch = Watchdog(app, 0.3, lambda: ', after a key')\n"
            f"QTimer.singleShot(50, lambda: {act}); QTimer.singleShot(1200, app.quit); app.exec()\n"
            "first = watch.told[:1]\n"
            "seen = ['work, after a key: ' in one and 'work' in watch.worst_at for one in first]\n"
            "print(len(watch.told), *seen); sys.stdout.flush()\n"
            "import os; os._exit(0)"
        )
        ended = subprocess.run([sys.executable, "-c", code], cwd=ROOT, capture_output=True, text=True, timeout=60)
        self.assertEqual(ended.returncode, 0, ended.stderr[-500:])
        return ended.stdout.split()


class Report(unittest.TestCase):
    def test_one_table(self):
        text = table([Row("kills", 1000, 1, "seed 1:7: gone", "lost 0.3 s")])
        self.assertIn("| kills | 1,000 |      1 | lost 0.3 s | seed 1:7: gone |", text)
        self.assertEqual(percentile([3, 1, 2], 0.5), 2)
        self.assertEqual(percentile([], 0.5), 0)
