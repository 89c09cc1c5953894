"""Runs the whole suite headless; the last line is ``N passed, N failed, N skipped``.

./eager-lens test                      everything
./eager-lens test tests.core           one package or module, by its dotted name
./eager-lens test -k "leased pool"     tests whose name holds a text
"""

import argparse
import faulthandler
import os
import sys
import tempfile
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("names", nargs="*")
    parser.add_argument("-k", metavar="TEXT", default="")
    parser.add_argument("-v", action="store_true", help="name every test")
    arguments = parser.parse_args()
    faulthandler.enable()
    sys.path[:0] = [str(ROOT), str(ROOT / "src")]
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    # Nothing that a test does may reach the settings or the unsaved work of whoever runs it.
    home = tempfile.mkdtemp(prefix="eager-lens-tests-")
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"):
        os.environ[name] = str(Path(home) / name.lower())
    loader = unittest.TestLoader()
    if arguments.k:
        wanted = arguments.k.replace(" ", "_")
        loader.testNamePatterns = [f"*{wanted}*"]
    suite = unittest.TestSuite(_loaded(loader, _dotted(name)) for name in arguments.names or ["tests"])
    begun = time.monotonic()
    result = unittest.TextTestRunner(verbosity=2 if arguments.v else 1, stream=sys.stdout).run(suite)
    failed = len({id(test) for test, _ in (*result.failures, *result.errors)}) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    print(f"{time.monotonic() - begun:.0f} s")
    print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
    # Leave at once: the toolkit's own teardown after hundreds of windows proves nothing.
    os._exit(1 if failed or not result.testsRun else 0)


def _loaded(loader, name):
    """A package with all that is below it, or one module, class or test."""
    folder = ROOT.joinpath(*name.split("."))
    if folder.is_dir():
        return loader.discover(str(folder), top_level_dir=str(ROOT))
    return loader.loadTestsFromName(name)


def _dotted(name):
    return name.removesuffix(".py").replace("/", ".").strip(".")


if __name__ == "__main__":
    main()
