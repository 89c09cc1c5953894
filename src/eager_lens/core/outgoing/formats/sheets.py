"""What stands on printed sheets, as plain records. HTML and PDF only lay them out."""

import dataclasses
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal, NamedTuple, TypeVar

from eager_lens.core.recording.week import Span, clock_of


def date_words(day: date) -> str:
    """A date as it stands on a sheet."""
    return f"{day.day} {day:%B %Y}"


def span_words(span: Span) -> str:
    """``08:00 to 18:00 motion``."""
    return f"{clock_of(span.start)} to {clock_of(span.end)} {span.mode}"


Align = Literal["left", "right"]


class SheetColumn(NamedTuple):
    """A column of a sheet's table: heading, share of the width, alignment."""

    heading: str
    share: float
    align: Align = "left"


@dataclass(frozen=True)
class SheetTable:
    """A table on a sheet, with a caption above it and a line of small print under that; ``to_write_in``: its rows are high
    enough for a pen."""

    columns: tuple[SheetColumn, ...]
    rows: tuple[tuple[str, ...], ...]
    caption: str = ""
    note: str = ""
    to_write_in: bool = False


@dataclass(frozen=True)
class WeekStrip:
    """A week drawn as seven strips; spans do not overlap."""

    name: str
    days: tuple[tuple[str, tuple[Span, ...]], ...]
    caption: str


@dataclass(frozen=True)
class RulePicture:
    """A motion rule on the picture of its place.

    Attributes:
        name, caption: whose rule it is, and its settings in words.
        grey: rows of grey levels of ``wide`` by ``high``; empty where there is no picture of the place.
        zones: corners in shares of the picture, and whether the zone is left out.
        line: the two ends of a line to cross, if there is one.
        arrows: from the line's middle to either side that counts.
    """

    name: str
    caption: str
    grey: bytes
    wide: int
    high: int
    zones: tuple[tuple[tuple[tuple[float, float], ...], bool], ...]
    line: tuple[tuple[float, float], tuple[float, float]] | None = None
    arrows: tuple[tuple[tuple[float, float], tuple[float, float]], ...] = ()


@dataclass(frozen=True)
class Drawing:
    """A picture as PNG, and what it shows in words."""

    png: bytes
    words: str


@dataclass(frozen=True)
class Bullets:
    """A list of sentences, with a caption above it; ``numbered`` where their order counts."""

    items: tuple[str, ...]
    caption: str = ""
    numbered: bool = False


@dataclass(frozen=True)
class Signatures:
    """Lines to sign on, each with who signs there."""

    lines: tuple[str, ...]


Block = SheetTable | WeekStrip | RulePicture | Drawing | Bullets | Signatures


@dataclass(frozen=True)
class Sheet:
    """One sheet of the set: a title, a line under it, and what stands on it. ``follows``: it may begin on the page on which
    the one before ends."""

    title: str
    intro: str
    blocks: tuple[Block, ...]
    follows: bool = False


@dataclass(frozen=True)
class SheetSet:
    """The whole set. ``date`` is the day it was made, written out; ``what`` says what set it is."""

    title: str
    subtitle: str
    date: str
    sheets: tuple[Sheet, ...]
    what: str = "handover"


T = TypeVar("T")


def with_texts(thing: T, change: Callable[[str], str]) -> T:
    """A record with every text that it holds changed, however deep; what is no text stays as it is."""
    return _changed(thing, change)  # type: ignore[no-any-return]


def _changed(thing: Any, change: Callable[[str], str]) -> Any:
    if isinstance(thing, str):
        return change(thing)
    if isinstance(thing, tuple):
        parts = tuple(_changed(part, change) for part in thing)
        return type(thing)(*parts) if hasattr(thing, "_fields") else parts
    if dataclasses.is_dataclass(thing) and not isinstance(thing, type):
        fields = dataclasses.fields(thing)
        return dataclasses.replace(thing, **{one.name: _changed(getattr(thing, one.name), change) for one in fields})
    return thing
