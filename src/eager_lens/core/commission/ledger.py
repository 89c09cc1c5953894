"""The state of a run on disk: what is about to be set is written before it is sent, and what came of it after; so that a run
that is cut off anywhere can be told, gone on with, and put back. No password is ever in it.

JSON Lines beside the job file. A run is a line with its plan, a line for each beginning and end of an act, and a last one.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field

from eager_lens.core.commission.act import Act, DevicePlan, SetPlan
from eager_lens.core.errors import FileTrouble, RefusedInput, advice_for
from eager_lens.core.files import PRIVATE, Locked, lock, read_whole, set_aside
from eager_lens.core.job.file import beside
from eager_lens.core.site_check.readings import UTC_FORM, Moment
from eager_lens.core.site_check.told import Word
from eager_lens.core.validation import Plain, parse_json, read_as

ENDING = ".commissioning.jsonl"
LARGEST_BYTES, KEPT_BYTES = 128 * 2**20, 60 * 2**20
"""What is read at the most; a file larger than the second becomes the previous version."""
WHAT = "file of the commissioning"

State = Literal["begun", "done", "refused", "not taken", "lost"]
"""Of an act: it is about to be sent; it was set and read back; the device refused it; the device took it and is set otherwise
all the same; the device did not answer any more."""


class ActLine(Plain):
    """A line about an act. ``why``: what is to be told of it."""

    at: Moment
    device: Word
    act: Word
    state: State
    why: Word = ""


class Head(Plain):
    """The first line of a run: when, and what was agreed to. ``puts_back``: it undoes a run."""

    at: Moment
    plan: SetPlan
    puts_back: bool = False


class Run(Plain):
    """A run as it stands on disk. ``is_over``: it came to its end; else it was cut off. ``stopped``: somebody ended it."""

    head: Head
    lines: Annotated[tuple[ActLine, ...], Field(max_length=200_000)] = ()
    is_over: bool = False
    stopped: bool = False

    def each(self) -> Iterator[tuple[DevicePlan, Act, ActLine | None]]:
        """The acts of its plan, each with what was written last of it; None: it was not begun."""
        last = {(line.device, line.act): line for line in self.lines}
        for device in self.head.plan.devices:
            for act in device.acts:
                yield device, act, last.get((device.device, act.key))

    def in_state(self, state: State) -> list[tuple[DevicePlan, Act]]:
        """The acts that ended so; those that only began are those of which nothing is known since."""
        return [(device, act) for device, act, line in self.each() if line is not None and line.state == state]


def now() -> str:
    """This moment as lines have it."""
    return datetime.now(UTC).strftime(UTC_FORM)


def ledger_beside(job_path: Path) -> Path:
    """Where the runs of a job file are kept."""
    return beside(job_path, ENDING)


class Ledger:
    """A file that is added to, each line on disk before it counts."""

    def __init__(self, path: Path) -> None:
        """Open it.

        Raises:
            FileTrouble: when it cannot be written; nothing may be set then.
        """
        self._path = path
        self._file = _opened(path)
        if os.fstat(self._file).st_size > KEPT_BYTES:
            set_aside(path)
            os.close(self._file)
            self._file = _opened(path)

    def _add(self, kind: str, text: str) -> None:
        line = f'{{"{kind}":{text}}}\n'.encode()
        try:
            written = os.write(self._file, line)
            os.fsync(self._file)
        except OSError as error:
            raise FileTrouble(advice_for(error, self._path, "Writing")) from error
        if written != len(line):
            raise FileTrouble(f"{self._path.name} cannot be written: the disk is full; make room")

    def begin(self, head: Head) -> None:
        """Begin a run."""
        self._add("run", head.model_dump_json())

    def add(self, line: ActLine) -> None:
        """Write what is about to be, or was, set."""
        self._add("line", line.model_dump_json())

    def end(self, stopped: bool) -> None:
        """End a run."""
        self._add("end", "true" if stopped else "false")

    def close(self) -> None:
        """Close it."""
        os.close(self._file)


def _opened(path: Path) -> int:
    """The file, to be added to by nobody else: two that set the same devices would each read back what the other did."""
    try:
        handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC, PRIVATE)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Writing")) from error
    try:
        lock(handle, path, 0.0)
        length = os.fstat(handle).st_size
        if length and os.pread(handle, 1, length - 1) != b"\n":
            os.write(handle, b"\n")  # the last run was cut off within a line
    except Locked as error:
        os.close(handle)
        words = f"{path.name} is in use: another run on this job is under way; wait for its end"
        raise FileTrouble(words) from error
    except OSError as error:
        os.close(handle)
        raise FileTrouble(advice_for(error, path, "Writing")) from error
    return handle


def runs_in(path: Path) -> list[Run]:
    """The runs in a file, oldest first; none where there is no file. A line that was cut off is none.

    Raises:
        FileTrouble: when it cannot be read.
    """
    if not path.exists():
        return []
    text = read_whole(path, LARGEST_BYTES, WHAT).decode("utf-8", "replace")
    return _runs(text.splitlines())


def _runs(texts: Iterable[str]) -> list[Run]:
    found: list[Run] = []
    lines: list[ActLine] = []

    def close(is_over: bool, stopped: bool) -> None:
        if found:
            found[-1] = found[-1].model_copy(update={"lines": tuple(lines), "is_over": is_over, "stopped": stopped})

    for text in texts:
        try:
            data = parse_json(text, clean=True)
            if not isinstance(data, dict) or len(data) != 1:
                continue
            kind, value = next(iter(data.items()))
            if kind == "run":
                head = read_as(Head, value)
                if found and not found[-1].is_over:
                    close(False, False)
                found.append(Run(head=head))
                lines = []
            elif kind == "line" and found:
                lines.append(read_as(ActLine, value))
            elif kind == "end":
                close(True, bool(value))
        except RefusedInput:
            continue
    if found and not found[-1].is_over:
        close(False, False)
    return found


def put_back_plan(run: Run) -> SetPlan:
    """What undoes a run: what it set, backwards, as it was read before. Users and passwords stay; so does the address of a device
    that shared it before, since it would collide again."""
    by_device: dict[str, list[Act]] = {}
    done = run.in_state("done")
    moved = {device.device for device, act in done if act.kind == "address"}
    for device, act in done:
        if act.can_go_back and not (device.shared and act.kind in ("address", "gateway")):
            by_device.setdefault(device.device, []).append(act.reversed())
    each = [one for one in run.head.plan.devices if one.device in by_device]
    return SetPlan(
        devices=tuple(
            _from_where_it_is(one, by_device[one.device][::-1], one.device in moved) for one in reversed(each)
        ),
    )


def _from_where_it_is(device: DevicePlan, acts: list[Act], has_moved: bool) -> DevicePlan:
    """A device with what puts it back, at the address that it was given; the address last, as ever."""
    moves = next((act for act in acts if act.kind == "address"), None)
    address = device.planned_address if has_moved else device.address
    ordered = [act for act in acts if act.kind != "address"] + [act for act in acts if act.kind == "address"]
    back_to = str(moves.values["address"]) if moves is not None else device.planned_address
    return device.model_copy(
        update={
            "acts": tuple(ordered),
            "address": address,
            "planned_address": back_to,
            "shared": False,
            "by_hand": (),
        }
    )
