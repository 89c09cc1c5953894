"""A device's web page: whether one answers, and what its date is. No log-in, one try, bounded in length and time."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.onsite.bounded_http import FAILED, Http, HttpAnswer, OtherCertificate, TooMuch


class PageRead(NamedTuple):
    """What a page came to. ``clock_off_s``: by its Date header, to a second; ``trouble``: anything odd; ``is_silent``: nothing
    answered."""

    is_silent: bool
    clock_off_s: float | None = None
    trouble: str = ""


async def look(http: Http, url: str) -> PageRead:
    """Ask for a page."""
    try:
        answer = await http.ask("GET", url)
    except TooMuch:
        return PageRead(True, None, "Its page is endless; reading was stopped.")
    except TimeoutError:
        return PageRead(True, None, f"Its page took longer than {http.answer_s:g} s.")
    except (OSError, EOFError, OtherCertificate):
        return PageRead(True)
    except FAILED:
        return PageRead(True, None, "Its web port does not answer in valid HTTP.")
    return PageRead(False, answer.date_off_s(), _oddity(answer))


def _oddity(answer: HttpAnswer) -> str:
    if 300 <= answer.status < 400:
        return "Its page redirects to another address, which was not followed."
    if answer.status >= 500:
        return f"Its page answers with an error ({answer.status})."
    return ""
