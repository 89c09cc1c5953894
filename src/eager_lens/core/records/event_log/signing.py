"""Signing a log with a key of the firm: Ed25519 (RFC 8032), the key kept in a file under a passphrase (PKCS #8).

A signature is an entry as others are. It holds the public key and signs the hash of the entry that it follows, and with that
all entries before, together with the name and the time that stand in its own entry.
"""

from __future__ import annotations

import hashlib
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from cryptography.hazmat.primitives.serialization import (
    BestAvailableEncryption,
    Encoding,
    PrivateFormat,
    load_pem_private_key,
)

from eager_lens.core.errors import ChangedOnDisk, DamagedFile, FileTrouble, RefusedInput, advice_for
from eager_lens.core.files import PRIVATE, read_whole, write_whole
from eager_lens.core.records.event_log.entry import Event, LogEntry, by_text, moment_text
from eager_lens.core.records.event_log.log_file import How, append, head_of
from eager_lens.core.records.sealed.passphrase import normalised, weakness

LARGEST_KEY_BYTES = 64 * 2**10
ATTEMPTS = 5
FORM = 2
"""Signatures of the first form signed the hash alone: they name neither who nor when."""
LEAST_GUESSES_LOG10 = 14.0
"""More than for the sealed file: what the key's file format makes of a passphrase (PBKDF2, 2,048 rounds) is quicker to try."""


def make_key(path: Path, passphrase: str) -> str:
    """Make a new key of the firm and write it to a file that is not there yet; its fingerprint.

    Raises:
        RefusedInput: when the passphrase is easy to guess, or there is a file already. FileTrouble: when it cannot be written.
    """
    if path.exists():
        raise RefusedInput(path.name, "the file exists already, and a used key is never overwritten")
    why = weakness(passphrase, least_log10=LEAST_GUESSES_LOG10)
    if why:
        raise RefusedInput("passphrase", f"refused: {why}")
    key = Ed25519PrivateKey.generate()
    locked = BestAvailableEncryption(normalised(passphrase).encode())
    try:
        write_whole(path, key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, locked), PRIVATE, PRIVATE)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Writing")) from error
    return fingerprint(key.public_key().public_bytes_raw())


def open_key(path: Path, passphrase: str) -> Ed25519PrivateKey:
    """The key in a file.

    Raises:
        RefusedInput: when the passphrase does not open it. DamagedFile: when it is no such key.
        FileTrouble: when it cannot be read.
    """
    data = read_whole(path, LARGEST_KEY_BYTES, "key file")
    if b"ENCRYPTED" not in data:
        raise DamagedFile(f"{path} is not a key protected by a passphrase; make one with “log key”.")
    try:
        key = load_pem_private_key(data, normalised(passphrase).encode())
    except (ValueError, TypeError) as error:
        raise RefusedInput(
            "passphrase", f"the passphrase does not open {path.name}, or the file is not a key"
        ) from error
    if not isinstance(key, Ed25519PrivateKey):
        raise DamagedFile(f"{path} holds a key of another kind; an Ed25519 key is needed.")
    return key


def fingerprint(public_key: bytes) -> str:
    """What a key is known by, to be read out on the telephone: SHA-256 of it, the first 16 hex digits in fours."""
    digits = hashlib.sha256(public_key).hexdigest()[:16]
    return " ".join(digits[at : at + 4] for at in range(0, 16, 4))


def sign(path: Path, key: Ed25519PrivateKey, now: datetime, by: str, program: str) -> LogEntry:
    """Sign a log as it is now.

    Raises:
        RefusedInput: when there is nothing to sign. FileTrouble: when it cannot be read or written, or another window writes
            to it all the time.
    """
    for attempt in range(ATTEMPTS):
        head = head_of(path)
        if head is None:
            raise RefusedInput(path.name, "there is no entry to sign")
        public = key.public_key().public_bytes_raw()
        signature = key.sign(_statement(head.hash, by_text(by), moment_text(now), public))
        values = {"hash": head.hash, "public_key": public.hex(), "signature": signature.hex(), "form": FORM}
        event = Event("signed", f"Sign with the key {fingerprint(public)}", values=values)
        try:
            return append(path, [(event, now)], by, program, How(lasting=True, follows=head.hash))
        except ChangedOnDisk:
            if attempt == ATTEMPTS - 1:
                raise
    raise AssertionError  # the last attempt returns or raises


def _statement(signed: str, by: str, at: str, public: bytes) -> bytes:
    """What is signed: which entry, and with it all before; who signs, when, and with which key. So a signature cannot be put
    elsewhere, nor under another name or time."""
    return "\n".join(("eager-lens event log, signature 2", signed, by, at, public.hex())).encode()


class Signature(NamedTuple):
    """A signature that holds: the key's fingerprint, the hash that it signed, and whether it names who and when as well."""

    fingerprint: str
    signed: str
    is_named: bool


def checked_signature(entry: LogEntry) -> Signature:
    """The signature of an entry.

    Raises:
        RefusedInput: when the signature is not that key's on that hash, or stands behind another entry than it signs.
    """
    values = entry.event.values
    try:
        public, signed = bytes.fromhex(values["public_key"]), bytes.fromhex(values["hash"])
        is_named = values.get("form") == FORM
        said = _statement(signed.hex(), entry.by, moment_text(entry.at), public) if is_named else signed
        Ed25519PublicKey.from_public_bytes(public).verify(bytes.fromhex(values["signature"]), said)
    except (KeyError, ValueError, TypeError, InvalidSignature) as error:
        raise RefusedInput("", "the signature is invalid for this entry, name, time and key") from error
    if is_named and entry.previous != (signed.hex(),):
        raise RefusedInput("", "the signature follows a different entry from the one that it signs")
    return Signature(fingerprint(public), signed.hex(), is_named)
