"""``perf`` of motion: the detector beside OpenCV's on the same pictures, a simulated day, and tuning in all ten scenes."""

from __future__ import annotations

import itertools
import resource
import time
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Any

from eager_lens.cli.measuring import Measurement, in_turns_ms, median_ms
from eager_lens.core.errors import RefusedInput

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from eager_lens.core.motion.tune import Gain

    Masks = list[NDArray[np.bool_]]

COMPARED = (("yard", 12), ("yard", 2), ("yard-rain", 21), ("halt", 13), ("gate", 22), ("kiosk", 11), ("car-park", 10))
"""Scenes and hours in which both detectors look at the same pictures."""

PICTURES, LEARNT = 1500, 100

TIMES_OF_NOISE = (11.0, 8.0, 6.0, 4.5, 3.5, 2.8, 2.2, 1.7, 1.3, 1.0)
VARIANCES = (4, 8, 16, 32, 64, 128, 256, 512, 1024, 2048)
"""Thresholds of either detector that its curve is drawn from."""

DRAWN_LEVELS = 6.0
"""Somebody is where a picture differs by more than this from the same picture without anybody."""


def motion() -> list[Measurement]:
    """A thousand pictures of 160 by 90 drawn and looked at; a whole day of them."""
    from eager_lens.core.motion.day import whole_day
    from eager_lens.core.motion.detector import Detector
    from eager_lens.core.motion.places import presets
    from eager_lens.core.motion.rule import MotionRule
    from eager_lens.core.motion.scene import DrawnScene
    from eager_lens.core.progress import finished

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
    from eager_lens.core.motion.rule import MotionRule
    from eager_lens.core.motion.scene import DrawnScene

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
    """Tune the default rule in each of the ten scenes and print what it does on unseen days; 1 if fewer than nine gain."""
    gained = 0
    for name, before, after, is_better, seconds in _tuned():
        gained += is_better
        mark = "better" if is_better else "no gain"
        print(f"{name:10} {_told(before):38} -> {_told(after):38} {mark:8} {seconds:5.0f} s", flush=True)
    print(f"tuned beats the default on unseen days in {gained} of 10 scenes (wanted: at least 9)")
    return 0 if gained >= 9 else 1


def _tuned() -> Iterator[tuple[str, Gain, Gain, bool, float]]:
    from eager_lens.core.motion.places import presets
    from eager_lens.core.motion.rule import MotionRule
    from eager_lens.core.motion.tune import tuned
    from eager_lens.core.progress import finished

    for name, view in presets().items():
        begun = time.perf_counter()
        try:
            proposal = finished(tuned(view, MotionRule(), 1))
        except RefusedInput as error:
            raise RefusedInput(name, error.problem) from error
        yield name, proposal.before, proposal.after, proposal.is_better, time.perf_counter() - begun


def _told(gain: Gain) -> str:
    return f"{gain.false_per_h:6.1f} false/h, {100 * gain.missed_share:4.1f} % of {gain.visits} missed"
