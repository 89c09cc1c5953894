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
