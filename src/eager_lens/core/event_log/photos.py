"""Photos beside a job: kept as they are, under their SHA-256, so that results and log entries can name them."""

from __future__ import annotations

import hashlib
from pathlib import Path

from eager_lens.core.errors import DamagedFile, FileTrouble, advice_for
from eager_lens.core.event_log.log_file import ENDING as LOG_ENDING
from eager_lens.core.event_log.log_file import log_beside
from eager_lens.core.files import read_whole, write_whole

LARGEST_BYTES = 40 * 2**20
KINDS: tuple[tuple[bytes, str], ...] = ((b"\xff\xd8\xff", ".jpg"), (b"\x89PNG\r\n\x1a\n", ".png"))
"""What a photo begins with, and the ending that it is kept under."""
FOLDER = " photos"


def photos_beside(job_path: Path) -> Path:
    """The folder of a job file's photos."""
    log = log_beside(job_path)
    return log.with_name(log.name.removesuffix(LOG_ENDING) + FOLDER)


def photo_ending(data: bytes) -> str:
    """The ending under which a photo is kept.

    Raises:
        DamagedFile: when it is neither JPEG nor PNG.
    """
    for begin, ending in KINDS:
        if data.startswith(begin):
            return ending
    raise DamagedFile("It is no photo: JPEG or PNG is wanted.")


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
        if not path.exists():
            write_whole(path, data)
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
    return next((path for _, ending in KINDS if (path := folder / f"{digest}{ending}").exists()), None)
