"""What lies on a scene's picture, as shares of its width and height, and how it is moved. No widget."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from eager_lens.core.values.motion_rule import Direction

Point = tuple[float, float]
Corners = tuple[Point, ...]


class ZoneShown(NamedTuple):
    """A zone: its corners in shares of the picture, whether it is left out, and whether it is only proposed."""

    corners: Corners
    leave_out: bool
    proposed: bool = False


class LineShown(NamedTuple):
    """A line to cross, with the direction that counts."""

    begins: Point
    ends: Point
    direction: Direction = "either way"


class Marked(NamedTuple):
    """A box on the picture (shares) with a word: a trigger, or somebody who is really there."""

    box: tuple[float, float, float, float]
    words: str
    false: bool


class Stick(NamedTuple):
    """A measure that stands on the ground: its foot and its height in shares of the picture, and a word."""

    foot: Point
    high: float
    words: str


def moved_by(corners: Corners, dx: float, dy: float) -> Corners:
    """A shape moved, as far as it stays in the picture."""
    dx = min(max(dx, -min(x for x, _ in corners)), 1 - max(x for x, _ in corners))
    dy = min(max(dy, -min(y for _, y in corners)), 1 - max(y for _, y in corners))
    return tuple((x + dx, y + dy) for x, y in corners)


def with_corner(corners: Corners, at: int, point: Point) -> Corners:
    """A shape with one corner elsewhere, inside the picture."""
    inside = (min(1.0, max(0.0, point[0])), min(1.0, max(0.0, point[1])))
    return tuple(inside if number == at else corner for number, corner in enumerate(corners))


def with_new_corner(corners: Corners, point: Point) -> Corners:
    """A shape with one corner more, on the side that is nearest to a point."""
    sides = list(zip(corners, (*corners[1:], corners[0]), strict=True))
    at = min(range(len(sides)), key=lambda number: distance_to_side(point, *sides[number]))
    return (*corners[: at + 1], point, *corners[at + 1 :])


def without_corner(corners: Corners, at: int) -> Corners:
    """A shape with one corner less; three are left at least."""
    return corners if len(corners) <= 3 else (*corners[:at], *corners[at + 1 :])


def distance_to_side(point: Point, a: Point, b: Point) -> float:
    """How far a point is from the stretch between two others."""
    length = math.dist(a, b)
    if length == 0:
        return math.dist(point, a)
    along = ((point[0] - a[0]) * (b[0] - a[0]) + (point[1] - a[1]) * (b[1] - a[1])) / length**2
    along = min(1.0, max(0.0, along))
    return math.dist(point, (a[0] + along * (b[0] - a[0]), a[1] + along * (b[1] - a[1])))


def nearest_corner(corners: Sequence[Point], point: Point, reach: Point) -> int | None:
    """The corner within reach (across and down) of a point that is nearest to it."""

    def far(corner: Point) -> float:
        return math.hypot((corner[0] - point[0]) / reach[0], (corner[1] - point[1]) / reach[1])

    near = [(far(corner), at) for at, corner in enumerate(corners) if far(corner) <= 1]
    return min(near)[1] if near else None
