"""Whether a log is whole: every entry is what its hash was made of, and follows entries that are there."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

from eager_lens.core.errors import DamagedFile, EagerLensError, FileTrouble, RefusedInput, advice_for
from eager_lens.core.files import require_file
from eager_lens.core.records.event_log.entry import MOST_BYTES, LogEntry, read_line
from eager_lens.core.records.event_log.lineage import Lineage, job_states
from eager_lens.core.records.event_log.log_file import LARGEST_BYTES, WHAT
from eager_lens.core.records.event_log.photos import KINDS as PHOTO_KINDS
from eager_lens.core.records.event_log.photos import LARGEST_BYTES as LARGEST_PHOTO_BYTES
from eager_lens.core.records.event_log.signing import checked_signature

MOST_TROUBLES = 20
ENDINGS = frozenset(ending for _, ending in PHOTO_KINDS)


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


def verify(path: Path, anchors: Sequence[Anchor] = (), photos: Path | None = None) -> Verified:
    """Look through a log.

    Args:
        path: the log. anchors: what was written down earlier, to be held against it; of a merged log one of each log.
        photos: the folder of the photos that it names; each is read and its hash taken.

    Raises:
        FileTrouble: when it cannot be read. DamagedFile: when it is no log at all.
    """
    found = Verified()
    seen: dict[str, int] = {}
    numbers: dict[str, int] = {}
    unfollowed: dict[str, int] = {}
    lineage = Lineage()
    last: LogEntry | None = None
    latest: datetime | None = None
    for number, line in enumerate(lines_of(path), 1):
        if not line.endswith(b"\n"):
            found.trouble(f"line {number}: it was cut short; the lines before it are not affected")
        try:
            entry = read_line(line.rstrip(b"\n") if line.endswith(b"\n") else line)
        except RefusedInput as error:
            found.trouble(f"line {number}: {error.problem}")
            continue
        found.entries += 1
        _placed(entry, number, found, numbers, unfollowed)
        if entry.hash in seen:
            found.trouble(f"line {number}: the same entry as in line {seen[entry.hash]}")
        lineage.put(entry, number)
        seen[entry.hash], numbers[entry.hash], unfollowed[entry.hash] = number, entry.number, number
        for photo in entry.event.photos:
            found.photos.setdefault(photo, number)
        if entry.event.kind == "signed":
            _signed(entry, number, numbers, found)
        if latest is not None and entry.at < latest and last is not None and entry.previous == (last.hash,):
            found.notes.append(
                f"line {number}: the computer's clock was set back by {(latest - entry.at).total_seconds():,.0f} s"
            )
        latest, last = entry.at, entry
    if not found.entries and found.troubles:
        raise DamagedFile(f"{path} is not an {WHAT}: {found.troubles[0]}.")
    if last is not None:
        unfollowed.pop(last.hash, None)
        found.anchor = Anchor(found.entries, last.hash)
    for number in sorted(unfollowed.values()):
        found.trouble(f"line {number}: no entry follows it, so the entries after it were removed")
    if last is not None and found.whole:
        for trouble in (*lineage.out_of_order(last.hash), *lineage.of_another_job()):
            found.trouble(trouble)
    _held(anchors, lineage, found)
    if photos is not None:
        _photos(photos, found)
    return found


def _placed(entry: LogEntry, number: int, found: Verified, numbers: dict[str, int], unfollowed: dict[str, int]) -> None:
    """Whether the entry stands behind those that it follows."""
    if not entry.previous and numbers:
        # A log that was merged in may have begun by itself.
        if entry.event.kind != "log begun":
            found.trouble(f"line {number}: no entry stands before it")
    elif not entry.previous and entry.event.kind != "log begun":
        found.trouble(f"line {number}: it is not the start of a log, so the entries before it were removed")
    missing = [one for one in entry.previous if one not in numbers]
    if missing:
        found.trouble(f"line {number}: the entry before it, {missing[0][:12]}…, is missing; it was removed or changed")
    elif entry.number != 1 + max((numbers[one] for one in entry.previous), default=0):
        found.trouble(f"line {number}: its number is {entry.number}, which is out of sequence")
    for one in entry.previous:
        unfollowed.pop(one, None)


def _signed(entry: LogEntry, number: int, numbers: dict[str, int], found: Verified) -> None:
    try:
        signature = checked_signature(entry)
    except RefusedInput as error:
        found.trouble(f"line {number}: {error.problem}")
        return
    if signature.signed not in numbers:
        found.trouble(f"line {number}: it signs no entry that stands before it")
    elif not signature.is_named:
        found.notes.append(
            f"line {number}: a signature of the first form, by the key {signature.fingerprint}, covers the entries up to "
            f"number {numbers[signature.signed]}; it proves neither who added it here nor when"
        )
    else:
        covers = numbers[signature.signed]
        found.signers[signature.fingerprint] = max(covers, found.signers.get(signature.fingerprint, 0))


def _held(anchors: Sequence[Anchor], lineage: Lineage, found: Verified) -> None:
    """Whether all that can come before the anchors is what it was when they were taken."""
    heads = []
    for anchor in anchors:
        head = next((one for one in lineage.line if one.startswith(anchor.hash)), None)
        if head is None:
            found.trouble(
                f"the anchor: no entry has the hash {anchor.hash[:12]}…; the log was changed or cut since the anchor was taken"
            )
            continue
        heads.append(head)
        many, line = len(lineage.up_to([head])), lineage.line[head]
        if anchor.count and many != anchor.count:
            found.trouble(
                f"the anchor: it covers {anchor.count:,} entries, but its hash is that of entry {many:,}; it is not the anchor "
                "of this log"
            )
        elif line != many:
            found.notes.append(f"the anchor: its entry was in line {many:,} and is in line {line:,} of this merged log")
    aside = lineage.aside_of(heads)
    if aside:
        are = "entry is" if len(aside) == 1 else "entries are"
        found.trouble(
            f"line {aside[0]}: {len(aside):,} {are} dated before the anchor but not covered by it, the first of them here. "
            "They were merged in later. Ask for an anchor of the merged log, and give both"
        )


def _photos(folder: Path, found: Verified) -> None:
    for digest, number in found.photos.items():
        # Every file of that name: one that was changed may have the original laid beside it under another ending.
        matches = sorted(folder.glob(f"{digest}*")) if folder.is_dir() else []
        if not matches:
            found.trouble(f"line {number}: the photo {digest[:12]}… is not in {folder.name}")
        for match in matches:
            if trouble := _photo_trouble(match, digest, folder):
                found.trouble(f"line {number}: {trouble}")


def _photo_trouble(path: Path, digest: str, folder: Path) -> str:
    if path.is_symlink() or path.suffix not in ENDINGS or path.stem != digest:
        return f"{path.name[:80]} in {folder.name} is not a photo of this log"
    try:
        require_file(path, LARGEST_PHOTO_BYTES, "photo")
        with path.open("rb") as file:
            there = hashlib.file_digest(file, "sha256").hexdigest()
    except OSError as error:
        return advice_for(error, path, "Reading")
    except FileTrouble as error:
        return str(error)
    return "" if there == digest else f"the photo {path.name} was changed"


def states_of(path: Path) -> set[str]:
    """By what two logs of one job know each other: their entries' hashes, and the saved states of the job that they name.

    Raises:
        FileTrouble: when it cannot be read.
    """
    return {known for entry in entries_of(path) for known in (entry.hash, *job_states(entry))}


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
