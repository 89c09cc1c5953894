"""A job of thousands of cameras in the real window: how long the event loop stands still on each page, how long an edit and
an undo take all told, and what 200 of them and 40 of all cameras at once leave in memory."""

from __future__ import annotations

import itertools
import json
import os
import statistics
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tools.trial.forked import forked
from tools.trial.report import Row

EDIT_S, STALL_S, MOST_GROWTH = 0.25, 0.3, 1.3
EDITS_OF_ALL, WORKED_OUT_S, MOST_OF_ALL = 40, 1.5, 2.0
"""So many edits that change every camera, so long after each until its figures are there, and by how much memory may grow."""

TURN = 20
"""So many edits, then as many undos."""


def large_job(cameras: int, edits: int) -> list[Row]:
    """Visit every page, select everything, edit and undo; in a process of its own."""
    with tempfile.TemporaryDirectory(prefix="trial-") as name:
        result_file = Path(name) / "told.json"
        _, status = os.waitpid(forked(lambda: _use(cameras, edits, Path(name), result_file)), 0)
        found = json.loads(result_file.read_text("utf-8")) if result_file.exists() and not status else {}
    if not found:
        return [Row(f"{cameras:,} cameras", 1, 1, f"the window ended by status {status}")]
    stalls: dict[str, float] = found["stalls"]
    worst = max(stalls, key=lambda one: stalls[one])
    slow = [f"{one}: {1000 * stalls[one]:.0f} ms" for one in stalls if stalls[one] > STALL_S]
    edit, undo = statistics.median(found["edits"]), statistics.median(found["undos"])
    growth, of_all = (after / before for before, after in itertools.pairwise(found["memory_mb"]))
    size = f"{cameras:,} cameras"
    return [
        Row(
            f"{size}: event loop stands still over {1000 * STALL_S:.0f} ms",
            len(stalls),
            len(slow),
            "; ".join(slow[:4]),
            f"worst {1000 * stalls[worst]:.0f} ms, {worst}",
        ),
        Row(
            f"{size}: an edit in the window over {1000 * EDIT_S:.0f} ms",
            edits,
            int(edit > EDIT_S),
            "",
            f"{1000 * edit:.0f} ms",
        ),
        Row(f"{size}: an undo dearer than an edit", edits, int(undo > 1.25 * edit), "", f"{1000 * undo:.0f} ms"),
        Row(
            f"{size}: memory after {edits} edits and undos",
            1,
            int(growth > MOST_GROWTH),
            "",
            f"{found['memory_mb'][0]:.0f} to {found['memory_mb'][1]:.0f} MB, {growth:.2f} times",
        ),
        Row(
            f"{size}: memory after {EDITS_OF_ALL} edits of all cameras",
            1,
            int(of_all > MOST_OF_ALL),
            "",
            f"{found['memory_mb'][1]:.0f} to {found['memory_mb'][2]:.0f} MB, {of_all:.2f} times",
        ),
    ]


def themes(cameras: int = 300) -> list[Row]:
    """Switch theme and type size on every page, all seen before, beside the findings of the whole demo job with so many cameras."""
    with tempfile.TemporaryDirectory(prefix="trial-") as name:
        result_file = Path(name) / "told.json"
        os.waitpid(forked(lambda: _switch(cameras, Path(name), result_file)), 0)
        took: dict[str, float] = json.loads(result_file.read_text("utf-8")) if result_file.exists() else {}
    slow = [f"{one}: {1000 * took[one]:.0f} ms" for one in took if took[one] > STALL_S]
    worst = max(took, key=lambda one: took[one], default="")
    measured = f"worst {1000 * took[worst]:.0f} ms, {worst}" if took else "the window ended"
    name = f"theme and type size, {cameras} cameras, over {1000 * STALL_S:.0f} ms"
    return [Row(name, len(took), len(slow) + (not took), "; ".join(slow[:3]), measured)]


def _wait(seconds: float) -> None:
    """Let the window go on as in use: what was put away is only deleted where an event loop runs."""
    from PySide6.QtCore import QEventLoop, QTimer

    loop = QEventLoop()
    QTimer.singleShot(round(1000 * seconds), loop.quit)
    loop.exec()


def _switch(cameras: int, folder: Path, result_file: Path) -> None:
    from PySide6.QtWidgets import QPushButton
    from tools.trial.watchdog import Stopwatch
    from tools.trial.windows import demo_job, window_in

    from eager_lens.core.job.edits import add_like
    from eager_lens.core.present.stages import STAGES

    app, window = window_in(folder / "home")
    window.resize(1700, 950)  # roomy in large type too
    job = demo_job()
    window.session.start_job(add_like(job.cameras[0].id, cameras - len(job.cameras)).apply(job))
    for stage in STAGES:
        window.go(stage)
        _wait(0.1)
    next(one for one in window.side.findChildren(QPushButton) if one.text().startswith("Whole job")).click()
    took: dict[str, float] = {}
    for stage in STAGES:
        window.go(stage)
        for command in ("dark", "large"):
            _wait(0.4)
            watched = Stopwatch()
            window.run(command)
            app.processEvents()
            took[f"{command} on {stage}"] = watched.seconds()
    result_file.write_text(json.dumps(took), "utf-8")
    os._exit(0)


def _use(cameras: int, edits: int, folder: Path, result_file: Path) -> None:
    from PySide6.QtCore import QTimer
    from tools.perf.benchmarks import job_of
    from tools.trial.watchdog import Stopwatch, Watchdog, resident_mb
    from tools.trial.windows import window_in

    from eager_lens.core.job.edits import set_fields
    from eager_lens.core.present.stages import STAGES
    from eager_lens.desk.widgets.record_table import RecordTable

    job = job_of(cameras)
    app, window = window_in(folder / "home")
    watch = Watchdog(app, 60.0)
    stalls: dict[str, float] = {}

    def measured(name: str, act: Callable[[], object], seconds: float) -> None:
        _wait(0.1)
        watch.reset()
        QTimer.singleShot(0, act)
        _wait(seconds)
        watch.beat()
        stalls[name] = max(stalls.get(name, 0.0), watch.worst_s)

    measured("opened", lambda: window.session.start_job(job), 3)
    for stage in STAGES:
        measured(f"{stage}, seen first", lambda stage=stage: window.go(stage), 3)  # type: ignore[misc]
    for stage in STAGES:
        measured(f"{stage}, seen again", lambda stage=stage: window.go(stage), 1)  # type: ignore[misc]
        tables = [one for one in window.pages[stage].findChildren(RecordTable) if one.isVisible()]
        for table in tables[:1]:
            measured(f"{stage}, all selected", table.selectAll, 1)
            measured(f"{stage}, none selected", table.clearSelection, 1)
    memory = [resident_mb()]
    took: dict[str, list[float]] = {"edits": [], "undos": []}

    def timed(kind: str, act: Callable[[], Any]) -> None:
        """From the act to when the window has painted what came of it."""
        watched = Stopwatch()
        act()
        app.processEvents()
        took[kind].append(watched.seconds())

    window.go("wiring")
    _wait(2)
    # In turns, so that a processor that is slower for a minute is slower for both.
    for begin in range(0, edits, TURN):
        for at in range(begin, begin + TURN):
            timed("edits", lambda at=at: window.session.apply(set_fields(["cam-5"], "Set", fps=5 + at % 20)))  # type: ignore[misc]
        for _ in range(TURN):
            timed("undos", window.session.undo)
    _wait(3)
    memory.append(resident_mb())
    everyone = [camera.id for camera in job.cameras]
    for at in range(EDITS_OF_ALL):
        window.session.apply(set_fields(everyone, "Set all", fps=5 + at % 20))
        _wait(WORKED_OUT_S)
    _wait(3)
    memory.append(resident_mb())
    result_file.write_text(json.dumps({"stalls": stalls, "memory_mb": memory, **took}), "utf-8")
    os._exit(0)
