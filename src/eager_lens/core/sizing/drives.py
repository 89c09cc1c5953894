"""Usable space of drives in an array, and how many may fail."""

from typing import Literal, NamedTuple

from eager_lens.core.calculator import Calculator
from eager_lens.core.errors import RefusedInput
from eager_lens.core.validation import Count, Number, Plain, Share, Whole

RaidLevel = Literal["span", "mirror", "raid5", "raid6", "raid10"]

LEVEL_WORDS: dict[str, str] = {
    "span": "spanned, no redundancy",
    "mirror": "mirrored",
    "raid5": "RAID 5",
    "raid6": "RAID 6",
    "raid10": "RAID 10",
}

LEAST_DRIVES: dict[RaidLevel, int] = {"span": 1, "mirror": 2, "raid5": 3, "raid6": 4, "raid10": 4}

DRIVE_SIZES_TB = (1, 2, 4, 6, 8, 10, 12, 16, 18, 20, 24)
"""Sizes in which drives for recorders are commonly sold."""

TIB_PER_TB = 1e12 / 2**40


class DriveArrayIn(Plain):
    """Drives and how they are put together."""

    drives: Count
    drive_tb: Number
    level: RaidLevel
    spares: Whole = 0
    reserve_share: Share = 0.05


class DriveArrayOut(Plain):
    """What they hold. The spares are not counted in ``drives_that_may_fail``."""

    usable_tb: float
    usable_tib: float
    drives_that_may_fail: int


class DriveArray(NamedTuple):
    """Usable space in TB (10^12 bytes), and how many drives, any, may fail without loss."""

    usable_tb: float
    drives_that_may_fail: int


def drive_array(drives: int, drive_tb: float, level: RaidLevel, spares: int, reserve_share: float) -> DriveArray:
    """Usable space of an array: spares come off first, then redundancy, then the reserve share.

    Raises:
        RefusedInput: when the level cannot be made from the drives that are left after the spares.
    """
    members = drives - spares
    least = LEAST_DRIVES[level]
    if members < least:
        raise RefusedInput(
            "drives",
            f"{drives} drives minus {spares} hot spares leaves {members}; {level} needs at least {least}",
        )
    if level == "raid10" and members % 2:
        raise RefusedInput(
            "drives", f"{drives} drives minus {spares} hot spares leaves {members}; raid10 needs an even number"
        )
    data_drives, may_fail = {
        "span": (float(members), 0),
        "mirror": (1.0, members - 1),
        "raid5": (members - 1.0, 1),
        "raid6": (members - 2.0, 2),
        "raid10": (members / 2, 1),
    }[level]
    return DriveArray(data_drives * drive_tb * (1 - reserve_share), may_fail)


def _run(given: DriveArrayIn) -> DriveArrayOut:
    array = drive_array(given.drives, given.drive_tb, given.level, given.spares, given.reserve_share)
    return DriveArrayOut(
        usable_tb=array.usable_tb,
        usable_tib=array.usable_tb * TIB_PER_TB,
        drives_that_may_fail=array.drives_that_may_fail,
    )


DRIVE_ARRAY = Calculator(
    name="drive-array",
    title="Usable capacity of a RAID array",
    formula="n = drives - hot spares; span n, mirror 1, raid5 n - 1, raid6 n - 2, raid10 n / 2 drives' worth; "
    "usable_tb = that x drive_tb x (1 - reserve_share)",
    source="redundancy by RAID level; TiB = 10^12 / 2^40 TB",
    input_model=DriveArrayIn,
    output_model=DriveArrayOut,
    run=_run,
)
