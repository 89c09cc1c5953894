"""The geometry of a fixed camera on the small picture that a detector looks at.

Pictures are grey, 160 by 90, in levels of 0 to 255 as 32-bit floats. A pinhole camera looks over flat ground: a foot at d
metres stands ``focal_px x height / d`` pixels under the horizon, and what is H metres tall is ``focal_px x H / d`` tall.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.motion.view import SIZES_M
from eager_lens.core.values.kinds import Kind

Picture = NDArray[np.float32]


class GroundBox(NamedTuple):
    """Where something is seen, in pixels."""

    left: float
    top: float
    right: float
    bottom: float

    def touches(self, other: GroundBox, near_px: float = 0.0) -> bool:
        """Whether two boxes touch, or are closer than a number of pixels."""
        return (
            self.left < other.right + near_px
            and self.right > other.left - near_px
            and self.top < other.bottom + near_px
            and self.bottom > other.top - near_px
        )

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle."""
        return (self.left + self.right) / 2, (self.top + self.bottom) / 2

    @property
    def foot(self) -> tuple[float, float]:
        """The middle of its lower side: where it stands."""
        return (self.left + self.right) / 2, self.bottom


@dataclass(frozen=True)
class Lens:
    """The camera's geometry on the picture: focal length and horizon in pixels, height in metres."""

    focal_px: float
    horizon_px: float
    height_m: float

    def foot(self, across_m: float, away_m: float) -> tuple[float, float]:
        """Where a point of the ground is seen."""
        return WIDE / 2 + self.focal_px * across_m / away_m, self.horizon_px + self.focal_px * self.height_m / away_m

    def away_m(self, row_px: float) -> float:
        """How far off the ground is that is seen in a row; far off at the horizon and above."""
        under = row_px - self.horizon_px
        return self.focal_px * self.height_m / under if under > 0.5 else 10_000.0

    def box(self, kind: Kind, across_m: float, away_m: float, tall_m: float | None = None) -> GroundBox:
        """Where something of a kind is seen that stands there, of the kind's usual height or of another."""
        wide_m, high_m = SIZES_M[kind]
        if tall_m is not None:
            wide_m, high_m = wide_m * tall_m / high_m, tall_m
        x, y = self.foot(across_m, away_m)
        half, high = self.focal_px * wide_m / away_m / 2, self.focal_px * high_m / away_m
        return GroundBox(x - half, y - high, x + half, y)


def lens_with(view_deg: float, horizon: float, height_m: float) -> Lens:
    """The geometry of a camera with this horizontal field, horizon (share of the picture's height) and height."""
    return Lens(WIDE / 2 / math.tan(math.radians(view_deg) / 2), horizon * HIGH, height_m)
