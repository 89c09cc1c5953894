"""What is in a clip's pictures: detail, noise, motion, estimated from pairs of frames about 1/15 s apart.

The estimators are those of the ``est_`` columns of the fit's data (``tools/stream_rate/README.md``). A clip was
compressed, which takes away noise and fine detail: at low quality both come out too low.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

from eager_lens.core.clip.container import ClipRate, opened, refused
from eager_lens.core.errors import EagerLensError, RefusedInput
from eager_lens.core.sizing.stream_model import BLOCK, SHORT_S

Array = NDArray[np.float64]
Luma = NDArray[np.uint8]

STRIPE_ROWS = 32 * BLOCK
MOST_PX = 2 * 3840 * 2160

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


class Estimate:
    """The properties of a fixed view, from pairs of luma pictures that are given one after the other.

    Of each pair only means over blocks are kept, and pictures are gone through in stripes: a picture of 35 megapixels
    takes some hundred MB, whatever the number of pairs.
    """

    def __init__(self) -> None:
        self._differences: list[NDArray[np.float32]] = []
        self._sum: NDArray[Any] | None = None
        self._in_bands = False

    def add(self, first: NDArray[Any], later: NDArray[Any]) -> None:
        """Take a pair in: pictures of one size, 1/15 s apart.

        Raises:
            ValueError: when they are smaller than a block, or of another size than those before.
        """
        if min(first.shape) < BLOCK or first.shape != later.shape:
            raise ValueError("no two pictures to estimate from")
        if self._sum is None:
            # 16 pictures of 8 bits come to 12: a sum of them is exact in half the memory.
            self._sum = np.zeros(first.shape, np.uint16 if first.dtype == np.uint8 else np.float64)
        elif self._sum.shape != first.shape:
            raise ValueError("the pictures differ in size")
        self._sum += first
        self._sum += later

        def of_rows(rows: slice) -> Array:
            return block_means(np.abs(_floats(later, rows) - _floats(first, rows)))

        self._differences.append(by_stripes(first.shape[0], of_rows).astype(np.float32))

    def add_large(self, first: NDArray[Any], later: NDArray[Any]) -> None:
        """As ``add``; of large pictures only bands are taken, evenly over the height."""
        bands = bands_of(first.shape)
        self._in_bands = bands is not None
        if bands is None or first.shape != later.shape:
            self.add(first, later)
        else:
            self.add(*(np.concatenate([picture[rows] for rows in bands]) for picture in (first, later)))

    def content(self) -> Content:
        """The properties.

        Raises:
            ValueError: without pairs.
        """
        if self._sum is None:
            raise ValueError("no two pictures to estimate from")
        pictures, total = 2 * len(self._differences), self._sum
        differences = np.stack(self._differences).astype(np.float64)
        floor = np.quantile(differences, 0.25, axis=0)
        floor = np.minimum(floor, 2 * np.median(floor) + 0.3)
        noise = NOISE_OF_DIFFERENCE * float(np.median(floor))
        change = np.sqrt(np.maximum(differences**2 - floor**2, 0.0))
        moves = (change > MOVES_LEVELS) & (change > MOVES_NOISE * floor)
        gradient = picture_gradient(total, pictures, self._in_bands)
        # What noise is left in the mean of so many pictures makes a gradient of its own; it adds in squares.
        left = noise / math.sqrt(pictures) * 2 / math.sqrt(math.pi)
        gradient = np.sqrt(np.maximum(gradient**2 - left**2, 0.0))
        return Content(
            detail=float(gradient.mean()),
            detail_log=float(np.log2(1 + gradient).mean()),
            flat_share=float((gradient < FLAT_GRADIENT).mean()),
            noise_sigma=noise,
            moving_share=float(moves.mean()),
            motion_mad=float(np.where(moves, change, 0.0).mean()),
            luma_mean=float(total.mean(dtype=np.float64)) / pictures,
        )


def estimated(pairs: Iterable[tuple[NDArray[Any], NDArray[Any]]]) -> Content:
    """The properties of a fixed view from pairs of luma pictures of one size, each pair 1/15 s apart.

    Raises:
        ValueError: without pairs, or when pictures are smaller than a block.
    """
    estimate = Estimate()
    for first, later in pairs:
        estimate.add(first, later)
    return estimate.content()


def by_stripes(high: int, of_rows: Callable[[slice], Array]) -> Array:
    """A map over blocks, worked out for some rows of the picture at a time; rows that fill no block are left out."""
    whole = high // BLOCK * BLOCK
    stripes = [slice(top, min(top + STRIPE_ROWS, whole)) for top in range(0, whole, STRIPE_ROWS)]
    return np.concatenate([of_rows(rows) for rows in stripes])


def _floats(picture: NDArray[Any], rows: slice) -> Array:
    part: Array = picture[rows].astype(np.float64)
    return part


def block_means(picture: Array) -> Array:
    """Means over blocks of 8 x 8, what is left at the edges dropped."""
    high, wide = (side // BLOCK for side in picture.shape)
    whole = picture[: high * BLOCK, : wide * BLOCK]
    means: Array = whole.reshape(high, BLOCK, wide, BLOCK).mean(axis=(1, 3))
    return means


def bands_of(shape: tuple[int, ...]) -> list[slice] | None:
    """Bands of rows to take of a picture that is larger than twice 4K; None for one that is taken as a whole.

    At full size within each band: a picture that is made smaller loses the noise and the fine detail that are looked for.
    """
    high, wide = shape
    count, most = high // STRIPE_ROWS, max(1, MOST_PX // (wide * STRIPE_ROWS))
    if high * wide <= MOST_PX or count <= most:
        return None
    tops = [round(at * (count - 1) / max(1, most - 1)) * STRIPE_ROWS for at in range(most)]
    return [slice(top, top + STRIPE_ROWS) for top in dict.fromkeys(tops)]


def picture_gradient(picture: NDArray[Any], over: float = 1.0, in_bands: bool = False) -> Array:
    """Mean of the absolute differences to the right and down, by block, of a picture divided by ``over``; one that is put
    together of bands has nothing below the last row of each."""

    def of_rows(rows: slice) -> Array:
        # The row below the stripe too, for the differences down from its last; the picture's last has none.
        part = _floats(picture, slice(rows.start, rows.stop + (not in_bands))) / over
        if len(part) == rows.stop - rows.start:
            part = np.concatenate([part, part[-1:]])
        across = np.abs(np.diff(part[:-1], axis=1, append=part[:-1, -1:]))
        return block_means((across + np.abs(np.diff(part, axis=0))) / 2)

    return by_stripes(picture.shape[0], of_rows)


def content_of(path: Path, clip: ClipRate, step: Callable[[float], None] = lambda share: None) -> Content:
    """Decode pairs of frames spread over a clip and estimate what is in them.

    Raises:
        RefusedInput: when no frame can be decoded.
    """
    estimate = Estimate()
    try:
        for at, pair in enumerate(_pairs(path, clip), 1):
            estimate.add_large(*pair)
            step(at / PAIRS)
        return estimate.content()
    except EagerLensError as error:
        if isinstance(error, RefusedInput):
            raise refused(path, "its pictures cannot be decoded; its rate can be used all the same") from error
        raise
    except (av.error.FFmpegError, ValueError) as error:
        raise refused(path, "its pictures cannot be decoded; its rate can be used all the same") from error


def _pairs(path: Path, clip: ClipRate) -> Iterator[tuple[Luma, Luma]]:
    """Pairs of frames that are no key frames, since those are coded finer than the others."""
    apart = max(1, round(SHORT_S * clip.fps))
    every = max(apart + 1, clip.frames.size_bytes.size // PAIRS)
    with opened(path) as (container, stream):
        # Threads that work on frames of their own each hold some; those within a frame hold none.
        stream.thread_type = "SLICE"
        seekable = stream.duration is not None and clip.duration_s > 20
        if seekable:
            for at in range(PAIRS):
                target = (stream.start_time or 0) + int(at * (stream.duration or 0) / PAIRS)
                container.seek(target, stream=stream)
                if pair := _next_pair(container.decode(stream), apart):
                    yield pair
            return
        waiting: dict[int, Luma] = {}
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


def _next_pair(frames: Iterator[av.VideoFrame], apart: int) -> tuple[Luma, Luma] | None:
    first = None
    for number, frame in enumerate(frames):
        if number == 1:
            first = luma(frame)
        elif first is not None and number == 1 + apart:
            return first, luma(frame)
    return None


def luma(frame: av.VideoFrame) -> Luma:
    """A frame's luma in levels 0 to 255."""
    return frame.to_ndarray(format="gray").astype(np.uint8, copy=False)
