"""A load of constant power at the end of a resistance: the one equation behind both kinds of run.

    supply V ---[ loop R ]--- device V - I R, drawing P

The device takes P whatever its voltage: I (V - I R) = P, a quadratic in I. The smaller root is where it settles; there
is none when the loop cannot carry P at all.
"""

import math
from typing import NamedTuple

from eager_lens.core.validation import at_most


class Settled(NamedTuple):
    """Where supply and load settle: current in A, volts at the device, watts from the supply, watts lost in the loop."""

    current_a: float
    device_v: float
    supply_w: float
    loss_w: float


def settled(supply_v: float, loop_ohm: float, power_w: float) -> Settled | None:
    """Where a load of constant power settles, or None when the loop cannot carry it.

    I = (V - sqrt(V^2 - 4 R P)) / (2 R) = 2 P / (V + sqrt(V^2 - 4 R P)); the second form also holds for R = 0 and loses no
    digits for a small R.

    Raises:
        OverflowError: when a result is beyond what a number can hold.
    """
    needed, there = 4 * loop_ohm * power_w, supply_v**2
    if not at_most(needed, there):
        return None
    # Right on the line the difference may come out a hair below zero.
    current_a = 2 * power_w / (supply_v + math.sqrt(max(0.0, there - needed)))
    return Settled(current_a, supply_v - current_a * loop_ohm, supply_v * current_a, current_a**2 * loop_ohm)
