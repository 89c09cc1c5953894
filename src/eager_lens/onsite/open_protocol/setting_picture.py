"""Setting what a camera sends and shows: its encoders, a text in its picture, its motion rules."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast
from xml.etree.ElementTree import Element
from xml.sax.saxutils import escape, quoteattr

from eager_lens.onsite.open_protocol.conversation import NotTold
from eager_lens.onsite.open_protocol.editing import as_sent, decimal, drop, put
from eager_lens.onsite.open_protocol.media_service import KBPS_A_MBPS, Generation, text_of
from eager_lens.onsite.open_protocol.names import ANALYTICS, MEDIA, MEDIA2
from eager_lens.onsite.open_protocol.opened import OpenedDevice
from eager_lens.onsite.open_protocol.xml import attribute, child, children, text

MAIN_PROFILE = "Main"
_SERVICE: dict[Generation, tuple[str, str]] = {"media 1": (MEDIA, "trt"), "media 2": (MEDIA2, "tr2")}
_WRITTEN = {"h264": "H264", "h265": "H265", "mjpeg": "JPEG", "mpeg4": "MPEG4"}


def _service(values: Mapping[str, Any]) -> tuple[str, str, Generation]:
    generation = cast(Generation, values["generation"])
    return (*_SERVICE[generation], generation)


async def set_stream(device: OpenedDevice, values: Mapping[str, Any]) -> None:
    """Set an encoder. ``values``: encoder (its token), generation, codec, width_px, height_px, fps, key_frames, cap_mbps (0: no
    maximum), constant, quality; of the last four what is None stays."""
    service, prefix, generation = _service(values)
    token = f"<{prefix}:ConfigurationToken>{escape(values['encoder'])}</{prefix}:ConfigurationToken>"
    one = await _encoder(device, service, prefix, generation, token)
    put(one, ("Resolution", "Width"), str(values["width_px"]))
    put(one, ("Resolution", "Height"), str(values["height_px"]))
    if values["quality"] is not None:
        put(one, ("Quality",), decimal(values["quality"]))
    _set_control(one, values, generation)
    _set_codec(one, values, generation)
    inside = as_sent(one, service, "Configuration")
    # It is to last over a restart.
    inside += "<trt:ForcePersistence>true</trt:ForcePersistence>" if generation == "media 1" else ""
    await device.ask(service, f"{prefix}:SetVideoEncoderConfiguration", inside)


async def _encoder(device: OpenedDevice, service: str, prefix: str, generation: Generation, token: str) -> Element:
    """An encoder as the device has it now."""
    if generation == "media 1":
        answer = await device.ask(service, "trt:GetVideoEncoderConfiguration", token)
        found = child(answer, "Configuration")
    else:
        answer = await device.ask(service, "tr2:GetVideoEncoderConfigurations", token)
        found = next(iter(children(answer, "Configurations")), None)
    if found is None:
        raise NotTold("it does not tell how its encoder is set")
    return found


def _set_control(one: Element, values: Mapping[str, Any], generation: Generation) -> None:
    after = ("Resolution",) if generation == "media 2" else ("Quality",)
    fps = values["fps"] if generation == "media 2" else max(1, round(values["fps"]))
    put(one, ("RateControl", "FrameRateLimit"), decimal(fps), after)
    control = child(one, "RateControl")
    assert control is not None
    if generation == "media 1" and child(control, "EncodingInterval") is None:
        put(control, ("EncodingInterval",), "1")
    cap_mbps = values["cap_mbps"]
    if cap_mbps is not None or child(control, "BitrateLimit") is None:
        # Zero is how devices write that there is no maximum.
        put(control, ("BitrateLimit",), str(round((cap_mbps or 0.0) * KBPS_A_MBPS)))
    if generation == "media 2" and values["constant"] is not None:
        control.set("ConstantBitRate", str(values["constant"]).lower())


def _set_codec(one: Element, values: Mapping[str, Any], generation: Generation) -> None:
    codec, frames = values["codec"], values["key_frames"]
    if generation == "media 2":
        if text(one, "Encoding") != _WRITTEN[codec]:
            put(one, ("Encoding",), _WRITTEN[codec])
            one.attrib.pop("Profile", None)  # profiles of one codec mean nothing to another; it takes its own
            if codec != "mjpeg":
                one.set("Profile", MAIN_PROFILE)
        if frames is not None and codec != "mjpeg":
            one.set("GovLength", str(round(frames)))
        return
    # The first generation has no word for H.265: what it tells as H.264 stays.
    written = "H264" if codec in ("h264", "h265") else _WRITTEN[codec]
    put(one, ("Encoding",), written)
    if written != "H264":
        drop(one, "H264")
        return
    if child(one, "H264") is None:
        put(one, ("H264", "GovLength"), str(round(frames or 1)), ("RateControl", "MPEG4"))
        put(one, ("H264", "H264Profile"), MAIN_PROFILE)
    elif frames is not None:
        put(one, ("H264", "GovLength"), str(round(frames)))


async def set_text(device: OpenedDevice, values: Mapping[str, Any]) -> None:
    """Write a text into its picture, in place of the one that is there.

    Args:
        values: text (empty: none), source (the token of how it takes its picture), generation.
    """
    service, prefix, _ = _service(values)
    token = f"<{prefix}:ConfigurationToken>{escape(values['source'])}</{prefix}:ConfigurationToken>"
    one = text_of(await device.ask(service, f"{prefix}:GetOSDs", token))
    if one is not None and not values["text"]:
        deleted = f"<{prefix}:OSDToken>{escape(attribute(one, 'token'))}</{prefix}:OSDToken>"
        await device.ask(service, f"{prefix}:DeleteOSD", deleted)
        return
    if one is not None:
        put(one, ("TextString", "PlainText"), values["text"])
        await device.ask(service, f"{prefix}:SetOSD", as_sent(one, service, "OSD"))
        return
    inside = (
        f"<tt:VideoSourceConfigurationToken>{escape(values['source'])}</tt:VideoSourceConfigurationToken><tt:Type>Text</tt:Type>"
        "<tt:Position><tt:Type>LowerLeft</tt:Type></tt:Position><tt:TextString><tt:Type>Plain</tt:Type>"
        f"<tt:PlainText>{escape(values['text'])}</tt:PlainText></tt:TextString>"
    )
    await device.ask(service, f"{prefix}:CreateOSD", f'<{prefix}:OSD token="">{inside}</{prefix}:OSD>')


# ---- motion ---------------------------------------------------------------------------------------------------------

_CELLS = ("MinCount", "AlarmOnDelay", "AlarmOffDelay", "ActiveCells")


def _token(values: Mapping[str, Any]) -> str:
    return f"<tan:ConfigurationToken>{escape(values['analytics'])}</tan:ConfigurationToken>"


def _item(name: str, value: object) -> str:
    return f"<tt:SimpleItem Name={quoteattr(name)} Value={quoteattr(str(value))}/>"


def _rule(name: str, kind: str, inside: str) -> str:
    return f'<tan:Rule Name={quoteattr(name)} Type="tt:{kind}"><tt:Parameters>{inside}</tt:Parameters></tan:Rule>'


async def set_cells(device: OpenedDevice, values: Mapping[str, Any], new_name: str) -> None:
    """Set the rule on cells of the picture, or make it. ``values``: analytics (a token), rule (its name; empty: there is none
    yet), and the rule's own by their names."""
    inside = "".join(_item(name, values[name]) for name in _CELLS if name in values)
    await _set_rule(device, values, new_name, "CellMotionDetector", inside)


async def set_line(device: OpenedDevice, values: Mapping[str, Any], new_name: str) -> None:
    """Set the line that somebody crosses, or make it. ``values``: analytics, rule, points (``x,y x,y``, each from -1 to 1, up and
    to the right), direction."""
    corners = (point.partition(",") for point in values["points"].split())
    points = "".join(f"<tt:Point x={quoteattr(x)} y={quoteattr(y)}/>" for x, _, y in corners)
    segments = f'<tt:ElementItem Name="Segments"><tt:Polyline>{points}</tt:Polyline></tt:ElementItem>'
    await _set_rule(device, values, new_name, "LineDetector", _item("Direction", values["direction"]) + segments)


async def _set_rule(device: OpenedDevice, values: Mapping[str, Any], new_name: str, kind: str, inside: str) -> None:
    question = "ModifyRules" if values["rule"] else "CreateRules"
    rule = _rule(values["rule"] or new_name, kind, inside)
    await device.ask(ANALYTICS, f"tan:{question}", _token(values) + rule)


async def set_sensitivity(device: OpenedDevice, values: Mapping[str, Any]) -> None:
    """Set how sensitive its detector is; its other settings are sent back as they are. ``values``: analytics, name, sensitivity."""
    answer = await device.ask(ANALYTICS, "tan:GetAnalyticsModules", _token(values))
    found = next((one for one in children(answer, "AnalyticsModule") if attribute(one, "Name") == values["name"]), None)
    parameters = child(found, "Parameters")
    if found is None or parameters is None:
        raise NotTold("its detector is not there any more")
    for item in children(parameters, "SimpleItem"):
        if attribute(item, "Name") == "Sensitivity":
            item.set("Value", str(values["sensitivity"]))
    # The prefix of its type is declared in what it sent, and not in what is sent back: the standard's own is always "tt" here.
    kind = attribute(found, "Type").rpartition(":")[2]
    inside = as_sent(parameters, _schema_of(parameters), "Parameters")
    name = quoteattr(attribute(found, "Name"))
    module = f'<tan:AnalyticsModule Name={name} Type="tt:{kind}">{inside}</tan:AnalyticsModule>'
    await device.ask(ANALYTICS, "tan:ModifyAnalyticsModules", _token(values) + module)


def _schema_of(one: Element) -> str:
    return one.tag.partition("}")[0].removeprefix("{")
