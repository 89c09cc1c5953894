"""Kill the real window: at random moments, and at every call that changes a file. Nothing that was saved may be broken, and
little of what was not may be lost.

A child opens a job, edits it without end (each edit has a number, which it tells before it makes it), saves now and then,
and is killed. Its parent then looks at what is on the disk as the next window would.
"""

from __future__ import annotations

import builtins
import os
import random
import signal
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tools.trial.forked import forked, kill
from tools.trial.report import Failures, Row, percentile
from tools.trial.windows import demo_job, window_in

from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import previous_version
from eager_lens.core.job.edits import set_job
from eager_lens.core.job.file import ENDING, read_job, write_job
from eager_lens.core.records.sealed.vault import Vault, create, sealed_path, unsealed
from eager_lens.desk.autosave import left_work

MOST_LOST_S = 2.0
NAME = f"depot{ENDING}"


def random_kills(count: int, seed: int, slowest_s: float = 3.0) -> list[Row]:
    """Kill so many windows, each at a moment of its own."""
    broken, litter, late = Failures(), Failures(), Failures()
    lost: list[float] = []
    for at in range(count):
        chance = random.Random(f"{seed}:{at}")
        with tempfile.TemporaryDirectory(prefix="trial-") as name:
            folder = Path(name)
            edits, killed_at = _edited_and_killed(folder, chance, slowest_s)
            where = f"seed {seed}:{at}"
            trouble, kept = _looked_at(folder)
            if trouble:
                broken.add(f"{where}: {trouble}")
            if list(folder.rglob("*.part")):
                litter.add(f"{where}: {next(folder.rglob('*.part')).name}")
            missing = [made_at for number, made_at in edits if number > kept]
            lost.append(killed_at - missing[0] if missing else 0.0)
            if lost[-1] > MOST_LOST_S:
                late.add(f"{where}: {lost[-1]:.2f} s, {len(missing)} edits")
    # Two seconds are promised for 99 of 100.
    too_many = late.count if late.count > count / 100 else 0
    measured = f"lost: median {percentile(lost, 0.5):.2f} s, 99 % {percentile(lost, 0.99):.2f} s, most {max(lost, default=0):.2f} s"
    return [
        Row("kills: files that are broken", count, broken.count, broken.first),
        Row(
            "kills: over 2 s lost in over 1 of 100",
            count,
            too_many,
            late.first,
            f"{late.count} over 2 s; {measured}",
            timed=True,
        ),
        Row("kills: temporary files left beside the job", count, litter.count, litter.first),
    ]


def _edited_and_killed(folder: Path, chance: random.Random, slowest_s: float) -> tuple[list[tuple[int, float]], float]:
    """Numbers of the edits with the time at which each was made, and when the window was killed."""
    reading, writing = os.pipe()
    write_job(folder / NAME, set_job("note", note="edit 0").apply(demo_job()), None)

    def edits() -> None:
        os.close(reading)
        _edit_without_end(folder, chance, lambda number: os.write(writing, f"{number} {time.time()}\n".encode()))

    child = forked(edits)
    os.close(writing)
    with os.fdopen(reading, "rb") as lines_in:
        first = lines_in.readline()
        time.sleep(chance.uniform(0.0, slowest_s))
        killed_at = time.time()
        kill(child)
        lines = [first, *lines_in.read().splitlines()]
    pairs = [line.split() for line in lines if len(line.split()) == 2]
    return [(int(number), float(told_at)) for number, told_at in pairs], killed_at


def _edit_without_end(folder: Path, chance: random.Random, tell: Callable[[int], object]) -> None:
    from PySide6.QtCore import QTimer

    app, window = window_in(folder / "home")
    window.open_path(folder / NAME)
    number = 0

    def edit() -> None:
        nonlocal number
        number += 1
        tell(number)
        window.session.apply(set_job("note", note=f"edit {number}"))
        if chance.random() < 0.05:
            window.files.save()
        if chance.random() < 0.02:
            window.session.undo()
            window.session.redo()
        if chance.random() < 0.05:
            window.go(chance.choice(("wiring", "sizing", "addresses", "bench", "schedule", "proof", "handover")))
        timer.setInterval(chance.choice((5, 20, 60, 200)))

    timer = QTimer(interval=10)
    timer.timeout.connect(edit)
    timer.start()
    app.exec()


def _looked_at(folder: Path) -> tuple[str, int]:
    """What is wrong with the files that are there, if anything; and the number of the newest edit that is kept."""
    kept = 0
    for path in (folder / NAME, previous_version(folder / NAME)):
        if path.exists() or path.name == NAME:
            try:
                kept = max(kept, _number_in(path))
            except EagerLensError as error:
                return f"{path.name}: {error}", kept
    for work in left_work(folder / "home" / "state"):
        try:
            kept = max(kept, _number_in(work.copy))
        except EagerLensError as error:
            return f"safety copy: {error}", kept
    return "", kept


def _number_in(path: Path) -> int:
    return int(read_job(path).job.note.removeprefix("edit ") or 0)


# ---- at every call -------------------------------------------------------------------------------------------------

CALLS = ("open", "fsync", "link", "replace", "rename", "unlink", "fchmod", "fchown", "truncate")


def _counting(at: int, before: bool) -> None:
    """From now on, die at the so-maniest call that changes a file: just before it, or just after; writes die half-way."""
    count = 0

    def wrapped(real: Callable[..., Any], changes: Callable[..., bool] = lambda *given: True) -> Callable[..., Any]:
        def call(*given: Any, **more: Any) -> Any:
            nonlocal count
            if not changes(*given):
                return real(*given, **more)
            count += 1
            if count == at and before:
                os.kill(os.getpid(), signal.SIGKILL)
            result = real(*given, **more)
            if count == at:
                os.kill(os.getpid(), signal.SIGKILL)
            return result

        return call

    writing = os.O_WRONLY | os.O_RDWR | os.O_CREAT
    for name in CALLS:
        real = getattr(os, name)
        changes = (
            (lambda path, flags=0, *mode, **more: bool(flags & writing)) if name == "open" else (lambda *given: True)
        )
        setattr(os, name, wrapped(real, changes))
    real_open = builtins.open

    def opened(file: Any, mode: str = "r", *given: Any, **more: Any) -> Any:
        made = real_open(file, mode, *given, **more)
        if isinstance(file, int) and "w" in mode:
            return _HalfWritten(made, wrapped(lambda: None))
        return made

    builtins.open = opened  # type: ignore[assignment]


class _HalfWritten:
    """A file whose every write has a moment at which only half of it is there."""

    def __init__(self, file: Any, moment: Callable[[], Any]) -> None:
        self._file, self._moment = file, moment

    def write(self, data: bytes) -> int:
        half = len(data) // 2
        self._file.write(data[:half])
        self._file.flush()
        self._moment()
        self._file.write(data[half:])
        return len(data)

    def __enter__(self) -> _HalfWritten:
        return self

    def __exit__(self, *error: object) -> None:
        self._file.close()


def every_call(most: int = 400) -> list[Row]:
    """Save a job, its safety copy and its sealed file, and die at each call in turn, before and after it."""
    rows = []
    for name, prepare, act, wrong in (
        ("a job saved", _prepare_job, _save_job, _job_wrong),
        ("a safety copy written", _prepare_copy, _write_copy, _copy_wrong),
        ("passwords sealed", _prepare_vault, _seal, _vault_wrong),
    ):
        failures, tried = Failures(), 0
        for at in range(1, most):
            ended = False
            for before in (True, False):
                with tempfile.TemporaryDirectory(prefix="trial-") as made:
                    folder = Path(made)
                    prepare(folder)

                    def work(folder: Path = folder, at: int = at, before: bool = before, act: Any = act) -> None:
                        _counting(at, before)
                        act(folder)

                    _, status = os.waitpid(forked(work), 0)
                    ended = os.WIFEXITED(status)
                    if ended and os.WEXITSTATUS(status):
                        failures.add(f"call {at}: it failed instead of dying")
                    tried += 1
                    trouble = wrong(folder)
                    if trouble:
                        failures.add(f"call {at}, {'before' if before else 'after'} it: {trouble}")
            if ended:
                break
        rows.append(Row(f"killed at every call that changes a file: {name}", tried, failures.count, failures.first))
    return rows


def _prepare_job(folder: Path) -> None:
    write_job(folder / NAME, set_job("note", note="edit 1").apply(demo_job()), None)


def _save_job(folder: Path) -> None:
    read = read_job(folder / NAME)
    write_job(folder / NAME, set_job("note", note="edit 2").apply(read.job), read.stamp)


def _job_wrong(folder: Path) -> str:
    try:
        number = _number_in(folder / NAME)
        if previous_version(folder / NAME).exists():
            _number_in(previous_version(folder / NAME))
        _save_job(folder)
    except EagerLensError as error:
        return str(error)
    left = [path.name for path in folder.iterdir() if path.name.endswith(".part")]
    return "" if number in (1, 2) and not left else f"edit {number}, left after the next save: {left}"


def _prepare_copy(folder: Path) -> None:
    _prepare_job(folder)


def _write_copy(folder: Path) -> None:
    from eager_lens.desk.autosave import Autosave

    autosave = Autosave(folder / "state")
    for number in (2, 3):
        autosave.write(set_job("note", note=f"edit {number}").apply(demo_job()), folder / NAME, 0)


def _copy_wrong(folder: Path) -> str:
    try:
        for work in left_work(folder / "state"):
            _number_in(work.copy)
        return "" if _number_in(folder / NAME) == 1 else "the job itself was changed"
    except EagerLensError as error:
        return str(error)


PASSPHRASE = "kettle ninety moss parade"


def _prepare_vault(folder: Path) -> None:
    if _prepare_vault_cache.get("data") is None:
        opened = create(sealed_path(folder / NAME, ENDING), PASSPHRASE)
        opened.change(lambda vault: Vault({"cam-1": "first"}))
        _prepare_vault_cache["data"] = opened.path.read_bytes()
        _prepare_vault_cache["key"] = opened
    sealed_path(folder / NAME, ENDING).write_bytes(_prepare_vault_cache["data"])


_prepare_vault_cache: dict[str, Any] = {}
"""Making a key takes a moment; one serves all."""


def _seal(folder: Path) -> None:
    opened = _prepare_vault_cache["key"]
    opened.path = sealed_path(folder / NAME, ENDING)
    opened.change(lambda vault: Vault({**vault.passwords, "cam-2": "second"}))


def _vault_wrong(folder: Path) -> str:
    path = sealed_path(folder / NAME, ENDING)
    try:
        key = _prepare_vault_cache["key"].key
        kept = unsealed(path.read_bytes(), key, path.name).passwords
        if previous_version(path).exists():
            unsealed(previous_version(path).read_bytes(), key, path.name)
    except EagerLensError as error:
        return str(error)
    return "" if kept.get("cam-1") == "first" else "a password is gone"
