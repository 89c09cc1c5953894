"""When a camera stand-in's motion rule sees something in the stretch that it sends over and over."""

from __future__ import annotations

import threading

import numpy as np

from eager_lens.core.motion.day import WARM_UP_S
from eager_lens.core.motion.detector import Detector
from eager_lens.core.motion.places import presets
from eager_lens.core.motion.scene import NOON_S, DrawnScene
from eager_lens.core.motion.small import FPS
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.core.virtual_site.stand_in import StandIn

STRETCH_S = 20.0
"""A stretch of the scene that is looked at, from noon on; it repeats, as the stream does."""

BLIND_M = 5.0
"""A rule that sees only who comes close: what is smaller does not count."""


class Motion:
    """The detector of a stand-in, looked through once, when it is first asked for."""

    def __init__(self, stand_in: StandIn) -> None:
        self._stand_in = stand_in
        self._seen: np.ndarray | None = None
        self._begun = False

    def moves_at(self, at_s: float) -> bool:
        """Whether it sees anything at a moment of the camera's clock; nothing until it has looked through the stretch."""
        if not self._begun:
            self._begun = True
            threading.Thread(target=self._look, daemon=True).start()
        if self._seen is None or not len(self._seen):
            return False
        return bool(self._seen[int(at_s % STRETCH_S * FPS) % len(self._seen)])

    def _look(self) -> None:
        one = self._stand_in
        if one.rule == "off" or not one.streams:
            self._seen = np.zeros(1, dtype=bool)
            return
        scene = DrawnScene(presets()[one.streams[0].scene], 1)
        rule = one.motion_rule or MotionRule()
        if one.rule == "blind":
            rule = rule.model_copy(update={"smallest_m": min(BLIND_M, rule.largest_m * 0.9)})
        detector = Detector(rule, scene.lens, FPS)
        seen = []
        for at in range(round((WARM_UP_S + STRETCH_S) * FPS)):
            areas = detector.step(scene.picture(NOON_S - WARM_UP_S + at / FPS))
            seen.append(bool(detector.counting(areas)))
        self._seen = np.array(seen[round(WARM_UP_S * FPS) :])
