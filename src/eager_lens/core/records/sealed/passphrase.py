"""The passphrase of a sealed file: one form for each, however it was typed, and how hard it is to guess."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from functools import cache
from importlib import resources

LEAST_GUESSES_LOG10 = 12.0
"""So many guesses, as a power of ten, a passphrase must be worth. The key costs some tenths of a second a guess, so a
thousand processors would need years for it."""

MOST_CHARACTERS = 1000
ESTIMATED_CHARACTERS = 72
"""What is behind this many characters is not looked at: the estimate takes long for long texts."""


def normalised(passphrase: str) -> str:
    """The passphrase as it goes into the key: the same letters give the same bytes on every keyboard.

    OpaqueString of RFC 8265, section 4.2.1: other spaces become plain ones, and letters are composed (NFC).
    """
    spaced = "".join(" " if unicodedata.category(letter) == "Zs" else letter for letter in passphrase)
    return unicodedata.normalize("NFC", spaced)


@cache
def _known_phrases() -> tuple[str, ...]:
    """Sayings and lines that everybody knows, in the forms in which they are typed: a list of such is tried first."""
    text = resources.files("eager_lens.core.reference").joinpath("known_phrases.txt").read_text("utf-8")
    phrases = text.splitlines()
    return tuple(
        phrase.replace(" ", between)[:ESTIMATED_CHARACTERS] for phrase in phrases for between in " -_."
    ) + tuple(phrase.replace(" ", "")[:ESTIMATED_CHARACTERS] for phrase in phrases)


def weakness(passphrase: str, known: Iterable[str] = (), least_log10: float = LEAST_GUESSES_LOG10) -> str:
    """What makes a passphrase easy to guess, with what to do about it; empty when it is hard enough.

    Args:
        passphrase: as typed. known: texts that anybody who wants the file knows, such as the job's name.
        least_log10: required number of guesses, as a power of ten.
    """
    from zxcvbn import zxcvbn  # its word lists take a moment to load

    if not passphrase:
        return "it is empty"
    if len(passphrase) > MOST_CHARACTERS:
        return f"it has more than {MOST_CHARACTERS} characters; use a shorter one"
    words = [word for text in known for word in re.findall(r"\w{3,}", text[:200])][:50]
    estimate = zxcvbn(
        normalised(passphrase)[:ESTIMATED_CHARACTERS], user_inputs=[*words, "eager", "lens", *_known_phrases()]
    )
    guesses = float(estimate["guesses_log10"])
    if guesses >= least_log10:
        return ""
    feedback = estimate["feedback"]
    why = str(feedback["warning"]).rstrip(".") or "it is short or made of common words"
    find = f"about {10 ** max(0, round(guesses)):,} guesses find it ({why})"
    return f"{find}; four or five unrelated words are good"
