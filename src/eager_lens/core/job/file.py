"""The job file, ``*.lens.json``: one line a device, stable key order, written so that nothing is ever lost.

Saving writes a temporary file beside the target, flushes it to the disk, keeps the previous version as
``NAME.previous`` and only then renames. Reading checks everything and, on any trouble, says in one sentence what and where.
"""

import contextlib
import hashlib
import json
import os
import tempfile
from pathlib import Path
from typing import Any, NamedTuple

from eager_lens.core.errors import ChangedOnDisk, DamagedFile, FileTrouble, RefusedInput, advice_for
from eager_lens.core.job.migrations import FORMAT, STEPS, VERSION, migrated
from eager_lens.core.job.model import JOB_LISTS, Job
from eager_lens.core.validation import parse_json, read_as

ENDING = ".lens.json"
LARGEST_FILE_BYTES = 256 * 2**20


class Stamp(NamedTuple):
    """What a file held when it was read or written: tells whether somebody else wrote it since."""

    digest: str


def _stamp(data: bytes) -> Stamp:
    return Stamp(hashlib.sha256(data).hexdigest())


def job_text(job: Job) -> str:
    """The job as the text of its file."""
    fields = job.model_dump(mode="json")
    lines = ["{", f' "format": {_json(FORMAT)},', f' "version": {VERSION},']
    scalars = [name for name in Job.model_fields if name not in JOB_LISTS]
    for name in scalars:
        lines.append(f' "{name}": {_json(fields[name])},')
    for name in JOB_LISTS:
        rows = [f"  {_json(row)}" for row in fields[name]]
        body = "[\n" + ",\n".join(rows) + "\n ]" if rows else "[]"
        lines.append(f' "{name}": {body}' + ("" if name == JOB_LISTS[-1] else ","))
    return "\n".join([*lines, "}"]) + "\n"


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def job_from_text(text: str) -> Job:
    """The job in the text of a job file, of this version or an older one.

    Raises:
        RefusedInput: when the text is no job of a version known here; the message names the first wrong field.
    """
    document = parse_json(text)
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise RefusedInput("format", f'this is not a job file of Eager Lens: it does not say "format": "{FORMAT}"')
    version = document.get("version")
    if type(version) is not int or version < 1:
        raise RefusedInput("version", "a whole number of at least 1 is wanted")
    if version > VERSION:
        raise RefusedInput(
            "version",
            f"the file is of version {version}, this program knows up to {VERSION}; open it with a newer Eager Lens",
        )
    document = migrated(document, version, VERSION, STEPS)
    return read_as(Job, {key: value for key, value in document.items() if key not in ("format", "version")})


def read_job(path: Path) -> tuple[Job, Stamp]:
    """The job in a file, and the stamp by which a later change of the file by others is seen.

    Raises:
        FileTrouble: when the file cannot be read.
        DamagedFile: when it is cut off, foreign, of a later version, or holds a value that cannot be.
    """
    try:
        if path.stat().st_size > LARGEST_FILE_BYTES:
            raise DamagedFile(f"{path} is larger than {LARGEST_FILE_BYTES // 2**20} MiB and is no job file.")
        data = path.read_bytes()
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Opening")) from error
    try:
        return job_from_text(data.decode("utf-8")), _stamp(data)
    except UnicodeDecodeError as error:
        raise DamagedFile(
            f"{path} is not UTF-8 text (byte {error.start}), so it is no job file; it was left as it is."
        ) from error
    except RefusedInput as error:
        raise DamagedFile(f"{path} cannot be opened: {error}. It was left as it is.{_previous_hint(path)}") from error


def _previous_hint(path: Path) -> str:
    previous = previous_version(path)
    return f" The version saved before it is {previous.name}, beside it." if previous.exists() else ""


def previous_version(path: Path) -> Path:
    """Where the version before the last save is kept."""
    return path.with_name(path.name + ".previous")


def write_job(path: Path, job: Job, expected: Stamp | None, force: bool = False) -> Stamp:
    """Save a job: all or nothing, the previous version kept.

    Args:
        path: the file to write.
        job: what to write.
        expected: the stamp of the file as it was last seen, or None for a file that should not be there yet.
        force: write even if somebody else wrote the file meanwhile (their version is then the one kept).

    Raises:
        ChangedOnDisk: when the file is not as it was last seen, and ``force`` is not given.
        FileTrouble: when it cannot be written; the old file is still whole.
    """
    data = job_text(job).encode("utf-8")
    try:
        current = path.read_bytes() if path.exists() else None
        if not force and current is not None and (expected is None or _stamp(current) != expected):
            raise ChangedOnDisk(
                f"{path} was written by someone else since it was opened here. "
                "Save under another name, or write over it; theirs is then kept as the previous version."
            )
        if current is not None and current != data:
            write_whole(previous_version(path), current)
        write_whole(path, data)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Saving")) from error
    return _stamp(data)


def write_whole(path: Path, data: bytes, mode: int = 0o644) -> None:
    """Write a file so that at every moment either the old or the new content is there, whole; ``mode`` is that of a new one.

    Raises:
        OSError: when it cannot be written; the old content is untouched and no temporary file is left.
    """
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:80]}.", suffix=".part")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        Path(name).chmod(path.stat().st_mode & 0o777 if path.exists() else mode)
        Path(name).replace(path)
    except BaseException:
        with contextlib.suppress(OSError):
            Path(name).unlink()
        raise
    _sync_folder(path.parent)


def _sync_folder(folder: Path) -> None:
    """Make the rename itself last through a power cut; some file systems cannot, which is no failure of the save."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def job_schema() -> dict[str, Any]:
    """JSON Schema of the job file."""
    schema = Job.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Eager Lens job file"
    schema["properties"] = {
        "format": {"const": FORMAT},
        "version": {"const": VERSION},
        **schema["properties"],
    }
    schema["required"] = ["format", "version"]
    return schema
