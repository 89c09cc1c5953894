"""When a camera stand-in's motion rule sees something in the stretch that it sends over and over."""

from __future__ import annotations

import concurrent.futures
import threading

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.motion.day import WARM_UP_S
from eager_lens.core.motion.detector import Detector
from eager_lens.core.motion.small import FPS
from eager_lens.core.planned_settings.detector import COLUMNS, ROWS, Cells, DetectorSet, cells_of
from eager_lens.core.values.motion_rule import MOST_ZONES, MotionRule, Zone
from eager_lens.core.virtual_site.stand_in import StandIn, StreamSent
from eager_lens.onsite.stand_ins.loops import frames_of, scene_of

BLIND_M = 5.0
"""A rule that sees only who comes close: what is smaller does not count."""

Seen = NDArray[np.bool_]
NOTHING: Seen = np.zeros(1, dtype=bool)


class Detectors:
    """Looks through each scene with each rule once, one after the other beside the streams: cameras of a site share most."""

    def __init__(self) -> None:
        self._seen: dict[tuple[StreamSent, str], concurrent.futures.Future[Seen]] = {}
        self._lock = threading.Lock()
        self._pool = concurrent.futures.ThreadPoolExecutor(1, "detector")

    def seen(self, stream: StreamSent, rule: MotionRule) -> Seen:
        """By picture of the stretch whether the rule sees anything; nothing until it was looked through."""
        shown = stream._replace(path="", rate_mbps=0.0)
        key = (shown, rule.model_dump_json())
        with self._lock:
            found = self._seen.get(key)
            if found is None:
                found = self._seen[key] = self._pool.submit(looked_through, shown, rule)
        return found.result() if found.done() else NOTHING


def looked_through(stream: StreamSent, rule: MotionRule) -> Seen:
    """By picture of the stretch that a stream sends whether a rule sees anything, with what was there before as background."""
    scene, begins_s = scene_of(stream)
    detector = Detector(rule, scene.lens, FPS)
    warm_up, many = round(WARM_UP_S * FPS), max(1, round(frames_of(stream) / stream.fps * FPS))
    seen = []
    for at in range(-warm_up, many):
        areas = detector.step(scene.picture(begins_s + at / FPS))
        seen.append(bool(detector.counting(areas)))
    return np.array(seen[warm_up:], dtype=bool)


DETECTORS = Detectors()


def _as_set(rule: MotionRule, detector: DetectorSet) -> MotionRule:
    """The rule with which a detector's settings are looked through: where it looks, and how sensitive it is."""
    if rule.zones and detector.cells == cells_of(rule, COLUMNS, ROWS):
        zones = rule.zones
    else:
        zones = _zones(detector.cells)
    return rule.model_copy(update={"sensitivity": detector.sensitivity, "zones": zones})


def _zones(cells: Cells) -> tuple[Zone, ...]:
    """Zones that cover the cells that are looked at: none where all are; rows of cells that are alike together."""
    if all(map(all, cells)):
        return ()
    rows, columns = len(cells), len(cells[0]) if cells else 0
    found: list[Zone] = []
    top = 0
    while top < rows and len(found) < MOST_ZONES:
        bottom = top + 1
        while bottom < rows and cells[bottom] == cells[top]:
            bottom += 1
        left = 0
        while left < columns and len(found) < MOST_ZONES:
            right = left
            while right < columns and cells[top][right]:
                right += 1
            if right > left:
                x1, x2, y1, y2 = left / columns, right / columns, top / rows, bottom / rows
                found.append(Zone(corners=((x1, y1), (x2, y1), (x2, y2), (x1, y2))))
            left = right + 1
        top = bottom
    return tuple(found)


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
        if one.detector is not None:
            rule = _as_set(rule, one.detector)
        if one.rule == "blind":
            rule = rule.model_copy(update={"smallest_m": min(BLIND_M, rule.largest_m * 0.9)})
        seen = DETECTORS.seen(one.streams[0], rule)
        return bool(seen[int(at_s * FPS) % len(seen)])
