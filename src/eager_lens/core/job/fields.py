"""The fields of a device as people see and type them: heading, unit, text out, text in.

One description serves the tables of the window, pasting, import and export, so a column means the same everywhere.
Text typed by a person may carry its unit and a decimal comma; it becomes the value that the job keeps, or a
``RefusedInput`` says what is wrong with it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any, Literal, get_args

from eager_lens.core.addressing.plan import ROLES
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import (
    Attachment,
    AuxPower,
    Camera,
    Job,
    NetworkDevice,
    Registration,
    Thin,
    WantedPurpose,
)
from eager_lens.core.job.wiring import kinds_of
from eager_lens.core.reference.device_kinds import RadioEnd
from eager_lens.core.reference.streams import CODECS, QUALITIES, stream_assumptions
from eager_lens.core.sizing.control import CONTROL_WORDS
from eager_lens.core.sizing.drives import LEVEL_WORDS
from eager_lens.core.units import LengthView, figure

Align = Literal["left", "right"]


@dataclass(frozen=True)
class DeviceField:
    """One column.

    Attributes:
        id: its name in code; ``heading`` and ``unit`` as shown.
        show: the text of a device's value.
        parse: the job's field values for a text typed by a person; the old device is given for values in two parts.
        choices: the texts to choose from, where there is a list.
        aliases: other headings under which it is found in people's lists, in lower case.
        units: other units a list may use, as factors to ``unit``.
    """

    id: str
    heading: str
    show: Callable[[Any, Job], str]
    parse: Callable[[str, Any, Job], dict[str, Any]]
    unit: str = ""
    align: Align = "left"
    choices: Callable[[Job], Sequence[str]] | None = None
    aliases: tuple[str, ...] = ()
    units: dict[str, float] = field(default_factory=dict)

    @property
    def heading_with_unit(self) -> str:
        """The heading as written to files: ``Rate, measured (Mb/s)``."""
        return f"{self.heading} ({self.unit})" if self.unit else self.heading


_NUMBER = re.compile(r"([+-]?)(\d[\d\s\u2009\u00a0']*)?(?:([.,])(\d*))?(?:[eE]([+-]?\d{1,3}))?", re.ASCII)


def number_from(text: str, unit: str = "") -> float:
    """A number as people write it: ``12``, ``0,5``, ``1 296.5``, with or without its unit behind it.

    Raises:
        ValueError: when it is no number, or when a comma could set apart thousands as well as decimals.
    """
    bare = text.strip()
    if unit and bare.lower().endswith(unit.lower()):
        bare = bare[: -len(unit)].strip()
    match = _NUMBER.fullmatch(bare)
    if not match or not (match[2] or match[4]):
        raise ValueError(f"{text.strip()!r} is no number")
    sign, whole, mark, decimals, exponent = match.groups()
    if mark == "," and whole and len(decimals or "") == 3 and whole.lstrip("0"):
        raise ValueError(f"{text.strip()!r} can be read in two ways; write it without a comma, or with a point")
    digits = re.sub(r"[^\d]", "", whole or "0")
    return float(f"{sign}{digits}.{decimals or 0}e{exponent or 0}")


def _show_text(name: str) -> Callable[[Any, Job], str]:
    return lambda device, job: str(getattr(device, name))


def _show_number(name: str) -> Callable[[Any, Job], str]:
    def show(device: Any, job: Job) -> str:
        value = getattr(device, name)
        return "" if value is None else figure(value, 6)

    return show


def _text(id: str, heading: str, **more: Any) -> DeviceField:
    return DeviceField(id, heading, _show_text(id), lambda text, device, job: {id: text.strip()}, **more)


def _number(id: str, heading: str, unit: str, empty: Any = ..., **more: Any) -> DeviceField:
    def parse(text: str, device: Any, job: Job) -> dict[str, Any]:
        if not text.strip() and empty is not ...:
            return {id: empty}
        try:
            value = number_from(text, unit)
        except ValueError as error:
            raise RefusedInput(heading, f"{error}; wanted is a number of {unit}" if unit else str(error)) from None
        return {id: value}

    return DeviceField(id, heading, _show_number(id), parse, unit=unit, align="right", **more)


def _choice(id: str, heading: str, labels: Callable[[Job], dict[str, str]], **more: Any) -> DeviceField:
    """A field that holds a key and shows a label; both, and a label's beginning, are understood when typed."""
    extra: dict[str, str] = more.pop("spellings", {})

    def show(device: Any, job: Job) -> str:
        value = getattr(device, id)
        return labels(job).get(value, f"{value} (missing)" if value else "")

    def parse(text: str, device: Any, job: Job) -> dict[str, Any]:
        return {id: _chosen(text, labels(job), extra, heading)}

    return DeviceField(id, heading, show, parse, choices=lambda job: list(labels(job).values()), **more)


def _chosen(text: str, labels: dict[str, str], spellings: dict[str, str], heading: str) -> str:
    wanted = _plain(text)
    if not wanted and "" in labels:
        return ""
    for key, label in labels.items():
        if wanted in (_plain(key), _plain(label)):
            return key
    if wanted in spellings:
        return spellings[wanted]
    begins = [key for key, label in labels.items() if wanted and _plain(label).startswith(wanted)]
    if len(begins) == 1:
        return begins[0]
    known = ", ".join(label for label in list(labels.values())[:12] if label) or "none yet"
    raise RefusedInput(heading, f"{text.strip()!r} is not in the list; allowed are {known}")


@lru_cache(maxsize=4096)
def _plain(text: str) -> str:
    return re.sub(r"[\s.\-_]", "", text).casefold()


_PICTURE = re.compile(r"(\d{2,5}) *(?:[x×*]|by) *(\d{2,5}) *(?:px)?", re.ASCII | re.IGNORECASE)
_BY_HEIGHT = {"720p": (1280, 720), "1080p": (1920, 1080), "1440p": (2560, 1440), "2160p": (3840, 2160)}


def _parse_picture(text: str, device: Any, job: Job) -> dict[str, Any]:
    short = text.strip().lower()
    if short in _BY_HEIGHT:
        width, height = _BY_HEIGHT[short]
    elif match := _PICTURE.fullmatch(text.strip()):
        width, height = int(match[1]), int(match[2])
    else:
        raise RefusedInput(
            "Picture", f"{text.strip()!r} is no picture size; write width × height in px, as in 1920×1080"
        )
    return {"width_px": width, "height_px": height}


PICTURES = ("640×360", "1280×720", "1920×1080", "2304×1296", "2560×1440", "2688×1520", "3072×2048", "3840×2160")


def _weeks(job: Job) -> dict[str, str]:
    return {"": "", **{week.id: week.name for week in job.weeks}}


def _subnets(job: Job) -> dict[str, str]:
    return {"": "", **{subnet.id: subnet.name for subnet in job.subnets}}


def _show_recorder(camera: Camera, job: Job) -> str:
    names = {recorder.id: recorder.name for recorder in job.recorders}
    return ", ".join(names.get(place.recorder, f"{place.recorder} (missing)") for place in camera.registered)


def _show_channel(camera: Camera, job: Job) -> str:
    return ", ".join(str(place.channel) for place in camera.registered)


def _parse_recorder(text: str, camera: Camera, job: Job) -> dict[str, Any]:
    """Recorders by name, apart by commas; channels are kept where there were some, else left to be numbered."""
    labels = {recorder.id: recorder.name for recorder in job.recorders}
    old = {place.recorder: place.channel for place in camera.registered}
    ids = [_chosen(part, labels, {}, "Recorder") for part in text.split(",") if part.strip()]
    held = {place.channel for cam in job.cameras for place in cam.registered if place.recorder in ids}
    free = next(number for number in range(1, len(held) + 2) if number not in held)
    return {"registered": tuple(Registration(recorder=i, channel=old.get(i, free)) for i in ids)}


def _parse_channel(text: str, camera: Camera, job: Job) -> dict[str, Any]:
    parts = [part.strip() for part in text.split(",") if part.strip()]
    if len(parts) != len(camera.registered):
        raise RefusedInput(
            "Channel", f"{len(camera.registered)} channels are wanted, one for each recorder of the camera"
        )
    try:
        numbers = [int(part) for part in parts]
    except ValueError:
        raise RefusedInput("Channel", f"{text.strip()!r} is no channel number") from None
    return {
        "registered": tuple(
            place.model_copy(update={"channel": _in_range(number)})
            for place, number in zip(camera.registered, numbers, strict=True)
        )
    }


def _in_range(channel: int) -> int:
    if not 1 <= channel <= 1024:
        raise RefusedInput("Channel", f"{channel} was given; allowed is 1 to 1024")
    return channel


_CODEC_SPELLINGS = {"avc": "h264", "hevc": "h265", "264": "h264", "265": "h265", "motionjpeg": "mjpeg"}

ADDRESS_WAYS: dict[str, str] = {
    "planned": "planned by hand",
    "frozen": "leased, then frozen",
    "reserved": "reserved in the router",
    "recorder": "the recorder",
}

IDENTITY: tuple[DeviceField, ...] = (
    _text("name", "Name", aliases=("camera", "camera name", "title", "label", "device", "device name", "description")),
    _text("place", "Place", aliases=("location", "room", "area", "zone", "building", "group")),
    _text("make", "Make", aliases=("manufacturer", "brand", "vendor", "maker", "model")),
    _choice("subnet", "Subnet", _subnets, aliases=("network", "lan", "vlan")),
    _text("address", "Address", aliases=("ip", "ip address", "ipv4", "ip addr", "ip-address")),
    _choice("address_way", "Given by", lambda job: ADDRESS_WAYS, aliases=("address type", "ip assignment", "dhcp")),
    _text("hardware_address", "Hardware address", aliases=("mac", "mac address", "mac-address", "hw address")),
    _text("serial", "Serial", aliases=("serial number", "serial no", "s/n", "sn")),
    _text("firmware", "Firmware", aliases=("firmware version", "software version", "fw")),
    _text("note", "Note", aliases=("notes", "remark", "remarks", "comment", "comments")),
)

_TYPED_RATE = _number(
    "measured_mbps",
    "Rate, measured",
    "Mb/s",
    empty=None,
    aliases=("rate", "bit rate", "bitrate", "measured rate", "mbps", "bandwidth"),
    units={"kb/s": 0.001, "kbps": 0.001, "kbit/s": 0.001, "mb/s": 1, "mbps": 1, "mbit/s": 1},
)


def _parse_measured(text: str, device: Any, job: Job) -> dict[str, Any]:
    """A rate typed in is no longer that of a clip, so the clip's range and name go."""
    own = {"measured_low_mbps": None, "measured_high_mbps": None, "measured_from": ""}
    return {**own, **_TYPED_RATE.parse(text, device, job)}


_MEASURED = replace(_TYPED_RATE, parse=_parse_measured)

STREAM: tuple[DeviceField, ...] = (
    DeviceField(
        "picture",
        "Picture",
        lambda camera, job: f"{camera.width_px}×{camera.height_px}",
        _parse_picture,
        unit="px",
        choices=lambda job: PICTURES,
        aliases=("resolution", "picture size", "image size", "size"),
    ),
    _number(
        "fps", "Frame rate", "fps", aliases=("frames", "framerate", "frames per second", "fps", "images per second")
    ),
    _choice(
        "codec",
        "Codec",
        lambda job: stream_assumptions().codec_label,
        aliases=("compression", "encoding", "video codec", "format"),
        spellings=_CODEC_SPELLINGS,
    ),
    _number(
        "key_frame_s",
        "Key frame every",
        "s",
        aliases=("key frame", "key frame interval", "keyframe", "keyframe interval", "gop", "i-frame interval"),
        units={"ms": 0.001, "s": 1, "sec": 1, "seconds": 1},
    ),
    _choice(
        "quality", "Quality", lambda job: {quality: quality for quality in QUALITIES}, aliases=("picture quality",)
    ),
    _choice("rate_control", "Rate control", lambda job: CONTROL_WORDS, aliases=("bitrate mode", "rate mode")),
    _number("cap_mbps", "Cap", "Mb/s", empty=None, aliases=("max bit rate", "maximum bit rate", "rate cap")),
    _choice(
        "scene",
        "Scene",
        lambda job: {scene.id: scene.label for scene in stream_assumptions().scenes.values()},
        aliases=("view", "scene type"),
    ),
    _MEASURED,
    _number("card_gb", "Memory card", "GB", aliases=("card", "sd card", "card size")),
    _number("card_written_tb", "Card may be written", "TB", aliases=("card endurance", "tbw")),
    _number("small_mbps", "Small stream", "Mb/s", aliases=("sub stream", "substream", "second stream")),
)

THIN_WORDS: dict[str, str] = {thin: thin for thin in get_args(Thin)}

_SECONDS = {"s": 1.0, "sec": 1.0, "seconds": 1.0, "min": 60.0, "minutes": 60.0}


def _typed_events(field: DeviceField) -> DeviceField:
    """Events typed in are no longer those that were measured."""
    return replace(field, parse=lambda text, camera, job: {"events_from": "", **field.parse(text, camera, job)})


RECORDING: tuple[DeviceField, ...] = (
    _choice("week", "Week", _weeks, aliases=("schedule", "recording schedule", "recording")),
    _typed_events(
        _number(
            "events_per_h",
            "Events an hour",
            "an hour",
            aliases=("events", "events per hour", "movements per hour", "events/h"),
            units={"an hour": 1, "per hour": 1, "/h": 1, "per day": 1 / 24, "a day": 1 / 24, "/day": 1 / 24},
        )
    ),
    _typed_events(
        _number("event_s", "Event lasts", "s", aliases=("event length", "event duration", "duration"), units=_SECONDS)
    ),
    _number("pre_s", "Before", "s", aliases=("pre", "pre-event", "seconds before", "pre record"), units=_SECONDS),
    _number("post_s", "After", "s", aliases=("post", "post-event", "seconds after", "post record"), units=_SECONDS),
    _number(
        "inputs_per_h",
        "Inputs an hour",
        "an hour",
        aliases=("inputs", "input events", "inputs per hour"),
        units={"an hour": 1, "per hour": 1, "/h": 1, "per day": 1 / 24, "a day": 1 / 24},
    ),
    _number("input_pre_s", "Before an input", "s", empty=None, aliases=("input before",), units=_SECONDS),
    _number("input_post_s", "After an input", "s", empty=None, aliases=("input after",), units=_SECONDS),
    _choice("between", "Between events", lambda job: THIN_WORDS, aliases=("between", "idle rate")),
    _choice("idle_kept", "In idle hours", lambda job: THIN_WORDS, aliases=("idle", "idle hours")),
)


def _parse_cable(text: str, camera: Camera, job: Job) -> dict[str, Any]:
    """A length in metres, or in feet where the text says so."""
    bare = text.strip().lower()
    if not bare:
        return {"cable_m": None}
    feet = next((mark for mark in ("feet", "ft", "'") if bare.endswith(mark)), None)
    try:
        length = number_from(bare.removesuffix(feet), "") if feet else number_from(bare, "m")
    except ValueError as error:
        raise RefusedInput("Cable", f"{error}; wanted is a length in m, or in ft with that behind it") from None
    return {"cable_m": LengthView.IMPERIAL.to_m(length) if feet else length}


CABLE = DeviceField(
    "cable_m",
    "Cable",
    _show_number("cable_m"),
    _parse_cable,
    unit="m",
    align="right",
    aliases=("cable length", "cable run", "run", "length", "distance"),
    units={"m": 1, "metres": 1, "meters": 1, "ft": 0.3048, "feet": 0.3048},
)

MATERIAL_WORDS: dict[str, str] = {"copper": "solid copper", "cca": "copper-clad aluminium"}


def _outputs(job: Job) -> dict[str, str]:
    return {output: output for output in get_args(AuxPower)}


def _parse_class(text: str, camera: Camera, job: Job) -> dict[str, Any]:
    bare = text.strip().lower()
    if bare in ("", "-", "–", "none", "no"):
        return {"power_class": None}
    try:
        return {"power_class": number_from(bare.removeprefix("class").strip())}
    except ValueError as error:
        raise RefusedInput(
            "Class", f"{error}; wanted is 0 to 8, or none for a camera not powered by its cable"
        ) from None


_YES_SPELLINGS = {
    "y": "yes",
    "true": "yes",
    "1": "yes",
    "x": "yes",
    "outdoor": "yes",
    "n": "no",
    "false": "no",
    "0": "no",
}


def _yes_no(id: str, heading: str, **more: Any) -> DeviceField:
    def parse(text: str, device: Any, job: Job) -> dict[str, Any]:
        return {id: _chosen(text or "no", {"yes": "yes", "no": "no"}, _YES_SPELLINGS, heading) == "yes"}

    def show(device: Any, job: Job) -> str:
        return "yes" if getattr(device, id) else "no"

    return DeviceField(id, heading, show, parse, choices=lambda job: ("yes", "no"), **more)


def _power_class(**more: Any) -> DeviceField:
    def show(device: Any, job: Job) -> str:
        return "none" if device.power_class is None else str(device.power_class)

    return DeviceField("power_class", "Class", show, _parse_class, align="right", **more)


RUN: tuple[DeviceField, ...] = (
    CABLE,
    _number("awg", "Gauge", "AWG", aliases=("awg", "wire gauge", "cable gauge")),
    _choice("cable_material", "Wire", lambda job: MATERIAL_WORDS, aliases=("cable material", "material", "conductor")),
    _yes_no("outdoor", "Outdoors", aliases=("outdoor", "outside")),
    _yes_no("surge_noted", "Surge part", aliases=("surge", "surge protection", "surge arrester", "earthed")),
    _power_class(aliases=("power class", "poe class")),
    _number("power_w", "Draws", "W", aliases=("power", "draw", "watts", "consumption", "power draw")),
    _choice("aux_power", "Lead takes", _outputs, aliases=("voltage", "supply voltage", "lead")),
)

REGISTERED: tuple[DeviceField, ...] = (
    DeviceField(
        "recorder",
        "Recorder",
        _show_recorder,
        _parse_recorder,
        choices=lambda job: [recorder.name for recorder in job.recorders],
        aliases=("nvr", "recorded by", "server"),
    ),
    DeviceField("channel", "Channel", _show_channel, _parse_channel, align="right", aliases=("ch", "channel no")),
    _yes_no("movement_rule", "Rule on", aliases=("motion detection", "movement detection", "motion")),
    _text("event_target", "Events go to", aliases=("event target", "alarm server", "notify")),
    _number("event_port", "Events' port", ""),
)

VIEW: tuple[DeviceField, ...] = (
    _number("sensor_width_mm", "Sensor width", "mm", aliases=("sensor", "imager width")),
    _number("focal_mm", "Focal length", "mm", aliases=("lens", "focal", "lens mm")),
    _number("mount_height_m", "Mounted at", "m", aliases=("height", "mounting height")),
    _number("target_m", "Target at", "m", empty=None, aliases=("target distance", "subject distance")),
    _number("importance", "Importance", "", aliases=("priority", "weight")),
    _number("least_fps", "Least frame rate", "fps", aliases=("minimum fps", "min fps")),
    _choice("purpose", "Wanted", lambda job: {purpose: purpose for purpose in get_args(WantedPurpose)}),
)

CAMERA_FIELDS: tuple[DeviceField, ...] = (*IDENTITY, *RUN, *STREAM, *VIEW, *RECORDING, *REGISTERED)

SOCKETS: tuple[DeviceField, ...] = (
    _number("ports", "Sockets", ""),
    _number("powered_ports", "Powered", ""),
    _number("port_mbps", "Speed", "Mb/s"),
    _number("budget_w", "Budget", "W"),
    _number("port_class", "Gives class", ""),
    _number("own_w", "Takes itself", "W"),
)

RECORDER_FIELDS: tuple[DeviceField, ...] = (
    *IDENTITY,
    *SOCKETS,
    _number("channels", "Channels", ""),
    _choice("attachment", "Cameras on", lambda job: {way: way for way in get_args(Attachment)}),
    _choice("camera_subnet", "Cameras' side", _subnets),
    _text("camera_address", "Address there"),
    _yes_no("takes_events", "Takes events"),
    _number("before_memory_mb", "Memory for before", "MB", empty=None),
    _number("event_port", "Events' port", ""),
    _number("incoming_limit_mbps", "Incoming limit", "Mb/s"),
    _number("outgoing_limit_mbps", "Outgoing limit", "Mb/s"),
    _yes_no("takes_small", "Fetches small streams"),
    _number("largest_megapixels", "Largest picture", "megapixels"),
    DeviceField(
        "codecs",
        "Codecs",
        lambda recorder, job: ", ".join(stream_assumptions().codec_label[codec] for codec in recorder.codecs),
        lambda text, recorder, job: {
            "codecs": tuple(
                codec
                for codec in CODECS
                if codec
                in {
                    _chosen(part, stream_assumptions().codec_label, _CODEC_SPELLINGS, "Codecs")
                    for part in text.split(",")
                    if part.strip()
                }
            )
        },
    ),
    _number("bays", "Bays", ""),
    _number("drives", "Drives", ""),
    _number("drive_tb", "Drive size", "TB"),
    _choice("level", "Array", lambda job: LEVEL_WORDS),
    _number("spares", "Spares", ""),
    DeviceField(
        "reserve_share",
        "Reserve",
        lambda recorder, job: figure(100 * recorder.reserve_share),
        lambda text, recorder, job: {"reserve_share": _percent(text)},
        unit="%",
        align="right",
    ),
    _number("drive_rated_tb_per_year", "Drives rated", "TB a year", aliases=("workload rating",)),
    _number("rebuild_mb_per_s", "Rebuilds at", "MB/s"),
    _number("drive_failures_per_year", "Failures a drive", "a year"),
)


def _kind_labels(job: Job) -> dict[str, str]:
    return {"": "", **{kind.id: kind.label for kind in kinds_of(job).values()}}


def _parse_kind(text: str, device: NetworkDevice, job: Job) -> dict[str, Any]:
    """A kind brings its role, sockets and power; they can be typed over afterwards."""
    chosen = kinds_of(job).get(_chosen(text, _kind_labels(job), {}, "Kind"))
    return {"kind": ""} if chosen is None else chosen.fits()


NETWORK_FIELDS: tuple[DeviceField, ...] = (
    *IDENTITY,
    DeviceField(
        "kind",
        "Size",
        lambda device, job: _kind_labels(job).get(device.kind, f"{device.kind} (not known)"),
        _parse_kind,
        choices=lambda job: list(_kind_labels(job).values()),
    ),
    *SOCKETS,
    _choice("role", "Kind", lambda job: {role: role for role in ROLES if role not in ("recorder", "camera")}),
    _choice("radio_end", "Radio end", lambda job: {end: end for end in get_args(RadioEnd)}),
    _power_class(),
    _number("power_w", "Draws", "W"),
    _number("wan_port", "Internet socket", ""),
    _number("upload_mbps", "Internet line, out", "Mb/s", empty=None),
    _number("shows", "Shows", "pictures"),
    _yes_no("shows_main", "As main streams"),
)


def _percent(text: str) -> float:
    try:
        return number_from(text, "%") / 100
    except ValueError as error:
        raise RefusedInput("Reserve", f"{error}; wanted is a number of %") from None


def field_named(fields: Iterable[DeviceField], field_id: str) -> DeviceField:
    """The field of this id.

    Raises:
        KeyError: when there is none.
    """
    for candidate in fields:
        if candidate.id == field_id:
            return candidate
    raise KeyError(field_id)
