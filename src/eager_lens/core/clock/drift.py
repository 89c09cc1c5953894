"""How far a clock is off, with a time server and without."""

from eager_lens.core.calculator import Calculator
from eager_lens.core.validation import Number, Plain

SECONDS_A_DAY = 86_400


class ClockDriftIn(Plain):
    """A clock, how often it asks a server, and how long it may be without one."""

    drift_ppm: Number
    poll_s: Number
    offset_s: Number = 0
    days_alone: Number = 0


class ClockDriftOut(Plain):
    """Worst error between two polls, and after the time alone."""

    worst_s: float
    alone_s: float


def drifted_s(offset_s: float, drift_ppm: float, elapsed_s: float) -> float:
    """Seconds that a clock is off after a time, from an offset at its start."""
    return offset_s + drift_ppm * 1e-6 * elapsed_s


CLOCK_DRIFT = Calculator(
    name="clock-drift",
    title="How far a clock is off",
    formula="worst = offset + ppm x 1e-6 x poll; alone = offset + ppm x 1e-6 x 86400 x days",
    source="constant drift",
    input_model=ClockDriftIn,
    output_model=ClockDriftOut,
    run=lambda given: ClockDriftOut(
        worst_s=drifted_s(given.offset_s, given.drift_ppm, given.poll_s),
        alone_s=drifted_s(given.offset_s, given.drift_ppm, SECONDS_A_DAY * given.days_alone),
    ),
)
