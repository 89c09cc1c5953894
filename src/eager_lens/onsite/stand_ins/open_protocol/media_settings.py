"""What both generations of the media service of a stand-in let others set: its encoders, and a text in its picture."""

from __future__ import annotations

from functools import partial
from typing import get_args
from xml.etree.ElementTree import Element

from eager_lens.core.reference.streams import Codec
from eager_lens.core.virtual_site.as_set import stream_as_set
from eager_lens.onsite.open_protocol.media_service import KBPS_A_MBPS, codec_of
from eager_lens.onsite.open_protocol.xml import as_number, attribute, child, number, text, whole
from eager_lens.onsite.stand_ins.open_protocol.encoders import (
    CAP_KBPS,
    FPS_MOST,
    KEY_FRAMES_MOST,
    SOURCE,
    Encoder,
    encoder_named,
    sizes_of,
)
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import Refusal, each, tag, words

MODIFY = ("InvalidArgVal", "ConfigModify")
CODECS: dict[str, Codec] = {one: one for one in get_args(Codec)}
MOST_TEXT = 64
TEXT_TOKEN = "text"


def set_encoder(served: Served, asked: Element) -> str:
    """Set one encoder; what it does not take is refused whole, and nothing of it is set."""
    told = child(asked, "Configuration")
    before = encoder_named(served, attribute(told, "token"))
    one = served.stand_in
    if "encoder" in one.refuses:
        raise Refusal("the configuration cannot be set", *MODIFY)
    width_px, height_px = whole(told, "Resolution", "Width"), whole(told, "Resolution", "Height")
    fps = number(told, "RateControl", "FrameRateLimit") or before.stream.fps
    cap_kbps = number(told, "RateControl", "BitrateLimit")
    codec = _codec(told, before)
    frames = as_number(attribute(told, "GovLength")) or number(told, "H264", "GovLength") or before.key_frames
    quality = number(told, "Quality")
    _require((width_px, height_px) in sizes_of(served, before), "no such resolution")
    _require(1 <= fps <= FPS_MOST, "no such frame rate")
    _require(not cap_kbps or CAP_KBPS[0] <= cap_kbps <= CAP_KBPS[1], "no such bit rate")
    _require(1 <= frames <= KEY_FRAMES_MOST, "no such interval between key frames")
    _require(quality is None or 1 <= quality <= 10, "no such quality")
    wanted = before.stream._replace(
        codec=codec, width_px=width_px, height_px=height_px, fps=fps, key_frame_s=round(frames / fps, 4)
    )
    cap_mbps = cap_kbps / KBPS_A_MBPS if cap_kbps else None
    constant = attribute(child(told, "RateControl"), "ConstantBitRate").lower()
    is_constant = constant in ("true", "1") if constant else before.is_constant
    streams, qualities = list(one.streams), list(one.qualities)
    streams[before.at] = stream_as_set(one, before.at, wanted, cap_mbps, is_constant)
    qualities[before.at] = before.quality if quality is None else quality
    caps = (
        {"cap_mbps": cap_mbps, "holds_rate": is_constant}
        if before.at == 0
        else {"sub_cap_mbps": cap_mbps or 0.0, "sub_holds_rate": is_constant}
    )
    served.change(streams=tuple(streams), qualities=tuple(qualities), **caps)
    return ""


def _codec(told: Element | None, before: Encoder) -> Codec:
    written = codec_of(text(told, "Encoding"))
    if before.stream.codec == "h265" and written == "h264" and child(told, "H264") is not None:
        # The first generation has no word for H.265: what it was told it hands back.
        return "h265"
    found = CODECS.get(written)
    if found is None:
        raise Refusal(f"no such codec: {written}", *MODIFY)
    return found


def _require(is_taken: bool, why: str) -> None:
    if not is_taken:
        raise Refusal(why, *MODIFY)


# ---- a text in the picture ------------------------------------------------------------------------------------------


def texts(prefix: str, served: Served, asked: Element) -> str:
    shown = served.stand_in.shown_text
    if not shown:
        return ""
    inside = words("tt:VideoSourceConfigurationToken", f"{SOURCE}-settings") + words("tt:Type", "Text")
    inside += tag("tt:Position", words("tt:Type", "LowerLeft"))
    inside += tag("tt:TextString", each("tt", {"Type": "Plain", "PlainText": shown}))
    return tag(f"{prefix}:OSDs", inside, token=TEXT_TOKEN)


def text_options(prefix: str, served: Served, asked: Element) -> str:
    inside = tag("tt:MaximumNumberOfOSDs", Total=1, PlainText=1)
    inside += words("tt:Type", "Text")
    inside += "".join(words("tt:PositionOption", one) for one in ("UpperLeft", "LowerLeft"))
    inside += tag("tt:TextOption", words("tt:Type", "Plain"))
    return tag(f"{prefix}:OSDOptions", inside)


def set_text(prefix: str, served: Served, asked: Element) -> str:
    _take_text(served, asked)
    return ""


def create_text(prefix: str, served: Served, asked: Element) -> str:
    if served.stand_in.shown_text:
        raise Refusal("it shows a text already", "Action", "MaxOSDs", code="Receiver")
    _take_text(served, asked)
    return words(f"{prefix}:OSDToken", TEXT_TOKEN)


def delete_text(prefix: str, served: Served, asked: Element) -> str:
    if not served.stand_in.shown_text or text(asked, "OSDToken") != TEXT_TOKEN:
        raise Refusal("there is no such text", "InvalidArgVal", "NoConfig")
    served.change(shown_text="")
    return ""


def _take_text(served: Served, asked: Element) -> None:
    told = child(asked, "OSD")
    shown = text(told, "TextString", "PlainText")
    if text(told, "Type") != "Text" or not shown or len(shown) > MOST_TEXT:
        raise Refusal("no text that it shows", *MODIFY)
    served.change(shown_text=shown)


def answers_for(prefix: str) -> dict[str, Answering]:
    """What is set under a prefix of the two generations."""
    return {
        "SetVideoEncoderConfiguration": set_encoder,
        "GetOSDs": partial(texts, prefix),
        "GetOSDOptions": partial(text_options, prefix),
        "SetOSD": partial(set_text, prefix),
        "CreateOSD": partial(create_text, prefix),
        "DeleteOSD": partial(delete_text, prefix),
    }
