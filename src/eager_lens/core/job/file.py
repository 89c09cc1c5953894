"""The job file, ``*.lens.json``: one line a device, stable key order, written so that nothing is ever lost.

Saving writes a temporary file beside the target, flushes it to the disk, keeps the previous version as
``NAME.previous`` and only then renames. Reading checks everything and, on any trouble, says in one sentence what and where.
"""

import hashlib
import json
import os
import stat
import threading
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from eager_lens.core.errors import ChangedOnDisk, DamagedFile, FileTrouble, RefusedInput, advice_for
from eager_lens.core.files import folder_lock, previous_version, read_whole, real_path, write_whole
from eager_lens.core.job.kept_figures import KeptFigures
from eager_lens.core.job.limits import read_document
from eager_lens.core.job.migrations import FORMAT, STEPS, VERSION, migrated
from eager_lens.core.job.model import JOB_LISTS, Job
from eager_lens.core.plain_text import clipped
from eager_lens.core.validation import Plain, parse_json, read_as

ENDING = ".lens.json"
LARGEST_FILE_BYTES = 64 * 2**20
"""A job of 20,000 cameras has about 35 MB."""

SAVE_WAIT_S = 5.0
"""How long another window's save in the same folder is waited for."""


class Stamp(NamedTuple):
    """What a file held when it was read or written: tells whether somebody else wrote it since."""

    digest: str


class ReadJob(NamedTuple):
    """A job as it was read: the stamp of its file, and a sentence for each part that was beyond a limit and left out. ``figures``:
    those that it was saved with; None in a file from before files held them."""

    job: Job
    stamp: Stamp
    surplus: tuple[str, ...] = ()
    figures: KeptFigures | None = None


def beside(job_path: Path, ending: str) -> Path:
    """What is kept with a job file: beside the file itself, wherever a link to it may lie."""
    real = real_path(job_path)
    stem = real.name.removesuffix(ENDING) if real.name.endswith(ENDING) else real.stem
    return real.with_name(stem + ending)


def _stamp(data: bytes) -> Stamp:
    return Stamp(hashlib.sha256(data).hexdigest())


class RowTexts:
    """The texts of a job's parts, each read again by the reader when it is first written.

    A part that is still the same object keeps its text, so that a job of 10,000 cameras costs little to write again after
    an edit. May be shared by threads.
    """

    def __init__(self) -> None:
        self._texts: dict[int, tuple[Plain, str]] = {}
        self._guard = threading.Lock()

    def of(self, job: Job, step: Callable[[float], None] = lambda share: None) -> dict[str, list[str]]:
        """A line for each part of each list of the job. ``step`` is told after every hundred that are new.

        Raises:
            FileTrouble: naming a part that could not be read again.
        """
        with self._guard:
            known, self._texts = self._texts, {}
            lines: dict[str, list[str]] = {}
            new = 0
            for name in JOB_LISTS:
                lines[name] = rows = []
                for at, part in enumerate(getattr(job, name)):
                    # The part is kept beside its text: its id is no other's as long as it is.
                    kept = known.get(id(part))
                    if kept is None or kept[0] is not part:
                        kept = (part, _proved(part, f"{name}[{at}]"))
                        new += 1
                        if new % 100 == 0:
                            step(0.5)
                    self._texts[id(part)] = kept
                    rows.append(kept[1])
            return lines


def _proved(part: Plain, path: str) -> str:
    """A part as text, after the same part was read out of that text.

    Raises:
        FileTrouble: when it was not.
    """
    text = _json(part.model_dump(mode="json"))
    try:
        again = read_as(type(part), parse_json(text, clean=True))
    except RefusedInput as error:
        raise FileTrouble(
            f"This could not be opened again, so it was not written: {path}, {error}. Undo the last step."
        ) from error
    if again != part:
        raise FileTrouble(
            f"{path} would not be the same when it is opened again, so it was not written. Undo the last step."
        )
    return text


def job_text(
    job: Job,
    rows: RowTexts | None = None,
    step: Callable[[float], None] = lambda share: None,
    figures: KeptFigures | None = None,
) -> str:
    """The job as the text of its file, proved: the reader has read the same job out of it.

    Args:
        job: what to write. rows: texts of parts that were written before. step: told while they are made; may raise. figures: those
            of the job as it is, to compare with when another model opens it.

    Raises:
        FileTrouble: when it could not be opened again; nobody is locked out of a file that was written.
    """
    texts = (rows or RowTexts()).of(job, step)
    bare = job.model_copy(update=dict.fromkeys(JOB_LISTS, ()))
    fields = bare.model_dump(mode="json")
    try:
        # The parts stand as they are: they were read again one by one.
        lists = {name: getattr(job, name) for name in JOB_LISTS}
        again = read_as(Job, {**parse_json(_json(fields), clean=True), **lists})
    except RefusedInput as error:
        raise FileTrouble(
            f"The job could not be opened again, so it was not written: {error}. Undo the last step."
        ) from error
    if again.model_copy(update=dict.fromkeys(JOB_LISTS, ())) != bare:
        raise FileTrouble(
            "The job would not be the same when it is opened again, so it was not written. Undo the last step."
        )
    lines = ["{", f' "format": {_json(FORMAT)},', f' "version": {VERSION},']
    if figures is not None:
        lines.append(f' "figures": {_json(figures.model_dump(mode="json"))},')
    lines += [f' "{name}": {_json(fields[name])},' for name in Job.model_fields if name not in JOB_LISTS]
    for name in JOB_LISTS:
        body = "[\n  " + ",\n  ".join(texts[name]) + "\n ]" if texts[name] else "[]"
        lines.append(f' "{name}": {body}' + ("" if name == JOB_LISTS[-1] else ","))
    text = "\n".join([*lines, "}"]) + "\n"
    # Letters take up to four bytes; only a text that may be too large is counted exactly.
    if len(text) > LARGEST_FILE_BYTES // 4 and len(text.encode("utf-8")) > LARGEST_FILE_BYTES:
        raise FileTrouble(
            f"The job would be larger than {LARGEST_FILE_BYTES // 2**20} MiB and could not be opened again, so it was not "
            "written. Split it into two, or remove checks and rehearsals that are not needed."
        )
    return text


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def job_from_text(text: str) -> Job:
    """The job in the text of a job file, of this version or an older one; surplus beyond a limit is left out.

    Raises:
        RefusedInput: when the text is no job of a version known here; the message names the first wrong field.
    """
    return _read_text(text)[0]


def _read_text(text: str) -> tuple[Job, tuple[str, ...], KeptFigures | None]:
    document = parse_json(text, clean=True)
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise RefusedInput("format", f'this is not a job file of Eager Lens: "format": "{FORMAT}" is missing')
    version = document.get("version")
    if type(version) is not int or version < 1:
        raise RefusedInput("version", "use a whole number of at least 1")
    if version > VERSION:
        raise RefusedInput(
            "version",
            f"the file is of version {version}, this program knows up to {VERSION}; open it with a newer Eager Lens",
        )
    document = migrated(document, version, VERSION, STEPS)
    kept = document.get("figures")
    try:
        figures = None if kept is None else read_as(KeptFigures, kept)
    except RefusedInput as error:
        raise RefusedInput(f"figures.{error.path}", error.problem) from None
    job, surplus = read_document(
        {key: value for key, value in document.items() if key not in ("format", "version", "figures")}
    )
    return job, surplus, figures


LONGEST_NAME_BYTES = 230
"""Beside a job stand files with its name and an ending of theirs, and no file system takes more than 255 bytes."""


def _require_short_name(path: Path, doing: str) -> None:
    size = len(os.fsencode(real_path(path).name))
    if size > LONGEST_NAME_BYTES:
        raise FileTrouble(
            f"{doing} {clipped(path.name, 60)} failed: its name has {size} bytes, which is too long for its log and previous "
            f"version. Use a name of at most {LONGEST_NAME_BYTES} bytes."
        )


def read_job(path: Path) -> ReadJob:
    """The job in a file, and the stamp by which a later change of the file by others is seen.

    Raises:
        FileTrouble: when the file cannot be read.
        DamagedFile: when it is cut off, foreign, of a later version, or holds a value that cannot be.
    """
    _require_short_name(path, "Opening")
    data = read_whole(path, LARGEST_FILE_BYTES, "job file", "Opening")
    try:
        stamp, text = _stamp(data), data.decode("utf-8")
        del data  # of a large file, nothing is held twice
        job, surplus, figures = _read_text(text)
        return ReadJob(job, stamp, surplus, figures)
    except UnicodeDecodeError as error:
        raise DamagedFile(
            f"{path} is not UTF-8 text (byte {error.start}), so it is not a job file; it was left as it is."
        ) from error
    except RefusedInput as error:
        raise DamagedFile(f"{path} cannot be opened: {error}. It was left as it is.{_previous_hint(path)}") from error


def stamp_of(path: Path) -> Stamp | None:
    """The stamp of a file as it is on the disk now; None when it is not there or cannot be read."""
    try:
        return _stamp(read_whole(path, LARGEST_FILE_BYTES, "job file", "Opening"))
    except FileTrouble:
        return None


def surplus_words(surplus: Sequence[str]) -> str:
    """What was left out of a file, in one sentence."""
    more = f"; and {len(surplus) - 1} more like this" if len(surplus) > 1 else ""
    return f"The file exceeds the limits of a job: {surplus[0]}{more}. It was left as it is."


def _previous_hint(path: Path) -> str:
    previous = previous_version(path)
    return f" The previous version is beside it: {previous.name}." if previous.exists() else ""


def write_job(
    path: Path,
    job: Job,
    expected: Stamp | None,
    force: bool = False,
    rows: RowTexts | None = None,
    figures: KeptFigures | None = None,
) -> Stamp:
    """Save a job: all or nothing, the previous version kept.

    Args:
        path: the file to write.
        job: what to write.
        expected: the stamp of the file as it was last seen, or None for a file that should not be there yet.
        force: write even if somebody else wrote the file meanwhile (their version is then the one kept).
        rows: texts of parts that were written before.
        figures: those of the job, which its file keeps.

    Raises:
        ChangedOnDisk: when the file is not as it was last seen, and ``force`` is not given.
        FileTrouble: when it cannot be written, or could not be read again; the old file is still whole.
    """
    _require_short_name(path, "Saving")
    data = job_text(job, rows, figures=figures).encode("utf-8")
    try:
        # Two windows that save in the same moment: one after the other, so that the second sees what the first wrote.
        with folder_lock(real_path(path).parent, SAVE_WAIT_S):
            _write_over(path, data, expected, force)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Saving")) from error
    return _stamp(data)


def _write_over(path: Path, data: bytes, expected: Stamp | None, force: bool) -> None:
    current = read_whole(path, LARGEST_FILE_BYTES, "job file", "Saving") if path.exists() else None
    if not force and current is None and expected is not None:
        raise ChangedOnDisk(
            f"{path} was removed or renamed since it was opened here. Save it under another name, or write it again."
        )
    if not force and current is not None and (expected is None or _stamp(current) != expected):
        raise ChangedOnDisk(
            f"{path} was changed by another window or program since it was opened here. Save under another name, or overwrite "
            "it; the other version is then kept as the previous one."
        )
    if current is not None and current != data:
        # Nobody may read the previous version who may not read the job.
        rights = stat.S_IMODE(path.stat().st_mode)
        write_whole(previous_version(path), current, mode=rights, most_mode=rights)
    write_whole(path, data)


def job_schema() -> dict[str, Any]:
    """JSON Schema of the job file."""
    schema = Job.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Eager Lens job file"
    schema["properties"] = {
        "format": {"const": FORMAT},
        "version": {"const": VERSION},
        "figures": {key: part for key, part in KeptFigures.model_json_schema().items() if key != "$defs"},
        **schema["properties"],
    }
    schema["required"] = ["format", "version"]
    return schema
