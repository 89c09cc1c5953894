"""``./eager-lens trial``: all parts of the trial, or some, and one table. Ends with 1 if anything failed."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable
from datetime import date
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from tools.trial.folders import bad_folders
from tools.trial.hands import random_use
from tools.trial.inputs import mutated_inputs
from tools.trial.kills import every_call, random_kills
from tools.trial.pair import two_windows
from tools.trial.planted import planted_secret
from tools.trial.report import Row, table
from tools.trial.size import large_job, themes

PAGE = Path(__file__).parents[2] / "docs" / "reliability.md"
SHORT = {"kills": 1, "pairs": 1, "inputs": 400, "minutes": 0.06}
WHOLE = {"kills": 1000, "pairs": 200, "inputs": 100_000, "minutes": 60.0}


def main() -> int:
    """Run what was asked for."""
    parser = argparse.ArgumentParser(prog="eager-lens trial", description=__doc__)
    parser.add_argument("parts", nargs="*", choices=[[], *PARTS], help="which parts; all when none is named")
    parser.add_argument("--short", action="store_true", help="a little of everything, in under a minute")
    parser.add_argument("--kills", type=int, help="how many windows to kill")
    parser.add_argument("--pairs", type=int, help="how many times two windows work on one file")
    parser.add_argument("--inputs", type=int, help="how many inputs to read")
    parser.add_argument("--minutes", type=float, help="how long to use the window at random")
    parser.add_argument("--cameras", type=int, default=0, help="use a job at random that has so many cameras more")
    parser.add_argument("--only", default="", metavar="KIND", help="inputs of one kind only")
    parser.add_argument("--write", action="store_true", help="put the table into docs/reliability.md")
    parser.add_argument("--seed", type=int, default=1, help="another seed tries other things")
    given = parser.parse_args()
    sizes = SHORT if given.short else WHOLE
    for name, size in sizes.items():
        if getattr(given, name) is None:
            setattr(given, name, size)
    rows: list[Row] = []
    for part in given.parts or [name for name in PARTS if not (given.short and name == "size")]:
        print(f"trial: {part} …", file=sys.stderr, flush=True)
        rows += PARTS[part](given)
    print(table(rows))
    if given.write:
        write(table(rows))
    # In the short form, which runs with the tests, what depends on the machine's pace is told and fails nothing.
    return 1 if any(row.failed and not (given.short and row.timed) for row in rows) else 0


def write(text: str) -> None:
    """Put the table between its marks in the page on reliability, with the day and the command."""
    begin, end = "<!-- written by ./eager-lens trial --write -->", "<!-- end of the table -->"
    head, rest = PAGE.read_text("utf-8").split(begin)
    tail = rest.split(end)[1]
    command = " ".join(["./eager-lens trial", *(one for one in sys.argv[1:] if one != "--write")])
    told = f"`{command}`, {date.today().isoformat()}, {os.cpu_count()} processors:"
    PAGE.write_text(f"{head}{begin}\n{told}\n\n{text}\n\n{end}{tail}", "utf-8")


PARTS: dict[str, Callable[[argparse.Namespace], list[Row]]] = {
    "calls": lambda given: every_call(),
    "folders": lambda given: bad_folders(),
    "secret": lambda given: planted_secret(),
    "kills": lambda given: random_kills(given.kills, given.seed, 0.5 if given.short else 3.0),
    "pairs": lambda given: two_windows(given.pairs, given.seed, 1.0 if given.short else 4.0),
    "inputs": lambda given: mutated_inputs(given.inputs, given.seed, given.only),
    "random": lambda given: random_use(given.minutes, given.seed, given.cameras),
    "size": lambda given: [*themes(), *large_job(10_000, 200)],
}
"""By name, in the order in which they are run."""


if __name__ == "__main__":
    sys.exit(main())
