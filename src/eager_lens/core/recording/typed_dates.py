"""Dates and days of the week as they are typed."""

from __future__ import annotations

from datetime import date, datetime

from eager_lens.core.errors import RefusedInput
from eager_lens.core.recording.week import DAYS, Day

DATE_FORMS = ("%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y", "%d %b %Y", "%d %B %Y")


def date_from(text: str, what: str) -> date:
    """A typed date.

    Raises:
        RefusedInput: when it is none.
    """
    for form in DATE_FORMS:
        try:
            return datetime.strptime(text.strip(), form).date()
        except ValueError:
            continue
    raise RefusedInput(what, f"{text.strip()!r} was given; wanted is a date as 2026-11-01 or 1.11.2026")


MONTH_DAY_FORMS = ("%d %B %Y", "%d %b %Y", "%d.%m. %Y", "%d.%m %Y", "%m-%d %Y")


def month_days_from(text: str, year: int, what: str) -> tuple[date, ...]:
    """Days that come every year, as ``25 December, 1 Jan``: their dates in a year.

    Raises:
        RefusedInput: when a part is none.
    """
    found = []
    for part in filter(None, (one.strip() for one in text.replace(";", ",").split(","))):
        for form in MONTH_DAY_FORMS:
            try:
                found.append(datetime.strptime(f"{part} {year}", form).date())
                break
            except ValueError:
                continue
        else:
            raise RefusedInput(what, f"{part!r} was given; wanted are days as 25 December, 1 January")
    return tuple(dict.fromkeys(found))


def days_from(text: str) -> tuple[Day, ...]:
    """Typed days of the week, as ``Sat, Sun`` or ``Thu-Sun``; empty or all: every day.

    Raises:
        RefusedInput: when a word is no day.
    """
    if text.strip().lower() in ("", "all", "every day"):
        return ()
    found: list[Day] = []
    for part in text.replace(" to ", "-").replace(" ", ",").split(","):
        if part.strip():
            ends = [_day_of(word) for word in part.split("-")]
            first, last = DAYS.index(ends[0]), DAYS.index(ends[-1])
            found += [DAYS[at % 7] for at in range(first, (last if last >= first else last + 7) + 1)]
    return tuple(day for day in DAYS if day in found)


def _day_of(word: str) -> Day:
    for day in DAYS:
        if len(word.strip()) >= 2 and (word.strip().lower().startswith(day) or day.startswith(word.strip().lower())):
            return day
    raise RefusedInput("Days", f"{word.strip()!r} is no day of the week; wanted is as Sat, Sun or Thu-Sun")
