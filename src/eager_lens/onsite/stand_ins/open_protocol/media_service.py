"""Both generations of the media service of a stand-in, and imaging."""

from __future__ import annotations

from xml.etree.ElementTree import Element

from eager_lens.onsite.open_protocol.xml import text
from eager_lens.onsite.stand_ins.open_protocol import media_settings
from eager_lens.onsite.stand_ins.open_protocol.encoders import (
    ANALYTICS_TOKEN,
    CAP_KBPS,
    FPS_MOST,
    KEY_FRAMES_MOST,
    SOURCE,
    Encoder,
    encoder_named,
    encoders,
    sizes_of,
)
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import each, tag, words

NAMES = {"h264": "H264", "h265": "H265", "mjpeg": "JPEG"}


def _encoder(served: Served, asked: Element) -> Encoder:
    return encoder_named(served, text(asked, "ProfileToken") or text(asked, "ConfigurationToken"))


# ---- the first generation -------------------------------------------------------------------------------------------


def profiles1(served: Served, asked: Element) -> str:
    return "".join(_profile1(served, "trt:Profiles", one) for one in encoders(served))


def profile1(served: Served, asked: Element) -> str:
    return _profile1(served, "trt:Profile", _encoder(served, asked))


def _profile1(served: Served, name: str, one: Encoder) -> str:
    source = _source1(served, "tt:VideoSourceConfiguration")
    encoder = _encoder1("tt:VideoEncoderConfiguration", one)
    return tag(
        name,
        words("tt:Name", one.stream.path),
        source,
        encoder,
        _analytics("tt:VideoAnalyticsConfiguration"),
        token=one.token,
        fixed="true",
    )


def _source1(served: Served, name: str) -> str:
    main = served.stand_in.streams[0]
    bounds = tag("tt:Bounds", x=0, y=0, width=main.width_px, height=main.height_px)
    inside = each("tt", {"Name": SOURCE, "UseCount": len(served.stand_in.streams), "SourceToken": SOURCE})
    return tag(name, inside, bounds, token=f"{SOURCE}-settings")


def _encoder1(name: str, one: Encoder) -> str:
    stream = one.stream
    # The first generation counts whole frames a second.
    control = {"FrameRateLimit": round(stream.fps), "EncodingInterval": 1, "BitrateLimit": one.cap_kbps}
    size = tag("tt:Resolution", each("tt", {"Width": stream.width_px, "Height": stream.height_px}))
    # It has no word for H.265 either (IEC 62676-2-32): such a profile stands there as the other, as on devices.
    codec = "JPEG" if stream.codec == "mjpeg" else "H264"
    inside = (
        each("tt", {"Name": stream.path, "UseCount": 1, "Encoding": codec}) + size + words("tt:Quality", one.quality)
    )
    inside += tag("tt:RateControl", each("tt", control))
    if codec == "H264":
        inside += tag("tt:H264", each("tt", {"GovLength": one.key_frames, "H264Profile": "Main"}))
    return tag(
        name, inside, _multicast(), words("tt:SessionTimeout", "PT60S"), token=one.token.replace("profile", "encoder")
    )


def _multicast() -> str:
    address = tag("tt:Address", each("tt", {"Type": "IPv4", "IPv4Address": "0.0.0.0"}))
    return tag("tt:Multicast", address, each("tt", {"Port": 0, "TTL": 1, "AutoStart": False}))


def _analytics(name: str) -> str:
    inside = each("tt", {"Name": ANALYTICS_TOKEN, "UseCount": 1})
    engine = tag("tt:AnalyticsEngineConfiguration")
    return tag(name, inside, engine, tag("tt:RuleEngineConfiguration"), token=ANALYTICS_TOKEN)


def encoder1(served: Served, asked: Element) -> str:
    return _encoder1("trt:Configuration", _encoder(served, asked))


def encoders1(served: Served, asked: Element) -> str:
    return "".join(_encoder1("trt:Configurations", one) for one in encoders(served))


def source1(served: Served, asked: Element) -> str:
    return _source1(served, "trt:Configuration")


def sources_settings1(served: Served, asked: Element) -> str:
    return _source1(served, "trt:Configurations")


def sources1(served: Served, asked: Element) -> str:
    main = served.stand_in.streams[0]
    size = tag("tt:Resolution", each("tt", {"Width": main.width_px, "Height": main.height_px}))
    return tag("trt:VideoSources", words("tt:Framerate", main.fps), size, token=SOURCE)


def options1(served: Served, asked: Element) -> str:
    asks_for_one = text(asked, "ProfileToken") or text(asked, "ConfigurationToken")
    one = _encoder(served, asked) if asks_for_one else encoders(served)[0]
    quality = tag("tt:QualityRange", each("tt", {"Min": 1, "Max": 10}))
    sizes = "".join(
        tag("tt:ResolutionsAvailable", each("tt", {"Width": w, "Height": h})) for w, h in sizes_of(served, one)
    )
    rates = tag("tt:FrameRateRange", each("tt", {"Min": 1, "Max": FPS_MOST}))
    rates += tag("tt:EncodingIntervalRange", each("tt", {"Min": 1, "Max": 1}))
    keys = tag("tt:GovLengthRange", each("tt", {"Min": 1, "Max": KEY_FRAMES_MOST}))
    caps = tag("tt:BitrateRange", each("tt", dict(zip(("Min", "Max"), CAP_KBPS, strict=True))))
    if one.stream.codec == "mjpeg":
        inside = tag("tt:JPEG", sizes, rates)
        extended = tag("tt:Extension", tag("tt:JPEG", sizes, rates, caps))
    else:
        profile = words("tt:H264ProfilesSupported", "Main")
        inside = tag("tt:H264", sizes, keys, rates, profile)
        extended = tag("tt:Extension", tag("tt:H264", sizes, keys, rates, profile, caps))
    return tag("trt:Options", quality, inside, extended)


def stream1(served: Served, asked: Element) -> str:
    url = served.stream_url(_encoder(served, asked).stream.path)
    kept = each("tt", {"Uri": url, "InvalidAfterConnect": False, "InvalidAfterReboot": False, "Timeout": "PT0S"})
    return tag("trt:MediaUri", kept)


# ---- the second generation ------------------------------------------------------------------------------------------


def profiles2(served: Served, asked: Element) -> str:
    token = text(asked, "Token")
    found = [one for one in encoders(served) if token in ("", one.token)]
    return "".join(_profile2(served, one) for one in found)


def _profile2(served: Served, one: Encoder) -> str:
    parts = _source1(served, "tr2:VideoSource") + _encoder2("tr2:VideoEncoder", one) + _analytics("tr2:Analytics")
    return tag(
        "tr2:Profiles",
        words("tr2:Name", one.stream.path),
        tag("tr2:Configurations", parts),
        token=one.token,
        fixed="true",
    )


def _encoder2(name: str, one: Encoder) -> str:
    stream = one.stream
    size = tag("tt:Resolution", each("tt", {"Width": stream.width_px, "Height": stream.height_px}))
    rates = each("tt", {"FrameRateLimit": float(stream.fps), "BitrateLimit": one.cap_kbps})
    control = tag("tt:RateControl", rates, ConstantBitRate=str(one.is_constant).lower())
    inside = each("tt", {"Name": stream.path, "UseCount": 1, "Encoding": NAMES[stream.codec]})
    token = one.token.replace("profile", "encoder")
    return tag(
        name,
        inside,
        size,
        control,
        words("tt:Quality", one.quality),
        token=token,
        GovLength=one.key_frames,
        Profile="Main",
    )


def encoders2(served: Served, asked: Element) -> str:
    token = text(asked, "ConfigurationToken")
    found = [encoder_named(served, token)] if token else encoders(served)
    return "".join(_encoder2("tr2:Configurations", one) for one in found)


def options2(served: Served, asked: Element) -> str:
    asks_for_one = text(asked, "ProfileToken") or text(asked, "ConfigurationToken")
    one = _encoder(served, asked) if asks_for_one else encoders(served)[0]
    found = ""
    rates = " ".join(str(fps) for fps in range(FPS_MOST, 0, -1))
    for name in NAMES.values():
        quality = tag("tt:QualityRange", each("tt", {"Min": 1, "Max": 10}))
        sizes = "".join(
            tag("tt:ResolutionsAvailable", each("tt", {"Width": w, "Height": h})) for w, h in sizes_of(served, one)
        )
        caps = tag("tt:BitrateRange", each("tt", dict(zip(("Min", "Max"), CAP_KBPS, strict=True))))
        keys = {} if name == "JPEG" else {"GovLengthRange": f"1 {KEY_FRAMES_MOST}"}
        attributes = {**keys, "FrameRatesSupported": rates, "ConstantBitRateSupported": "true"}
        found += tag("tr2:Options", words("tt:Encoding", name), quality, sizes, caps, **attributes)
    return found


def stream2(served: Served, asked: Element) -> str:
    return words("tr2:Uri", served.stream_url(_encoder(served, asked).stream.path))


# ---- imaging --------------------------------------------------------------------------------------------------------


def picture_settings(served: Served, asked: Element) -> str:
    exposure = each(
        "tt", {"Mode": "AUTO", "MinExposureTime": 100.0, "MaxExposureTime": served.stand_in.longest_exposure_ms * 1000}
    )
    wide = tag("tt:WideDynamicRange", words("tt:Mode", "OFF"))
    settings = tag("tt:Exposure", exposure) + words("tt:IrCutFilter", "AUTO") + wide
    return tag("timg:ImagingSettings", settings)


MEDIA1: dict[str, Answering] = {
    **media_settings.answers_for("trt"),
    "GetProfiles": profiles1,
    "GetProfile": profile1,
    "GetVideoSources": sources1,
    "GetVideoSourceConfiguration": source1,
    "GetVideoSourceConfigurations": sources_settings1,
    "GetVideoEncoderConfiguration": encoder1,
    "GetVideoEncoderConfigurations": encoders1,
    "GetVideoEncoderConfigurationOptions": options1,
    "GetStreamUri": stream1,
}
MEDIA2_ANSWERS: dict[str, Answering] = {
    **media_settings.answers_for("tr2"),
    "GetProfiles": profiles2,
    "GetVideoEncoderConfigurations": encoders2,
    "GetVideoEncoderConfigurationOptions": options2,
    "GetStreamUri": stream2,
}
IMAGING_ANSWERS: dict[str, Answering] = {"GetImagingSettings": picture_settings}
