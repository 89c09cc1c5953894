"""Price lists out of tables: of drives (name, size in TB, price), and of parts (what, price), with the currency."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.money import currency_from, decimal_of, money_from, reading_of
from eager_lens.core.incoming.number_marks import Decimal
from eager_lens.core.incoming.table_in import RawTable, heading_parts
from eager_lens.core.job.fields import number_from
from eager_lens.core.job.model import DriveOffer
from eager_lens.core.job.prices import PartPrice

HEADINGS: dict[str, tuple[str, ...]] = {
    "name": ("name", "drive", "article", "item", "model", "description"),
    "tb": ("tb", "size", "capacity", "size (tb)", "capacity (tb)", "terabytes"),
    "price": ("price", "net price", "unit price", "cost"),
    "currency": ("currency",),
}


class PriceList(NamedTuple):
    """The offers; a sentence for each row that was left out; and what one price was taken for (``reading_of``)."""

    offers: tuple[DriveOffer, ...]
    problems: tuple[str, ...]
    reading: str


def _columns(
    table: RawTable, headings: dict[str, tuple[str, ...]], needed: tuple[str, ...], wanted: str
) -> tuple[dict[str, int], str]:
    """Where the columns are that the first row names, and the currency in the price's heading.

    Raises:
        RefusedInput: when one that is needed is not there.
    """
    columns: dict[str, int] = {}
    currency = ""
    for at, heading in enumerate(table.rows[0]):
        words, in_brackets = heading_parts(heading)
        for target, names in headings.items():
            if words.lower() in names and target not in columns:
                columns[target] = at
                if target == "price":
                    currency = currency_from(in_brackets)
    missing = [name for name in needed if name not in columns]
    if missing:
        raise RefusedInput(
            "price list", f"no column for {', '.join(missing)}; the first row must name the columns {wanted}"
        )
    return columns, currency


def price_list(table: RawTable, decimal: Decimal | None = None) -> PriceList:
    """Read the offers. ``decimal``: the mark of decimals where the prices do not show it.

    Raises:
        RefusedInput: when the columns are not found, or no row is an offer. AmbiguousMarks: when prices can be read
            in two ways.
    """
    columns, currency = _columns(table, HEADINGS, ("name", "tb", "price"), "Name, TB and Price (EUR)")
    prices = [row[columns["price"]] for row in table.rows[1:]]
    mark = decimal_of(prices, table.rows[0][columns["price"]], table.is_workbook, decimal)
    offers, problems = [], []
    for number, row in zip(table.numbers[1:], table.rows[1:], strict=True):
        try:
            price = money_from(row[columns["price"]], mark)
            told = currency_from(row[columns["currency"]]) if "currency" in columns else ""
            offers.append(
                DriveOffer(
                    name=row[columns["name"]],
                    tb=number_from(row[columns["tb"]], "TB"),
                    price=price.amount,
                    currency=price.currency or told or currency,
                )
            )
        except ValueError as error:
            words = str(error).splitlines()[0]
            problems.append(f"Row {number} was left out: {words}")
    if not offers:
        raise RefusedInput("price list", problems[0] if problems else "it has headings, but no rows below them")
    return PriceList(tuple(offers), tuple(problems), reading_of(prices, mark))


class PartPrices(NamedTuple):
    """Prices of parts, each in its own currency; the one that most of them have; a sentence for each row that was left out; and
    what one price was taken for (``reading_of``)."""

    prices: tuple[PartPrice, ...]
    currency: str
    problems: tuple[str, ...]
    reading: str


PART_HEADINGS: dict[str, tuple[str, ...]] = {
    "what": ("what", "part", "article", "item", "name", "description"),
    "price": ("price", "net price", "unit price", "cost", "each", "price each"),
    "currency": ("currency",),
}


def part_prices(table: RawTable, decimal: Decimal | None = None) -> PartPrices:
    """Read prices of parts: ``what`` is a line of the parts list, or how such a line begins. Rows without a price are passed
    over: the list that the program writes for filling in has them. ``decimal``: the mark of decimals where they do not show it.

    Raises:
        RefusedInput: when the columns are not found, or no row has a price. AmbiguousMarks: when prices can be read
            in two ways.
    """
    columns, currency = _columns(table, PART_HEADINGS, ("what", "price"), "What and Price (EUR)")
    prices: dict[str, PartPrice] = {}
    problems = []
    cells = [row[columns["price"]] for row in table.rows[1:]]
    mark = decimal_of(cells, table.rows[0][columns["price"]], table.is_workbook, decimal)
    for number, row in zip(table.numbers[1:], table.rows[1:], strict=True):
        what, typed = row[columns["what"]].strip(), row[columns["price"]].strip()
        if not typed:
            continue
        try:
            price = money_from(typed, mark)
            told = currency_from(row[columns["currency"]]) if "currency" in columns else ""
            prices[what.casefold()] = PartPrice(
                what=what, price=price.amount, currency=price.currency or told or currency
            )
        except ValueError as error:
            problems.append(f"Row {number} was left out: {str(error).splitlines()[0]}")
    if not prices:
        raise RefusedInput("price list", problems[0] if problems else "none of its rows has a price")
    usual = Counter(one.currency for one in prices.values()).most_common(1)[0][0]
    return PartPrices(tuple(prices.values()), usual, tuple(problems), reading_of(cells, mark))
