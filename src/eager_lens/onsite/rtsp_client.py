"""RTSP requests (RFC 2326) over a connection, with digest log-in: one try, never a second after a refusal."""

from __future__ import annotations

import asyncio

from eager_lens.onsite.digest import hashed, values_of

LARGEST_BYTES = 65_536


class Refused(Exception):
    """The camera does not let one in."""


class Locked(Refused):
    """It lets nobody in just now."""


class Silent(Exception):
    """There is no picture, for another reason."""


def control_of(sdp: str, url: str) -> str:
    video = False
    for line in sdp.splitlines():
        video = video or line.startswith("m=video")
        if video and line.startswith("a=control:"):
            control = line.removeprefix("a=control:").strip()
            return control if control.startswith("rtsp://") else f"{url}/{control}"
    raise Silent("its description names no video")


class Talk:
    """Requests over a connection, logged in after the first refusal, once."""

    def __init__(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter, user: str, password: str) -> None:
        self._reader, self._writer = reader, writer
        self._user, self._password = user, password
        self._number, self._session = 0, ""
        self._challenge: dict[str, str] = {}

    async def ask(self, method: str, url: str, headers: dict[str, str]) -> str:
        """Ask; the body of the answer.

        Raises:
            Refused, Silent: when it is none that helps.
        """
        status, answered, body = await self._once(method, url, headers)
        if status == 401 and not self._challenge:
            challenge = values_of(answered.get("www-authenticate", ""))
            if challenge is None:
                raise Refused("it wants another way of logging in")
            self._challenge = challenge
            status, answered, body = await self._once(method, url, headers)
        if status == 401:
            raise Refused("user or password is wrong")
        if status == 403:
            raise Locked("it has locked itself after too many wrong tries")
        if 300 <= status < 400:
            raise Silent("it sends to another address, which is not followed")
        if status != 200:
            raise Silent(f"it answered {status} to {method}")
        self._session = answered.get("session", self._session).partition(";")[0]
        return body

    async def _once(self, method: str, url: str, headers: dict[str, str]) -> tuple[int, dict[str, str], str]:
        self._number += 1
        lines = [f"{method} {url} RTSP/1.0", f"CSeq: {self._number}"]
        lines += [f"{name}: {value}" for name, value in headers.items()]
        if self._session:
            lines.append(f"Session: {self._session}")
        if self._challenge:
            lines.append(f"Authorization: {self._authorisation(method, url)}")
        self._writer.write(("\r\n".join(lines) + "\r\n\r\n").encode())
        await self._writer.drain()
        head = (await self._reader.readuntil(b"\r\n\r\n")).decode("utf-8", "replace").split("\r\n")
        words = head[0].split(" ")
        if len(words) < 2 or not words[1].isdigit():
            raise Silent("what answers there speaks no RTSP")
        answered = {
            name.strip().lower(): value.strip() for name, _, value in (line.partition(":") for line in head[1:])
        }
        length = answered.get("content-length", "0")
        if not length.isdigit() or int(length) > LARGEST_BYTES:
            raise Silent("its answer is too long")
        body = await self._reader.readexactly(int(length))
        return int(words[1]), answered, body.decode("utf-8", "replace")

    def _authorisation(self, method: str, url: str) -> str:
        realm, nonce = self._challenge.get("realm", ""), self._challenge.get("nonce", "")
        response = hashed(hashed(self._user, realm, self._password), nonce, hashed(method, url))
        parts = {"username": self._user, "realm": realm, "nonce": nonce, "uri": url, "response": response}
        return "Digest " + ", ".join(f'{name}="{value}"' for name, value in parts.items())
