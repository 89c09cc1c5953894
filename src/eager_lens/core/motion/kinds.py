"""What an area is taken for, by its size on the ground: a plain stand-in for cameras that tell kinds apart."""

from __future__ import annotations

from eager_lens.core.values.kinds import Kind

TALL_M: dict[Kind, tuple[float, float]] = {
    "animal": (0.1, 0.8),
    "person": (0.9, 2.4),
    "cyclist": (1.1, 2.4),
    "vehicle": (0.9, 2.6),
    "tram": (2.4, 4.5),
}
WIDE_M: dict[Kind, tuple[float, float]] = {
    "animal": (0.1, 1.4),
    "person": (0.2, 1.15),
    "cyclist": (1.15, 2.3),
    "vehicle": (2.3, 8.0),
    "tram": (3.0, 40.0),
}
"""From and to, in metres; wider than the figures that are drawn, since an area takes in its blur and its shadow (assumed)."""


def kind_of(tall_m: float, wide_m: float) -> Kind | None:
    """The first kind whose heights and widths an area has; None where it has those of none."""
    for kind, (least, most) in TALL_M.items():
        narrow, broad = WIDE_M[kind]
        if least <= tall_m < most and narrow <= wide_m < broad:
            return kind
    return None
