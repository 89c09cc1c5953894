"""Where the boxes of a layered diagram stand: a tree of stacks, left to right, each subtree in a band of its own.

A stack is one or more boxes below one another in one column (a router under the internet, a switch under its bridge);
what hangs on any of them stands in the next column. Since every subtree has its own band of heights, no two boxes
overlap and no line of the tree crosses another.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import NamedTuple


class Size(NamedTuple):
    """Width and height of a box."""

    width: float
    height: float


class Spot(NamedTuple):
    """Where a box stands: its left upper corner, its size, and its column, from 0."""

    x: float
    y: float
    width: float
    height: float
    column: int


@dataclass
class Stack:
    """Boxes below one another, by id, and the stacks in the next column that hang on them."""

    boxes: list[str]
    below: list[Stack] = field(default_factory=list)


class Gaps(NamedTuple):
    """Distances: between columns, between boxes of neighbouring bands, and between the boxes of a stack."""

    column: float = 38
    band: float = 8
    stack: float = 14


USUAL_GAPS = Gaps()


def placed(roots: Sequence[Stack], sizes: dict[str, Size], gaps: Gaps = USUAL_GAPS) -> dict[str, Spot]:
    """A place for every box. Columns are as wide as their widest box; a stack stands half-way along its band."""
    columns: list[list[Stack]] = []
    _by_column(roots, 0, columns)
    lefts, x = [], 0.0
    for stacks in columns:
        lefts.append(x)
        x += max(sizes[box].width for stack in stacks for box in stack.boxes) + gaps.column
    spots: dict[str, Spot] = {}
    cursor = 0.0
    for root in roots:
        cursor = _place(root, 0, cursor, lefts, sizes, gaps, spots) + 2 * gaps.band
    return spots


def _by_column(stacks: Sequence[Stack], column: int, columns: list[list[Stack]]) -> None:
    if stacks and len(columns) <= column:
        columns.append([])
    for stack in stacks:
        columns[column].append(stack)
        _by_column(stack.below, column + 1, columns)


def _place(
    stack: Stack,
    column: int,
    top: float,
    lefts: list[float],
    sizes: dict[str, Size],
    gaps: Gaps,
    spots: dict[str, Spot],
) -> float:
    """Place a stack and all that hangs on it from ``top`` downward; the height at which the next band begins."""
    height = sum(sizes[box].height for box in stack.boxes) + gaps.stack * (len(stack.boxes) - 1)
    bottom = top
    for child in stack.below:
        bottom = _place(child, column + 1, bottom, lefts, sizes, gaps, spots)
    end = max(bottom, top + height + gaps.band)
    if stack.below and bottom < end:
        # The stack is taller than what hangs on it: that stands half-way along it.
        _shift(stack.below, (end - bottom) / 2, spots)
    if stack.below:
        first, last = stack.below[0].boxes, stack.below[-1].boxes
        middle = (spots[first[0]].y + spots[last[-1]].y + spots[last[-1]].height) / 2
    else:
        middle = (top + end - gaps.band) / 2
    y = min(max(middle - height / 2, top), end - gaps.band - height)
    for box in stack.boxes:
        spots[box] = Spot(lefts[column], y, *sizes[box], column)
        y += sizes[box].height + gaps.stack
    return end


def _shift(stacks: Sequence[Stack], by: float, spots: dict[str, Spot]) -> None:
    for stack in stacks:
        for box in stack.boxes:
            spots[box] = spots[box]._replace(y=spots[box].y + by)
        _shift(stack.below, by, spots)
