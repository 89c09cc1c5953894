"""Fonts for what the program's own does not hold: a character is printed in a font of this computer that has it, or told to be
missing.

Which fonts have a character is asked of the system (fontconfig); only outlines that the layout package can embed count (TrueType).
Scripts that run from the right are put into the order in which they are seen, their letters joined (Unicode bidirectional
algorithm; Arabic presentation forms).
"""

from __future__ import annotations

import contextlib
import itertools
import shutil
import subprocess
from collections.abc import Iterator
from functools import cache, lru_cache
from typing import Any, Literal
from xml.sax.saxutils import escape

from arabic_reshaper import reshape
from bidi import get_display
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFError, TTFont
from reportlab.pdfgen.canvas import Canvas

from eager_lens.assets import asset

PLAIN, STRONG = "Inter", "Inter-Strong"
MISSING = "□"
"""Stands for a character that no font here has."""

RIGHT_TO_LEFT = (("\u0590", "\u08ff"), ("\ufb1d", "\ufdff"), ("\ufe70", "\ufeff"))
UNSEEN = frozenset("\n\r\t\u200b\u200c\u200d\u200e\u200f\u2060\ufe0e\ufe0f\ufeff")
"""Characters that are never drawn by themselves; to print them as missing would be wrong."""

MOST_FONTS_TRIED = 12
ASKED_WITHIN_S = 5.0

Align = Literal["left", "right"]


@cache
def register_fonts() -> None:
    """Have the layout package know the program's fonts."""
    for name, file in ((PLAIN, "Inter-Regular.ttf"), (STRONG, "Inter-SemiBold.ttf")):
        pdfmetrics.registerFont(TTFont(name, str(asset("fonts", file))))


@lru_cache(maxsize=20_000)
def font_of(character: str) -> str | None:
    """The name of the font that a character is printed in: the program's own, one of this computer, or None."""
    register_fonts()
    if _has(PLAIN, character):
        return PLAIN
    return next((name for name in _FALLBACKS if _has(name, character)), None) or _from_system(character)


def is_printable(text: str) -> bool:
    """Whether every character of a text has a font here."""
    return all(one in UNSEEN or font_of(one) is not None for one in _as_seen(text))


_FALLBACKS: list[str] = []


def _has(font: str, character: str) -> bool:
    return ord(character) in pdfmetrics.getFont(font).face.charToGlyph


def _from_system(character: str) -> str | None:
    """A font of this computer that has a character, made known to the layout package."""
    for file, index in itertools.islice(_files_with(character), MOST_FONTS_TRIED):
        name = f"fallback-{len(_FALLBACKS)}"
        with contextlib.suppress(TTFError, OSError, ValueError, KeyError):
            pdfmetrics.registerFont(TTFont(name, file, subfontIndex=index))
            if _has(name, character):
                _FALLBACKS.append(name)
                return name
    return None


def _files_with(character: str) -> Iterator[tuple[str, int]]:
    command = shutil.which("fc-list")
    if command is None:
        return
    asked = [command, f":charset={ord(character):x}:fontformat=TrueType", "-f", "%{file}|%{index}|%{style}\n"]
    try:
        answer = subprocess.run(asked, capture_output=True, text=True, timeout=ASKED_WITHIN_S, check=False).stdout
    except (OSError, subprocess.SubprocessError):
        return
    lines = sorted(answer.splitlines(), key=lambda line: (not line.endswith(("Regular", "Book")), line))
    for line in lines:
        file, _, rest = line.partition("|")
        index = rest.partition("|")[0]
        if file and index.isdigit() and int(index) < 2**16:  # beyond are instances of variable fonts
            yield file, int(index)


def _as_seen(text: str) -> str:
    """A text in the order in which it is seen."""
    if not any(low <= one <= high for one in text for low, high in RIGHT_TO_LEFT):
        return text
    return str(get_display(reshape(text)))


def runs(text: str, font: str) -> list[tuple[str, str]]:
    """A text as pieces of one font each, in the order in which they are seen; what has no font is marked as missing."""
    pieces: list[tuple[str, str]] = []
    for one in _as_seen(text):
        found = PLAIN if one in "\n\r\t" else font_of(one)
        if found is None and one in UNSEEN:
            continue
        name = font if found in (PLAIN, None) else str(found)
        shown = one if found is not None else MISSING
        if pieces and pieces[-1][0] == name:
            pieces[-1] = (name, pieces[-1][1] + shown)
        else:
            pieces.append((name, shown))
    return pieces


def markup(text: str, font: str = PLAIN) -> str:
    """A text for a paragraph of the layout package: escaped, with its fonts."""
    if text.isascii():
        return escape(text)
    return "".join(
        escape(piece) if name == font else f'<font name="{name}">{escape(piece)}</font>'
        for name, piece in runs(text, font)
    )


def width_of(text: str, font: str, size: float) -> float:
    """How wide a text is, in points."""
    return sum(float(pdfmetrics.stringWidth(piece, name, size)) for name, piece in runs(text, font))


def put(canvas: Canvas | Any, x: float, y: float, text: str, font: str, size: float, align: Align = "left") -> None:
    """Draw a text on a canvas, in whatever fonts it takes."""
    if align == "right":
        x -= width_of(text, font, size)
    for name, piece in runs(text, font):
        canvas.setFont(name, size)
        canvas.drawString(x, y, piece)
        x += float(pdfmetrics.stringWidth(piece, name, size))
