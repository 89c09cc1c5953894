"""Pixels on a target, measured on a picture: something of known size is marked, and its pixels are counted."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.validation import at_least

LEAST_PX = 8.0
"""A shorter mark is off by more than an eighth when its ends are a pixel off."""


class KnownSize(NamedTuple):
    """Something whose size is known: its name, and its size in metres along the mark."""

    name: str
    size_m: float


KNOWN_SIZES: tuple[KnownSize, ...] = (
    KnownSize("person, head to foot", 1.70),
    KnownSize("head, chin to crown", 0.23),
    KnownSize("number plate, its width", 0.52),
    KnownSize("door leaf, its width", 0.86),
    KnownSize("folding rule, open", 2.00),
)
"""Usual sizes; people and plates differ, a folding rule does not. Any other size may be typed."""


class MarkedDensity(NamedTuple):
    """What a mark gives: pixels per metre of the full stream, and by how much that may be off when each end is a pixel off."""

    px_per_m: float
    off_px_per_m: float


def marked_density(mark_px: float, picture_width_px: float, stream_width_px: float, size_m: float) -> MarkedDensity:
    """Pixel density at the target.

    The picture may be smaller than the stream (a reduced still): the mark is scaled by the two widths.

    Args:
        mark_px: length of the mark in pixels of the picture. picture_width_px, stream_width_px: widths of both.
        size_m: size of what is marked, along the mark.

    Raises:
        RefusedInput: when the mark is too short to count, or a size is not above 0.
    """
    if not (picture_width_px > 0 and stream_width_px > 0 and size_m > 0):
        raise RefusedInput("size", "the size of the marked object must be above 0 m")
    if not at_least(mark_px, LEAST_PX):
        raise RefusedInput(
            "mark",
            f"the mark is {mark_px:.1f} px long; at least {LEAST_PX:g} px are needed. Zoom in, or mark more of the "
            "object",
        )
    scale = stream_width_px / picture_width_px
    return MarkedDensity(mark_px * scale / size_m, 2**0.5 * scale / size_m)
