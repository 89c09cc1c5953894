"""Every threshold of the findings, and how near a load is to its limit: the rules, the diagram and the window ask here."""

from __future__ import annotations

from eager_lens.core.assess.finding import Severity
from eager_lens.core.planning.switch_sizes import SPARE_SHARE as SPARE_SHARE
from eager_lens.core.validation import at_least, at_most

FIXED_CABLE_M, CHANNEL_M = 90.0, 100.0
"""Longest fixed run, and longest channel with its patch leads, of balanced copper Ethernet (ISO/IEC 11801)."""

HEAVY_AWG, HEAVY_CABLE_M = 23, 96.0
"""A fixed run of this gauge and heavier may be so long where its patch leads are no longer than 4 m together: ISO/IEC 11801 takes
1.5 m of fixed cable for each metre of lead from 102."""


def fixed_m(awg: int) -> float:
    """The longest fixed run of a gauge."""
    return HEAVY_CABLE_M if awg <= HEAVY_AWG else FIXED_CABLE_M


NEAR_SHARE = 0.85
"""From this share of what a recorder, a link or the airtime carries on, a load is called near it."""

USUAL_EIRP_DBM = ((2.4, 2.5, 20.0), (5.15, 5.35, 23.0), (5.47, 5.725, 30.0), (5.725, 5.875, 36.0), (5.925, 7.125, 23.0))
"""By band in GHz, the radiated power (EIRP) that many countries allow at most. Local rules decide."""

LOWEST_SHARE = 0.9
"""Least share of its voltage with which a device on a power supply is taken to work."""

BURSTY_SHARE = 0.5
"""Of what a port in long-reach mode carries, the share that streams may take when much happens: the rest goes for key frames, which
come at once, and for what a poor cable has to send again (assumed)."""

SLOW_MBPS = 50.0
"""Up to here a link is called slow: a key frame takes long to cross it."""

PURPOSE_FPS = {
    "inspect": 8.0,
    "identify": 8.0,
    "recognise": 6.0,
    "observe": 5.0,
    "detect": 4.0,
    "monitor": 2.0,
    "": 1.0,
}
"""Fewer frames a second are few for a purpose: somebody who passes is seen well on one of a few frames (assumed)."""

TOLD_APART = ("inspect", "identify", "recognise")
"""Purposes for which people must be told apart: low quality takes their faces away first."""

SEES_SHARE = 0.02
"""A motion rule that looks at less of the picture sees nobody."""

PROPOSED_REBUILD_SHARE = 0.1
"""No array is proposed of whose rebuilds a larger share may meet an unreadable sector with nothing left to make it up from."""

CLOCK_WITHIN_S = 5.0
"""So near a clock has to be to count as right."""

LEAST_CAUGHT_SHARE = 0.9
"""Share of walks that must be caught to pass a walk test (assumed; some require all)."""

MORE_POWER_SHARE = 0.1
"""By so much a device may draw more than planned: meters and switches read so far apart (assumed)."""

RSSI_WITHIN_DB = 5.0
"""By so much a received signal may stay under its plan: what aiming and weather take (assumed)."""


def load_severity(load: float, limit: float, near_share: float = NEAR_SHARE) -> Severity | None:
    """How bad a load is against its limit: a fault above it, a warning near it."""
    if not at_most(load, limit):
        return Severity.FAULT
    return None if at_most(load, near_share * limit) else Severity.WARNING


def power_severity(draw_w: float, budget_w: float) -> Severity | None:
    """How bad a power draw is against its budget, of which a share is usually left spare."""
    return load_severity(draw_w, budget_w, 1 - SPARE_SHARE)


def keeps(days: float | None, asked: float) -> bool:
    """Whether recordings are kept for the days that were asked; None: nothing is recorded, so that none are short."""
    return days is None or at_least(days, asked)
