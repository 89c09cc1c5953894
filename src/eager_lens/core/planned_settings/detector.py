"""A camera's motion rule as the cell detector of the open protocol takes it (IEC 62676-2-32): cells of the picture in place of
zones, a number of cells in place of a size, delays in place of a shortest time."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.job.model import Camera
from eager_lens.core.optics.lens import scene_width_m
from eager_lens.core.values.motion_rule import Corner, MotionRule

COLUMNS, ROWS = 22, 18
"""Cells of the picture where a device does not say how many it has, as the standard's example has them."""

Cells = tuple[tuple[bool, ...], ...]
"""Rows of cells, from the top left; ``True``: it looks there."""

FAR_M = 10.0
"""How far off a target is taken to be where the job does not say."""

SLIM = 0.4
"""Somebody upright is so many times as wide as tall."""

OFF_DELAY_S = 1.0
"""A rule ends so long after the last movement. The recorder adds its post-recording; a longer delay here would add to that."""

DIRECTIONS = {"either way": "Any", "to the right": "Right", "to the left": "Left"}


class DetectorSet(NamedTuple):
    """A motion detector as it is set.

    Attributes:
        sensitivity: 0 to 100. cells: where it looks. least_cells: so many of them at once count as motion.
        on_ms, off_ms: for so long there must be motion until it tells it, and none until it tells the end.
        line: two points in shares of the picture, with its direction; None: no line.
    """

    sensitivity: float
    cells: Cells
    least_cells: int
    on_ms: int
    off_ms: int
    line: tuple[Corner, Corner] | None = None
    line_direction: str = "Any"


def detector_of(camera: Camera, columns: int = COLUMNS, rows: int = ROWS) -> DetectorSet:
    """A camera's rule as a cell detector takes it; a camera without one gets the usual."""
    rule = camera.motion_rule or MotionRule()
    line = rule.line
    return DetectorSet(
        sensitivity=round(rule.sensitivity),
        cells=cells_of(rule, columns, rows),
        least_cells=_least_cells(camera, rule, columns, rows),
        # What is told later than the pre-recording reaches back has lost its beginning.
        on_ms=round(min(rule.shortest_s, camera.pre_recording_s) * 1000),
        off_ms=round(min(OFF_DELAY_S, camera.post_recording_s) * 1000),
        line=(line.begins, line.ends) if line is not None else None,
        line_direction=DIRECTIONS[line.direction] if line is not None else "Any",
    )


def approximated(camera: Camera) -> tuple[str, ...]:
    """What of a camera's rule a cell detector takes only roughly, or not at all."""
    rule = camera.motion_rule or MotionRule()
    told = []
    if any(rule.zones):
        told.append("zones by whole cells of the picture")
    far = f"{camera.target_m or FAR_M:g} m away"
    told.append(f"the smallest size {rule.smallest_m:g} m as a number of cells, {far}")
    told.append(f"nothing about the largest size {rule.largest_m:g} m")
    if rule.shortest_s > camera.pre_recording_s:
        told.append(
            f"a delay of {camera.pre_recording_s:g} s instead of {rule.shortest_s:g} s: pre-recording goes no further back"
        )
    if rule.kinds:
        told.append(f"no kinds: {', '.join(rule.kinds)} are not told apart")
    return tuple(told)


def cells_of(rule: MotionRule, columns: int, rows: int) -> Cells:
    """The cells whose middle lies in a zone to look at, and in none to leave out."""
    looks = [zone.corners for zone in rule.zones if not zone.leave_out]
    leaves = [zone.corners for zone in rule.zones if zone.leave_out]

    def counts(column: int, row: int) -> bool:
        middle = ((column + 0.5) / columns, (row + 0.5) / rows)
        seen = not looks or any(is_inside(middle, corners) for corners in looks)
        return seen and not any(is_inside(middle, corners) for corners in leaves)

    return tuple(tuple(counts(column, row) for column in range(columns)) for row in range(rows))


def is_inside(point: Corner, corners: tuple[Corner, ...]) -> bool:
    """Whether a point is in a polygon, by the crossings of a ray to the right."""
    x, y = point
    inside = False
    for (x1, y1), (x2, y2) in zip(corners, (*corners[1:], corners[0]), strict=True):
        if (y1 > y) != (y2 > y) and x < (x2 - x1) * (y - y1) / (y2 - y1) + x1:
            inside = not inside
    return inside


def _least_cells(camera: Camera, rule: MotionRule, columns: int, rows: int) -> int:
    width_m = scene_width_m(camera.sensor_width_mm, camera.focal_mm, camera.target_m or FAR_M)
    height_m = width_m * camera.height_px / camera.width_px
    across, upright = rule.smallest_m * SLIM / width_m * columns, rule.smallest_m / height_m * rows
    return max(1, min(round(across * upright), columns * rows // 2))
