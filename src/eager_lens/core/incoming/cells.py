"""Cells of tables on their way to and from spreadsheets: harmless there, and the same when they come back."""

from __future__ import annotations

from eager_lens.core.plain_text import cleaned

Cell = str | float | int

FORMULA_BEGINNINGS = ("=", "+", "-", "@", "\t", "\r", "\n", "\uff1d", "\uff0b", "\uff0d", "\uff20")
"""Some spreadsheets take the full-width signs for the plain ones, and pass over a line end."""
MARK = "'"
_PASSED_OVER = " \u00a0\u3000\u200b\ufeff"
"""Spaces, seen or not, that some spreadsheets pass over before a formula."""


def _is_formula(text: str) -> bool:
    return text.lstrip(MARK).lstrip(_PASSED_OVER).startswith(FORMULA_BEGINNINGS)


def harmless(cell: Cell) -> Cell:
    """The cell with an apostrophe before it if it is a text that a spreadsheet would run as a formula."""
    return f"{MARK}{cell}" if isinstance(cell, str) and _is_formula(cell) else cell


def pasted_cell(text: str) -> str:
    """A text as it is put on the clipboard, in one cell of one row."""
    return str(harmless(" ".join(cleaned(text).split("\t")).replace("\n", " ").replace("\r", " ")))


def typed_cell(text: str) -> str:
    """A cell as it came from a spreadsheet, without the mark that made it harmless there."""
    if text.startswith(MARK) and _is_formula(text):
        return text[1:]
    return text
