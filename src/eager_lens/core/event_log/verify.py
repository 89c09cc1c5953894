"""Whether a log is whole: every entry is what its hash was made of, and follows entries that are there."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

from eager_lens.core.errors import DamagedFile, EagerLensError, FileTrouble, RefusedInput, advice_for
from eager_lens.core.event_log.entry import MOST_BYTES, LogEntry, read_line
from eager_lens.core.event_log.log_file import LARGEST_BYTES, WHAT
from eager_lens.core.event_log.signing import checked_signature
from eager_lens.core.files import require_file

MOST_TROUBLES = 20


@dataclass(frozen=True)
class Anchor:
    """What is written down elsewhere, so that a later change shows: how many entries there were, and the last one's hash."""

    count: int
    hash: str


@dataclass
class Verified:
    """What was found.

    Attributes:
        entries: how many lines are entries. troubles: what is wrong, in words, each with its line; empty in a whole log.
        notes: what is odd and no change. anchor: that of the log as it is, None without an entry.
        signers: fingerprint of each key that signed, with the number of entries that its last signature covers.
        photos: the hash of each photo that the log names, with the line.
    """

    entries: int = 0
    troubles: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    anchor: Anchor | None = None
    signers: dict[str, int] = field(default_factory=dict)
    photos: dict[str, int] = field(default_factory=dict)

    @property
    def whole(self) -> bool:
        """Whether nothing is wrong."""
        return not self.troubles

    def trouble(self, words: str) -> None:
        """Something is wrong; beyond the first ones only that there is more."""
        if len(self.troubles) < MOST_TROUBLES:
            self.troubles.append(words)
        elif len(self.troubles) == MOST_TROUBLES:
            self.troubles.append("… and more")


def lines_of(path: Path) -> Iterator[bytes]:
    """The lines of a log, with their line ends.

    Raises:
        FileTrouble: when it cannot be read.
    """
    require_file(path, LARGEST_BYTES, WHAT)
    try:
        with path.open("rb") as file:
            # A line of any length is read, so that what it is can be said; more than twice the most is no log.
            while line := file.readline(2 * MOST_BYTES):
                yield line
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Reading")) from error


def verify(path: Path, anchor: Anchor | None = None, photos: Path | None = None) -> Verified:
    """Look through a log.

    Args:
        path: the log. anchor: what was written down earlier, to be held against it.
        photos: the folder of the photos that it names; each is read and its hash taken.

    Raises:
        FileTrouble: when it cannot be read. DamagedFile: when it is no log at all.
    """
    found = Verified()
    seen: dict[str, int] = {}
    numbers: dict[str, int] = {}
    unfollowed: dict[str, int] = {}
    last: LogEntry | None = None
    latest: datetime | None = None
    for number, line in enumerate(lines_of(path), 1):
        if not line.endswith(b"\n"):
            found.trouble(f"line {number}: it was cut short; what stands before it is not touched by that")
        try:
            entry = read_line(line.rstrip(b"\n") if line.endswith(b"\n") else line)
        except RefusedInput as error:
            found.trouble(f"line {number}: {error.problem}")
            continue
        found.entries += 1
        _placed(entry, number, found, numbers, unfollowed)
        if entry.hash in seen:
            found.trouble(f"line {number}: the same entry as in line {seen[entry.hash]}")
        seen[entry.hash], numbers[entry.hash], unfollowed[entry.hash] = number, entry.number, number
        for photo in entry.event.photos:
            found.photos.setdefault(photo, number)
        if entry.event.kind == "signed":
            _signed(entry, number, numbers, found)
        if latest is not None and entry.at < latest and last is not None and entry.previous == (last.hash,):
            found.notes.append(
                f"line {number}: the computer's clock was put back by {(latest - entry.at).total_seconds():,.0f} s"
            )
        latest, last = entry.at, entry
    if not found.entries and found.troubles:
        raise DamagedFile(f"{path} is no {WHAT}: {found.troubles[0]}.")
    if last is not None:
        unfollowed.pop(last.hash, None)
        found.anchor = Anchor(found.entries, last.hash)
    for number in sorted(unfollowed.values()):
        found.trouble(f"line {number}: no entry follows it, so what followed it was taken out")
    if anchor is not None:
        _held(anchor, seen, found)
    if photos is not None:
        _photos(photos, found)
    return found


def _placed(entry: LogEntry, number: int, found: Verified, numbers: dict[str, int], unfollowed: dict[str, int]) -> None:
    """Whether the entry stands behind those that it follows."""
    if not entry.previous and numbers:
        # A log that was merged in may have begun by itself.
        if entry.event.kind != "log begun":
            found.trouble(f"line {number}: it follows no entry")
    elif not entry.previous and entry.event.kind != "log begun":
        found.trouble(f"line {number}: the log does not begin with it; what stood before was taken out")
    missing = [one for one in entry.previous if one not in numbers]
    if missing:
        found.trouble(
            f"line {number}: the entry before it, {missing[0][:12]}…, is not there; it was taken out or changed"
        )
    elif entry.number != 1 + max((numbers[one] for one in entry.previous), default=0):
        found.trouble(f"line {number}: its number is {entry.number}, which is not the next one")
    for one in entry.previous:
        unfollowed.pop(one, None)


def _signed(entry: LogEntry, number: int, numbers: dict[str, int], found: Verified) -> None:
    try:
        fingerprint, signed = checked_signature(entry)
    except RefusedInput as error:
        found.trouble(f"line {number}: {error.problem}")
        return
    if signed not in numbers:
        found.trouble(f"line {number}: what was signed is no entry before it")
        return
    found.signers[fingerprint] = max(numbers[signed], found.signers.get(fingerprint, 0))


def _held(anchor: Anchor, seen: dict[str, int], found: Verified) -> None:
    """Whether the log that the anchor was taken of is still in this one."""
    line = next((number for borne, number in seen.items() if borne.startswith(anchor.hash)), None)
    if line is None:
        found.trouble(
            f"the anchor: no entry has the hash {anchor.hash[:12]}…; the log was changed or cut since it was taken"
        )
    elif line < anchor.count:
        found.trouble(
            f"the anchor: its entry was in line {anchor.count:,} and is in line {line:,} now; entries were taken out"
        )
    elif line > anchor.count > 0:
        found.notes.append(
            f"the anchor: its entry was in line {anchor.count:,} and is in line {line:,} of this merged log"
        )


def _photos(folder: Path, found: Verified) -> None:
    for digest, number in found.photos.items():
        match = next(iter(sorted(folder.glob(f"{digest}.*"))), None) if folder.is_dir() else None
        if match is None:
            found.trouble(f"line {number}: the photo {digest[:12]}… is not in {folder.name}")
            continue
        try:
            with match.open("rb") as file:
                there = hashlib.file_digest(file, "sha256").hexdigest()
        except OSError as error:
            found.trouble(f"line {number}: {advice_for(error, match, 'Reading')}")
            continue
        if there != digest:
            found.trouble(f"line {number}: the photo {match.name} was changed")


def entries_of(path: Path) -> Iterator[LogEntry]:
    """The entries of a log in the order of its lines; what is none is passed over (``verify`` tells of it).

    Raises:
        FileTrouble: when it cannot be read.
    """
    for line in lines_of(path):
        try:
            yield read_line(line.rstrip(b"\n"))
        except EagerLensError:
            continue


def last_edits(entries: Iterable[LogEntry]) -> dict[str, datetime]:
    """By device, when it was last edited, as the log has it."""
    return {device: entry.at for entry in entries if entry.event.kind == "edit" for device in entry.event.about}
