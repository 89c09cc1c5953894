"""Runs the whole suite headless, on all processors; the last line is ``N passed, N failed, N skipped``.

./eager-lens test                      everything but what takes long: more seeds, more years, more sizes of the same
./eager-lens test --all                everything, as before a release
./eager-lens test tests.core           one package or module, class or test, by its dotted name; nothing is left out of it
./eager-lens test -k "DHCP pool"     tests whose name holds a text
./eager-lens test --jobs 1             one process

Test modules are given to processes one by one, those that took longest first (``durations.json``, written by ``--record``). What
tests print is shown of those that failed.
"""

import argparse
import faulthandler
import gc
import json
import os
import queue
import resource
import select
import subprocess
import sys
import tempfile
import threading
import time
import traceback
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LONGEST_S = 600
"""A module that takes longer hangs."""

WAIT = (
    "tests.onsite.test_foreign",
    "tests.desk.test_site_check",
    "tests.onsite.test_check",
    "tests.onsite.test_stand_ins",
    "tests.tools.test_trial",
)
"""Modules that mostly wait, for devices and for other programs: one process goes through them while the others work."""

DURATIONS = ROOT / "tests" / "durations.json"
"""Seconds that each module took, in a whole run and in one without long tests."""
UNKNOWN_S = 1.0
"""A module that was never timed."""

WHOLE = "EAGER_LENS_WHOLE_TESTS"
"""Whether tests go through all that they may go through (``tests.support.repeats``) and none is left out."""


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("names", nargs="*")
    parser.add_argument("-k", metavar="TEXT", default="")
    parser.add_argument("-v", action="store_true", help="name every module with its time, and the slowest tests")
    parser.add_argument("--all", action="store_true", help="leave nothing out")
    parser.add_argument("--record", action="store_true", help="write down how long each module took")
    parser.add_argument(
        "--jobs",
        type=int,
        default=2 + (os.cpu_count() or 1),
        help="processes; two more than processors, since some wait",
    )
    parser.add_argument("--serve", type=int, default=0, help=argparse.SUPPRESS)
    given = parser.parse_args()
    sys.path[:0] = [str(ROOT), str(ROOT / "src")]
    if given.serve:
        serve(given.serve, given.k)
    if given.all or given.names or given.k:
        os.environ[WHOLE] = "1"
    names = [name for wanted in given.names or ["tests"] for name in modules_of(_dotted(wanted))]
    begun = time.monotonic()
    durations = json.loads(DURATIONS.read_text("utf-8"))
    recorded = durations["whole" if WHOLE in os.environ else "usual"]
    run = Run(sorted(names, key=lambda name: -recorded.get(name, UNKNOWN_S)), given.k, given.v, recorded)
    results = run.on(max(1, given.jobs))
    if given.record:
        recorded.update(run.took)
        DURATIONS.write_text(json.dumps(durations, indent=1, sort_keys=True) + "\n", "utf-8")
    tests, skipped = (sum(result[key] for result in results) for key in ("tests", "skipped"))
    troubles = [trouble for result in results for trouble in result["troubles"]]
    for name, text in troubles:
        print(f"\n{'=' * 70}\n{name}\n{'-' * 70}\n{text}")
    failed = len({name for name, _ in troubles})
    if given.v:
        longest = sorted((one for result in results for one in result.get("longest", ())), reverse=True)
        print("\n".join(f"{seconds:6.1f} s  {name}" for seconds, name in longest[:SLOWEST]))
    left_out = sum(result.get("left_out", 0) for result in results)
    if left_out:
        print(f"{left_out} long tests were left out, and others shortened; --all runs all")
    print(f"{time.monotonic() - begun:.0f} s, {_worked_s():.0f} s of processor time")
    print(f"{tests - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
    sys.exit(1 if failed or not tests else 0)


def modules_of(name):
    """The test modules of a package; what is no package stands for itself."""
    folder = ROOT.joinpath(*name.split("."))
    if not folder.is_dir():
        return [name]
    return [_dotted(str(path.relative_to(ROOT))) for path in sorted(folder.rglob("test_*.py"))]


def _dotted(name):
    return name.removesuffix(".py").replace("/", ".").strip(".")


class Run:
    """Gives modules to processes and gathers what came of them."""

    def __init__(self, names, wanted, verbose, recorded):
        self._idle, self._busy = queue.SimpleQueue(), queue.SimpleQueue()
        for name in names:
            (self._idle if name in WAIT else self._busy).put(name)
        self._count, self._wanted, self._verbose = len(names), wanted, verbose
        self._results, self._lock = [], threading.Lock()
        self.took = {}
        """By module, the seconds that it took."""
        self._begun_s = time.monotonic()
        self._left = {name: recorded.get(name, UNKNOWN_S) for name in names}
        self._whole = sum(self._left.values())

    def on(self, jobs):
        """The results of all modules, on so many processes."""
        queues = [(self._idle, self._busy)] + [(self._busy, self._idle)] * (min(jobs, self._count) - 1)
        threads = [threading.Thread(target=self._feed, args=each) for each in queues]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return self._results

    def _next(self, *queues):
        """The next module: of the first queue that has one."""
        for one in queues:
            try:
                return one.get_nowait()
            except queue.Empty:
                continue
        return None

    def _feed(self, *queues):
        worker = None
        while name := self._next(*queues):
            worker = worker or Worker(self._wanted)
            begun = time.monotonic()
            result = worker.run(name)
            if result is None:
                result = {"tests": 1, "skipped": 0, "troubles": [(name, worker.last_words())]}
                worker = None
            self._tell(name, result, time.monotonic() - begun)
        if worker is not None:
            worker.end()

    def _tell(self, name, result, seconds):
        with self._lock:
            self._results.append(result)
            self.took[name] = round(seconds, 1)
            self._left.pop(name, None)
            done, tests = len(self._results), sum(one["tests"] for one in self._results)
            failed = sum(len(one["troubles"]) for one in self._results)
            line = f"{done} of {self._count} modules, {tests} tests, {failed} failed{self._how_long()}"
            if self._verbose:
                print(f"{seconds:6.1f} s, {result.get('worked_s', 0.0):6.1f} s worked  {name}", flush=True)
            elif sys.stdout.isatty():
                print(f"\r\x1b[K{line}", end="\n" if done == self._count else "", flush=True)
            elif done % 10 == 0 or done == self._count:
                print(line, flush=True)

    def _how_long(self):
        """How long the rest will take, at the pace of now against the recorded times; nothing while that says little."""
        done_s = self._whole - sum(self._left.values())
        if not self._left or done_s < 0.1 * self._whole:
            return ""
        left_s = (time.monotonic() - self._begun_s) * (self._whole - done_s) / done_s
        return f", about {max(1, round(left_s / 60))} min left" if left_s > 45 else ", under a minute left"


class Worker:
    """A process that runs the modules that it is given, one after the other."""

    def __init__(self, wanted):
        self._said = tempfile.TemporaryFile("w+", errors="replace")  # noqa: SIM115  (as long as the process)
        self._answers, telling = os.pipe()
        command = [sys.executable, __file__, "--serve", str(telling), "-k", wanted]
        self._process = subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=self._said, stderr=self._said, pass_fds=[telling], text=True
        )
        os.close(telling)
        self._text = b""

    def run(self, name):
        """What came of a module; None when the process ended over it, or had to be ended."""
        print(name, file=self._process.stdin, flush=True)
        ends = time.monotonic() + LONGEST_S
        while b"\n" not in self._text:
            ready, _, _ = select.select([self._answers], [], [], max(0.0, ends - time.monotonic()))
            part = os.read(self._answers, 1 << 16) if ready else b""
            if not part:
                self._process.kill()
                return None
            self._text += part
        line, _, self._text = self._text.partition(b"\n")
        return json.loads(line)

    def last_words(self):
        """How the process ended, and the last of what it said."""
        status = self._process.wait()
        self._said.seek(0)
        return f"the process ended by status {status}\n" + "".join(self._said.readlines()[-60:])

    def end(self):
        """Let the process go."""
        self._process.stdin.close()
        self._process.wait()
        os.close(self._answers)


SLOWEST = 25
"""So many tests are named with their times when asked."""

OWN_NOISE = ("This plugin does not support",)
"""What the toolkit's plug-in without a screen says of itself."""

MOST_NEW = 400_000
"""So many new objects are looked through for garbage."""

SAID = []
"""Warnings of the toolkit since the last test."""


class Listening(unittest.TestResult):
    """A test during which the toolkit warns of something has failed; and how long each took."""

    def __init__(self):
        super().__init__()
        self.durations = []

    def startTest(self, test):  # noqa: N802  (unittest calls it so)
        SAID.clear()
        gc.disable()
        self._begun = time.monotonic()
        super().startTest(test)

    def stopTest(self, test):  # noqa: N802
        if SAID:
            self.failures.append((test, "the toolkit warns:\n" + "\n".join(SAID)))
        self.durations.append((time.monotonic() - self._begun, test.id()))
        super().stopTest(test)
        # As the window does it: now and then, between two pieces of work. Left to itself Python takes a tenth of the time.
        if gc.get_count()[0] > MOST_NEW:
            gc.collect()


def listen():
    """Gather what the toolkit warns of."""
    from PySide6.QtCore import QtMsgType, qInstallMessageHandler

    def hear(kind, context, text):
        if kind is not QtMsgType.QtDebugMsg and not text.startswith(OWN_NOISE):
            SAID.append(text)

    qInstallMessageHandler(hear)


def serve(telling, wanted):
    """Run the modules whose names come in, and tell what came of each."""
    faulthandler.enable()
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    os.environ["OPENBLAS_NUM_THREADS"] = "1"  # the processors have processes enough
    listen()
    # Nothing that a test does may reach the settings or the unsaved work of whoever runs it.
    home = tempfile.mkdtemp(prefix="eager-lens-tests-")
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"):
        os.environ[name] = str(Path(home) / name.lower())
    loader = unittest.TestLoader()
    if wanted:
        loader.testNamePatterns = [f"*{wanted.replace(' ', '_')}*"]
    for line in sys.stdin:
        found = json.dumps(outcome_of(loader, line.strip()))
        os.write(telling, found.encode() + b"\n")
    # Leave at once: the toolkit's own teardown after hundreds of windows proves nothing.
    os._exit(0)


def outcome_of(loader, name):
    """Run a module: how many tests, how many skipped, and what was wrong."""
    result, left_out = Listening(), 0
    worked_s = _worked_s()
    try:
        suite = loader.loadTestsFromName(name)
        if WHOLE not in os.environ:
            suite, left_out = without_long(suite)
        suite.run(result)
    except Exception:  # noqa: BLE001  (a module that cannot be loaded is a failure like any other)
        return {"tests": 1, "skipped": 0, "troubles": [(name, traceback.format_exc())]}
    troubles = [(str(test), text) for test, text in (*result.failures, *result.errors)]
    troubles += [(str(test), "succeeded, although it is marked as failing") for test in result.unexpectedSuccesses]
    longest = sorted(result.durations, reverse=True)[:SLOWEST]
    counts = {"tests": result.testsRun, "skipped": len(result.skipped), "left_out": left_out}
    return {**counts, "troubles": troubles, "longest": longest, "worked_s": _worked_s() - worked_s}


def _worked_s():
    """Processor time of this process and of those that it has started, in seconds."""
    used = [resource.getrusage(who) for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)]
    return sum(one.ru_utime + one.ru_stime for one in used)


def without_long(suite):
    """A suite without the tests that say that they take long, and how many those are."""
    kept, count = unittest.TestSuite(), 0
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            part, more = without_long(one)
            kept.addTest(part)
            count += more
        elif getattr(getattr(one, one._testMethodName, None), "takes_long", False):
            count += 1
        else:
            kept.addTest(one)
    return kept, count


if __name__ == "__main__":
    main()
