"""Every threshold of the findings, and how near a load is to its limit: the rules, the diagram and the window ask here."""

from __future__ import annotations

from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.switch_sizes import SPARE_SHARE as SPARE_SHARE
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

THIN_AWG, LEAD_M = 28, 10.0
"""Wire of this gauge and thinner is made for patch leads, which are no longer than this (ISO/IEC 11801 derates it)."""

USUAL_EIRP_DBM = ((2.4, 2.5, 20.0), (5.15, 5.35, 23.0), (5.47, 5.725, 30.0), (5.725, 5.875, 36.0), (5.925, 7.125, 23.0))
"""By band in GHz, the radiated power (EIRP) that many countries allow at most. Local rules decide."""

LOWEST_SHARE = 0.9
"""Least share of its voltage with which a device on a power supply is taken to work."""

LEAST_UPS_MINUTES = 10.0
"""A UPS that lasts less is told of."""

BURSTY_SHARE = 0.5
"""Of what a port in long-reach mode carries, the share that streams may take when much happens: the rest goes for key frames, which
come at once, and for what a poor cable has to send again (assumed)."""

SLOW_MBPS = 50.0
"""Up to here a link is called slow: a key frame takes long to cross it."""

LATE_MS = 500.0
"""A key frame that takes longer to cross a link makes the picture stand still."""

RATE_BUFFER_S = 0.5
"""An encoder of constant or capped rate lets no frame be larger than so many seconds of that rate (assumed; makers differ)."""

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

STEEP_DEG = 30.0
"""From more than so steeply above, a face shows its forehead only (practice; some ask for half of it)."""

UNDER_DEG = 70.0
"""From more than so steeply above, a camera is under its own mast: of people heads are seen (assumed)."""

LEAST_SUBSTREAM_MBPS = 0.02
"""No substream of moving pictures is sent in less."""

CLOCK_POLL_S = 3600.0
"""A device that follows a time server is taken to ask it once an hour (assumed; makers: a minute to a day)."""

SEES_SHARE = 0.02
"""A motion rule that looks at less of the picture sees nobody."""

UNLIKELY_LOW, UNLIKELY_HIGH = 0.05, 20.0
"""A bit rate under this share of what the picture asks for, or over so many times that, is likely a slip: no encoder gets there, or
kb/s were typed as Mb/s. The model's own range goes down to a tenth in the dark."""

LEAST_SLIP_MBPS = 20.0
"""Under this a high rate is no slip of the unit."""

SLIP_MINUTES = 60
"""A gap between two stretches of one mode that is no longer is likely a slip of the brush."""

NEARLY_ALWAYS_SHARE = 0.8
"""From this recorded share on, recording on motion is called continuous by another name."""

USUAL_POST_S = 15.0
"""Post-recording that is offered where there is none."""

LOW_CAP_STEPS = 3.0
"""A cap that makes a picture so many steps of the quantiser coarser on the mean of day or night costs as much as the next lower
quality of a camera's menu."""

LEAST_CARD_YEARS = 2.0
"""A card that wears out sooner is told of: nobody climbs to a camera every year for it."""

RISKY_REBUILD_SHARE = 0.02
"""From this chance on, a rebuild that fails is told of."""

PROPOSED_REBUILD_SHARE = 0.1
"""No array is proposed of whose rebuilds a larger share may meet an unreadable sector with nothing left to make it up from."""

CLOCK_WITHIN_S = 5.0
"""So near a clock has to be to count as right."""

LEAST_CAUGHT_SHARE = 0.9
"""A walk test passes when so many of its walks are caught (assumed; some ask for every one)."""

MORE_POWER_SHARE = 0.1
"""By so much a device may draw more than planned: meters and switches read so far apart (assumed)."""

RSSI_WITHIN_DB = 5.0
"""By so much a received signal may stay under its plan: what aiming and weather take (assumed)."""

CLOCK_ALONE_DAYS, CLOCK_OFF_S = 30, 60.0
"""A clock that no server sets must not be so far off before somebody sets it at a monthly look (assumed)."""


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
