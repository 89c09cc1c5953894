"""Photos beside a job: kept as they are, under their SHA-256, so that results and log entries can name them."""

from __future__ import annotations

import hashlib
import re
import stat
from pathlib import Path

from eager_lens.core.errors import DamagedFile, FileTrouble, advice_for
from eager_lens.core.files import read_whole, write_whole
from eager_lens.core.job.file import beside

LARGEST_BYTES = 40 * 2**20
KINDS: tuple[tuple[bytes, str], ...] = ((b"\xff\xd8\xff", ".jpg"), (b"\x89PNG\r\n\x1a\n", ".png"))
"""What a photo begins with, and the ending that it is kept under."""
FOLDER = " photos"
_NAME = re.compile(r"[0-9a-f]{64}\.(jpg|png)", re.ASCII)


def photos_beside(job_path: Path) -> Path:
    """The folder of a job file's photos."""
    return beside(job_path, FOLDER)


def photo_ending(data: bytes) -> str:
    """The ending under which a photo is kept.

    Raises:
        DamagedFile: when it is neither JPEG nor PNG.
    """
    for begin, ending in KINDS:
        if data.startswith(begin):
            return ending
    raise DamagedFile("This is not a photo. Use JPEG or PNG.")


def put_photo(job_path: Path, data: bytes) -> str:
    """Keep a photo; its hash, in hex. One that is there already is left as it is.

    Raises:
        DamagedFile: when it is no photo. FileTrouble: when it cannot be written.
    """
    digest = hashlib.sha256(data).hexdigest()
    folder = photos_beside(job_path)
    path = folder / f"{digest}{photo_ending(data)}"
    try:
        folder.mkdir(exist_ok=True)
        if path.is_symlink():
            path.unlink()
        if not path.exists():
            # Who may not read the job may not read its photos.
            rights = stat.S_IMODE(job_path.stat().st_mode) if job_path.exists() else 0o666
            write_whole(path, data, rights)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Writing")) from error
    return digest


def keep_photo(job_path: Path, photo: Path) -> str:
    """Keep a copy of a photo beside a job; its hash, in hex.

    Raises:
        DamagedFile, FileTrouble: when it is no photo, cannot be read, or cannot be kept.
    """
    data = read_whole(photo, LARGEST_BYTES, "photo")
    try:
        return put_photo(job_path, data)
    except DamagedFile as error:
        raise DamagedFile(f"{photo.name}: {error}") from error


def photo_path(job_path: Path, digest: str) -> Path | None:
    """Where a photo is kept; None when it is not there."""
    folder = photos_beside(job_path)
    return next((path for _, ending in KINDS if _is_kept(path := folder / f"{digest}{ending}")), None)


def _is_kept(path: Path) -> bool:
    """Whether something is a photo that was kept: a link might lead to any file of the account."""
    return path.is_file() and not path.is_symlink()


def photos_kept(job_path: Path) -> list[Path]:
    """The photos that are kept beside a job, by name; what else lies in their folder is none of them.

    Raises:
        FileTrouble: when a link stands in the place of one.
    """
    folder = photos_beside(job_path)
    named = [one for one in sorted(folder.iterdir()) if _NAME.fullmatch(one.name)] if folder.is_dir() else []
    link = next((one for one in named if one.is_symlink()), None)
    if link is not None:
        raise FileTrouble(f"{link} is a link, not a photo, so it was left out; put the photo itself there.")
    return [one for one in named if _is_kept(one)]
