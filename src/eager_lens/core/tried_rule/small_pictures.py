"""A clip brought to the detector's small grey pictures, five a second: 14 kB a picture, an hour at most. Needs PyAV.

Runs in a process of its own, which loads no more than this.
"""

from __future__ import annotations

from collections.abc import Callable, Generator
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

from eager_lens.core.clip.container import opened, refused
from eager_lens.core.motion.small import FPS, HIGH, WIDE

LONGEST_S = 3600.0

BATCH = 50
"""Pictures that come from the child at a time."""


class Frame(NamedTuple):
    """Where a clip's picture lies in the small one, in pixels: all of it for 16 to 9, else with dark strips beside or above."""

    left: int
    top: int
    wide: int
    high: int


FULL = Frame(0, 0, WIDE, HIGH)


def frame_of(width_px: int, height_px: int) -> Frame:
    """A picture of any shape in the small one, as large as it can be."""
    wide = min(WIDE, max(1, round(HIGH * width_px / height_px)))
    high = min(HIGH, max(1, round(WIDE * height_px / width_px)))
    return Frame((WIDE - wide) // 2, (HIGH - high) // 2, wide, high)


def small_pictures(
    path: Path, *, step: Callable[[float], None]
) -> Generator[tuple[Frame, NDArray[np.uint8]], None, None]:
    """A clip's small pictures, some at a time, with where they lie in the detector's."""
    batch: list[NDArray[np.uint8]] = []
    given = 0
    with opened(path, as_sent=False) as (container, stream):
        stream.thread_type = "SLICE"
        whole_s = float(container.duration or 0) / av.time_base or LONGEST_S
        first: float | None = None
        lies = frame_of(stream.width, stream.height)
        try:
            for frame in container.decode(stream):
                if frame.time is None:
                    continue
                first = frame.time if first is None else first
                at_s = frame.time - first
                if at_s > LONGEST_S:
                    break
                count = given + len(batch)
                if at_s * FPS < count:
                    continue
                small = frame.reformat(lies.wide, lies.high, "gray8").to_ndarray().astype(np.uint8)
                # A camera that sends fewer pictures than are looked at shows the last one again.
                batch += [small] * max(1, int(at_s * FPS) - count + 1)
                if len(batch) >= BATCH:
                    yield lies, np.stack(batch)
                    given, batch = given + len(batch), []
                    step(min(0.9, at_s / whole_s))
        except av.error.FFmpegError as error:
            if not given and not batch:
                raise refused(path, "its pictures cannot be decoded") from error
    if batch:
        yield lies, np.stack(batch)
