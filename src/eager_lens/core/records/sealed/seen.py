"""Which revision of each sealed file was last seen on this computer, so that an older one in its place is noticed.

An older sealed file is as whole as the newer one and opens by the same passphrase: nothing in it tells that passwords were
changed since. Only somebody who remembers can.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
from pathlib import Path

from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import PRIVATE, folder_lock, read_whole, real_path, write_whole
from eager_lens.core.records.sealed.vault import OpenVault
from eager_lens.core.units import count

NAME = "sealed-files.json"
LARGEST_BYTES = 4 * 2**20
MOST_FILES = 5000


def is_older(opened: OpenVault, folder: Path) -> str:
    """Remember an open sealed file; a sentence where it is older than what was last seen of it here, else empty.

    Args:
        folder: where this account's programs keep their state; nothing is remembered where it cannot be written.
    """
    with contextlib.suppress(OSError):
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        with folder_lock(folder):
            return _compared(opened, folder / NAME)
    return ""


def _compared(opened: OpenVault, notes: Path) -> str:
    # The salt is the file's own for all its life; a copy under another name goes its own way.
    name = hashlib.sha256(opened.key.salt + str(real_path(opened.path)).encode()).hexdigest()
    known = _known(notes)
    before, now = known.get(name, 0), opened.vault.revision
    if now > before:
        known.pop(name, None)
        known[name] = now
        text = json.dumps(dict(list(known.items())[-MOST_FILES:]))
        write_whole(notes, text.encode(), PRIVATE, PRIVATE)
    if now >= before:
        return ""
    return (
        f"{opened.path.name} is older than the version last opened on this computer and lacks {count(before - now, 'change')} "
        "to its passwords. Was an older copy restored? Look for the passwords set since then elsewhere."
    )


def _known(notes: Path) -> dict[str, int]:
    try:
        found = json.loads(read_whole(notes, LARGEST_BYTES, "list of sealed files"))
    except (EagerLensError, ValueError):
        return {}
    if not isinstance(found, dict):
        return {}
    return {str(name): one for name, one in found.items() if type(one) is int}
