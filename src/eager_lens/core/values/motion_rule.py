"""A motion rule: where it looks, how sensitive it is, which sizes, kinds and directions count, and for how long something
has to move."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from eager_lens.core.validation import Number, Plain, Share
from eager_lens.core.values.kinds import Kind

Corner = tuple[Share, Share]
"""A point of the picture as shares of its width and height, from the top left."""

LEAST_AREA = 0.0004
"""A zone of less than this share of the picture is none that anybody meant."""

LEAST_LINE = 0.03

MOST_ZONES = 20

Direction = Literal["either way", "to the right", "to the left"]
"""Across a line, as somebody sees it who stands at its first end and looks to its second."""


class Zone(Plain):
    """A polygon on the picture, to look at or to leave out."""

    corners: Annotated[tuple[Corner, ...], Field(min_length=3, max_length=40)]
    leave_out: bool = False

    @model_validator(mode="after")
    def _is_a_shape(self) -> Zone:
        if crosses_itself(self.corners):
            raise ValueError("the zone crosses itself; drag its corners so that no side crosses another")
        if area_of(self.corners) < LEAST_AREA:
            raise ValueError("the zone has no area; drag its corners apart")
        return self


class CrossingLine(Plain):
    """A line on the picture that somebody crosses, and which way counts."""

    begins: Corner
    ends: Corner
    direction: Direction = "either way"

    @model_validator(mode="after")
    def _is_a_line(self) -> CrossingLine:
        if math.dist(self.begins, self.ends) < LEAST_LINE:
            raise ValueError("the line is too short to be crossed; drag its ends apart")
        return self

    def is_crossed_by(self, before: Corner, after: Corner) -> bool:
        """Whether a step from one point to the next crosses the line the way that counts."""
        if not cross(self.begins, self.ends, before, after):
            return False
        to_the_right = side(self.begins, self.ends, after) > 0
        return self.direction == "either way" or to_the_right == (self.direction == "to the right")


class MotionRule(Plain):
    """A rule.

    Attributes:
        sensitivity: 0 to 100; the higher, the smaller a change of brightness counts.
        smallest_m, largest_m: heights that count, by where the feet stand on the ground.
        shortest_s: for so long something has to move.
        zones: where it looks (none: everywhere), and what it leaves out.
        line: what line to cross by the feet; None: nothing has.
        kinds: what counts, where the camera tells kinds apart; none: everything.
    """

    sensitivity: Annotated[Number, Field(le=100)] = 50
    smallest_m: Annotated[Number, Field(le=20)] = 0.4
    largest_m: Annotated[Number, Field(gt=0, le=50)] = 8
    shortest_s: Annotated[Number, Field(le=30)] = 0.4
    zones: Annotated[tuple[Zone, ...], Field(max_length=MOST_ZONES)] = ()
    line: CrossingLine | None = None
    kinds: Annotated[tuple[Kind, ...], Field(max_length=5)] = ()

    @model_validator(mode="after")
    def _sizes_in_order(self) -> MotionRule:
        if self.smallest_m >= self.largest_m:
            raise ValueError(f"the smallest size {self.smallest_m:g} m is not under the largest {self.largest_m:g} m")
        return self


ARROW_SHARE = 0.12
"""How long the arrows of a line are, as a share of the picture's height."""


def arrows(line: CrossingLine, aspect: float) -> tuple[tuple[Corner, Corner], ...]:
    """The arrows of a line, on screen and on paper: from its middle to the sides to which it counts, in shares of a picture
    whose height is ``aspect`` times its width."""
    (x1, y1), (x2, y2) = ((x, y * aspect) for x, y in (line.begins, line.ends))
    length = math.dist((x1, y1), (x2, y2))
    right = ((y1 - y2) / length * ARROW_SHARE * aspect, (x2 - x1) / length * ARROW_SHARE * aspect)
    x, y = (x1 + x2) / 2, (y1 + y2) / 2
    passages = {"to the right": (1,), "to the left": (-1,), "either way": (1, -1)}[line.direction]
    return tuple(((x, y / aspect), (x + way * right[0], (y + way * right[1]) / aspect)) for way in passages)


def area_of(corners: tuple[Corner, ...]) -> float:
    """Area of a polygon as a share of the picture, by the shoelace formula."""
    around = zip(corners, (*corners[1:], corners[0]), strict=True)
    return abs(sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in around)) / 2


def crosses_itself(corners: tuple[Corner, ...]) -> bool:
    """Whether two sides that are no neighbours meet."""
    sides = list(zip(corners, (*corners[1:], corners[0]), strict=True))
    for at, one in enumerate(sides):
        for other_at in range(at + 2, len(sides)):
            if at == 0 and other_at == len(sides) - 1:
                continue
            if cross(*one, *sides[other_at]):
                return True
    return False


def side(a: Corner, b: Corner, point: Corner) -> float:
    """On which side of the line from a to b a point lies: above 0 is to the right as the picture is seen."""
    return (b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0])


def cross(a: Corner, b: Corner, c: Corner, d: Corner) -> bool:
    """Whether the stretch from a to b and that from c to d cross."""
    return side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0
