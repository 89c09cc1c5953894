"""HTTP requests to one device, on h11: no proxy, no redirect, an end in bytes and in seconds, and over TLS the certificate.

A general client would do, and took three times the time of this machine for the thousands of small questions of a site; with a
connection of one's own the certificate is also seen before anything is sent.
"""

from __future__ import annotations

import asyncio
import contextlib
import hashlib
import ssl
import time
from collections.abc import Sequence
from email.utils import parsedate_to_datetime
from functools import cache
from typing import NamedTuple
from urllib.parse import urlsplit

import h11

ANSWER_S = 6.0
LARGEST_BYTES = 1_048_576
READ_BYTES = 65_536


class TooMuch(Exception):
    """An answer that does not end."""


class OtherCertificate(Exception):
    """A device showed another certificate than the one that is remembered; nothing was sent to it.

    Attributes:
        shown: SHA-256 of the one that it showed, in hex.
    """

    def __init__(self, shown: str) -> None:
        super().__init__("it shows another certificate than before")
        self.shown = shown


class HttpAnswer(NamedTuple):
    """An answer. ``headers``: as they came, names in small letters. ``middle_s``: the moment halfway between question and
    answer, since 1970. ``certificate``: SHA-256 of the one that was shown over TLS, in hex."""

    status: int
    headers: tuple[tuple[str, str], ...]
    body: bytes
    middle_s: float
    certificate: str = ""

    def all(self, name: str) -> list[str]:
        """All values of a header."""
        return [value for own, value in self.headers if own == name]

    def date_off_s(self) -> float | None:
        """By how much its date is ahead of this computer's clock; None without one."""
        try:
            shown = parsedate_to_datetime(next(iter(self.all("date")), "")).timestamp()
        except (ValueError, TypeError, OverflowError):
            return None
        # The header cuts to whole seconds: on average half a second has passed.
        return shown + 0.5 - self.middle_s


FAILED = (OSError, EOFError, h11.RemoteProtocolError, h11.LocalProtocolError, ValueError, UnicodeError)
"""What a request may end with besides ``TimeoutError``, ``TooMuch`` and ``OtherCertificate``: no connection, or no valid HTTP."""


@cache
def _own_certificates() -> ssl.SSLContext:
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    # Devices sign their own certificates, with short keys and old signatures; they are told apart by their fingerprint alone.
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    context.set_ciphers("DEFAULT:@SECLEVEL=0")
    return context


class Http:
    """Requests to one device, over a connection that is kept where the device keeps it.

    Args:
        remembered: SHA-256 of the certificate that the device must show over TLS; empty: any.
    """

    def __init__(self, remembered: str = "", answer_s: float = ANSWER_S) -> None:
        self.answer_s = answer_s
        self._remembered = remembered
        self._connection: _Connection | None = None

    async def ask(
        self, method: str, url: str, headers: Sequence[tuple[str, str]] = (), body: bytes = b""
    ) -> HttpAnswer:
        """Ask once.

        Raises:
            TimeoutError, TooMuch, OtherCertificate, or one of ``FAILED``: when there is no proper answer.
        """
        parts = urlsplit(url)
        place = (parts.scheme, parts.hostname or "", parts.port or (443 if parts.scheme == "https" else 80))
        target = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
        async with asyncio.timeout(self.answer_s):
            kept = self._connection
            if kept is not None and kept.place == place:
                # A device may have ended a connection that was kept; then nothing was answered, and a new one is made.
                with contextlib.suppress(EOFError, ConnectionError):
                    return await self._asked(kept, method, target, headers, body)
            self.close()
            self._connection = await _Connection.to(*place, remembered=self._remembered)
            return await self._asked(self._connection, method, target, headers, body)

    async def _asked(
        self, connection: _Connection, method: str, target: str, headers: Sequence[tuple[str, str]], body: bytes
    ) -> HttpAnswer:
        try:
            answer = await connection.ask(method, target, headers, body)
        except BaseException:
            self.close()
            raise
        if not connection.is_kept:
            self.close()
        return answer

    def close(self) -> None:
        """Let the connection go."""
        connection, self._connection = self._connection, None
        if connection is not None:
            connection.close()


class _Connection:
    """A connection to a place."""

    def __init__(
        self,
        place: tuple[str, str, int],
        reader: asyncio.StreamReader,
        writer: asyncio.StreamWriter,
        certificate: str,
    ) -> None:
        self.place, self._certificate = place, certificate
        self._reader, self._writer = reader, writer
        self._http = h11.Connection(h11.CLIENT)

    @classmethod
    async def to(cls, scheme: str, host: str, port: int, *, remembered: str) -> _Connection:
        """Connect.

        Raises:
            OSError: when nothing is there. OtherCertificate: when it shows another than the remembered one.
        """
        tls = _own_certificates() if scheme == "https" else None
        reader, writer = await asyncio.open_connection(host, port, ssl=tls)
        certificate = _certificate_of(writer)
        if remembered and certificate and certificate != remembered:
            writer.transport.abort()
            raise OtherCertificate(certificate)
        return cls((scheme, host, port), reader, writer, certificate)

    @property
    def is_kept(self) -> bool:
        """Whether another question may go over it."""
        return self._http.our_state is h11.IDLE

    async def ask(self, method: str, target: str, headers: Sequence[tuple[str, str]], body: bytes) -> HttpAnswer:
        """Ask over it, once."""
        _, host, port = self.place
        own = [("Host", f"{host}:{port}"), ("Accept-Encoding", "identity"), ("Content-Length", str(len(body)))]
        begun_s = time.time()
        data = self._http.send(h11.Request(method=method, target=target, headers=[*own, *headers])) or b""
        data += self._http.send(h11.Data(data=body)) or b""
        self._writer.write(data + (self._http.send(h11.EndOfMessage()) or b""))
        await self._writer.drain()
        head: h11.Response | None = None
        middle_s, found = begun_s, bytearray()
        while True:
            event = self._http.next_event()
            if event is h11.NEED_DATA:
                got = await self._reader.read(READ_BYTES)
                if not got and head is None:
                    raise EOFError
                self._http.receive_data(got)
            elif isinstance(event, h11.Response):
                head, middle_s = event, (begun_s + time.time()) / 2
            elif isinstance(event, h11.Data):
                found += event.data
                if len(found) > LARGEST_BYTES:
                    raise TooMuch
            elif isinstance(event, h11.EndOfMessage | h11.ConnectionClosed) and head is not None:
                break
        with contextlib.suppress(h11.LocalProtocolError):
            self._http.start_next_cycle()
        pairs = tuple((name.decode("latin-1"), value.decode("latin-1")) for name, value in head.headers)
        return HttpAnswer(head.status_code, pairs, bytes(found), middle_s, self._certificate)

    def close(self) -> None:
        """Let it go."""
        self._writer.transport.abort()


def _certificate_of(writer: asyncio.StreamWriter) -> str:
    tls = writer.get_extra_info("ssl_object")
    data = tls.getpeercert(binary_form=True) if tls is not None else None
    return hashlib.sha256(data).hexdigest() if data else ""
