"""The user token of WS-Security: a password as a digest with a nonce and the device's own time, as both ends need it."""

from __future__ import annotations

import base64
import binascii
import hashlib
import secrets
from datetime import UTC, datetime, timedelta
from typing import NamedTuple
from xml.etree.ElementTree import Element
from xml.sax.saxutils import escape

from eager_lens.onsite.open_protocol.names import BASE64, PASSWORD_DIGEST, SECURITY, SECURITY_UTILITY
from eager_lens.onsite.open_protocol.xml import attribute, child, text


def password_digest(nonce: bytes, created: str, password: str) -> str:
    """Base64 of SHA-1 over nonce, time and password (WS-Security, username token profile 1.1, 3.1). SHA-1 is what the standard
    has; with a fresh nonce for every request it does not give the password away."""
    hashed = hashlib.sha1(nonce + created.encode() + password.encode(), usedforsecurity=False)
    return base64.b64encode(hashed.digest()).decode("ascii")


def token_header(user: str, password: str, ahead_s: float = 0.0) -> str:
    """The header block that logs a user in. ``ahead_s``: by which the device's clock is ahead: it refuses another time."""
    nonce = secrets.token_bytes(16)
    # A device may tell a time that no date can hold.
    ahead = timedelta(seconds=max(-1e9, min(1e9, ahead_s)))
    created = (datetime.now(UTC) + ahead).strftime("%Y-%m-%dT%H:%M:%S.000Z")
    return (
        f'<wsse:Security s:mustUnderstand="1" xmlns:wsse="{SECURITY}" xmlns:wsu="{SECURITY_UTILITY}"><wsse:UsernameToken>'
        f"<wsse:Username>{escape(user)}</wsse:Username>"
        f'<wsse:Password Type="{PASSWORD_DIGEST}">{password_digest(nonce, created, password)}</wsse:Password>'
        f'<wsse:Nonce EncodingType="{BASE64}">{base64.b64encode(nonce).decode("ascii")}</wsse:Nonce>'
        f"<wsu:Created>{created}</wsu:Created></wsse:UsernameToken></wsse:Security>"
    )


class UserToken(NamedTuple):
    """A token as it came in. ``is_digest``: the password is not in it."""

    user: str
    secret: str
    nonce: bytes
    created: str
    is_digest: bool

    def is_of(self, password: str) -> bool:
        """Whether it was made with a password."""
        if not self.is_digest:
            return secrets.compare_digest(self.secret.encode(), password.encode())
        return secrets.compare_digest(self.secret, password_digest(self.nonce, self.created, password))

    def created_s(self) -> float | None:
        """When it was made, in seconds since 1970 by its maker's clock; None where that is no time."""
        try:
            made = datetime.fromisoformat(self.created.replace("Z", "+00:00"))
        except ValueError:
            return None
        return (made if made.tzinfo else made.replace(tzinfo=UTC)).timestamp()


def token_of(envelope: Element) -> UserToken | None:
    """The token in an envelope's header; None where there is none."""
    token = child(envelope, "Header", "Security", "UsernameToken")
    if token is None:
        return None
    kind = attribute(child(token, "Password"), "Type")
    try:
        nonce = base64.b64decode(text(token, "Nonce"), validate=True)
    except (binascii.Error, ValueError):
        nonce = b""
    return UserToken(
        text(token, "Username"),
        text(token, "Password"),
        nonce,
        text(token, "Created"),
        not kind.endswith("PasswordText"),
    )
