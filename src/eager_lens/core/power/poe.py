"""Power over Ethernet: what arrives at the end of a run, by class, cable and temperature."""

from typing import Annotated, Literal, NamedTuple

from pydantic import Field

from eager_lens.core.calculator import Calculator
from eager_lens.core.power.load import Settled, settled
from eager_lens.core.validation import NOT_NULL, Number, Plain, Positive, Whole, at_least, at_most, one_of

CableMaterial = Literal["copper", "cca"]

OHM_PER_M_AT_20_C: dict[int, float] = {23: 0.0668, 24: 0.0842, 26: 0.1339, 28: 0.2129}
"""Resistance of one conductor of solid copper by gauge."""

CCA_FACTOR = 1.6
"""CCA against copper of the same gauge."""

COPPER_PER_C = 0.00393
"""Change of resistance a kelvin, from 20 C."""


INDOOR_C, OUTDOOR_C = 25.0, 50.0
"""Cable temperatures assumed: indoors, and outdoors in the sun."""


def cable_temperature_c(outdoor: bool) -> float:
    """The temperature assumed for a cable."""
    return OUTDOOR_C if outdoor else INDOOR_C


def warm_factor(temperature_c: float) -> float:
    """Resistance of copper over that at 20 C."""
    return 1 + COPPER_PER_C * (temperature_c - 20)


class PoeClass(NamedTuple):
    """A class of IEEE 802.3: watts at the device, watts that the supplying side allocates, least volts at both ends."""

    device_w: float
    allocated_w: float
    supply_least_v: float
    device_least_v: float
    pairs: int


POE_CLASSES: tuple[PoeClass, ...] = (
    PoeClass(12.95, 15.4, 44, 37, 2),
    PoeClass(3.84, 4, 44, 37, 2),
    PoeClass(6.49, 7, 44, 37, 2),
    PoeClass(12.95, 15.4, 44, 37, 2),
    PoeClass(25.5, 30, 50, 42.5, 2),
    PoeClass(40, 45, 50, 44.3, 4),
    PoeClass(51, 60, 50, 42.5, 4),
    PoeClass(62, 75, 52, 42.9, 4),
    PoeClass(71.3, 90, 52, 41.1, 4),
)
"""By class, 0 to 8."""


class PoeRunIn(Plain):
    """A powered run: the device's class and draw, the cable, the supply."""

    poe_class: Annotated[Whole, Field(alias="class", le=8)]
    power_w: Number
    length_m: Number
    awg: Annotated[Whole, one_of(*OHM_PER_M_AT_20_C)] = 24
    material: CableMaterial = "copper"
    temperature_c: Annotated[float, Field(strict=True, ge=-60, le=120, allow_inf_nan=False)] = 20
    supply_v: Annotated[Positive | None, NOT_NULL] = None


class PoeRunOut(Plain):
    """What arrives. The four in the middle are null where the run cannot carry the load at all."""

    loop_ohm: float
    current_a: float | None
    device_v: float | None
    supply_w: float | None
    loss_w: float | None
    feasible: bool
    within_class: bool
    voltage_ok: bool


def loop_ohm(length_m: float, awg: int, material: CableMaterial, temperature_c: float, pairs: int) -> float:
    """Resistance of the loop in ohm, out and back.

    Two pairs: each leg is two conductors side by side, so out and back together is one conductor's resistance over the
    length. Four pairs: half of that.
    """
    per_m = OHM_PER_M_AT_20_C[awg] * (CCA_FACTOR if material == "cca" else 1)
    per_m *= warm_factor(temperature_c)
    return per_m * length_m * (2 / pairs)


class PoeRun(NamedTuple):
    """A run: its loop in ohm, where it settles (None: it cannot carry the load), and whether class and volts hold."""

    loop_ohm: float
    settled: Settled | None
    within_class: bool
    voltage_ok: bool


def poe_run(
    poe_class: int,
    power_w: float,
    length_m: float,
    awg: int,
    material: CableMaterial,
    temperature_c: float,
    supply_v: float | None = None,
) -> PoeRun:
    """What arrives at the end of a powered run; ``supply_v`` None takes the class's least.

    Source: IEEE 802.3, classes 0 to 8; resistance of solid copper by gauge.
    """
    limits = POE_CLASSES[poe_class]
    loop = loop_ohm(length_m, awg, material, temperature_c, limits.pairs)
    end = settled(limits.supply_least_v if supply_v is None else supply_v, loop, power_w)
    return PoeRun(
        loop,
        end,
        at_most(power_w, limits.device_w),
        end is not None and at_least(end.device_v, limits.device_least_v),
    )


def _run(given: PoeRunIn) -> PoeRunOut:
    run = poe_run(
        given.poe_class,
        given.power_w,
        given.length_m,
        given.awg,
        given.material,
        given.temperature_c,
        given.supply_v,
    )
    end = run.settled
    return PoeRunOut(
        loop_ohm=run.loop_ohm,
        current_a=end.current_a if end else None,
        device_v=end.device_v if end else None,
        supply_w=end.supply_w if end else None,
        loss_w=end.loss_w if end else None,
        feasible=end is not None,
        within_class=run.within_class,
        voltage_ok=run.voltage_ok,
    )


POE_RUN = Calculator(
    name="poe-run",
    title="Power over Ethernet at the camera",
    formula="loop = ohm per m by gauge x material x (1 + 0.00393 (T - 20)) x length, half of it for classes 5 to 8; "
    "I = 2 P / (V + sqrt(V^2 - 4 loop P)); device_v = V - I loop",
    source="IEEE 802.3 classes; constant-power load",
    input_model=PoeRunIn,
    output_model=PoeRunOut,
    run=_run,
)
