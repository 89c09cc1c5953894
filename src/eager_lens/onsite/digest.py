"""What both ends of digest access authentication need (RFC 7616)."""

from __future__ import annotations

import hashlib
from urllib.request import parse_http_list, parse_keqv_list


def hashed(*parts: str) -> str:
    """The digest of parts, joined by colons."""
    return hashlib.md5(":".join(parts).encode(), usedforsecurity=False).hexdigest()


def values_of(header: str) -> dict[str, str] | None:
    """The values of a challenge or an answer, by name; None where it is another scheme, or malformed."""
    scheme, _, rest = header.partition(" ")
    if scheme.lower() != "digest":
        return None
    try:
        return parse_keqv_list(parse_http_list(rest))
    except (ValueError, IndexError):
        return None
