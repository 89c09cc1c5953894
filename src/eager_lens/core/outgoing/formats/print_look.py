"""What sheets look like on paper, in PDF and HTML alike: colours that stay apart on a grey printer."""

from __future__ import annotations

from typing import NamedTuple


class PrintPalette(NamedTuple):
    """Colours by what they are for, as #RRGGBB: text, text that steps back, hairlines, ground of a panel, what is drawn,
    and what needs somebody."""

    ink: str
    muted: str
    rule: str
    panel: str
    deep: str
    need: str


PRINT = PrintPalette("#1E2A2F", "#5B6770", "#D9D4C7", "#F2EFE7", "#2B5C6B", "#B4471F")
