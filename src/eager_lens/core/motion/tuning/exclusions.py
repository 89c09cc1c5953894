"""Parts of the picture to leave out: what moves there is nobody, and its whole outline is covered, as a hand would draw it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from scipy.spatial import ConvexHull, QhullError

from eager_lens.core.motion.detector import zone_mask
from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.motion.tuning.scores import Evidence, Table
from eager_lens.core.values.motion_rule import Corner, MotionRule, Zone

LEAST_FALSE = 8
"""With fewer false triggers than this no part is proposed to be left out."""

BUSY_SHARE = 0.06
"""A point belongs to what moves there when false triggers are at least so often over it as over the busiest one."""

OF_ALL = 0.1
"""A part that holds a smaller share of all false triggers is not worth a zone."""

MOST_PARTS = 3

MARGINS_PX = (2, 5)

LARGEST_SHARE = 0.35
"""No zone takes more of the picture than this: a camera looks at something."""


class Moving(NamedTuple):
    """What moves in one place: the points that belong to it, and how many false triggers are over them."""

    points: NDArray[np.bool_]
    triggers: float


def parts_of(evidence: Evidence, table: Table, kept: NDArray[np.bool_]) -> list[Moving]:
    """The places from which false alarms come again and again, the busiest first; for each cause on its own, since
    headlights that sweep over the picture would join the tree to all the rest."""
    rows = table[kept & evidence.false(table)]
    if len(rows) < LEAST_FALSE:
        return []
    parts = [part for cause in np.unique(rows["cause"]) for part in _parts(rows[rows["cause"] == cause], len(rows))]
    return sorted(parts, key=lambda one: -one.triggers)[:MOST_PARTS]


def _parts(rows: Table, of_all: int) -> list[Moving]:
    if len(rows) < OF_ALL * of_all:
        return []
    heat = _heat(rows)
    busy = ndimage.binary_opening(heat >= max(2.0, BUSY_SHARE * heat.max()), structure=np.ones((3, 3)))
    labels, many = ndimage.label(busy, structure=np.ones((3, 3)))
    left, top, right, bottom = rows["box"].T.astype(np.intp)
    middles = labels[(top + bottom - 1) // 2, (left + right - 1) // 2]
    found = [Moving(labels == at, float((middles == at).sum())) for at in range(1, many + 1)]
    return [one for one in found if one.triggers >= OF_ALL * of_all]


def _heat(rows: Table) -> NDArray[np.float64]:
    """How many boxes lie over each point."""
    steps = np.zeros((HIGH + 1, WIDE + 1))
    left, top, right, bottom = rows["box"].T.astype(np.intp)
    for ys, xs, sign in ((top, left, 1), (top, right, -1), (bottom, left, -1), (bottom, right, 1)):
        np.add.at(steps, (ys, xs), sign)
    heat: NDArray[np.float64] = steps.cumsum(axis=0).cumsum(axis=1)[:HIGH, :WIDE]
    return heat


def shapes_of(part: Moving) -> Iterator[Zone]:
    """Zones that cover a part: its outline and the box around it, with more and less margin."""
    ys, xs = np.nonzero(part.points)
    for margin_px in MARGINS_PX:
        left, right = xs.min() - margin_px, xs.max() + 1 + margin_px
        top, bottom = ys.min() - margin_px, ys.max() + 1 + margin_px
        box = _zone([(left, top), (right, top), (right, bottom), (left, bottom)])
        outline = _zone(_outline(part.points, margin_px))
        for one in (outline, box):
            if one is not None and left_out_share((one,)) <= LARGEST_SHARE:
                yield one


def _outline(points: NDArray[np.bool_], margin_px: int) -> list[tuple[float, float]]:
    """The convex hull of the points and a margin around them, with corners that hardly show left out."""
    grown = np.pad(ndimage.binary_dilation(np.pad(points, margin_px), iterations=margin_px), 1)
    ys, xs = np.nonzero(grown)
    shift = margin_px + 1
    corners = (
        np.concatenate([np.column_stack((xs + across, ys + down)) for across in (0, 1) for down in (0, 1)]) - shift
    )
    try:
        around = [tuple(float(one) for one in corner) for corner in corners[ConvexHull(corners).vertices]]
    except QhullError:
        return []
    while len(around) > 10:
        # The corner whose loss takes least of the area.
        areas = [_triangle(around[at - 1], around[at], around[(at + 1) % len(around)]) for at in range(len(around))]
        around.pop(int(np.argmin(areas)))
    return [(x, y) for x, y in around]


def _triangle(a: tuple[float, ...], b: tuple[float, ...], c: tuple[float, ...]) -> float:
    return abs((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])) / 2


def _zone(corners_px: list[tuple[float, float]]) -> Zone | None:
    corners: list[Corner] = [
        (min(1.0, max(0.0, float(x) / WIDE)), min(1.0, max(0.0, float(y) / HIGH))) for x, y in corners_px
    ]
    try:
        return Zone(corners=tuple(corners), leave_out=True)
    except ValueError:
        return None  # cut off at the picture's edge nothing of it is left


def left_out_share(zones: tuple[Zone, ...]) -> float:
    """The share of the picture that exclusion zones take."""
    return 1.0 - float(zone_mask(MotionRule(zones=tuple(one for one in zones if one.leave_out))).mean())
