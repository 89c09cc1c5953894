"""Figures as text: one place decides how a number and its unit are written.

Inside the program every length is metric; imperial is a view of it (``LengthView``). A number carries its unit in its
name, so the unit of any calculator's key is known from its last part (``unit_of``).
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

FEET_PER_M = 1 / 0.3048

THIN_SPACE = "\u2009"

# Longest first, so that "_tib" is not read as something shorter.
UNIT_BY_SUFFIX: tuple[tuple[str, str], ...] = (
    ("h_per_day", "h a day"),
    ("gb_per_day", "GB a day"),
    ("per_day", "a day"),
    ("per_h", "an hour"),
    ("mbps", "Mb/s"),
    ("kbps", "kb/s"),
    ("bytes", "bytes"),
    ("tib", "TiB"),
    ("tb", "TB"),
    ("gb", "GB"),
    ("days", "days"),
    ("fps", "fps"),
    ("share", "share, 0 to 1"),
    ("px", "px"),
    ("mm", "mm"),
    ("mm2", "mm²"),
    ("km", "km"),
    ("dbm", "dBm"),
    ("dbi", "dBi"),
    ("db", "dB"),
    ("ghz", "GHz"),
    ("mhz", "MHz"),
    ("wh", "Wh"),
    ("ohm", "Ω"),
    ("w", "W"),
    ("v", "V"),
    ("c", "°C"),
    ("s", "s"),
    ("h", "h"),
    ("m", "m"),
)


def unit_of(key: str) -> str:
    """The unit that a key's suffix names (``rate_mbps`` is Mb/s); empty for a plain count or a text."""
    for suffix, unit in UNIT_BY_SUFFIX:
        if key == suffix or key.endswith("_" + suffix):
            return unit
    return ""


class NumberStyle:
    """How numbers are written: the sign before decimals, and the one between groups of three."""

    def __init__(self, decimal: str = ".", group: str = THIN_SPACE) -> None:
        self.decimal, self.group = decimal, group
        self.table = str.maketrans({".": decimal, ",": group})


PLAIN = NumberStyle()
_STYLE: ContextVar[NumberStyle] = ContextVar("numbers", default=PLAIN)


@contextmanager
def numbers_as(style: NumberStyle) -> Iterator[None]:
    """Write numbers in another style while something is put into words, in this thread alone."""
    token = _STYLE.set(style)
    try:
        yield
    finally:
        _STYLE.reset(token)


def figure(value: float, digits: int = 3) -> str:
    """A number for reading: about ``digits`` significant digits, never in powers of ten.

    Whole parts are never rounded away (1296 stays 1 296), and groups of three are set apart by a thin space.
    """
    if not math.isfinite(value):
        return "without end" if value > 0 else "none"
    if value == 0:
        return "0"
    places = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    text = f"{value:,.{min(places, 6)}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "0") else _styled(text)


def fixed(value: float, places: int) -> str:
    """A number with a fixed count of decimal places, groups set apart by a thin space: for columns of figures."""
    return _styled(f"{value:,.{places}f}")


def _styled(text: str) -> str:
    return text.translate(_STYLE.get().table)


def count(number: int, one: str, many: str | None = None) -> str:
    """``1 camera``, ``36 cameras``."""
    return f"{figure(number, 9)} {one if number == 1 else many or one + 's'}"


FEET = re.compile(
    r"(?P<feet>\d+(?:[.,]\d+)?)\s*(?:'|′|’|ft\.?|feet|foot)\s*(?:(?P<inches>\d+(?:[.,]\d+)?)\s*(?:\"|″|”|''|in\.?|inch(?:es)?)?)?"
    r"|(?P<only_inches>\d+(?:[.,]\d+)?)\s*(?:\"|″|”|in\.?|inch(?:es)?)",
    re.IGNORECASE | re.ASCII,
)
"""``30'6"``, ``30 ft 6 in``, ``30.5 feet``, ``6 in``."""


def feet_in_m(text: str) -> float | None:
    """A length in feet and inches, in metres; None for a text without their marks. The job, and all that is shown, keeps metres."""
    found = FEET.fullmatch(text.strip())
    if found is None:
        return None
    feet, inches, only = (float((found[name] or "0").replace(",", ".")) for name in ("feet", "inches", "only_inches"))
    return (feet + (inches + only) / 12) / FEET_PER_M


def days_figure(days: float) -> str:
    """Days as a promise states them: whole ones, and never more than are kept, so that 9.9 are told as 9."""
    return figure(math.floor(days * (1 + 1e-9)), 9) if math.isfinite(days) else figure(days)
