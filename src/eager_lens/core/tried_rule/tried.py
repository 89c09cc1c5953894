"""What a camera's rule is tried in: a drawn scene with its weather, or a clip of its own; and how it is tried there."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from eager_lens.core.motion.places import YARD, presets
from eager_lens.core.motion.view import View
from eager_lens.core.values.marks import TriedClip
from eager_lens.core.values.motion_rule import MotionRule

if TYPE_CHECKING:
    from eager_lens.core.job.model import Camera
    from eager_lens.core.motion.day import DayOfWeek, Sample
    from eager_lens.core.motion.outcome import Outcome
    from eager_lens.core.motion.source import Source
    from eager_lens.core.motion.tuning.proposal import Proposal

LIKE_SCENE = {
    "corridor-lit": "store",
    "corridor-dark": "store",
    "store": "store",
    "counter": "store",
    "hall": "hall",
    "concourse": "kiosk",
    "forecourt-lit": "car-park",
    "forecourt-dark": "gate",
    "yard-lit": "car-park",
    "yard-dark": "yard",
}
"""The drawn scene that is most like one of those by which a camera's bit rate is estimated."""

CLIP = "clip"
"""What ``tried_in`` says where the camera's own clip takes the place of a scene."""

SEED = 1

Extent = Literal["sample", "day", "schedule"]


@dataclass(frozen=True)
class TriedRule:
    """A drawn scene, or a clip with the geometry of its camera; two of the same values are the same."""

    view: View
    clip: TriedClip | None = None
    view_deg: float = 75.0
    height_m: float = 3.0

    @property
    def words(self) -> str:
        """What it is, for people."""
        return self.view.words if self.clip is None else Path(self.clip.path).name

    def source(self, known: Source | None = None) -> Generator[float, None, Source]:
        """The pictures; yields how far it is. ``known`` is the clip as it was read before, if it was.

        Raises:
            RefusedInput: when the clip cannot be used.
        """
        if self.clip is None:
            from eager_lens.core.motion.scene import DrawnScene

            yield 0.3
            return DrawnScene(self.view, SEED)
        from eager_lens.core.motion.lens import lens_with
        from eager_lens.core.tried_rule.recorded import Clip, read_clip

        lens = lens_with(self.view_deg, self.clip.horizon, max(0.5, self.height_m))
        if isinstance(known, Clip):
            return known.marked(self.clip.marks, lens)
        return (yield from read_clip(Path(self.clip.path), lens, self.clip.marks))

    def look(self, source: Source, rule: MotionRule, extent: Extent) -> Generator[float, None, Looked]:
        """Try a rule; yields how far it is. A clip is looked at as a whole."""
        from eager_lens.core.motion.day import looked_at, whole_of, windy_week

        if self.clip is None and extent == "schedule":
            days = yield from windy_week(self.view, rule, SEED)
            return Looked(self, source, rule, None, days)
        sample = self._sample(source) if extent == "sample" or self.clip is not None else whole_of(source)
        outcome = yield from looked_at(sample, rule)
        return Looked(self, source, rule, outcome)

    def _sample(self, source: Source) -> Sample:
        """A sample of a day; of a clip all that the detector does not need to learn the place."""
        from eager_lens.core.motion.day import sample_of
        from eager_lens.core.motion.scene import DrawnScene

        if isinstance(source, DrawnScene):
            return sample_of(source, SEED)
        from eager_lens.core.tried_rule.recorded import whole_clip

        return whole_clip(source)

    def suggest(
        self, source: Source, rule: MotionRule, found: Callable[[Proposal], None] = lambda proposal: None
    ) -> Generator[float, None, Proposal]:
        """A better rule, proved on other days of the scene, or on the second half of the clip; yields how far it is.
        ``found`` is told it before its proof."""
        from eager_lens.core.motion.tuning.search import tuned, tuned_on_clip

        if self.clip is None:
            return (yield from tuned(self.view, rule, SEED, found))
        from eager_lens.core.tried_rule.recorded import halves

        return (yield from tuned_on_clip(*halves(source), rule, found))


@dataclass(frozen=True)
class Looked:
    """What a rule did in a trial; without outcome and days only the pictures are there.

    Attributes:
        outcome: of a sample, a day or a clip. days: of a windy week.
    """

    trial: TriedRule
    source: Source
    rule: MotionRule
    outcome: Outcome | None = None
    days: tuple[DayOfWeek, ...] = ()

    @property
    def outcomes(self) -> tuple[Outcome, ...]:
        """All outcomes: the one, or those of the days."""
        return tuple(day.outcome for day in self.days) if self.outcome is None else (self.outcome,)


def tried_rule_of(camera: Camera | None) -> TriedRule:
    """What a camera's rule is tried in, as the job says; where it says nothing, the drawn scene most like the camera's own."""
    if camera is None:
        return TriedRule(YARD)
    view = presets().get(camera.tried_in) or presets()[LIKE_SCENE.get(camera.scene, YARD.name)]
    if camera.tried_in == CLIP and camera.tried_clip is not None:
        view_deg = 2 * math.degrees(math.atan(camera.sensor_width_mm / 2 / camera.focal_mm))
        return TriedRule(view, camera.tried_clip, view_deg, camera.mount_height_m)
    return TriedRule(view if camera.tried_weather is None else view._replace(weather=camera.tried_weather))
