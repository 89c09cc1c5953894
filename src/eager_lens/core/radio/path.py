"""The path of a radio link over ground: how far the line of sight clears what stands in the way."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

from eager_lens.core.radio.link import EARTH_K

CLEAR_SHARE = 0.6
"""Share of the first Fresnel zone that is to be clear."""


class Clearance(NamedTuple):
    """At one obstacle, all in m: where it stands, the line of sight there, its top with the earth's bulge added, what
    is left between them (negative: it is in the way), and what is wanted: 60 % of the first zone there."""

    at_m: float
    sight_m: float
    top_m: float
    above_m: float
    wanted_m: float


def sight_m(at_m: float, length_m: float, a_height_m: float, b_height_m: float) -> float:
    """Height of the line of sight so far from end a, over the level from which both ends' heights are told."""
    return a_height_m + (b_height_m - a_height_m) * at_m / length_m


def zone_m(at_m: float, length_m: float, frequency_ghz: float) -> float:
    """Radius of the first Fresnel zone there: 17.32 sqrt(d1 d2 / (f d)), distances in km (ITU-R P.526)."""
    d1_km, d2_km = at_m / 1000, (length_m - at_m) / 1000
    return 17.32 * math.sqrt(max(0.0, d1_km * d2_km) / (frequency_ghz * length_m / 1000))


def bulge_m(at_m: float, length_m: float) -> float:
    """How far the earth rises there for an effective radius of 4/3: d1 d2 / (12.75 k), distances in km."""
    return max(0.0, at_m / 1000 * (length_m - at_m) / 1000) / (12.75 * EARTH_K)


def clearances(
    length_m: float,
    frequency_ghz: float,
    a_height_m: float,
    b_height_m: float,
    obstacles: Iterable[tuple[float, float]],
) -> tuple[Clearance, ...]:
    """The clearance at each obstacle (distance from end a, height, in m) that stands between the ends."""
    found = []
    for at_m, height_m in obstacles:
        if 0 <= at_m <= length_m:
            line = sight_m(at_m, length_m, a_height_m, b_height_m)
            top = height_m + bulge_m(at_m, length_m)
            found.append(Clearance(at_m, line, top, line - top, CLEAR_SHARE * zone_m(at_m, length_m, frequency_ghz)))
    return tuple(found)
