"""Traits: what can be said of one camera by itself, told once for as long as the camera stays the same object.

The finding rules look at lists of cameras with a trait, instead of each going through all cameras at every edit.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal, get_args

from eager_lens.core.assess.blind import why_blind
from eager_lens.core.assess.cap_cost import coarser
from eager_lens.core.assess.figures import CameraFigures, misses_purpose, placing_of, run_figures
from eager_lens.core.assess.limits import (
    LEAD_M,
    LEAST_CARD_YEARS,
    LEAST_SLIP_MBPS,
    LEAST_SUBSTREAM_MBPS,
    LOW_CAP_STEPS,
    NEARLY_ALWAYS_SHARE,
    PURPOSE_FPS,
    STEEP_DEG,
    THIN_AWG,
    TOLD_APART,
    UNDER_DEG,
    UNLIKELY_HIGH,
    UNLIKELY_LOW,
    fixed_m,
)
from eager_lens.core.assess.rates import cap_of
from eager_lens.core.job.measured import measured_elsewhere
from eager_lens.core.job.model import Camera
from eager_lens.core.optics.placing import FACE_M
from eager_lens.core.power.poe import POE_CLASSES
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.control import CAMERA_PORT_MBPS, CONSTANT_SPREAD
from eager_lens.core.sizing.drive_life import card_years
from eager_lens.core.validation import at_most

HIGH_CLASS = 4
"""PoE classes above this need ports that feed all four pairs. Nearly all ports give class 4, so that only cameras above it
have to be looked at; no judgement hangs on the figure."""

Trait = Literal[
    "no place",
    "long cable",
    "weak run",
    "over PoE class",
    "CCA cable",
    "outdoor run",
    "thin cable",
    "zero cable",
    "no cable power",
    "high PoE class",
    "purpose missed",
    "no recorder",
    "several channels",
    "estimated rate",
    "entered rate",
    "no cap",
    "no maximum",
    "over its port",
    "low cap",
    "cap not held",
    "worn card",
    "mjpeg",
    "unknown scene",
    "records nothing",
    "nothing after",
    "nearly continuous",
    "purpose without distance",
    "few frames",
    "coarse",
    "steep",
    "ground unseen",
    "rate too low",
    "rate too high",
    "substream too low",
    "often false",
    "blind rule",
    "unused rule",
    "input nothing after",
    "before is short",
]
TRAITS: tuple[Trait, ...] = get_args(Trait)


def _is_weak(camera: Camera) -> bool:
    run = run_figures(camera)
    return run is not None and not run.voltage_ok


def _is_over_class(camera: Camera) -> bool:
    return camera.poe_class is not None and not at_most(camera.power_w, POE_CLASSES[camera.poe_class].device_w)


def _passes_its_cap(camera: Camera) -> bool:
    """Whether more was read than a cap lets through, at the settings of now."""
    cap_mbps = cap_of(camera)
    if camera.measured_mbps is None or cap_mbps is None or measured_elsewhere(camera) is not None:
        return False
    return camera.measured_mbps > cap_mbps * (1 + CONSTANT_SPREAD)


def _wears_its_card(camera: Camera, figures: CameraFigures) -> bool:
    if not camera.card_gb or not camera.card_written_tb:
        return False
    years = card_years(camera.card_written_tb, figures.gb_per_day)
    return years is not None and years < LEAST_CARD_YEARS


def _is_steep(camera: Camera) -> bool:
    """Whether a face at the target is seen from too steeply above."""
    if camera.purpose not in TOLD_APART or camera.target_m is None:
        return False
    return math.degrees(math.atan2(camera.mount_height_m - FACE_M, camera.target_m)) > STEEP_DEG


def _sees_no_ground(camera: Camera) -> bool:
    """Whether the target stands under the camera, or the ground there lies in the strip that it does not see, where more than
    faces is to be seen."""
    if not camera.purpose or camera.purpose in TOLD_APART or camera.target_m is None:
        return False
    if math.degrees(math.atan2(camera.mount_height_m - FACE_M, camera.target_m)) > UNDER_DEG:
        return True
    seen = placing_of(camera)
    return seen is not None and seen.blind_m is not None and seen.blind_m > camera.target_m


def _after_input_s(camera: Camera) -> float:
    return camera.post_recording_s if camera.input_post_recording_s is None else camera.input_post_recording_s


def given_mbps(camera: Camera) -> float | None:
    """The bit rate that somebody read, entered or set."""
    # A smart codec's cap is a ceiling that it seldom reaches: nobody set it as the rate.
    cap = camera.cap_mbps if camera.rate_control in ("CBR", "capped VBR") else None
    return cap if camera.measured_mbps is None else camera.measured_mbps


def _is_too_high(camera: Camera, figures: CameraFigures) -> bool:
    given = given_mbps(camera)
    return given is not None and given >= LEAST_SLIP_MBPS and given > UNLIKELY_HIGH * figures.asked_mbps


_TESTS: dict[Trait, Callable[[Camera, CameraFigures], bool]] = {
    "weak run": lambda camera, _: _is_weak(camera),
    "over PoE class": lambda camera, _: _is_over_class(camera),
    "CCA cable": lambda camera, _: camera.cable_material == "cca" and camera.poe_class is not None,
    "outdoor run": lambda camera, _: camera.outdoor and not camera.surge_protected,
    "thin cable": lambda camera, _: camera.awg >= THIN_AWG and not at_most(camera.cable_m or 0.0, LEAD_M),
    "zero cable": lambda camera, _: camera.cable_m == 0,
    "no cable power": lambda camera, _: camera.poe_class is None,
    "high PoE class": lambda camera, _: (camera.poe_class or 0) > HIGH_CLASS,
    "no place": lambda camera, _: not camera.place.strip(),
    "long cable": lambda camera, _: camera.cable_m is not None and not at_most(camera.cable_m, fixed_m(camera.awg)),
    "purpose missed": lambda camera, _: misses_purpose(camera),
    "no recorder": lambda camera, _: not camera.registered,
    "several channels": lambda camera, _: len(camera.registered) > 1,
    "estimated rate": lambda _, figures: figures.rate_origin == "assumed",
    "entered rate": lambda _, figures: figures.rate_origin == "entered",
    "no cap": lambda camera, _: camera.rate_control in ("capped VBR", "CBR") and camera.cap_mbps is None,
    "purpose without distance": lambda camera, _: bool(camera.purpose) and camera.target_m is None,
    "few frames": lambda camera, _: bool(camera.purpose) and camera.fps < PURPOSE_FPS[camera.purpose],
    "coarse": lambda camera, _: camera.quality == "low" and camera.purpose in TOLD_APART,
    "steep": lambda camera, _: _is_steep(camera),
    "ground unseen": lambda camera, _: _sees_no_ground(camera),
    "rate too low": lambda camera, figures: (
        camera.measured_mbps is not None and camera.measured_mbps < UNLIKELY_LOW * figures.asked_mbps
    ),
    "rate too high": _is_too_high,
    "substream too low": lambda camera, _: 0 < camera.substream_mbps < LEAST_SUBSTREAM_MBPS,
    "often false": lambda _, figures: figures.false_h_per_day > 0,
    "blind rule": lambda camera, _: (
        camera.motion_rule is not None and camera.motion_rule_on and bool(why_blind(camera.motion_rule))
    ),
    "unused rule": lambda camera, figures: (
        camera.motion_rule is not None
        and figures.always_h_per_day > 0
        and not (figures.motion_h_per_day or figures.either_h_per_day)
    ),
    "input nothing after": lambda camera, figures: (
        figures.input_h_per_day + figures.either_h_per_day > 0 and _after_input_s(camera) == 0
    ),
    "no maximum": lambda _, figures: figures.usual_cap_mbps is not None,
    "over its port": lambda _, figures: not at_most(figures.asked_mbps, CAMERA_PORT_MBPS),
    "low cap": lambda _, figures: figures.at_cap is not None and coarser(figures.at_cap) >= LOW_CAP_STEPS,
    "cap not held": lambda camera, _: _passes_its_cap(camera),
    "worn card": lambda camera, figures: _wears_its_card(camera, figures),
    "mjpeg": lambda camera, _: camera.codec == "mjpeg",
    "unknown scene": lambda camera, _: camera.scene not in stream_assumptions().scenes,
    "records nothing": lambda _, figures: figures.stored_h_per_day == 0,
    "nothing after": lambda camera, figures: figures.motion_h_per_day > 0 and camera.post_recording_s == 0,
    "nearly continuous": lambda _, figures: (
        figures.motion_h_per_day > 0 and figures.motion_share >= NEARLY_ALWAYS_SHARE
    ),
    "before is short": lambda camera, figures: (
        figures.motion_h_per_day > 0 and camera.codec != "mjpeg" and camera.pre_recording_s < camera.key_frame_s
    ),
}


def traits_of(camera: Camera, figures: CameraFigures) -> tuple[Trait, ...]:
    """The traits that a camera has."""
    return tuple(trait for trait, holds in _TESTS.items() if holds(camera, figures))
