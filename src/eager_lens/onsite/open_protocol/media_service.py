"""The media services, of the first and second generation: profiles, encoders and what they take, addresses of streams."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal
from xml.etree.ElementTree import Element
from xml.sax.saxutils import escape

from eager_lens.core.site_check.told import MOST_PROFILES, AllowedRange, OptionsTold, ProfileTold
from eager_lens.onsite.open_protocol.xml import as_number, attribute, child, children, number, text, whole

CODECS = {
    "H264": "h264",
    "H265": "h265",
    "HEVC": "h265",
    "JPEG": "mjpeg",
    "MJPEG": "mjpeg",
    "MPEG4": "mpeg4",
    "MPV4-ES": "mpeg4",
}
KBPS_A_MBPS = 1000.0
Generation = Literal["media 1", "media 2"]
PARTS: dict[Generation, tuple[str, str, str]] = {
    "media 1": ("VideoEncoderConfiguration", "VideoSourceConfiguration", "VideoAnalyticsConfiguration"),
    "media 2": ("VideoEncoder", "VideoSource", "Analytics"),
}


def codec_of(written: str) -> str:
    """A codec by the name that jobs have for it; an unknown one as it is written, in small letters."""
    plain = written.strip().upper().replace(".", "").replace("VIDEO/", "")
    return CODECS.get(plain, plain.lower()[:20])


class Tokens:
    """By profile the token of its analytics, which another service asks for."""

    def __init__(self) -> None:
        self.analytics: dict[str, str] = {}


def profiles_of(answer: Element, generation: Generation, tokens: Tokens) -> tuple[ProfileTold, ...]:
    """The profiles in an answer to GetProfiles; those without an encoder tell nothing of a stream."""
    found = []
    for one in children(answer, "Profiles")[:MOST_PROFILES]:
        token = attribute(one, "token")
        parts = one if generation == "media 1" else child(one, "Configurations")
        encoder, source, analytics = (child(parts, name) for name in PARTS[generation])
        if encoder is None or not token:
            continue
        if analytics is not None:
            tokens.analytics[token] = attribute(analytics, "token")
        found.append(_profile(token, text(one, "Name"), source, encoder, generation))
    return tuple(found)


def _profile(token: str, name: str, source: Element | None, encoder: Element, generation: Generation) -> ProfileTold:
    control = child(encoder, "RateControl")
    fps = number(control, "FrameRateLimit") or 0.0
    interval = number(control, "EncodingInterval") or 1.0
    limit_kbps = number(control, "BitrateLimit")
    codec = codec_of(text(encoder, "Encoding"))
    inside = {"h264": "H264", "h265": "H265", "mpeg4": "MPEG4"}.get(codec, "")
    key_frames = as_number(attribute(encoder, "GovLength")) or number(encoder, inside, "GovLength")
    constant = attribute(control, "ConstantBitRate").lower()
    return ProfileTold(
        token=token,
        name=name,
        source=text(source, "SourceToken"),
        source_settings=attribute(source, "token"),
        by=generation,
        codec=codec,
        width_px=whole(encoder, "Resolution", "Width"),
        height_px=whole(encoder, "Resolution", "Height"),
        fps=fps / max(1.0, interval),
        # Zero is how devices write that there is no limit.
        cap_mbps=limit_kbps / KBPS_A_MBPS if limit_kbps else None,
        is_constant=None if not constant else constant in ("true", "1"),
        key_frames=key_frames or None,
        quality=number(encoder, "Quality"),
        encoder=attribute(encoder, "token"),
    )


def options_of(answer: Element, generation: Generation) -> tuple[OptionsTold, ...]:
    """What an encoder takes by codec, out of an answer to GetVideoEncoderConfigurationOptions."""
    each = children(answer, "Options")
    return _options2(each) if generation == "media 2" else _options1(each[0] if each else None)


def _options2(each: list[Element]) -> tuple[OptionsTold, ...]:
    codecs = tuple(dict.fromkeys(codec_of(text(one, "Encoding")) for one in each))[:16]
    found = []
    for one in each[:16]:
        rates = [rate for word in attribute(one, "FrameRatesSupported").split() if (rate := as_number(word))]
        keys = [key for word in attribute(one, "GovLengthRange").split() if (key := as_number(word)) is not None]
        found.append(
            OptionsTold(
                codec=codec_of(text(one, "Encoding")),
                codecs=codecs,
                sizes=_sizes(one),
                rates=tuple(sorted(set(rates)))[:128],
                fps=_span_of(rates),
                cap_mbps=_span(child(one, "BitrateRange"), KBPS_A_MBPS),
                key_frames=_span_of(keys),
                quality=_span(child(one, "QualityRange")),
                takes_constant=attribute(one, "ConstantBitRateSupported").lower() in ("true", "1"),
            )
        )
    return tuple(found)


_KINDS1 = {"H264": "h264", "JPEG": "mjpeg", "MPEG4": "mpeg4", "H265": "h265"}


def _options1(first: Element | None) -> tuple[OptionsTold, ...]:
    present = {name: codec for name, codec in _KINDS1.items() if child(first, name) is not None}
    found = []
    for name, codec in present.items():
        own, extended = child(first, name), child(first, "Extension", name)
        found.append(
            OptionsTold(
                codec=codec,
                codecs=tuple(present.values()),
                sizes=_sizes(own) or _sizes(extended),
                fps=_span(child(own, "FrameRateRange")) or _span(child(extended, "FrameRateRange")),
                cap_mbps=_span(child(extended, "BitrateRange"), KBPS_A_MBPS),
                key_frames=_span(child(own, "GovLengthRange")),
                quality=_span(child(first, "QualityRange")),
            )
        )
    return tuple(found)


def _sizes(own: Element | None) -> tuple[tuple[int, int], ...]:
    each = ((whole(one, "Width"), whole(one, "Height")) for one in children(own, "ResolutionsAvailable"))
    return tuple(dict.fromkeys(each))[:64]


def _span(told: Element | None, divisor: float = 1.0) -> AllowedRange | None:
    least, most = number(told, "Min"), number(told, "Max")
    if least is None or most is None or most < least:
        return None
    return AllowedRange(least=least / divisor, most=most / divisor)


def _span_of(values: Iterable[float]) -> AllowedRange | None:
    found = list(values)
    return AllowedRange(least=min(found), most=max(found)) if found else None


def stream_question(token: str, generation: Generation) -> tuple[str, str]:
    """The question for a stream's address, and what is in it."""
    if generation == "media 2":
        return (
            "tr2:GetStreamUri",
            f"<tr2:Protocol>RTSP</tr2:Protocol><tr2:ProfileToken>{escape(token)}</tr2:ProfileToken>",
        )
    return "trt:GetStreamUri", f"{_setup('trt')}<trt:ProfileToken>{escape(token)}</trt:ProfileToken>"


def replay_question(token: str) -> tuple[str, str]:
    """The question for the address at which a recording is played back, and what is in it."""
    return "trp:GetReplayUri", f"{_setup('trp')}<trp:RecordingToken>{escape(token)}</trp:RecordingToken>"


def _setup(prefix: str) -> str:
    transport = "<tt:Transport><tt:Protocol>RTSP</tt:Protocol></tt:Transport>"
    return f"<{prefix}:StreamSetup><tt:Stream>RTP-Unicast</tt:Stream>{transport}</{prefix}:StreamSetup>"


def address_in(answer: Element, generation: Generation) -> str:
    """The address in an answer to GetStreamUri or GetSnapshotUri."""
    return text(answer, "Uri") if generation == "media 2" else text(answer, "MediaUri", "Uri")


def text_of(answer: Element) -> Element | None:
    """The first plain text among what is written into the picture (GetOSDs); None: there is none."""
    return next((one for one in children(answer, "OSDs") if text(one, "TextString", "Type") == "Plain"), None)


def shown_text_of(answer: Element) -> str:
    """What it says; empty where there is none."""
    return text(text_of(answer), "TextString", "PlainText")


def tokens_inside(prefix: str, encoder: str, profile: str) -> str:
    """What GetVideoEncoderConfigurationOptions is asked with."""
    each = (("ConfigurationToken", encoder), ("ProfileToken", profile))
    return "".join(f"<{prefix}:{name}>{escape(token)}</{prefix}:{name}>" for name, token in each if token)
