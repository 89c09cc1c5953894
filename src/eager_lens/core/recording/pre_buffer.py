"""Memory that a recorder holds to be able to go back in time."""

from collections.abc import Iterable

from eager_lens.core.calculator import Calculator
from eager_lens.core.validation import Number, Plain


class PreBufferIn(Plain):
    """The streams that are buffered, and how far back."""

    rates_mbps: tuple[Number, ...]
    pre_s: Number


class PreBufferOut(Plain):
    """The memory, in 10^6 bytes."""

    megabytes: float


def pre_buffer_megabytes(rates_mbps: Iterable[float], pre_s: float) -> float:
    """Memory in 10^6 bytes that holds the last ``pre_s`` seconds of all streams."""
    return sum(rates_mbps) * pre_s / 8


PRE_BUFFER = Calculator(
    name="pre-buffer",
    title="Memory for pre-recording",
    formula="megabytes = sum of rates_mbps x pre_s / 8",
    source="what is buffered is what is sent",
    input_model=PreBufferIn,
    output_model=PreBufferOut,
    run=lambda given: PreBufferOut(megabytes=pre_buffer_megabytes(given.rates_mbps, given.pre_s)),
)
