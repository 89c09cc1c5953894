"""Who may log in at a stand-in: digest access authentication (RFC 7616, and RTSP's by RFC 2326), wrong tries, and the lock
after them."""

from __future__ import annotations

import hmac
import secrets
import time
from collections.abc import Mapping
from typing import Literal

from eager_lens.onsite.digest import hashed, values_of
from eager_lens.onsite.open_protocol.user_token import UserToken

Admitted = Literal["in", "asked", "wrong", "locked"]
NONCE_S = 300.0


class Gate:
    """The users of a device, shared by all its services: wrong tries count wherever they are made."""

    def __init__(self, realm: str, users: Mapping[str, tuple[str, ...]], tries: int, locked_min: float) -> None:
        """``users``: by name the passwords that are taken. ``levels``: what those may do who are no administrators."""
        self.realm = realm
        self.users = dict(users)
        self.levels: dict[str, str] = {}
        self._tries, self._locked_s = tries, locked_min * 60
        self._wrong, self._locked_until_s = 0, 0.0
        self._secret = secrets.token_bytes(16)

    @property
    def is_locked(self) -> bool:
        """Whether it takes nobody just now."""
        return time.monotonic() < self._locked_until_s

    def challenge(self) -> str:
        """The value of a WWW-Authenticate header."""
        return f'Digest realm="{self.realm}", qop="auth", algorithm=MD5, nonce="{self._nonce(int(time.time()))}"'

    def _nonce(self, at_s: int) -> str:
        return f"{at_s:x}-{hmac.new(self._secret, str(at_s).encode(), 'sha256').hexdigest()[:32]}"

    def admits(self, method: str, header: str) -> Admitted:
        """Judge a request by its Authorization header. One without any is asked to log in; that is no try."""
        if self.is_locked:
            return "locked"
        if not header:
            return "asked"
        given = values_of(header)
        if given is None:
            return self._counted(False)
        if not self._is_own(given.get("nonce", "")):
            return "asked"
        return self._counted(self._is_right(method, given))

    def admits_token(self, token: UserToken) -> Admitted:
        """Judge the user token of a request (WS-Security)."""
        if self.is_locked:
            return "locked"
        return self._counted(any(token.is_of(password) for password in self.users.get(token.user, ())))

    def _is_own(self, nonce: str) -> bool:
        stamp, _, _ = nonce.partition("-")
        try:
            at_s = int(stamp, 16)
        except ValueError:
            return False
        return abs(time.time() - at_s) < NONCE_S and hmac.compare_digest(self._nonce(at_s), nonce)

    def _is_right(self, method: str, given: Mapping[str, str]) -> bool:
        user = given.get("username", "")
        for password in self.users.get(user, ()):
            own, asked = hashed(user, self.realm, password), hashed(method, given.get("uri", ""))
            # Without "qop" it is RFC 2069, which RTSP clients still speak.
            more = (given.get("nc", ""), given.get("cnonce", ""), given["qop"]) if "qop" in given else ()
            if hmac.compare_digest(hashed(own, given["nonce"], *more, asked), given.get("response", "").lower()):
                return True
        return False

    def _counted(self, right: bool) -> Admitted:
        if right:
            self._wrong = 0
            return "in"
        self._wrong += 1
        if self._wrong >= self._tries:
            self._wrong, self._locked_until_s = 0, time.monotonic() + self._locked_s
        return "wrong"
