"""How long a battery carries a load."""

from eager_lens.core.calculator import Calculator
from eager_lens.core.validation import Number, Plain, Positive, Share


class UpsTimeIn(Plain):
    """A load and the battery behind it."""

    load_w: Positive
    battery_wh: Number
    inverter_share: Share = 0.85
    depth_share: Share = 0.8


class UpsTimeOut(Plain):
    """How long it lasts."""

    minutes: float


def ups_minutes(load_w: float, battery_wh: float, inverter_share: float, depth_share: float) -> float:
    """Minutes that a battery carries a load: what of it may be used, less what the inverter loses."""
    return 60 * battery_wh * inverter_share * depth_share / load_w


PEUKERT, RATED_H = 1.15, 20.0
"""A lead-acid battery gives what stands on it over 20 hours; the faster it is emptied the less, by this power (Peukert's law;
1.1 to 1.25 for sealed lead-acid, assumed; the maker's table comes first)."""


def lead_acid_minutes(load_w: float, battery_wh: float, inverter_share: float, depth_share: float) -> float:
    """Minutes that a lead-acid battery carries a load, its rate effect counted: t = H (E / (P H))^k, of which a share may be used.

    Source: W. Peukert, Elektrotechnische Zeitschrift 20 (1897), for powers instead of currents.
    """
    hours: float = RATED_H * (battery_wh * inverter_share / (load_w * RATED_H)) ** PEUKERT
    ideal_h = battery_wh * inverter_share / load_w
    return 60 * depth_share * min(hours, ideal_h)


UPS_TIME = Calculator(
    name="ups-time",
    title="How long a battery carries a load",
    formula="minutes = 60 x battery_wh x inverter_share x depth_share / load_w",
    source="energy / power; a battery loses capacity with age and cold",
    input_model=UpsTimeIn,
    output_model=UpsTimeOut,
    run=lambda given: UpsTimeOut(
        minutes=ups_minutes(given.load_w, given.battery_wh, given.inverter_share, given.depth_share)
    ),
)
