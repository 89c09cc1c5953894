"""The last version of a job that two copies had in common: a file that both their logs name as saved or opened."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from pathlib import Path

from eager_lens.core.errors import EagerLensError
from eager_lens.core.files import previous_version
from eager_lens.core.records.event_log.log_file import log_beside
from eager_lens.core.records.event_log.verify import states_of

MOST_FILES = 200
LARGEST_BYTES = 64 * 2**20


def common_version(mine: Path, theirs: Path, ending: str) -> Path | None:
    """The newest file beside two copies that both logs know, previous versions too; None where there is none."""
    try:
        known = states_of(log_beside(mine)) & states_of(log_beside(theirs))
    except EagerLensError:
        return None
    found = []
    for path in _candidates(mine, theirs, ending):
        try:
            if path.stat().st_size <= LARGEST_BYTES and hashlib.sha256(path.read_bytes()).hexdigest() in known:
                found.append((path.stat().st_mtime_ns, path))
        except OSError:
            continue
    return max(found, default=(0, None))[1]


def _candidates(mine: Path, theirs: Path, ending: str) -> Iterator[Path]:
    seen = set()
    for one in (mine, theirs):
        for path in (previous_version(one), one, *sorted(one.parent.glob(f"*{ending}*"))[:MOST_FILES]):
            real = path.resolve()
            if real not in seen and path.is_file():
                seen.add(real)
                yield path
