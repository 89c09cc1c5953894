"""When a camera stand-in's motion rule sees something in the stretch that it sends over and over."""

from __future__ import annotations

import concurrent.futures
import threading

import numpy as np
from numpy.typing import NDArray

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

Seen = NDArray[np.bool_]
NOTHING: Seen = np.zeros(1, dtype=bool)


class Detectors:
    """Looks through each scene with each rule once, one after the other beside the streams: cameras of a site share most."""

    def __init__(self) -> None:
        self._seen: dict[tuple[str, str], concurrent.futures.Future[Seen]] = {}
        self._lock = threading.Lock()
        self._pool = concurrent.futures.ThreadPoolExecutor(1, "detector")

    def seen(self, scene: str, rule: MotionRule) -> Seen:
        """By picture of the stretch whether the rule sees anything; nothing until it was looked through."""
        key = (scene, rule.model_dump_json())
        with self._lock:
            found = self._seen.get(key)
            if found is None:
                found = self._seen[key] = self._pool.submit(looked_through, scene, rule)
        return found.result() if found.done() else NOTHING


def looked_through(scene_name: str, rule: MotionRule) -> Seen:
    """By picture of a stretch of a scene whether a rule sees anything."""
    scene = DrawnScene(presets()[scene_name], 1)
    detector = Detector(rule, scene.lens, FPS)
    seen = []
    for at in range(round((WARM_UP_S + STRETCH_S) * FPS)):
        areas = detector.step(scene.picture(NOON_S - WARM_UP_S + at / FPS))
        seen.append(bool(detector.counting(areas)))
    return np.array(seen[round(WARM_UP_S * FPS) :], dtype=bool)


DETECTORS = Detectors()


class Motion:
    """The motion rule of a stand-in at work."""

    def __init__(self, stand_in: StandIn) -> None:
        self._stand_in = stand_in

    def moves_at(self, at_s: float) -> bool:
        """Whether it sees anything at a moment of the camera's clock."""
        one = self._stand_in
        if one.rule == "off" or not one.streams:
            return False
        rule = one.motion_rule or MotionRule()
        if one.rule == "blind":
            rule = rule.model_copy(update={"smallest_m": min(BLIND_M, rule.largest_m * 0.9)})
        seen = DETECTORS.seen(one.streams[0].scene, rule)
        return bool(seen[int(at_s % STRETCH_S * FPS) % len(seen)])
