"""Traits: what can be said of one camera by itself, told once for as long as the camera stays the same object.

Each stands beside the rule that goes by it. The rule then looks at the cameras that have the trait, instead of going through all of
them at every edit.
"""

from __future__ import annotations

from eager_lens.core.assess.figures.devices import CameraFigures, Trait
from eager_lens.core.job.model import Camera

_TRAITS: list[Trait] = []


def trait(holds: Trait) -> Trait:
    """Have it told of every camera whether this holds; ``Facts.having`` then gives those of which it does."""
    _TRAITS.append(holds)
    return holds


def all_traits() -> tuple[Trait, ...]:
    """Every trait there is: ``assess/rules`` has to be imported for it, as whoever assesses a job does."""
    return tuple(_TRAITS)


def traits_of(camera: Camera, figures: CameraFigures) -> tuple[Trait, ...]:
    """The traits that a camera has."""
    return tuple(one for one in _TRAITS if one(camera, figures))
