"""How much of a day is dark, by latitude and date: from the end of civil twilight to its begin.

Source: declination after P. Cooper (Solar Energy 12, 1969), 23.45 deg x sin(360 deg x (284 + n) / 365); hour angle of a sun 6 deg
under the horizon.
"""

from __future__ import annotations

import math
import re
from functools import cache, lru_cache
from importlib import resources

DAYS_A_YEAR = 365
TWILIGHT_DEG = -6.0
"""Height of the sun at which cameras have about gone over to night: the end of civil twilight."""

_PLACE = re.compile(r"(?P<sign>[+-])(?P<degrees>\d\d)(?P<minutes>\d\d)(?:\d\d)?[+-]\d+", re.ASCII)


@cache
def _places() -> dict[str, float]:
    """Latitude in degrees of the town that each time zone is named after, from the table that comes with the zones."""
    text = (resources.files("tzdata") / "zoneinfo" / "zone.tab").read_text("utf-8")
    found = {}
    for line in text.splitlines():
        cells = line.split("\t")
        place = _PLACE.fullmatch(cells[1]) if len(cells) > 2 else None
        if place:
            degrees = int(place["degrees"]) + int(place["minutes"]) / 60
            found[cells[2]] = -degrees if place["sign"] == "-" else degrees
    return found


def latitude_of_zone(zone: str) -> float | None:
    """Latitude in degrees of a time zone's town; None where a zone has none, as UTC."""
    return _places().get(zone)


@lru_cache(maxsize=64)
def dark_shares(latitude_deg: float) -> tuple[float, ...]:
    """The dark share of each day of a year, 0 to 1."""
    latitude = math.radians(latitude_deg)
    shares = []
    for number in range(1, DAYS_A_YEAR + 1):
        declination = math.radians(23.45) * math.sin(math.radians(360 * (284 + number) / DAYS_A_YEAR))
        below = math.cos(latitude) * math.cos(declination)
        height = math.sin(math.radians(TWILIGHT_DEG)) - math.sin(latitude) * math.sin(declination)
        cosine = height / below if abs(below) > 1e-12 else math.copysign(2.0, height)
        shares.append(1 - math.acos(min(1.0, max(-1.0, cosine))) / math.pi)
    return tuple(shares)


@lru_cache(maxsize=64)
def dark_swing(latitude_deg: float) -> tuple[float, ...]:
    """By how much each day's dark share lies above the year's mean."""
    shares = dark_shares(latitude_deg)
    mean = sum(shares) / DAYS_A_YEAR
    return tuple(share - mean for share in shares)
