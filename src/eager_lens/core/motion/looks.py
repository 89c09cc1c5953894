"""How those who come along look: their height, and how light or dark their clothing is by day and in infrared."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from eager_lens.core.motion.view import SIZES_M
from eager_lens.core.values.kinds import Kind

CHILD_SHARE = 0.25
"""So many of the people that come along are children (assumed)."""

CHILD_M, ADULT_M = (0.9, 1.45), (1.5, 1.9)

CLOTHING = (25.0, 190.0)
"""Grey levels of clothing by day, each as likely as the others (assumed): on ground of 96 to 126 some hardly stand out."""

INFRARED = (0.5, 1.1)
"""How much of the camera's infrared clothing gives back, beside cloth that gives back much (assumed)."""


class Looks(NamedTuple):
    """How somebody looks.

    Attributes:
        tall_m: height. upper, lower: grey levels by day, of a vehicle its body and its windows.
        infrared: how much of the camera's infrared comes back; 1: as from cloth that gives back much.
    """

    tall_m: float
    upper: float = 52.0
    lower: float = 52.0
    infrared: float = 1.0

    @property
    def is_child(self) -> bool:
        """Whether it is a child, if it is a person."""
        return self.tall_m <= CHILD_M[1]


def usual(kind: Kind) -> Looks:
    """Somebody of the usual height, in dark clothing."""
    return Looks(SIZES_M[kind][1])


def drawn(kind: Kind, chance: np.random.Generator, is_child: bool | None = None) -> Looks:
    """Somebody at random; ``is_child`` where a person is to be one, or is not."""
    tall_m = SIZES_M[kind][1]
    child = chance.random() < CHILD_SHARE
    if kind == "person":
        tall_m = float(chance.uniform(*(CHILD_M if (child if is_child is None else is_child) else ADULT_M)))
    upper, lower = (float(one) for one in chance.uniform(*CLOTHING, 2))
    return Looks(tall_m, upper, lower, float(chance.uniform(*INFRARED)))
