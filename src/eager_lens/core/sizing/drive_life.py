"""What recording does to drives, and what a failed one leaves: written volume, rebuild, the chance of a second failure."""

from __future__ import annotations

import math
from typing import NamedTuple

from eager_lens.core.sizing.drives import RaidLevel

DAYS_A_YEAR, HOURS_A_YEAR = 365.0, 8760.0
UNREADABLE_PER_BIT = 1e-15
"""Unrecoverable read errors a bit that makers guarantee for drives made for recorders (at most)."""


class DriveLife(NamedTuple):
    """Figures of an array in use.

    Attributes:
        written_tb_per_year: on each drive, with what redundancy writes besides.
        rebuild_h: to write a whole new drive at the rebuild's speed; None where nothing can be rebuilt.
        second_failure_share: the chance (0 to 1) that so many more drives fail before that is done that all is lost; None
            likewise.
        unreadable_share: the chance that a sector of those that are read cannot be read, at the bound that makers guarantee,
            where nothing is left to make it up from: it costs the moment it holds, or the whole rebuild where the recorder
            gives up at it. None likewise.
        days_share_after: of the days kept, what is left when a drive has failed.
    """

    written_tb_per_year: float
    rebuild_h: float | None
    second_failure_share: float | None
    unreadable_share: float | None
    days_share_after: float


def drive_life(
    members: int,
    drive_tb: float,
    level: RaidLevel,
    gb_per_day: float,
    rebuild_mb_per_s: float,
    failures_per_year: float,
) -> DriveLife:
    """Figures of an array of so many drives (spares left out), of the size given.

    Redundancy writes besides: a mirror everything on each drive, RAID 5 and 6 one or two parities for each stripe.
    Failures come at a constant rate, each drive by itself; a bad batch or heat makes them come together, so the chance
    is the least. Reading all other drives for a rebuild may also meet a sector that cannot be read
    (``UNREADABLE_PER_BIT``), which an array without redundancy left has no answer to: told apart, for it costs far less.
    """
    share_of_a_drive = {
        "span": 1 / members,
        "mirror": 1.0,
        "raid5": 1 / max(1, members - 1),
        "raid6": 1 / max(1, members - 2),
        "raid10": 2 / members,
    }[level]
    written_tb = gb_per_day * DAYS_A_YEAR / 1000 * share_of_a_drive
    if level == "span":
        return DriveLife(written_tb, None, None, None, (members - 1) / members)
    hours = drive_tb * 1e12 / (rebuild_mb_per_s * 1e6) / 3600
    each = -math.expm1(-failures_per_year * hours / HOURS_A_YEAR)
    others = members - 1
    if level == "raid6":
        # Two more must fail: all ways but none and one.
        lost = 1 - (1 - each) ** others - others * each * (1 - each) ** (others - 1)
        unreadable = 0.0
    else:
        at_risk = {"mirror": others, "raid5": others, "raid10": 1}[level]
        all_must = level == "mirror"
        lost = each**at_risk if all_must else 1 - (1 - each) ** at_risk
        read_bits = 8e12 * drive_tb * (1 if level != "raid5" else others)
        unreadable = -math.expm1(-UNREADABLE_PER_BIT * read_bits) if not (all_must and others > 1) else 0.0
    return DriveLife(written_tb, hours, max(0.0, lost), unreadable, 1.0)


def card_years(card_written_tb: float, gb_per_day: float) -> float | None:
    """Life of a memory card in years, from its rating in TB; None while nothing is written."""
    return card_written_tb * 1000 / (gb_per_day * DAYS_A_YEAR) if gb_per_day > 0 else None
