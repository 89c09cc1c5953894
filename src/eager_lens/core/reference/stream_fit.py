"""The fitted coefficients of the bit-rate model with their measured error, from ``stream_rate.json``."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import NamedTuple


class CodecFit(NamedTuple):
    """One codec: its coefficients, and the factors between which 80 of 100 unseen scenes lie.

    ``median_abs_pct`` and ``within_90_pct`` are the errors on scenes that the fit had not seen, in per cent.
    """

    coefficients: dict[str, float]
    low: float
    high: float
    median_abs_pct: float
    within_90_pct: float


class StreamFit(NamedTuple):
    """The whole fit.

    Attributes:
        source: where it comes from.
        codecs: by codec.
        ranges: by property, the least and the most that the data hold.
        missing: how a property that nobody measured follows from the others.
    """

    source: str
    codecs: dict[str, CodecFit]
    ranges: dict[str, tuple[float, float]]
    detail_log: tuple[float, float]
    flat_share: tuple[float, float]
    noise_corr: float
    motion_level: float
    moving_share_1s: float


@cache
def stream_fit() -> StreamFit:
    """The fit, read once."""
    data = json.loads(Path(__file__).with_name("stream_rate.json").read_text("utf-8"))
    missing = data["missing"]
    return StreamFit(
        source=data["source"],
        codecs={
            codec: CodecFit(
                row["coefficients"],
                row["low"],
                row["high"],
                row["left_out"]["median_abs_pct"],
                row["left_out"]["within_90_pct"],
            )
            for codec, row in data["codecs"].items()
        },
        ranges={name: (low, high) for name, (low, high) in data["ranges"].items()},
        detail_log=tuple(missing["detail_log"]),
        flat_share=tuple(missing["flat_share"]),
        noise_corr=missing["noise_corr"],
        motion_level=missing["motion_level"],
        moving_share_1s=missing["moving_share_1s"],
    )
