"""The sealed file: device passwords behind one passphrase.

JSON with everything that is needed to open it but the passphrase. A key of 64 bytes comes from it by scrypt (RFC 7914);
its first half encrypts by AES-256-GCM, its second half makes a check value by which a wrong passphrase is told apart
from damage: damage shows in a plain checksum first. Passwords are padded to one length, so that the size tells nothing.

A file that is open is held by its key, not by its passphrase. Two windows may hold one file: a write first reads what is
there first and makes the change in that, so that neither takes away what the other made.
"""

from __future__ import annotations

import base64
import binascii
import hashlib
import hmac
import json
import os
from collections.abc import Callable
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any, NamedTuple

from eager_lens.core.errors import ChangedOnDisk, DamagedFile, FileTrouble, RefusedInput, advice_for
from eager_lens.core.files import PREVIOUS, PRIVATE, folder_lock, previous_version, read_whole, real_path, write_whole
from eager_lens.core.records.sealed.passphrase import normalised

FORMAT, VERSION = "eager-lens-sealed", 2
"""Version 1 took the passphrase as it was typed; 2 takes it in one form (see ``passphrase``)."""
ENDING = ".sealed.json"
PAD_TO_BYTES = 512
LARGEST_BYTES = 16 * 2**20
MOST_PASSWORDS = 100_000


class Costs(NamedTuple):
    """What making a key costs: scrypt's parameters (RFC 7914, section 2)."""

    n: int
    r: int
    p: int

    @property
    def memory_bytes(self) -> int:
        """What making a key takes."""
        return 128 * self.n * self.r

    @property
    def work(self) -> int:
        """How much there is to do for a key."""
        return self.n * self.r * self.p

    def bearable(self) -> bool:
        """Whether a file may ask for this: not so little that it would be guessed, nor so much that nothing opens it."""
        return (
            self.n >= 2**14
            and self.n & (self.n - 1) == 0
            and 1 <= self.r <= 32
            and 1 <= self.p <= 16
            and self.memory_bytes <= 2**28
            and self.work <= 2**23
        )


COSTS = Costs(2**17, 8, 1)
"""The first of the settings that OWASP's cheat sheet on storing passwords gives for scrypt (128 MiB a key)."""


class WrongPassphrase(RefusedInput):
    """The file is whole, but this passphrase does not open it."""


@dataclass(frozen=True)
class Vault:
    """What is sealed: a password by device id. ``one_for_all`` says that the site uses one for every device; ``revision``
    counts how often it was sealed."""

    passwords: dict[str, str] = field(default_factory=dict)
    one_for_all: bool = False
    revision: int = 0

    def __repr__(self) -> str:
        """Without a password, wherever it may be printed."""
        return f"Vault({len(self.passwords)} passwords)"


@dataclass(frozen=True)
class Key:
    """What opens a file, in place of its passphrase."""

    salt: bytes
    costs: Costs
    cipher: bytes
    check: bytes

    def __repr__(self) -> str:
        """Without the key, wherever it may be printed."""
        return "Key()"


@dataclass
class OpenVault:
    """A sealed file that is open: where it is, its key, what was in it when it was last read, and that reading's digest.

    ``older_key`` opens what was sealed at a lower cost; what is written next is sealed by ``key``.
    """

    path: Path
    key: Key
    vault: Vault
    digest: str
    older_key: Key | None = None

    def change(self, make: Callable[[Vault], Vault], over: frozenset[str] = frozenset()) -> None:
        """Make a change in what the file holds now, and write it; the version before is kept beside it.

        Args:
            make: from what is sealed to what is to be. over: ids whose passwords it replaces; somebody else must not
                have changed those since they were read here.

        Raises:
            ChangedOnDisk: when somebody did; what they wrote is what is held here now, and nothing was written.
            FileTrouble, WrongPassphrase: when the file cannot be read or written; what was there stays.
        """
        try:
            with folder_lock(real_path(self.path).parent):
                self._change(make, over)
        except OSError as error:
            raise FileTrouble(advice_for(error, self.path, "Saving")) from error

    def _change(self, make: Callable[[Vault], Vault], over: frozenset[str]) -> None:
        seen = self.vault
        data = self._data_there()
        if data is not None and _digest(data) != self.digest:
            theirs = self._opened(data)
            self.vault, self.digest = theirs, _digest(data)
            if any(theirs.passwords.get(one) != seen.passwords.get(one) for one in over):
                raise ChangedOnDisk(
                    f"{self.path.name} was changed in another window. Its present content is shown now, and nothing was "
                    "replaced. Check it, then try again."
                )
        new = replace(make(self.vault), revision=self.vault.revision + 1)
        written = sealed(new, self.key)
        if data is not None:
            write_whole(previous_version(self.path), data, PRIVATE, PRIVATE)
        write_whole(self.path, written, PRIVATE, PRIVATE)
        self.vault, self.digest = new, _digest(written)

    def _opened(self, data: bytes) -> Vault:
        try:
            return unsealed(data, self.key, str(self.path))
        except WrongPassphrase:
            if self.older_key is None:
                raise
            return unsealed(data, self.older_key, str(self.path))

    def _data_there(self) -> bytes | None:
        return _read(self.path) if self.path.exists() else None


def sealed_path(job_path: Path, job_ending: str) -> Path:
    """The sealed file of a job file: beside it, wherever a link to the job may lie."""
    real = real_path(job_path)
    return real.with_name(real.name.removesuffix(job_ending) + ENDING)


def take_along(before: Path, now: Path, job_ending: str) -> str:
    """Copy a job's sealed file to that of its new name, as it is; what became of it, in a sentence (empty: there is none).

    One that stands under the new name already is left as it is.
    """
    source, target = sealed_path(before, job_ending), sealed_path(now, job_ending)
    if source == target or not source.exists():
        return ""
    if target.exists():
        return (
            f"{target.name} existed already and was left as it is; the passwords of the previous job stay in {source}."
        )
    try:
        write_whole(target, _read(source), PRIVATE, PRIVATE)
    except (OSError, FileTrouble) as error:
        return f"The sealed passwords could not be copied ({error}); they stay in {source}."
    return f"The sealed passwords were copied to {target.name}; the same passphrase opens them."


def create(path: Path, passphrase: str) -> OpenVault:
    """Make a sealed file with nothing in it. Takes some tenths of a second.

    Raises:
        ChangedOnDisk: when there is one by now. FileTrouble: when it cannot be written.
    """
    key = key_of(normalised(passphrase), os.urandom(16), COSTS)
    data = sealed(Vault(), key)
    try:
        with folder_lock(real_path(path).parent):
            if path.exists():
                raise ChangedOnDisk(
                    f"{path.name} was created in another window meanwhile; open it with its passphrase."
                )
            write_whole(path, data, PRIVATE, PRIVATE)
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Saving")) from error
    return OpenVault(path, key, Vault(), _digest(data))


def open_vault(path: Path, passphrase: str) -> OpenVault:
    """Read and open. Takes some tenths of a second.

    Raises:
        FileTrouble: when it cannot be read. DamagedFile: when it is no sealed file, or was changed.
        WrongPassphrase: when it is whole but this does not open it.
    """
    data = _read(path)
    head = _head(data, str(path))
    key = key_of(passphrase if head.version == 1 else normalised(passphrase), head.salt, head.costs)
    vault = unsealed(data, key, str(path))
    if head.version == VERSION and head.costs.work >= COSTS.work:
        return OpenVault(path, key, vault, _digest(data))
    # With the salt that is there, so that two windows that have the file open come to the same key.
    return OpenVault(path, key_of(normalised(passphrase), head.salt, COSTS), vault, _digest(data), key)


def key_of(passphrase: str, salt: bytes, costs: Costs) -> Key:
    """The key that a passphrase gives."""
    both = hashlib.scrypt(
        passphrase.encode("utf-8", "surrogatepass"),
        salt=salt,
        n=costs.n,
        r=costs.r,
        p=costs.p,
        maxmem=2 * costs.memory_bytes,
        dklen=64,
    )
    return Key(salt, costs, both[:32], both[32:])


def sealed(vault: Vault, key: Key) -> bytes:
    """The bytes of a sealed file."""
    from cryptography.hazmat.primitives.ciphers.aead import AESGCM

    nonce = os.urandom(12)
    plain = json.dumps(asdict(vault)).encode("utf-8")
    plain += b" " * (-len(plain) % PAD_TO_BYTES)
    head: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "key": {"by": "scrypt", **key.costs._asdict(), "salt": _text(key.salt)},
        "cipher": "AES-256-GCM",
        "nonce": _text(nonce),
    }
    bound = _bound(head)
    head["check"] = _text(hmac.digest(key.check, bound, "sha256"))
    head["data"] = _text(AESGCM(key.cipher).encrypt(nonce, plain, bound))
    head["checksum"] = _checksum(head)
    return (json.dumps(head, indent=1) + "\n").encode("ascii")


def unsealed(data: bytes, key: Key, name: str) -> Vault:
    """Open the bytes of a sealed file; ``name`` is for messages.

    Raises:
        DamagedFile, WrongPassphrase: as ``open_vault``.
    """
    from cryptography.exceptions import InvalidTag
    from cryptography.hazmat.primitives.ciphers.aead import AESGCM

    head = _head(data, name)
    if (head.salt, head.costs) != (key.salt, key.costs) or not hmac.compare_digest(
        head.check, hmac.digest(key.check, head.bound, "sha256")
    ):
        raise WrongPassphrase(
            "passphrase", "this is not the passphrase of the sealed file; the file itself is undamaged"
        )
    try:
        inside = json.loads(AESGCM(key.cipher).decrypt(head.nonce, head.data, head.bound))
        passwords, revision = inside["passwords"], inside.get("revision", 0)
        if len(passwords) > MOST_PASSWORDS or type(revision) is not int:
            raise ValueError
        kept = {str(device): str(one) for device, one in passwords.items()}
        return Vault(kept, bool(inside["one_for_all"]), revision)
    except (InvalidTag, ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise _damaged(name) from error


class _Head(NamedTuple):
    """What stands in a sealed file, read and found whole."""

    version: int
    costs: Costs
    salt: bytes
    nonce: bytes
    check: bytes
    data: bytes
    bound: bytes


def _head(data: bytes, name: str) -> _Head:
    """The parts of a sealed file.

    Raises:
        DamagedFile: when it is none, or not whole, or of a version to come, or asks for more than a key may cost.
    """
    try:
        head = json.loads(data.decode("ascii"))
        if head["format"] != FORMAT or not hmac.compare_digest(head["checksum"], _checksum(head)):
            raise ValueError
        version, by = head["version"], head["key"]
        if not all(type(number) is int for number in (version, by["n"], by["r"], by["p"])):
            raise ValueError
        if version > VERSION:
            raise DamagedFile(
                f"{name} is of version {version}; this program knows up to {VERSION}. Open it with a newer Eager Lens."
            )
        costs = Costs(by["n"], by["r"], by["p"])
        salt, nonce, sealed_data, check = map(_bytes, (by["salt"], head["nonce"], head["data"], head["check"]))
        if version < 1 or not costs.bearable() or not 8 <= len(nonce) <= 64 or len(salt) > 1024:
            raise ValueError
        bound = _bound({part: head[part] for part in ("format", "version", "key", "cipher", "nonce")})
    except (
        UnicodeDecodeError,
        ValueError,
        KeyError,
        TypeError,
        OverflowError,
        RecursionError,
        binascii.Error,
    ) as error:
        raise _damaged(name) from error
    return _Head(version, costs, salt, nonce, check, sealed_data, bound)


def _damaged(name: str) -> DamagedFile:
    return DamagedFile(
        f"{name} is damaged or not a sealed file, so nothing of it was used. Look beside it for its previous version, "
        f"{Path(name).name}{PREVIOUS}."
    )


def _read(path: Path) -> bytes:
    return read_whole(path, LARGEST_BYTES, "sealed file")


def _digest(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def _bound(head: dict[str, Any]) -> bytes:
    return json.dumps(head, sort_keys=True).encode("ascii")


def _checksum(head: dict[str, Any]) -> str:
    rest = {name: value for name, value in head.items() if name != "checksum"}
    return hashlib.sha256(_bound(rest)).hexdigest()


def _text(data: bytes) -> str:
    return base64.b64encode(data).decode("ascii")


def _bytes(text: str) -> bytes:
    return base64.b64decode(text, validate=True)
