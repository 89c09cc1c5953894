"""Exceptions as people say them: ``closed on 25 December``, ``open 10-16 on 24 Dec``, ``Fair 1 June 2026 to 20 June 2026``."""

from __future__ import annotations

import re
from datetime import date
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.recording.typed_dates import date_from, month_days_from
from eager_lens.core.recording.week import typed_minute

CLOSED = ("closed", "shut", "holiday", "holidays", "closure")
WANTED = "wanted is as “closed on 25 December”, “open 10-16 on 24 December”, “Fair 1 June to 20 June”"


class ParsedException(NamedTuple):
    """What was said.

    Attributes:
        name: what it is called.
        first, last: its dates; ``yearly`` where no year was said.
        is_closed: nobody is there. hours: from and to, in minutes since midnight, where people are there at other hours.
    """

    name: str
    first: date
    last: date
    yearly: bool
    is_closed: bool
    hours: tuple[int, int] | None


def exception_from(text: str, year: int) -> ParsedException:
    """Read an exception in words; ``year`` stands for dates that come every year.

    Raises:
        RefusedInput: when no date is found, or hours are none.
    """
    words = text.strip()
    split = re.split(r"\s+on\s+", words, maxsplit=1, flags=re.IGNORECASE)
    about, when = split if len(split) == 2 else _apart(words)
    ends = [part for part in re.split(r"\s+(?:to|until|till)\s+|\s*–\s*", when, flags=re.IGNORECASE) if part.strip()]
    if not 1 <= len(ends) <= 2:
        raise RefusedInput("Exception", f"{words!r} was given; {WANTED}")
    dates = [_date(end, year) for end in ends]
    (first, one_yearly), (last, other_yearly) = dates[0], dates[-1]
    if one_yearly != other_yearly:
        raise RefusedInput("Exception", f"one of the dates in {words!r} has a year and the other has none")
    kind = about.lower().split()[0] if about.split() else ""
    hours = re.search(r"([\d:.apm ]+?)\s*(?:-|to)\s*([\d:.apm ]+)$", about, re.IGNORECASE) if kind == "open" else None
    span = None if hours is None else (_minute(hours[1]), _minute(hours[2]))
    name = sentence_case(about).strip() or "Exception"
    if kind in (*CLOSED, "open"):
        name = f"{name} on {when.strip()}" if len(ends) == 1 else f"{name}, {when.strip()}"
    return ParsedException(name[:200], first, last, one_yearly, kind in CLOSED, span)


def _apart(words: str) -> tuple[str, str]:
    """What comes before the first number that begins a date, and the rest."""
    found = re.search(r"\d{4}-\d|\d{1,2}\.\d{1,2}\.|\d{1,2}/\d|\d{1,2}\s+[A-Za-z]{3}", words)
    if found is None:
        raise RefusedInput("Exception", f"no date is in {words!r}; {WANTED}")
    return words[: found.start()].strip(" ,:"), words[found.start() :]


def _date(text: str, year: int) -> tuple[date, bool]:
    """A date, and whether it comes every year."""
    if re.search(r"\d{4}", text):
        return date_from(text, "Exception"), False
    found = month_days_from(text, year, "Exception")
    if len(found) != 1:
        raise RefusedInput("Exception", f"{text.strip()!r} was given; {WANTED}")
    return found[0], True


def _minute(text: str) -> int:
    try:
        return typed_minute(text.strip())
    except ValueError as error:
        raise RefusedInput("Exception", str(error)) from None
