"""For whom sheets are made: how numbers and dates are written there, and on which paper (CLDR, by Babel)."""

from __future__ import annotations

import os
from datetime import date
from functools import lru_cache
from typing import NamedTuple

from babel import Locale, UnknownLocaleError
from babel.dates import format_date

from eager_lens.core.firm.label_stock import Paper as Paper
from eager_lens.core.units import PLAIN, NumberStyle

PAPERS: tuple[Paper, ...] = ("A4", "Letter")

LETTER = frozenset(["BZ", "CA", "CL", "CO", "CR", "GT", "MX", "NI", "PA", "PH", "PR", "SV", "US", "VE"])
"""Territories that print on US Letter (CLDR, supplemental data, paper sizes)."""


class Reader(NamedTuple):
    """How somebody reads: a locale's name (empty: none is set), its numbers, and its paper."""

    locale: str = ""
    style: NumberStyle = PLAIN
    paper: Paper = "A4"

    def date_words(self, day: date) -> str:
        """A date written out, as it is there."""
        if not self.locale:
            return f"{day.day} {day:%B %Y}"
        return format_date(day, "long", locale=self.locale)


@lru_cache(maxsize=64)
def reader_of(name: str) -> Reader:
    """A reader by the name of a locale, as ``de_AT.UTF-8``; one that is not known, and ``C``, stand for none."""
    bare = name.partition(".")[0].partition("@")[0].replace("-", "_")
    if bare in ("C", "POSIX"):
        return Reader()
    try:
        locale = Locale.parse(bare)
    except (UnknownLocaleError, ValueError, TypeError):
        return Reader()
    symbols = locale.number_symbols.get("latn", {})
    style = NumberStyle(symbols.get("decimal", "."), symbols.get("group", "\u2009"))
    if locale.language == "en" and locale.territory not in LETTER:
        style = PLAIN  # groups apart by a thin space, as in standards, where a comma could be taken for a decimal sign
    return Reader(str(locale), style, "Letter" if locale.territory in LETTER else "A4")


def system_reader() -> Reader:
    """Whoever sits at this computer, by its settings; its paper may be set apart from its numbers."""
    numbers, paper = (
        next((value for name in ("LC_ALL", kind, "LANG") if (value := os.environ.get(name))), "")
        for kind in ("LC_NUMERIC", "LC_PAPER")
    )
    return reader_of(numbers)._replace(paper=reader_of(paper).paper)
