"""A camera in its place: what it sees, how large a person is in it, and where it sees nothing.

The camera is aimed so that a face at the target stands in the middle of the picture. Distances are over the ground, in m.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from eager_lens.core.optics.lens import LEAST_PX_PER_M, Purpose, good_for, scene_width_m, view_deg

FACE_M = 1.6
"""Height of a face over the ground: what is to be told from the picture."""

PX_PER_M: dict[Purpose, float] = {purpose: least for least, purpose in LEAST_PX_PER_M}
"""Least pixels per metre by purpose (IEC 62676-4:2014)."""


class Placing(NamedTuple):
    """What is seen at the target, and around it.

    Attributes:
        sight_m: the line from the lens to the face. view_deg, upright_deg: angles of view across and upright.
        width_m: how wide the view is there. px_per_m: pixels on a metre there. good_for: what that serves.
        tilt_deg: how far the camera looks down.
        blind_m: the strip before the camera whose ground it does not see; None where it sees no ground at all.
        reach_m: by purpose, the farthest ground distance at which it is served; purposes out of reach are left out.
    """

    sight_m: float
    view_deg: float
    upright_deg: float
    width_m: float
    px_per_m: float
    good_for: Purpose
    tilt_deg: float
    blind_m: float | None
    reach_m: dict[Purpose, float]


def placing(
    sensor_width_mm: float, focal_mm: float, width_px: int, height_px: int, height_m: float, target_m: float
) -> Placing:
    """A camera at a height that looks at a face so far away; square pixels, a pinhole."""
    drop_m = height_m - FACE_M
    sight = math.hypot(target_m, drop_m)
    width_m = scene_width_m(sensor_width_mm, focal_mm, sight)
    px_per_m = width_px / width_m
    upright = view_deg(sensor_width_mm * height_px / width_px, focal_mm)
    tilt = math.degrees(math.atan2(drop_m, target_m))
    lowest = tilt + upright / 2
    # From straight down on, the ground is seen up to the camera's foot.
    blind_m = None if lowest <= 0 else 0.0 if lowest >= 90 else height_m / math.tan(math.radians(lowest))
    reach = {}
    for purpose, least in PX_PER_M.items():
        farthest = width_px * focal_mm / sensor_width_mm / least
        if farthest > abs(drop_m):
            reach[purpose] = math.sqrt(farthest**2 - drop_m**2)
    return Placing(
        sight,
        view_deg(sensor_width_mm, focal_mm),
        upright,
        width_m,
        px_per_m,
        good_for(px_per_m),
        tilt,
        blind_m,
        reach,
    )


def focal_for(purpose: Purpose, sensor_width_mm: float, width_px: int, sight_m: float) -> float:
    """The shortest focal length in mm that serves a purpose at a distance: px/m x distance x sensor / width_px."""
    return PX_PER_M[purpose] * sight_m * sensor_width_mm / width_px


def width_for(purpose: Purpose, sensor_width_mm: float, focal_mm: float, sight_m: float) -> int:
    """The fewest pixels across that serve a purpose with a lens."""
    return math.ceil(PX_PER_M[purpose] * scene_width_m(sensor_width_mm, focal_mm, sight_m) - 1e-9)
