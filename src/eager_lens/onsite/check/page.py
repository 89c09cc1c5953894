"""A device's page: is anything there, does it let one in, what is its time. One try, bounded in length and time."""

from __future__ import annotations

import asyncio
import json
import time
from email.utils import parsedate_to_datetime
from typing import NamedTuple

import httpx

from eager_lens.core.plain_text import cleaned
from eager_lens.core.site_check.readings import ChannelRead, Login
from eager_lens.onsite.digest import DigestLogin, NoDigest

ANSWER_S = 6.0
LARGEST_BYTES = 262_144
MOST_CHANNELS = 1024


class PageRead(NamedTuple):
    """What a page came to. ``clock_off_s``: by its Date header, to a second; ``trouble``: anything odd."""

    login: Login
    clock_off_s: float | None = None
    trouble: str = ""


class _Answer(NamedTuple):
    status: int
    headers: httpx.Headers
    body: bytes
    middle_s: float


class TooMuch(Exception):
    """An answer that does not end."""


async def _get(client: httpx.AsyncClient, url: str, login: DigestLogin | None) -> _Answer:
    """Ask for a page, logging in where it wants that; its body is read up to a bound.

    Raises:
        httpx.HTTPError, TimeoutError, TooMuch: when there is no proper answer. NoDigest: when it wants a log-in that is not
            answered; nothing was sent to it.
    """
    answer = await _once(client, url, login)
    if answer.status == 401 and login is not None and (not login.has_answered or login.is_proven):
        login.take(answer.headers.get_list("www-authenticate"))
        login.is_proven = False
        answer = await _once(client, url, login)
    if login is not None and answer.status != 401:
        login.is_proven = login.has_answered
    return answer


async def _once(client: httpx.AsyncClient, url: str, login: DigestLogin | None) -> _Answer:
    parts = httpx.URL(url)
    authorisation = login.authorisation("GET", parts.raw_path.decode("ascii")) if login is not None else None
    headers = {"Authorization": authorisation} if authorisation else {}
    async with asyncio.timeout(ANSWER_S):
        begun_s = time.time()
        async with client.stream("GET", url, headers=headers) as answer:
            middle_s = (begun_s + time.time()) / 2
            body = b""
            async for part in answer.aiter_raw():
                body += part
                if len(body) > LARGEST_BYTES:
                    raise TooMuch
            return _Answer(answer.status_code, answer.headers, body, middle_s)


def client() -> httpx.AsyncClient:
    """A client that goes where it is sent and nowhere else: no proxy, no redirect."""
    limits = httpx.Limits(max_connections=64, max_keepalive_connections=0)
    return httpx.AsyncClient(trust_env=False, follow_redirects=False, timeout=ANSWER_S, limits=limits)


async def look(http: httpx.AsyncClient, url: str, login: DigestLogin | None) -> PageRead:
    """Ask for a page, logging in where it wants that and a log-in is given; once."""
    try:
        answer = await _get(http, url, login)
    except TooMuch:
        return PageRead("no answer", None, "Its page is endless; reading was stopped.")
    except (TimeoutError, httpx.TimeoutException):
        return PageRead("no answer", None, f"Its page took longer than {ANSWER_S:g} s.")
    except NoDigest as error:
        if error.plain_text:
            return PageRead("plain text")
        return PageRead("not tried", None, f"Log-in to its page is not possible: {error}.")
    except (httpx.ConnectError, httpx.ReadError):
        return PageRead("no answer")
    except (httpx.HTTPError, httpx.InvalidURL, ValueError, UnicodeError):
        return PageRead("no answer", None, "Its web port does not answer in valid HTTP.")
    return PageRead(_login(answer, login), _clock_off_s(answer), _oddity(answer))


def _login(answer: _Answer, login: DigestLogin | None) -> Login:
    if answer.headers.get("x-state", "") == "set-up wanted":
        return "set-up wanted"
    if answer.status in (403, 423, 429):
        return "locked"
    if answer.status == 401:
        return "refused" if login is not None and login.has_answered else "not tried"
    if login is not None and login.has_answered:
        return "in"
    return "open" if answer.status < 300 else "not tried"


def _clock_off_s(answer: _Answer) -> float | None:
    try:
        shown = parsedate_to_datetime(answer.headers.get("date", "")).timestamp()
    except (ValueError, TypeError, OverflowError):
        return None
    # The header cuts to whole seconds: on average half a second has passed.
    return shown + 0.5 - answer.middle_s


def _oddity(answer: _Answer) -> str:
    if 300 <= answer.status < 400:
        return "Its page redirects to another address, which was not followed."
    if answer.status >= 500:
        return f"Its page answers with an error ({answer.status})."
    return ""


async def channels(http: httpx.AsyncClient, url: str, login: DigestLogin) -> tuple[ChannelRead, ...] | None:
    """A recorder's channels, where it tells them to a user who is in."""
    try:
        answer = await _get(http, url, login)
        listed = json.loads(answer.body)["channels"] if answer.status == 200 else None
        if not isinstance(listed, list):
            return None
        return tuple(_channel(one) for one in listed[:MOST_CHANNELS])
    except (TimeoutError, TooMuch, NoDigest, httpx.HTTPError, httpx.InvalidURL, RecursionError):
        return None
    except (ValueError, KeyError, TypeError, AttributeError):  # what it tells is no list of channels
        return None


def _channel(entry: dict[str, object]) -> ChannelRead:
    texts = {name: cleaned(str(entry.get(name, "")))[:200] for name in ("name", "address", "state", "why")}
    return ChannelRead(number=int(str(entry["number"])), **texts)
