"""A radio link of the job: its budget, and whether its path is clear."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.job.model import Link, RadioPlan
from eager_lens.core.radio.link import (
    RADIO_LINK,
    SENSITIVITY_DBM_AT_20_MHZ,
    SENSITIVITY_RISE_DB,
    RadioLinkIn,
    RadioLinkOut,
)
from eager_lens.core.radio.path import Clearance, clearances

OLD_SECURITY = ("wep", "open")
"""What no longer keeps anybody out."""


class RadioFigures(NamedTuple):
    """The budget of a radio link, the dB by which it lies above its own step's sensitivity (None: no link), and its
    clearance at each obstacle."""

    budget: RadioLinkOut
    spare_db: float | None
    clearances: tuple[Clearance, ...]

    @property
    def blocked(self) -> bool:
        """Whether an obstacle stands in the line of sight."""
        return any(clear.above_m < 0 for clear in self.clearances)

    @property
    def tight(self) -> bool:
        """Whether an obstacle reaches into the part of the first zone that is to be clear."""
        return any(clear.above_m < clear.wanted_m for clear in self.clearances)


def radio_in(plan: RadioPlan, length_m: float) -> RadioLinkIn:
    """The plan as the calculator takes it."""
    return RadioLinkIn(
        distance_km=length_m / 1000,
        frequency_ghz=plan.frequency_ghz,
        tx_dbm=plan.tx_dbm,
        tx_gain_dbi=plan.tx_gain_dbi,
        rx_gain_dbi=plan.rx_gain_dbi,
        other_loss_db=plan.other_loss_db,
        width_mhz=plan.width_mhz,
        streams=plan.streams,
    )


def radio_figures(link: Link) -> RadioFigures | None:
    """Figures of a radio link, or None while its plan or its length is not known."""
    plan, length_m = link.radio, link.length_m
    if plan is None or not length_m:
        return None
    budget = RADIO_LINK.run(radio_in(plan, length_m))
    spare_db = None
    if budget.step is not None:
        sensitivity_dbm = SENSITIVITY_DBM_AT_20_MHZ[budget.step] + SENSITIVITY_RISE_DB[plan.width_mhz]
        spare_db = budget.rx_dbm - sensitivity_dbm
    obstacles = ((one.at_m, one.height_m) for one in plan.obstacles)
    clear = clearances(length_m, plan.frequency_ghz, plan.a_height_m, plan.b_height_m, obstacles)
    return RadioFigures(budget, spare_db, clear)
