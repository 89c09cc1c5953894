"""What is in a clip's pictures: detail, noise, movement, estimated from pairs of frames about 1/15 s apart.

The estimators are those of the ``est_`` columns of the fit's data (``tools/stream_rate/README.md``). A clip was
compressed, which takes away noise and fine detail: at low quality both come out too low.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

from eager_lens.core.clip.container import ClipRate, opened, refused
from eager_lens.core.sizing.stream_model import BLOCK, SHORT_S

Array = NDArray[np.float64]

PAIRS = 8
NOISE_OF_DIFFERENCE = 1.03 / 1.128
"""Mean absolute difference of two noisy pixels to the noise's root mean square: 2 / sqrt(pi), with a small correction."""
MOVES_LEVELS, MOVES_NOISE = 2.0, 0.9
FLAT_GRADIENT = 1.0


class Content(NamedTuple):
    """A clip's picture: levels of 8-bit luma, blocks of 8 x 8 pixels, as ``stream-rate`` takes them."""

    detail: float
    detail_log: float
    flat_share: float
    noise_sigma: float
    moving_share: float
    motion_mad: float
    luma_mean: float


def estimated(pairs: list[tuple[Array, Array]]) -> Content:
    """The properties of a fixed view from pairs of luma pictures of one size, each pair 1/15 s apart.

    Raises:
        ValueError: without pairs, or when pictures are smaller than a block.
    """
    if not pairs or min(pairs[0][0].shape) < BLOCK:
        raise ValueError("no pair of pictures to estimate from")
    differences = np.stack([block_means(np.abs(later - first)) for first, later in pairs])
    floor = np.quantile(differences, 0.25, axis=0)
    floor = np.minimum(floor, 2 * np.median(floor) + 0.3)
    noise = NOISE_OF_DIFFERENCE * float(np.median(floor))
    change = np.sqrt(np.maximum(differences**2 - floor**2, 0.0))
    moves = (change > MOVES_LEVELS) & (change > MOVES_NOISE * floor)
    mean_picture = np.mean([picture for pair in pairs for picture in pair], axis=0)
    gradient = block_gradient(mean_picture)
    # What noise is left in the mean of so many pictures makes a gradient of its own; it adds in squares.
    left = noise / math.sqrt(2 * len(pairs)) * 2 / math.sqrt(math.pi)
    gradient = np.sqrt(np.maximum(gradient**2 - left**2, 0.0))
    return Content(
        detail=float(gradient.mean()),
        detail_log=float(np.log2(1 + gradient).mean()),
        flat_share=float((gradient < FLAT_GRADIENT).mean()),
        noise_sigma=noise,
        moving_share=float(moves.mean()),
        motion_mad=float(np.where(moves, change, 0.0).mean()),
        luma_mean=float(mean_picture.mean()),
    )


def block_means(picture: Array) -> Array:
    """Means over blocks of 8 x 8, what is left at the edges dropped."""
    high, wide = (side // BLOCK for side in picture.shape)
    whole = picture[: high * BLOCK, : wide * BLOCK]
    means: Array = whole.reshape(high, BLOCK, wide, BLOCK).mean(axis=(1, 3))
    return means


def block_gradient(picture: Array) -> Array:
    """Mean of the absolute differences to the right and down, by block."""
    across = np.abs(np.diff(picture, axis=1, append=picture[:, -1:]))
    down = np.abs(np.diff(picture, axis=0, append=picture[-1:, :]))
    return block_means((across + down) / 2)


def content_of(path: Path, clip: ClipRate, step: Callable[[float], None] = lambda share: None) -> Content:
    """Decode pairs of frames spread over a clip and estimate what is in them.

    Raises:
        RefusedInput: when no frame can be decoded.
    """
    pairs = []
    try:
        for pair in _pairs(path, clip):
            pairs.append(pair)
            step(len(pairs) / PAIRS)
        return estimated(pairs)
    except (av.error.FFmpegError, ValueError) as error:
        raise refused(path, "its pictures cannot be decoded; its rate can be used all the same") from error


def _pairs(path: Path, clip: ClipRate) -> Iterator[tuple[Array, Array]]:
    """Pairs of frames that are no key frames, since those are coded finer than the others."""
    apart = max(1, round(SHORT_S * clip.fps))
    every = max(apart + 1, clip.frames.size_bytes.size // PAIRS)
    with opened(path) as (container, stream):
        stream.thread_type = "AUTO"
        seekable = stream.duration is not None and clip.duration_s > 20
        if seekable:
            for at in range(PAIRS):
                target = (stream.start_time or 0) + int(at * (stream.duration or 0) / PAIRS)
                container.seek(target, stream=stream)
                if pair := _next_pair(container.decode(stream), apart):
                    yield pair
            return
        waiting: dict[int, Array] = {}
        given = 0
        for number, frame in enumerate(container.decode(stream)):
            begins = number % every == 2 or (every <= 2 and number % 2 == 0)
            if begins:
                waiting[number + apart] = luma(frame)
            if number in waiting:
                yield waiting.pop(number), luma(frame)
                given += 1
                if given == PAIRS:
                    return


def _next_pair(frames: Iterator[av.VideoFrame], apart: int) -> tuple[Array, Array] | None:
    first = None
    for number, frame in enumerate(frames):
        if number == 1:
            first = luma(frame)
        elif first is not None and number == 1 + apart:
            return first, luma(frame)
    return None


def luma(frame: av.VideoFrame) -> Array:
    """A frame's luma in levels 0 to 255."""
    plane: Array = frame.to_ndarray(format="gray").astype(np.float64)
    return plane
