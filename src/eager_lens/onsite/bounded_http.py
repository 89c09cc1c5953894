"""HTTP requests to devices: one address, no proxy, no redirect, an end in bytes and in seconds, and over TLS the certificate."""

from __future__ import annotations

import asyncio
import hashlib
import ssl
import time
from collections.abc import Awaitable, Callable
from email.utils import parsedate_to_datetime
from typing import Any, NamedTuple

import httpx

ANSWER_S = 6.0
LARGEST_BYTES = 1_048_576


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
    """An answer. ``middle_s``: the moment halfway between question and answer, since 1970. ``certificate``: SHA-256, in hex."""

    status: int
    headers: httpx.Headers
    body: bytes
    middle_s: float
    certificate: str = ""


def client() -> httpx.AsyncClient:
    """A client that goes where it is sent and nowhere else. Whose certificate it is, ``ask`` checks by what is remembered:
    devices sign their own."""
    limits = httpx.Limits(max_connections=100, max_keepalive_connections=60, keepalive_expiry=5.0)
    return httpx.AsyncClient(
        trust_env=False, follow_redirects=False, timeout=ANSWER_S, limits=limits, verify=_own_certificates()
    )


def _own_certificates() -> ssl.SSLContext:
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    # Devices have certificates with short keys and old signatures; they are told apart by their fingerprint alone.
    context.set_ciphers("DEFAULT:@SECLEVEL=0")
    return context


async def ask(
    http: httpx.AsyncClient,
    method: str,
    url: str,
    headers: dict[str, str],
    body: bytes = b"",
    remembered: str = "",
    answer_s: float = ANSWER_S,
) -> HttpAnswer:
    """Ask once. ``remembered``: SHA-256 of the certificate that the device must show over TLS; empty: any.

    Raises:
        httpx.HTTPError, httpx.InvalidURL, TimeoutError, TooMuch, OtherCertificate: when there is no proper answer.
    """
    shown: list[str] = []
    extensions = {"trace": _certificate_check(shown, remembered)} if url.startswith("https:") else {}
    async with asyncio.timeout(answer_s):
        begun_s = time.time()
        all_headers = {"Accept-Encoding": "identity", **headers}
        async with http.stream(method, url, headers=all_headers, content=body or None, extensions=extensions) as answer:
            middle_s = (begun_s + time.time()) / 2
            found = b""
            async for part in answer.aiter_raw():
                found += part
                if len(found) > LARGEST_BYTES:
                    raise TooMuch
            certificate = shown[0] if shown else _certificate_of(answer.extensions.get("network_stream"))
            return HttpAnswer(answer.status_code, answer.headers, found, middle_s, certificate)


def _certificate_check(shown: list[str], remembered: str) -> Callable[[str, dict[str, Any]], Awaitable[None]]:
    """What looks at the certificate as soon as TLS stands, before anything is sent."""

    async def look(event: str, values: dict[str, Any]) -> None:
        if event == "connection.start_tls.complete":
            shown.append(_certificate_of(values["return_value"]))
            if remembered and shown[-1] != remembered:
                raise OtherCertificate(shown[-1])

    return look


def _certificate_of(stream: Any) -> str:
    tls = stream.get_extra_info("ssl_object") if stream is not None else None
    data = tls.getpeercert(binary_form=True) if tls is not None else None
    return hashlib.sha256(data).hexdigest() if data else ""


def clock_off_s(answer: HttpAnswer) -> float | None:
    """By how much the date of an answer is ahead of this computer's clock; None without a date."""
    try:
        shown = parsedate_to_datetime(answer.headers.get("date", "")).timestamp()
    except (ValueError, TypeError, OverflowError):
        return None
    # The header cuts to whole seconds: on average half a second has passed.
    return shown + 0.5 - answer.middle_s
