"""Amounts of money as lists have them: ``1.299,00 EUR``, ``€ 99``, ``99.90``."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.number_marks import NUMBER, Decimal, decimal_words, marks_in, with_point
from eager_lens.core.job.fields import number_from

SIGNS = {"€": "EUR", "£": "GBP", "¥": "JPY", "₹": "INR"}
"""Signs of one currency each; that of the dollar is many countries' and stays as it is."""

LONGEST_CURRENCY = 20


class Money(NamedTuple):
    """An amount, and its currency (empty: the job's)."""

    amount: float
    currency: str = ""


class AmbiguousMarks(RefusedInput):
    """A column of amounts that can be read in two ways; ``example`` is one of them."""

    def __init__(self, column: str, example: str) -> None:
        readings = " or ".join(words for _, words in decimal_words(example))
        super().__init__(column, f"{example or 'its amounts'} could mean {readings}; select how decimals are written")
        self.example = example


def decimal_of(cells: Sequence[str], column: str, is_workbook: bool, decimal: Decimal | None) -> Decimal:
    """How a column of amounts writes its decimals: as its cells show, else as was said.

    Raises:
        AmbiguousMarks: when they do not show it, and nothing was said.
    """
    marks = marks_in(cells)
    if marks is None:
        return "."
    if marks.is_certain:
        return marks.decimal
    if decimal is not None:
        return decimal
    if is_workbook:
        return "."  # numbers of a workbook are numbers
    raise AmbiguousMarks(column, marks.example)


def reading_of(cells: Sequence[str], decimal: Decimal) -> str:
    """What one amount of a column is taken for, to be looked at before it counts: ``1.299,00 is 1299.00``; empty where all
    have no mark but a decimal point."""
    for cell in sorted(cells, key=len, reverse=True):
        try:
            if with_point(cell, decimal) != cell:
                return f"{cell.strip()} is {money_from(cell, decimal).amount:.2f}"
        except ValueError:
            continue  # told as a row that is left out
    return ""


def money_from(text: str, decimal: Decimal) -> Money:
    """An amount, with the currency that stands before or behind it.

    Raises:
        ValueError: when it is none.
    """
    bare = with_point(text, decimal)
    match = NUMBER.search(bare)
    if match is None:
        raise ValueError(f"{text.strip()!r} is not an amount")
    beside = (bare[: match.start()] + " " + bare[match.end() :]).strip()
    if re.search(r"\d", beside):
        raise ValueError(f"{text.strip()!r} contains more than one number")
    return Money(number_from(match[0]), currency_from(beside))


def currency_from(text: str) -> str:
    """A currency as it is written; a sign of one currency by its code. ``.-`` behind an amount is no currency."""
    bare = text.strip(" .,-–—")
    return SIGNS.get(bare, bare.upper() if len(bare) == 3 and bare.isalpha() else bare)[:LONGEST_CURRENCY]
