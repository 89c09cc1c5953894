"""Every threshold of the findings, and how near a load is to its limit: the rules, the diagram and the window ask here."""

from __future__ import annotations

from eager_lens.core.assess.finding import Severity
from eager_lens.core.validation import at_least, at_most

FIXED_CABLE_M, CHANNEL_M = 90.0, 100.0
"""Longest fixed run, and longest channel with its patch leads, of balanced copper Ethernet (ISO/IEC 11801)."""

NEAR_SHARE = 0.85
"""From this share of what a recorder, a link or the airtime carries on, a load is called near it."""

SPARE_SHARE = 0.2
"""Share of a PoE budget that is usually left spare."""

LOWEST_SHARE = 0.9
"""Least share of its voltage with which a device on a power supply is taken to work."""

LEAST_UPS_MINUTES = 10.0
"""A UPS that lasts less is told of."""

SLOW_MBPS = 50.0
"""Up to here a link is called slow: a key frame takes long to cross it."""

LATE_MS = 500.0
"""A key frame that takes longer to cross a link makes the picture stand still."""

NEARLY_ALWAYS_SHARE = 0.8
"""From this recorded share on, recording on motion is called continuous by another name."""

USUAL_POST_S = 15.0
"""Post-recording that is offered where there is none."""

LOW_CAP_SHARE = 0.6
"""Under this share of what the picture asks for, a cap costs visible detail."""

LEAST_CARD_YEARS = 2.0
"""A card that wears out sooner is told of: nobody climbs to a camera every year for it."""

RISKY_REBUILD_SHARE = 0.02
"""From this chance on, a rebuild that fails is told of."""


def load_severity(load: float, limit: float, near_share: float = NEAR_SHARE) -> Severity | None:
    """How bad a load is against its limit: a fault above it, a warning near it."""
    if not at_most(load, limit):
        return Severity.FAULT
    return None if at_most(load, near_share * limit) else Severity.WARNING


def power_severity(draw_w: float, budget_w: float) -> Severity | None:
    """How bad a power draw is against its budget, of which a share is usually left spare."""
    return load_severity(draw_w, budget_w, 1 - SPARE_SHARE)


def keeps(days: float | None, asked: float) -> bool:
    """Whether recordings are kept for the days that were asked; None: there is no limit."""
    return days is None or at_least(days, asked)
