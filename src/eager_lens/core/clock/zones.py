"""Named time zones, which know summer time, and what a clock shows in them."""

import re
from datetime import UTC, datetime
from functools import cache, lru_cache
from importlib import resources
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError, available_timezones

from dateutil import tz


@cache
def zone_names() -> tuple[str, ...]:
    """All named zones that are known, in order; found once, for it means a walk through files."""
    return tuple(sorted(available_timezones()))


@lru_cache(maxsize=64)
def zone_named(name: str) -> ZoneInfo:
    """The zone of a name such as ``Europe/London``.

    Raises:
        ValueError: when there is no such zone. A fixed offset is no zone: it would miss summer time.
    """
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        near = [known for known in zone_names() if name.strip().lower() in known.lower()][:3]
        hint = f"; did you mean {' or '.join(near)}" if name.strip() and near else ""
        raise ValueError(
            f"{name!r} is not a time zone; use a name such as Europe/London, which includes daylight saving{hint}"
        ) from None


def zone_offset_s(zone: str, utc: datetime) -> float:
    """What a zone adds to world time at a moment (aware, UTC), in seconds; summer time is in it."""
    offset = utc.astimezone(zone_named(zone)).utcoffset()
    return 0.0 if offset is None else offset.total_seconds()


def is_summer(local: datetime) -> bool:
    """Whether it is summer time at a moment with a zone."""
    return bool(local.dst())


@lru_cache(maxsize=64)
def posix_zone(name: str) -> str:
    """A zone as POSIX writes it (``CET-1CEST,M3.5.0,M10.5.0/3``), by the last line of its file (RFC 8536, 3.3); a fixed offset in
    minutes, as ``+60``, is one as well.

    Raises:
        ValueError: when there is no such zone.
    """
    if name[:1] in ("+", "-"):
        minutes = int(name)
        hours, rest = divmod(abs(minutes), 60)
        east = "-" if minutes >= 0 else ""  # POSIX counts to the west
        ahead = "+" if minutes >= 0 else "-"
        return f"<{ahead}{hours:02d}{rest:02d}>{east}{hours}:{rest:02d}"
    zone_named(name)
    data = resources.files("tzdata").joinpath("zoneinfo", *name.split("/")).read_bytes()
    return data.rstrip(b"\n").rpartition(b"\n")[2].decode("ascii")


_FIXED = re.compile(r"(?:<[^>]{1,20}>|[A-Za-z]{3,10})([+-]?)(\d{1,2})(?::(\d\d))?")
"""A POSIX zone without summer time, such as ``<+01>-1`` or ``CET-1``."""


_BEGINS = re.compile(r"(?:<[^>]{1,20}>|[A-Za-z]{3,10})[+-]?\d")


def posix_offset_s(zone: str, utc: datetime) -> float | None:
    """What a POSIX zone adds to world time at a moment (UTC), in seconds; None where it is none, as devices may tell."""
    if (fixed := _FIXED.fullmatch(zone.strip())) is not None:
        sign, hours, minutes = fixed.groups()
        west_s = int(hours) * 3600.0 + int(minutes or 0) * 60.0
        return west_s if sign == "-" else -west_s
    if "," not in zone or _BEGINS.match(zone) is None:
        return None  # summer time without rules: which days it has cannot be told
    try:
        # By its rules; POSIX counts to the west, which the package's own reading of some zones does not.
        own = tz.tzstr(zone, posix_offset=True)
        offset = utc.replace(tzinfo=UTC).astimezone(own).utcoffset()
    except (ValueError, OverflowError, TypeError, AttributeError):
        return None
    return None if offset is None else float(offset.total_seconds())
