"""How much of a day is dark, by latitude and date, and whether a moment is: from the end of civil twilight to its begin.

Source: declination after P. Cooper (Solar Energy 12, 1969), 23.45 deg x sin(360 deg x (284 + n) / 365); hour angle of a sun 6 deg
under the horizon.
"""

from __future__ import annotations

import math
import re
from datetime import UTC, datetime
from functools import cache, lru_cache
from importlib import resources

DAYS_A_YEAR = 365
TWILIGHT_DEG = -6.0
"""Height of the sun at which cameras have about gone over to night: the end of civil twilight."""

_PLACE = re.compile(r"([+-])(\d\d)(\d\d)(?:\d\d)?([+-])(\d\d\d)(\d\d)(?:\d\d)?", re.ASCII)


def _degrees(sign: str, degrees: str, minutes: str) -> float:
    size = int(degrees) + int(minutes) / 60
    return -size if sign == "-" else size


@cache
def _places() -> dict[str, tuple[float, float]]:
    """Latitude and longitude in degrees of the town that each time zone is named after, from the table that comes with the
    zones."""
    text = (resources.files("tzdata") / "zoneinfo" / "zone.tab").read_text("utf-8")
    found = {}
    for line in text.splitlines():
        cells = line.split("\t")
        place = _PLACE.fullmatch(cells[1]) if len(cells) > 2 else None
        if place:
            found[cells[2]] = _degrees(*place.groups()[:3]), _degrees(*place.groups()[3:])
    return found


def latitude_of_zone(zone: str) -> float | None:
    """Latitude in degrees of a time zone's town; None where a zone has none, as UTC."""
    place = _places().get(zone)
    return None if place is None else place[0]


def longitude_of_zone(zone: str) -> float | None:
    """Longitude in degrees, east of Greenwich positive, of a time zone's town; None where a zone has none."""
    place = _places().get(zone)
    return None if place is None else place[1]


def _declination(day_of_year: int) -> float:
    """Declination of the sun in radians."""
    return math.radians(23.45) * math.sin(math.radians(360 * (284 + day_of_year) / DAYS_A_YEAR))


def is_dark(latitude_deg: float, longitude_deg: float, moment: datetime) -> bool:
    """Whether the sun stands so low that cameras have gone over to night. The equation of time, up to 16 min, is left out."""
    utc = moment.astimezone(UTC)
    hour_angle = math.radians(15 * (utc.hour + utc.minute / 60 - 12) + longitude_deg)
    latitude, declination = math.radians(latitude_deg), _declination(utc.timetuple().tm_yday)
    height = math.sin(latitude) * math.sin(declination) + (
        math.cos(latitude) * math.cos(declination) * math.cos(hour_angle)
    )
    return height < math.sin(math.radians(TWILIGHT_DEG))


@lru_cache(maxsize=64)
def dark_shares(latitude_deg: float) -> tuple[float, ...]:
    """The dark share of each day of a year, 0 to 1."""
    latitude = math.radians(latitude_deg)
    shares = []
    for number in range(1, DAYS_A_YEAR + 1):
        declination = _declination(number)
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
