"""Two real windows on one job file, each edited and saved at random, one of them sometimes killed: every file stays whole, the log
of both is one, and what a window that was closed had written down stands in it."""

from __future__ import annotations

import os
import random
import tempfile
import time
from pathlib import Path

from tools.trial.forked import forked, kill
from tools.trial.kills import NAME
from tools.trial.report import Failures, Row
from tools.trial.windows import Answers, demo_job, window_in

from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import previous_version
from eager_lens.core.job.edits import set_job
from eager_lens.core.job.file import read_job, write_job
from eager_lens.core.records.event_log.log_file import log_beside
from eager_lens.core.records.event_log.verify import entries_of, verify

LONGEST_WAIT_S = 120.0


def two_windows(count: int, seed: int, seconds: float = 3.0) -> list[Row]:
    """So many pairs of windows, each pair for so long."""
    broken, lost = Failures(), Failures()
    edits = 0
    for at in range(count):
        chance = random.Random(f"{seed}:{at}")
        with tempfile.TemporaryDirectory(prefix="trial-") as name:
            folder = Path(name)
            told = _pair(folder, chance, seconds)
            edits += sum(map(len, told.values()))
            trouble = _looked_at(folder)
            if trouble:
                broken.add(f"seed {seed}:{at}: {trouble}")
            missing = _missing(folder, told)
            if missing:
                lost.add(f"seed {seed}:{at}: {len(missing)} edits are not in the log, the first {missing[0]!r}")
    return [
        Row("two windows: files that are broken", count, broken.count, broken.first, f"{edits:,} edits"),
        Row("two windows: edits that the log lost", count, lost.count, lost.first),
    ]


def _pair(folder: Path, chance: random.Random, seconds: float) -> dict[str, list[str]]:
    """By window that was closed, the labels of its edits; of one that was killed nothing is promised."""
    write_job(folder / NAME, demo_job(), None)
    killed = chance.choice(("", "", "A", "B"))
    children: dict[str, tuple[int, int]] = {}
    for who in ("A", "B"):
        reading, writing = os.pipe()
        own = random.Random(chance.random())
        child = forked(lambda who=who, own=own, writing=writing: _use(folder, who, own, writing, seconds))
        os.close(writing)
        children[who] = child, reading
    if killed:
        time.sleep(chance.uniform(0.5, seconds))
        kill(children[killed][0])
    told = {}
    for who, (child, reading) in children.items():
        with os.fdopen(reading, "r") as lines:
            labels = lines.read().splitlines()
        if who != killed:
            _, status = os.waitpid(child, 0)
            told[who] = labels if not status else ["the window itself: it ended by an error"]
    return told


def _use(folder: Path, who: str, chance: random.Random, told: int, seconds: float) -> None:
    from PySide6.QtCore import QTimer

    answers = folder / f"answers-{who}"
    answers.mkdir()
    app, window = window_in(folder / f"home-{who}", Answers(answers, chance))
    window.open_path(folder / NAME)
    begun, number = time.monotonic(), 0

    def edit() -> None:
        nonlocal number
        # A window that saved under another name, or opened another file, is on this one no more.
        if window.session.path != folder / NAME or (time.monotonic() - begun > seconds and number):
            timer.stop()
            window.session.close()
            app.exit(0)
            return
        number += 1
        label = f"{who} {number}"
        os.write(told, f"{label}\n".encode())
        window.session.apply(set_job(label, note=label))
        if chance.random() < 0.1:
            window.files.save()
        if chance.random() < 0.1:
            window.session.log.flush()
        timer.setInterval(chance.choice((5, 20, 60)))

    timer = QTimer(interval=10)
    timer.timeout.connect(edit)
    timer.start()
    app.exec()


def _looked_at(folder: Path) -> str:
    """What is wrong with the files, if anything."""
    for path in (folder / NAME, previous_version(folder / NAME)):
        if path.exists() or path.name == NAME:
            try:
                read_job(path)
            except EagerLensError as error:
                return f"{path.name}: {error}"
    found = verify(log_beside(folder / NAME))
    return "" if found.whole else f"the log: {found.troubles[0]}"


def _missing(folder: Path, told: dict[str, list[str]]) -> list[str]:
    # A window that saves under another name goes on in the log beside that.
    logs = folder.rglob(log_beside(Path("*")).name)
    logged = {entry.event.what.removeprefix("Set ") for log in logs for entry in entries_of(log)}
    return [label for labels in told.values() for label in labels if label not in logged]
