"""A price list of drives out of a table: name, size in TB, price, and the currency from the heading or a column."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.exchange.table_in import RawTable, heading_parts
from eager_lens.core.job.fields import number_from
from eager_lens.core.job.model import DriveOffer

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


def price_list(table: RawTable) -> PriceList:
    """Read the offers.

    Raises:
        RefusedInput: when the columns are not found, or no row is an offer.
    """
    columns: dict[str, int] = {}
    currency = ""
    for at, heading in enumerate(table.rows[0]):
        words, in_brackets = heading_parts(heading)
        for target, names in HEADINGS.items():
            if words.lower() in names and target not in columns:
                columns[target] = at
                if target == "price":
                    currency = in_brackets
    missing = [name for name in ("name", "tb", "price") if name not in columns]
    if missing:
        raise RefusedInput(
            "price list",
            f"no column for {', '.join(missing)}; wanted are the columns Name, TB and Price (EUR), in the first row",
        )
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
