"""All calculators, in the order in which ``calc --list`` names them."""

from __future__ import annotations

from typing import Any

from eager_lens.core.addressing.plan import ADDRESS_PLAN
from eager_lens.core.calculator import Calculator
from eager_lens.core.clock.drift import CLOCK_DRIFT
from eager_lens.core.errors import RefusedInput
from eager_lens.core.optics.lens import LENS_VIEW
from eager_lens.core.power.dc import DC_RUN
from eager_lens.core.power.poe import POE_RUN
from eager_lens.core.power.ups import UPS_TIME
from eager_lens.core.radio.link import RADIO_LINK
from eager_lens.core.recording.clips import EVENT_CLIPS
from eager_lens.core.recording.pre_buffer import PRE_BUFFER
from eager_lens.core.recording.week import WEEK_HOURS
from eager_lens.core.sizing.disk import DAYS_KEPT, DISK_SPACE
from eager_lens.core.sizing.drives import DRIVE_ARRAY
from eager_lens.core.sizing.stream_rate import STREAM_RATE
from eager_lens.core.wiring.burst import BURST

CALCULATORS: dict[str, Calculator[Any, Any]] = {
    calculator.name: calculator
    for calculator in (
        DISK_SPACE,
        DRIVE_ARRAY,
        DAYS_KEPT,
        STREAM_RATE,
        EVENT_CLIPS,
        PRE_BUFFER,
        WEEK_HOURS,
        ADDRESS_PLAN,
        POE_RUN,
        DC_RUN,
        UPS_TIME,
        RADIO_LINK,
        BURST,
        LENS_VIEW,
        CLOCK_DRIFT,
    )
}


def calculator_named(name: str) -> Calculator[Any, Any]:
    """The calculator of this name.

    Raises:
        RefusedInput: listing the names that there are.
    """
    try:
        return CALCULATORS[name]
    except KeyError:
        raise RefusedInput("", f"there is no calculator {name!r}; there are {', '.join(CALCULATORS)}") from None
