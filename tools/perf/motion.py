"""``perf`` of motion: the detector beside OpenCV's on the same pictures, a simulated day, and tuning in all ten scenes."""

from __future__ import annotations

import itertools
import math
import resource
import time
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Any

from tools.perf.measuring import Measurement, in_turns_ms, median_ms

from eager_lens.core.motion.tuning.takes import ADULTS, CHILDREN, GROUPS, Plan

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from eager_lens.core.motion.tuning.other_days import Gain

    Masks = list[NDArray[np.bool_]]

COMPARED = (("yard", 12), ("yard", 2), ("yard-rain", 21), ("halt", 13), ("gate", 22), ("kiosk", 11), ("car-park", 10))
"""Scenes and hours in which both detectors look at the same pictures."""

PICTURES, LEARNT = 1500, 100

TIMES_OF_NOISE = (11.0, 8.0, 6.0, 4.5, 3.5, 2.8, 2.2, 1.7, 1.3, 1.0)
VARIANCES = (4, 8, 16, 32, 64, 128, 256, 512, 1024, 2048)
"""Thresholds of either detector that its curve is drawn from."""

PROOF_SEED = 4242

_PROOF = Plan(days=8, stretches=8, stretch_s=60.0, visits=27)
"""What both rules are proved on: 64 minutes of false alarms, and 192 adults and children."""

DRAWN_LEVELS = 6.0
"""Somebody is where a picture differs by more than this from the same picture without anybody."""


def motion() -> list[Measurement]:
    """A thousand pictures of 160 by 90 drawn and looked at; a whole day of them."""
    from eager_lens.core.motion.day import whole_day
    from eager_lens.core.motion.detector import Detector
    from eager_lens.core.motion.places import presets
    from eager_lens.core.motion.scene import DrawnScene
    from eager_lens.core.progress import finished
    from eager_lens.core.values.motion_rule import MotionRule

    view = presets()["yard"]
    scene = DrawnScene(view, 1)
    pictures = [scene.picture(46_800 + at / 5) for at in range(1000)]
    drawn = median_ms(lambda: [scene.picture(46_800 + at / 5) for at in range(1000)], 3)

    def looked() -> None:
        detector = Detector(MotionRule(), scene.lens, 5)
        for one in pictures:
            detector.counting(detector.step(one))

    opencv = _opencv()
    if opencv is None:
        seen = median_ms(looked, 3)
        rows = [Measurement("1,000 pictures looked at", seen, "drawing them", drawn, seen / drawn, "<= 1 s")]
    else:
        small = [one.astype("uint8") for one in pictures]

        def theirs() -> None:
            model = opencv.createBackgroundSubtractorMOG2(500, 16, False)
            for one in small:
                model.apply(one)

        seen, other = in_turns_ms(looked, theirs, 7)
        ours, mog2 = _areas(opencv)
        wanted = "<= 1 x, <= 1 s"
        rows = [
            Measurement("1,000 pictures looked at", seen, "OpenCV's MOG2, mask only", other, seen / other, wanted),
            Measurement("area under its curve, 7 scenes", ours, "OpenCV's MOG2", mog2, ours / mog2, ">= 1 x", ""),
        ]
    before_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    begun = time.perf_counter()
    finished(whole_day(view, MotionRule(), 1))
    day = 1000 * (time.perf_counter() - begun)
    more_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024 - before_mb
    hour = 432 * (drawn + seen)
    name = f"a day at 5 pictures/s, {more_mb:.0f} MB more"
    return [*rows, Measurement(name, day, "432,000 pictures by the above", hour, day / hour, "<= 10 min")]


def _opencv() -> Any | None:
    """OpenCV on one core, where it is installed; it is for this comparison only."""
    try:
        import cv2
    except ImportError:
        return None
    cv2.setNumThreads(1)
    return cv2


def _areas(opencv: Any) -> tuple[float, float]:
    """Mean area under the curve of caught against false pixels of both detectors, before any tidying of their masks."""
    import numpy as np

    from eager_lens.core.motion.detector import Detector
    from eager_lens.core.motion.places import presets
    from eager_lens.core.motion.scene import DrawnScene
    from eager_lens.core.values.motion_rule import MotionRule

    areas = []
    for name, hour in COMPARED:
        view = presets()[name]
        view = view._replace(
            passages=tuple(way._replace(per_h_by_day=60, per_h_by_night=60, hours=()) for way in view.passages[:2])
        )
        scene, empty = DrawnScene(view, 1), DrawnScene(view, 1)
        empty.visits = ()
        moments = [3600 * hour + at / 5 for at in range(PICTURES)]
        pictures = [scene.picture(at_s) for at_s in moments]
        there = [np.abs(one - empty.picture(at_s)) > DRAWN_LEVELS for one, at_s in zip(pictures, moments, strict=True)]
        ours, theirs = [], []
        for times in TIMES_OF_NOISE:
            detector = Detector(MotionRule(), scene.lens, 5)
            detector.threshold = np.float32(times)
            masks = []
            for one in pictures:
                detector.step(one)
                masks.append(detector.over)
            ours.append(_point(masks, there))
        for variance in VARIANCES:
            model = opencv.createBackgroundSubtractorMOG2(500, variance, False)
            theirs.append(_point([model.apply(one.astype(np.uint8)) > 0 for one in pictures], there))
        areas.append((_under(ours), _under(theirs)))
    ours_mean, theirs_mean = (sum(column) / len(areas) for column in zip(*areas, strict=True))
    return ours_mean, theirs_mean


def _point(masks: Masks, there: Masks) -> tuple[float, float]:
    """Shares of false and of caught pixels, when the place is learnt."""
    pairs = list(zip(masks, there, strict=True))[LEARNT:]
    caught, false = (
        sum(int((mask & of).sum()) for mask, of in several) for several in (pairs, [(m, ~t) for m, t in pairs])
    )
    positive = sum(int(of.sum()) for _, of in pairs)
    negative = sum(of.size for _, of in pairs) - positive
    return false / negative, caught / positive


def _under(points: Sequence[tuple[float, float]]) -> float:
    """The area under a curve from (0, 0) to (1, 1), by trapezoids."""
    ordered = sorted([(0.0, 0.0), *points, (1.0, 1.0)])
    return sum((x2 - x1) * (y1 + y2) / 2 for (x1, y1), (x2, y2) in itertools.pairwise(ordered))


def tuning() -> int:
    """Tune the default rule in each of the ten scenes and prove both on days that neither search nor its proof has seen; 1 if
    a scene does not keep what is wanted. Some minutes."""
    kept = 0
    print("scene           false alarms an hour   adults missed    children missed  others missed   search")
    for name, before, after, rule, seconds in _tuned():
        keeps = _keeps(before, after)
        kept += keeps
        groups = "  ".join(
            f"{100 * before.missed_of(group):4.1f} -> {100 * after.missed_of(group):4.1f} %"
            for group in range(len(GROUPS))
        )
        times = before.false_per_h / after.false_per_h if after.false_per_h else math.inf
        print(
            f"{name:10} {before.false_per_h:7.1f} -> {after.false_per_h:5.1f} ({times:5.1f} x)   {groups}   {seconds:4.0f} s  "
            f"{'kept' if keeps else 'not kept'}: {rule}",
            flush=True,
        )
    watched, come = _PROOF.days * _PROOF.stretches * _PROOF.stretch_s / 60, _PROOF.days * _PROOF.visits
    print(
        f"kept in {kept} of 10 scenes: at least {FEWER:g} times fewer false alarms, at most {100 * MORE:g} points more missed"
    )
    print(
        f"(of adults and of children; on {_PROOF.days} days of other weather, {watched:.0f} min and {come} visits each)"
    )
    return 0 if kept == 10 else 1


FEWER, MORE = 5.0, 0.02


def _keeps(before: Gain, after: Gain) -> bool:
    """Whether a rule keeps what is wanted of one that was tuned; where the default tells nothing, nothing is wanted."""
    fewer = FEWER * after.false_per_h <= before.false_per_h
    return fewer and all(after.missed_of(group) <= before.missed_of(group) + MORE for group in (ADULTS, CHILDREN))


def _tuned() -> Iterator[tuple[str, Gain, Gain, str, float]]:
    from eager_lens.core.motion.places import presets
    from eager_lens.core.motion.tuning.other_days import proved
    from eager_lens.core.motion.tuning.search import tuned
    from eager_lens.core.motion.tuning.takes import takes_of
    from eager_lens.core.progress import finished
    from eager_lens.core.values.motion_rule import MotionRule
    from eager_lens.core.workers import Workers

    rule = MotionRule()
    for name, view in presets().items():
        begun = time.perf_counter()
        better = finished(tuned(view, rule, 1)).rule
        seconds = time.perf_counter() - begun
        with Workers() as workers:
            before, after = finished(proved(takes_of(view, rule, PROOF_SEED, _PROOF), (rule, better), workers))
        words = f"sensitivity {better.sensitivity:g}, {better.smallest_m:g} to {better.largest_m:g} m, {better.shortest_s:g} s"
        yield name, before, after, f"{words}, {len(better.zones)} zones", seconds
