"""Price lists out of tables: of drives (name, size in TB, price), and of parts (what, price), with the currency."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.exchange.table_in import RawTable, heading_parts
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
    """The offers, and a sentence for each row that was left out."""

    offers: tuple[DriveOffer, ...]
    problems: tuple[str, ...]


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
                    currency = in_brackets
    missing = [name for name in needed if name not in columns]
    if missing:
        raise RefusedInput(
            "price list", f"no column for {', '.join(missing)}; wanted are the columns {wanted}, in the first row"
        )
    return columns, currency


def price_list(table: RawTable) -> PriceList:
    """Read the offers.

    Raises:
        RefusedInput: when the columns are not found, or no row is an offer.
    """
    columns, currency = _columns(table, HEADINGS, ("name", "tb", "price"), "Name, TB and Price (EUR)")
    offers, problems = [], []
    for number, row in zip(table.numbers[1:], table.rows[1:], strict=True):
        try:
            offers.append(
                DriveOffer(
                    name=row[columns["name"]],
                    tb=number_from(row[columns["tb"]], "TB"),
                    price=number_from(
                        row[columns["price"]].replace(currency, "") if currency else row[columns["price"]]
                    ),
                    currency=row[columns["currency"]] if "currency" in columns else currency,
                )
            )
        except ValueError as error:
            words = str(error).splitlines()[0]
            problems.append(f"Row {number} was left out: {words}")
    if not offers:
        raise RefusedInput("price list", problems[0] if problems else "it has headings, but no row below them")
    return PriceList(tuple(offers), tuple(problems))


class PartPrices(NamedTuple):
    """Prices of parts, the currency that the list names, and a sentence for each row that was left out."""

    prices: tuple[PartPrice, ...]
    currency: str
    problems: tuple[str, ...]


PART_HEADINGS: dict[str, tuple[str, ...]] = {
    "what": ("what", "part", "article", "item", "name", "description"),
    "price": ("price", "net price", "unit price", "cost", "each", "price each"),
}


def part_prices(table: RawTable) -> PartPrices:
    """Read prices of parts: ``what`` is a line of the parts list, or how such a line begins. Rows without a price are passed
    over: the list that the program writes for filling in has them.

    Raises:
        RefusedInput: when the columns are not found, or no row has a price.
    """
    columns, currency = _columns(table, PART_HEADINGS, ("what", "price"), "What and Price (EUR)")
    prices: dict[str, PartPrice] = {}
    problems = []
    for number, row in zip(table.numbers[1:], table.rows[1:], strict=True):
        what, typed = row[columns["what"]].strip(), row[columns["price"]].strip()
        if not typed:
            continue
        try:
            bare = typed.replace(currency, "") if currency else typed
            prices[what.casefold()] = PartPrice(what=what, price=number_from(bare))
        except ValueError as error:
            problems.append(f"Row {number} was left out: {str(error).splitlines()[0]}")
    if not prices:
        raise RefusedInput("price list", problems[0] if problems else "no row of it has a price")
    return PartPrices(tuple(prices.values()), currency[:20], tuple(problems))
