"""The words of the program, from ``glossary.json``: term, unit, definition, where used, and the table columns that show it."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import NamedTuple


class Term(NamedTuple):
    """A term: what it is called, its unit (empty: none), what it means, the pages that use it, and ids of columns."""

    term: str
    unit: str
    definition: str
    used: str
    columns: tuple[str, ...]


@cache
def glossary() -> tuple[Term, ...]:
    """All terms, by subject."""
    data = json.loads(Path(__file__).with_name("glossary.json").read_text("utf-8"))
    return tuple(Term(**{**row, "columns": tuple(row["columns"])}) for row in data["terms"])


@cache
def _by_column() -> dict[str, Term]:
    return {column: term for term in glossary() for column in term.columns}


def column_words(column_id: str) -> str:
    """What a table column holds, for its tool tip; empty where its heading says enough."""
    term = _by_column().get(column_id)
    if term is None:
        return ""
    unit = f" ({term.unit})" if term.unit else ""
    return f"{term.term}{unit}: {term.definition}"


def as_markdown() -> str:
    """``docs/glossary.md``; a test keeps the file as this says."""
    rows = [f"| {one.term} | {one.unit} | {one.definition} | {one.used} |" for one in glossary()]
    head = [
        "# Glossary",
        "",
        "One word for each thing: in code, on screen, in files and in these pages. Tool tips of table headings come from here.",
        "",
        "| term | unit | definition | where used |",
        "| --- | --- | --- | --- |",
    ]
    return "\n".join([*head, *rows]) + "\n"
