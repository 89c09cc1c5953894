"""Disk space for a stream, and days kept on a disk."""

from eager_lens.core.calculator import Calculator
from eager_lens.core.errors import RefusedInput
from eager_lens.core.validation import HoursOfDay, Number, Plain

GB_PER_MBPS_HOUR = 3600 / 8 / 1000
"""1 Mb/s (10^6 bit/s) held for an hour is 0.45 GB (10^9 bytes)."""


class DiskSpaceIn(Plain):
    """A stream and how long it is kept."""

    rate_mbps: Number
    recorded_h_per_day: HoursOfDay = 24
    days: Number


class DiskSpaceOut(Plain):
    """The space it takes."""

    gb: float


class DaysKeptIn(Plain):
    """A store and what is written into it."""

    usable_tb: Number
    gb_per_day: Number


class DaysKeptOut(Plain):
    """How long the store lasts before the oldest is written over."""

    days: float


def disk_space_gb(rate_mbps: float, recorded_h_per_day: float, days: float) -> float:
    """Space in GB (10^9 bytes) of a stream of mean rate ``rate_mbps`` (10^6 bit/s), recorded so many hours a day."""
    return rate_mbps * recorded_h_per_day * days * GB_PER_MBPS_HOUR


def days_kept(usable_tb: float, gb_per_day: float) -> float:
    """Days until the oldest picture is written over.

    Raises:
        RefusedInput: when nothing is written, since then there is no limit.
    """
    if gb_per_day == 0:
        raise RefusedInput("gb_per_day", "0 was given; without writes there is no limit, so enter more than 0")
    return usable_tb * 1000 / gb_per_day


DISK_SPACE = Calculator(
    name="disk-space",
    title="Disk space for a stream",
    formula="gb = rate_mbps x recorded_h_per_day x days x 3600 / 8 / 1000",
    source="mean rate x time; 1 Mb/s for 24 h is 10.8 GB",
    input_model=DiskSpaceIn,
    output_model=DiskSpaceOut,
    run=lambda given: DiskSpaceOut(gb=disk_space_gb(given.rate_mbps, given.recorded_h_per_day, given.days)),
)

DAYS_KEPT = Calculator(
    name="days-kept",
    title="Days kept on a store",
    formula="days = usable_tb x 1000 / gb_per_day",
    source="space / bytes a day; TB and GB in powers of ten",
    input_model=DaysKeptIn,
    output_model=DaysKeptOut,
    run=lambda given: DaysKeptOut(days=days_kept(given.usable_tb, given.gb_per_day)),
)
