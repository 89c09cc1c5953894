"""Streams as a job plans them beside what a device told that it is set to, each value against what its encoder takes."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.commission.act import Act, ByHand, SettingRow
from eager_lens.core.job.model import Camera
from eager_lens.core.planned_settings.streams import StreamPlanned, main_planned, substream_planned
from eager_lens.core.reference.streams import Quality
from eager_lens.core.site_check.consequences import CAP_SET_OFF_SHARE, FPS_OFF, KEY_FRAME_OFF_SHARE
from eager_lens.core.site_check.told import AllowedRange, OptionsTold, ProfileTold, Told
from eager_lens.core.units import figure

QUALITY_SHARE: dict[Quality, float] = {"low": 0.25, "medium": 0.5, "high": 0.75}
"""Where in its own range a device's picture quality is set (assumed: devices count it in steps of their own)."""

QUALITY_OFF_SHARE = 0.2
CODEC_WORDS = {"h264": "H.264", "h265": "H.265", "mjpeg": "MJPEG"}


def stream_acts(camera: Camera, told: Told) -> Iterator[Act | ByHand]:
    """What is set of a camera's streams, and what stays by hand."""
    main, sub = told.main_and_sub()
    if main is None:
        yield ByHand(kind="stream", what="Main stream", why="it tells no stream by the open protocol")
        return
    yield from _stream(main_planned(camera), main, "Main stream")
    planned = substream_planned(camera)
    if planned is not None and sub is not None:
        yield from _stream(planned, sub, "Substream")
    if camera.rate_control == "smart codec":
        yield ByHand(
            kind="stream",
            what="Main stream: switch the smart codec on",
            why="each maker has its own; the open protocol has none",
        )


def _stream(planned: StreamPlanned, told: ProfileTold, name: str) -> Iterator[Act | ByHand]:
    codec = _codec_for(planned.codec, told)
    options = told.options_for(codec) or OptionsTold()
    size = _size_for(planned.size_px, options)
    fps = _rate_for(planned.fps, options)
    frames = round(_within(planned.key_frame_s * fps, options.key_frames))
    cap_mbps = None if planned.cap_mbps is None else _within(planned.cap_mbps, options.cap_mbps)
    constant = planned.constant and (options.takes_constant or told.by == "media 2")
    settings = [
        *_differs("codec", _codec_words(told.codec), _codec_words(codec), _codec_words(planned.codec)),
        *_differs(
            "resolution", _size_words((told.width_px, told.height_px)), _size_words(size), _size_words(planned.size_px)
        ),
    ]
    if abs(fps - told.fps) > FPS_OFF / 2:
        settings += _differs("frame rate", _with(told.fps, "fps"), _with(fps, "fps"), _with(planned.fps, "fps"))
    now_s, will_be_s = told.key_frame_s, frames / fps
    if codec != "mjpeg" and (now_s is None or abs(now_s / will_be_s - 1) > KEY_FRAME_OFF_SHARE / 2):
        now = "not told" if now_s is None else _with(now_s, "s")
        settings += _differs("key-frame interval", now, _with(will_be_s, "s"), _with(planned.key_frame_s, "s"))
    settings += _cap_settings(told, cap_mbps, planned.cap_mbps)
    if told.is_constant is not None and told.is_constant != constant:
        settings.append(SettingRow(what="rate control", now=_control(told.is_constant), will_be=_control(constant)))
    quality = _quality_for(planned.quality, options.quality)
    if quality is not None and told.quality is not None and options.quality is not None:
        span = options.quality.most - options.quality.least
        if abs(quality - told.quality) > QUALITY_OFF_SHARE * span:
            settings.append(SettingRow(what="picture quality", now=f"{told.quality:g}", will_be=f"{quality:g}"))
    if told.by == "media 1" and codec == "h265" and told.codec == "h264":
        # The first generation has no word for H.265, so its H.264 may be either; the stream itself shows which.
        settings = [one for one in settings if one.what != "codec"]
    for one in settings:
        if one.now == one.will_be:
            yield ByHand(
                kind="stream",
                what=f"{name}: {one.what} {one.will_be}",
                why=f"{one.note}. Change the plan, or take another camera",
            )
    settings = [one for one in settings if one.now != one.will_be]
    if not settings:
        return
    quality = told.quality if quality is None else quality
    values = _values(codec, size, fps, frames, cap_mbps, constant, quality)
    before = _values(
        told.codec,
        (told.width_px, told.height_px),
        told.fps,
        told.key_frames,
        told.cap_mbps or 0.0,
        told.is_constant,
        told.quality,
    )
    yield Act(
        kind="stream",
        at=told.token,
        settings=tuple(one.model_copy(update={"what": f"{name}: {one.what}"}) for one in settings),
        values={**values, "encoder": told.encoder, "generation": told.by},
        before={**before, "encoder": told.encoder, "generation": told.by},
        nearest=any(one.note for one in settings),
    )


def _values(
    codec: str,
    size: tuple[int, int],
    fps: float,
    frames: float | None,
    cap_mbps: float | None,
    constant: bool | None,
    quality: float | None,
) -> dict[str, str | float | int | bool | None]:
    return {
        "codec": codec,
        "width_px": size[0],
        "height_px": size[1],
        "fps": fps,
        "key_frames": frames,
        "cap_mbps": cap_mbps,
        "constant": constant,
        "quality": quality,
    }


def _differs(what: str, now: str, will_be: str, planned: str) -> list[SettingRow]:
    note = "" if will_be == planned else f"planned {planned}; it takes nothing nearer"
    return [SettingRow(what=what, now=now, will_be=will_be, note=note)] if now != will_be or note else []


def _cap_settings(told: ProfileTold, cap_mbps: float | None, planned_mbps: float | None) -> list[SettingRow]:
    if cap_mbps is None or planned_mbps is None:
        return []  # a maximum that nobody planned does no harm to the days
    if told.cap_mbps is not None and abs(told.cap_mbps / cap_mbps - 1) <= CAP_SET_OFF_SHARE / 2:
        return []
    now = "none" if told.cap_mbps is None else _with(told.cap_mbps, "Mb/s")
    return _differs("maximum bit rate", now, _with(cap_mbps, "Mb/s"), _with(planned_mbps, "Mb/s"))


def _with(value: float, unit: str) -> str:
    return f"{figure(value)} {unit}"


def _codec_words(codec: str) -> str:
    return CODEC_WORDS.get(codec, codec or "not told")


def _size_words(size: tuple[int, int]) -> str:
    return f"{size[0]} × {size[1]} px"


def _control(constant: bool) -> str:
    return "constant" if constant else "variable"


def _codec_for(planned: str, told: ProfileTold) -> str:
    takes = told.options.codecs if told.options is not None else ()
    if planned in takes or not takes or (told.by == "media 1" and planned == "h265"):
        return planned
    return "h264" if "h264" in takes else told.codec


def _size_for(planned: tuple[int, int], options: OptionsTold) -> tuple[int, int]:
    """The planned size, else of those with its shape (all, where none has) the nearest in pixels."""
    if not options.sizes or planned in options.sizes:
        return planned
    shape = planned[0] / planned[1]
    alike = [one for one in options.sizes if one[1] and abs(one[0] / one[1] / shape - 1) < 0.03]
    return min(alike or options.sizes, key=lambda one: abs(one[0] * one[1] - planned[0] * planned[1]))


def _rate_for(planned: float, options: OptionsTold) -> float:
    if options.rates:
        return min(options.rates, key=lambda one: abs(one - planned))
    return _within(planned, options.fps)


def _within(planned: float, span: AllowedRange | None) -> float:
    return planned if span is None else max(span.least, min(span.most, planned))


def _quality_for(planned: Quality, span: AllowedRange | None) -> float | None:
    return None if span is None else round(span.least + QUALITY_SHARE[planned] * (span.most - span.least))
