"""What a single picture tells: detail, smooth areas and noise. Movement and the rate itself it cannot tell."""

from __future__ import annotations

import math
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

from eager_lens.core.clip.container import LARGEST_SIDE_PX, refused
from eager_lens.core.clip.content import FLAT_GRADIENT, block_gradient, block_means, luma
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.model import Camera, SeenPicture
from eager_lens.core.sizing.stream_model import BLOCK

Array = NDArray[np.float64]

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


def properties(picture: Array) -> tuple[float, float, float, float]:
    """Detail, detail_log, flat share and noise of one luma picture.

    Noise by the mean absolute response of a mask that neither slopes nor edges in line with it answer to (J. Immerkaer,
    "Fast noise variance estimation", Computer Vision and Image Understanding 64, 1996), in the smoothest blocks.
    """
    centre = picture[1:-1, 1:-1]
    sides = picture[:-2, 1:-1] + picture[2:, 1:-1] + picture[1:-1, :-2] + picture[1:-1, 2:]
    corners = picture[:-2, :-2] + picture[2:, 2:] + picture[:-2, 2:] + picture[2:, :-2]
    response = block_means(np.abs(corners - 2 * sides + 4 * centre))
    quiet = float(np.quantile(response, QUIET_QUANTILE))
    noise = math.sqrt(math.pi / 2) * quiet / 6
    gradient = np.sqrt(np.maximum(block_gradient(picture) ** 2 - (2 * noise / math.sqrt(math.pi)) ** 2, 0.0))
    return float(gradient.mean()), float(np.log2(1 + gradient).mean()), float((gradient < FLAT_GRADIENT).mean()), noise


def measured_still(path: Path) -> Still:
    """Read a still picture.

    Raises:
        RefusedInput: with one sentence that says what is wrong with it.
    """
    try:
        if path.stat().st_size == 0:
            raise refused(path, "the file is empty (0 bytes); save or copy the picture again")
        with av.open(str(path)) as container:
            stream = container.streams.video[0]
            if max(stream.width, stream.height) > LARGEST_SIDE_PX:
                raise refused(path, f"{stream.width} × {stream.height} px; {LARGEST_SIDE_PX} px a side can be read")
            picture = luma(next(container.decode(stream)))
    except RefusedInput:
        raise
    except OSError as error:
        raise refused(path, f"it cannot be read: {error.strerror or error}") from error
    except (av.error.FFmpegError, ValueError, IndexError, StopIteration) as error:
        raise refused(
            path, "it is no picture that can be read; save it as JPEG or PNG, as the camera made it"
        ) from error
    if min(picture.shape) < 4 * BLOCK:
        raise refused(
            path, f"{picture.shape[1]} × {picture.shape[0]} px is too small to tell anything of a camera's picture"
        )
    detail, detail_log, flat_share, noise = properties(picture)
    high, wide = picture.shape
    return Still(path.name, wide, high, detail, detail_log, flat_share, noise, float(picture.mean()))


def seen_in(still: Still) -> SeenPicture:
    """As the job keeps it."""
    return SeenPicture(
        source=still.name[:200],
        width_px=still.width_px,
        detail_log=still.detail_log,
        flat_share=still.flat_share,
        noise_sigma=still.noise_sigma,
    )


def accept_still(camera: Camera, still: Still) -> Edit:
    """Let a camera's assumed rate follow from what the still shows. A measured rate stands as it is."""
    return set_each(f"Take {still.name} for {camera.name}", {camera.id: {"seen": seen_in(still)}})
