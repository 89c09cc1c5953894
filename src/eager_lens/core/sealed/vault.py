"""The sealed file: device passwords behind one passphrase.

JSON with everything that is needed to open it but the passphrase. A key of 64 bytes comes from it by scrypt (RFC 7914);
its first half encrypts by AES-256-GCM, its second half makes a check value by which a wrong passphrase is told apart
from damage: damage shows in a plain checksum first. Passwords are padded to one length, so that the size tells nothing.
"""

from __future__ import annotations

import base64
import binascii
import hashlib
import hmac
import json
import os
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from eager_lens.core.errors import DamagedFile, FileTrouble, RefusedInput, advice_for
from eager_lens.core.job.file import write_whole

FORMAT, VERSION = "eager-lens-sealed", 1
ENDING = ".sealed.json"
SCRYPT_N, SCRYPT_R, SCRYPT_P = 2**15, 8, 1
SHORTEST_PASSPHRASE = 10
PAD_TO_BYTES = 512
LARGEST_BYTES = 16 * 2**20


class WrongPassphrase(RefusedInput):
    """The file is whole, but this passphrase does not open it."""


@dataclass
class Vault:
    """What is sealed: a password by device id. ``one_for_all`` says that the site uses one for every device."""

    passwords: dict[str, str] = field(default_factory=dict)
    one_for_all: bool = False

    def __repr__(self) -> str:
        """Without a password, wherever it may be printed."""
        return f"Vault({len(self.passwords)} passwords)"


def sealed_path(job_path: Path, job_ending: str) -> Path:
    """The sealed file beside a job file."""
    return job_path.with_name(job_path.name.removesuffix(job_ending) + ENDING)


def write_vault(path: Path, vault: Vault, passphrase: str) -> None:
    """Seal and write, as a whole; only its owner may read it.

    Raises:
        RefusedInput: for a passphrase that is too short.
        FileTrouble: when it cannot be written; what was there stays.
    """
    data = sealed(vault, passphrase)
    try:
        write_whole(path, data, mode=0o600)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Saving")) from error


def read_vault(path: Path, passphrase: str) -> Vault:
    """Read and open.

    Raises:
        FileTrouble: when it cannot be read. DamagedFile: when it is no sealed file, or was changed.
        WrongPassphrase: when it is whole but this does not open it.
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise DamagedFile(f"{path} is larger than any sealed file.")
        data = path.read_bytes()
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Reading")) from error
    return unsealed(data, passphrase, str(path))


def sealed(vault: Vault, passphrase: str) -> bytes:
    """The bytes of a sealed file.

    Raises:
        RefusedInput: for a passphrase that is too short.
    """
    from cryptography.hazmat.primitives.ciphers.aead import AESGCM

    if len(passphrase) < SHORTEST_PASSPHRASE:
        raise RefusedInput(
            "passphrase", f"{SHORTEST_PASSPHRASE} characters at least; four words that you remember are good"
        )
    salt, nonce = os.urandom(16), os.urandom(12)
    key, check = _keys(passphrase, salt, SCRYPT_N, SCRYPT_R, SCRYPT_P)
    plain = json.dumps({"passwords": vault.passwords, "one_for_all": vault.one_for_all}).encode("utf-8")
    plain += b" " * (-len(plain) % PAD_TO_BYTES)
    head: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "key": {"by": "scrypt", "n": SCRYPT_N, "r": SCRYPT_R, "p": SCRYPT_P, "salt": _text(salt)},
        "cipher": "AES-256-GCM",
        "nonce": _text(nonce),
    }
    bound = _bound(head)
    head["check"] = _text(hmac.digest(check, bound, "sha256"))
    head["data"] = _text(AESGCM(key).encrypt(nonce, plain, bound))
    head["checksum"] = _checksum(head)
    return (json.dumps(head, indent=1) + "\n").encode("ascii")


def unsealed(data: bytes, passphrase: str, name: str) -> Vault:
    """Open the bytes of a sealed file; ``name`` is for messages.

    Raises:
        DamagedFile, WrongPassphrase: as ``read_vault``.
    """
    from cryptography.exceptions import InvalidTag
    from cryptography.hazmat.primitives.ciphers.aead import AESGCM

    damaged = DamagedFile(f"{name} is damaged or no sealed file; nothing of it was used. Fetch it from a copy.")
    try:
        head = json.loads(data.decode("ascii"))
        whole = head["format"] == FORMAT and hmac.compare_digest(head["checksum"], _checksum(head))
        version, by = head["version"], head["key"]
        salt, nonce, sealed_data, told = map(_bytes, (by["salt"], head["nonce"], head["data"], head["check"]))
        costs = (int(by["n"]), int(by["r"]), int(by["p"]))
    except (UnicodeDecodeError, ValueError, KeyError, TypeError, binascii.Error) as error:
        raise damaged from error
    if not whole or costs[0] > 2**20 or costs[1] > 32 or costs[2] > 16:
        raise damaged
    if version != VERSION:
        raise DamagedFile(
            f"{name} is of version {version}; this program knows {VERSION}. Open it with a newer Eager Lens."
        )
    bound = _bound({part: head[part] for part in ("format", "version", "key", "cipher", "nonce")})
    key, check = _keys(passphrase, salt, *costs)
    if not hmac.compare_digest(told, hmac.digest(check, bound, "sha256")):
        raise WrongPassphrase("passphrase", "this is not the passphrase of the sealed file; the file itself is whole")
    try:
        inside = json.loads(AESGCM(key).decrypt(nonce, sealed_data, bound))
        passwords = {str(device): str(password) for device, password in inside["passwords"].items()}
        return Vault(passwords, bool(inside["one_for_all"]))
    except (InvalidTag, ValueError, KeyError, AttributeError) as error:
        raise damaged from error


def _keys(passphrase: str, salt: bytes, n: int, r: int, p: int) -> tuple[bytes, bytes]:
    try:
        both = hashlib.scrypt(passphrase.encode("utf-8"), salt=salt, n=n, r=r, p=p, maxmem=2**28, dklen=64)
    except ValueError as error:
        raise DamagedFile("The sealed file asks for a key that cannot be made; it is damaged.") from error
    return both[:32], both[32:]


def _bound(head: dict[str, Any]) -> bytes:
    return json.dumps(head, sort_keys=True).encode("ascii")


def _checksum(head: dict[str, Any]) -> str:
    rest = {name: value for name, value in head.items() if name != "checksum"}
    return hashlib.sha256(_bound(rest)).hexdigest()


def _text(data: bytes) -> str:
    return base64.b64encode(data).decode("ascii")


def _bytes(text: str) -> bytes:
    return base64.b64decode(text, validate=True)
