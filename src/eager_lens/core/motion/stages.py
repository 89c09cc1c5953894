"""What the detector looks at on one picture, step by step, and why an area does or does not count."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from eager_lens.core.motion.day import WARM_UP_S
from eager_lens.core.motion.detector import Area, Detector, Mask, threshold_of
from eager_lens.core.motion.kinds import kind_of
from eager_lens.core.motion.lens import GroundBox, Picture
from eager_lens.core.motion.small import FPS
from eager_lens.core.motion.source import Source
from eager_lens.core.units import figure
from eager_lens.core.values.motion_rule import MotionRule


class DetectorStep(NamedTuple):
    """A step: its name, its picture, and what is done there."""

    name: str
    picture: Picture
    words: str


class Reason(NamedTuple):
    """An area, whether it counts, and why not."""

    box: GroundBox
    is_counted: bool
    words: str


LOOKS_BACK_S = 60.0


def begins_at(stretches: Sequence[tuple[float, float]], at_s: float) -> float:
    """From when on a detector has to look to see a moment as it was seen: from the start of the stretch that was watched,
    and at most a minute back."""
    begins = next((begins for begins, ends in stretches if begins <= at_s <= ends), at_s)
    return max(0.0, begins - WARM_UP_S, at_s - LOOKS_BACK_S)


def stages_at(
    source: Source, rule: MotionRule, at_s: float, since_s: float
) -> tuple[tuple[DetectorStep, ...], tuple[Reason, ...]]:
    """The steps on the picture of a moment, and its areas, when the detector looks from an earlier moment on."""
    detector = Detector(rule, source.lens, FPS)
    areas: list[Area] = []
    counted: list[Area] = []
    picture = source.picture(at_s)
    for back in range(round((at_s - since_s) * FPS), -1, -1):
        picture = source.picture(at_s - back / FPS)
        areas = detector.step(picture)
        counted = detector.counting(areas)
    times = figure(threshold_of(rule.sensitivity), 2)
    steps = (
        DetectorStep("Picture", picture, "As the detector gets it: 160 × 90 pixels, grey."),
        DetectorStep(
            "Background",
            detector.background,
            "What is usually there; it adapts slowly, and hardly at all where something moves.",
        ),
        DetectorStep(
            "Difference",
            np.clip(128 + 2 * detector.difference, 0, 255),
            "Picture minus background, without changes of overall brightness; shown twice as strong.",
        ),
        DetectorStep(
            "Over the threshold",
            _lit(detector.over),
            f"Changed by more than {times} times the noise there (sensitivity).",
        ),
        DetectorStep(
            "Neighbours agree",
            _lit(detector.moving),
            "Single pixels are dropped: five of nine neighbours have to agree.",
        ),
    )
    return steps, tuple(Reason(one.box, one in counted, why(one, rule, one in counted)) for one in areas)


def why(area: Area, rule: MotionRule, is_counted: bool) -> str:
    """Why an area counts or not."""
    tall, kind = figure(area.tall_m, 2), kind_of(area.tall_m, area.wide_m)
    if is_counted:
        return f"{tall} m tall: counts"
    if area.tall_m < rule.smallest_m:
        return f"{tall} m: too small"
    if area.tall_m > rule.largest_m:
        return f"{tall} m: too large"
    if rule.kinds and kind not in rule.kinds:
        return f"taken for {'an ' if kind == 'animal' else 'a '}{kind}" if kind else "of no known object class"
    if area.pictures < rule.shortest_s * FPS:
        return f"{figure(area.pictures / FPS, 2)} s: too short"
    return "has not crossed the line"


def _lit(mask: Mask) -> Picture:
    return np.where(mask, np.float32(235), np.float32(24)).astype(np.float32)
