"""Field of view and pixels on the subject, and what they are good for."""

import math
from typing import Literal

from eager_lens.core.calculator import Calculator
from eager_lens.core.validation import Count, Plain, Positive, at_least

Purpose = Literal["inspect", "identify", "recognise", "observe", "detect", "monitor", "nothing"]

LEAST_PX_PER_M: tuple[tuple[float, Purpose], ...] = (
    (1000, "inspect"),
    (250, "identify"),
    (125, "recognise"),
    (62.5, "observe"),
    (25, "detect"),
    (12.5, "monitor"),
)
"""Least pixels per metre by purpose (IEC 62676-4:2014)."""

LENSES_MM = (2.8, 4.0, 6.0, 8.0, 12.0, 16.0, 25.0, 35.0, 50.0)
"""Focal lengths that fixed lenses usually come in."""


class LensViewIn(Plain):
    """A sensor, a lens and a distance."""

    sensor_width_mm: Positive
    focal_mm: Positive
    width_px: Count
    distance_m: Positive


class LensViewOut(Plain):
    """The view."""

    view_deg: float
    scene_width_m: float
    px_per_m: float
    good_for: Purpose


def scene_width_m(sensor_width_mm: float, focal_mm: float, distance_m: float) -> float:
    """Width in m of what is seen at a distance, by a pinhole."""
    return distance_m * sensor_width_mm / focal_mm


def view_deg(sensor_width_mm: float, focal_mm: float) -> float:
    """Horizontal angle of view in degrees, by a pinhole."""
    return math.degrees(2 * math.atan(sensor_width_mm / (2 * focal_mm)))


def good_for(px_per_m: float) -> Purpose:
    """The most demanding purpose for a pixel density in px/m."""
    return next((purpose for least, purpose in LEAST_PX_PER_M if at_least(px_per_m, least)), "nothing")


def _run(given: LensViewIn) -> LensViewOut:
    width_m = scene_width_m(given.sensor_width_mm, given.focal_mm, given.distance_m)
    px_per_m = given.width_px / width_m
    return LensViewOut(
        view_deg=view_deg(given.sensor_width_mm, given.focal_mm),
        scene_width_m=width_m,
        px_per_m=px_per_m,
        good_for=good_for(px_per_m),
    )


LENS_VIEW = Calculator(
    name="lens-view",
    title="What a lens sees",
    formula="scene width = distance x sensor / focal; view = 2 atan(sensor / (2 focal)); px per m = width_px / scene width",
    source="pinhole; purposes by IEC 62676-4:2014",
    input_model=LensViewIn,
    output_model=LensViewOut,
    run=_run,
)
