"""`log`: look through an event log, merge two, make a key of the firm, and sign with it."""

from __future__ import annotations

import argparse
import getpass
import json
import sys
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path

from eager_lens import __version__
from eager_lens.core.errors import RefusedInput
from eager_lens.core.records.event_log.merge import merge
from eager_lens.core.records.event_log.signing import fingerprint, make_key, open_key, sign
from eager_lens.core.records.event_log.verify import Anchor, Verified, verify

PROGRAM = f"Eager Lens {__version__}"
CHANGED = 1


def run_verify(arguments: argparse.Namespace) -> int:
    """Verify a log: 0 whole, 1 changed; one that cannot be read is refused."""
    anchors = [anchor_from(one) for one in arguments.anchor]
    found = verify(arguments.log, anchors, arguments.photos)
    if arguments.json:
        print(json.dumps(as_json(found), ensure_ascii=False))
    else:
        _print(found, anchors)
    return 0 if found.whole else CHANGED


def anchor_from(text: str) -> Anchor:
    """An anchor as it stands on a sheet: the number of entries and the hash, or the hash alone (12 digits or more).

    Raises:
        RefusedInput: when it is none.
    """
    words = text.replace(",", "").split()
    # The sheet writes a hash in groups of eight, and one in forty of these has no letter; no log has so many entries.
    counted = len(words) > 1 and words[0].isascii() and words[0].isdigit() and len(words[0]) < 8
    count = words.pop(0) if counted else "0"
    digits = "".join(words).lower()
    if not 12 <= len(digits) <= 64 or set(digits) - set("0123456789abcdef"):
        raise RefusedInput("--anchor", f"{text!r} was given; enter the number of entries and the hash, as on the sheet")
    return Anchor(int(count), digits)


def as_json(found: Verified) -> dict[str, object]:
    """What was found, for scripts."""
    return {
        "whole": found.whole,
        "entries": found.entries,
        "hash": found.anchor.hash if found.anchor else None,
        "troubles": found.troubles,
        "notes": found.notes,
        "signed_by": found.signers,
        "photos": len(found.photos),
    }


def _print(found: Verified, anchors: Sequence[Anchor]) -> None:
    for trouble in found.troubles:
        print(f"changed: {trouble}")
    for note in found.notes:
        print(f"note: {note}")
    for key, number in found.signers.items():
        print(f"signed with the key {key}, up to entry {number}")
    if found.whole:
        held = ", and the entries covered by the anchor are unchanged" if anchors else ""
        last = f"; the last one's hash is {found.anchor.hash}" if found.anchor else ""
        print(f"whole: {found.entries} entries in an unbroken chain{held}{last}")


def run_merge(arguments: argparse.Namespace) -> int:
    """Put the entries of another log into a log."""
    entry = merge(arguments.log, arguments.other, datetime.now().astimezone(), arguments.by, PROGRAM)
    print(
        entry.event.what
        if entry is not None
        else f"{arguments.log.name} already contains everything in {arguments.other.name}"
    )
    return 0


def run_key(arguments: argparse.Namespace) -> int:
    """Make a key of the firm."""
    print(f"made: {arguments.key}, fingerprint {make_key(arguments.key, _passphrase(arguments.key, twice=True))}")
    return 0


def run_sign(arguments: argparse.Namespace) -> int:
    """Sign a log as it is now."""
    key = open_key(arguments.key, _passphrase(arguments.key))
    entry = sign(arguments.log, key, datetime.now().astimezone(), arguments.by, PROGRAM)
    print(f"signed: entry {entry.number}, with the key {fingerprint(key.public_key().public_bytes_raw())}")
    return 0


def _passphrase(path: Path, twice: bool = False) -> str:
    """A passphrase: typed, or the first line of standard input where nobody types."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    given = getpass.getpass(f"Passphrase of {path.name}: ")
    if twice and getpass.getpass("Again: ") != given:
        raise RefusedInput("passphrase", "the two passphrases differ")
    return given
