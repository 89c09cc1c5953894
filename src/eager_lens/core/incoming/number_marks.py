"""Decimal and thousands marks in the numbers of a column: found out from all of its cells, and said where they cannot be.

``1.299,00`` and ``12,5`` have a decimal comma, ``1,299.00`` and ``12.5`` a decimal point; ``4.096`` alone can be either.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Literal, NamedTuple

Decimal = Literal[".", ","]
DECIMALS: tuple[Decimal, ...] = (".", ",")

NUMBER = re.compile(r"[+-]?\d(?:[\d.,' \u00a0\u2009\u202f]*\d)?", re.ASCII)
"""From its first digit to its last, with whatever marks and spaces stand between."""
_SPACES = re.compile(r"(?<=\d)[' \u00a0\u2009\u202f](?=\d{3})")


class Marks(NamedTuple):
    """How a column writes its decimals.

    Attributes:
        decimal: the mark. is_certain: the cells show it; else it is a guess that somebody has to look at. example: a cell that
            can be read in two ways, where nothing decides; else empty.
    """

    decimal: Decimal
    is_certain: bool
    example: str = ""


def marks_in(cells: Iterable[str]) -> Marks | None:
    """What the cells of a column show; None where no number in it has a mark."""
    seen: set[Decimal] = set()
    example = ""
    for cell in cells:
        found = _mark_of(cell)
        if found == "either":
            example = example or _bare(cell)
        elif found:
            seen.add(found)
    if len(seen) == 1:
        return Marks(seen.pop(), True)
    if len(seen) == 2:
        return Marks(".", False, example)
    return Marks("." if "." in example else ",", False, example) if example else None


def _bare(cell: str) -> str:
    match = NUMBER.search(_SPACES.sub("", cell))
    return match[0] if match else ""


def _mark_of(cell: str) -> Decimal | Literal["", "either"]:
    """The decimal mark that a cell shows; empty for none."""
    number = _bare(cell)
    points, commas = number.count("."), number.count(",")
    if not points and not commas:
        return ""
    if points and commas:
        return "." if number.rfind(".") > number.rfind(",") else ","
    mark: Decimal = "." if points else ","
    other: Decimal = "," if points else "."
    if points + commas > 1:
        return other  # a mark that comes twice sets thousands apart
    whole, _, decimals = number.partition(mark)
    if len(decimals) != 3 or len(whole.lstrip("+-")) > 3 or whole.lstrip("+-").startswith("0"):
        return mark
    return "either"


def with_point(cell: str, decimal: Decimal) -> str:
    """A cell's number with a decimal point and no thousands marks; what else stands in the cell stays.

    Raises:
        ValueError: when its marks do not fit that.
    """
    text = _SPACES.sub("", cell)
    match = NUMBER.search(text)
    if match is None:
        return cell
    number = match[0]
    thousands = "," if decimal == "." else "."
    whole, _, decimals = number.partition(decimal)
    groups = whole.lstrip("+-").split(thousands)
    if (
        thousands in decimals
        or decimal in decimals
        or (len(groups) > 1 and any(len(group) != 3 for group in groups[1:]))
    ):
        raise ValueError(f"{cell.strip()!r} is not a number with a decimal {'comma' if decimal == ',' else 'point'}")
    plain = whole.replace(thousands, "") + (f".{decimals}" if decimals else "")
    return text[: match.start()] + plain + text[match.end() :]


def decimal_words(example: str) -> tuple[tuple[Decimal, str], ...]:
    """What an example is by each decimal mark: ``4.096`` is 4096 or 4.096."""
    if not example:
        return (".", "a decimal point"), (",", "a decimal comma")
    return tuple((decimal, with_point(example, decimal)) for decimal in DECIMALS)
