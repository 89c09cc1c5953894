"""Traits: what can be said of one camera by itself, told once for as long as the camera stays the same object.

The finding rules look at lists of cameras with a trait, instead of each going through all cameras at every edit.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, get_args

from eager_lens.core.assess.figures import CameraFigures, misses_purpose, run_figures
from eager_lens.core.job.model import Camera
from eager_lens.core.power.poe import POWER_CLASSES
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.drive_life import card_years
from eager_lens.core.validation import at_most

Trait = Literal[
    "no place",
    "long cable",
    "weak run",
    "over class",
    "clad cable",
    "outdoor run",
    "zero cable",
    "no cable power",
    "high class",
    "purpose missed",
    "no recorder",
    "several channels",
    "assumed rate",
    "no cap",
    "low cap",
    "worn card",
    "mjpeg",
    "unknown scene",
    "records nothing",
    "nothing after",
    "nearly always",
    "before is short",
]
TRAITS: tuple[Trait, ...] = get_args(Trait)

FIXED_CABLE_M, CHANNEL_M = 90.0, 100.0
"""Longest fixed run, and longest channel with its patch leads, of balanced copper Ethernet (ISO/IEC 11801)."""

NEARLY_ALWAYS_SHARE = 0.8
"""From this recorded share on, recording on movement is called continuous by another name."""

HIGH_CLASS = 4
"""Classes above this need sockets that feed all four pairs."""

NEAR_SHARE = 0.85
"""From this share of what a recorder or a link carries on, a load is called near it."""


LEAST_CARD_YEARS = 2.0
"""A card that wears out sooner is told of: nobody climbs to a camera every year for it."""

LOW_CAP_SHARE = 0.6
"""Under this share of what the picture asks for, a cap costs visible detail."""


def _is_weak(camera: Camera) -> bool:
    run = run_figures(camera)
    return run is not None and not run.voltage_ok


def _is_over_class(camera: Camera) -> bool:
    return camera.power_class is not None and not at_most(camera.power_w, POWER_CLASSES[camera.power_class].device_w)


def _starves(camera: Camera, figures: CameraFigures) -> bool:
    """Whether a cap is far under what the picture asks for at its quality."""
    if camera.measured_mbps is not None or camera.cap_mbps is None or camera.rate_control not in ("capped", "constant"):
        return False
    return camera.cap_mbps < LOW_CAP_SHARE * figures.asked_mbps


def _wears_its_card(camera: Camera, figures: CameraFigures) -> bool:
    if not camera.card_gb or not camera.card_written_tb:
        return False
    years = card_years(camera.card_written_tb, figures.gb_per_day)
    return years is not None and years < LEAST_CARD_YEARS


_TESTS: dict[Trait, Callable[[Camera, CameraFigures], bool]] = {
    "weak run": lambda camera, _: _is_weak(camera),
    "over class": lambda camera, _: _is_over_class(camera),
    "clad cable": lambda camera, _: camera.cable_material == "cca" and camera.power_class is not None,
    "outdoor run": lambda camera, _: camera.outdoor and not camera.surge_noted,
    "zero cable": lambda camera, _: camera.cable_m == 0,
    "no cable power": lambda camera, _: camera.power_class is None,
    "high class": lambda camera, _: (camera.power_class or 0) > HIGH_CLASS,
    "no place": lambda camera, _: not camera.place.strip(),
    "long cable": lambda camera, _: camera.cable_m is not None and not at_most(camera.cable_m, FIXED_CABLE_M),
    "purpose missed": lambda camera, _: misses_purpose(camera),
    "no recorder": lambda camera, _: not camera.registered,
    "several channels": lambda camera, _: len(camera.registered) > 1,
    "assumed rate": lambda _, figures: figures.rate_origin == "assumed",
    "no cap": lambda camera, _: camera.rate_control in ("capped", "constant") and camera.cap_mbps is None,
    "low cap": lambda camera, figures: _starves(camera, figures),
    "worn card": lambda camera, figures: _wears_its_card(camera, figures),
    "mjpeg": lambda camera, _: camera.codec == "mjpeg",
    "unknown scene": lambda camera, _: camera.scene not in stream_assumptions().scenes,
    "records nothing": lambda _, figures: figures.stored_h_per_day == 0,
    "nothing after": lambda camera, figures: figures.movement_h_per_day > 0 and camera.post_s == 0,
    "nearly always": lambda _, figures: (
        figures.movement_h_per_day > 0 and figures.movement_share >= NEARLY_ALWAYS_SHARE
    ),
    "before is short": lambda camera, figures: (
        figures.movement_h_per_day > 0 and camera.codec != "mjpeg" and camera.pre_s < camera.key_frame_s
    ),
}


def traits_of(camera: Camera, figures: CameraFigures) -> tuple[Trait, ...]:
    """The traits that a camera has."""
    return tuple(trait for trait, holds in _TESTS.items() if holds(camera, figures))
