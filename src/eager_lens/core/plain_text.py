"""Texts that come from outside: what no file format can hold is taken out, and what is shown is cut to a readable length."""

from __future__ import annotations

import re

_UNWRITABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
"""What XML 1.0 (section 2.2) leaves out of its characters: JSON may carry it, but workbooks and UTF-8 cannot."""


def unwritable(text: str) -> str | None:
    """The first character of a text that cannot stand in an exported file, as ``U+D800``; None when all can."""
    found = _UNWRITABLE.search(text)
    return f"U+{ord(found[0]):04X}" if found else None


def cleaned(text: str) -> str:
    """The text without what cannot stand in an exported file."""
    return _UNWRITABLE.sub("", text)


def clipped(text: str, most: int) -> str:
    """A text that can be shown: cut in its middle where it is longer than ``most`` characters, and cleaned."""
    if len(text) > most:
        text = f"{text[: most * 2 // 3]} … {text[len(text) - most // 3 + 3 :]}"
    return _UNWRITABLE.sub("\N{REPLACEMENT CHARACTER}", text)


def inside(words: str) -> str:
    """Words as they stand inside a sentence: PoE, MAC and DHCP keep their capitals, others lose them."""
    return " ".join(
        word[:1].lower() + word[1:] if word[1:].islower() or len(word) == 1 else word for word in words.split(" ")
    )


def sentence_case(text: str) -> str:
    """A text that begins with a capital; all else stays, unlike ``str.capitalize`` (names, MAC, UPS)."""
    return text[:1].upper() + text[1:]
