"""Assumed bits per pixel by scene, codec and quality, from ``stream_assumptions.json``."""

import json
from functools import cache
from pathlib import Path
from typing import Literal, NamedTuple

Codec = Literal["h264", "h265", "mjpeg"]
CODECS: tuple[Codec, ...] = ("h264", "h265", "mjpeg")

Quality = Literal["low", "medium", "high"]
QUALITIES: tuple[Quality, ...] = ("low", "medium", "high")


class Scene(NamedTuple):
    """A kind of view. ``key_bpp`` and ``other_bpp`` are bits per pixel of H.264 key and other frames, medium quality,
    as a mean over day and night."""

    id: str
    label: str
    key_bpp: float
    other_bpp: float


class StreamAssumptions(NamedTuple):
    """The whole table. ``low`` and ``high`` are the spread of real scenes as factors of the table's figure."""

    source: str
    low: float
    high: float
    codec_factor: dict[str, float]
    codec_label: dict[str, str]
    codec_why: dict[str, str]
    quality_factor: dict[str, float]
    scenes: dict[str, Scene]


@cache
def stream_assumptions() -> StreamAssumptions:
    """The table, read once."""
    data = json.loads(Path(__file__).with_name("stream_assumptions.json").read_text("utf-8"))
    return StreamAssumptions(
        source=data["source"],
        low=data["spread"]["low"],
        high=data["spread"]["high"],
        codec_factor={codec: row["of_h264"] for codec, row in data["codecs"].items()},
        codec_label={codec: row["label"] for codec, row in data["codecs"].items()},
        codec_why={codec: row["why"] for codec, row in data["codecs"].items()},
        quality_factor={quality: row["factor"] for quality, row in data["qualities"].items()},
        scenes={row["id"]: Scene(row["id"], row["label"], row["key_bpp"], row["other_bpp"]) for row in data["scenes"]},
    )
