"""Amounts of lists: how their decimals are read is shown before they count, and asked where they can be read in two ways."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, TypeVar

from eager_lens.core.errors import EagerLensError
from eager_lens.core.incoming.money import AmbiguousMarks
from eager_lens.core.incoming.number_marks import DECIMALS, Decimal, decimal_words
from eager_lens.desk.asking import Asker
from eager_lens.desk.session import Session


class Amounts(Protocol):
    """What a list of amounts says."""

    @property
    def reading(self) -> str:
        """What one amount was taken for; empty where none can be misread."""


T = TypeVar("T", bound=Amounts)


def read_amounts(read: Callable[[Decimal | None], T], session: Session, asker: Asker | None) -> T | None:
    """What a list says; None where it is given up, or cannot be read, which is told."""
    try:
        try:
            got = read(None)
            if got.reading and asker is not None:
                text = f"In this list {got.reading}."
                return got if asker.ask("Prices", text, ("Load prices", "Cancel"), 1) == 0 else None
            return got
        except AmbiguousMarks as error:
            if asker is None:
                raise
            readings = [words for _, words in decimal_words(error.example)]
            example = error.example or "a comma and a point"
            answers = [*(f"{example} is {words}" for words in readings), "Cancel"]
            answer = asker.ask(
                "Decimals", f"How are decimals written in the column {error.path}?", answers, len(readings)
            )
            return None if answer >= len(DECIMALS) else read(DECIMALS[answer])
    except EagerLensError as error:
        session.notice(str(error), needs=True)
        return None
