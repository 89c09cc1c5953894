"""A key frame on a slow link: a burst that the mean load hides."""

from typing import Annotated

from pydantic import Field

from eager_lens.core.calculator import Calculator
from eager_lens.core.validation import Number, Plain, Positive


class BurstIn(Plain):
    """A frame and the link that it crosses. ``busy_share`` is the load already on the link."""

    frame_bytes: Number
    link_mbps: Positive
    busy_share: Annotated[float, Field(strict=True, ge=0, lt=1, allow_inf_nan=False)] = 0


class BurstOut(Plain):
    """How long the frame is on its way."""

    ms: float


def burst_ms(frame_bytes: float, link_mbps: float, busy_share: float) -> float:
    """Milliseconds for one frame to cross what is left of a link."""
    return frame_bytes * 8 / (link_mbps * 1000 * (1 - busy_share))


BURST = Calculator(
    name="burst",
    title="A key frame on a link",
    formula="ms = frame_bytes x 8 / (link_mbps x 1000 x (1 - busy_share))",
    source="time for one frame to cross what is left of the link",
    input_model=BurstIn,
    output_model=BurstOut,
    run=lambda given: BurstOut(ms=burst_ms(given.frame_bytes, given.link_mbps, given.busy_share)),
)
