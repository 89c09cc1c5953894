"""The drives that hold what a promise needs: more of the same in free bays, or else the smallest larger ones."""

from __future__ import annotations

import math
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.model import Recorder
from eager_lens.core.sizing.drives import DRIVE_SIZES_TB, drive_array
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_least


class Drives(NamedTuple):
    """Drives that are enough: in words, what they hold in TB, whether the present ones stay, the edit, and its button."""

    words: str
    usable_tb: float
    stay: bool
    edit: Edit
    button: str


def larger_drives(recorder: Recorder) -> list[float]:
    """The sizes in TB above that of its drives that a recorder takes, as far as that is known."""
    most_tb = math.inf if recorder.largest_drive_tb is None else recorder.largest_drive_tb
    return [float(tb) for tb in DRIVE_SIZES_TB if recorder.drive_tb < tb <= most_tb]


def enough_drives(recorder: Recorder, need_tb: float) -> Drives | None:
    """The fewest further drives of the same size in free bays that hold so much, or else the smallest larger ones; None where
    no size that is sold is enough in its bays."""
    sizes = [(drives, recorder.drive_tb) for drives in range(recorder.drives + 1, recorder.bays + 1)]
    sizes += [(drives, tb) for tb in larger_drives(recorder) for drives in sorted({recorder.drives, recorder.bays})]
    for drives, tb in sizes:
        try:
            array = drive_array(drives, tb, recorder.raid_level, recorder.hot_spares, recorder.reserve_share)
        except RefusedInput:
            continue
        if not at_least(array.usable_tb, need_tb):
            continue
        if tb == recorder.drive_tb:
            words = count(drives - recorder.drives, f"more {figure(tb)} TB drive")
            edit = set_fields([recorder.id], f"Add {words} to {recorder.name}", drives=drives)
            return Drives(words, array.usable_tb, True, edit, f"Add {words}")
        old = f" instead of {recorder.drives} × {figure(recorder.drive_tb)} TB" if recorder.drives else ""
        words = f"{drives} × {figure(tb)} TB{old}"
        label = f"Fit {drives} × {figure(tb)} TB drives in {recorder.name}"
        edit = set_fields([recorder.id], label, drives=drives, drive_tb=tb)
        return Drives(words, array.usable_tb, False, edit, f"Fit {drives} × {figure(tb)} TB")
    return None
