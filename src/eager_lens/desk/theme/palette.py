"""The colours of both themes, by role. Text on its ground keeps a contrast of at least 4.5 to 1 (a test measures it)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Palette:
    """Colours by what they are for.

    Attributes:
        paper, panel: the ground of pages, and of what stands beside them.
        rule: hairlines. ink, muted: text, and text that steps back.
        need: what needs somebody. selected, tint: what is selected, and its ground.
        on_accent: text on ``accent``.
        series: lines and bars in charts; told apart by line style and marker too.
    """

    paper: str
    panel: str
    rule: str
    ink: str
    muted: str
    need: str
    accent: str
    tint: str
    on_accent: str
    series: tuple[str, ...]


LIGHT = Palette(
    paper="#FBFAF6",
    panel="#F2EFE7",
    rule="#D9D4C7",
    ink="#1E2A2F",
    muted="#57636B",
    need="#B4471F",
    accent="#2B5C6B",
    tint="#DCE9EC",
    on_accent="#FBFAF6",
    series=("#2B5C6B", "#B58A2B", "#6D4A72", "#6B7F3A", "#7C8A94", "#B4471F"),
)

DARK = Palette(
    paper="#171D20",
    panel="#1F272B",
    rule="#3A474F",
    ink="#E8E4DA",
    muted="#A3AFB6",
    need="#E8956A",
    accent="#7FB3C2",
    tint="#243A42",
    on_accent="#10181B",
    series=("#7FB3C2", "#D6AE57", "#B58FBB", "#A3B870", "#93A1AA", "#E8956A"),
)
