"""A point-to-point link: path loss, first Fresnel zone, modulation step, usable rate."""

import math
from typing import Annotated, NamedTuple

from pydantic import Field

from eager_lens.core.calculator import Calculator
from eager_lens.core.validation import AnySign, Number, Plain, Positive, Share, Whole, at_least, one_of

SENSITIVITY_DBM_AT_20_MHZ = (-82, -79, -77, -74, -70, -66, -65, -64, -59, -57)
"""Least signal by modulation step 0 to 9, at a channel of 20 MHz."""

SENSITIVITY_RISE_DB: dict[int, int] = {20: 0, 40: 3, 80: 6}

RATE_MBPS_PER_STREAM: dict[int, tuple[float, ...]] = {
    20: (6.5, 13, 19.5, 26, 39, 52, 58.5, 65, 78),
    40: (13.5, 27, 40.5, 54, 81, 108, 121.5, 135, 162, 180),
    80: (29.25, 58.5, 87.75, 117, 175.5, 234, 263.25, 292.5, 351, 390),
}
"""Air rate of one stream by step, guard interval 800 ns. At 20 MHz there is no step 9."""

EARTH_K = 4 / 3


class RadioLinkIn(Plain):
    """The two ends, the path and the channel."""

    distance_km: Positive
    frequency_ghz: Positive
    tx_dbm: AnySign
    tx_gain_dbi: AnySign
    rx_gain_dbi: AnySign
    other_loss_db: Number = 0
    width_mhz: Annotated[Whole, one_of(20, 40, 80)]
    streams: Annotated[Whole, Field(ge=1, le=4)]
    margin_db: Number = 10
    efficiency_share: Share = 0.55


class RadioLinkOut(Plain):
    """The budget. ``step`` is null, and the rates 0, where even the lowest step is out of reach."""

    path_loss_db: float
    rx_dbm: float
    fresnel_m: float
    clear_m: float
    bulge_m: float
    step: int | None
    phy_mbps: float
    usable_mbps: float


def path_loss_db(distance_km: float, frequency_ghz: float) -> float:
    """Free-space loss in dB: 92.45 + 20 log10(f in GHz) + 20 log10(d in km) (ITU-R P.525)."""
    return 92.45 + 20 * math.log10(frequency_ghz) + 20 * math.log10(distance_km)


def fresnel_radius_m(distance_km: float, frequency_ghz: float) -> float:
    """Radius in m of the first Fresnel zone half-way along the path: 17.32 sqrt(d / (4 f))."""
    return 17.32 * math.sqrt(distance_km / (4 * frequency_ghz))


def earth_bulge_m(distance_km: float) -> float:
    """How far the earth rises into the path half-way, in m, for an effective radius of 4/3."""
    return distance_km**2 / (4 * 12.75 * EARTH_K)


class Budget(NamedTuple):
    """The modulation step (None: no link) and the air rate in Mb/s."""

    step: int | None
    phy_mbps: float


def budget(rx_dbm: float, margin_db: float, width_mhz: int, streams: int) -> Budget:
    """The highest step whose sensitivity the signal reaches with the margin kept, and what it carries."""
    rates = RATE_MBPS_PER_STREAM[width_mhz]
    for step in reversed(range(len(rates))):
        if at_least(rx_dbm - margin_db, SENSITIVITY_DBM_AT_20_MHZ[step] + SENSITIVITY_RISE_DB[width_mhz]):
            return Budget(step, rates[step] * streams)
    return Budget(None, 0.0)


def _run(given: RadioLinkIn) -> RadioLinkOut:
    loss_db = path_loss_db(given.distance_km, given.frequency_ghz)
    rx_dbm = given.tx_dbm + given.tx_gain_dbi + given.rx_gain_dbi - loss_db - given.other_loss_db
    radius_m = fresnel_radius_m(given.distance_km, given.frequency_ghz)
    got = budget(rx_dbm, given.margin_db, given.width_mhz, given.streams)
    return RadioLinkOut(
        path_loss_db=loss_db,
        rx_dbm=rx_dbm,
        fresnel_m=radius_m,
        clear_m=0.6 * radius_m,
        bulge_m=earth_bulge_m(given.distance_km),
        step=got.step,
        phy_mbps=got.phy_mbps,
        usable_mbps=got.phy_mbps * given.efficiency_share,
    )


RADIO_LINK = Calculator(
    name="radio-link",
    title="A wireless bridge",
    formula="path loss = 92.45 + 20 log10(f) + 20 log10(d); rx = tx + gains - losses; the highest step whose sensitivity "
    "is at most rx - margin; usable = rate x streams x efficiency; fresnel = 17.32 sqrt(d / (4 f)), 60 % of it clear",
    source="free space; sensitivities and rates of IEEE 802.11ac, guard 800 ns",
    input_model=RadioLinkIn,
    output_model=RadioLinkOut,
    run=_run,
)
