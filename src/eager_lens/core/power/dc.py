"""A device on a plug-in DC supply at the end of a pair of wires."""

import math
from typing import Annotated, NamedTuple, Self

from pydantic import Field, model_validator

from eager_lens.core.calculator import Calculator
from eager_lens.core.power.load import Settled, settled
from eager_lens.core.validation import NOT_NULL, Number, Plain, Positive, Share, Whole, at_least

COPPER_OHM_MM2_PER_M = 0.01724
"""Resistivity of copper at 20 C."""


class DcRunIn(Plain):
    """A DC run; exactly one of ``area_mm2`` and ``awg`` says how thick the wire is."""

    supply_v: Positive
    power_w: Number
    length_m: Number
    area_mm2: Annotated[Positive | None, NOT_NULL] = None
    awg: Annotated[Annotated[Whole, Field(le=40)] | None, NOT_NULL] = None
    lowest_share: Share = 0.9

    @model_validator(mode="after")
    def _one_thickness(self) -> Self:
        if len({"area_mm2", "awg"} & self.model_fields_set) != 1:
            raise ValueError("give the wire as area_mm2 or as awg, one of the two")
        return self


class DcRunOut(Plain):
    """What arrives. Null in the middle where the run cannot carry the load; ``longest_m`` null where nothing is drawn."""

    loop_ohm: float
    current_a: float | None
    device_v: float | None
    drop_share: float | None
    feasible: bool
    voltage_ok: bool
    longest_m: float | None


def area_of_awg_mm2(awg: int) -> float:
    """Area of a wire in mm2 by its gauge: diameter = 0.127 mm x 92^((36 - n) / 39)."""
    diameter_mm: float = 0.127 * 92 ** ((36 - awg) / 39)
    return math.pi / 4 * diameter_mm**2


class DcRun(NamedTuple):
    """A run: its loop in ohm, where it settles, whether the device has enough, and the longest run that would do in m."""

    loop_ohm: float
    settled: Settled | None
    voltage_ok: bool
    longest_m: float | None


def dc_run(supply_v: float, power_w: float, length_m: float, area_mm2: float, lowest_share: float) -> DcRun:
    """What arrives at the end of a pair of copper wires of ``length_m`` one way.

    A load of constant power never settles below half the supply, so the longest run is that whose loop is
    s (1 - s) V^2 / P with s the larger of ``lowest_share`` and 0.5; None when nothing is drawn: there is no limit.
    """
    ohm_per_m = 2 * COPPER_OHM_MM2_PER_M / area_mm2
    loop = ohm_per_m * length_m
    end = settled(supply_v, loop, power_w)
    share = max(lowest_share, 0.5)
    longest_m = None if power_w == 0 else share * (1 - share) * supply_v**2 / power_w / ohm_per_m
    return DcRun(loop, end, end is not None and at_least(end.device_v, lowest_share * supply_v), longest_m)


def _run(given: DcRunIn) -> DcRunOut:
    area_mm2 = area_of_awg_mm2(given.awg) if given.awg is not None else given.area_mm2
    assert area_mm2 is not None
    run = dc_run(given.supply_v, given.power_w, given.length_m, area_mm2, given.lowest_share)
    end = run.settled
    return DcRunOut(
        loop_ohm=run.loop_ohm,
        current_a=end.current_a if end else None,
        device_v=end.device_v if end else None,
        drop_share=1 - end.device_v / given.supply_v if end else None,
        feasible=end is not None,
        voltage_ok=run.voltage_ok,
        longest_m=run.longest_m,
    )


DC_RUN = Calculator(
    name="dc-run",
    title="A DC supply at the end of a run",
    formula="loop = 2 x 0.01724 x length / area; I = 2 P / (V + sqrt(V^2 - 4 loop P)); device_v = V - I loop; "
    "longest: loop = s (1 - s) V^2 / P, s = max(lowest_share, 0.5)",
    source="copper at 20 C; AWG n: diameter 0.127 mm x 92^((36 - n) / 39); constant-power load",
    input_model=DcRunIn,
    output_model=DcRunOut,
    run=_run,
)
