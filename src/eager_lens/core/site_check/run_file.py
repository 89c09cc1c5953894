"""The runs of a job's site check, kept beside its file: JSON Lines, a run in each line, the latest last."""

from __future__ import annotations

import stat
from collections.abc import Sequence
from pathlib import Path

from eager_lens.core.errors import EagerLensError, FileTrouble, RefusedInput, advice_for
from eager_lens.core.files import folder_lock, read_whole, write_whole
from eager_lens.core.job.file import beside
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.validation import parse_json, read_as

ENDING = ".site-checks.jsonl"
LARGEST_BYTES, KEPT_BYTES = 128 * 2**20, 60 * 2**20
"""What is read at the most, and what is kept: older runs make room for new ones."""

WHAT = "file of site checks"
MOST_RUNS = 50
"""Older runs are left out when a new one is kept."""


def runs_beside(job_path: Path) -> Path:
    """Where the runs of a job file are kept."""
    return beside(job_path, ENDING)


def run_line(run: CheckRun) -> str:
    """A run as one line of JSON."""
    return run.model_dump_json()


def run_from_line(text: str) -> CheckRun:
    """A run out of one line of JSON.

    Raises:
        RefusedInput: naming what is wrong with it.
    """
    data = parse_json(text, clean=True)
    if isinstance(data, dict):
        # Runs of before kept days that were worked out at the time, and channels from a page of the recorder.
        data.pop("days", None)
        for read in data.get("read") or ():
            if isinstance(read, dict):
                read.pop("channels", None)
    return read_as(CheckRun, data)


def read_runs(path: Path) -> tuple[list[CheckRun], list[str]]:
    """The runs in a file, oldest first, and a sentence for each line that is none; nothing where there is no file.

    Raises:
        FileTrouble: when the file cannot be read.
    """
    if not path.exists():
        return [], []
    runs, problems = [], []
    text = read_whole(path, LARGEST_BYTES, WHAT).decode("utf-8", "replace")
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            runs.append(run_from_line(line))
        except EagerLensError as error:
            problems.append(f"Line {number} of {path.name} is not a run: {error}")
    return runs, problems


def keep_run(path: Path, run: CheckRun, like: Path | None = None) -> None:
    """Put a run behind those that are kept; lines that cannot be read stay as they are. ``like``: a file whose rights a new
    one gets: who may not read the job may not read what was found at its site.

    Raises:
        FileTrouble: when that is not possible; what was kept stays.
    """
    try:
        with folder_lock(path.parent):
            lines = (
                read_whole(path, LARGEST_BYTES, WHAT).decode("utf-8", "replace").splitlines() if path.exists() else []
            )
            mode = 0o666 if like is None else stat.S_IMODE(like.stat().st_mode)
            write_whole(path, _kept([line for line in lines if line.strip()], run_line(run)), mode)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Saving")) from error


def _kept(lines: Sequence[str], newest: str) -> bytes:
    """The latest runs, as many as can be read again."""
    room, kept = KEPT_BYTES - len(newest.encode()), [newest]
    for line in reversed(lines[-(MOST_RUNS - 1) :]):
        room -= len(line.encode()) + 1
        if room < 0:
            break
        kept.insert(0, line)
    return ("\n".join(kept) + "\n").encode()


def latest_run(path: Path) -> CheckRun:
    """The latest run in a file.

    Raises:
        RefusedInput: when there is none. FileTrouble: when it cannot be read.
    """
    runs, problems = read_runs(path)
    if not runs:
        raise RefusedInput(path.name, problems[0] if problems else "the file contains no site check")
    return runs[-1]
