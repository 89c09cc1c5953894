"""What a single picture tells: detail, smooth areas and noise. Motion and the rate itself it cannot tell."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

from eager_lens.core.clip.container import BROKEN, refused, require_size
from eager_lens.core.clip.content import FLAT_GRADIENT, block_means, by_stripes, luma, picture_gradient
from eager_lens.core.errors import RefusedInput
from eager_lens.core.files import require_file
from eager_lens.core.sizing.stream_model import BLOCK

Array = NDArray[np.float64]

LARGEST_STILL_BYTES = 256 * 2**20
ENDINGS = (".jpg", ".jpeg", ".png")
QUIET_QUANTILE = 0.2
"""Noise is told from the blocks that are smoothest: there is least else in them."""


class Still(NamedTuple):
    """A still picture: size, and properties in levels of 8-bit luma as ``stream-rate`` takes them."""

    name: str
    width_px: int
    height_px: int
    detail: float
    detail_log: float
    flat_share: float
    noise_sigma: float
    luma_mean: float


def properties(picture: NDArray[Any]) -> tuple[float, float, float, float]:
    """Detail, detail_log, flat share and noise of one luma picture.

    Noise by the mean absolute response of a mask that neither slopes nor edges in line with it answer to (J. Immerkaer,
    "Fast noise variance estimation", Computer Vision and Image Understanding 64, 1996), in the smoothest blocks.
    """

    def response_of(rows: slice) -> Array:
        part = picture[rows.start : rows.stop + 2].astype(np.float64)
        sides = part[:-2, 1:-1] + part[2:, 1:-1] + part[1:-1, :-2] + part[1:-1, 2:]
        corners = part[:-2, :-2] + part[2:, 2:] + part[:-2, 2:] + part[2:, :-2]
        return block_means(np.abs(corners - 2 * sides + 4 * part[1:-1, 1:-1]))

    quiet = float(np.quantile(by_stripes(picture.shape[0] - 2, response_of), QUIET_QUANTILE))
    noise = math.sqrt(math.pi / 2) * quiet / 6
    gradient = np.sqrt(np.maximum(picture_gradient(picture) ** 2 - (2 * noise / math.sqrt(math.pi)) ** 2, 0.0))
    return float(gradient.mean()), float(np.log2(1 + gradient).mean()), float((gradient < FLAT_GRADIENT).mean()), noise


def measured_still(path: Path, step: Callable[[float], None] = lambda share: None) -> Still:
    """Read a still picture. ``step`` is told how far it is, and may raise to stop.

    Raises:
        RefusedInput: with one sentence that says what is wrong with it. FileTrouble: when it cannot be read.
    """
    if require_file(path, LARGEST_STILL_BYTES, "picture of a camera") == 0:
        raise refused(path, "the file is empty (0 bytes); save or copy the picture again")
    try:
        with av.open(str(path)) as container:
            stream = container.streams.video[0]
            if max(stream.width, stream.height) > 0:
                require_size(path, stream.width, stream.height)
            frame = next(container.decode(stream))
            require_size(path, frame.width, frame.height)
            picture = luma(frame)
    except RefusedInput:
        raise
    except (*BROKEN, OSError, StopIteration) as error:
        raise refused(
            path, "it is no picture that can be read; save it as JPEG or PNG, as the camera made it"
        ) from error
    step(0.5)
    if min(picture.shape) < 4 * BLOCK:
        raise refused(
            path, f"{picture.shape[1]} × {picture.shape[0]} px is too small to tell anything of a camera's picture"
        )
    detail, detail_log, flat_share, noise = properties(picture)
    high, wide = picture.shape
    return Still(path.name, wide, high, detail, detail_log, flat_share, noise, float(picture.mean(dtype=np.float64)))
