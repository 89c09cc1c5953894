"""The maximum bit rate that a camera is planned with until somebody decides otherwise, from ``caps.json``."""

from __future__ import annotations

import json
import math
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

from eager_lens.core.reference.streams import Codec


@cache
def _table() -> dict[str, Any]:
    table: dict[str, Any] = json.loads(Path(__file__).with_name("caps.json").read_text("utf-8"))
    return table


def caps_source() -> str:
    """Where the figures come from, and why they are what they are."""
    return str(_table()["source"])


@lru_cache(maxsize=20_000)
def usual_cap_mbps(width_px: int, height_px: int, fps: float, codec: Codec, scene_id: str) -> float | None:
    """The usual maximum in Mb/s of a main stream: low enough to plan drives with, high enough that a usual night is not spoiled.

    Between two picture sizes of the table by the logarithm, beyond them in proportion to the pixels; a kind of view that the table
    does not know counts as lively. None for MJPEG, which cannot save by what stays the same: a cap would only spoil it.
    """
    if codec == "mjpeg":
        return None
    table = _table()
    mbps = _by_size(width_px * height_px / 1e6, table["views"].get(scene_id, "lively"))
    mbps *= (fps / table["usual_fps"]) ** table["fps_power"] * (table["h264_times"] if codec == "h264" else 1.0)
    return float(min(table["menu_mbps"], key=lambda step: abs(math.log(step / mbps))))


def _by_size(megapixels: float, view: str) -> float:
    rows = [(row["megapixels"], row[view]) for row in _table()["by_megapixels"]]
    if megapixels <= rows[0][0] or megapixels >= rows[-1][0]:
        nearest, mbps = rows[0] if megapixels <= rows[0][0] else rows[-1]
        return float(mbps * megapixels / nearest)
    right = next(at for at, (size, _) in enumerate(rows) if size >= megapixels)
    (low, a), (high, b) = rows[right - 1], rows[right]
    part = math.log(megapixels / low) / math.log(high / low)
    return float(a * (b / a) ** part)
