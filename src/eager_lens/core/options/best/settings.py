"""What may be changed of a camera's stream, what each setting is worth, and which settings are worth trying.

What a picture is worth is stated, not hidden, and can be weighed otherwise (``Weights``): each doubling of its width counts one
(half beyond what its purpose needs), the frame rate 1 - exp(-fps / 4), each step of quality one half; times the camera's
importance. 8 to 12 frames a second are nearly all: observers at work on recorded pictures gained little above 8 (H. Keval and M. A.
Sasse, "To catch a thief: you need at least 8 frames per second", ACM Multimedia 2008). Pixels by purpose are those of IEC 62676-4.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any, Literal, NamedTuple, get_args

from eager_lens.core.assess.figures.devices import kept, placing_of
from eager_lens.core.assess.figures.rates import cap_of, demand_by, estimate_of, holds_its_rate
from eager_lens.core.assess.limits import PURPOSE_FPS, TOLD_APART
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.optics.placing import width_for
from eager_lens.core.recording.week import Mode
from eager_lens.core.reference.caps import usual_cap_mbps
from eager_lens.core.reference.resolutions import smaller_than
from eager_lens.core.reference.streams import QUALITIES, Codec, Quality
from eager_lens.core.sizing.capped import Demand, at_cap
from eager_lens.core.sizing.control import CAPPED, RateControl, Sent, sent
from eager_lens.core.sizing.rate import Assumed, Estimated, joined, usual_assumptions
from eager_lens.core.validation import at_least

FPS_STEPS = (30.0, 25.0, 20.0, 15.0, 12.0, 10.0, 8.0, 6.0, 5.0, 4.0, 3.0, 2.0, 1.0)
KEY_FRAME_STEPS_S = (2.0, 4.0, 8.0)
LEAST_WIDTH_PX, BASE_WIDTH_PX, FPS_SCALE = 640, 640.0, 4.0

LEFT_OF_PIXELS: dict[Quality, float] = {"low": 0.7, "medium": 0.9, "high": 1.0}
"""Pixels that coarse compression leaves to see by, as a share of the width (assumed): needs of a purpose are held against these."""


class Weights(NamedTuple):
    """What counts how much: a doubling of the width, and of it the part beyond what the purpose needs; all frames; a step of
    quality; and what is lost by a doubling of the key-frame interval (searching is slower), by a smart codec. What a cap takes
    counts by quality."""

    width: float = 1.0
    beyond_need: float = 0.5
    frames: float = 1.0
    quality: float = 0.5
    key_frames: float = 0.05
    smart_codec: float = 0.1


class Allowed(NamedTuple):
    """What may be changed: the range of frame rates, the longest key-frame interval, lower resolution, H.265 where the recorder
    takes it, a smart codec; how it is weighed; and whether cameras may be held to the usual maximum bit rate."""

    least_fps: float = 5.0
    most_fps: float = 15.0
    smaller_pictures: bool = True
    h265: bool = True
    longest_key_frame_s: float = 4.0
    smart_codec: bool = False
    weights: Weights = Weights()
    caps: bool = True


ALLOWED, USUAL = Allowed(), usual_assumptions()


class Setting(NamedTuple):
    """One setting of a camera's stream: its rate in Mb/s, counted as much longer as its clips get, and its worth before
    importance; its maximum, and whether that is as low as it may be made."""

    width_px: int
    height_px: int
    fps: float
    codec: Codec
    quality: Quality
    key_frame_s: float
    rate_control: RateControl
    rate_mbps: float
    worth: float
    cap_mbps: float | None
    is_capped_as_may_be: bool

    def on(self, camera: Camera) -> Camera:
        """The camera set so."""
        return camera.model_copy(update=self.fields(camera))

    def fields(self, camera: Camera) -> dict[str, Any]:
        """As fields of the camera: a maximum that it had stays as sure as it was."""
        is_new = (self.rate_control, self.cap_mbps) != (camera.rate_control, camera.cap_mbps)
        return {
            "cap_mbps": self.cap_mbps,
            "cap_assumed": camera.cap_assumed or (is_new and self.cap_mbps is not None),
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
    picture = (camera.width_px, camera.height_px, camera.fps, camera.codec, camera.quality)
    return Setting(*picture, camera.key_frame_s, camera.rate_control, rate_mbps, worth, camera.cap_mbps, True)


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


Given = Literal["nothing", "quality", "frames", "resolution"]
GIVEN: tuple[Given, ...] = get_args(Given)
"""What may be given up, each with what stands before it: first nothing but what a cap, a codec and rarer key frames take, then
quality, then frames, resolution last."""


class Offers(NamedTuple):
    """What a camera may have by what may be given up, each list without what another of it beats, cheapest first. With nothing
    given up a picture may improve; else nobody gets more than now."""

    by_given: tuple[list[Setting], ...]

    @property
    def lossless(self) -> list[Setting]:
        """With nothing given up."""
        return self.by_given[0]

    @property
    def less(self) -> list[Setting]:
        """With all given up that may be."""
        return self.by_given[-1]


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
        return Offers((only,) * len(GIVEN))
    model = _Model(camera, assumed)
    ratio = rate_mbps / model.mean_mbps(as_it_is(camera, rate_mbps))
    pictures = _pictures(camera, recorder, allowed, ratio, model)
    found = []
    for given in GIVEN:
        front = _unbeaten(one for one in pictures if _may(camera, one, given))
        found.append(_unbeaten([*front, *_rarer_key_frames(camera, front, allowed, ratio, model, hours)]))
    return Offers(tuple(found))


def _may(camera: Camera, one: Setting, given: Given) -> bool:
    """Whether a picture gives up no more than this. As soon as anything is given up, nobody gets more than now, and a cap comes
    before it where one is usual."""
    quality, now = QUALITIES.index(one.quality), QUALITIES.index(camera.quality)
    if given == "nothing":
        return quality >= now and one.width_px >= camera.width_px and one.fps >= camera.fps
    if quality > now or one.fps > camera.fps or not one.is_capped_as_may_be:
        return False
    if given == "quality":
        return one.width_px >= camera.width_px and one.fps >= camera.fps
    return given == "resolution" or one.width_px >= camera.width_px


def _pictures(camera: Camera, recorder: Recorder, allowed: Allowed, ratio: float, model: _Model) -> list[Setting]:
    """All sizes, frame rates, codecs, qualities and caps that are allowed."""
    codecs: list[Codec] = [camera.codec]
    if allowed.h265 and "h265" in recorder.codecs and camera.codec != "h265":
        codecs.append("h265")
    least_fps = min(max(allowed.least_fps, camera.least_fps, PURPOSE_FPS[camera.purpose]), camera.fps)
    rates = {camera.fps, *(fps for fps in FPS_STEPS if least_fps <= fps <= max(allowed.most_fps, camera.fps))}
    found = []
    for width, height in _sizes(camera, allowed):
        for fps in rates:
            for codec in codecs:
                caps = _caps(camera, width, height, fps, codec, allowed)
                for quality in _qualities(camera, width):
                    worth = worth_of(camera, width, fps, quality, allowed.weights)
                    for at, (control, cap_mbps) in enumerate(caps):
                        picture = (width, height, fps, codec, quality)
                        one = Setting(*picture, camera.key_frame_s, control, 0.0, worth, cap_mbps, at == len(caps) - 1)
                        found.append(model.weighed(one, ratio, allowed.weights.quality))
    return found


class _Model:
    """What a camera sends by the model at other settings.

    What it sends while something goes on and while nothing does is worked out at the settings of now, and goes with the mean at
    others: the search looks at thousands, and what it finds is checked by an assessment.
    """

    def __init__(self, camera: Camera, assumed: Assumed) -> None:
        self.camera, self.assumed = camera, assumed
        self._now = {
            control: demand_by(camera.model_copy(update={"rate_control": control}), assumed)
            for control in ("VBR", "smart codec")
        }
        self._at_now = estimate_of(camera, assumed).rate

    def mean_mbps(self, one: Setting) -> float:
        """The mean rate at a setting."""
        return self._sent(one, estimate_of(one.on(self.camera), self.assumed)).mean_mbps

    def weighed(self, one: Setting, ratio: float, quality_weight: float) -> Setting:
        """A setting with its rate, and its worth less what its cap takes: a picture that is coarser by as many steps as lie between
        two qualities is worth one quality less, for as much of the time."""
        estimated = estimate_of(one.on(self.camera), self.assumed)
        lost, dark = 0.0, self.assumed.dark_share
        if one.rate_control in CAPPED and one.cap_mbps is not None:
            at = at_cap(self._demand(one, estimated), one.cap_mbps)
            coarser = at.day_share * at.day_steps * (1 - dark) + at.night_share * at.night_steps * dark
            lost = quality_weight * coarser / STEPS_A_QUALITY
        mbps = ratio * self._sent(one, estimated).mean_mbps
        return one._replace(rate_mbps=mbps, worth=one.worth - lost)

    def _sent(self, one: Setting, estimated: Estimated) -> Sent:
        return sent(estimated.rate, one.rate_control, one.cap_mbps, self._demand(one, estimated))

    def _demand(self, one: Setting, estimated: Estimated) -> Demand:
        now = self._now["smart codec" if one.rate_control == "smart codec" else "VBR"]
        rate, at_now = estimated.rate, self._at_now
        times = (rate.day_mbps / at_now.day_mbps, rate.night_mbps / at_now.night_mbps)
        levels = (
            level._replace(mbps=level.mbps * times[level.by_night], log_per_step=estimated.log_per_step[level.by_night])
            for level in now.levels
        )
        return Demand(tuple(levels), *joined(estimated.doubts))


STEPS_A_QUALITY = 3.0
"""So many steps of the quantiser lie between two qualities."""


def _caps(
    camera: Camera, width_px: int, height_px: int, fps: float, codec: Codec, allowed: Allowed
) -> list[tuple[RateControl, float | None]]:
    """The maximum of now, and where there is none the usual one."""
    found: list[tuple[RateControl, float | None]] = [(camera.rate_control, camera.cap_mbps)]
    usual = usual_cap_mbps(width_px, height_px, fps, codec, camera.scene)
    if allowed.caps and usual is not None and cap_of(camera) is None:
        found.append((camera.rate_control if camera.rate_control in CAPPED else "capped VBR", usual))
    return found


def _rarer_key_frames(
    camera: Camera,
    pictures: Iterable[Setting],
    allowed: Allowed,
    ratio: float,
    model: _Model,
    hours: dict[Mode, float] | None,
) -> list[Setting]:
    """The same pictures with longer key-frame intervals and with a smart codec, as far as that is allowed."""
    intervals = [
        camera.key_frame_s,
        *(each for each in KEY_FRAME_STEPS_S if camera.key_frame_s < each <= allowed.longest_key_frame_s),
    ]
    found = []
    for one in pictures:
        controls: list[RateControl] = [one.rate_control]
        if allowed.smart_codec and one.rate_control in ("VBR", "capped VBR"):
            controls.append("smart codec")
        for key_frame_s in intervals:
            for control in controls:
                if (key_frame_s, control) == (one.key_frame_s, one.rate_control) or one.codec == "mjpeg":
                    continue
                lost = allowed.weights.key_frames * math.log2(key_frame_s / camera.key_frame_s)
                lost += allowed.weights.smart_codec * (control != one.rate_control)
                other = one._replace(key_frame_s=key_frame_s, rate_control=control, worth=one.worth - lost)
                rate = ratio * _longer(camera, key_frame_s, hours) * model.mean_mbps(other)
                found.append(other._replace(rate_mbps=rate))
    return found


def _longer(camera: Camera, key_frame_s: float, hours: dict[Mode, float] | None) -> float:
    """How many times as long is stored with another key-frame interval: clips begin at a key frame."""
    if hours is None or key_frame_s == camera.key_frame_s:
        return 1.0
    now, then = (
        kept(camera.model_copy(update={"key_frame_s": each}), hours, 1.0, 0.0).stored_h_per_day
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
