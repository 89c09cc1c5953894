"""Digest access authentication (RFC 7616), for HTTP and RTSP alike: what both ends need, and a client's one log-in."""

from __future__ import annotations

import hashlib
import itertools
import re
import secrets
from collections.abc import Iterable
from typing import NamedTuple
from urllib.request import parse_http_list, parse_keqv_list

STRONGEST_FIRST = ("SHA-512-256", "SHA-256", "MD5")
_HASHES = {"MD5": "md5", "SHA-256": "sha256", "SHA-512-256": "sha512_256"}
_SCHEME = re.compile(r"(?:^|,)\s*([A-Za-z][A-Za-z0-9_-]*)\s+(?=[A-Za-z0-9_-]+\s*=)")
MOST_CHALLENGES = 8


class NoDigest(Exception):
    """A device asks for a log-in of a kind that is not answered.

    Attributes:
        plain_text: it wants the password in plain text; else it asks for an algorithm that is not known here.
    """

    def __init__(self, words: str, plain_text: bool) -> None:
        super().__init__(words)
        self.plain_text = plain_text


def hashed(*parts: str, algorithm: str = "MD5") -> str:
    """The digest of parts, joined by colons."""
    return hashed_bytes(":".join(parts).encode(), algorithm)


def hashed_bytes(data: bytes, algorithm: str = "MD5") -> str:
    """The digest of data."""
    return hashlib.new(_HASHES[algorithm], data, usedforsecurity=False).hexdigest()


def values_of(header: str) -> dict[str, str] | None:
    """The values of a challenge or an answer, by name; None where it is another scheme, or malformed."""
    scheme, _, rest = header.partition(" ")
    if scheme.lower() != "digest":
        return None
    try:
        return parse_keqv_list(parse_http_list(rest))
    except (ValueError, IndexError):
        return None


class _Challenge(NamedTuple):
    values: dict[str, str]
    algorithm: str
    is_session: bool
    quality: str


class DigestLogin:
    """A user's log-in at one device: answers its challenge, and goes on with the same one.

    A device that refuses is never answered a second time, whatever challenge it sends then: two tries with a wrong password
    are already half of what locks some devices.
    """

    def __init__(self, user: str, password: str) -> None:
        self._user, self._password = user, password
        self._challenge: _Challenge | None = None
        self._count = 0
        self._client_nonce = secrets.token_hex(8)
        self.is_proven = False
        """Whether the device has taken the password; it may then ask again, for example on a new connection."""

    def __repr__(self) -> str:
        """Without the password, wherever it may be printed."""
        return f"DigestLogin({self._user!r})"

    @property
    def has_answered(self) -> bool:
        """Whether a challenge was answered: after a refusal nothing more may be sent."""
        return self._challenge is not None

    def take(self, challenges: Iterable[str]) -> None:
        """Take the strongest challenge that can be answered, out of the values of all WWW-Authenticate headers.

        Raises:
            NoDigest: when there is none.
        """
        found: dict[str, _Challenge] = {}
        asked = []
        for text in _each_challenge(challenges):
            values = values_of(text)
            if values is None or not values.get("nonce"):
                continue
            name = values.get("algorithm", "MD5").upper()
            algorithm, is_session = name.removesuffix("-SESS"), name.endswith("-SESS")
            qualities = [one.strip().lower() for one in values.get("qop", "").split(",") if one.strip()]
            quality = next((one for one in ("auth", "auth-int") if one in qualities), "")
            if algorithm not in STRONGEST_FIRST or (qualities and not quality):
                asked.append(name[:40])
                continue
            found.setdefault(algorithm, _Challenge(values, algorithm, is_session, quality))
        for algorithm in STRONGEST_FIRST:
            if algorithm in found:
                self._challenge, self._count = found[algorithm], 0
                return
        if asked:
            raise NoDigest(f"it asks for log-in by {asked[0]}, which is not supported", plain_text=False)
        raise NoDigest("it asks for the password in plain text", plain_text=True)

    def authorisation(self, method: str, uri: str, body: bytes = b"") -> str | None:
        """The Authorization header of a request; None before there was a challenge."""
        if self._challenge is None:
            return None
        values, algorithm, is_session, quality = self._challenge
        realm, nonce = values.get("realm", ""), values["nonce"]
        self._count += 1
        count, client_nonce = f"{self._count:08x}", self._client_nonce
        secret = hashed(self._user, realm, self._password, algorithm=algorithm)
        if is_session:
            secret = hashed(secret, nonce, client_nonce, algorithm=algorithm)
        # With "auth-int" the body is signed too.
        signed = (hashed_bytes(body, algorithm),) if quality == "auth-int" else ()
        request = hashed(method, uri, *signed, algorithm=algorithm)
        # Without a quality it is RFC 2069, which many RTSP servers still speak.
        middle = (nonce, count, client_nonce, quality) if quality else (nonce,)
        quoted = {
            "username": self._user,
            "realm": realm,
            "nonce": nonce,
            "uri": uri,
            "response": hashed(secret, *middle, request, algorithm=algorithm),
        }
        if "opaque" in values:
            quoted["opaque"] = values["opaque"]
        if quality or is_session:
            quoted["cnonce"] = client_nonce
        parts = [f'{name}="{_escaped(text)}"' for name, text in quoted.items()]
        if "algorithm" in values:
            parts.append(f"algorithm={algorithm}{'-sess' if is_session else ''}")
        if quality:
            parts += [f"qop={quality}", f"nc={count}"]
        return "Digest " + ", ".join(parts)


def _each_challenge(headers: Iterable[str]) -> list[str]:
    """Challenges one by one: several may stand in one header, parted by the same commas as their values."""
    found: list[str] = []
    for header in headers:
        starts = [match.start(1) for match in _SCHEME.finditer(header)]
        for start, end in itertools.pairwise([*starts, len(header)]):
            found.append(header[start:end].rstrip(", "))
    return found[:MOST_CHALLENGES]


def _escaped(text: str) -> str:
    return re.sub(r"[\r\n]", "", text).replace("\\", "\\\\").replace('"', '\\"')
