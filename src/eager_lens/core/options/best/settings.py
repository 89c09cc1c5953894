"""What may be changed of a camera's stream, what each setting is worth, and which settings are worth trying.

What a picture is worth is stated, not hidden, and can be weighed otherwise (``Weights``): each doubling of its width counts one
(half beyond what its purpose needs), the frame rate 1 - exp(-fps / 4), each step of quality one half; times the camera's
importance. 8 to 12 frames a second are nearly all: observers at work on recorded pictures gained little above 8 (H. Keval and M. A.
Sasse, "To catch a thief: you need at least 8 frames per second", ACM Multimedia 2008). Pixels by purpose are those of IEC 62676-4.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any, NamedTuple

from eager_lens.core.assess.figures import camera_figures, placing_of
from eager_lens.core.assess.limits import PURPOSE_FPS, TOLD_APART
from eager_lens.core.assess.rates import estimate_of, holds_its_rate, sent_by
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.optics.placing import width_for
from eager_lens.core.recording.week import Mode
from eager_lens.core.reference.resolutions import smaller_than
from eager_lens.core.reference.streams import QUALITIES, Codec, Quality
from eager_lens.core.sizing.control import RateControl
from eager_lens.core.sizing.rate import Assumed, usual_assumptions
from eager_lens.core.validation import at_least

FPS_STEPS = (30.0, 25.0, 20.0, 15.0, 12.0, 10.0, 8.0, 6.0, 5.0, 4.0, 3.0, 2.0, 1.0)
ENOUGH_FPS = 12.0
"""So many frames a second are nearly all: going down to them is no loss."""

KEY_FRAME_STEPS_S = (2.0, 4.0, 8.0)
LEAST_WIDTH_PX, BASE_WIDTH_PX, FPS_SCALE = 640, 640.0, 4.0

LEFT_OF_PIXELS: dict[Quality, float] = {"low": 0.7, "medium": 0.9, "high": 1.0}
"""Pixels that coarse compression leaves to see by, as a share of the width (assumed): needs of a purpose are held against these."""


class Weights(NamedTuple):
    """What counts how much: a doubling of the width, and of it the part beyond what the purpose needs; all frames; a step of
    quality; and what is lost by a doubling of the key-frame interval (searching is slower) and by a smart codec."""

    width: float = 1.0
    beyond_need: float = 0.5
    frames: float = 1.0
    quality: float = 0.5
    key_frames: float = 0.05
    smart_codec: float = 0.1


class Allowed(NamedTuple):
    """What may be changed: the range of frame rates, the longest key-frame interval, lower resolution, H.265 where the recorder
    takes it, a smart codec; and how it is weighed."""

    least_fps: float = 5.0
    most_fps: float = 15.0
    smaller_pictures: bool = True
    h265: bool = True
    longest_key_frame_s: float = 4.0
    smart_codec: bool = False
    weights: Weights = Weights()


ALLOWED, USUAL = Allowed(), usual_assumptions()


class Setting(NamedTuple):
    """One setting of a camera's stream: its rate in Mb/s, counted as much longer as its clips get, and its worth before
    importance."""

    width_px: int
    height_px: int
    fps: float
    codec: Codec
    quality: Quality
    key_frame_s: float
    rate_control: RateControl
    rate_mbps: float
    worth: float

    def fields(self) -> dict[str, Any]:
        """As fields of the camera."""
        return {
            "width_px": self.width_px,
            "height_px": self.height_px,
            "fps": self.fps,
            "codec": self.codec,
            "quality": self.quality,
            "key_frame_s": self.key_frame_s,
            "rate_control": self.rate_control,
        }


def as_it_is(camera: Camera, rate_mbps: float, weights: Weights = Weights()) -> Setting:  # noqa: B008  (it never changes)
    """The settings of now."""
    worth = worth_of(camera, camera.width_px, camera.fps, camera.quality, weights)
    return Setting(
        *(camera.width_px, camera.height_px, camera.fps, camera.codec, camera.quality),
        *(camera.key_frame_s, camera.rate_control, rate_mbps, worth),
    )


def worth_of(
    camera: Camera,
    width_px: int,
    fps: float,
    quality: Quality,
    weights: Weights = Weights(),  # noqa: B008
) -> float:
    """What a picture is worth, before the camera's importance."""
    need_px = needed_px(camera)
    wide = math.log2(width_px / BASE_WIDTH_PX)
    if need_px and width_px > need_px:
        wide -= (1 - weights.beyond_need) * math.log2(width_px / max(need_px, BASE_WIDTH_PX / 4))
    frames = -math.expm1(-fps / FPS_SCALE)
    return weights.width * wide + weights.frames * frames + weights.quality * QUALITIES.index(quality)


def needed_px(camera: Camera) -> int | None:
    """The width that its purpose needs; None where no purpose or target is given."""
    seen = placing_of(camera)
    if not camera.purpose or seen is None:
        return None
    return width_for(camera.purpose, camera.sensor_width_mm, camera.focal_mm, seen.sight_m)


class Offers(NamedTuple):
    """What a camera may have, each list without what another of it beats, cheapest first: what loses nothing of now, and may
    improve; and what gives up something, and improves nothing."""

    lossless: list[Setting]
    less: list[Setting]


def settings_for(
    camera: Camera,
    recorder: Recorder,
    allowed: Allowed,
    rate_mbps: float,
    assumed: Assumed = USUAL,
    hours: dict[Mode, float] | None = None,
) -> Offers:
    """The settings that a camera may have.

    A measured rate is carried to other settings by the model's ratio. ``hours`` by mode: longer key-frame intervals make clips
    longer, which counts where the camera records some.
    """
    if holds_its_rate(camera):
        # Its rate is set and does not follow from its settings: only what it has now is told of it.
        only = [as_it_is(camera, rate_mbps, allowed.weights)]
        return Offers(only, only)
    ratio = rate_mbps / _model_mbps(camera, assumed)
    pictures = _pictures(camera, recorder, allowed, ratio, assumed)
    fronts = (
        _unbeaten(one for one in pictures if allows(camera, one)) for allows in (_loses_nothing, _improves_nothing)
    )
    return Offers(
        *(_unbeaten([*front, *_rarer_key_frames(camera, front, allowed, ratio, assumed, hours)]) for front in fronts)
    )


def _loses_nothing(camera: Camera, one: Setting) -> bool:
    """Whether a picture is as large, as good and, up to what is nearly all, as often there as now."""
    is_as_good = QUALITIES.index(one.quality) >= QUALITIES.index(camera.quality)
    return is_as_good and one.width_px >= camera.width_px and one.fps >= min(camera.fps, ENOUGH_FPS)


def _improves_nothing(camera: Camera, one: Setting) -> bool:
    """Where some have to give up something, nobody gets more than now."""
    return one.fps <= camera.fps and QUALITIES.index(one.quality) <= QUALITIES.index(camera.quality)


def _pictures(camera: Camera, recorder: Recorder, allowed: Allowed, ratio: float, assumed: Assumed) -> list[Setting]:
    """All sizes, frame rates, codecs and qualities that are allowed."""
    codecs: list[Codec] = [camera.codec]
    if allowed.h265 and "h265" in recorder.codecs and camera.codec != "h265":
        codecs.append("h265")
    least_fps = min(max(allowed.least_fps, camera.least_fps, PURPOSE_FPS[camera.purpose]), camera.fps)
    rates = {camera.fps, *(fps for fps in FPS_STEPS if least_fps <= fps <= max(allowed.most_fps, camera.fps))}
    found = []
    for width, height in _sizes(camera, allowed):
        for fps in rates:
            for codec in codecs:
                for quality in _qualities(camera, width):
                    worth = worth_of(camera, width, fps, quality, allowed.weights)
                    one = Setting(
                        width, height, fps, codec, quality, camera.key_frame_s, camera.rate_control, 0.0, worth
                    )
                    rate = ratio * _model_mbps(camera.model_copy(update=one.fields()), assumed)
                    found.append(one._replace(rate_mbps=rate))
    return found


def _rarer_key_frames(
    camera: Camera,
    pictures: Iterable[Setting],
    allowed: Allowed,
    ratio: float,
    assumed: Assumed,
    hours: dict[Mode, float] | None,
) -> list[Setting]:
    """The same pictures with longer key-frame intervals and with a smart codec, as far as that is allowed."""
    intervals = [
        camera.key_frame_s,
        *(each for each in KEY_FRAME_STEPS_S if camera.key_frame_s < each <= allowed.longest_key_frame_s),
    ]
    controls: list[RateControl] = [camera.rate_control]
    if allowed.smart_codec and camera.rate_control == "VBR":
        controls.append("smart codec")
    found = []
    for key_frame_s in intervals:
        for control in controls:
            if (key_frame_s, control) == (camera.key_frame_s, camera.rate_control):
                continue
            longer = _longer(camera, key_frame_s, hours)
            lost = allowed.weights.key_frames * math.log2(key_frame_s / camera.key_frame_s)
            lost += allowed.weights.smart_codec * (control != camera.rate_control)
            for one in pictures:
                if one.codec == "mjpeg":
                    continue
                other = one._replace(key_frame_s=key_frame_s, rate_control=control, worth=one.worth - lost)
                rate = ratio * longer * _model_mbps(camera.model_copy(update=other.fields()), assumed)
                found.append(other._replace(rate_mbps=rate))
    return found


def _longer(camera: Camera, key_frame_s: float, hours: dict[Mode, float] | None) -> float:
    """How many times as long is stored with another key-frame interval: clips begin at a key frame."""
    if hours is None:
        return 1.0
    now, then = (
        camera_figures(camera.model_copy(update={"key_frame_s": each}), hours).stored_h_per_day
        for each in (camera.key_frame_s, key_frame_s)
    )
    return then / now if now > 0 else 1.0


def _unbeaten(found: Iterable[Setting]) -> list[Setting]:
    """Those that no other beats in both, cheapest first."""
    front: list[Setting] = []
    for setting in sorted(found, key=lambda one: (one.rate_mbps, -one.worth)):
        if not front or setting.worth > front[-1].worth + 1e-12:
            front.append(setting)
    return front


def _sizes(camera: Camera, allowed: Allowed) -> list[tuple[int, int]]:
    """Sizes that cameras offer in the camera's shape, none under what its purpose needs."""
    need = needed_px(camera) or LEAST_WIDTH_PX
    sizes = [(camera.width_px, camera.height_px)]
    if allowed.smaller_pictures:
        smaller = smaller_than(camera.width_px, camera.height_px)
        sizes += [size for size in smaller if size[0] >= need and at_least(size[0], LEAST_WIDTH_PX)]
    return sizes


def _qualities(camera: Camera, width_px: int) -> tuple[Quality, ...]:
    """Who must be told apart is not recorded at low quality, and what compression leaves is enough for the purpose; what the
    camera has now stays allowed in the picture that it has now."""
    need = needed_px(camera) or 0
    least = "medium" if camera.purpose in TOLD_APART else "low"
    return tuple(
        quality
        for quality in QUALITIES
        if (QUALITIES.index(quality) >= QUALITIES.index(least) and LEFT_OF_PIXELS[quality] * width_px >= need)
        or (width_px == camera.width_px and quality == camera.quality)
    )


def _model_mbps(camera: Camera, assumed: Assumed) -> float:
    return sent_by(camera, estimate_of(camera, assumed).rate).mean_mbps
